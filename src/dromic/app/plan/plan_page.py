"""The Plan stage: the movement chart with the reasons beside it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QSize, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from dromic.app.chart.neck_view import HEIGHT as NECK_HEIGHT
from dromic.app.chart.neck_view import NeckView
from dromic.app.chart.overview import OverviewStrip
from dromic.app.chart.view import EMPTY, ChartView
from dromic.app.document import Document
from dromic.app.document_changes import Change, PriceState
from dromic.app.error_text import error_words
from dromic.app.plan.bar import PlanBar
from dromic.app.plan.reasons_panel import PANEL_LEAST, PANEL_WIDTH, PRICES_WORDS, ReasonsPanel
from dromic.app.plan.transport import Transport
from dromic.app.shell.folding_side import FoldingSide
from dromic.app.shell.look import set_look
from dromic.app.shell.sliding_row import SlidingRow
from dromic.app.theme import Theme
from dromic.errors import DromicError
from dromic.planner.ways import Alternative
from dromic.practice.passages.excerpt import excerpt
from dromic.practice.tempo.ladder import Range, around

# Heights in pixels: the neck gives way where the chart would get too low.
BARS, LEAST_CHART = 90, 360
LEAST = QSize(360, 240)

MEND = "There is no plan yet: correct what is said above (F8 goes there)."


class PlanPage(QWidget):
    """Follows the document's plan.

    Signals
    -------
    message : str
        What could not be done.
    drill_wanted : Range
        Steps to be practised.
    riff_wanted : Riff
        Steps to be opened as a riff of their own.
    """

    message = pyqtSignal(str)
    drill_wanted = pyqtSignal(object)
    riff_wanted = pyqtSignal(object)

    def __init__(self, document: Document, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self.chart = ChartView(theme)
        self.reasons = ReasonsPanel(theme)
        self.plan_settings = PlanBar(document)
        self.notice = QLabel()
        self.notice.setObjectName("message")
        self.notice.setWordWrap(True)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        rows.addWidget(SlidingRow(self.plan_settings))
        rows.addWidget(self.notice)
        row = QHBoxLayout()
        row.setSpacing(12)
        self.neck = NeckView(theme)
        self._neck_wanted = True
        left = QVBoxLayout()
        left.setSpacing(8)
        self.overview = OverviewStrip(theme)
        self.overview.went.connect(self.chart.go_to)
        self.overview.spot_wanted.connect(self._choose_at)
        self.chart.moved.connect(self._overview_follows)
        left.addWidget(self.chart, 1)
        left.addWidget(self.overview)
        left.addWidget(self.neck)
        row.addLayout(left, 1)
        self.folding = FoldingSide(self.reasons, "the reasons", least=PANEL_LEAST, widest=PANEL_WIDTH)
        row.addWidget(self.folding)
        rows.addLayout(row, 1)
        self.transport = Transport(document, self.chart)
        self.transport.message.connect(self.message)
        rows.addWidget(SlidingRow(self.transport))
        self.chart.chosen.connect(document.choose)
        self.chart.drill_wanted.connect(self.drill_range)
        self.transport.drill.clicked.connect(self.drill_range)
        self.transport.player.moved.connect(self._neck_follows)
        self.transport.player.stopped.connect(lambda: self.neck.show_step(document.plan, document.chosen))
        self.chart.offer_wanted.connect(self._take_offer)
        self.chart.keep_wanted.connect(self.keep)
        self.chart.unlock_wanted.connect(self.unlock)
        self.reasons.wanted.connect(self._decide)
        self.reasons.kept.connect(self.keep)
        self.reasons.unlocked.connect(self.unlock)
        document.listen(self._heard)
        self._refresh_message()

    def activated(self) -> None:
        """The page shows: the keys are the chart's."""
        self.chart.setFocus()

    def left(self) -> None:
        """Another page shows."""

    def cancel(self) -> None:
        """Nothing is worked out here that could be stopped."""

    def stop(self) -> None:
        """Wait until no thread works for this page."""
        self.reasons.stop()

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self.chart.set_theme(theme)
        self.overview.set_theme(theme)
        self.neck.set_theme(theme)
        self.reasons.set_theme(theme)

    def _choose_at(self, quarters: float) -> None:
        """Choose the note that begins at a time."""
        plan = self._document.plan
        steps = plan.task.steps if plan is not None else ()
        found = next((at for at, step in enumerate(steps) if float(step.moment.played) == quarters), None)
        if found is not None:
            self._document.choose(found)
            self.chart.setFocus()

    def _overview_follows(self) -> None:
        """Say which part of the riff the chart shows."""
        view = self.chart.view_settings
        self.overview.set_view(view.tempo_ratio, thick_on_top=view.thick_on_top)
        self.overview.set_seen(*self.chart.seen)

    def want_neck(self, wanted: bool) -> None:
        """Show the neck strip where there is room for it, or never."""
        self._neck_wanted = wanted
        self._fit_neck()

    def _fit_neck(self) -> None:
        size = self.neck.size_factor
        taken = BARS + self.overview.height() + NECK_HEIGHT * size
        self.neck.setVisible(self._neck_wanted and self.height() - taken >= LEAST_CHART * size)

    def minimumSizeHint(self) -> QSize:
        """However much is on the page, the window may be small: then less of it shows."""
        return LEAST

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """In a small window the chart comes before the neck."""
        super().resizeEvent(event)
        self.folding.fit(self.width())
        self._fit_neck()

    def _neck_follows(self, quarters: float) -> None:
        """Show the note that sounds."""
        layout, plan = self.chart.chart_layout, self._document.plan
        if layout is not None and plan is not None and quarters >= 0:
            self.neck.show_step(plan, layout.sounding(quarters))

    def _range(self) -> Range | None:
        """The selected range, or the notes around the chosen one."""
        plan, chosen = self._document.plan, self.chart.selection
        if plan is None:
            return None
        return Range(*chosen) if chosen is not None else around(plan, self._document.chosen or 0)

    def drill_range(self) -> None:
        """Practise the selected range, or the notes around the chosen one."""
        chosen = self._range()
        if chosen is not None:
            self.transport.player.stop()
            self.drill_wanted.emit(chosen)

    def take_out(self) -> None:
        """Open the range as a riff of its own, everything decided as it is planned here."""
        plan, chosen = self._document.plan, self._range()
        if plan is not None and chosen is not None:
            self.riff_wanted.emit(excerpt(plan, chosen))

    def _take_offer(self, number: int) -> None:
        offers = self.reasons.offers()
        if number <= len(offers):
            self._decide(offers[number - 1])
        elif self.reasons.prices is not PriceState.KNOWN:
            self.message.emit(PRICES_WORDS[self.reasons.prices])

    def _decide(self, other: Alternative) -> None:
        self._try(lambda step: self._document.decide(step, other))

    def keep(self) -> None:
        """Lock the chosen note as it is planned."""
        self._try(self._document.keep)

    def unlock(self) -> None:
        """Unlock the chosen note."""
        self._try(self._document.unlock)

    def _try(self, do: Callable[[int], None]) -> None:
        step = self._document.chosen
        if step is None:
            return
        try:
            do(step)
        except DromicError as error:
            self.message.emit(error_words(error))
        self.chart.setFocus()

    def _heard(self, change: Change) -> None:
        document = self._document
        if change is Change.PLAN:
            self.overview.set_plan(document.plan)
            self.chart.set_plan(document.plan)
        if change is Change.PLAN_SETTINGS and document.plan is not None:
            self.chart.set_tempo(document.tempo)
        if change in (Change.PLAN, Change.CHOICE):
            self.chart.set_choice(document.chosen)
            self.reasons.show_step(document.plan, document.chosen, document.prices)
            self.neck.show_step(document.plan, document.chosen)
        if change in (Change.PLAN, Change.TEXT, Change.PLAN_SETTINGS):
            self._refresh_message()

    def _refresh_message(self) -> None:
        error, plan = self._document.error, self._document.plan
        if error is not None:
            kept = "" if plan is None else " What you see is the last plan that worked."
            self.notice.setText(error_words(error) + kept)
        elif plan is not None and plan.warnings:
            self.notice.setText("; ".join(plan.warnings))
        self.chart.empty_words = EMPTY if error is None else MEND
        set_look(self.notice, "good", on=error is None)
        self.notice.setVisible(error is not None or bool(plan is not None and plan.warnings))
