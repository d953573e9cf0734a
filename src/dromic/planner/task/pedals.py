"""Pedals: notes that a riff keeps coming back to."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from dromic.instrument.instrument import Instrument
from dromic.memory import Stages
from dromic.planner.task.step import Step

NEAR_STEPS = 4


def with_pedals(steps: Sequence[Step], instrument: Instrument, stages: Stages | None = None) -> tuple[Step, ...]:
    """Steps that say whether they are the step before again, and whether their lowest note is near by once more.

    Parameters
    ----------
    steps : sequence of Step
    instrument : Instrument
    stages : Stages or None
        What was made of this riff before.
    """
    stages = stages or Stages()
    pitches = stages.map(_pitches, steps, common=(instrument,))
    lowest = [some[0] for some in pitches]
    pedals = [
        pitch in lowest[max(at - NEAR_STEPS, 0) : at] or pitch in lowest[at + 1 : at + 1 + NEAR_STEPS]
        for at, pitch in enumerate(lowest)
    ]
    again = [False, *(one == two for one, two in pairwise(pitches))]
    return tuple(stages.map(_with_pedal, steps, pedals, again))


def _pitches(step: Step, instrument: Instrument) -> tuple[int, ...]:
    """From the lowest."""
    return tuple(sorted(instrument.pitch_of(note.target) for note in step.notes))


def _with_pedal(step: Step, pedal: bool, again: bool) -> Step:
    return step.told(pedal=pedal, again=again and step.legato is None)
