"""How much a file may hold, counted while it is read: what is too much is refused before it is worked on."""

from __future__ import annotations

from dromic.errors import RiffError
from dromic.formats.rifftext.reader import MOST_EVENTS


class NoteBound:
    """Counts notes and rests as they are read, and stops where a riff has no room for more."""

    def __init__(self) -> None:
        self._count = 0

    def add(self, count: int = 1) -> None:
        """Count some more.

        Raises
        ------
        RiffError
            When they are more than a riff holds.

        Examples
        --------
        >>> NoteBound().add(30_000)
        Traceback (most recent call last):
        dromic.errors.RiffError: it has more than 20000 notes with its repeats; split it into several files
        """
        self._count += count
        if self._count > MOST_EVENTS:
            raise RiffError(f"it has more than {MOST_EVENTS} notes with its repeats; split it into several files")
