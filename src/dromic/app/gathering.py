"""Working out many things about a riff off the interface thread; each shows as soon as it is there."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterator
from threading import Event

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, pyqtSignal

from dromic.app.document import Document
from dromic.errors import DromicError
from dromic.music.riff import Riff
from dromic.planner.plan_settings import PlanSettings

Watch = Callable[[float], None]
Work = Callable[[Riff, PlanSettings, Watch], Iterator[object]]


class _GivenUp(Exception):  # noqa: N818 - it is no error
    """The rest is not wanted any more."""


class _Signals(QObject):
    found = pyqtSignal(int, object)
    ended = pyqtSignal(int, str)


class _Job(QRunnable):
    def __init__(self, number: int, things: Callable[[Watch], Iterator[object]], signals: _Signals) -> None:
        super().__init__()
        self.cancelled = Event()
        self._number, self._things, self._signals = number, things, signals

    def run(self) -> None:
        trouble = ""
        try:
            for thing in self._things(self._watch):
                self._watch(0.0)
                self._signals.found.emit(self._number, thing)
        except _GivenUp:
            return
        except DromicError as error:
            trouble = str(error)
        except Exception as error:
            # A defect must reach the player as words, not end the thread in silence.
            logging.getLogger(__name__).exception("gathering failed")
            trouble = f"this failed, a defect in the program: {type(error).__name__}: {error}"
        self._signals.ended.emit(self._number, trouble)

    def _watch(self, _share: float) -> None:
        if self.cancelled.is_set():
            raise _GivenUp


class Gatherer(QObject):
    """Gathers things about a document's riff and settings when asked.

    Parameters
    ----------
    document : Document
    work : callable
        Takes a riff, plan_settings and a `watch` for the planner, and yields things. Runs in a thread of its own.

    Signals
    -------
    began : no argument
    found : object
    finished : str
        Why it could not be finished, or nothing.
    """

    began = pyqtSignal()
    found = pyqtSignal(object)
    finished = pyqtSignal(str)

    def __init__(self, document: Document, work: Work, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._document, self._work = document, work
        self._number = 0
        self._job: _Job | None = None
        self._asked: tuple[Riff, PlanSettings] | None = None
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._signals = _Signals()
        self._signals.found.connect(self._take)
        self._signals.ended.connect(self._ended)

    @property
    def working(self) -> bool:
        """Whether more is to come."""
        return self._job is not None

    def ask(self) -> None:
        """Gather for the document as it is now, unless that has been done or is under way."""
        reading, plan_settings = self._document.reading, self._document.plan_settings
        if reading is None or self._asked == (reading.riff, plan_settings):
            return
        self.cancel()
        riff = reading.riff
        self._asked = riff, plan_settings
        self._number += 1
        self._job = _Job(self._number, lambda watch: self._work(riff, plan_settings, watch), self._signals)
        self.began.emit()
        self._pool.start(self._job)

    def cancel(self) -> None:
        """Give up what is under way."""
        if self._job is not None:
            self._job.cancelled.set()
            self._job, self._asked = None, None
            self._number += 1
            self.finished.emit("")

    def stop(self) -> None:
        """Cancel, and wait until no thread is left."""
        self.cancel()
        self._pool.waitForDone()

    def _take(self, number: int, thing: object) -> None:
        if number == self._number:
            self.found.emit(thing)

    def _ended(self, number: int, trouble: str) -> None:
        if number == self._number:
            self._job = None
            self.finished.emit(trouble)
