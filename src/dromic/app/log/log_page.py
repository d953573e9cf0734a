"""The Log stage: the riff filling in, clean tempo over time, minutes, predictions, hands from the log."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QSignalBlocker, pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QSizePolicy,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from dromic.app.chart.view import ChartView
from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.app.error_text import error_words
from dromic.app.jobs import Jobs, single
from dromic.app.log.keeper import LogKeeper
from dromic.app.log.paint import CalibrationPlot, MinutesPlot, TempoPlot
from dromic.app.log.picture import LogPicture, draw_up
from dromic.app.log.table import WHAT, RepTable
from dromic.app.theme import Theme
from dromic.errors import DromicError
from dromic.formats.reading.raw import counted
from dromic.planner.plan import Plan
from dromic.practice.log.exchange import export_log, import_log
from dromic.practice.log.hands_from_log import changes_words

# What has to fit into each column of the table.
WIDEST = ("00 May 00:00", "", "Tempo", "not clean", "0 of 5")
SIDE, CELL_SPARE = 400, 10
FILTERS = "Practice log (*.csv *.json)"


class LogPage(QWidget):
    """Shows the log when it shows itself.

    Signals
    -------
    message : str
    hands_wanted : Hands
        The player takes the hands that the log offers.
    """

    message = pyqtSignal(str)
    hands_wanted = pyqtSignal(object)

    def __init__(self, document: Document, theme: Theme, log: LogKeeper, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document, self._log = document, log
        self._picture: LogPicture | None = None
        self._wanted = ""
        self._before: Plan | None = None
        self.drawing, self.moving = Jobs(self), Jobs(self)
        self.drawing.found.connect(self._show)
        self.drawing.finished.connect(self._failed)
        self.moving.found.connect(self._moved)
        self.moving.finished.connect(self._failed)
        self.label = QLabel()
        self.label.setObjectName("message")
        self.label.setProperty("good", "true")
        self.label.setWordWrap(True)
        self.riffs = QComboBox()
        self.riffs.setAccessibleName("Riff")
        self.riffs.setMinimumWidth(260)
        self.riffs.setPlaceholderText("Choose a riff")
        self.riffs.currentIndexChanged.connect(self._choose)
        self.state = QLabel()
        self.state.setObjectName("quiet")
        self.export, self.take_in = QPushButton("Export…"), QPushButton("Import…")
        self.export.setToolTip("Write the whole log as CSV or JSON")
        self.take_in.setToolTip("Take over repetitions from a CSV or JSON that was exported")
        self.export.clicked.connect(self.ask_export)
        self.take_in.clicked.connect(self.ask_import)
        self.chart = ChartView(theme)
        self.chart.setAccessibleName("Chart, filled as far as it is clean")
        self.filled = QLabel()
        self.filled.setObjectName("quiet")
        self.tempo, self.minutes, self.calibration = TempoPlot(theme), MinutesPlot(theme), CalibrationPlot(theme)
        self.offer = QFrame()
        self.offer.setObjectName("card")
        self.offer_words = QLabel()
        self.offer_words.setWordWrap(True)
        self.offer_words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.take_hands = QPushButton("Plan with these hands")
        self.take_hands.setToolTip("The plan is made anew with them; Ctrl+Z goes back")
        self.take_hands.clicked.connect(self._take_hands)
        self.rates = QLabel()
        self.rates.setObjectName("quiet")
        self.rates.setWordWrap(True)
        self.rates.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.reps = RepTable(self)
        self.table = QTableView()
        self.table.setModel(self.reps)
        self.table.setAccessibleName("Last repetitions")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setShowGrid(False)
        self._build()
        document.listen(self._heard)

    def _build(self) -> None:
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        rows.addWidget(self.label)
        top = QHBoxLayout()
        for widget in (self.riffs, self.state):
            top.addWidget(widget)
        top.addStretch(1)
        top.addWidget(self.export)
        top.addWidget(self.take_in)
        rows.addLayout(top)
        rows.addWidget(self.filled)
        rows.addWidget(self.chart, 5)
        lower = QHBoxLayout()
        lower.setSpacing(12)
        plots = QVBoxLayout()
        plots.addWidget(self.tempo, 3)
        below = QHBoxLayout()
        below.addWidget(self.minutes, 3)
        below.addWidget(self.calibration, 2)
        plots.addLayout(below, 3)
        lower.addLayout(plots, 1)
        side = QVBoxLayout()
        inside = QVBoxLayout(self.offer)
        inside.setContentsMargins(8, 6, 8, 6)
        inside.addWidget(self.offer_words)
        inside.addWidget(self.take_hands)
        side.addWidget(self.offer)
        side.addWidget(self.table, 1)
        side.addWidget(self.rates)
        holder = QWidget()
        holder.setLayout(side)
        side.setContentsMargins(0, 0, 0, 0)
        holder.setFixedWidth(SIDE)
        lower.addWidget(holder)
        rows.addLayout(lower, 6)
        numbers = self.table.verticalHeader()
        if numbers is not None:
            numbers.hide()

    def _size_columns(self) -> None:
        """Give what happened all the room that the other columns leave, by the letters that show."""
        header = self.table.horizontalHeader()
        if header is None:
            return
        header.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        for column, words in enumerate(WIDEST):
            header.resizeSection(column, self.table.fontMetrics().horizontalAdvance(words) + CELL_SPARE)
        header.setSectionResizeMode(WHAT, QHeaderView.ResizeMode.Stretch)

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        for part in (self.chart, self.tempo, self.minutes, self.calibration):
            part.set_theme(theme)

    def activated(self) -> None:
        """The page shows: read the log."""
        self._size_columns()
        self.refresh()
        self.riffs.setFocus()

    def _heard(self, change: Change) -> None:
        if change is Change.FILE:
            self._before = None
        plan = self._document.plan
        if change is Change.PLAN and plan is not None and self._before is not None and plan is not self._before:
            self.message.emit(changes_words(self._before, plan))
            self._before = None
        if change in (Change.PLAN, Change.FILE) and self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Read the log anew."""
        self.label.setText(self._log.label)
        self.label.setVisible(bool(self._log.label))
        plan, target, riff = self._document.plan, self._document.tempo, self._wanted
        log = self._log
        self.chart.set_plan(plan)
        self.drawing.ask(lambda watch: draw_up(log, plan, target, riff, watch))

    def _choose(self) -> None:
        self._wanted = self.riffs.currentData() or ""
        self.refresh()

    def _failed(self, trouble: DromicError | None) -> None:
        if trouble is not None:
            self.state.setText(error_words(trouble))
            self.message.emit(error_words(trouble))

    # -- showing ------------------------------------------------------------------------------------------------

    def _show(self, picture: LogPicture) -> None:
        self._picture = picture
        news = self._log.news()
        if news:
            self.label.setText(news)
            self.label.show()
        blocker = QSignalBlocker(self.riffs)
        self.riffs.clear()
        for riff in picture.riffs:
            self.riffs.addItem(f"{riff.title} · {riff.minutes:.0f} min", riff.name)
        if not picture.riffs:
            self.riffs.addItem("nothing practised yet", "")
        # The riff that is open may not have been practised: then none is chosen.
        self.riffs.setCurrentIndex(self.riffs.findData(picture.riff) if picture.riffs else 0)
        del blocker
        days = len(picture.minutes)
        total = sum(sum(kinds.values()) for kinds in picture.minutes.values())
        self.state.setText(
            f"{total:.0f} minutes on {counted(days, 'day')}, {counted(picture.count, 'repetition')} in all"
        )
        self.chart.set_progress(picture.progress)
        self.chart.fit()
        self.filled.setText(filled_words(picture.progress, self._document.tempo))
        self.tempo.show_days(picture.days, picture.ceiling, picture.target)
        self.minutes.show_minutes(picture.minutes)
        self.calibration.show_groups(picture.calibration)
        self.offer.setVisible(picture.offer is not None)
        if picture.offer is not None:
            self.offer_words.setText(f"<b>Your hands, from the log.</b> {picture.offer.words}")
        self.rates.setText(picture.rates.words)
        self.reps.show_reps(picture.last)

    def _take_hands(self) -> None:
        if self._picture is not None and self._picture.offer is not None:
            self._before = self._document.plan
            self.hands_wanted.emit(self._picture.offer.hands)

    # -- in and out ---------------------------------------------------------------------------------------------

    def ask_export(self) -> None:
        """Ask where to write the log."""
        name, _ = QFileDialog.getSaveFileName(self, "Export the log", "practice.csv", FILTERS)
        if name:
            self.export_to(Path(name))

    def export_to(self, path: Path) -> None:
        """Write the log."""
        log = self._log

        def work() -> str:
            return f"{counted(export_log(log.book(), path), 'repetition')} written to {path.name}"

        self.moving.ask(single(work))

    def ask_import(self) -> None:
        """Ask which file to take over."""
        name, _ = QFileDialog.getOpenFileName(self, "Import a log", "", FILTERS)
        if name:
            self.import_from(Path(name))

    def import_from(self, path: Path) -> None:
        """Take over the repetitions of a file."""
        log = self._log

        def work() -> str:
            return f"{counted(import_log(log.book(), path), 'new repetition')} from {path.name}"

        self.moving.ask(single(work))

    def _moved(self, words: str) -> None:
        self.message.emit(words)
        self.refresh()

    def left(self) -> None:
        """Another page shows."""

    def cancel(self) -> None:
        """Nothing is worked out here that could be stopped."""

    def stop(self) -> None:
        """Wait until no thread is left."""
        self.drawing.stop()
        self.moving.stop()


def filled_words(progress: tuple[float | None, ...], target: float) -> str:
    """How far a riff has filled in, in one sentence.

    Examples
    --------
    >>> filled_words((1.2, 0.8, None), 120)
    'Of 3 notes 1 is clean at 120 or faster, 1 at a lower tempo, 1 not yet. The field fills as the tempo comes.'
    """
    if not progress:
        return "Write a riff on the first page, and it fills in here as it gets clean."
    done = sum(share is not None and share >= 1.0 for share in progress)
    begun = sum(share is not None and share < 1.0 for share in progress)
    left = len(progress) - done - begun
    verb = "is" if done == 1 else "are"
    return (
        f"Of {len(progress)} notes {done} {verb} clean at {target:.0f} or faster, {begun} at a lower tempo, {left} "
        "not yet. The field fills as the tempo comes."
    )
