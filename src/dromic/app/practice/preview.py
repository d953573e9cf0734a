"""A riff shown as its plan, worked out in a thread: the preview beside a list of pieces."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from dromic.app.chart.view import ChartView
from dromic.app.error_text import error_words
from dromic.app.jobs import Jobs
from dromic.app.shell.sliding_row import SlidingRow
from dromic.app.theme import Theme
from dromic.errors import DromicError
from dromic.music.riff import Riff
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request

PAUSE_MS = 60


class RiffPreview(QWidget):
    """Shows a riff's chart, and offers to open or to practise it.

    Signals
    -------
    riff_wanted, work_wanted : Riff
        It is to be opened as a riff of its own, or practised with every session.
    planned : Plan
        Its plan is there.
    """

    riff_wanted = pyqtSignal(object)
    work_wanted = pyqtSignal(object)
    planned = pyqtSignal(object)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.riff: Riff | None = None
        self.jobs = Jobs(self)
        self.jobs.found.connect(self._take)
        self.jobs.finished.connect(self._end)
        self.name = QLabel()
        self.name.setObjectName("strong")
        self.name.setWordWrap(True)
        self.chart = ChartView(theme)
        self.chart.set_view(1.0, padlocks=False)
        self.chart.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.chart.setAccessibleName("Chart of the piece")
        self.chart.empty_words = "The piece that is chosen shows here."
        self.words = QLabel()
        self.words.setObjectName("quiet")
        self.words.setWordWrap(True)
        self.open = QPushButton("As a riff of its own (Enter)")
        self.open.clicked.connect(self.open_it)
        self.work = QPushButton("Into the sessions (W)")
        self.work.setToolTip("Practise it with every session from now on")
        self.work.clicked.connect(self.work_on_it)
        buttons = QWidget()
        row = QHBoxLayout(buttons)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.open)
        row.addWidget(self.work)
        row.addStretch(1)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(6)
        rows.addWidget(self.name)
        rows.addWidget(self.chart, 1)
        rows.addWidget(self.words)
        rows.addWidget(SlidingRow(buttons))
        self.show_riff(None)

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self.chart.set_theme(theme)

    def show_riff(self, riff: Riff | None, name: str = "", request: Request | None = None) -> None:
        """Plan a riff and show it; None for nothing.

        Parameters
        ----------
        riff : Riff or None
        name : str
        request : Request or None
        """
        self.riff = riff
        self.name.setText(name)
        self.words.clear()
        for button in (self.open, self.work):
            button.setEnabled(riff is not None)
        if riff is None or request is None:
            self.jobs.cancel()
            self.chart.set_plan(None)
            return
        self.jobs.ask(lambda watch: iter([plan_riff(riff, request, watch=watch)]), PAUSE_MS)

    def _take(self, plan: Plan) -> None:
        self.chart.set_plan(plan)
        self.chart.fit_short()
        ceiling = f"ceiling {plan.ceiling:.0f}" if plan.ceiling is not None else "no ceiling"
        self.words.setText(f"{len(plan.states)} notes, {ceiling} under {plan.school.title.lower()}")
        self.planned.emit(plan)

    def _end(self, trouble: DromicError | None) -> None:
        if trouble is not None:
            self.chart.set_plan(None)
            self.words.setText(error_words(trouble))

    def open_it(self) -> None:
        """Open the riff by itself."""
        if self.riff is not None:
            self.riff_wanted.emit(self.riff)

    def work_on_it(self) -> None:
        """Practise it with every session."""
        if self.riff is not None:
            self.work_wanted.emit(self.riff)


class PiecesView(QWidget):
    """A view with a list of pieces and the preview of one; W practises it.

    Parameters
    ----------
    theme : Theme
    parent : QWidget or None
    """

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.preview = RiffPreview(theme)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Practise the chosen piece."""
        if event is not None and not event.modifiers() and event.key() == Qt.Key.Key_W:
            self.preview.work_on_it()
            return
        super().keyPressEvent(event)
