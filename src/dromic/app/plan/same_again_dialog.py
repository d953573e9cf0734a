"""What comes again in the riff and is not played as before, and why."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHeaderView,
    QLabel,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.app.error_text import error_words
from dromic.app.jobs import Jobs
from dromic.errors import DromicError
from dromic.planner.same_again import Otherwise, played_otherwise

INTRODUCTION = (
    "Bars and notes that come again are played the same where that costs little more. Here are those that are not, "
    "each with what it would cost to play it as before. Choose one to see it on the chart; lock it there to have "
    "it so."
)
COLUMNS = ("what comes again", "played", "before", "cost as before", "because")
NOTHING = "All that comes again in this riff is played the same."
LOOKING = "Each is planned the other way, to say what it would cost…"


class SameAgainDialog(QDialog):
    """Lists what is not played as before, and goes to it on the chart.

    Parameters
    ----------
    document : Document
        With a plan.
    """

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Played otherwise when it comes again")
        self.resize(820, 440)
        self._document = document
        column = QVBoxLayout(self)
        words = QLabel(INTRODUCTION)
        words.setWordWrap(True)
        column.addWidget(words)
        self.table = QTableWidget(0, len(COLUMNS))
        self.table.setHorizontalHeaderLabels(list(COLUMNS))
        self.table.setAccessibleName("What is played otherwise")
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QTableWidget.SelectionMode.SingleSelection)
        self.table.setShowGrid(False)
        self.table.setWordWrap(True)
        header, side = self.table.horizontalHeader(), self.table.verticalHeader()
        if header is not None and side is not None:
            side.hide()
            side.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            header.setSectionResizeMode(len(COLUMNS) - 1, QHeaderView.ResizeMode.Stretch)
        self.table.itemSelectionChanged.connect(self._show)
        column.addWidget(self.table, 1)
        self.state = QLabel()
        self.state.setObjectName("quiet")
        self.state.setWordWrap(True)
        column.addWidget(self.state)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self._jobs = Jobs(self)
        self._jobs.found.connect(self._add)
        self._jobs.finished.connect(self._end)
        document.listen(self._heard)
        self.finished.connect(self._leave)
        self._look()

    def _look(self) -> None:
        plan, request = self._document.plan, self._document.plan_settings.request()
        self.table.setRowCount(0)
        if plan is None:
            self._jobs.cancel()
            self.state.setText("There is no plan; correct the riff first.")
            return
        self.state.setText(LOOKING)
        self._jobs.ask(lambda watch: played_otherwise(plan, request, watch))

    def _add(self, one: Otherwise) -> None:
        row = self.table.rowCount()
        self.table.insertRow(row)
        price = "no plan" if one.price is None else f"{one.price:+.2f}"
        texts = (f"{one.again}\n{one.where}", one.now, one.before, price, one.why)
        for at, text in enumerate(texts):
            item = QTableWidgetItem(text)
            item.setData(Qt.ItemDataRole.UserRole, one.step)
            self.table.setItem(row, at, item)

    def _end(self, trouble: DromicError | None) -> None:
        if trouble is not None:
            self.state.setText(error_words(trouble))
        else:
            self.state.setText("" if self.table.rowCount() else NOTHING)

    def _show(self) -> None:
        rows = self.table.selectedItems()
        if rows and self._document.plan is not None:
            self._document.choose(rows[0].data(Qt.ItemDataRole.UserRole))

    def _heard(self, change: Change) -> None:
        if change is Change.PLAN:
            self._look()

    def _leave(self) -> None:
        self._document.forget(self._heard)
        self._jobs.stop()
