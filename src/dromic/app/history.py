"""Undo and redo of everything: what the document was before each change.

Changes of one kind that follow each other quickly (typing, dragging the tempo) are one step.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

T = TypeVar("T")
TOGETHER_S = 1.2
MOST_STEPS = 500


@dataclass(frozen=True)
class Done(Generic[T]):
    """A change: how things were before it, and what it was in words."""

    before: T
    words: str


class History(Generic[T]):
    """What can be undone and redone.

    Parameters
    ----------
    clock : callable
        Tells the time in seconds.

    Examples
    --------
    >>> history = History[str]()
    >>> history.record("old", "typing", merge=False)
    >>> history.undo("new"), history.redo("old")
    ('old', 'new')
    """

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._done: list[Done[T]] = []
        self._undone: list[Done[T]] = []
        self._last = -1e9

    def clear(self) -> None:
        """Forget everything."""
        self._done, self._undone, self._last = [], [], -1e9

    def record(self, before: T, words: str, *, merge: bool) -> None:
        """Remember how things were before a change; `merge` joins it to the same kind of change just made.

        Parameters
        ----------
        before : T
        words : str
        merge : bool
        """
        now = self._clock()
        joins = merge and self._done and self._done[-1].words == words and now - self._last < TOGETHER_S
        if not joins:
            self._done.append(Done(before, words))
            del self._done[:-MOST_STEPS]
        self._undone.clear()
        self._last = now if merge else -1e9

    @property
    def undo_words(self) -> str | None:
        """What would be undone, or None."""
        return self._done[-1].words if self._done else None

    @property
    def redo_words(self) -> str | None:
        """What would be done again, or None."""
        return self._undone[-1].words if self._undone else None

    def undo(self, now: T) -> T | None:
        """Return how things were before the last change; `now` is how they are."""
        return self._step(self._done, self._undone, now)

    def redo(self, now: T) -> T | None:
        """Return how things were before the last undo."""
        return self._step(self._undone, self._done, now)

    def _step(self, source: list[Done[T]], target: list[Done[T]], now: T) -> T | None:
        if not source:
            return None
        last = source.pop()
        target.append(Done(now, last.words))
        self._last = -1e9
        return last.before
