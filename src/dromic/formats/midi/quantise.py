"""From played times to written ones: one grid for each beat, as coarse as the notes allow.

Snapping each note by itself takes a loose triplet for a dotted figure; a whole beat that has to fit one grid does
not. For every beat several grids are tried; the one with the least root mean square error wins, each part more
costing a little, so that a finer grid is only taken when it explains the notes better. Beats of three eighths have
grids of their own. Where a program has written the notes, not a hand played them, each stands at a simple
part of its beat, and is taken there.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

import numpy as np

from dromic.formats.reading.note_lengths import UnsayableError, values_of

GRIDS = (1, 2, 3, 4, 6, 8, 5, 7)
COMPOUND_GRIDS = (1, 3, 6, 2, 12, 9, 4, 5, 7, 8)
# Root mean square error, in beats, that one more part has to save; some grids are rare, and cost more.
RARE, COMPOUND_RARE = frozenset({5, 7}), frozenset({4, 5, 7, 8, 9})
PRICE_OF_A_PART = 0.006
RARE_PRICE = 0.02
# Parts of a beat that programs write, the simple ones first; their times are off by no more than a tick.
EXACT_PARTS = (1, 2, 3, 4, 6, 8, 5, 12, 16, 7, 9, 10, 24)
_TICK = 0.004
_MOST, _FEW = 0.95, 8
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


def grid_of(times: Sequence[float], *, compound: bool = False) -> int:
    """Into how many parts a beat is best cut.

    Parameters
    ----------
    times : sequence of float
        Onsets inside the beat, from 0 to 1.
    compound : bool
        Whether the beat has three eighths.

    Examples
    --------
    >>> grid_of([0.01, 0.34, 0.66]), grid_of([0.0, 0.76]), grid_of([0.01])
    (3, 4, 1)
    """
    return _grids(times, compound=compound)[0]


def _grids(times: Sequence[float], *, compound: bool) -> list[int]:
    """All grids, the best first."""
    if not times:
        return [1]
    found = np.asarray(times)
    rare = COMPOUND_RARE if compound else RARE

    def price(parts: int) -> float:
        error = found * parts - np.round(found * parts)
        missed = float(np.sqrt(np.mean((error / parts) ** 2)))
        crowded = len(set(np.round(found * parts).astype(int))) < len(found)
        odd = RARE_PRICE if parts in rare else 0.0
        return missed + PRICE_OF_A_PART * (parts - 1) + odd + (1.0 if crowded else 0.0)

    return sorted(COMPOUND_GRIDS if compound else GRIDS, key=price)


def exact_part(inside: float) -> Fraction | None:
    """The simplest part of a beat that a time inside it is at, or None.

    Examples
    --------
    >>> [str(exact_part(time)) for time in (0.1666, 0.1875, 0.5714, 0.53)]
    ['1/6', '3/16', '4/7', 'None']
    """
    for parts in EXACT_PARTS:
        near = Fraction(round(inside * parts), parts)
        if abs(inside - near) < _TICK:
            return near
    return None


def quantised(notes: Sequence[Played], beat: Fraction = Fraction(1), *, coarse: bool = False) -> tuple[Placed, ...]:
    """Place notes on grids.

    Parameters
    ----------
    notes : sequence of Played
    beat : Fraction
        Length of a beat, in quarter notes.
    coarse : bool
        Put everything on sixteenths, and let each note last until the next.

    Returns
    -------
    tuple of Placed
        In order; notes that fall on one time are together. A note ends where the next begins when it fills at
        least half of that time, unless it lasts just some eighths and ends well before.
    """
    ordered = sorted(notes, key=lambda note: (note.start, note.pitch))
    length = float(beat)
    onsets = [max(note.start, 0.0) / length for note in ordered]
    exact = _exact(onsets)
    onsets = _joined(onsets, _TICK if exact else _TOGETHER)
    by_beat: dict[int, list[float]] = {}
    for onset in onsets:
        by_beat.setdefault(int(onset + _LEAN), []).append(onset)
    placed = {number: _placed(own, number, beat, exact=exact, coarse=coarse) for number, own in by_beat.items()}
    together: dict[Fraction, list[Played]] = {}
    for note, onset in zip(ordered, onsets, strict=True):
        at = placed[int(onset + _LEAN)][onset]
        together.setdefault(max(at, Fraction(0)), []).append(note)
    starts = sorted(together)
    quantised = []
    for place, start in enumerate(starts):
        own = together[start]
        following = starts[place + 1] if place + 1 < len(starts) else None
        longest = max(note.end - note.start for note in own)
        if coarse:
            end = start + max(Fraction(round(longest * 4), 4), _SIXTEENTH) if following is None else following
        else:
            end = _end(start, longest, following, beat, exact=exact)
        quantised.append(Placed(start, end, tuple(sorted({note.pitch for note in own}))))
    return tuple(quantised)


_SIXTEENTH = Fraction(1, 4)


def _placed(
    onsets: Sequence[float], number: int, beat: Fraction, *, exact: bool, coarse: bool
) -> dict[float, Fraction]:
    """Places, in quarter notes, of the onsets in a beat, which note values can say."""
    if coarse:
        return {onset: Fraction(round(onset * float(beat) * 4), 4) for onset in onsets}
    inside = [onset - number for onset in onsets]
    if exact:
        parts = [exact_part(one) for one in inside]
        places = [(number + part) * beat for part in parts if part is not None]
        if len(places) == len(parts) and _sayable(places, number * beat, (number + 1) * beat):
            return dict(zip(onsets, places, strict=True))
    times = sorted({min(max(one, 0.0), 1.0) for one in inside})
    for grid in _grids(times, compound=beat.numerator == 3):
        places = [(number + Fraction(round(one * grid), grid)) * beat for one in inside]
        if _sayable(places, number * beat, (number + 1) * beat):
            break
    return dict(zip(onsets, places, strict=True))


def _sayable(places: Sequence[Fraction], begin: Fraction, end: Fraction) -> bool:
    """Whether notes at these places of a beat, cut at quarter notes, have lengths that values add up to."""
    quarters = [Fraction(one) for one in range(int(begin) + 1, int(-(-end // 1)))]
    edges = sorted({begin, end, *quarters, *(min(max(place, begin), end) for place in places)})
    try:
        for one, other in pairwise(edges):
            values_of(other - one)
    except UnsayableError:
        return False
    return True


# A note this much early, in beats, still belongs to the beat that it leads to.
_LEAN = 0.06
_TOGETHER = 0.03
# Ends this near to a whole number of eighths were written so; played ones are not so sharp.
_SHARP = 0.012
_WELL_BEFORE = Fraction(4, 5)


def _exact(onsets: list[float]) -> bool:
    """Whether a program has written these times, in beats; of a few notes nobody can say."""
    if len(onsets) < _FEW:
        return False
    exact = [exact_part(onset % 1.0) is not None for onset in onsets]
    return sum(exact) >= _MOST * len(exact)


def _joined(onsets: list[float], near: float) -> list[float]:
    """Notes struck almost together get one time."""
    joined: list[float] = []
    for onset in onsets:
        joined.append(joined[-1] if joined and onset - joined[-1] < near else onset)
    return joined


def _end(start: Fraction, length: float, following: Fraction | None, beat: Fraction, *, exact: bool) -> Fraction:
    """Where a note of a length in quarter notes ends."""
    # Where a program has written the notes, sixteenths are as sharp as eighths.
    parts = 4 if exact else 2
    count = round(length * parts)
    if count and abs(length * parts - count) < _SHARP:
        sharp = Fraction(count, parts)
        if following is None or sharp <= (following - start) * _WELL_BEFORE:
            return start + sharp
    if following is not None and Fraction(length).limit_denominator(960) >= (following - start) * FILLS:
        return following
    share = length / float(beat)
    cut = min((1, 2, 3, 4, 6, 8), key=lambda one: abs(share - round(share * one) / one) + PRICE_OF_A_PART * one)
    end = start + max(Fraction(round(share * cut), cut), Fraction(1, 8)) * beat
    return end if following is None else min(end, following)
