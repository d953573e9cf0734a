"""Riffs that earlier windows left unsaved: taken up one by one, thrown away, or left for later."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QMessageBox,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from dromic.app.recovery import RecoveredDocument, Recovery
from dromic.app.shell import message_boxes
from dromic.errors import RiffError

WIDTH, HEIGHT = 620, 420
EXPLAINED = (
    "The program ended before these riffs were saved. Open one in this window and save it where you want it; "
    "the others stay here until you open them or throw them away (File > Unsaved riffs)."
)


class RecoveryDialog(QDialog):
    """Lists what was left.

    Parameters
    ----------
    left : sequence of RecoveredDocument
    recovery : Recovery
        Where it lies.
    parent : QWidget
    """

    wanted = pyqtSignal(object)

    def __init__(self, left: Sequence[RecoveredDocument], recovery: Recovery, parent: QWidget) -> None:
        super().__init__(parent)
        self._left, self._recovery = list(left), recovery
        self.setObjectName("recovery")
        self.setWindowTitle("Unsaved riffs")
        self.resize(WIDTH, HEIGHT)
        words = QLabel(EXPLAINED)
        words.setWordWrap(True)
        self.list = QListWidget()
        self.list.setAccessibleName("Riffs left unsaved")
        self.list.currentRowChanged.connect(self._show)
        self.list.itemActivated.connect(lambda _item: self._take())
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setAccessibleName("The riff's text")
        self.take = QPushButton("&Open here")
        self.take.setDefault(True)
        self.throw = QPushButton("Th&row away…")
        self.later = QPushButton("&Later")
        self.take.clicked.connect(self._take)
        self.throw.clicked.connect(self._ask_to_throw)
        self.later.clicked.connect(self.reject)
        row = QHBoxLayout()
        row.addWidget(self.throw)
        row.addStretch(1)
        row.addWidget(self.later)
        row.addWidget(self.take)
        column = QVBoxLayout(self)
        column.setSpacing(10)
        column.addWidget(words)
        column.addWidget(self.list, 1)
        column.addWidget(self.text, 2)
        column.addLayout(row)
        self._fill()

    def _fill(self) -> None:
        self.list.clear()
        for one in self._left:
            item = QListWidgetItem(f"{one.name}, kept {one.when:%d %B %Y, %H:%M}")
            item.setToolTip("" if one.path is None else str(one.path))
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        self.list.setFocus(Qt.FocusReason.OtherFocusReason)

    @property
    def chosen(self) -> RecoveredDocument:
        """The one that is selected."""
        return self._left[max(self.list.currentRow(), 0)]

    def _show(self, row: int) -> None:
        self.text.setPlainText(self._left[row].project.text if row >= 0 else "")

    def _take(self) -> None:
        kept = self.chosen
        self.accept()
        self.wanted.emit(kept)

    def _ask_to_throw(self) -> None:
        box = QMessageBox(
            QMessageBox.Icon.Question,
            "Throw it away",
            f"Throw {self.chosen.name} away? It is saved nowhere else as it stands here.",
            QMessageBox.StandardButton.Yes | QMessageBox.StandardButton.Cancel,
            self,
        )
        box.setObjectName("throw-away")
        box.setDefaultButton(QMessageBox.StandardButton.Cancel)
        box.finished.connect(self._throw)
        box.open()

    def _throw(self, answer: int) -> None:
        if answer != QMessageBox.StandardButton.Yes:
            return
        kept = self.chosen
        try:
            self._recovery.throw_away(kept)
        except RiffError as error:
            message_boxes.tell(self, "It was not thrown away", error)
            return
        self._left.remove(kept)
        if not self._left:
            self.reject()
            return
        self._fill()
