"""Files in the window: opening, pasting, dropping, exporting, projects, notes and saved plans."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import mido
import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QApplication, QFileDialog, QMessageBox
from pytestqt.qtbot import QtBot

from dromic.app.jobs import CancelledError, wait_for
from dromic.app.window import MainWindow
from dromic.errors import RiffError
from dromic.formats.project import Project, read_project, write_project
from dromic.formats.registry import open_file, read_part
from dromic.hands.profile import Hands, Measures, hands_named, with_measures
from dromic.music.pitch import Pitch
from dromic.music.riff import INFERRED
from dromic.planner.plan_settings import OWN_HANDS, PlanSettings
from tests.app.conftest import settle
from tests.helpers import not_none

Wait = Callable[[], None]
FOREIGN = Path(__file__).parents[1] / "formats" / "foreign.musicxml"
TAB = "\n".join(
    ["4/4, 120 bpm"] + [f"{label}|{'-5-5-7-7-' if label == 'A' else '---------'}|" for label in "eBGDAE"]
)
TUNES = ("Gate", "Shutter", "Ferry", "Nails", "Harbour", "Wren", "Roof", "Barley", "Salt", "Slate", "Kiln")
ABC = "".join(f"X:{n}\nT:{name}\nM:4/4\nL:1/4\nQ:120\nK:G\nGABc|\n" for n, name in enumerate(TUNES, start=1))


def boxes_of(window: MainWindow) -> list[str]:
    return [f"{box.text()} {box.informativeText()}" for box in window.findChildren(QMessageBox)]


def test_a_tune_book_is_opened_through_a_chooser(
    window: MainWindow, tmp_path: Path, qtbot: QtBot, wait: Wait
) -> None:
    file = tmp_path / "book.abc"
    file.write_text(ABC)
    window.open_file(file)
    dialog = window.files.dialog
    assert not_none(dialog).list.count() == 11
    not_none(dialog).search.setText("roof")
    assert [row for row in range(11) if not not_none(not_none(dialog).list.item(row)).isHidden()] == [6]
    not_none(dialog).list.setCurrentRow(6)
    assert not not_none(dialog).open_button.isEnabled()
    wait()
    assert not_none(dialog).heading.text().startswith("Roof: 1 bar, 4 notes (ABC)")
    assert not_none(dialog).board.cells
    qtbot.mouseClick(not_none(dialog).open_button, Qt.MouseButton.LeftButton)
    wait()
    assert not_none(window.document.reading).riff.title == "Roof"
    assert window.document.plan is not None
    assert not window.document.changed
    assert window.recent_files()[0] == file


def test_pasted_tablature_is_understood_while_it_is_mended(window: MainWindow, qtbot: QtBot, wait: Wait) -> None:
    not_none(QApplication.clipboard()).setText("only words")
    settle(window)
    qtbot.keyClick(window, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    dialog = window.files.dialog
    wait()
    assert not not_none(dialog).open_button.isEnabled()
    assert "No tablature is found" in not_none(dialog).remarks.text()
    not_none(dialog).page.setPlainText("half of it")
    not_none(dialog).page.setPlainText(TAB)
    assert not not_none(dialog).open_button.isEnabled()
    wait()
    assert not_none(dialog).open_button.isEnabled()
    assert "inferred" in not_none(dialog).remarks.text()
    not_none(dialog).accept()
    wait()
    assert "5:5/4 5:5 5:7 5:7" in window.document.text.replace("5:5 5:5", "5:5/4 5:5")
    # It is nowhere else, so it counts as not saved.
    assert window.document.changed
    # Its bar is marked until the player gives it another rhythm.
    window.show_stage(0)
    board = window.riff_page.board
    assert [cell.comment for cell in board.sheet.cells] == ["", "", "", INFERRED]
    qtbot.keyClick(board, Qt.Key.Key_M)
    assert board.sheet.cells[-1].comment == INFERRED
    qtbot.keyClicks(board, "/8")
    assert not any(cell.comment for cell in board.sheet.cells)


def drop(window: MainWindow, data: QMimeData) -> None:
    kinds = (Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
    window.dropEvent(QDropEvent(QPointF(5, 5), *kinds))


def test_files_and_text_are_dropped(window: MainWindow, wait: Wait) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(FOREIGN))])
    drop(window, data)
    assert not_none(window.files.dialog).list.count() == 2
    not_none(window.files.dialog).reject()
    data = QMimeData()
    data.setText(TAB)
    drop(window, data)
    wait()
    assert not_none(not_none(window.files.dialog).opened).kind == "text tablature"
    not_none(window.files.dialog).reject()


@pytest.mark.parametrize("suffix", [".musicxml", ".mxl", ".txt", ".mid", ".abc", ".riff"])
def test_the_plan_is_exported(
    window: MainWindow, tmp_path: Path, suffix: str, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    file = tmp_path / f"out{suffix}"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(file), ""))
    qtbot.keyClick(window, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    opened = open_file(file)
    brought = read_part(opened)
    notes = [event for event in brought.riff.written_events() if event.notes]
    assert len(notes) >= 20
    if suffix not in (".mid", ".abc"):
        assert all(event.locks.stroke is not None for event in notes if not event.marks)
    assert f"Saved as out{suffix}" in not_none(window.statusBar()).currentMessage()
    if suffix in (".mid", ".abc"):
        assert any("not all of it" in one for one in boxes_of(window))


def test_a_score_is_given_strokes_in_place(
    window: MainWindow, tmp_path: Path, wait: Wait, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.files.into_score()
    assert "not opened from a MusicXML score" in not_none(window.statusBar()).currentMessage()
    window.open_file(FOREIGN)
    wait()
    not_none(window.files.dialog).accept()
    wait()
    file = tmp_path / "planned.musicxml"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(file), ""))
    window.files.into_score()
    text = file.read_text()
    assert "<lyric" in text
    assert text.count("-bow") == 9
    window.document.set_text("| C4/4 D4 E4 F4 |\n")
    wait()
    assert not window.files.score_to(file)
    assert "other notes or lengths" in boxes_of(window)[-1]
    assert file.read_text() == text


def test_wrong_files_leave_everything_as_it_was(window: MainWindow, tmp_path: Path) -> None:
    before = window.document.text
    (tmp_path / "a.mid").write_bytes(b"MThd\0\0")
    (tmp_path / "b.musicxml").write_bytes(b"<html/>")
    (tmp_path / "c.abc").write_text("nothing")
    (tmp_path / "d.dromic").write_text('{"schema": 99}')
    for name, words in (
        ("a.mid", "broken"),
        ("b.musicxml", "no MusicXML score"),
        ("c.abc", "no tune"),
        ("d.dromic", "newer Dromic"),
        ("gone.abc", "no such file"),
        (".", "folder"),
    ):
        window.open_file(tmp_path / name)
        assert words in boxes_of(window)[-1], name
    assert window.document.text == before


def test_a_project_keeps_school_notes_and_plans(
    window: MainWindow, tmp_path: Path, wait: Wait, qtbot: QtBot
) -> None:
    qtbot.keyClick(window, Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier)
    dialog = window.kept_dialog
    dialog.notes.setPlainText("slow first")
    dialog.name.setText("as pulse")
    qtbot.mouseClick(dialog.keep_button, Qt.MouseButton.LeftButton)
    assert not_none(dialog.table.item(0, 0)).text() == "as pulse"
    assert not_none(dialog.table.item(0, 1)).text() == "Pulse alternate"
    window.plan_page.plan_settings.school.setCurrentIndex(window.plan_page.plan_settings.school.findData("economy"))
    wait()
    strokes = [state.stroke for state in not_none(window.document.plan).states]
    file = tmp_path / "a.dromic"
    assert window.files.save_to(file)
    assert not window.document.changed
    assert read_project(file).plan_settings.school == "economy"
    window.document.note("slow first, then faster")
    assert window.document.changed
    assert window.files.save_to(file)
    dialog.reject()
    window.document.start("| 6:0/1 |\n")
    window.open_file(file)
    wait()
    assert window.document.notes == "slow first, then faster"
    assert [state.stroke for state in window.document.plan.states] == strokes
    window.show_kept()
    dialog = window.kept_dialog
    dialog.table.selectRow(0)
    qtbot.mouseClick(dialog.take_button, Qt.MouseButton.LeftButton)
    wait()
    assert window.document.plan_settings.school == "pulse-alternate"
    assert "!d" in window.document.text
    window.document.undo()
    wait()
    assert window.document.plan_settings.school == "economy"
    qtbot.mouseClick(dialog.drop_button, Qt.MouseButton.LeftButton)
    assert window.document.kept == ()
    window.document.undo()
    assert [one.name for one in window.document.kept] == ["as pulse"]


def test_a_project_of_somebody_else_leaves_my_hands_alone(window: MainWindow, tmp_path: Path) -> None:
    mine = with_measures(hands_named("medium"), Measures(0.9, 1.2, 1.1))
    other = with_measures(hands_named("medium"), Measures(1.2, 0.8, 0.9))
    window.document.set_plan_settings(replace(window.document.plan_settings, own=mine))
    assert window.store.settings.hands == mine
    write_project(Project("| 6:0/1 |\n"), tmp_path / "plain.dromic")
    write_project(Project("| 6:0/1 |\n", PlanSettings(hands=OWN_HANDS, own=other)), tmp_path / "other.dromic")
    window.document._saved = window.document.snapshot
    window.open_file(tmp_path / "plain.dromic")
    assert window.document.plan_settings.own == mine
    window.open_file(tmp_path / "other.dromic")
    assert window.document.plan_settings.player == other
    assert window.store.settings.hands == mine
    window.document.set_plan_settings(replace(window.document.plan_settings, own=mine))
    window.open_demo(window.riffs[1])
    assert window.document.plan_settings.own == mine


def test_hands_that_are_undone_are_remembered_no_more(window: MainWindow, tmp_path: Path) -> None:
    def hands(reach: float) -> Hands:
        return with_measures(hands_named("medium"), Measures(reach, 1.0, 1.0))

    def set_plan_settings(own: Hands) -> None:
        window.document.set_plan_settings(replace(window.document.plan_settings, hands=OWN_HANDS, own=own))

    def remembered() -> Hands | None:
        return window.store.settings.hands

    set_plan_settings(hands(0.9))
    set_plan_settings(hands(1.1))
    assert remembered() == hands(1.1)
    window.document.undo()
    assert remembered() == window.document.plan_settings.own == hands(0.9)
    window.document.redo()
    assert remembered() == window.document.plan_settings.own == hands(1.1)
    # Hands that a project brings are nobody's to remember; those beside which they were changed come back.
    write_project(Project("| 6:0/1 |\n", PlanSettings(hands=OWN_HANDS, own=hands(1.2))), tmp_path / "other.dromic")
    window.document._saved = window.document.snapshot
    window.open_file(tmp_path / "other.dromic")
    assert remembered() == hands(1.1)
    set_plan_settings(hands(0.8))
    assert remembered() == hands(0.8)
    window.document.undo()
    assert window.document.plan_settings.own == hands(1.2)
    assert remembered() == hands(1.1)


def test_text_alone_says_what_it_leaves_out(window: MainWindow, tmp_path: Path) -> None:
    window.document.note("mine")
    assert window.files.save_to(tmp_path / "a.riff")
    assert "need a project" in not_none(window.statusBar()).currentMessage()


def test_long_work_is_shown_and_can_be_given_up(window: MainWindow, qtbot: QtBot) -> None:
    from threading import Event

    from PyQt6.QtCore import QTimer
    from PyQt6.QtWidgets import QProgressDialog

    done = Event()

    def cancel() -> None:
        box = next(iter(window.findChildren(QProgressDialog)), None)
        if box is None:
            QTimer.singleShot(50, cancel)
        else:
            box.canceled.emit()
            box.cancel()

    QTimer.singleShot(50, cancel)
    with pytest.raises(CancelledError, match="does not want to wait"):
        wait_for(window, "Waiting…", lambda: done.wait(20))
    done.set()
    with pytest.raises(RiffError, match="as it was"):
        wait_for(window, "Waiting…", lambda: (_ for _ in ()).throw(RiffError("as it was")))
    assert wait_for(window, "Waiting…", lambda: 7) == 7


def test_a_midi_file_with_two_tracks(window: MainWindow, tmp_path: Path, wait: Wait) -> None:
    file = mido.MidiFile()
    for name, note in (("Lead", 64), ("Rhythm", 52)):
        track = mido.MidiTrack([mido.MetaMessage("track_name", name=name)])
        for _ in range(4):
            track += [
                mido.Message("note_on", note=note, velocity=90),
                mido.Message("note_off", note=note, time=480),
            ]
        file.tracks.append(track)
    file.save(tmp_path / "two.mid")
    window.open_file(tmp_path / "two.mid")
    dialog = window.files.dialog
    assert [not_none(not_none(dialog).list.item(row)).text() for row in range(2)] == [
        "Lead  (4 notes)",
        "Rhythm  (4 notes)",
    ]
    not_none(dialog).list.setCurrentRow(1)
    wait()
    not_none(dialog).accept()
    wait()
    assert not_none(window.document.reading).riff.written_events()[0].notes[0].target == Pitch("E", 0, 3)
