"""Tunes over drones: a line of which every second, third or fourth note has open strings struck in between."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from dromic.instrument.instrument import Instrument
from dromic.planner.task.step import Step

LENGTHS = (2, 3, 4)
LEAST_TAKES, LEAST_TONES = 5, 3
MOST_LEAP_SEMITONES = 9


@dataclass(frozen=True)
class DroneLine:
    """A tune over drones.

    Parameters
    ----------
    first, length, takes : int
        Its first step, the steps from one note of the tune to the next, and how many notes the tune has.
    """

    first: int
    length: int
    takes: int

    @property
    def steps(self) -> range:
        """Its steps."""
        return range(self.first, self.first + self.length * self.takes)


def drone_lines(steps: Sequence[Step], instrument: Instrument) -> tuple[DroneLine, ...]:
    """Find tunes over drones: the same open strings, each struck singly, between the notes of a tune.

    Parameters
    ----------
    steps : sequence of Step
    instrument : Instrument

    Returns
    -------
    tuple of DroneLine
        In order, none overlapping another; the longest first where they do.
    """
    opened = {pitch + instrument.capo for pitch in instrument.tuning}
    pitches = [None if step.more or step.legato else instrument.pitch_of(step.note.target) for step in steps]
    gaps = [two.moment.onset - one.moment.onset for one, two in pairwise(steps)]

    def goes_on(at: int, length: int) -> bool:
        one, two = pitches[at : at + length], pitches[at + length : at + 2 * length]
        drones = one[1:] == two[1:] and all(pitch in opened for pitch in one[1:])
        if not drones or one[0] is None or two[0] is None or abs(two[0] - one[0]) > MOST_LEAP_SEMITONES:
            return False
        return gaps[at : at + length - 1] == gaps[at + length : at + 2 * length - 1]

    found: list[DroneLine] = []
    for length in LENGTHS:
        found += _lines([goes_on(at, length) for at in range(len(steps) - 2 * length + 1)], length)
    lines: list[DroneLine] = []
    for line in sorted(found, key=lambda line: (-len(line.steps), line.first)):
        tune = {pitches[at] for at in line.steps[:: line.length]}
        free = all(line.steps.stop <= other.first or other.steps.stop <= line.first for other in lines)
        if free and line.takes >= LEAST_TAKES and len(tune) >= LEAST_TONES:
            lines.append(line)
    return tuple(sorted(lines, key=lambda line: line.first))


def _lines(goes_on: Sequence[bool], length: int) -> Iterator[DroneLine]:
    for first, begins in enumerate(goes_on):
        if begins and not (first >= length and goes_on[first - length]):
            at = first
            while at < len(goes_on) and goes_on[at]:
                at += length
            yield DroneLine(first, length, (at - first) // length + 1)
