"""What is kept of the chart's pictures looks like what would be drawn afresh."""

from __future__ import annotations

from collections.abc import Callable
from random import Random

import numpy as np
import pytest
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QImage, QPainter
from pytestqt.qtbot import QtBot

from dromic.app.chart import tiles
from dromic.app.chart.lane import Lane
from dromic.app.chart.lanes import LANES
from dromic.app.chart.layout import LaneSpace
from dromic.app.chart.painting import LaneScene
from dromic.app.chart.tiles import Tiles
from dromic.app.chart.view import ChartView
from dromic.app.riff.paint import BoardPictures
from dromic.app.window import MainWindow
from dromic.planner.task.state import Loads
from tests.app.conftest import planned
from tests.checks.promise_riffs import edited
from tests.helpers import not_none

# Where a picture begins may move the edge of a line by less than can be seen: 6 of 255 was met, where an old
# picture differs by more than 100.
ROUNDING = 8
START = "tempo: 120\nmeter: 8/16\n[A] | 5:5/16 5:7 4:5.h 4:7 (4:5 3:5) r 6:0.m 6:3 | x2\n"


def picture(chart: ChartView, kept: tuple[Tiles, ...]) -> QImage:
    """The lanes of the chart from its tiles."""
    layout = not_none(chart.chart_layout)
    image = QImage(round(layout.width), 600, QImage.Format.Format_ARGB32)
    image.fill(QColor("white"))
    painter = QPainter(image)
    for some in kept:
        some.paint(painter, layout, chart._theme, 0.0, layout.width, 1.0)
    painter.end()
    return image


def kept_and_fresh(chart: ChartView) -> tuple[QImage, QImage]:
    """From the tiles that the chart has, and from new ones."""
    fresh = Tiles(), Tiles(exact_loads=True)
    return picture(chart, chart._tiles), picture(chart, fresh)


def difference(one: QImage, two: QImage) -> int:
    """The largest difference of any colour of any pixel."""
    assert one.size() == two.size()
    parts = []
    for image in (one, two):
        bits = not_none(image.constBits()).asstring(image.sizeInBytes())
        parts.append(np.frombuffer(bits, dtype=np.uint8).astype(np.int64))
    return int(np.abs(parts[0] - parts[1]).max())


def draw_ahead(chart: ChartView) -> None:
    """Let the chart work out what its tiles show, as it does while nothing else is to be done."""
    layout = not_none(chart.chart_layout)
    for some in chart._tiles:
        for _ in range(200):
            if not some.draw_ahead(layout, chart._theme, 0.0, layout.width, 1.0):
                break


@pytest.mark.parametrize("seed", range(6))
def test_after_any_edit_kept_pictures_are_those_drawn_afresh(window: MainWindow, qtbot: QtBot, seed: int) -> None:
    chance, text, chart = Random(seed), START, window.plan_page.chart
    window.document.start(text)
    planned(window, qtbot)
    for _ in range(5):
        if chart.chart_layout is None:
            break
        kept, fresh = kept_and_fresh(chart)
        assert difference(kept, fresh) <= ROUNDING, text
        draw_ahead(chart)
        if chance.random() < 0.4:
            window.plan_page.plan_settings.tempo.setValue(chance.choice((80, 150, 240)))
        else:
            text = edited(text, chance)
            window.document.set_text(text)
        planned(window, qtbot)


def planted_lane(words: Callable[[LaneScene], str], *, exact_loads: bool) -> Lane:
    """A lane that shows something that no other does."""

    def paint(scene: LaneScene) -> None:
        scene.painter.setPen(QColor("black"))
        scene.painter.drawText(QPointF(scene.part.left + 10, 40), words(scene))

    return Lane(LaneSpace("planted"), "For a test", paint, lambda *_: "", exact_loads=exact_loads)


def largest(scene: LaneScene) -> str:
    return f"{max(column.loads.largest for column in scene.part.columns):.3f}"


def pitches(scene: LaneScene) -> str:
    return " ".join(str(note.pitch) for column in scene.part.columns for note in column.event.notes)


@pytest.mark.parametrize(("words", "exact_loads"), [(largest, True), (pitches, False)])
def test_a_lane_that_shows_something_new_keeps_no_old_picture(
    window: MainWindow,
    qtbot: QtBot,
    monkeypatch: pytest.MonkeyPatch,
    words: Callable[[LaneScene], str],
    exact_loads: bool,
) -> None:
    monkeypatch.setattr(tiles, "LANES", (*LANES, planted_lane(words, exact_loads=exact_loads)))
    chart = window.plan_page.chart
    window.document.start(START)
    planned(window, qtbot)
    chart._tiles = Tiles(), Tiles(exact_loads=True)
    picture(chart, chart._tiles)
    draw_ahead(chart)
    before = picture(chart, chart._tiles)
    if exact_loads:
        chart.set_tempo(150.0)
    else:
        window.document.set_text(START.replace("5:5/16", "5:4/16"))
        planned(window, qtbot)
    kept, fresh = kept_and_fresh(chart)
    assert difference(kept, fresh) <= ROUNDING
    assert difference(kept, before) > 100


def test_a_lane_can_reach_nothing_but_its_part(window: MainWindow) -> None:
    part = not_none(window.plan_page.chart.chart_layout).part(0.0, 400.0)
    assert not {"plan", "measures", "largest_load"} & set(dir(part))
    assert {column.event.loads for column in part.columns} == {Loads()}
    assert all(column.event.offers is None for column in part.columns)


@pytest.mark.parametrize("seed", range(3))
def test_after_any_edit_kept_bars_of_the_board_are_those_drawn_afresh(
    window: MainWindow, qtbot: QtBot, seed: int
) -> None:
    chance, text, board = Random(seed), START, window.riff_page.board
    window.document.start(text)
    window.show_stage(0)
    planned(window, qtbot)
    for _ in range(6):
        port = not_none(board.viewport())
        kept = port.grab().toImage()
        board._pictures = BoardPictures()
        assert kept == port.grab().toImage(), text
        if chance.random() < 0.2:
            window.toggle_theme()
        else:
            text = edited(text, chance)
            window.document.set_text(text)
        planned(window, qtbot)
