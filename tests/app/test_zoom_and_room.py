"""From one note to two hundred bars, and from a large window to a small one: what shows can be read."""

from __future__ import annotations

from itertools import pairwise

import pytest
from benchmarks.riffs import wandering_lick
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot

from dromic.app.chart.frame import Detail
from dromic.app.chart.lanes import chart_layout
from dromic.app.chart.painting import GUTTER
from dromic.app.chart.part import FINGER_ROOM, FRET_ROOM, PLATE_ROOM, SIGN_ROOM
from dromic.app.chart.seen_whole import seen_whole
from dromic.app.riff.key_guide import GUIDE, Moment
from dromic.app.riff.neck_entry import NeckGeometry
from dromic.app.shell.hints import HINTS
from dromic.app.stages import TITLES
from dromic.app.window import MainWindow
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.instrument.presets import instrument_named
from dromic.music.riff import Mark, Place
from tests.app.conftest import plan_now
from tests.helpers import not_none, plan

GRACED = "| 3:5.g 3:7/8 3:5 2:5.g 2:8/16 2:5 3:7 3:5 4:7/8 5:7.> 5:5 6:8 |"


@given(st.floats(0.5, 800))
@settings(max_examples=40)
def test_no_plate_fret_sign_or_finger_lies_over_another(zoom: float) -> None:
    chart = chart_layout(plan(read_riff_text(GRACED).riff), zoom, 500.0)
    part = chart.part(0.0, chart.width)
    for width in (PLATE_ROOM, FRET_ROOM, SIGN_ROOM, FINGER_ROOM):
        xs = [column.x for column in chart.columns if part.fits(column, width)]
        mains = [
            column.x for column in chart.columns if part.fits(column, width) and not column.event.moment.event.grace
        ]
        assert all(after - before >= width - 1e-9 for before, after in pairwise(mains))
        assert all(after > before for before, after in pairwise(xs))
    ticks = [tick.x for tick in chart.ticks(0.0, chart.width) if tick.label]
    assert all(after - before >= 20 for before, after in pairwise(ticks))


def test_far_out_the_chart_is_an_overview_and_near_everything_shows(window: MainWindow, qtbot: QtBot) -> None:
    chart = window.plan_page.chart
    assert not_none(chart.chart_layout).detail is Detail.FULL
    window.document.set_text(write_riff_text(wandering_lick(800)))
    plan_now(window, qtbot)
    chart.fit()
    layout = not_none(chart.chart_layout)
    assert layout.detail is Detail.OVERVIEW
    assert layout.width <= chart.viewport_width
    window.resize(1000, 640)
    qtbot.waitUntil(lambda: 0.9 * chart.viewport_width < not_none(chart.chart_layout).width + GUTTER)
    assert not_none(chart.chart_layout).width <= chart.viewport_width - GUTTER + 1
    whole = chart.grab().toImage()
    chart.zoom_by(6)
    assert chart.grab().toImage() != whole
    for _ in range(30):
        chart.zoom_by(1.25)
    assert not_none(chart.chart_layout).detail is Detail.FULL


def test_the_strip_shows_the_whole_riff_and_goes_where_it_is_clicked(window: MainWindow, qtbot: QtBot) -> None:
    window.document.set_text(write_riff_text(wandering_lick(640)))
    plan_now(window, qtbot)
    page = window.plan_page
    strip, chart = page.overview, page.chart
    assert strip.isVisible()
    start, end = strip.seen
    assert end - start < 40
    qtbot.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(round(strip.place_of(120.0)), 20))
    start, end = strip.seen
    assert start < 120.0 < end
    assert strip.accessibleDescription() == f"bars {int(start) // 4 + 1} to {int(end) // 4 + 1} of 40 show"
    before = strip.grab().toImage()
    chart.fit()
    assert strip.seen[0] == 0.0
    assert strip.grab().toImage() != before


def test_the_strip_knows_locks_spots_and_phrases() -> None:
    riff = read_riff_text("[one]\n| 5:5!d/4 5:7 4:5 1:7 |\n[two]\n| 6:5/4 6:7@3 5:5 5:7 |").riff
    planned = plan(riff)
    whole = seen_whole(planned)
    assert [name for _, name in whole.phrases] == ["one", "two"]
    assert list(whole.locks) == [0.0, 5.0]
    held = {float(planned.events[limit.end].moment.played) for limit in planned.bottlenecks}
    assert set(whole.spots) == held


@pytest.mark.parametrize(
    ("to", "keys", "wanted"),
    [
        ((2, 8), Qt.KeyboardModifier.ControlModifier, "| 2:5/8 2:8.h r/4 r/2 |"),
        ((2, 3), Qt.KeyboardModifier.ControlModifier, "| 2:5/8 2:3.p r/4 r/2 |"),
        ((3, 5), Qt.KeyboardModifier.NoModifier, "| 2:5.b1/8 r r/4 r/2 |"),
        ((4, 5), Qt.KeyboardModifier.NoModifier, "| 2:5.b2/8 r r/4 r/2 |"),
    ],
)
def test_drags_on_the_neck_are_marks(
    window: MainWindow, qtbot: QtBot, to: tuple[int, int], keys: Qt.KeyboardModifier, wanted: str
) -> None:
    page = window.riff_page
    window.show_stage(0)
    window.document.start("| r/8 r r/4 r/2 |\n")
    page.board.entry.go(0)
    qtbot.waitUntil(page.neck.isVisible)
    spots = [not_none(page.neck.geometry_now).spot(Place(*place)).toPoint() for place in ((2, 5), to)]
    qtbot.mousePress(page.neck, Qt.MouseButton.LeftButton, keys, spots[0])
    qtbot.mouseRelease(page.neck, Qt.MouseButton.LeftButton, keys, spots[1])
    assert not_none(window.document.reading).riff.phrases == read_riff_text(wanted).riff.phrases


@pytest.mark.parametrize("stage", range(len(TITLES)))
def test_no_stage_keeps_the_window_large(window: MainWindow, qtbot: QtBot, stage: int) -> None:
    window.resize(1920, 1080)
    window.show_stage(stage)
    qtbot.wait(5)
    window.resize(800, 500)
    qtbot.wait(5)
    assert (window.width(), window.height()) == (800, 500)


def test_panels_fold_by_key_and_by_room(window: MainWindow, qtbot: QtBot) -> None:
    page = window.plan_page
    wide = page.chart.width()
    assert page.reasons.isVisible()
    qtbot.keyClick(window, Qt.Key.Key_F4)
    assert not page.reasons.isVisible()
    qtbot.waitUntil(lambda: page.chart.width() > wide + 200)
    qtbot.mouseClick(page.folding.handle, Qt.MouseButton.LeftButton)
    assert page.reasons.isVisible()
    window.show_stage(0)
    window.resize(800, 500)
    qtbot.waitUntil(lambda: not window.riff_page.side.isVisible())
    assert "F4" in window.riff_page.folding.handle.accessibleName()
    qtbot.keyClick(window, Qt.Key.Key_F4)
    assert window.riff_page.side.isVisible()


def test_a_riff_is_written_on_the_neck_by_mouse_alone(window: MainWindow, qtbot: QtBot) -> None:
    window.new()
    window.resize(1280, 900)
    page = window.riff_page
    qtbot.waitUntil(page.neck.isVisible)
    assert page.guide.moment is Moment.EMPTY

    def click(string: int, fret: int, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        spot = not_none(page.neck.geometry_now).spot(Place(string, fret)).toPoint()
        qtbot.mouseClick(page.neck, Qt.MouseButton.LeftButton, keys, spot)

    click(5, 3)
    click(4, 5)
    click(3, 5, Qt.KeyboardModifier.ShiftModifier)
    spots = [not_none(page.neck.geometry_now).spot(Place(2, fret)).toPoint() for fret in (5, 8)]
    qtbot.mousePress(page.neck, Qt.MouseButton.LeftButton, pos=spots[0])
    qtbot.mouseMove(page.neck, spots[1])
    qtbot.mouseRelease(page.neck, Qt.MouseButton.LeftButton, pos=spots[1])
    events = [event for event in not_none(window.document.reading).riff.written_events() if not event.rest]
    assert [[note.target for note in event.notes] for event in events] == [
        [Place(5, 3)],
        [Place(4, 5), Place(3, 5)],
        [Place(2, 5)],
        [Place(2, 8)],
    ]
    assert Mark.SLIDE in events[3].marks | events[3].notes[0].marks
    while window.document.history.undo_words is not None:
        window.document.undo()
    left = not_none(window.document.reading).riff.written_events()
    assert not [event for event in left if not event.rest]


@pytest.mark.parametrize("name", ["guitar-6", "guitar-8", "bass-4"])
@pytest.mark.parametrize("turned", [(True, False), (False, False), (True, True), (False, True)])
def test_every_place_of_the_neck_is_found_where_it_is_drawn(name: str, turned: tuple[bool, bool]) -> None:
    instrument = instrument_named(name)
    neck = NeckGeometry(instrument, 700.0, 110.0, *turned)
    for string in range(1, instrument.strings + 1):
        for fret in range(instrument.top_fret + 1):
            assert neck.place_at(neck.spot(Place(string, fret))) == Place(string, fret)
    assert neck.place_at(QPointF(-5.0, 20.0)) is None


def test_the_guide_shows_what_fits_the_moment_and_no_wall(window: MainWindow, qtbot: QtBot) -> None:
    assert max(sum(len(lines) for _, lines in parts) for parts in GUIDE.values()) <= 16
    window.show_stage(0)
    page = window.riff_page
    page.board.setFocus()
    window.document.select(0)
    seen = [page.guide.moment]
    qtbot.keyClick(page.board, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    seen.append(page.guide.moment)
    assert seen == [Moment.NOTE, Moment.SELECTION]
    page.editor.setFocus()
    qtbot.waitUntil(lambda: page.guide.moment is Moment.TEXT)
    assert any("palm mute" in label.text() for label in page.guide.findChildren(QLabel))


def test_first_steps_come_back_from_help(window: MainWindow, qtbot: QtBot) -> None:
    page = window.riff_page
    window._welcomed()
    assert page.welcome.isHidden()
    window.show_first_steps()
    assert window.stage == 0
    assert not page.welcome.isHidden()


def test_each_hint_is_read_by_itself_and_comes_back_with_the_first_steps(window: MainWindow, qtbot: QtBot) -> None:
    window.resize(1280, 800)
    for number, stage in enumerate(TITLES):
        window.show_stage(number)
        assert window.hints.isHidden() is (stage not in HINTS)
    window.show_stage(TITLES.index("Compare"))
    qtbot.mouseClick(window.hints.button, Qt.MouseButton.LeftButton)
    assert window.hints.isHidden()
    assert window.store.settings.hints_read == ("Compare",)
    window.show_stage(TITLES.index("Plan"))
    assert not window.hints.isHidden()
    window.resize(1000, 640)
    qtbot.waitUntil(window.hints.isHidden)
    window.resize(1280, 800)
    window.show_first_steps()
    window.show_stage(TITLES.index("Compare"))
    qtbot.waitUntil(lambda: not window.hints.isHidden())


def test_what_is_written_in_a_chart_grows_with_the_text(window: MainWindow) -> None:
    chart = window.plan_page.chart
    plain = chart.viewport_width
    window.preferences.prefer(text_size=1.5)
    assert chart.viewport_width < plain / 1.3
    window.preferences.prefer(chart_size=2.0, text_size=2.0)
    assert chart._size == 2.0
