"""What comes again in the riff and is not played as before, and why."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QLabel,
    QListWidget,
    QListWidgetItem,
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
    "Bars and notes that come again are played alike where that costs little more. Here are those that are not, "
    "each with what it would cost to play it as before. Choose one to see it on the chart; lock it there to have "
    "it so."
)
NOTHING = "All that comes again in this riff is played alike."
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
        self.resize(620, 440)
        self._document = document
        column = QVBoxLayout(self)
        words = QLabel(INTRODUCTION)
        words.setWordWrap(True)
        column.addWidget(words)
        self.list = QListWidget()
        self.list.setAccessibleName("What is played otherwise")
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(self._show)
        column.addWidget(self.list, 1)
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
        self.list.clear()
        if plan is None:
            self._jobs.cancel()
            self.state.setText("There is no plan; mend the riff first.")
            return
        self.state.setText(LOOKING)
        self._jobs.ask(lambda watch: played_otherwise(plan, request, watch))

    def _add(self, one: Otherwise) -> None:
        item = QListWidgetItem(f"{one.words}\n{one.why}")
        item.setData(Qt.ItemDataRole.UserRole, one.step)
        self.list.addItem(item)

    def _end(self, trouble: DromicError | None) -> None:
        if trouble is not None:
            self.state.setText(error_words(trouble))
        else:
            self.state.setText("" if self.list.count() else NOTHING)

    def _show(self, item: QListWidgetItem | None) -> None:
        if item is not None and self._document.plan is not None:
            self._document.choose(item.data(Qt.ItemDataRole.UserRole))

    def _heard(self, change: Change) -> None:
        if change is Change.PLAN:
            self._look()

    def _leave(self) -> None:
        self._document.forget(self._heard)
        self._jobs.stop()
