"""Locking alternatives, lifting them, undo of everything, comparing and adopting, and the player's hands."""

from __future__ import annotations

import json
import threading
from collections.abc import Callable
from dataclasses import replace
from itertools import combinations
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QLabel, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from dromic.app.compare.rows import SCHOOL, WAY
from dromic.app.compare.table import COLUMNS, FIRST_FIGURE
from dromic.app.document import Document
from dromic.app.document_changes import Change, PriceState
from dromic.app.history import History
from dromic.app.stages import TITLES
from dromic.app.theme import DARK, LIGHT, Theme
from dromic.app.window import MainWindow
from dromic.errors import DromicError
from dromic.planner import planning
from dromic.planner.families import LEAST_OTHER_PLACES, other_places
from dromic.planner.plan import Objective
from dromic.planner.planning import plan_riff
from dromic.planner.ways import OtherFinger
from tests.helpers import not_none

LEFT = Qt.MouseButton.LeftButton
CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
Wait = Callable[[], None]


def strokes(window: MainWindow) -> list[str]:
    return [str(state.stroke) for state in not_none(window.document.plan).states]


def open_sweep(window: MainWindow, wait: Wait) -> None:
    window.open_demo(window.riffs[2])
    wait()
    window.show_stage(1)
    window.document.choose(5)


def test_a_key_locks_the_alternative_with_that_number(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    open_sweep(window, wait)
    offers = window.plan_page.reasons.offers()
    number, finger = next(
        (at + 1, one.way.finger) for at, one in enumerate(offers[:9]) if isinstance(one.way, OtherFinger)
    )
    cost = not_none(window.document.plan).cost
    qtbot.keyClick(window.plan_page.chart, Qt.Key(Qt.Key.Key_0 + number))
    wait()
    assert not_none(window.document.plan).states[5].finger == finger
    assert not_none(window.document.plan).cost - cost == pytest.approx(offers[number - 1].price)
    assert f"@{finger}" in window.document.text
    assert f"Locked: finger {finger}" in words(window)


def test_a_click_locks_and_lift_gives_back(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    open_sweep(window, wait)
    before = window.document.text
    offer = window.plan_page.reasons.findChildren(QPushButton, "offer")[0]
    qtbot.mouseClick(offer, LEFT)
    wait()
    assert window.document.text != before
    lift = next(one for one in window.plan_page.reasons.findChildren(QPushButton) if one.text() == "Unlock")
    qtbot.mouseClick(lift, LEFT)
    wait()
    assert not_none(window.document.plan).task.steps[5].locks.finger is None
    assert "Nothing locked here" in words(window)


def words(window: MainWindow) -> str:
    return "\n".join(label.text() for label in window.plan_page.reasons.findChildren(QLabel))


def test_keep_lift_and_lift_all_by_keys(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    open_sweep(window, wait)
    states = not_none(window.document.plan).states
    chart = window.plan_page.chart
    for step in (5, 7):
        window.document.choose(step)
        qtbot.keyClick(chart, Qt.Key.Key_K)
        wait()
    assert not_none(window.document.plan).states == states
    assert not_none(window.document.plan).task.steps[7].locks.position == states[7].position
    qtbot.keyClick(chart, Qt.Key.Key_Backspace)
    wait()
    assert not_none(window.document.plan).task.steps[7].locks.position is None
    qtbot.keyClick(window, Qt.Key.Key_Backspace, CONTROL | SHIFT)
    wait()
    assert "@" not in window.document.text


def test_undo_and_redo_of_text_locks_and_wishes(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    open_sweep(window, wait)
    first = window.document.text
    qtbot.keyClick(window.plan_page.chart, Qt.Key.Key_1)
    wait()
    locked = window.document.text
    window.plan_page.plan_settings.school.setCurrentIndex(window.plan_page.plan_settings.school.findData("economy"))
    wait()
    qtbot.keyClick(window, Qt.Key.Key_Z, CONTROL)
    wait()
    assert window.document.plan_settings.school == "least-motion"
    assert window.document.text == locked
    qtbot.keyClick(window, Qt.Key.Key_Z, CONTROL)
    wait()
    assert window.document.text == window.riff_page.editor.toPlainText() == first
    qtbot.keyClick(window, Qt.Key.Key_Z, CONTROL | SHIFT)
    qtbot.keyClick(window, Qt.Key.Key_Y, CONTROL)
    wait()
    assert (window.document.text, window.document.plan_settings.school) == (locked, "economy")


def test_undo_from_inside_the_text(window: MainWindow, qtbot: QtBot) -> None:
    window.show_stage(0)
    editor = window.riff_page.editor
    before = window.document.text
    editor.setFocus()
    qtbot.keyClicks(editor, "# x")
    assert window.document.text != before
    qtbot.keyClick(editor, Qt.Key.Key_Z, CONTROL)
    assert editor.toPlainText() == before


def test_contradicting_locks_are_told_and_the_last_plan_stays(window: MainWindow, wait: Wait) -> None:
    window.document.start("| 6:5@3/4 6:3.p@3 5:5 5:7 |\n")
    wait()
    message = window.plan_page.notice.text()
    assert "wo locks contradict each other under" in message
    assert not window.plan_page.notice.isHidden()


def test_locks_against_the_school_are_played_and_told(window: MainWindow, wait: Wait) -> None:
    window.document.start("| 6:5!d/4 6:7!d 5:5 5:7 |\n")
    choice = window.plan_page.plan_settings.school
    choice.setCurrentIndex(choice.findData("strict-alternate"))
    wait()
    assert window.plan_page.notice.text().endswith("as locked, against strict alternate: bar 1 beat 2")
    assert [str(event.stroke) for event in not_none(window.document.plan).events] == ["down", "down", "up", "down"]


def compared(window: MainWindow, qtbot: QtBot) -> None:
    window.show_stage(TITLES.index("Compare"))
    qtbot.waitUntil(lambda: not window.compare_page.comparer.working, timeout=60_000)


@pytest.mark.parametrize("theme", [LIGHT, DARK])
def test_all_schools_and_the_best_plans_side_by_side(
    window: MainWindow, qtbot: QtBot, wait: Wait, theme: Theme
) -> None:
    window.set_theme(theme)
    open_sweep(window, wait)
    compared(window, qtbot)
    rows = window.compare_page.table.rows
    assert sum(row.kind == SCHOOL for row in rows) == 12
    ways = [not_none(row.plan) for row in rows if row.kind == WAY]
    assert len(ways) >= 3
    for one, two in combinations(ways, 2):
        assert other_places(one.states, two.states) >= LEAST_OTHER_PLACES
    ceilings = _column(window, 0)
    assert ceilings == sorted(ceilings, reverse=True)
    for number in range(len(COLUMNS)):
        window.compare_page.view.sortByColumn(FIRST_FIGURE + number, Qt.SortOrder.AscendingOrder)
        assert _column(window, number) == sorted(_column(window, number))
    assert window.grab().width() >= 1000


def _column(window: MainWindow, number: int) -> list[float]:
    """A column from the top, without what is made for something else, which comes last."""
    model = not_none(window.compare_page.view.model())
    rows = [row for row in range(model.rowCount()) if "(for " not in str(model.index(row, 0).data())]
    texts = [model.index(row, FIRST_FIGURE + number).data() for row in rows]
    return [float(text.replace("–", "-1e9")) for text in texts]


def test_what_is_not_played_as_before_is_listed_and_shown(window: MainWindow, wait: Wait, qtbot: QtBot) -> None:
    bars = "| 5:5/8 5:7 4:5 4:7 3:5 | 5:5/8 5:7 4:5 4:7 3:5 |\n"
    settings = replace(window.document.plan_settings, school="strict-alternate")
    window.document.start(f"meter: 5/8\n{bars}", plan_settings=settings)
    wait()
    window.show_same_again()
    dialog = window.same_again_dialog
    qtbot.waitUntil(lambda: dialog.table.rowCount() == 1, timeout=20_000)
    dialog.table.selectRow(0)
    assert window.document.chosen == 5
    assert "Bar 2 is bar 1 again" in not_none(dialog.table.item(0, 0)).text()
    window.document.set_plan_settings(replace(settings, school="downstroke-first"))
    wait()
    qtbot.waitUntil(lambda: dialog.state.text().startswith("All that comes again"), timeout=20_000)
    assert dialog.table.rowCount() == 0
    dialog.reject()


def test_limits_are_asked_for_and_lifted(window: MainWindow, wait: Wait) -> None:
    window.document.start("| G3/8 A3 B3 C4 D4 E4 F#4 G4 |\n")
    wait()
    window.show_limits()
    dialog = window.limits_dialog
    dialog.low.setValue(7)
    dialog.high.setValue(10)
    dialog.open_strings.click()
    wait()
    plan = not_none(window.document.plan)
    assert all(7 <= note.fret <= 10 for event in plan.events for note in event.notes)
    assert "between frets 7 and 10, with no open strings" in window.header.summary.text()
    dialog.high.setValue(8)
    wait()
    assert "cannot be played between frets 7 and 8" in window.plan_page.notice.text()
    assert "because of this note" in dialog.state.text()
    assert window.document.plan is plan
    dialog.none.click()
    wait()
    assert not window.document.plan_settings.limits
    assert window.document.refusal is None


def test_a_style_brings_its_school_and_is_undone_whole(window: MainWindow, wait: Wait) -> None:
    window.document.start("| G3/8 A3 B3 C4 D4 E4 F#4 G4 |\n")
    wait()
    bar = window.plan_page.plan_settings
    told = bar.playing_style.currentText()
    assert told.endswith("(auto)")
    before = window.document.plan_settings
    bar.playing_style.setCurrentIndex(bar.playing_style.findData("country"))
    wait()
    assert window.document.plan_settings.school == "hybrid"
    assert str(not_none(window.document.plan).sound.style) == "country"
    window.document.undo()
    wait()
    assert window.document.plan_settings == before
    assert bar.playing_style.currentText() == told
    window.document.set_text("style: bluegrass\n| G3/8 A3 B3 C4 D4 E4 F#4 G4 |\n")
    wait()
    assert bar.playing_style.currentText() == "bluegrass (chosen)"


def test_an_adopted_school_keeps_the_style_of_the_comparison(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    window.document.start("| G3/8 A3 B3 C4 D4 E4 F#4 G4 |\n")
    wait()
    style = not_none(window.document.plan).sound.style
    compared(window, qtbot)
    page = window.compare_page
    at = next(place for place, row in enumerate(page.table.rows) if row.name == "hybrid")
    wanted = not_none(page.table.rows[at].plan)
    page._pick(at)
    page.adopt()
    wait()
    plan = not_none(window.document.plan)
    assert (plan.school.name, plan.sound.style) == ("hybrid", style)
    assert plan.cost == pytest.approx(wanted.cost)


def test_a_school_is_adopted(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    open_sweep(window, wait)
    compared(window, qtbot)
    page = window.compare_page
    at = next(place for place, row in enumerate(page.table.rows) if row.name == "strict-alternate")
    wanted = page.table.rows[at].plan
    page._pick(at)
    assert "notes played another way" in page.chosen.accessibleName()
    qtbot.mouseClick(page.button, LEFT)
    wait()
    assert window.stage == TITLES.index("Plan")
    assert window.document.plan_settings.school == "strict-alternate"
    assert not_none(window.document.plan).cost == pytest.approx(not_none(wanted).cost)


def test_another_of_the_best_plans_is_adopted_as_locks(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    open_sweep(window, wait)
    compared(window, qtbot)
    page = window.compare_page
    at = next(place for place, row in enumerate(page.table.rows) if row.kind == WAY)
    wanted = page.table.rows[at].plan
    page._pick(at)
    page.adopt()
    wait()
    plan = window.document.plan
    assert not_none(plan).cost == pytest.approx(not_none(wanted).cost)
    assert [state.notes for state in not_none(plan).states] == [state.notes for state in not_none(wanted).states]
    assert not_none(plan).task.steps[0].locks != not_none(plan).task.steps[-1].locks or "@" in window.document.text


def test_another_riff_is_compared_anew_while_the_stage_shows(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    compared(window, qtbot)
    old = list(window.compare_page.table.rows)
    window.document.start("| 4:3/2 4:3.k |\n")
    wait()
    qtbot.waitUntil(lambda: not window.compare_page.comparer.working, timeout=60_000)
    rows = window.compare_page.table.rows
    assert rows != old
    refused = [row for row in rows if row.plan is None]
    assert any("4:3 at bar 1 beat 3" in row.refusal for row in refused)
    assert "without a plan" in window.compare_page.state.text()


def test_hands_are_changed_and_what_they_change_is_told(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    open_sweep(window, wait)
    window.show_stage(TITLES.index("Hands"))
    page = window.hands_page
    qtbot.waitUntil(lambda: not page.effects_jobs.working, timeout=60_000)
    assert page.effects["little_finger"].text().startswith("avoided: ")
    ceiling = not_none(window.document.plan).ceiling
    page.sliders["picking"].setValue(150)
    page.sliders["fretting"].setValue(150)
    wait()
    assert window.document.plan_settings.hands == "own"
    assert not_none(not_none(window.document.plan).ceiling) < not_none(ceiling)
    little = sum(state.finger == 4 for state in not_none(window.document.plan).states)
    box = page.answers["little_finger"]
    box.setCurrentText("avoided")
    wait()
    assert sum(state.finger == 4 for state in not_none(window.document.plan).states) <= little
    assert str(not_none(window.document.plan).hands.fretting.little_finger) == "avoided"
    page.profile.setCurrentText("large")
    wait()
    assert page.sliders["span"].value() == 112
    assert not_none(window.document.plan).hands.name == "large"


def test_hands_are_saved_and_loaded(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, wait: Wait
) -> None:
    file = tmp_path / "mine.json"
    page = window.hands_page
    page.sliders["span"].setValue(90)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(file), ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(file), ""))
    page.save()
    assert json.loads(file.read_text())["schema"] == 1
    page.profile.setCurrentText("medium")
    page.load()
    wait()
    assert page.sliders["span"].value() == 90
    file.write_text("{}")
    page.load()
    assert "schema" in not_none(window.statusBar()).currentMessage()
    assert page.sliders["span"].value() == 90


def test_changes_that_follow_quickly_are_one_step() -> None:
    now = 0.0
    history = History[str](lambda: now)
    for text in ("a", "ab", "abc"):
        history.record(text, "typing", merge=True)
        now += 0.5
    assert history.undo("abcd") == "a"
    assert history.undo("a") is None
    now += 10
    history.record("x", "typing", merge=True)
    history.record("y", "locking", merge=False)
    history.record("z", "typing", merge=True)
    assert [history.undo("now"), history.undo("z"), history.undo("y")] == ["z", "y", "x"]
    assert history.redo_words == "typing"


class Working(RuleBasedStateMachine):
    """Random edits, locks, settings, undo and redo: riff, plan and history stay consistent."""

    def __init__(self) -> None:
        super().__init__()
        self.document = Document()
        self.document.start("tempo: 140\n| 5:5/8 5:7 4:5 4:7 E4 G4 r/4 |\n")
        self.plan()

    def plan(self) -> None:
        document = self.document
        if document.reading is None or document.error is not None:
            return
        try:
            document.planned(plan_riff(document.reading.riff, document.plan_settings.request()), document.revision)
        except DromicError as error:
            document.failed(error, document.revision)

    @precondition(lambda self: self.document.error is None and self.document.plan is not None)
    @rule(data=st.data())
    def decide(self, data: st.DataObject) -> None:
        plan = self.document.plan
        step = data.draw(st.integers(0, len(not_none(plan).states) - 1))
        others = not_none(plan).event_of_step(step).alternatives
        if others:
            other = data.draw(st.sampled_from(others))
            cost = not_none(plan).cost
            try:
                self.document.decide(step, other)
            except DromicError:
                return
            self.plan()
            if self.document.error is None and other.kind != "position":
                assert not_none(self.document.plan).cost - cost == pytest.approx(other.price, abs=1e-6)

    @precondition(lambda self: self.document.error is None and self.document.plan is not None)
    @rule(data=st.data(), lift=st.booleans())
    def keep_or_lift(self, data: st.DataObject, lift: bool) -> None:
        step = data.draw(st.integers(0, len(not_none(self.document.plan).states) - 1))
        cost = not_none(self.document.plan).cost
        (self.document.unlock if lift else self.document.keep)(step)
        self.plan()
        if not lift and self.document.error is None:
            assert not_none(self.document.plan).cost == pytest.approx(cost, abs=1e-6)

    @rule(text=st.sampled_from(["| 5:5/4 5:7 4:5 r |", "| E3/2 5:99 |", "tempo: 90\n| A2/8 B2 C3 D3 E3/2 |"]))
    def type_text(self, text: str) -> None:
        self.document.set_text(text)
        self.plan()

    @rule(undo=st.booleans())
    def step_back_or_on(self, undo: bool) -> None:
        text = self.document.text
        words = self.document.history.undo_words if undo else self.document.history.redo_words
        (self.document.undo if undo else self.document.redo)()
        if words is None:
            assert self.document.text == text
        self.plan()

    @invariant()
    def the_plan_is_of_the_riff(self) -> None:
        document = self.document
        if document.error is None and document.plan is not None:
            assert document.plan.riff.phrases == not_none(document.reading).riff.phrases
            assert len(document.plan.states) == len(document.plan.task.steps)


Working.TestCase.settings = settings(
    max_examples=15, stateful_step_count=12, deadline=None, suppress_health_check=list(HealthCheck)
)
TestWorking = Working.TestCase


# Frets in fours, a bar in eights; the cursor goes to the next string between fours.
EIGHT_BARS = ("5355", "5357", "8755", "5357", "5355", "8785", "7578", "5755") * 2


def test_an_eight_bar_riff_from_paper_to_a_decision(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    """The whole job by keys alone, counted: enter, find the worst spot, try two other ways, take one."""
    keys = 0

    def press(widget: QWidget, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        nonlocal keys
        qtbot.keyClick(widget, key, modifier)
        keys += 1

    press(window, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    board = window.riff_page.board
    press(board, Qt.Key.Key_Semicolon)
    for number, four in enumerate(EIGHT_BARS):
        if number:
            press(board, Qt.Key.Key_Down if number % 4 else Qt.Key.Key_Up)
        for digit in four:
            press(board, Qt.Key(Qt.Key.Key_0 + int(digit)))
    assert len([event for event in not_none(window.document.reading).riff.written_events() if event.notes]) == 64
    wait()
    press(window, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    chart, document = window.plan_page.chart, window.document
    worst, first = not_none(document.plan).bottlenecks[0], document.plan
    assert (
        not_none(document.plan).event_of_step(not_none(document.chosen))
        is not_none(document.plan).events[worst.end]
    )
    press(chart, Qt.Key.Key_1)
    wait()
    assert not_none(document.plan).states != not_none(first).states
    press(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    wait()
    press(chart, Qt.Key.Key_2)
    wait()
    assert "!" in document.text or "@" in document.text or "^" in document.text
    assert keys <= 90


def test_the_plan_of_a_long_riff_shows_before_its_prices(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    page = window.plan_page
    seen: list[tuple[PriceState, int]] = []

    def words() -> str:
        return " ".join(label.text() for label in page.reasons.findChildren(QLabel))

    def note(change: Change) -> None:
        if change is Change.PLAN and window.document.plan is not None:
            seen.append((window.document.prices, len(page.reasons.offers())))

    window.show_stage(TITLES.index("Plan"))
    window.document.listen(note)
    window.document.start("| " + "6:5/8 6:7 5:5 5:7 4:5 4:7 5:7 5:5 |\n| " * 24 + "6:5/1 |\n")
    qtbot.waitUntil(lambda: len(seen) == 2, timeout=60_000)
    wait()
    assert [prices for prices, *_ in seen] == [PriceState.COMING, PriceState.KNOWN]
    assert not seen[0][1]
    assert seen[1][1]
    page.chart.setFocus()
    # PriceState for the highest tempo last long enough to be cancelled.
    window.document.set_plan_settings(replace(window.document.plan_settings, objective=Objective.TEMPO))
    qtbot.keyClick(page.chart, Qt.Key.Key_1)
    qtbot.waitUntil(lambda: window.document.prices is PriceState.COMING, timeout=60_000)
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    assert window.document.prices is PriceState.CANCELLED
    assert not window.planner.working
    qtbot.waitUntil(lambda: "F5 prices them" in words())
    qtbot.keyClick(window, Qt.Key.Key_F5)
    qtbot.waitUntil(lambda: window.document.prices is PriceState.KNOWN, timeout=120_000)
    assert page.reasons.offers()


def test_a_note_of_a_repeated_phrase_is_priced_beside_the_window(
    window: MainWindow, qtbot: QtBot, wait: Wait, monkeypatch: pytest.MonkeyPatch
) -> None:
    threads: list[bool] = []
    looked = threading.Event()
    priced = planning.PricesInRounds._priced

    def watched(*args: object) -> object:
        threads.append(threading.current_thread() is threading.main_thread())
        looked.wait(10)
        return priced(*args)  # type: ignore[arg-type]

    monkeypatch.setattr(planning.PricesInRounds, "_priced", watched)
    window.document.set_text("tempo: 110\n[A] | 5:5/8 5:7 4:5 4:7 3:5 4:7 4:5 5:7 | x3\n")
    wait()
    window.show_stage(1)
    window.document.choose(5)
    reasons = window.plan_page.reasons
    assert reasons.prices is PriceState.COMING
    assert reasons.offers() == ()
    looked.set()
    qtbot.waitUntil(lambda: reasons.prices is PriceState.KNOWN, timeout=20_000)
    qtbot.waitUntil(lambda: bool(reasons.findChildren(QPushButton, "offer")), timeout=20_000)
    offers, cost = reasons.offers(), not_none(window.document.plan).cost
    assert set(threads) == {False}
    qtbot.keyClick(window.plan_page.chart, Qt.Key.Key_1)
    wait()
    assert not_none(window.document.plan).cost - cost == pytest.approx(offers[0].price, abs=1e-9)
