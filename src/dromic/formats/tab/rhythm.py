"""Text tablature, the rhythm: from where notes stand in a bar to when they are played.

Typed tablature spaces notes by their time, roughly. Every grid of a bar is tried, with and without the extra column
of two-digit frets, and with the bar's end a column nearer or farther; the one that the notes fit best wins, and a
finer grid has to fit much better to win over a coarser one.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

from dromic.music.rhythm import Meter

GRID_PRICE = 0.0035
GOOD = 0.17


@dataclass(frozen=True)
class Spaced:
    """Notes of a bar: the column of each, and how many columns wider than one sign it is."""

    columns: tuple[int, ...]
    extra: tuple[int, ...]
    width: int


@dataclass(frozen=True)
class Timed:
    """When the notes of a bar are played, in quarter notes from its start; `sure` when they fit well."""

    onsets: tuple[Fraction, ...]
    sure: bool


def infer(bar: Spaced, meter: Meter) -> Timed:
    """Work out the rhythm of a bar from its spacing.

    Parameters
    ----------
    bar : Spaced
    meter : Meter

    Examples
    --------
    >>> timed = infer(Spaced((1, 3, 5, 7), (0, 0, 0, 0), 9), Meter(4, 4))
    >>> [str(onset) for onset in timed.onsets], timed.sure
    (['0', '1', '2', '3'], True)
    """
    count = len(bar.columns)
    if not count:
        return Timed((), sure=True)
    best: tuple[float, tuple[Fraction, ...]] | None = None
    for columns, width in _readings(bar):
        lead = columns[0]
        # A first note within two columns of the bar line is on the beat; farther off, a rest comes first.
        start = lead if lead <= 2 else 1
        for spare in (0, 1, -1, 2):
            length = width - start - spare
            if length <= columns[-1] - start:
                continue
            for slots in _grids(meter):
                places = [(column - start) / length * slots for column in columns]
                rounded = [round(place) for place in places]
                if len(set(rounded)) < count or rounded[-1] >= slots:
                    continue
                error = sum(abs(place - near) for place, near in zip(places, rounded, strict=True)) / count
                score = error + GRID_PRICE * slots + 0.02 * abs(spare)
                if best is None or score < best[0]:
                    onsets = tuple(Fraction(near, slots) * meter.bar for near in rounded)
                    best = (score, onsets)
    if best is None:
        return Timed(_evenly(count, meter), sure=False)
    return Timed(best[1], sure=best[0] <= GOOD)


def _readings(bar: Spaced) -> list[tuple[list[int], int]]:
    """The columns as they are, and without the second column of wide signs."""
    readings = [(list(bar.columns), bar.width)]
    if any(bar.extra):
        taken = 0
        columns = []
        for column, extra in zip(bar.columns, bar.extra, strict=True):
            columns.append(column - taken)
            taken += extra
        readings.append((columns, bar.width - taken))
    return readings


def _grids(meter: Meter) -> list[int]:
    """Into how many parts a bar may be cut: beats, and those cut into 2, 3, 4, 6 and 8."""
    beats = int(meter.bar / meter.beat) or 1
    parts = (1, 3, 6, 2, 4, 12) if meter.compound else (1, 2, 4, 3, 6, 8)
    return [beats * part for part in parts]


def _evenly(count: int, meter: Meter) -> tuple[Fraction, ...]:
    """Notes one after the other, as short as they must be, when the spacing says nothing."""
    slots = next(grid for grid in (*sorted(_grids(meter)), 64, 128, 256, 1024) if grid >= count)
    return tuple(Fraction(number, slots) * meter.bar for number in range(count))


def lengths(onsets: Sequence[Fraction], end: Fraction) -> list[Fraction]:
    """How long each note lasts: until the next one, the last until the bar's end."""
    return [after - before for before, after in pairwise([*onsets, end])]
