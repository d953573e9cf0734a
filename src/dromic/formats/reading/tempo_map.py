"""Which tempo holds where, in a file that may have several."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable
from itertools import pairwise

from dromic.formats.reading.raw import Remarks
from dromic.formats.rifftext.header import FASTEST, SLOWEST

ASSUMED = 120.0


class TempoMap:
    """Tempi by the places where they begin.

    Parameters
    ----------
    tempi : iterable of (float, float)
        Places, in any unit, and the tempi that hold from there on, in quarter notes a minute; those that no riff
        has are left out.

    Examples
    --------
    >>> tempi = TempoMap([(0, 90), (4, 140), (12, 7000)])
    >>> [tempi.at(place) for place in (0, 3.9, 4, 20)], TempoMap(()).at(0)
    ([90, 90, 140, 140], None)
    """

    def __init__(self, tempi: Iterable[tuple[float, float]]) -> None:
        # Of two that begin at one place the later one holds.
        good = {at: tempo for at, tempo in tempi if SLOWEST <= tempo <= FASTEST}
        self._places = sorted(good)
        self._tempi = [good[at] for at in self._places]

    def at(self, place: float) -> float | None:
        """The tempo that holds at a place; before the first one the first, and None where there is none."""
        return self._tempi[max(bisect_right(self._places, place) - 1, 0)] if self._tempi else None

    def over(self, begin: float, end: float) -> float | None:
        """The tempo that holds for the longest part of a span, of equals the first.

        Examples
        --------
        >>> TempoMap([(0, 80), (1, 144), (3.5, 60)]).over(0, 4)
        144
        """
        first, last = bisect_right(self._places, begin), bisect_left(self._places, end)
        lengths: dict[float, float] = {}
        for one, other in pairwise([begin, *self._places[first:last], end]):
            tempo = self.at(one)
            if tempo is not None:
                lengths[tempo] = lengths.get(tempo, 0.0) + other - one
        return max(lengths, key=lambda tempo: lengths[tempo]) if lengths else None

    def starting(self, place: float, remarks: Remarks) -> float:
        """The tempo at the first note, assumed where the file says none."""
        found = self.at(place)
        if found is None:
            remarks.add(f"the file gives no tempo; {ASSUMED:g} quarter notes a minute are assumed")
        return ASSUMED if found is None else found
