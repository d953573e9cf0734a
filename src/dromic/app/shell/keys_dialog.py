"""All keys in one list that can be searched."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QDialog, QHeaderView, QLineEdit, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

KeyRow = tuple[str, str, str]


def action_rows(actions: Iterable[QAction], where: str) -> list[KeyRow]:
    """Keys of actions, with what they do and where."""
    action_rows = []
    for action in actions:
        keys = ", ".join(
            key.toString(QKeySequence.SequenceFormat.NativeText) for key in action.shortcuts() if not key.isEmpty()
        )
        if keys:
            action_rows.append((keys, action.text().replace("&", "").rstrip("…"), where))
    return action_rows


class KeysDialog(QDialog):
    """Shows keys, and only those that what is typed is found in."""

    def __init__(self, rows: list[KeyRow], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self.resize(640, 560)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search: a key, or what it does")
        self.search.setAccessibleName("Search keys")
        self.search.setClearButtonEnabled(True)
        self.table = QTableWidget(len(rows), 3)
        self.table.setHorizontalHeaderLabels(["keys", "what they do", "where"])
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setShowGrid(False)
        self.table.setAlternatingRowColors(True)
        for line, row in enumerate(rows):
            for column, text in enumerate(row):
                self.table.setItem(line, column, QTableWidgetItem(text))
        header, side = self.table.horizontalHeader(), self.table.verticalHeader()
        if header is not None and side is not None:
            side.hide()
            header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            header.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        column_box = QVBoxLayout(self)
        column_box.addWidget(self.search)
        column_box.addWidget(self.table)
        self.search.textChanged.connect(self._filter)
        self.search.setFocus(Qt.FocusReason.OtherFocusReason)

    def _filter(self, text: str) -> None:
        words = text.lower().split()
        for line in range(self.table.rowCount()):
            cells = [self.table.item(line, column) for column in range(3)]
            whole = " ".join(cell.text().lower() for cell in cells if cell is not None)
            self.table.setRowHidden(line, not all(word in whole for word in words))

    @property
    def shown(self) -> list[str]:
        """What the shown keys do."""
        shown = []
        for line in range(self.table.rowCount()):
            item = self.table.item(line, 1)
            if item is not None and not self.table.isRowHidden(line):
                shown.append(item.text())
        return shown
