"""Drilling a range: the ladder in the drill bar, and the range as a riff of its own."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from PyQt6.QtCore import QPoint, Qt
from pytestqt.qtbot import QtBot

from dromic.app import sound
from dromic.app.chart.painting import GUTTER
from dromic.app.window import MainWindow
from dromic.planner.locking import differing
from dromic.practice.ladder import Range
from tests.helpers import not_none

LEFT = Qt.MouseButton.LeftButton
Wait = Callable[[], None]


@pytest.fixture(autouse=True)
def _no_device(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sound, "_device", lambda: None)


def drag(window: MainWindow, qtbot: QtBot, first: int, last: int) -> None:
    """Drag the mouse over the string field from one note to another."""
    chart = window.plan_page.chart
    layout = chart.chart_layout
    chart.set_choice(first)
    y = round(not_none(layout).string_y(3))
    at = [
        QPoint(round(not_none(layout).columns[step].plate_x - chart._scrolled + GUTTER), y)
        for step in (first, last)
    ]
    port = chart.viewport()
    qtbot.mousePress(port, LEFT, pos=at[0])
    qtbot.mouseMove(port, (at[0] + at[1]) / 2)
    qtbot.mouseMove(port, at[1])
    qtbot.mouseRelease(port, LEFT, pos=at[1])


def test_a_dragged_range_is_climbed_rung_by_rung(window: MainWindow, qtbot: QtBot) -> None:
    page = window.plan_page
    drag(window, qtbot, 2, 3)
    assert page.chart.selection == (2, 3)
    qtbot.keyClick(page.chart, Qt.Key.Key_D)
    bar = page.drill
    assert bar.isVisible()
    assert bar.range == Range(2, 3)
    assert "2 notes, ceiling" in bar.figures.text()
    assert "stop at pain" in bar.figures.text()
    for box, value in ((bar.start_at, 390), (bar.goal, 400), (bar.step, 10), (bar.rounds, 1)):
        box.setValue(value)
    assert bar.rungs.text() == "390 · 400"
    told: list[str] = []
    bar.message.connect(told.append)
    tempi: list[float] = []
    page.transport.player.started.connect(
        lambda: tempi.append(not_none(page.transport.player._wanted).extent.tempo)
    )
    qtbot.mouseClick(bar.button, LEFT)
    assert "rung 1 of 2" in bar.rungs.text()
    assert not bar.goal.isEnabled()
    qtbot.waitUntil(lambda: bool(told), timeout=30_000)
    assert tempi == [390.0, 400.0]
    assert told[0].startswith("Climbed to 400")
    assert not page.transport.player.playing
    assert bar.button.text() == "Start"


def test_a_rung_down_and_up_and_stopping(window: MainWindow, qtbot: QtBot) -> None:
    page, bar = window.plan_page, window.plan_page.drill
    qtbot.mouseClick(page.transport.drill, LEFT)
    assert bar.range is not None
    assert bar.range.first <= not_none(window.document.chosen) <= bar.range.last
    bar.rounds.setValue(50)
    qtbot.mouseClick(bar.button, LEFT)
    assert not bar.down.isEnabled()
    qtbot.mouseClick(bar.up, LEFT)
    assert "rung 2 of" in bar.rungs.text()
    qtbot.mouseClick(bar.down, LEFT)
    assert "rung 1 of" in bar.rungs.text()
    qtbot.keyClick(page.chart, Qt.Key.Key_Space)
    assert not bar.climbing
    assert not page.transport.player.playing
    qtbot.mouseClick(bar.close_button, LEFT)
    assert not bar.isVisible()


def test_a_ladder_that_leads_nowhere_is_told_in_place(window: MainWindow, qtbot: QtBot) -> None:
    bar = window.plan_page.drill
    qtbot.keyClick(window, Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier)
    bar.start_at.setValue(300)
    bar.goal.setValue(100)
    assert "no ladder leads from 300 up to 100" in bar.rungs.text()
    qtbot.mouseClick(bar.button, LEFT)
    assert "no ladder" in not_none(window.statusBar()).currentMessage()
    assert not window.plan_page.transport.player.playing


def test_a_range_becomes_a_riff_of_its_own(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    page = window.plan_page
    old = window.document.plan
    window.document.choose(4)
    page.chart._extend(9)
    qtbot.keyClick(page.chart, Qt.Key.Key_D)
    qtbot.mouseClick(page.drill.own, LEFT)
    wait()
    plan = window.document.plan
    assert window.document.changed
    assert window.document.plan_settings.loop
    assert not page.drill.isVisible()
    assert not_none(plan).riff.title == "Kiln Stairs: bar 1 beat 2 & to bar 1 beat 4 &"
    assert [(one.notes, one.stroke) for one in not_none(plan).states] == [
        (one.notes, one.stroke) for one in not_none(old).states[4:10]
    ]
    assert differing(not_none(plan), not_none(plan)) == ()
    window.document.undo()
    assert window.document.text == ""
