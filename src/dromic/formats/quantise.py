"""From played times to written ones: one grid for each beat, as coarse as the notes allow.

Snapping each note by itself takes a loose triplet for a dotted figure; a whole beat that has to fit one grid does
not. For every beat the grids of 1 to 8 parts are tried; the one with the least root mean square error wins, each
part more costing a little, so that a finer grid is only taken when it explains the notes better.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

GRIDS = (1, 2, 3, 4, 6, 8, 5, 7)
# Root mean square error, in beats, that one more part has to save; fives and sevens are rare, and cost more.
PRICE_OF_A_PART = 0.006
ODD_PRICE = 0.02
FILLS = Fraction(1, 2)


@dataclass(frozen=True)
class Played:
    """A note as it was played.

    Parameters
    ----------
    start, end : float
        Quarter notes.
    pitch : int
        MIDI number.
    """

    start: float
    end: float
    pitch: int


@dataclass(frozen=True)
class Placed:
    """Notes at one written time."""

    start: Fraction
    end: Fraction
    pitches: tuple[int, ...]


def grid_of(times: Sequence[float]) -> int:
    """Into how many parts a beat is best cut.

    Parameters
    ----------
    times : sequence of float
        Onsets inside the beat, from 0 to 1.

    Examples
    --------
    >>> grid_of([0.01, 0.34, 0.66]), grid_of([0.0, 0.76]), grid_of([0.01])
    (3, 4, 1)
    """
    if not times:
        return 1
    found = np.asarray(times)

    def price(parts: int) -> float:
        error = found * parts - np.round(found * parts)
        missed = float(np.sqrt(np.mean((error / parts) ** 2)))
        crowded = len(set(np.round(found * parts).astype(int))) < len(found)
        odd = ODD_PRICE if parts in (5, 7) else 0.0
        return missed + PRICE_OF_A_PART * (parts - 1) + odd + (1.0 if crowded else 0.0)

    return min(GRIDS, key=price)


def quantised(notes: Sequence[Played], beat: Fraction = Fraction(1)) -> tuple[Placed, ...]:
    """Place notes on grids.

    Parameters
    ----------
    notes : sequence of Played
    beat : Fraction
        Length of a beat, in quarter notes.

    Returns
    -------
    tuple of Placed
        In order; notes that fall on one time are together. A note ends where the next begins when it fills at
        least half of that time, unless it lasts just some eighths and ends well before.
    """
    ordered = sorted(notes, key=lambda note: (note.start, note.pitch))
    length = float(beat)
    onsets = _joined([max(note.start, 0.0) / length for note in ordered])
    by_beat: dict[int, list[float]] = {}
    for onset in onsets:
        by_beat.setdefault(int(onset + _LEAN), []).append(onset)
    grids = {
        number: grid_of(sorted({min(max(one - number, 0.0), 1.0) for one in own}))
        for number, own in by_beat.items()
    }
    together: dict[Fraction, list[Played]] = {}
    for note, onset in zip(ordered, onsets, strict=True):
        number = int(onset + _LEAN)
        parts = grids[number]
        at = (number + Fraction(round((onset - number) * parts), parts)) * beat
        together.setdefault(max(at, Fraction(0)), []).append(note)
    starts = sorted(together)
    found = []
    for place, start in enumerate(starts):
        own = together[start]
        following = starts[place + 1] if place + 1 < len(starts) else None
        longest = max(note.end - note.start for note in own)
        found.append(
            Placed(start, _end(start, longest, following, beat), tuple(sorted({note.pitch for note in own})))
        )
    return tuple(found)


# A note this much early, in beats, still belongs to the beat that it leads to.
_LEAN = 0.06
_TOGETHER = 0.03
# Ends this near to a whole number of eighths were written so; played ones are not so sharp.
_SHARP = 0.012
_WELL_BEFORE = Fraction(4, 5)


def _joined(onsets: list[float]) -> list[float]:
    """Notes struck almost together get one time."""
    found: list[float] = []
    for onset in onsets:
        found.append(found[-1] if found and onset - found[-1] < _TOGETHER else onset)
    return found


def _end(start: Fraction, length: float, following: Fraction | None, beat: Fraction) -> Fraction:
    """Where a note of a length in quarter notes ends."""
    eighths = round(length * 2)
    if eighths and abs(length * 2 - eighths) < _SHARP:
        sharp = Fraction(eighths, 2)
        if following is None or sharp <= (following - start) * _WELL_BEFORE:
            return start + sharp
    if following is not None and Fraction(length).limit_denominator(960) >= (following - start) * FILLS:
        return following
    share = length / float(beat)
    parts = min((1, 2, 3, 4, 6, 8), key=lambda one: abs(share - round(share * one) / one) + PRICE_OF_A_PART * one)
    end = start + max(Fraction(round(share * parts), parts), Fraction(1, 8)) * beat
    return end if following is None else min(end, following)
