"""The file that is open, and what other programs do to it meanwhile."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from dromic.app.document import Document
from dromic.app.document_file import ChangedOnDiskError, write_contents
from dromic.app.files.changed_dialog import ChangedDialog
from dromic.app.window import MainWindow
from dromic.errors import RiffError
from dromic.formats.project import Project, read_project
from tests.helpers import not_none

LEFT = Qt.MouseButton.LeftButton


def changed_outside(path: Path, text: str) -> None:
    path.write_text(text)


def answered(window: MainWindow, qtbot: QtBot, press: Callable[[ChangedDialog], QPushButton]) -> list[str]:
    """Press a button of the dialog that is about to open, and say what it showed."""
    shown: list[str] = []

    def press_it() -> None:
        dialog = not_none(window.files.changed)
        shown.append(dialog.shown.toPlainText())
        qtbot.mouseClick(press(dialog), LEFT)

    QTimer.singleShot(50, press_it)
    return shown


@pytest.fixture
def mine(window: MainWindow, tmp_path: Path) -> Path:
    path = tmp_path / "mine.riff"
    path.write_text("title: Mine\n| 6:0/1 |\n")
    window.open_file(path)
    return path


def test_a_file_that_others_changed_is_not_overwritten_unasked(
    window: MainWindow, qtbot: QtBot, mine: Path
) -> None:
    window.document.set_text("title: Mine\n| 6:3/1 |\n")
    changed_outside(mine, "title: Theirs\n| 6:0/1 |\n")
    shown = answered(window, qtbot, lambda dialog: dialog.later)
    assert not window.files.save()
    assert mine.read_text() == "title: Theirs\n| 6:0/1 |\n"
    assert window.document.changed
    assert "- title: Mine" in shown[0]
    assert "+ title: Theirs" in shown[0]
    answered(window, qtbot, lambda dialog: dialog.mine)
    assert window.files.save()
    assert mine.read_text() == "title: Mine\n| 6:3/1 |\n"
    # Theirs can be had back.
    assert mine.with_name("mine.riff.bak").read_text() == "title: Theirs\n| 6:0/1 |\n"
    assert window.files.save()


def test_taking_theirs_can_be_undone(window: MainWindow, qtbot: QtBot, mine: Path) -> None:
    window.document.set_text("title: Mine\n| 6:3/1 |\n")
    changed_outside(mine, "title: Theirs\n| 6:0/1 |\n")
    answered(window, qtbot, lambda dialog: dialog.theirs)
    assert window.files.save()
    assert window.document.text == "title: Theirs\n| 6:0/1 |\n"
    assert not window.document.changed
    window.document.undo()
    assert window.document.text == "title: Mine\n| 6:3/1 |\n"
    assert window.document.changed


def test_what_is_open_unchanged_follows_its_file(window: MainWindow, qtbot: QtBot, mine: Path) -> None:
    changed_outside(mine, "title: Theirs\n| 6:5/1 |\n")
    qtbot.waitUntil(lambda: "Theirs" in window.document.text, timeout=5000)
    assert not window.document.changed
    # Again, by an editor that replaces the file.
    other = mine.with_name("other")
    other.write_text("title: Once more\n| 6:7/1 |\n")
    other.replace(mine)
    qtbot.waitUntil(lambda: "Once more" in window.document.text, timeout=5000)


def test_a_change_outside_is_noticed_while_there_is_something_to_lose(
    window: MainWindow, qtbot: QtBot, mine: Path
) -> None:
    window.document.set_text("title: Mine\n| 6:3/1 |\n")
    changed_outside(mine, "title: Theirs\n| 6:0/1 |\n")
    qtbot.waitUntil(lambda: window.files.changed is not None and window.files.changed.isVisible(), timeout=5000)
    qtbot.mouseClick(not_none(window.files.changed).mine, LEFT)
    assert window.files.save()
    assert mine.read_text() == "title: Mine\n| 6:3/1 |\n"


def test_a_change_in_the_very_last_moment_is_noticed(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    document = Document()
    path = tmp_path / "a.riff"
    path.write_text("| 6:0/1 |\n")
    document.open(path)
    document.set_text("| 6:3/1 |\n")

    on_disk = os.fsync

    def late(handle: int) -> None:
        on_disk(handle)
        changed_outside(path, "| 6:5/1 |\n")

    monkeypatch.setattr("dromic.storage.writing.os.fsync", late)
    with pytest.raises(ChangedOnDiskError, match="another program has changed this file since it was opened"):
        document.save(path)
    assert path.read_text() == "| 6:5/1 |\n"


def test_a_save_that_is_refused_leaves_the_backup_alone(tmp_path: Path) -> None:
    document = Document()
    path = tmp_path / "a.riff"
    path.write_text("| 6:0/1 |\n")
    document.open(path)
    document.set_text("| 6:3/1 |\n")
    document.save(path)
    path.chmod(0o444)
    document.set_text("| 6:5/1 |\n")
    with pytest.raises(RiffError, match="read-only"):
        document.save(path)
    assert (tmp_path / "a.riff.bak").read_text() == "| 6:0/1 |\n"


def test_an_unreadable_project_that_is_written_over_stays_beside_it(tmp_path: Path) -> None:
    document = Document()
    path = tmp_path / "a.dromic"
    document.set_text("| 6:3/1 |\n")
    document.save(path)
    document.set_text("| 6:7/1 |\n")
    document.save(path)
    path.write_text("theirs, half written")
    write_contents(Project("| 6:5/1 |\n"), path, None)
    assert (tmp_path / "a.dromic.unreadable").read_text() == "theirs, half written"
    assert read_project(tmp_path / "a.dromic.bak").text == "| 6:3/1 |\n"


def test_a_project_with_half_a_character_opens_and_can_be_saved(tmp_path: Path) -> None:
    path = tmp_path / "a.dromic"
    document = Document()
    document.set_text("title: A\n| 6:0/1 |\n")
    document.save(path)
    path.write_text(path.read_text().replace("title: A", "title: A\\ud83c"))
    document.open(path)
    assert "title: A?" in document.text
    document.save(path)
    assert read_project(path).text == document.text
