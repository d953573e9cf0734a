"""A passage with fewer string changes: each string's cell is played several times before the next.

More string changes a bar are harder at the same tempo, so a passage can be climbed in density as well as in tempo.
Places, fingers and hand stay as planned; the strokes follow the school anew, for a cell that is repeated comes
round on the other stroke where its count is odd. Grace notes come back when the passage does.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

from dromic.errors import RiffError
from dromic.music.laying import laid_in_bars
from dromic.music.riff import LEGATO_MARKS, Event, Mark, Place, Riff

DENSITIES = (8, 4, 2, 1)
"""How often each string's cell is played before the next, from the fewest changes to the riff as it is."""
MOST_NOTES = 400
_FROM_BEFORE = frozenset({*LEGATO_MARKS, Mark.RELEASE, Mark.TAP})


def sparser(density: int) -> int | None:
    """The next density with fewer string changes; None where there is none.

    Examples
    --------
    >>> sparser(1), sparser(4), sparser(8)
    (2, 8, None)
    """
    at = DENSITIES.index(density)
    return DENSITIES[at - 1] if at else None


def denser(density: int) -> int | None:
    """The next density with more string changes; None for the riff as it is.

    Examples
    --------
    >>> denser(8), denser(1)
    (4, None)
    """
    at = DENSITIES.index(density)
    return DENSITIES[at + 1] if at + 1 < len(DENSITIES) else None


def cells(events: Sequence[Event]) -> tuple[tuple[Event, ...], ...]:
    """Events in groups that stay on one string; a chord is a group of its own, rests belong to what came before.

    Parameters
    ----------
    events : sequence of Event
        With places, in the order in which they are played.
    """
    found: list[list[Event]] = []
    last: tuple[int, ...] | None = None
    for event in events:
        strings = tuple(note.target.string for note in event.notes if isinstance(note.target, Place))
        if event.rest:
            if found:
                found[-1].append(event)
            continue
        if strings != last:
            found.append([])
            last = strings
        found[-1].append(event)
    return tuple(tuple(cell) for cell in found)


def with_density(riff: Riff, density: int) -> Riff:
    """A drill's riff with each string's cell played several times.

    Parameters
    ----------
    riff : Riff
        Everything in its place, as from `dromic.practice.passages.excerpt`.
    density : int
        One of `DENSITIES`.

    Raises
    ------
    RiffError
        Where it stays on one string, or would get too long.
    """
    if density not in DENSITIES:
        raise RiffError(f"found a density of {density}, expected one of {', '.join(map(str, DENSITIES))}")
    if density == 1:
        return riff
    groups = cells([event for event in riff.written_events() if not event.grace])
    if len(groups) < 2:
        raise RiffError("this passage stays on one string; take a smaller piece of it instead")
    if density * sum(len(cell) for cell in groups) > MOST_NOTES:
        raise RiffError(f"each string {density} times makes more than {MOST_NOTES} notes; take a smaller piece")
    played = [event for cell in groups for event in _repeated(cell, density)]
    full, first = riff.meter.bar, riff.phrases[0]
    bars = laid_in_bars(played, lambda _number: (full, None))
    times = f"each string {density} times"
    return replace(
        riff,
        title=f"{riff.title}, {times}",
        pickup=Fraction(0),
        phrases=(replace(first, bars=tuple(bars)),),
    )


def _repeated(cell: Sequence[Event], times: int) -> list[Event]:
    """A cell several times over: rests at its end only the last time, and no slur from its end into its start."""
    length = len(cell)
    while length and cell[length - 1].rest:
        length -= 1
    plain = [_freed(event) for event in cell[:length]]
    again = [replace(plain[0], marks=plain[0].marks - _FROM_BEFORE), *plain[1:]]
    found = [*plain]
    for _ in range(times - 1):
        found += again
    return [*found, *cell[length:]]


def _freed(event: Event) -> Event:
    return replace(event, locks=replace(event.locks, stroke=None))
