"""Grips on the chord shape of a harmony span: what is wanted of a step, and how a shape plays it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from dromic.hands.grips import Fretted, Grip, Grips
from dromic.hands.possible_moves import TransitionKind, can_be_reached
from dromic.hands.span_shapes import SpanShape
from dromic.music.riff import Mark, Place
from dromic.planner.task.step import SpanPart, Step

Homes = tuple[tuple[int, int], ...]
"""Positions of the hand while no finger is down, and for how many notes it has been free."""


@dataclass(frozen=True)
class Wanted:
    """What a hand is asked to hold: all of a step that its grips depend on.

    Parameters
    ----------
    places : tuple of tuple of Place
        Where each note can be played, those that are struck first, then those held on from before.
    fingers : tuple of int or None
        The finger that each is locked to.
    struck : int
        How many notes are struck.
    position : int or None
        Where the hand is locked to be.
    tapped, trill, needs_finger : bool
        As of the step.
    slurred : bool
        Whether it is slid or hammered to, which no open string is.
    """

    places: tuple[tuple[Place, ...], ...]
    fingers: tuple[int | None, ...]
    struck: int
    position: int | None
    tapped: bool
    trill: bool
    needs_finger: bool
    slurred: bool

    @property
    def may_open(self) -> bool:
        """Whether there may be a grip with no finger down."""
        return self.tapped or all(any(place.fret == 0 for place in some) for some in self.places)


def on_shapes(wanted: Wanted, shapes: Sequence[SpanShape], homes: Homes) -> Iterator[Grip]:
    """Every way to play what is wanted on a chord shape that is held.

    Parameters
    ----------
    wanted : Wanted
    shapes : sequence of SpanShape
        Which count from 1.
    homes : Homes
    """
    for number, shape in enumerate(shapes, start=1):
        struck = _struck_on(wanted, shape)
        if struck is None:
            continue
        strings, fingers = {note[0] for note in struck}, {note[2] for note in struck if note not in shape.notes}
        ready = tuple(note for note in shape.notes if note[0] not in strings and note[2] not in fingers - {0})
        down = [note for note in (*struck, *ready) if note[2]]
        position = shape.position or max((fret - finger + 1 for _, fret, finger in down), default=0)
        for home, flight in ((max(position, 1), 0),) if down else homes:
            if wanted.position in (None, home):
                yield Grip(struck, home, ready=ready, flight=flight, shape=number)


def _struck_on(wanted: Wanted, shape: SpanShape) -> tuple[Fretted, ...] | None:
    """The notes of a shape that are struck, the thickest string first; None where it does not have them."""
    struck: list[Fretted] = []
    for places, finger in zip(wanted.places, wanted.fingers, strict=True):
        spots = {(place.string, place.fret) for place in places}
        note = next((one for one in (*shape.notes, *shape.added) if one[:2] in spots), None)
        no_finger = note is not None and not note[2] and (finger or wanted.needs_finger or wanted.slurred)
        if note is None or no_finger or finger not in (None, note[2]):
            return None
        struck.append(note)
    strings, fingers = {note[0] for note in struck}, {(note[1], note[2]) for note in struck if note[2]}
    if len(strings) < len(struck) or len({finger for _, finger in fingers}) < len(fingers):
        return None
    return tuple(sorted(struck, reverse=True))


def spans_of(steps: Sequence[Step]) -> Iterator[range]:
    """The steps of every harmony span.

    Parameters
    ----------
    steps : sequence of Step
    """
    first: int | None = None
    for at, step in enumerate([*steps, None]):
        if first is not None and (step is None or step.span is None or step.span.part is SpanPart.FIRST):
            yield range(first, at)
            first = None
        if step is not None and step.span is not None and step.span.part is SpanPart.FIRST:
            first = at


def reached_on(before: Grips, after: Grips, legato: Mark) -> set[int]:
    """The shapes on which a note is reached by legato from the one before.

    Parameters
    ----------
    before, after : Grips
        Those of two steps in a row.
    legato : Mark
    """
    one, two = np.indices((len(before), len(after))).reshape(2, -1)
    here, there = before.arrays[one], after.arrays[two]
    reached = can_be_reached(here, there, there.position - here.position, TransitionKind(legato))
    return set(there.shape[reached & (here.shape == there.shape)].tolist())
