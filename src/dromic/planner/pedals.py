"""Pedals: notes that a riff keeps coming back to."""

from __future__ import annotations

from collections.abc import Sequence

from dromic.instrument.instrument import Instrument
from dromic.planner.step import Step
from dromic.planner.workings import Workings

NEAR_STEPS = 4


def with_pedals(
    steps: Sequence[Step], instrument: Instrument, workings: Workings | None = None
) -> tuple[Step, ...]:
    """Steps that say whether their lowest note is struck again within a few notes, before or after.

    Parameters
    ----------
    steps : sequence of Step
    instrument : Instrument
    workings : Workings or None
        What was worked out of this riff before.
    """
    workings = workings or Workings()

    def own(number: int) -> int:
        return min(instrument.pitch_of(note.target) for note in steps[number].notes)

    lowest = workings.each("lowest", (steps,), own, made_from=(instrument,))

    def told(number: int) -> Step:
        near = lowest[max(number - NEAR_STEPS, 0) : number] + lowest[number + 1 : number + 1 + NEAR_STEPS]
        return steps[number].told(pedal=lowest[number] in near)

    return tuple(workings.each("pedals", (steps, lowest), told, near=(NEAR_STEPS, NEAR_STEPS)))
