"""The Plan stage: the movement chart with the reasons beside it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from dromic.app.chart.view import ChartView
from dromic.app.document import Change, Document, Prices
from dromic.app.reasons_panel import PRICES_WORDS, ReasonsPanel
from dromic.app.theme import Theme
from dromic.app.transport import Transport
from dromic.app.wishes_bar import WishesBar
from dromic.app.words import error_words
from dromic.errors import DromicError
from dromic.planner.plan import Alternative


class PlanPage(QWidget):
    """Follows the document's plan.

    Signals
    -------
    told : str
        What could not be done.
    """

    told = pyqtSignal(str)

    def __init__(self, document: Document, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self.chart = ChartView(theme)
        self.reasons = ReasonsPanel(theme)
        self.wishes = WishesBar(document)
        self.message = QLabel()
        self.message.setObjectName("message")
        self.message.setWordWrap(True)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        rows.addWidget(self.wishes)
        rows.addWidget(self.message)
        row = QHBoxLayout()
        row.setSpacing(12)
        row.addWidget(self.chart, 1)
        row.addWidget(self.reasons)
        rows.addLayout(row, 1)
        self.transport = Transport(document, self.chart)
        self.transport.told.connect(self.told)
        rows.addWidget(self.transport)
        self.chart.chosen.connect(document.choose)
        self.chart.offer_wanted.connect(self._take_offer)
        self.chart.keep_wanted.connect(self.keep)
        self.chart.lift_wanted.connect(self.lift)
        self.reasons.wanted.connect(self._decide)
        self.reasons.kept.connect(self.keep)
        self.reasons.lifted.connect(self.lift)
        document.listen(self._heard)
        self._refresh_message()

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self.chart.set_theme(theme)
        self.reasons.set_theme(theme)

    def _take_offer(self, number: int) -> None:
        offers = self.reasons.offers()
        if number <= len(offers):
            self._decide(offers[number - 1])
        elif self._document.prices is not Prices.KNOWN:
            self.told.emit(PRICES_WORDS[self._document.prices])

    def _decide(self, other: Alternative) -> None:
        self._try(lambda step: self._document.decide(step, other))

    def keep(self) -> None:
        """Lock the chosen note as it is planned."""
        self._try(self._document.keep)

    def lift(self) -> None:
        """Lift the locks of the chosen note."""
        self._try(self._document.lift)

    def _try(self, do: Callable[[int], None]) -> None:
        step = self._document.chosen
        if step is None:
            return
        try:
            do(step)
        except DromicError as error:
            self.told.emit(error_words(error))
        self.chart.setFocus()

    def _heard(self, change: Change) -> None:
        document = self._document
        if change is Change.PLAN:
            self.chart.set_plan(document.plan)
        if change is Change.WISHES and document.plan is not None:
            self.chart.set_tempo(document.tempo)
        if change in (Change.PLAN, Change.CHOICE):
            self.chart.set_choice(document.chosen)
            self.reasons.show_step(document.plan, document.chosen, document.prices)
        if change in (Change.PLAN, Change.TEXT, Change.WISHES):
            self._refresh_message()

    def _refresh_message(self) -> None:
        error, plan = self._document.error, self._document.plan
        if error is not None:
            kept = "" if plan is None else " What you see is the last plan that worked."
            self.message.setText(error_words(error) + kept)
        elif plan is not None and plan.warnings:
            self.message.setText("; ".join(plan.warnings))
        self.message.setProperty("good", "false" if error is not None else "true")
        style = self.message.style()
        if style is not None:
            style.unpolish(self.message)
            style.polish(self.message)
        self.message.setVisible(error is not None or bool(plan is not None and plan.warnings))
