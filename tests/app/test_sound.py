"""Playing the plan in the window; with no sound device the stand-in keeps time in silence."""

from __future__ import annotations

import logging
from collections.abc import Callable
from itertools import pairwise

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from dromic.app import sound
from dromic.app.sound import Player, Rendered, Wanted, _Source
from dromic.app.window import MainWindow
from dromic.listening.sound.extent import Extent
from tests.helpers import not_none

Wait = Callable[[], None]


@pytest.fixture(autouse=True)
def _no_device(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sound, "_device", lambda: None)


def test_space_plays_and_stops_and_the_cursor_follows(window: MainWindow, qtbot: QtBot) -> None:
    chart, transport = window.plan_page.chart, window.plan_page.transport
    places: list[float] = []
    transport.player.moved.connect(places.append)
    qtbot.keyClick(chart, Qt.Key.Key_Space)
    assert transport.button.text() == "Stop"
    qtbot.waitUntil(lambda: len(places) > 6, timeout=20_000)
    assert places == sorted(places)
    assert "no sound device" in not_none(window.statusBar()).currentMessage()
    assert chart._playhead is not None
    qtbot.keyClick(chart, Qt.Key.Key_Space)
    assert transport.button.text() == "Play"
    assert chart._playhead is None
    assert not transport.player.playing


def test_a_range_at_another_speed_is_played_to_its_end(window: MainWindow, qtbot: QtBot) -> None:
    chart, transport = window.plan_page.chart, window.plan_page.transport
    window.document.choose(0)
    chart._extend(1)
    transport.speed.setValue(130)
    extent = transport.extent(not_none(window.document.plan))
    assert (extent.start, extent.end) == (0.0, 0.75)
    assert extent.tempo == pytest.approx(100 * 1.3)
    assert "2 notes selected" in transport.state.text()
    with qtbot.waitSignal(transport.player.stopped, timeout=20_000):
        qtbot.mouseClick(transport.button, Qt.MouseButton.LeftButton)


def test_round_and_round_with_a_count_in(window: MainWindow, qtbot: QtBot) -> None:
    chart, transport = window.plan_page.chart, window.plan_page.transport
    window.document.choose(0)
    chart._extend(0)
    transport.loop.setChecked(True)
    transport.count_in.setChecked(True)
    transport.speed.setValue(130)
    player = transport.player
    places: list[float] = []
    player.moved.connect(places.append)
    transport.toggle()
    qtbot.waitUntil(lambda: bool(places), timeout=20_000)
    assert places[0] < 0
    qtbot.waitUntil(lambda: sum(two < one for one, two in pairwise(places)) >= 2, timeout=20_000)
    assert max(places) <= 0.5
    assert player.playing
    transport.toggle()


def test_an_edit_stops_the_sound(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    transport = window.plan_page.transport
    transport.toggle()
    qtbot.waitSignal(transport.player.started, timeout=20_000)
    window.document.start("| 5:5/1 |\n")
    assert not transport.player.playing
    wait()


def test_the_device_is_given_the_lead_once_and_the_body_again(qtbot: QtBot) -> None:
    once = _Source(Rendered(b"ab", b"cdef"), loop=False)
    assert once.readData(100) == b"abcdef"
    assert once.readData(100) == b""
    looped = _Source(Rendered(b"ab", b"cdef"), loop=True)
    assert looped.readData(4) + looped.readData(7) == b"abcdefcdefc"


def test_a_defect_in_rendering_is_told(window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(*_args: object) -> None:
        raise ValueError("no sound")

    monkeypatch.setattr(sound, "render", broken)
    monkeypatch.setattr(logging.getLogger("dromic.app.jobs"), "exception", lambda *_a: None)
    player = Player()
    told: list[str] = []
    player.message.connect(told.append)
    player.play(Wanted(not_none(window.document.plan), Extent(0.0, 1.0, 120.0), loop=False))
    qtbot.waitUntil(lambda: bool(told), timeout=10_000)
    assert "could not be sounded: this failed (ValueError: no sound)" in told[0]
    assert not player.playing
    player.close()
