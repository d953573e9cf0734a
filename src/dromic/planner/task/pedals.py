"""Pedals: notes that a riff keeps coming back to."""

from __future__ import annotations

from collections.abc import Sequence

from dromic.instrument.instrument import Instrument
from dromic.memory import Stages
from dromic.planner.task.step import Step

NEAR_STEPS = 4


def with_pedals(steps: Sequence[Step], instrument: Instrument, stages: Stages | None = None) -> tuple[Step, ...]:
    """Steps that say whether their lowest note is struck again within a few notes, before or after.

    Parameters
    ----------
    steps : sequence of Step
    instrument : Instrument
    stages : Stages or None
        What was made of this riff before.
    """
    stages = stages or Stages()
    lowest = stages.map(_lowest, steps, common=(instrument,))
    pedals = [
        pitch in lowest[max(at - NEAR_STEPS, 0) : at] or pitch in lowest[at + 1 : at + 1 + NEAR_STEPS]
        for at, pitch in enumerate(lowest)
    ]
    return tuple(stages.map(_with_pedal, steps, pedals))


def _lowest(step: Step, instrument: Instrument) -> int:
    return min(instrument.pitch_of(note.target) for note in step.notes)


def _with_pedal(step: Step, pedal: bool) -> Step:
    return step.told(pedal=pedal)
