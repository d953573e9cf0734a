"""Planning off the interface thread: a frozen request with a number goes out, a frozen answer comes back.

A new request cancels the one under way; an answer whose number is not the last one is dropped.
"""

from __future__ import annotations

import logging
import time
from dataclasses import dataclass
from threading import Event

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, QTimer, pyqtSignal

from dromic.app.document import Change, Document, Prices
from dromic.errors import DromicError, NoPlanError
from dromic.music.riff import Riff
from dromic.planner.plan import Plan
from dromic.planner.planning import Request
from dromic.planner.replanner import Replanner

PAUSE_MS = 120
REPORT_EVERY_S = 0.05
# The prices of a shorter riff are there so soon that showing the plan without them would only flicker.
LONG_STEPS = 150


class _Cancelled(Exception):  # noqa: N818 - it is no error
    """The answer is not wanted any more."""


@dataclass(frozen=True)
class Answer:
    """What came of a request: a plan, or why there is none; `pricing` while its prices are still to come."""

    number: int
    outcome: Plan | DromicError
    seconds: float
    pricing: bool = False


class _Signals(QObject):
    answered = pyqtSignal(object)
    progressed = pyqtSignal(int, float)


class _Job(QRunnable):
    def __init__(self, number: int, riff: Riff, request: Request, replanner: Replanner, signals: _Signals) -> None:
        super().__init__()
        self.cancelled = Event()
        self._number, self._riff, self._request, self._signals = number, riff, request, signals
        self._replanner = replanner
        self._reported = time.monotonic()

    def run(self) -> None:
        started = time.monotonic()
        outcome: Plan | DromicError
        try:
            plans = self._replanner.plans(self._riff, self._request, self._watch)
            outcome = next(plans)
            if len(outcome.states) >= LONG_STEPS:
                self._answer(outcome, time.monotonic() - started, pricing=True)
            outcome = next(plans, outcome)
        except _Cancelled:
            return
        except DromicError as error:
            outcome = error
        except Exception as error:
            # A defect must reach the player as words, not end the thread in silence.
            logging.getLogger(__name__).exception("planning failed")
            outcome = NoPlanError(
                f"the planner failed on this riff ({type(error).__name__}: {error}); this is a defect in the "
                "program. Your riff is kept; please report it with the riff's text"
            )
        self._answer(outcome, time.monotonic() - started)

    def _answer(self, outcome: Plan | DromicError, seconds: float, *, pricing: bool = False) -> None:
        self._signals.answered.emit(Answer(self._number, outcome, seconds, pricing))

    def _watch(self, share: float) -> None:
        if self.cancelled.is_set():
            raise _Cancelled
        now = time.monotonic()
        if now - self._reported >= REPORT_EVERY_S:
            self._reported = now
            self._signals.progressed.emit(self._number, share)


class Planner(QObject):
    """Keeps a document's plan up to date.

    Signals
    -------
    busy : bool
        Whether planning is under way.
    progressed : float
        Share of the work done.
    """

    busy = pyqtSignal(bool)
    progressed = pyqtSignal(float)
    finished = pyqtSignal(float)

    def __init__(self, document: Document, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self._number = 0
        self._job: _Job | None = None
        # Jobs run one after another, so the replanner is in one thread at a time.
        self._replanner = Replanner()
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._signals = _Signals()
        self._signals.answered.connect(self._take)
        self._signals.progressed.connect(self._progress)
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(PAUSE_MS)
        self._pause.timeout.connect(self.ask)
        document.listen(self._heard)

    @property
    def working(self) -> bool:
        """Whether a plan is awaited."""
        return self._job is not None or self._pause.isActive()

    def _heard(self, change: Change) -> None:
        if change in (Change.RIFF, Change.PLAN_SETTINGS):
            self._pause.start()

    def ask(self) -> None:
        """Plan the document as it is now."""
        self._drop()
        if self._document.reading is None:
            return
        self._number += 1
        riff, request = self._document.reading.riff, self._document.plan_settings.request()
        self._job = _Job(self._number, riff, request, self._replanner, self._signals)
        self._pool.start(self._job)
        self.busy.emit(True)

    def cancel(self) -> None:
        """Give up the plan under way, or its prices; the last one stays."""
        self._drop()
        if self._document.prices is Prices.COMING and self._document.plan is not None:
            self._document.planned(self._document.plan, Prices.GIVEN_UP)

    def _drop(self) -> None:
        self._pause.stop()
        if self._job is not None:
            self._job.cancelled.set()
            self._job = None
            self._number += 1
            self.busy.emit(False)

    def stop(self) -> None:
        """Cancel, and wait until no thread is left."""
        self.cancel()
        self._pool.waitForDone()

    def _take(self, answer: Answer) -> None:
        if answer.number != self._number:
            return
        if answer.pricing and isinstance(answer.outcome, Plan):
            self._document.planned(answer.outcome, Prices.COMING)
            return
        self._job = None
        if isinstance(answer.outcome, Plan):
            self._document.planned(answer.outcome)
        else:
            self._document.failed(answer.outcome)
        self.busy.emit(False)
        self.finished.emit(answer.seconds)

    def _progress(self, number: int, share: float) -> None:
        if number == self._number:
            self.progressed.emit(share)
