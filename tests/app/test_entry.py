"""Entering a riff by keys on the board, as a player does, and the two views in step."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from functools import partial
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QInputDialog
from pytestqt.qtbot import QtBot

from dromic.app.document import Document
from dromic.app.riff.entry import Entry
from dromic.app.window import MainWindow
from dromic.errors import RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.music.riff import Mark, Place, Stroke
from tests.helpers import not_none

NONE, CONTROL = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier
SHIFT, ALT = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.AltModifier
Wait = Callable[[], None]


@pytest.fixture
def board(window: MainWindow, qtbot: QtBot) -> Callable[[str], str]:
    """Start a small riff, and type on the board; returns the bars as text."""
    window.document.start("meter: 4/4\n| 6:0/8 6:0 6:0 6:0 6:0 6:0 6:0 6:0 |\n")
    window.show_stage(0)
    return lambda keys: typed(window, qtbot, keys)


def typed(window: MainWindow, qtbot: QtBot, keys: str) -> str:
    names = {
        "→": Qt.Key.Key_Right,
        "←": Qt.Key.Key_Left,
        "↑": Qt.Key.Key_Up,
        "↓": Qt.Key.Key_Down,
        "⇤": Qt.Key.Key_Home,
        "⇥": Qt.Key.Key_End,
        "␡": Qt.Key.Key_Delete,
        "⌫": Qt.Key.Key_Backspace,
        "⎀": Qt.Key.Key_Insert,
    }
    widget = window.riff_page.board
    for key in keys:
        if key in names:
            widget._typed = -1e9
            qtbot.keyClick(widget, names[key])
        else:
            qtbot.keyClicks(widget, key)
    return bars(window)


def bars(window: MainWindow) -> str:
    lines = [line for line in window.document.text.splitlines() if line.startswith(("|", "["))]
    return " ".join(lines)


def test_frets_of_one_and_two_digits(board: Callable[[str], str]) -> None:
    assert board("5→12→3") == "| 6:5/8 6:12 6:3 6:0 6:0 6:0 6:0 6:0 |"


def test_running_on_takes_one_key_a_note(window: MainWindow, board: Callable[[str], str]) -> None:
    assert board(";57'12↓3") == "| 6:5/8 6:7 6:12 (6:0 5:3) 6:0 6:0 6:0 6:0 |"
    assert "every fret goes on" in not_none(window.statusBar()).currentMessage().lower()
    assert board(";9→8").startswith("| 6:5/8 6:7 6:12 (6:0 5:3) (6:0 5:9) (6:0 5:8)")


def test_header_by_the_setup_bar(window: MainWindow, qtbot: QtBot, board: Callable[[str], str]) -> None:
    setup = window.riff_page.setup
    setup.gain.setCurrentText("high")
    setup.gain.activated.emit(2)
    setup.capo.setValue(2)
    setup.tempo.setValue(99)
    assert {"gain: high", "capo: 2", "tempo: 99"} <= set(window.document.text.splitlines())
    setup.ask_sizes()
    setup.dialog.boxes["scale"].setValue(700)
    setup.dialog.accept()
    assert "scale: 700" in window.document.text
    board("24")
    before = window.document.text
    setup.instrument.setCurrentText("bass-4")
    setup.instrument.activated.emit(3)
    assert window.document.text == before
    assert "bass-4 has strings 1 (thinnest) to 4" in not_none(window.statusBar()).currentMessage()
    assert setup.instrument.currentText() == "guitar-6"
    setup.meter.setCurrentText("7/8")
    setup.meter.activated.emit(6)
    assert "expected 7/2 quarter notes" in not_none(window.statusBar()).currentMessage()
    setup.tuning.setCurrentText("drop")
    setup.tuning.activated.emit(3)
    assert "tuning: drop" in window.document.text


def test_strings_chords_and_taking_out_one_note(board: Callable[[str], str]) -> None:
    assert board("3↓5").startswith("| (6:3 5:5)/8 6:0")
    assert board("␡").startswith("| 6:3/8 6:0")
    assert board("↑␡").startswith("| r/8 6:0")


def test_pitches_marks_locks_and_durations(board: Callable[[str], str]) -> None:
    assert board("C").startswith("| C4/8 6:0")
    assert board("m>").startswith("| C4.m>/8")
    assert board("m").startswith("| C4.>/8")
    assert board("d").startswith("| C4.>!d/8")
    assert board("u").startswith("| C4.>!u/8")
    assert board("⇤→/4").startswith("| C4.>!u/8 6:0/4 6:0/8")
    assert board("T").startswith("| C4.>!u/8 6:0/4t")
    assert board("T.").startswith("| C4.>!u/8 6:0/4.")
    assert board("bb").startswith("| C4.>!u/8 6:0.b2/4.")


def test_slides_trills_taps_and_harmonics(board: Callable[[str], str]) -> None:
    assert board("7i").startswith("| 6:7.i/8")
    # Marks that contradict each other take each other's place.
    assert board("a").startswith("| 6:7.a/8")
    assert board("H").startswith("| 6:7.T/8")
    assert board("H").startswith("| 6:7/8")
    assert board("n").startswith("| 6:7.n/8")
    assert board("w").startswith("| 6:7.w1/8")
    assert board("w").startswith("| 6:7.w2/8")
    assert board("wo").startswith("| 6:7.o/8")
    assert board("obbb").startswith("| 6:7.bq/8")
    assert board("b").startswith("| 6:7/8")


def test_a_harmonic_that_no_string_has_is_told(window: MainWindow, board: Callable[[str], str]) -> None:
    before = board("6")
    assert board("n") == before
    told = not_none(window.statusBar()).currentMessage()
    assert "a natural harmonic is written as its string and the fret that is touched" in told


def test_tuplets_of_any_count(window: MainWindow, board: Callable[[str], str]) -> None:
    assert board("⇥/6q5").endswith("6:0/8 6:0 6:0 6:0 6:0 6:0 6:0 6:0 |")
    assert board("5→3→5→3→5→q1/8").endswith("| 6:5/16q5 6:3 6:5 6:3 6:5 r/8 r r/2 |")
    before = board("⇤")
    assert board("q8") == before
    assert "8 is no tuplet" in not_none(window.statusBar()).currentMessage()
    assert window.document.history.undo_words is not None


def test_a_duration_for_everything_selected(window: MainWindow, qtbot: QtBot, board: Callable[[str], str]) -> None:
    for _ in range(4):
        qtbot.keyClick(window.riff_page.board, Qt.Key.Key_Right, SHIFT)
    assert board("q5") == "| 6:0/8q5 6:0 6:0 6:0 6:0 6:0/8 6:0 6:0 r |"
    assert board("/6") == "| 6:0/16q5 6:0 6:0 6:0 6:0 6:0/8 6:0 6:0 r r/4 |"
    window.document.undo()
    window.document.undo()
    assert bars(window) == "| 6:0/8 6:0 6:0 6:0 6:0 6:0 6:0 6:0 |"


def test_appending_beyond_the_end_makes_bars(board: Callable[[str], str]) -> None:
    found = board("⇥7 ")
    assert found == "| 6:0/8 6:0 6:0 6:0 6:0 6:0 6:0 6:0 | | 6:7 6:7 r/4 r/2 |"
    assert board("→5→/43").endswith("| 6:7 6:7 6:5 6:3/4 r/8 r/4 |")


def test_put_in_and_take_out(board: Callable[[str], str]) -> None:
    assert board("→9⎀").startswith("| 6:0/8 6:9 6:9 6:0")
    assert board("⌫").startswith("| 6:0/8 6:9 6:0 6:0")
    assert board("r").startswith("| 6:0/8 r 6:0")


def test_select_copy_paste_and_transpose(window: MainWindow, qtbot: QtBot, board: Callable[[str], str]) -> None:
    board("1→2→3⇤")
    widget = window.riff_page.board
    qtbot.keyClick(widget, Qt.Key.Key_Right, SHIFT)
    qtbot.keyClick(widget, Qt.Key.Key_C, CONTROL)
    assert "2 notes copied" in not_none(window.statusBar()).currentMessage()
    qtbot.keyClick(widget, Qt.Key.Key_End)
    qtbot.keyClick(widget, Qt.Key.Key_V, CONTROL)
    assert bars(window).endswith("| 6:1 6:2 r/4 r/2 |")
    qtbot.keyClick(widget, Qt.Key.Key_Home)
    qtbot.keyClick(widget, Qt.Key.Key_Up, CONTROL)
    assert bars(window).startswith("| 6:2/8 6:3 6:4 6:1")
    qtbot.keyClick(widget, Qt.Key.Key_Right, SHIFT)
    qtbot.keyClick(widget, Qt.Key.Key_X, CONTROL)
    assert bars(window).startswith("| 6:4/8 6:1")
    qtbot.keyClick(widget, Qt.Key.Key_1, ALT)
    assert "@1" in bars(window)
    qtbot.keyClick(widget, Qt.Key.Key_T, ALT)
    assert "@T" in bars(window)


def test_phrases_and_repeats(
    window: MainWindow, qtbot: QtBot, board: Callable[[str], str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("verse", True))
    monkeypatch.setattr(QInputDialog, "getInt", lambda *_a, **_k: (3, True))
    assert board("[").startswith("[verse] | 6:0")
    assert board("*").endswith("x3")
    qtbot.keyClick(window.riff_page.board, Qt.Key.Key_D, CONTROL)
    assert "[verse 2]" in bars(window)


def test_every_key_can_be_undone_and_done_again(window: MainWindow, board: Callable[[str], str]) -> None:
    first = bars(window)
    board("5→m")
    after = bars(window)
    while window.document.history.undo_words:
        window.document.undo()
    assert bars(window) == first
    while window.document.history.redo_words:
        window.document.redo()
    assert bars(window) == after


def test_a_click_puts_the_cursor_there(window: MainWindow, qtbot: QtBot, board: Callable[[str], str]) -> None:
    widget = window.riff_page.board
    cell = widget.cells[3]
    place = QPoint(round(cell.x + 8), round(widget.sheet.string_y(cell.y, 3)))
    qtbot.mouseClick(widget.viewport(), Qt.MouseButton.LeftButton, pos=place)
    assert (widget.entry.cursor, widget.entry.string) == (3, 3)
    assert board("7").startswith("| 6:0/8 6:0 6:0 (6:0 3:7) 6:0")


def test_what_cannot_be_done_is_told_and_nothing_is_lost(
    window: MainWindow, qtbot: QtBot, board: Callable[[str], str]
) -> None:
    before = bars(window)
    assert board("-") == before
    assert "cannot move there on its string" in not_none(window.statusBar()).currentMessage()
    window.riff_page.editor.setPlainText("| 6:99/1 |")
    assert board("5") == "| 6:99/1 |"
    assert "cannot be read just now" in not_none(window.statusBar()).currentMessage()


def test_text_and_board_stay_in_step(window: MainWindow, board: Callable[[str], str]) -> None:
    window.riff_page.editor.setPlainText("| 1:3/2 1:5 |")
    assert [cell.event.notes[0].target for cell in window.riff_page.board.cells] == [Place(1, 3), Place(1, 5)]
    board("⇤7")
    assert "1:7" not in window.riff_page.editor.toPlainText()
    assert "(6:7 1:3)/2" in window.riff_page.editor.toPlainText() or "6:7" in window.riff_page.editor.toPlainText()


KEYS = ["fret", "pitch", "rest", "insert", "silence", "remove", "last", "dot", "triplet", "mark", "stroke", "move"]


@given(st.lists(st.tuples(st.sampled_from(KEYS), st.integers(0, 30)), max_size=25))
@settings(max_examples=80, suppress_health_check=[HealthCheck.too_slow])
def test_whatever_is_typed_the_text_reads_back(done: list[tuple[str, int]]) -> None:
    document = Document()
    document.start("| 6:0/4 6:1 6:2 6:3 |\n")
    entry = Entry(document)
    for kind, number in done:
        acts: dict[str, Callable[[], object]] = {
            "fret": partial(entry.fret, number),
            "pitch": partial(entry.pitch, "ABCDEFG"[number % 7]),
            "rest": entry.rest,
            "insert": entry.insert,
            "silence": entry.silence,
            "remove": entry.remove,
            "last": partial(entry.last, (1, 2, 4, 8, 16, 32)[number % 6]),
            "dot": entry.dot,
            "triplet": entry.triplet,
            "mark": partial(entry.mark, list(Mark)[number % len(Mark)]),
            "stroke": partial(entry.stroke, (Stroke.UP, Stroke.DOWN)[number % 2]),
            "move": partial(entry.move, number % 7 - 3),
        }
        with suppress(RiffError):
            acts[kind]()
        entry.settle()
        entry.turn(number % 3 - 1) if document.error is None else document.undo()
    if document.error is None:
        again = read_riff_text(document.text).riff
        assert read_riff_text(write_riff_text(again)).riff == again


def test_board_text_and_plan_have_one_selection(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    document, page = window.document, window.riff_page
    document.start("meter: 2/4\n\n| 6:5/8 6:7 5:5 5:7 |\n", plan_settings=None)
    wait()
    document.choose(2)
    assert page.board.entry.cursor == 2
    qtbot.keyClick(page.board, Qt.Key.Key_Left)
    assert (document.cursor, document.chosen) == (1, 1)
    span = not_none(document.reading).spans[3]
    window.show_stage(0)
    page.editor.setFocus()
    page.editor.go_to(span.line, span.start)
    assert (document.cursor, document.chosen, page.board.entry.cursor) == (3, 3, 3)
    marked = page.editor.extraSelections()[0].cursor.selectedText()
    assert marked == "5:7"


def test_saving_and_undoing_leave_the_cursor_where_it_is(window: MainWindow, wait: Wait, tmp_path: Path) -> None:
    document = window.document
    document.start("meter: 2/4\n\n| 6:5/8 6:7 5:5 5:7 |\n")
    wait()
    document.select(2)
    document.set_text(document.text.replace("5:7", "5:8"))
    document.save(tmp_path / "a.riff")
    document.undo()
    assert document.cursor == 2
