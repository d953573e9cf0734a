"""What links are in the music as a whole: inside a broken chord, or on to the next take of a figure.

A broken chord goes from a note through two or three others, each a leap of a third or more from the one before,
back to itself: players hold it as the chord and let it ring. An arpeggio that goes back the way it came is played
in one place: the hand moves before or after it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

from dromic.instrument.instrument import Instrument
from dromic.memory import Stages
from dromic.planner.task.figures import LEAST_LEAP_SEMITONES, Figure
from dromic.planner.task.step import Step
from dromic.planner.task.task import Link

LEAST_NOTES, MOST_NOTES = 3, 4
LEAST_MIRRORED = 4


def with_kinds(
    links: Sequence[Link],
    steps: Sequence[Step],
    figures: Sequence[Figure],
    instrument: Instrument,
    stages: Stages | None = None,
) -> tuple[Link, ...]:
    """Links that say whether they are inside a broken chord or an arpeggio, or lead to another take of a figure.

    Parameters
    ----------
    links : sequence of Link
        From each step to the next.
    steps : sequence of Step
    figures : sequence of Figure
    instrument : Instrument
    stages : Stages or None
        What was made of this riff before.
    """
    stages = stages or Stages()
    rings, begins = [False] * len(links), [False] * len(links)
    pitches = stages.map(_pitch, steps, common=(instrument,))
    windows = [tuple(pitches[first : first + MOST_NOTES + 1]) for first in range(len(pitches))]
    for first, length in enumerate(stages.map(_longest, windows)):
        for at in range(first, min(first + length, len(links))):
            rings[at] = True
    mirrored = _mirrored(stages.map(_single, steps, common=(instrument,)))
    for figure in figures:
        for first in figure.steps[figure.length :: figure.length]:
            begins[first - 1] = True
    return tuple(stages.map(_of_kind, links, rings, begins, mirrored))


def _of_kind(link: Link, rings: bool, next_take: bool, mirrored: bool) -> Link:
    if not (rings or next_take or mirrored):
        return link
    kind = replace(link.kind, rings=link.kind.rings or rings, next_take=next_take, mirrored=mirrored)
    return replace(link, kind=kind)


def _mirrored(pitches: Sequence[int | None]) -> list[bool]:
    """Of each link whether it is on the way up or down of an arpeggio that goes back the way it came."""
    found = [False] * max(len(pitches) - 1, 0)
    for top in range(1, len(pitches) - 1):
        reach = _mirror(pitches, top)
        if reach >= LEAST_MIRRORED:
            found[top - reach : top + reach] = [True] * (2 * reach)
    return found


def _mirror(pitches: Sequence[int | None], top: int) -> int:
    """How many notes before a turn, each a leap off the one after it, come back behind it in the other order."""
    way = 0
    for by in range(1, min(top, len(pitches) - 1 - top) + 1):
        near, here, there = pitches[top - by + 1], pitches[top - by], pitches[top + by]
        if near is None or here is None or here != there:
            return by - 1
        leap = near - here
        if abs(leap) < LEAST_LEAP_SEMITONES or leap * way < 0:
            return by - 1
        way = leap
    return min(top, len(pitches) - 1 - top)


def _single(step: Step, instrument: Instrument) -> int | None:
    """Pitch of a single note, struck or slurred."""
    return None if step.more else instrument.pitch_of(step.note.target)


def _pitch(step: Step, instrument: Instrument) -> int | None:
    """Pitch of a single note that is struck."""
    return None if step.legato else _single(step, instrument)


def _longest(pitches: Sequence[int | None]) -> int:
    """How many notes the longest broken chord has that some notes begin with; 0 where there is none."""
    lengths = range(MOST_NOTES, LEAST_NOTES - 1, -1)
    return next((length for length in lengths if _goes_round(pitches[: length + 1], length)), 0)


def _goes_round(pitches: Sequence[int | None], length: int) -> bool:
    """Whether so many different notes, a leap apart, come back to the first."""
    known = [pitch for pitch in pitches if pitch is not None]
    if len(known) != length + 1 or known[0] != known[-1] or len(set(known)) != length:
        return False
    return all(abs(two - one) >= LEAST_LEAP_SEMITONES for one, two in pairwise(known))
