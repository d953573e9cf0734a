"""Pedals: notes that a riff keeps coming back to."""

from __future__ import annotations

from collections.abc import Sequence

from dromic.instrument.instrument import Instrument
from dromic.planner.step import Step

NEAR_STEPS = 4


def with_pedals(steps: Sequence[Step], instrument: Instrument) -> tuple[Step, ...]:
    """Steps that say whether their lowest note is struck again within a few notes, before or after.

    Parameters
    ----------
    steps : sequence of Step
    instrument : Instrument
    """
    lowest = [min(instrument.pitch_of(note.target) for note in step.notes) for step in steps]
    found = []
    for number, step in enumerate(steps):
        near = lowest[max(number - NEAR_STEPS, 0) : number] + lowest[number + 1 : number + 1 + NEAR_STEPS]
        found.append(step.told(pedal=lowest[number] in near))
    return tuple(found)
