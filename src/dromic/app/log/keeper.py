"""The window's practice log: opened when first needed, told of once when it cannot be, and nothing lost meanwhile.

Plain Python without Qt. In the demo the log is made up, lies in a folder of its own and goes when the program ends.
"""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from contextlib import closing
from pathlib import Path

from dromic.demo.practice_log import LABEL, demo_reps
from dromic.errors import RiffError
from dromic.practice.log.history import History, history_of
from dromic.practice.log.logbook import NAME, Logbook, Rep, log_file

WAIT_S = 0.2


class LogKeeper:
    """One practice log for a window.

    Parameters
    ----------
    path : Path or None
        None for the usual place.
    demo : bool
        Whether it is the made-up log of the demo.
    """

    def __init__(self, path: Path | None = None, *, demo: bool = False) -> None:
        self.demo = demo
        self._folder = tempfile.TemporaryDirectory(prefix="dromic-demo-") if demo else None
        self.path = Path(self._folder.name) / NAME if self._folder is not None else path or log_file()
        self._book: Logbook | None = None
        self._waiting: list[Rep] = []
        self._set_aside: Path | None = None

    @property
    def label(self) -> str:
        """What has to be said of it; empty for the player's own."""
        return f"{LABEL} What you practise in the demo is gone when it closes." if self.demo else ""

    @property
    def waiting(self) -> int:
        """How many repetitions could not be written down yet."""
        return len(self._waiting)

    def book(self) -> Logbook:
        """The open log.

        Raises
        ------
        RiffError
            When it cannot be opened.
        """
        if self._book is None:
            # The window cannot wait: what is not written now is written with the next repetition.
            self._book = self._opened(WAIT_S)
        return self._book

    def _opened(self, wait_s: float | None = None) -> Logbook:
        book = Logbook(self.path, wait_s)
        self._set_aside = book.set_aside or self._set_aside
        if self.demo and not book.count():
            book.add(demo_reps())
        return book

    def news(self) -> str:
        """What has become of a log that could not be read, told once; else nothing."""
        aside, self._set_aside = self._set_aside, None
        if aside is None:
            return ""
        return f"The practice log could not be read. It is kept whole as {aside}, and a new one is begun."

    def write(self, rep: Rep) -> str:
        """Write a repetition down, and those that could not be before; returns why that failed, or nothing."""
        self._waiting.append(rep)
        try:
            book = self.book()
            while self._waiting:
                book.write(self._waiting[0])
                self._waiting.pop(0)
        except RiffError as error:
            count = len(self._waiting)
            kept = (
                "is kept until it can be" if count == 1 else f"and {count - 1} before it are kept until they can be"
            )
            return f"The repetition is not written down yet, it {kept}: {error}"
        return ""

    def add(self, reps: Sequence[Rep]) -> int:
        """Write repetitions down by a connection of its own; returns how many are new.

        Raises
        ------
        RiffError
        """
        with closing(self._opened()) as book:
            return book.add(reps)

    def history(self) -> History:
        """What the log says, read by a connection of its own, so that another thread may ask.

        Raises
        ------
        RiffError
        """
        with closing(self._opened()) as book:
            return history_of(book)

    def reps(self) -> Sequence[Rep]:
        """Every repetition, read by a connection of its own.

        Raises
        ------
        RiffError
        """
        with closing(self._opened()) as book:
            return book.reps()

    def close(self) -> None:
        """Let the file go; the demo's is thrown away."""
        if self._book is not None:
            self._book.close()
            self._book = None
        if self._folder is not None:
            self._folder.cleanup()
            self._folder = None
