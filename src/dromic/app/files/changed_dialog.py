"""A file that another program has changed: what differs, and whose version is to stay."""

from __future__ import annotations

from enum import Enum, auto

from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLabel, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from dromic.app.document import Document
from dromic.app.document_file import contents, differences
from dromic.errors import RiffError

WIDTH, HEIGHT = 680, 460


class Kept(Enum):
    """Whose version stays."""

    MINE = auto()
    THEIRS = auto()
    BOTH = auto()
    UNDECIDED = auto()


class ChangedDialog(QDialog):
    """Asks whose version is to stay, and shows what differs.

    Parameters
    ----------
    document : Document
        The one whose file has been changed.
    parent : QWidget
    """

    def __init__(self, document: Document, parent: QWidget) -> None:
        super().__init__(parent)
        assert document.path is not None
        self.kept = Kept.UNDECIDED
        self.setObjectName("changed-on-disk")
        self.setWindowTitle("Changed by another program")
        self.resize(WIDTH, HEIGHT)
        words = QLabel(
            f"{document.path.name} has been changed by another program or window since it was opened here. "
            "Lines with - are yours, lines with + stand in the file. Whichever you do not keep can be had back: "
            "theirs from the backup beside the file, yours by undo."
        )
        words.setWordWrap(True)
        self.shown = QPlainTextEdit()
        self.shown.setReadOnly(True)
        self.shown.setAccessibleName("What differs")
        self.shown.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.mine, self.theirs = QPushButton("Keep &mine"), QPushButton("Take &theirs")
        self.both, self.later = QPushButton("&Save mine as…"), QPushButton("&Decide later")
        row = QHBoxLayout()
        row.addWidget(self.later)
        row.addStretch(1)
        for button, kept in ((self.both, Kept.BOTH), (self.theirs, Kept.THEIRS), (self.mine, Kept.MINE)):
            row.addWidget(button)
            button.clicked.connect(lambda _checked=False, one=kept: self._choose(one))
        self.later.clicked.connect(self.reject)
        self.later.setDefault(True)
        column = QVBoxLayout(self)
        column.setSpacing(10)
        column.addWidget(words)
        column.addWidget(self.shown, 1)
        column.addLayout(row)
        self._compare(document)

    def _compare(self, document: Document) -> None:
        assert document.path is not None
        try:
            theirs = contents(document.path, document.plan_settings).snapshot
        except RiffError as error:
            self.shown.setPlainText(f"What stands in the file now cannot be read: {error}")
            self.theirs.setEnabled(False)
            return
        mine = document.snapshot
        lines = list(differences(mine.text, theirs.text)) if mine.text != theirs.text else []
        if mine.notes != theirs.notes:
            lines += ["", "The notes differ:", *differences(mine.notes, theirs.notes)]
        if mine.kept != theirs.kept:
            lines += ["", f"Saved plans: {len(mine.kept)} here, {len(theirs.kept)} in the file."]
        if mine.plan_settings != theirs.plan_settings:
            lines += ["", "School, hands or other settings of the plan differ."]
        self.shown.setPlainText("\n".join(lines) or "The riff is the same; only the file is written otherwise.")

    def _choose(self, kept: Kept) -> None:
        self.kept = kept
        self.accept()
