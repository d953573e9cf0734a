"""Notes of the player's own, and plans kept to come back to; both are saved with a project."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.app.error_text import error_words
from dromic.errors import DromicError
from dromic.formats.project import LONGEST_NAME, MOST_NOTES
from dromic.schools.registry import SCHOOLS

_COLUMNS = ("name", "school", "effort", "ceiling")


class SavedPlansDialog(QDialog):
    """Shows and changes notes and saved plans.

    Signals
    -------
    told : str
    """

    message = pyqtSignal(str)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Notes and saved plans")
        self.resize(640, 520)
        self._document = document
        self.notes = QPlainTextEdit(document.notes)
        self.notes.setAccessibleName("Notes")
        self.notes.setPlaceholderText("What to watch, what went well, which tempo")
        self.table = QTableWidget(0, len(_COLUMNS))
        self.table.setHorizontalHeaderLabels(list(_COLUMNS))
        self.table.setAccessibleName("Saved plans")
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QTableWidget.SelectionMode.SingleSelection)
        self.table.setShowGrid(False)
        header, side = self.table.horizontalHeader(), self.table.verticalHeader()
        if header is not None and side is not None:
            side.hide()
            header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.name = QLineEdit()
        self.name.setMaxLength(LONGEST_NAME)
        self.name.setPlaceholderText("A name for this plan")
        self.name.setAccessibleName("Name of the plan")
        self.keep_button = QPushButton("Save this plan")
        self.take_button = QPushButton("Go back to it")
        self.take_button.setToolTip("Back to this plan: its riff with everything decided, its school and hands")
        self.drop_button = QPushButton("Delete")
        self._build()
        self.notes.textChanged.connect(self._noted)
        self.name.textChanged.connect(lambda _text: self._can())
        self.name.returnPressed.connect(self._keep)
        self.keep_button.clicked.connect(self._keep)
        self.take_button.clicked.connect(lambda: self._try(document.take_up))
        self.drop_button.clicked.connect(lambda: self._try(document.drop_plan))
        self.table.itemSelectionChanged.connect(self._can)
        document.listen(self._heard)
        self.finished.connect(lambda _result: document.forget(self._heard))
        self._fill()

    def _build(self) -> None:
        column = QVBoxLayout(self)
        for words, widget in (("Notes", self.notes), ("Saved plans", self.table)):
            caption = QLabel(words)
            caption.setObjectName("section")
            column.addWidget(caption)
            column.addWidget(widget, 1)
        row = QHBoxLayout()
        row.addWidget(self.name, 1)
        for button in (self.keep_button, self.take_button, self.drop_button):
            button.setAutoDefault(False)
            row.addWidget(button)
        column.addLayout(row)
        hint = QLabel("They are saved with a project (.dromic), not with riff text alone.")
        hint.setObjectName("quiet")
        column.addWidget(hint)
        end = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        end.rejected.connect(self.reject)
        column.addWidget(end)

    def _fill(self) -> None:
        self.table.setRowCount(len(self._document.kept))
        for row, one in enumerate(self._document.kept):
            ceiling = "–" if one.ceiling is None else f"{one.ceiling:.0f}"
            texts = (one.name, SCHOOLS[one.plan_settings.school].title, f"{one.cost:.2f}", ceiling)
            for at, text in enumerate(texts):
                item = QTableWidgetItem(text)
                if at >= 2:
                    item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(row, at, item)
        self._can()

    def _can(self) -> None:
        chosen = self._chosen() is not None
        self.take_button.setEnabled(chosen)
        self.drop_button.setEnabled(chosen)
        self.keep_button.setEnabled(bool(self.name.text().strip()) and self._document.plan is not None)

    def _chosen(self) -> str | None:
        rows = self.table.selectionModel()
        picked = rows.selectedRows() if rows is not None else []
        return self._document.kept[picked[0].row()].name if picked else None

    def _noted(self) -> None:
        self._document.note(self.notes.toPlainText()[:MOST_NOTES])

    def _keep(self) -> None:
        name = " ".join(self.name.text().split())
        if not name:
            return
        try:
            self._document.keep_plan(name)
        except DromicError as error:
            self.message.emit(error_words(error))
            return
        self.name.clear()

    def _try(self, do: object) -> None:
        name = self._chosen()
        if name is not None and callable(do):
            do(name)

    def _heard(self, change: Change) -> None:
        if change in (Change.KEPT, Change.FILE, Change.PLAN):
            self._fill()
        if change in (Change.KEPT, Change.FILE) and self.notes.toPlainText() != self._document.notes:
            self.notes.blockSignals(True)
            self.notes.setPlainText(self._document.notes)
            self.notes.blockSignals(False)
