"""Answers off the interface thread, of which only the last one asked for is wanted."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from typing import Generic, TypeVar

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from dromic.errors import DromicError

T = TypeVar("T")


class _Signals(QObject):
    answered = pyqtSignal(int, object)


class Latest(QObject, Generic[T]):
    """Works out answers in threads; one that a newer question has overtaken is dropped.

    Parameters
    ----------
    take : callable
        Is given each answer that is still wanted: what the work returned, or the error that it raised.
    parent : QObject, optional
    """

    def __init__(self, take: Callable[[T | DromicError], None], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._hand_over = take
        self._number = 0
        self._work: Callable[[], T] | None = None
        self._signals = _Signals()
        self._signals.answered.connect(self._take)
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.timeout.connect(self._begin)

    @property
    def working(self) -> bool:
        """Whether an answer is awaited."""
        return self._work is not None

    def ask(self, work: Callable[[], T], pause_ms: int = 0) -> None:
        """Work something out; the answer to an earlier question is not wanted any more.

        Parameters
        ----------
        work : callable
            StringRuns in a thread of its own, so it may touch no widget.
        pause_ms : int
            Wait so long for another question first, as while somebody types.
        """
        self._number += 1
        self._work = work
        self._pause.start(pause_ms)

    def drop(self) -> None:
        """No answer is wanted any more."""
        self._number += 1
        self._work = None
        self._pause.stop()

    def _begin(self) -> None:
        work, number, signals = self._work, self._number, self._signals
        if work is None:
            return

        def run() -> None:
            answer: T | DromicError
            try:
                answer = work()
            except DromicError as error:
                answer = error
            except Exception as error:
                # A defect must reach the player as words, not end the thread in silence.
                logging.getLogger(__name__).exception("work off the interface thread failed")
                answer = DromicError(f"this failed, a defect in the program: {type(error).__name__}: {error}")
            signals.answered.emit(number, answer)

        threading.Thread(target=run, daemon=True).start()

    def _take(self, number: int, answer: object) -> None:
        if number == self._number:
            self._work = None
            self._hand_over(answer)  # type: ignore[arg-type]
