"""Keeps a document's plan up to date: asks the replanner off the interface thread, and takes its answers."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from functools import partial

from PyQt6.QtCore import QObject, pyqtSignal

from dromic.app.chart.seen_whole import seen_whole
from dromic.app.document import Document
from dromic.app.document_changes import Change, PriceState
from dromic.app.jobs import Jobs, Watch
from dromic.errors import DromicError
from dromic.music.riff import Riff
from dromic.planner.plan import Plan
from dromic.planner.replanner import Replanner
from dromic.planner.request import Request
from dromic.planner.told.plan_harmony import harmony_of

PAUSE_MS = 120
AT_ONCE_S = 0.25
LONG_STEPS = 150


class PlanWorker(QObject):
    """Plans a document whenever it changes.

    Signals
    -------
    busy : bool
        Whether planning is under way.
    progressed : float
        Share of the work done.
    finished : float
        Seconds that it took.
    """

    busy = pyqtSignal(bool)
    progressed = pyqtSignal(float)
    finished = pyqtSignal(float)

    def __init__(self, document: Document, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._document = document
        # Jobs run one after another, so the replanner is in one thread at a time.
        self._replanner = Replanner()
        self._jobs = Jobs(self)
        self._jobs.progressed.connect(self.progressed)
        self._jobs.began.connect(self._begin)
        self._jobs.found.connect(self._take)
        self._jobs.finished.connect(self._end)
        self._jobs.cancelled.connect(lambda: self.busy.emit(False))
        self._revision = 0
        self._started = self._shown_s = 0.0
        self._awaited = False
        # Which steps the player looks at: they are priced first.
        self.looked_at: Callable[[], range] = partial(range, 0)
        document.listen(self._heard)

    @property
    def working(self) -> bool:
        """Whether a plan is awaited."""
        return self._jobs.working

    def _heard(self, change: Change) -> None:
        if change in (Change.RIFF, Change.PLAN_SETTINGS):
            # What is planned at once is not waited for.
            self.ask(PAUSE_MS if self._shown_s > AT_ONCE_S else 0)

    def ask(self, pause_ms: int = 0) -> None:
        """Plan the document as it is, after a pause as while somebody types."""
        document = self._document
        if document.reading is None:
            return
        riff, request = document.reading.riff, document.plan_settings.request()
        self._revision, seen = document.revision, self.looked_at()
        self._jobs.ask(lambda watch: self._plans(riff, request, watch, seen), pause_ms)

    def _begin(self) -> None:
        self._started, self._awaited = time.monotonic(), True
        self.busy.emit(True)

    def _plans(self, riff: Riff, request: Request, watch: Watch, seen: range) -> Iterator[tuple[Plan, PriceState]]:
        """First the plan, where pricing it lasts, then with the prices of what is looked at, then with all."""
        made = self._replanner.plans(riff, request, watch, seen if len(seen) else None)
        plan = next(made)
        # Worked out here, because it grows with the riff.
        _ = harmony_of(plan).shapes
        seen_whole(plan)
        if request.alternatives and len(plan.states) >= LONG_STEPS:
            yield plan, PriceState.COMING
        plan = next(made, plan)
        offers = plan.event_of_step(0).offers
        if offers is not None and not offers.complete:
            yield plan, PriceState.COMING
            plan = next(made)
        yield plan, PriceState.KNOWN

    def cancel(self) -> None:
        """Give up the plan under way, or its prices; the last one stays."""
        self._jobs.cancel()
        if self._document.prices is PriceState.COMING and self._document.plan is not None:
            self._document.planned(self._document.plan, self._document.revision, PriceState.CANCELLED)

    def stop(self) -> None:
        """Cancel, and wait until no thread is left."""
        self.cancel()
        self._jobs.stop()

    def _take(self, answer: tuple[Plan, PriceState]) -> None:
        plan, prices = answer
        if self._awaited:
            self._awaited, self._shown_s = False, time.monotonic() - self._started
        self._document.planned(plan, self._revision, prices)

    def _end(self, trouble: DromicError | None) -> None:
        if trouble is not None:
            self._document.failed(trouble, self._revision)
        self.busy.emit(False)
        self.finished.emit(time.monotonic() - self._started)
