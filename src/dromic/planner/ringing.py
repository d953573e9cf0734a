"""Notes that go on sounding while others are struck: let ring, and bends that are held.

Neighbouring notes that are marked to ring make a group: each is held until the group ends, a rest comes, or another
note needs its string. A bend is held from its note to its release.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from dromic.errors import NoPlanError
from dromic.music.pitch import Pitch
from dromic.music.riff import Mark, Note, Place
from dromic.planner.step import HeldNote, Step
from dromic.planner.steps import Link, Task

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


def with_held_notes(steps: Sequence[Step], links: Sequence[Link]) -> tuple[Step, ...]:
    """Tell every step which earlier notes have to be held.

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
        ringing = [one for one in ringing if not _needs_string(step, steps[number - 1], one)]
        held.append(list(ringing))
        ringing += [HeldNote(number, note) for note in step.notes if Mark.LET_RING in step.note.marks]
    for number, step in enumerate(steps):
        if step.legato is Mark.RELEASE:
            bend = _bend_of(steps, number)
            for between in range(bend + 1, number):
                if steps[between].tapped:
                    continue
                held[between].append(HeldNote(bend, steps[bend].note, bend=True))
    return tuple(step.told(held=tuple(own)) for step, own in zip(steps, held, strict=True))


def _needs_string(step: Step, before: Step, ringing: HeldNote) -> bool:
    """Whether a step needs the string of a ringing note, as far as that is known before planning."""
    if step.legato is not None and ringing.note in before.notes:
        return True
    return any(_ends_ring(note, ringing.note) for note in step.notes)


def _ends_ring(one: Note, other: Note) -> bool:
    """Whether a note ends another's ringing: on its string, or a step away, where a voice moves on."""
    if isinstance(one.target, Pitch) and isinstance(other.target, Pitch):
        return abs(one.target.midi - other.target.midi) <= VOICE_STEP
    return _same_string(one, other)


def _same_string(one: Note, other: Note) -> bool:
    if isinstance(one.target, Place) and isinstance(other.target, Place):
        return one.target.string == other.target.string
    return one.target == other.target


def _bend_of(steps: Sequence[Step], release: int) -> int:
    """Step of the bend that a release lets go."""
    step = steps[release]
    for earlier in range(release - 1, -1, -1):
        before = steps[earlier]
        same = _same_string(step.note, before.note)
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


def release_at(steps: list[Step], at: int) -> str | None:
    """Let go of the oldest note that rings at a step, from there on; says so in words, or None if none rings."""
    ringing = [one for one in steps[at].held if not one.bend]
    if not ringing:
        return None
    oldest = ringing[0]
    for number in range(at, len(steps)):
        if oldest not in steps[number].held:
            break
        steps[number] = replace(steps[number], held=tuple(one for one in steps[number].held if one != oldest))
    return (
        f"{oldest.note.target}, let ring at {steps[oldest.step].moment.place_words}, is let go at "
        f"{steps[at].moment.place_words}, for no hand can hold it any longer"
    )
