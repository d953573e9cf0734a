"""Which moves of the fretting hand can be made: legato, bends held, shapes kept, how long a free hand is free."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dromic.arrays import Bools, Ints
from dromic.hands.grips import GripArrays
from dromic.music.riff import Mark

MOST_FLIGHT = 3
"""Notes on end without a finger down that are told apart; more count as so many."""


@dataclass(frozen=True)
class TransitionKind:
    """How the fretting hand is asked to get from one note to the next.

    Parameters
    ----------
    legato : Mark or None
        Hammer-on, pull-off, slide or release by which the second note is reached.
    silent_between : bool
        Whether a rest or staccato lets the hand leave the first note early.
    plants_on : tuple of int
        Strings, as rows from the thickest, on which a pull-off from the second note leads to a fretted note, for
        which a lower finger is planted with the finger that takes the second.
    slur : bool
        Whether the second note is to be hammered on or pulled off, whichever the fingers can do.
    let_ring : bool
        Whether both are marked to ring.
    next_take : bool
        Whether the second note begins another take of a figure.
    to_neck : bool
        Whether the picking hand goes from the strings to the neck to tap the second note.
    mirrored : bool
        Whether both notes belong to an arpeggio that goes back the way it came.
    within_span : bool
        Whether both notes belong to one harmony span, in which a chord shape is kept.
    """

    legato: Mark | None = None
    silent_between: bool = False
    plants_on: tuple[int, ...] = ()
    slur: bool = False
    let_ring: bool = False
    next_take: bool = False
    to_neck: bool = False
    mirrored: bool = False
    within_span: bool = False


PICKED = TransitionKind()


def flies_on(before: GripArrays, after: GripArrays, shifted: Bools) -> Bools:
    """Whether a hand that is free has been free for as many notes as is said; of the shape of `shifted`.

    Parameters
    ----------
    before, after : GripArrays
    shifted : ndarray of bool
    """
    longest = np.where(shifted, 1, np.minimum(before.flight + 1, MOST_FLIGHT))
    found: Bools = after.flight <= longest
    return found


def keeps_shape(before: GripArrays, after: GripArrays, kind: TransitionKind) -> Bools:
    """Whether a chord shape that is held is kept; shape (before, after).

    Parameters
    ----------
    before, after : GripArrays
    kind : TransitionKind
    """
    kept: Bools = (before.shape == after.shape) | (not kind.within_span)
    return kept


def keeps_held(before: GripArrays, after: GripArrays) -> Bools:
    """Whether what stays bent is held by the same finger as before; shape (before, after)."""
    kept: Bools = np.ones(np.broadcast_shapes(before.position.shape, after.position.shape), dtype=np.bool_)
    if after.single:
        return kept
    for slot, held in enumerate(after.held):
        if held.any():
            there, fret, finger = _on_string(before, after.string[slot])
            kept &= ~held | (there & (fret == after.note_fret[slot]) & (finger == after.note_finger[slot]))
    return kept


def _on_string(grips: GripArrays, string: Ints) -> tuple[Bools, Ints, Ints]:
    """Whether a string sounds in grips, and its fret and finger there."""
    slots = [own == string for own in grips.string]
    if len(slots) == 1:
        return slots[0], grips.note_fret[0], grips.note_finger[0]
    there: Bools = np.logical_or.reduce(slots)

    def chosen(parts: tuple[Ints, ...]) -> Ints:
        chosen: Ints = np.select(slots, [np.broadcast_to(part, there.shape) for part in parts], 0)
        return chosen

    return there, chosen(grips.note_fret), chosen(grips.note_finger)


def can_be_reached(before: GripArrays, after: GripArrays, shift: Ints, kind: TransitionKind) -> Bools:
    """Whether the fingers can reach every note struck as the mark wants, each from one on its own string.

    Of the shape of `shift`.

    Parameters
    ----------
    before, after : GripArrays
    shift : ndarray of int
    kind : TransitionKind
    """
    legato, plain = kind.legato, before.single and after.single
    allowed: Bools = np.ones(shift.shape, dtype=np.bool_)
    if kind.slur:
        return _slurs(before, after, shift) if plain else np.zeros_like(allowed)
    if legato is None or legato is Mark.TAP:
        return allowed
    goes = np.zeros(shift.shape, dtype=np.bool_)
    for slot, struck in enumerate(after.struck):
        asked = struck & (after.string[slot] >= 0)
        there, fret, finger = _on_string(before, after.string[slot])
        rise, step = after.note_fret[slot] - fret, after.note_finger[slot] - finger
        fits = there
        if legato is Mark.HAMMER:
            fits = fits & (rise >= 0) & ((step > 0) if plain else True)
            # A string that is silent is hammered on from nowhere, like another string; in silence a chord too.
            nowhere = (~there | kind.silent_between) & (after.note_finger[slot] > 0)
            nowhere = nowhere & (plain or kind.silent_between)
            fits = fits | nowhere
            goes = goes | (asked & ((rise > 0) | nowhere))
        elif legato is Mark.PULL:
            # A finger that taps is none of the fretting hand's: whichever lies below it takes the note over.
            tapped = (finger == 0) & (fret > 0)
            fits = fits & (rise <= 0) & ((tapped | (step < 0)) if plain else True)
            goes = goes | (asked & (rise < 0))
        else:
            fits = fits & (step == 0) & (rise == (shift if legato is Mark.SLIDE else 0))
            goes = goes | asked
        allowed = allowed & (~asked | fits)
    hand_may: Bools = {Mark.SLIDE: shift != 0, Mark.HAMMER: np.ones_like(goes)}.get(legato, shift == 0)
    can_be_reached: Bools = allowed & goes & hand_may
    return can_be_reached


def _slurs(before: GripArrays, after: GripArrays, shift: Ints) -> Bools:
    """Which moves between single notes can sound the second without a stroke."""
    same_string = before.string[0] == after.string[0]
    rise, step = after.fret[0] - before.fret[0], after.finger[0] - before.finger[0]
    on: Bools = same_string & (rise > 0) & (step > 0)
    off: Bools = same_string & (rise < 0) & (step < 0) & (shift == 0)
    nowhere: Bools = ~same_string & (after.finger[0] > 0)
    return on | off | nowhere
