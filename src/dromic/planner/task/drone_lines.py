"""Tunes over drones: a line of which every second, third or fourth note has open strings struck in between."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from dromic.arrays import Bools, Floats, Ints
from dromic.instrument.instrument import Instrument
from dromic.memory import Stages
from dromic.planner.task.step import Step

LENGTHS = (2, 3, 4)
LEAST_TAKES, LEAST_TONES = 5, 3
MOST_LEAP_SEMITONES = 9
SAME_GAP = 1e-9
NOT_SINGLE = -1


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


def drone_lines(
    steps: Sequence[Step], instrument: Instrument, stages: Stages | None = None
) -> tuple[DroneLine, ...]:
    """Find tunes over drones: the same open strings, each struck singly, between the notes of a tune.

    Parameters
    ----------
    steps : sequence of Step
    instrument : Instrument
    stages : Stages or None
        What was made of this riff before.

    Returns
    -------
    tuple of DroneLine
        In order, none overlapping another; the longest first where they do.
    """
    stages = stages or Stages()
    pitches = stages.map(_struck_singly, steps, common=(instrument,))
    onsets = np.array(stages.map(_onset, steps))
    found: list[DroneLine] = []
    for length in LENGTHS:
        found += _lines(_goes_on(np.array(pitches), onsets, length, instrument), length)
    lines: list[DroneLine] = []
    for line in sorted(found, key=lambda line: (-len(line.steps), line.first)):
        tune = {pitches[at] for at in line.steps[:: line.length]}
        free = all(line.steps.stop <= other.first or other.steps.stop <= line.first for other in lines)
        if free and line.takes >= LEAST_TAKES and len(tune) >= LEAST_TONES:
            lines.append(line)
    return tuple(sorted(lines, key=lambda line: line.first))


def _goes_on(pitches: Ints, onsets: Floats, length: int, instrument: Instrument) -> Bools:
    """Of each step whether a note of a tune and its drones begin there, and the same drones after it.

    Parameters
    ----------
    pitches : ndarray of int, shape (steps,)
        Of single notes that are struck; -1 for all else.
    onsets : ndarray, shape (steps,)
    length : int
    instrument : Instrument
    """
    at = np.arange(max(len(pitches) - 2 * length + 1, 0))
    one, two, gaps = pitches[at], pitches[at + length], np.diff(onsets)
    goes_on: Bools = (one != NOT_SINGLE) & (two != NOT_SINGLE) & (np.abs(one - two) <= MOST_LEAP_SEMITONES)
    opened = np.isin(pitches, [pitch + instrument.capo for pitch in instrument.tuning])
    for drone in range(1, length):
        before, after = at + drone, at + drone + length
        goes_on &= opened[before] & (pitches[before] == pitches[after])
        goes_on &= np.abs(gaps[before - 1] - gaps[after - 1]) < SAME_GAP
    return goes_on


def _lines(goes_on: Bools, length: int) -> Iterator[DroneLine]:
    for first in np.flatnonzero(goes_on).tolist():
        if first >= length and goes_on[first - length]:
            continue
        at = first
        while at < len(goes_on) and goes_on[at]:
            at += length
        yield DroneLine(first, length, (at - first) // length + 1)


def _struck_singly(step: Step, instrument: Instrument) -> int:
    """Pitch of a single note that is struck; `NOT_SINGLE` for all else."""
    return NOT_SINGLE if step.more or step.legato else instrument.pitch_of(step.note.target)


def _onset(step: Step) -> float:
    return float(step.moment.onset)
