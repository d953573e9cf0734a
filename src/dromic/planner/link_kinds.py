"""What links are in the music as a whole: inside a broken chord, or on to the next take of a figure.

A broken chord goes from a note through two or three others, each a leap of a third or more from the one before,
back to itself: players hold it as the chord and let it ring.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from itertools import pairwise

from dromic.instrument.instrument import Instrument
from dromic.music.remembering import last_of
from dromic.planner.figures import LEAST_LEAP_SEMITONES, Figure
from dromic.planner.step import Step
from dromic.planner.steps import Link

LEAST_NOTES, MOST_NOTES = 3, 4


def with_kinds(
    links: Sequence[Link], steps: Sequence[Step], figures: Sequence[Figure], instrument: Instrument
) -> tuple[Link, ...]:
    """Links that say whether they are inside a broken chord, and whether the next take of a figure begins.

    Parameters
    ----------
    links : sequence of Link
        From each step to the next.
    steps : sequence of Step
    figures : sequence of Figure
    instrument : Instrument
    """
    ringing = _broken_chords(steps, instrument)
    takes = {first - 1 for figure in figures for first in figure.steps[figure.length :: figure.length]}
    same: dict[Link, Link] = {}
    found = []
    for number, link in enumerate(links):
        rings, begins = number in ringing, number in takes
        if rings or begins:
            told = last_of(link, "_told", (rings, begins), partial(_told, link, rings, begins))
            # Equal links are one object, so that tables of them are found quickly.
            link = same.setdefault(told, told)
        found.append(link)
    return tuple(found)


def _told(link: Link, rings: bool, next_take: bool) -> Link:
    return replace(link, kind=replace(link.kind, rings=rings, next_take=next_take))


def _broken_chords(steps: Sequence[Step], instrument: Instrument) -> set[int]:
    """Links inside broken chords."""
    pitches = [None if step.more or step.legato else instrument.pitch_of(step.note.target) for step in steps]
    found: set[int] = set()
    for first in range(len(steps)):
        for length in range(LEAST_NOTES, MOST_NOTES + 1):
            if _goes_round(pitches[first : first + length + 1], length):
                found.update(range(first, first + length))
    return found


def _goes_round(pitches: Sequence[int | None], length: int) -> bool:
    """Whether so many different notes, a leap apart, come back to the first."""
    known = [pitch for pitch in pitches if pitch is not None]
    if len(known) != length + 1 or known[0] != known[-1] or len(set(known)) != length:
        return False
    return all(abs(two - one) >= LEAST_LEAP_SEMITONES for one, two in pairwise(known))
