"""The Practice and Log stages as a player uses them: laid out, played by keys alone, written down, told."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot

from dromic.app import sound
from dromic.app.log.keeper import LogKeeper
from dromic.app.practice import guided as guided_module
from dromic.app.practice.cards import DRAWINGS
from dromic.app.practice.in_work import InWork
from dromic.app.stages import TITLES
from dromic.app.start import load_fonts
from dromic.app.theme import LIGHT
from dromic.app.window import MainWindow
from dromic.demo.library import demo_riffs
from dromic.errors import RiffError
from dromic.formats.project import Project
from dromic.hands.profile import measures
from dromic.planner.plan_settings import PlanSettings
from dromic.practice.log.logbook import Clean, Logbook, Rep
from dromic.practice.session.care import CARDS, DAMPER
from dromic.practice.tempo.ladder import Range
from tests.app.conftest import plan_now, planned, settle
from tests.helpers import not_none

LEFT, CTRL = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier
PRACTICE, LOG = TITLES.index("Practice"), TITLES.index("Log")
Wait = Callable[[], None]


@pytest.fixture(autouse=True)
def _alone(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    """No sound device, and a data folder of its own."""
    monkeypatch.setattr(sound, "_device", lambda: None)
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))


@pytest.fixture
def done(window: MainWindow, qtbot: QtBot) -> Wait:
    """Wait until nothing is under way."""
    page = window.practice_page

    def wait() -> None:
        jobs = (page.layouts, page.previews, page.readying, page.searching, window.log_page.drawing)
        qtbot.waitUntil(lambda: not window.planner.working and not any(one.working for one in jobs), timeout=30_000)

    return wait


def open_practice(window: MainWindow, done: Wait) -> None:
    window.show_stage(PRACTICE)
    done()


def start(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    """By keys alone: the stage by its key, Enter, and on from the warm-up to the first block."""
    qtbot.keyClick(window, Qt.Key.Key_4, CTRL)
    done()
    assert window.focusWidget() is window.practice_page.today_view.start
    qtbot.keyClick(window.practice_page.today_view.start, Qt.Key.Key_Return)
    done()


def sounding(window: MainWindow, qtbot: QtBot) -> None:
    guided = window.practice_page.guided
    qtbot.waitUntil(lambda: guided.player.playing and not guided._waits_for_sound, timeout=30_000)


def side_words(window: MainWindow) -> str:
    view = window.practice_page.today_view
    return " ".join(label.text() for label in view.findChildren(QLabel))


def reps(window: MainWindow) -> list[Rep]:
    return window.log.book().reps()


def test_the_demo_says_at_once_what_to_do(window: MainWindow, done: Wait) -> None:
    open_practice(window, done)
    view = window.practice_page.today_view
    assert view.what.text().startswith("30 minutes on Kiln Stairs: warm up, then bar ")
    assert view.what.text().endswith("Press Start.")
    assert view.start.isEnabled()
    assert "Made-up log" in view.notice.text()
    told = side_words(window)
    for words in ("Why.", "Clean is:", "clean at about", "repetitions in the log", "Palm mute"):
        assert words in told
    assert not_none(view.chart.chart_layout).columns


def test_blocks_are_chosen_swapped_and_left_out(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    open_practice(window, done)
    page, view = window.practice_page, window.practice_page.today_view
    before = not_none(page.session.today).session
    strip = view.strip
    qtbot.mouseClick(strip, LEFT, pos=QPoint(4, 20))
    done()
    assert view.name.text() == "Warm-up"
    qtbot.keyClick(strip, Qt.Key.Key_Right)
    done()
    first = view.name.text()
    names = set()
    for _ in range(4):
        qtbot.keyClick(page, Qt.Key.Key_W)
        done()
        names.add(view.name.text())
    assert len(names) == 4
    assert first not in names
    qtbot.keyClick(page, Qt.Key.Key_S)
    done()
    after = not_none(page.session.today).session
    assert len(after.blocks) == len(before.blocks) - 1
    assert after.minutes == sum(block.minutes for block in after.blocks)
    view.minutes.setValue(12)
    done()
    assert not_none(page.session.today).session.minutes == 12
    assert window.store.settings.minutes == 12
    view.felt.setCurrentIndex(5)
    done()
    assert "in place of 12 today" in side_words(window)


def test_a_session_by_keys_alone(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    count = window.log.book().count()
    start(window, qtbot, done)
    guided = window.practice_page.guided
    face, run = guided.face, not_none(guided.run)
    assert face.name.text() == "Warm-up"
    qtbot.keyClick(guided, Qt.Key.Key_S)
    done()
    sounding(window, qtbot)
    assert run.at == 1
    assert face.next.text().startswith("Next: Both hands")
    tempo = run.rung.tempo
    assert face.tempo.text() == f"{tempo:.0f}"
    qtbot.keyClick(guided, Qt.Key.Key_2)
    qtbot.keyClick(guided, Qt.Key.Key_Up)
    done()
    sounding(window, qtbot)
    assert run.rung.tempo > tempo
    higher = run.rung.tempo
    qtbot.keyClick(guided, Qt.Key.Key_M)
    qtbot.keyClicks(face.note, "left hand late")
    qtbot.keyClick(face.note, Qt.Key.Key_Return)
    qtbot.keyClick(guided, Qt.Key.Key_Down)
    done()
    sounding(window, qtbot)
    assert run.rung.tempo < higher
    clean, not_clean = reps(window)[count:]
    assert (clean.clean, clean.felt, clean.kind) == (Clean.CLEAN, 2, "picking")
    assert (not_clean.clean, not_clean.felt, not_clean.note) == (Clean.NOT, None, "left hand late")
    assert clean.movement_keys
    assert clean.tempo == tempo
    qtbot.keyClick(guided, Qt.Key.Key_Space)
    assert not guided.player.playing
    assert "Go on" in face.pause.text()
    qtbot.keyClick(guided, Qt.Key.Key_Up)
    assert window.log.book().count() == count + 2
    qtbot.keyClick(guided, Qt.Key.Key_Space)
    sounding(window, qtbot)
    qtbot.keyClick(guided, Qt.Key.Key_Escape)
    done()
    assert not window.practice_page.guiding
    assert "1 clean, 1 not" in window.practice_page.today_view.notice.text()


def test_no_answer_is_no_answer(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    window.practice_page.drill(Range(0, 2))
    window.show_stage(PRACTICE)
    done()
    sounding(window, qtbot)
    guided = window.practice_page.guided
    run, count = not_none(guided.run), window.log.book().count()
    tempo = run.rung.tempo
    guided.player.went_round.emit(1)
    assert window.log.book().count() == count
    guided.player.went_round.emit(2)
    assert [one.clean for one in reps(window)[count:]] == [Clean.UNMARKED]
    assert run.rung.tempo == tempo
    # The answer is for the round that has ended, not for the one that has just begun.
    qtbot.keyClick(guided, Qt.Key.Key_C)
    assert [one.clean for one in reps(window)[count:]] == [Clean.UNMARKED, Clean.CLEAN]
    assert run.tally.unmarked == run.tally.clean == 1


def test_three_failures_thin_the_strings_out_and_then_ask_for_less(
    window: MainWindow, qtbot: QtBot, done: Wait
) -> None:
    window.document.choose(8)
    window.show_stage(TITLES.index("Plan"))
    window.plan_page.chart.select(6, 10)
    qtbot.keyClick(window.plan_page.chart, Qt.Key.Key_D)
    done()
    assert window.stage == PRACTICE
    guided = window.practice_page.guided
    run = not_none(guided.run)
    densities = [run.rung.density]
    for _ in range(40):
        sounding(window, qtbot)
        if run.rung.burst:
            guided.player.went_round.emit(1)
        else:
            guided.answer(False)
        done()
        densities.append(run.rung.density)
        if run.block.kind == "chain":
            break
    assert [one for at, one in enumerate(densities) if not at or one != densities[at - 1]][:4] == [1, 2, 4, 8]
    assert run.block.kind == "chain"
    assert "each string" not in guided.face.told.text()


def test_a_block_ends_with_its_time_and_a_rest_needs_no_key(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    start(window, qtbot, done)
    guided = window.practice_page.guided
    run = not_none(guided.run)
    rest = next(at for at, block in enumerate(run.session.blocks) if block.drill is None)
    guided._enter(rest - 1)
    done()
    sounding(window, qtbot)
    guided._left_s = 0.0
    guided.player.went_round.emit(1)
    assert run.at == rest
    assert guided.face.tempo.text() == "1:00"
    assert not guided.face.clean.isEnabled()
    guided._left_s = 0.0
    qtbot.waitUntil(lambda: run.at == rest + 1, timeout=5_000)
    done()
    guided._enter(len(run.session.blocks) - 1)
    done()
    qtbot.keyClick(guided, Qt.Key.Key_S)
    done()
    assert window.practice_page.today_view.notice.text().startswith("The session is over.")


def test_a_ramp_grows_and_goes_on(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    start(window, qtbot, done)
    sounding(window, qtbot)
    guided = window.practice_page.guided
    wanted = not_none(guided.player.wanted)
    assert not wanted.loop
    ramp = not_none(wanted.extent.ramp)
    assert ramp.start < ramp.end <= not_none(guided.run).block.tempo_to
    assert "growing to" in guided.face.under.text()
    first = wanted
    guided._left_s /= 2
    guided.player.stop()
    sounding(window, qtbot)
    again = not_none(guided.player.wanted)
    assert again.extent.tempo > first.extent.tempo
    # A ramp is no longer than what the block still has, in whole rounds.
    guided._left_s = 20.0
    guided.player.stop()
    sounding(window, qtbot)
    assert not_none(guided.player.wanted).extent.rounds == 1
    guided._left_s = 5.0
    guided.player.stop()
    assert not_none(guided.run).at == 1


def test_pain_ends_the_session(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    start(window, qtbot, done)
    sounding(window, qtbot)
    qtbot.keyClick(window.practice_page.guided, Qt.Key.Key_P)
    done()
    view = window.practice_page.today_view
    assert "see a doctor or a hand therapist" in view.notice.text()
    assert view.what.text() == "Rest the hands."
    assert not view.start.isEnabled()
    last = reps(window)[-1]
    assert (last.felt, last.note) == (5, "pain: the session was stopped")
    window.show_stage(0)
    window.show_stage(PRACTICE)
    done()
    qtbot.waitUntil(view.start.isEnabled, timeout=10_000)


def test_leaving_the_stage_pauses(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    start(window, qtbot, done)
    sounding(window, qtbot)
    window.show_stage(0)
    assert not window.practice_page.guided.player.playing
    window.show_stage(PRACTICE)
    assert window.practice_page.guiding
    assert "paused" in window.practice_page.guided.face.told.text()


def test_volumes_and_clicks_are_heard_and_remembered(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    start(window, qtbot, done)
    sounding(window, qtbot)
    bar = window.practice_page.guided.face.mix_bar
    bar.sliders["drone"].setValue(40)
    bar.subdivision.setCurrentIndex(bar.subdivision.findData(3))
    qtbot.waitUntil(
        lambda: not_none(window.practice_page.guided.player.wanted).extent.mix.drone == 0.4, timeout=10_000
    )
    wanted = not_none(window.practice_page.guided.player.wanted)
    assert wanted.extent.metronome.subdivision == 3
    assert not bar.swing.isEnabled()
    assert (window.store.settings.volume_drone, window.store.settings.clicks_a_beat) == (40, 3)


def test_several_riffs_are_practised_together(window: MainWindow, qtbot: QtBot, done: Wait, tmp_path: Path) -> None:
    open_practice(window, done)
    page = window.practice_page
    page.list.fill()
    put, _, none = page.list.actions()
    assert "no other riff" in none.text()
    put.trigger()
    done()
    window.open_demo(window.riffs[3])
    plan_now(window, qtbot)
    open_practice(window, done)
    assert "Lamplighter and Kiln Stairs" in page.today_view.what.text()
    assert {block.riff_number for block in not_none(page.session.today).session.blocks if block.drill} == {0, 1}
    page.list.fill()
    page.list.actions()[-1].trigger()
    done()
    assert "Kiln" not in page.today_view.what.text()
    for number, demo in enumerate(demo_riffs()):
        if number < 4:
            page.list.in_work.add(Project(demo.text, PlanSettings(), (), ""))
    with pytest.raises(RiffError, match="4 riffs are enough"):
        page.list.in_work.add(Project(demo_riffs()[4].text, PlanSettings(), (), ""))
    (page.list.in_work.folder / "broken.dromic").write_text("{")
    assert len(InWork(page.list.in_work.folder).riffs()) == 4


def test_a_saved_plan_is_played_in_turn_with_the_present_one(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    window.document.keep_plan("as it was")
    settings = window.document.plan_settings
    window.document.set_plan_settings(replace(settings, school="strict-alternate"))
    plan_now(window, qtbot)
    open_practice(window, done)
    page, view = window.practice_page, window.practice_page.today_view
    names = set()
    for _ in range(40):
        qtbot.keyClick(page, Qt.Key.Key_W)
        names.add(view.name.text())
        if view.name.text() == "Two plans in turn":
            break
    assert view.name.text() == "Two plans in turn", names
    done()
    assert [name for _, name in not_none(view.chart.chart_layout).phrases] == ["A", "B"]


def test_a_drill_becomes_a_riff_and_the_same_figure_is_found_elsewhere(
    window: MainWindow, qtbot: QtBot, done: Wait
) -> None:
    open_practice(window, done)
    page = window.practice_page
    qtbot.mouseClick(page.today_view.elsewhere, LEFT)
    done()
    told = not_none(window.statusBar()).currentMessage()
    assert told.startswith(("In ", "No riff here"))
    if told.startswith("In "):
        assert "with less to do" in side_words(window)
        qtbot.keyClick(page, Qt.Key.Key_W)
        done()
    qtbot.mouseClick(page.today_view.own, LEFT)
    planned(window, qtbot)
    assert not_none(window.document.reading).riff.section == "drill"


def test_a_range_becomes_a_riff_of_its_own(window: MainWindow, qtbot: QtBot) -> None:
    old = not_none(window.document.plan)
    window.plan_page.chart.select(4, 9)
    qtbot.keyClick(window, Qt.Key.Key_R, CTRL | Qt.KeyboardModifier.ShiftModifier)
    planned(window, qtbot)
    plan = not_none(window.document.plan)
    assert plan.riff.title == "Kiln Stairs: bar 1 beat 2 & to bar 1 beat 4 &"
    assert window.document.plan_settings.loop
    assert [(one.notes, one.stroke) for one in plan.states] == [(one.notes, one.stroke) for one in old.states[4:10]]


# -- the log ------------------------------------------------------------------------------------------


def test_the_log_shows_the_riff_filling_in(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    qtbot.keyClick(window, Qt.Key.Key_6, CTRL)
    done()
    page = window.log_page
    assert "Made-up log" in page.label.text()
    assert page.riffs.currentText().startswith("Kiln Stairs")
    assert page.filled.text().startswith("Of 51 notes")
    assert any(share is not None for share in page.chart._progress)
    assert page.tempo._days
    model = not_none(page.table.model())
    assert model.rowCount() == 400
    assert model.data(model.index(0, 3)) in ("clean", "not clean", "–")
    assert "quarter" in page.tempo.caption
    assert "repetitions in all" in page.state.text()
    page.riffs.setCurrentIndex(next(at for at in range(2) if page.riffs.itemText(at).startswith("Lamp")))
    done()
    assert page.riffs.currentText().startswith("Lamplighter")
    assert "from" in page.tempo.accessibleDescription()


def test_hands_from_the_log_are_offered_and_undone(window: MainWindow, qtbot: QtBot, done: Wait) -> None:
    window.show_stage(LOG)
    done()
    page = window.log_page
    assert page.offer.isVisible()
    assert "Picking on one string takes" in page.offer_words.text()
    assert "would tell most next" in page.offer_words.text()
    old = window.document.plan_settings
    told: list[str] = []
    page.message.connect(told.append)
    qtbot.mouseClick(page.take_hands, LEFT)
    planned(window, qtbot)
    assert measures(window.document.plan_settings.player).picking != 1.0
    assert told[-1].startswith("With the hands from your log ")
    assert "the ceiling goes from" in told[-1]
    window.document.undo()
    assert window.document.plan_settings == old


def test_out_and_in(window: MainWindow, qtbot: QtBot, done: Wait, tmp_path: Path) -> None:
    window.show_stage(LOG)
    done()
    page, told = window.log_page, list[str]()
    page.message.connect(told.append)
    page.export_to(tmp_path / "out.csv")
    qtbot.waitUntil(lambda: bool(told), timeout=10_000)
    assert "repetitions written to out.csv" in told[-1]
    page.import_from(tmp_path / "out.csv")
    qtbot.waitUntil(lambda: len(told) > 1, timeout=10_000)
    assert told[-1] == "0 new repetitions from out.csv"
    page.import_from(tmp_path / "none.csv")
    qtbot.waitUntil(lambda: len(told) > 2, timeout=10_000)
    assert "none.csv" in told[-1]
    done()


@pytest.fixture
def own(qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Callable[[], MainWindow]:
    """A window with the player's own log."""
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    load_fonts()

    def made() -> MainWindow:
        window = MainWindow((), LIGHT, None, LogKeeper(tmp_path / "log" / "practice.sqlite"))
        qtbot.addWidget(window, before_close_func=settle)
        window.show()
        window.document.start(demo_riffs()[0].text)
        plan_now(window, qtbot)
        return window

    return made


def laid_out(window: MainWindow, qtbot: QtBot) -> None:
    window.show_stage(PRACTICE)
    qtbot.waitUntil(lambda: not window.practice_page.layouts.working, timeout=30_000)


def test_an_empty_log_and_an_empty_riff(own: Callable[[], MainWindow], qtbot: QtBot) -> None:
    window = own()
    laid_out(window, qtbot)
    assert "Assumed" in side_words(window)
    assert not window.practice_page.today_view.notice.isVisible()
    window.show_stage(LOG)
    qtbot.waitUntil(lambda: not window.log_page.drawing.working, timeout=10_000)
    assert window.log_page.riffs.currentText() == "nothing practised yet"
    assert "0 are clean" in window.log_page.filled.text()
    window.document.start("| 6:0/1 |")
    plan_now(window, qtbot)
    laid_out(window, qtbot)
    assert "nothing to practise" in window.practice_page.today_view.notice.text()
    assert not window.practice_page.today_view.start.isEnabled()
    window.document.set_text("| nonsense |")
    window.practice_page._ask()
    assert "last plan that worked" in window.practice_page.today_view.notice.text()


def test_a_corrupt_log_is_told_and_kept(own: Callable[[], MainWindow], qtbot: QtBot, tmp_path: Path) -> None:
    (tmp_path / "log").mkdir()
    (tmp_path / "log" / "practice.sqlite").write_bytes(b"this is no database" * 300)
    window = own()
    laid_out(window, qtbot)
    told = window.practice_page.today_view.notice.text()
    assert "could not be read" in told
    assert "practice-unreadable-" in told
    assert window.practice_page.today_view.start.isEnabled()


def test_a_log_that_is_held_loses_nothing(
    own: Callable[[], MainWindow], qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = own()
    laid_out(window, qtbot)
    page = window.practice_page
    page.start()
    qtbot.waitUntil(lambda: not page.readying.working, timeout=30_000)
    sounding(window, qtbot)
    window.log.book()
    other = sqlite3.connect(tmp_path / "log" / "practice.sqlite", isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    page.guided.answer(True)
    assert "kept until it can be" in not_none(window.statusBar()).currentMessage()
    assert window.log.waiting == 1
    other.rollback()
    other.close()
    sounding(window, qtbot)
    page.guided.answer(False)
    assert window.log.waiting == 0
    assert [one.clean for one in Logbook(tmp_path / "log" / "practice.sqlite").reps()] == [Clean.CLEAN, Clean.NOT]
    qtbot.keyClick(page.guided, Qt.Key.Key_Escape)


def test_every_card_has_a_drawing() -> None:
    assert {card.key for card in (*CARDS, DAMPER)} == set(DRAWINGS)
    assert guided_module.TIGHT_FROM == 4


def test_a_window_that_closes_writes_down_what_was_played(
    own: Callable[[], MainWindow], qtbot: QtBot, tmp_path: Path
) -> None:
    window = own()
    laid_out(window, qtbot)
    page = window.practice_page
    page.start()
    qtbot.waitUntil(lambda: not page.readying.working, timeout=30_000)
    sounding(window, qtbot)
    page.guided.skip()
    qtbot.waitUntil(lambda: not page.readying.working, timeout=30_000)
    sounding(window, qtbot)
    page.guided.player.went_round.emit(1)
    settle(window)
    window.close()
    kept = Logbook(tmp_path / "log" / "practice.sqlite").reps()
    assert [one.clean for one in kept] == [Clean.UNMARKED]
    assert kept[0].kind != "warm-up"
