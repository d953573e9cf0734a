"""Vary, Material, Coverage and the harmony of a riff, as a player uses them."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage
from pytestqt.qtbot import QtBot

from dromic.app import sound
from dromic.app.coverage.coverage_page import DRILL, RIFF, WEEK
from dromic.app.stages import TITLES
from dromic.app.theme import DARK, LIGHT, Theme
from dromic.app.vary import work
from dromic.app.window import MainWindow
from dromic.music.chords import parse_chord
from dromic.practice.coverage.cells import FLIPS, Table, cells_of_table
from dromic.practice.material import drills_for
from dromic.practice.material.pieces import Family
from tests.app.conftest import plan_now
from tests.helpers import not_none

LEFT = Qt.MouseButton.LeftButton
SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
Wait = Callable[[], None]
LICK = "key: A minor\ntempo: 120\n| {Am7} 5:5/8 5:7 4:5 4:7 3:5 3:7 2:5 2:8 |\n"


@pytest.fixture(autouse=True)
def _alone(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    """No sound device, and a data folder of its own."""
    monkeypatch.setattr(sound, "_device", lambda: None)
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))


@pytest.fixture
def done(window: MainWindow, qtbot: QtBot) -> Wait:
    """Wait until nothing is under way."""
    studies, practice = window.studies, window.practice_page
    jobs = (
        studies.vary.jobs,
        studies.material.jobs,
        studies.material.preview.jobs,
        studies.coverage.measuring,
        studies.coverage.making,
        studies.coverage.preview.jobs,
        practice.layouts,
        practice.previews,
    )

    def wait() -> None:
        qtbot.waitUntil(lambda: not window.planner.working and not any(one.working for one in jobs), timeout=60_000)

    return wait


@pytest.fixture
def _few_ways(monkeypatch: pytest.MonkeyPatch) -> None:
    """Two ways of varying are enough where it is not about all of them."""
    monkeypatch.setattr(work, "ORDER", ("order", "chord"))


def with_lick(window: MainWindow, qtbot: QtBot, text: str = LICK) -> None:
    window.document.start(text)
    plan_now(window, qtbot)


def status(window: MainWindow) -> str:
    return not_none(window.statusBar()).currentMessage()


def picture(window: MainWindow) -> QImage:
    return window.grab().toImage()


# -- vary ------------------------------------------------------------------------------------------------------


def test_five_variations_worth_a_week_by_keys_in_less_than_half_a_minute(
    window: MainWindow, qtbot: QtBot, done: Wait
) -> None:
    with_lick(window, qtbot)
    page = window.studies.vary
    begun = time.monotonic()
    qtbot.keyClick(window, Qt.Key.Key_U, CTRL)
    done()
    assert time.monotonic() - begun < 30
    assert window.riff_views.at == 1
    assert page.list.count() == 5
    assert page.heading.text().startswith("Worth a week: 5 of ")
    assert not_none(page.chart.chart_layout).columns
    first = not_none(page.chosen)
    qtbot.keyClick(page.list, Qt.Key.Key_Down)
    second = not_none(page.chosen)
    assert second.words != first.words
    qtbot.keyClick(page.list, Qt.Key.Key_Return)
    done()
    assert window.stage == TITLES.index("Plan")
    assert window.document.current_riff.phrases == second.riff.phrases
    assert not_none(window.document.plan).loop


def test_all_the_rest_is_there_on_demand_and_by_way(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    with_lick(window, qtbot)
    page = window.studies.vary
    window.riff_views.show_view(1)
    done()
    qtbot.keyClick(page.every, Qt.Key.Key_Space)
    assert page.list.count() == len(not_none(page.varied).every) > 40
    page.ways.setCurrentIndex(page.ways.findData("easier"))
    words = [page.list.item(row).text() for row in range(page.list.count())]  # type: ignore[union-attr]
    assert {"with a capo at fret 1", "with a capo at fret 5", "in the tuning drop"} <= set(words)
    qtbot.keyClick(page.every, Qt.Key.Key_Space)
    assert page.list.count() == min(len(not_none(page.varied).of("easier")), 5)
    assert "Easier versions: " in page.notes.text()


@pytest.mark.usefixtures("_few_ways")
def test_a_variation_goes_into_the_sessions(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    with_lick(window, qtbot)
    page = window.studies.vary
    window.riff_views.show_view(1)
    done()
    words = not_none(page.chosen).riff.title
    qtbot.keyClick(page.list, Qt.Key.Key_W)
    assert status(window) == f"{words} is practised with every session now"
    assert [one.title for one in window.practice_page.list.in_work.riffs()] == [words]


@pytest.mark.usefixtures("_few_ways")
def test_another_riff_is_varied_anew_and_the_same_is_not(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    with_lick(window, qtbot)
    page = window.studies.vary
    window.show_stage(0)
    window.riff_views.show_view(1)
    done()
    before = page.varied
    window.show_stage(1)
    window.show_stage(0)
    done()
    assert page.varied is before
    with_lick(window, qtbot, LICK.replace("2:8", "2:7"))
    qtbot.waitUntil(lambda: page.varied is not before, timeout=30_000)
    done()


@pytest.mark.usefixtures("_few_ways")
def test_escape_stops_varying_and_coming_back_begins_anew(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    with_lick(window, qtbot)
    page = window.studies.vary
    window.show_stage(0)
    window.riff_views.show_view(1)
    assert page.jobs.working
    window.cancel()
    assert not page.jobs.working
    window.riff_views.show_view(0)
    window.riff_views.show_view(1)
    done()
    # Two of each way.
    assert page.list.count() == 4


def test_a_lick_too_long_is_said_and_the_window_stays(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    bar = "| " + "5:5/16 5:7 " * 8 + "|\n"
    with_lick(window, qtbot, bar * 26)
    window.show_stage(0)
    window.riff_views.show_view(1)
    done()
    assert "licks of up to 400 are varied; select a passage" in window.studies.vary.notes.text()
    assert window.studies.vary.list.count() == 0


# -- harmony ---------------------------------------------------------------------------------------------------


def test_key_and_chords_are_written_from_the_panel(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    with_lick(window, qtbot, "| 5:5/8 5:7 4:5 4:7 3:5 3:7 2:5 2:8 |\n")
    window.show_stage(0)
    page, panel = window.riff_page, window.riff_page.harmony
    page.side.setCurrentIndex(1)
    assert "told from the notes" in panel.key_words.text() or "Perhaps" in panel.key_words.text()
    qtbot.mouseClick(panel.take_key, LEFT)
    done()
    assert "key: " in window.document.text
    window.document.select(4)
    panel.chord.setFocus()
    qtbot.keyClicks(panel.chord, "Fmaj7")
    qtbot.keyClick(panel.chord, Qt.Key.Key_Return)
    done()
    assert window.document.current_riff.written_events()[4].chord == parse_chord("Fmaj7")
    assert "{Fmaj7} 3:5" in window.document.text
    assert "Fmaj7  bar 1 beat 3" in panel.chord_words.text()
    assert panel.downs.text().endswith(" do.")
    window.document.undo()
    assert "{Fmaj7}" not in window.document.text


@pytest.mark.parametrize(
    ("box", "typed", "message"),
    [
        ("chord", "Xm7", "'Xm7' means no chord; write one such as Am7"),
        ("key", "X minor", "'X minor' is no key that is known; write one such as A minor"),
    ],
)
def test_words_that_mean_nothing_are_refused_in_words(
    window: MainWindow, qtbot: QtBot, box: str, typed: str, message: str
) -> None:
    window.show_stage(0)
    window.riff_page.side.setCurrentIndex(1)
    line = getattr(window.riff_page.harmony, box)
    text = window.document.text
    line.clear()
    qtbot.keyClicks(line, typed)
    qtbot.keyClick(line, Qt.Key.Key_Return)
    assert message in status(window)
    assert window.document.text == text


@pytest.mark.parametrize("theme", [LIGHT, DARK])
def test_the_harmony_lane_comes_and_goes(window: MainWindow, qtbot: QtBot, theme: Theme) -> None:
    with_lick(window, qtbot)
    window.set_theme(theme)
    window.show_stage(1)
    before = picture(window)
    qtbot.keyClick(window, Qt.Key.Key_F9, SHIFT)
    layout = not_none(window.plan_page.chart.chart_layout)
    assert layout.bands["harmony"].height > 0
    assert picture(window) != before
    assert str(layout.harmony.notes[0][0].degree) == "4"
    qtbot.keyClick(window, Qt.Key.Key_F9, SHIFT)
    assert not not_none(window.plan_page.chart.chart_layout).bands["harmony"].height


# -- material --------------------------------------------------------------------------------------------------


def test_material_of_every_family_is_listed_and_planned(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    with_lick(window, qtbot)
    window.show_stage(TITLES.index("Practice"))
    window.practice_views.show_view(1)
    page = window.studies.material
    assert page.key.text() == "A minor"
    for family in Family:
        page.family.setCurrentIndex(page.family.findData(family))
        done()
        assert page.list.count() == len(page.pieces) > 0
        assert not_none(page.preview.chart.chart_layout).columns
    page.family.setCurrentIndex(page.family.findData(Family.WALKING))
    page.changes.setText("Dm7 | G7 | Cmaj7")
    page.changes.editingFinished.emit()
    done()
    assert page.list.item(0).text().startswith("Walking over Dm7 G7 Cmaj7")  # type: ignore[union-attr]
    qtbot.keyClick(page.list, Qt.Key.Key_Return)
    done()
    assert window.document.current_riff.title.startswith("walking over Dm7")
    assert window.stage == TITLES.index("Plan")


def test_wrong_words_for_material_are_told_beside_it(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    window.show_stage(TITLES.index("Practice"))
    window.practice_views.show_view(1)
    page = window.studies.material
    page.family.setCurrentIndex(page.family.findData(Family.ARPEGGIOS))
    for box, words, message in (
        (page.chord, "Q7", "'Q7' means no chord; write one such as Am7"),
        (page.chord, "A7", ""),
    ):
        box.setText(words)
        box.editingFinished.emit()
        done()
        assert message in page.notice.text()
        assert bool(page.list.count()) is not bool(message)
    page.family.setCurrentIndex(page.family.findData(Family.CHORDS_OF_KEY))
    page.scale.setCurrentText("whole tone")
    done()
    assert "chords are stacked on scales of seven" in page.notice.text()


def test_an_aim_is_searched_for(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    window.show_stage(TITLES.index("Practice"))
    window.practice_views.show_view(1)
    page = window.studies.material
    page.aim.setCurrentIndex(page.aim.findData("rolls with finger 4"))
    assert page.jobs.working
    done()
    assert page.list.count() > 0
    assert "% of its movements" in page.list.item(0).text()  # type: ignore[union-attr]


# -- coverage --------------------------------------------------------------------------------------------------


def open_coverage(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    with_lick(window, qtbot)
    window.show_stage(TITLES.index("Practice"))
    window.practice_views.show_view(2)
    done()


def test_gaps_are_seen_and_one_drill_fills_them(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    with_lick(window, qtbot, "key: Am\n| 5:5!d/8 4:8!u 5:5!d 4:8!u 3:5!d 4:8!u 3:5!d 4:8!u |\n")
    qtbot.keyClick(window, Qt.Key.Key_G, CTRL)
    done()
    page = window.studies.coverage
    assert page.told.text().endswith("Click cells to make a drill of them.")
    page.source.setCurrentIndex(WEEK)
    gaps = page.tables.shown.gaps
    assert gaps
    assert f"{len(gaps)} of " in page.told.text()
    qtbot.mouseClick(page.one, LEFT)
    done()
    assert "no shorter round has them all" in page.notice.text()
    assert page.list.count() == 1
    assert not_none(page.preview.chart.chart_layout).columns


def test_cells_are_chosen_by_clicks_and_by_keys(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    open_coverage(window, qtbot, done)
    page, tables = window.studies.coverage, window.studies.coverage.tables
    page.source.setCurrentIndex(RIFF)
    qtbot.mouseClick(tables, LEFT, pos=tables.box(FLIPS[0]).center().toPoint())
    assert tables.chosen == {FLIPS[0]}
    qtbot.keyClick(tables, Qt.Key.Key_Up)
    qtbot.keyClick(tables, Qt.Key.Key_Space)
    assert len(tables.chosen) == 2
    assert "2 chosen." in page.told.text()
    qtbot.keyClick(tables, Qt.Key.Key_Space)
    qtbot.mouseClick(page.one, LEFT)
    done()
    qtbot.mouseClick(page.clear, LEFT)
    assert not tables.chosen
    shift = cells_of_table(Table.SHIFTS)[0]
    tables.toggle(shift)
    page.make_one()
    done()
    assert "can be drilled in one position" in page.notice.text()


def test_the_fewest_pieces_for_a_riff(
    window: MainWindow, qtbot: QtBot, done: Wait, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(drills_for, "OF_EACH", {Family.FINGERS: 6, Family.STROKES: 6, Family.SCALES: 2})
    open_coverage(window, qtbot, done)
    page = window.studies.coverage
    qtbot.mouseClick(page.fewest, LEFT)
    done()
    assert page.list.count() >= 1
    assert "every movement that this riff needs" in page.notice.text()
    page.source.setCurrentIndex(DRILL)
    covered = {cell for cell, count in page.tables.shown.counts.items() if count}
    assert covered & page.tables.shown.needed
    title = not_none(page.preview.riff).title
    qtbot.keyClick(page.list, Qt.Key.Key_W)
    assert status(window) == f"{title} is practised with every session now"


@pytest.mark.parametrize("theme", [LIGHT, DARK])
def test_every_view_is_drawn_in_a_small_window(window: MainWindow, qtbot: QtBot, done: Wait, theme: Theme) -> None:
    with_lick(window, qtbot)
    window.set_theme(theme)
    window.resize(800, 500)
    window.show_stage(TITLES.index("Practice"))
    for view in (1, 2, 0):
        window.practice_views.show_view(view)
        done()
        assert window.width() == 800
        assert window.height() == 500
    window.show_stage(0)
    window.riff_views.show_view(1)
    window.cancel()
    assert window.width() == 800


def test_a_drill_from_the_plan_shows_the_session(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    open_coverage(window, qtbot, done)
    window.show_stage(1)
    window.plan_page.drill_range()
    done()
    assert window.stage == TITLES.index("Practice")
    assert window.practice_views.at == 0
