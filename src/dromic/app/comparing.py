"""Comparing off the interface thread: every school, and the best plans of the chosen one, row by row."""

from __future__ import annotations

import logging
from dataclasses import dataclass, replace
from threading import Event

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, pyqtSignal

from dromic.app.document import Document, Wishes
from dromic.errors import DromicError
from dromic.music.riff import Riff
from dromic.planner.plan import Plan
from dromic.planner.planning import best_plans_of, plan_riff
from dromic.schools.registry import SCHOOLS, school_named

RANKED = 6
SCHOOL, RANK = "school", "rank"


@dataclass(frozen=True)
class Row:
    """One way of playing the riff.

    Parameters
    ----------
    kind : str
        `SCHOOL`, or `RANK` for one of the best plans of the chosen school.
    name : str
        The school's name, or its rank.
    title : str
    plan : Plan or None
    refusal : str
        Why there is none.
    """

    kind: str
    name: str
    title: str
    plan: Plan | None
    refusal: str = ""


class _Signals(QObject):
    row = pyqtSignal(int, object)
    done = pyqtSignal(int)


class _Job(QRunnable):
    def __init__(self, number: int, riff: Riff, wishes: Wishes, signals: _Signals) -> None:
        super().__init__()
        self.cancelled = Event()
        self._number, self._riff, self._wishes, self._signals = number, riff, wishes, signals

    def run(self) -> None:
        request = replace(self._wishes.request(), alternatives=0)
        for school in SCHOOLS.values():
            if self.cancelled.is_set():
                return
            try:
                plan: Plan | None = plan_riff(self._riff, replace(request, school=school), watch=self._watch)
                row = Row(SCHOOL, school.name, school.title, plan)
            except _GivenUp:
                return
            except DromicError as error:
                row = Row(SCHOOL, school.name, school.title, None, str(error))
            except Exception as error:
                logging.getLogger(__name__).exception("comparing failed")
                row = Row(SCHOOL, school.name, school.title, None, f"a defect: {type(error).__name__}: {error}")
            self._signals.row.emit(self._number, row)
        self._rank()
        if not self.cancelled.is_set():
            self._signals.done.emit(self._number)

    def _rank(self) -> None:
        if self._wishes.alike:
            return
        try:
            ranked = best_plans_of(self._riff, replace(self._wishes.request(), alternatives=0), RANKED)
        except DromicError:
            return
        except Exception:
            logging.getLogger(__name__).exception("ranking failed")
            return
        title = school_named(self._wishes.school).title
        for rank, plan in enumerate(ranked[1:], start=2):
            if self.cancelled.is_set():
                return
            self._signals.row.emit(self._number, Row(RANK, str(rank), f"{title}, choice {rank}", plan))

    def _watch(self, _share: float) -> None:
        if self.cancelled.is_set():
            raise _GivenUp


class _GivenUp(Exception):  # noqa: N818 - it is no error
    """The comparison is not wanted any more."""


class Comparer(QObject):
    """Compares a document's riff when asked.

    Signals
    -------
    began : no argument
    row : Row
    finished : no argument
        All rows are there.
    """

    began = pyqtSignal()
    row = pyqtSignal(object)
    finished = pyqtSignal()

    def __init__(self, document: Document, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self._number = 0
        self._job: _Job | None = None
        self._asked: tuple[Riff, Wishes] | None = None
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._signals = _Signals()
        self._signals.row.connect(self._take)
        self._signals.done.connect(self._done)

    @property
    def working(self) -> bool:
        """Whether rows are awaited."""
        return self._job is not None

    def ask(self) -> None:
        """Compare the document as it is now, unless that has been done or is under way."""
        reading = self._document.reading
        if reading is None or self._asked == (reading.riff, self._document.wishes):
            return
        self.cancel()
        self._asked = reading.riff, self._document.wishes
        self._number += 1
        self._job = _Job(self._number, reading.riff, self._document.wishes, self._signals)
        self.began.emit()
        self._pool.start(self._job)

    def cancel(self) -> None:
        """Give up what is under way."""
        if self._job is not None:
            self._job.cancelled.set()
            self._job = None
            self._asked = None
            self._number += 1
            self.finished.emit()

    def stop(self) -> None:
        """Cancel, and wait until no thread is left."""
        self.cancel()
        self._pool.waitForDone()

    def _take(self, number: int, row: Row) -> None:
        if number == self._number:
            self.row.emit(row)

    def _done(self, number: int) -> None:
        if number == self._number:
            self._job = None
            self.finished.emit()
