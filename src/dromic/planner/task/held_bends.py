"""Bends that are held while other strings are struck, from their note to their release.

All of this comes from the pitches, whichever places are written.
"""

from __future__ import annotations

from collections.abc import Sequence

from dromic.errors import NoPlanError
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Mark
from dromic.planner.task.step import HeldNote, Step


def with_held_bends(steps: Sequence[Step], instrument: Instrument) -> tuple[Step, ...]:
    """Tell every step which earlier bends have to be held.

    Parameters
    ----------
    steps : sequence of Step
    instrument : Instrument

    Raises
    ------
    NoPlanError
        For a release without a bend before it.
    """
    if not any(step.legato is Mark.RELEASE for step in steps):
        return tuple(steps)
    held: list[list[HeldNote]] = [[] for _ in steps]
    for number, step in enumerate(steps):
        if step.legato is Mark.RELEASE:
            bend = _bend_of(steps, number, instrument)
            for between in range(bend + 1, number):
                if not steps[between].tapped:
                    held[between].append(HeldNote(bend, steps[bend].note))
    return tuple(step.told(held=tuple(own)) for step, own in zip(steps, held, strict=True))


def _bend_of(steps: Sequence[Step], release: int, instrument: Instrument) -> int:
    """Step of the bend that a release lets go."""
    step = steps[release]
    goal = instrument.pitch_of(step.note.target)
    for earlier in range(release - 1, -1, -1):
        before = steps[earlier]
        same = instrument.pitch_of(before.note.target) == goal
        if before.bend and (same or earlier == release - 1):
            return earlier
        if same or before.legato is Mark.RELEASE:
            break
    raise NoPlanError(
        f"{step.words}: a release has no bend before it on its string; write the bent note first, for example "
        "'3:7.b2/4 3:7.r/4'",
        event_index=step.moment.event_index,
    )
