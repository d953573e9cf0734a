"""What links are in the music as a whole: on to the next take of a figure, or inside an arpeggio that turns.

An arpeggio that goes back the way it came is played in one place: the hand moves before or after it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from dromic.instrument.instrument import Instrument
from dromic.memory import Stages
from dromic.planner.task.figures import LEAST_LEAP_SEMITONES, Figure
from dromic.planner.task.step import Step
from dromic.planner.task.task import Link

LEAST_MIRRORED = 4


def with_kinds(
    links: Sequence[Link],
    steps: Sequence[Step],
    figures: Sequence[Figure],
    instrument: Instrument,
    stages: Stages | None = None,
) -> tuple[Link, ...]:
    """Links that say whether they are inside an arpeggio that turns, or lead to another take of a figure.

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
    begins = [False] * len(links)
    mirrored = _mirrored(stages.map(_single, steps, common=(instrument,)))
    for figure in figures:
        for first in figure.steps[figure.length :: figure.length]:
            begins[first - 1] = True
    return tuple(stages.map(_of_kind, links, begins, mirrored))


def _of_kind(link: Link, next_take: bool, mirrored: bool) -> Link:
    if not (next_take or mirrored):
        return link
    return replace(link, kind=replace(link.kind, next_take=next_take, mirrored=mirrored))


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
