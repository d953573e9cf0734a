"""Work that a player waits for, off the interface thread: shown when it lasts, and given up with a button."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from typing import Generic, TypeVar

from PyQt6.QtCore import QEventLoop, Qt
from PyQt6.QtWidgets import QApplication, QProgressDialog, QWidget

T = TypeVar("T")
SHOWN_AFTER_S = 0.35


class GivenUp(Exception):  # noqa: N818 - it is no error
    """The player does not want to wait."""


class _Work(Generic[T]):
    def __init__(self, work: Callable[[], T]) -> None:
        self._work = work
        self.result: T | None = None
        self.error: BaseException | None = None
        self.thread = threading.Thread(target=self._run, daemon=True)

    def _run(self) -> None:
        try:
            self.result = self._work()
        except BaseException as error:  # noqa: BLE001 - it is raised again where it is waited for
            self.error = error


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
    GivenUp
        When the player pressed the button; the work then ends unheard.
    Exception
        Whatever the work raises.
    """
    job = _Work(work)
    job.thread.start()
    started = time.monotonic()
    box: QProgressDialog | None = None
    try:
        while job.thread.is_alive():
            if box is None and time.monotonic() - started > SHOWN_AFTER_S:
                box = QProgressDialog(words, "Give up", 0, 0, parent)
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
                raise GivenUp(f"{words}: the player does not want to wait")
            job.thread.join(0.004)
    finally:
        if box is not None:
            box.close()
            box.deleteLater()
    if job.error is not None:
        raise job.error
    return job.result  # type: ignore[return-value]
