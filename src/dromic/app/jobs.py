"""Work off the interface thread: planning, comparing, reading, writing, rendering, all by one mechanism.

Work is a generator: it yields results as they come, and is given a `watch` to call, which raises once the rest is
not wanted any more. Of several things asked for only the last one is wanted: what an earlier one still finds is
dropped.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable, Iterator
from functools import partial
from threading import Event
from typing import TypeVar

from PyQt6.QtCore import QEventLoop, QObject, QRunnable, Qt, QThreadPool, QTimer, pyqtSignal
from PyQt6.QtWidgets import QApplication, QProgressDialog, QWidget

from dromic.errors import DromicError

T = TypeVar("T")
Watch = Callable[[float], None]
Work = Callable[[Watch], Iterator[object]]
REPORT_EVERY_S = 0.03
SHOWN_AFTER_S = 0.35


class CancelledError(Exception):
    """The rest is not wanted any more."""


class _Signals(QObject):
    found = pyqtSignal(int, object)
    progressed = pyqtSignal(int, float)
    ended = pyqtSignal(int, object)


class _Job(QRunnable):
    def __init__(self, number: int, work: Work, signals: _Signals) -> None:
        super().__init__()
        self.cancelled = Event()
        self._number, self._work, self._signals = number, work, signals
        self._reported = time.monotonic()

    def run(self) -> None:
        trouble: DromicError | None = None
        try:
            for thing in self._work(self._watch):
                self._check()
                self._signals.found.emit(self._number, thing)
        except CancelledError:
            return
        except DromicError as error:
            trouble = error
        except Exception as error:
            # A defect must reach the player as words, not end the thread in silence.
            logging.getLogger(__name__).exception("work off the interface thread failed")
            trouble = DromicError(
                f"this failed ({type(error).__name__}: {error}), which is a defect in the program; your riff is "
                "kept, please report it with the riff's text"
            )
        if not self.cancelled.is_set():
            self._signals.ended.emit(self._number, trouble)

    def _check(self) -> None:
        if self.cancelled.is_set():
            raise CancelledError

    def _watch(self, share: float) -> None:
        self._check()
        now = time.monotonic()
        if now - self._reported >= REPORT_EVERY_S:
            self._reported = now
            self._signals.progressed.emit(self._number, share)


class Jobs(QObject):
    """Does one thing after another in threads of its own, the last one asked for only.

    Parameters
    ----------
    parent : QObject or None
    threads : int
        With one, work waits until what was asked before has noticed that it is not wanted any more. Work that
        cannot notice wants more.

    Signals
    -------
    began : no argument
    progressed : float
        Share of the work done.
    found : object
        One result.
    finished : DromicError or None
        Why it could not be finished, or nothing. Not sent for what is overtaken.
    cancelled : no argument
        What was under way has been given up.
    """

    began = pyqtSignal()
    progressed = pyqtSignal(float)
    found = pyqtSignal(object)
    finished = pyqtSignal(object)
    cancelled = pyqtSignal()

    def __init__(self, parent: QObject | None = None, threads: int = 1) -> None:
        super().__init__(parent)
        self._number = 0
        self._job: _Job | None = None
        self._waiting: Work | None = None
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(threads)
        self._signals = _Signals()
        self._signals.found.connect(self._take)
        self._signals.progressed.connect(self._progress)
        self._signals.ended.connect(self._end)
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.timeout.connect(self._begin)

    @property
    def working(self) -> bool:
        """Whether something is awaited."""
        return self._job is not None or self._waiting is not None

    @property
    def idle(self) -> bool:
        """Whether no thread works, not even on what is not wanted any more."""
        return self._pool.activeThreadCount() == 0

    def ask(self, work: Work, pause_ms: int | None = None) -> None:
        """Do some work; what was asked for before is not wanted any more.

        Parameters
        ----------
        work : callable
            Runs in a thread, so it may touch no widget.
        pause_ms : int or None
            Wait so long for another question first, as while somebody types; 0 to wait only until the window has
            painted what is to be painted.
        """
        self._overtake()
        self._waiting = work
        if pause_ms is None:
            self._begin()
        else:
            self._pause.start(pause_ms)

    def cancel(self) -> None:
        """Give up what is under way."""
        if self.working:
            self._overtake()
            self.cancelled.emit()

    def stop(self) -> None:
        """Cancel, and wait until no thread is left."""
        self.cancel()
        self._pool.waitForDone()

    def _overtake(self) -> None:
        self._pause.stop()
        self._waiting = None
        self._number += 1
        if self._job is not None:
            self._job.cancelled.set()
            self._job = None

    def _begin(self) -> None:
        work, self._waiting = self._waiting, None
        if work is None:
            return
        self._job = _Job(self._number, work, self._signals)
        self.began.emit()
        self._pool.start(self._job)

    def _take(self, number: int, thing: object) -> None:
        if number == self._number:
            self.found.emit(thing)

    def _progress(self, number: int, share: float) -> None:
        if number == self._number:
            self.progressed.emit(share)

    def _end(self, number: int, trouble: DromicError | None) -> None:
        if number == self._number:
            self._job = None
            self.finished.emit(trouble)


_abandoned: list[Jobs] = []


def once(work: Callable[[], T], _watch: Watch) -> Iterator[T]:
    """Work of one result that cannot be watched."""
    yield work()


def single(work: Callable[[], object]) -> Work:
    """Turn work of one result into what `Jobs` does."""
    return partial(once, work)


def wait_for(parent: QWidget, words: str, work: Callable[[], T]) -> T:
    """Do some work in a thread and return what comes of it; the window stays alive meanwhile.

    Parameters
    ----------
    parent : QWidget
    words : str
        What is being done.
    work : callable

    Raises
    ------
    CancelledError
        When the player pressed the button; the work then ends unheard.
    DromicError
        Whatever the work raises; a defect is told as one.
    """
    _abandoned[:] = [one for one in _abandoned if not one.idle]
    jobs = Jobs()
    results: list[T] = []
    troubles: list[DromicError | None] = []
    jobs.found.connect(results.append)
    jobs.finished.connect(troubles.append)
    jobs.ask(single(work))
    started = time.monotonic()
    box: QProgressDialog | None = None
    try:
        while jobs.working:
            if box is None and time.monotonic() - started > SHOWN_AFTER_S:
                box = QProgressDialog(words, "Cancel", 0, 0, parent)
                box.setWindowTitle("Dromic")
                box.setWindowModality(Qt.WindowModality.WindowModal)
                box.setMinimumDuration(0)
                box.show()
            # Until the box is there, nothing that the player does may begin anything else.
            flags = QEventLoop.ProcessEventsFlag.AllEvents
            if box is None:
                flags = QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents
            QApplication.processEvents(flags, 20)
            if box is not None and box.wasCanceled():
                jobs.cancel()
                # Whoever lets go of a pool waits for its threads; here nobody wants to.
                _abandoned.append(jobs)
                raise CancelledError(f"{words}: the player does not want to wait")
            time.sleep(0.002)
    finally:
        if box is not None:
            box.close()
            box.deleteLater()
    # The thread has said that it is done and may still be on its way out; whoever deletes its pool while holding
    # what Python lets one thread hold at a time would wait for it for ever.
    jobs.stop()
    if troubles and troubles[0] is not None:
        raise troubles[0]
    return results[0]
