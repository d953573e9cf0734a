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
from dromic.planner.workings import Workings

LEAST_NOTES, MOST_NOTES = 3, 4


def with_kinds(
    links: Sequence[Link],
    steps: Sequence[Step],
    figures: Sequence[Figure],
    instrument: Instrument,
    workings: Workings | None = None,
) -> tuple[Link, ...]:
    """Links that say whether they are inside a broken chord, and whether the next take of a figure begins.

    Parameters
    ----------
    links : sequence of Link
        From each step to the next.
    steps : sequence of Step
    figures : sequence of Figure
    instrument : Instrument
    workings : Workings or None
        What was worked out of this riff before.
    """
    workings = workings or Workings()
    ringing = _broken_chords(steps, instrument, workings)
    takes = {first - 1 for figure in figures for first in figure.steps[figure.length :: figure.length]}
    kinds = [(number in ringing, number in takes) for number in range(len(links))]

    def told(number: int) -> Link:
        link, kind = links[number], kinds[number]
        return last_of(link, "_told", kind, partial(_told, link, *kind)) if any(kind) else link

    return tuple(workings.each("kinds", (links, kinds), told))


def _told(link: Link, rings: bool, next_take: bool) -> Link:
    return replace(link, kind=replace(link.kind, rings=rings, next_take=next_take))


def _broken_chords(steps: Sequence[Step], instrument: Instrument, workings: Workings) -> set[int]:
    """Links inside broken chords."""

    def pitch(number: int) -> int | None:
        step = steps[number]
        return None if step.more or step.legato else instrument.pitch_of(step.note.target)

    pitches = workings.each("pitches", (steps,), pitch, made_from=(instrument,))

    def longest(first: int) -> int:
        """How many notes the longest broken chord has that begins here; 0 where none does."""
        lengths = range(MOST_NOTES, LEAST_NOTES - 1, -1)
        return next((one for one in lengths if _goes_round(pitches[first : first + one + 1], one)), 0)

    chords = workings.each("broken chords", (pitches,), longest, near=(0, MOST_NOTES))
    return {number for first, length in enumerate(chords) for number in range(first, first + length)}


def _goes_round(pitches: Sequence[int | None], length: int) -> bool:
    """Whether so many different notes, a leap apart, come back to the first."""
    known = [pitch for pitch in pitches if pitch is not None]
    if len(known) != length + 1 or known[0] != known[-1] or len(set(known)) != length:
        return False
    return all(abs(two - one) >= LEAST_LEAP_SEMITONES for one, two in pairwise(known))
