"""Notes that go on sounding while others are struck: let ring, and bends that are held.

Neighbouring notes that are marked to ring make a group: each is held until the group ends, a rest comes, a voice
moves on from it by a step, or no hand can hold it any longer. A bend is held from its note to its release. All of
this comes from the pitches, whichever places are written.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from dromic.errors import NoPlanError
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Mark
from dromic.planner.task.step import HeldNote, Step
from dromic.planner.task.task import Link, Task

VOICE_STEP = 2
"""Semitones within which a note carries on the voice of one that rings, on its string."""


class CannotRingError(Exception):
    """A note cannot ring on as long as it is marked to.

    Parameters
    ----------
    step : int
        Where it cannot be held any longer.
    """

    def __init__(self, step: int) -> None:
        super().__init__(f"cannot ring on at step {step}")
        self.step = step


def with_held_notes(steps: Sequence[Step], links: Sequence[Link], instrument: Instrument) -> tuple[Step, ...]:
    """Tell every step which earlier notes have to be held.

    Parameters
    ----------
    steps : sequence of Step
    links : sequence of Link
        From each step to the next.
    instrument : Instrument

    Raises
    ------
    NoPlanError
        For a release without a bend before it.
    """
    rings = any(note.marks and Mark.LET_RING in note.marks for step in steps for note in step.notes)
    if not rings and not any(step.legato is Mark.RELEASE for step in steps):
        return tuple(steps)
    ringing: list[HeldNote] = []
    held: list[list[HeldNote]] = []
    for number, step in enumerate(steps):
        broken = number > 0 and links[number - 1].kind.silent_between
        if broken or step.tapped or Mark.LET_RING not in step.note.marks:
            ringing = []
        ringing = [one for one in ringing if not _ends_ring(number, step, one, instrument)]
        held.append(list(ringing))
        ringing += [HeldNote(number, note) for note in step.notes if Mark.LET_RING in step.note.marks]
    for number, step in enumerate(steps):
        if step.legato is Mark.RELEASE:
            bend = _bend_of(steps, number, instrument)
            for between in range(bend + 1, number):
                if steps[between].tapped:
                    continue
                held[between].append(HeldNote(bend, steps[bend].note, bend=True))
    return tuple(step.told(held=tuple(own)) for step, own in zip(steps, held, strict=True))


def _ends_ring(number: int, step: Step, ringing: HeldNote, instrument: Instrument) -> bool:
    """Whether a note that rings ends: it is slurred on from, or a voice moves on from it by a step.

    By pitch, wherever the notes are played; what needs its string beside, no grip can hold.
    """
    if step.legato is not None and ringing.step == number - 1:
        return True
    rings = instrument.pitch_of(ringing.note.target)
    return any(abs(instrument.pitch_of(note.target) - rings) <= VOICE_STEP for note in step.notes)


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


def release_ring(task: Task, at: int) -> Task | None:
    """Return the task with the oldest note that rings at one of its steps let go there; None if none rings."""
    steps = list(task.steps)
    words = release_at(steps, at)
    return None if words is None else replace(task, steps=tuple(steps), warnings=(*task.warnings, words))


def release_at(steps: list[Step], at: int, note: HeldNote | None = None) -> str | None:
    """Let go of a note that rings at a step, from there on, the oldest by itself.

    Parameters
    ----------
    steps : list of Step
        Changed in place.
    at : int
    note : HeldNote or None

    Returns
    -------
    str or None
        What was let go, in words; None if nothing rings.
    """
    ringing = ringing_at(steps[at])
    if not ringing:
        return None
    gone = note or ringing[0]
    for number in range(at, len(steps)):
        if gone not in steps[number].held:
            break
        steps[number] = replace(steps[number], held=tuple(one for one in steps[number].held if one != gone))
    return (
        f"{gone.note.target}, let ring at {steps[gone.step].moment.place_words}, is let go at "
        f"{steps[at].moment.place_words}, for no hand can hold it any longer"
    )


def ringing_at(step: Step) -> list[HeldNote]:
    """Notes that ring at a step and can be let go, the oldest first."""
    return [one for one in step.held if not one.bend]
