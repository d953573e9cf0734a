"""The fretting hand: what fingers and hand do from one grip to the next.

All lengths are along the neck in millimetres, between finger spots (`dromic.instrument.geometry.finger_spots`).
The time a move needs and the effort it costs apart from time are sums of terms, each an array by its key
(`dromic.hands.terms`). A single note is a grip of one note: the same formulas serve notes and chords. The fingers
of a change of chord move at the same time, so what counts is the slowest of them, and a little for each further
one. Between two single notes there is more to say (weak pairs, crossing, the first finger coming back); none of
that is counted for chords. Moves that cannot be made (a hammer-on to a lower fret) are not allowed.
"""

from __future__ import annotations

import numpy as np

from dromic.arrays import Bools, Terms
from dromic.hands.constants import LettingGo
from dromic.hands.finger_moves import NotePassage, any_down, finger_times, fingers_added, note_times
from dromic.hands.fretting_tables import FretMoves, FrettingTables
from dromic.hands.grips import GripArrays
from dromic.hands.move_efforts import chord_efforts, hand_efforts, note_efforts
from dromic.hands.possible_moves import PICKED, TransitionKind, can_be_reached, flies_on, keeps_held, keeps_shape
from dromic.music.riff import Mark


def all_moves(
    tables: FrettingTables, before: GripArrays, after: GripArrays, kind: TransitionKind = PICKED
) -> FretMoves:
    """Times and kinds of all moves between two sets of grips, arrays of shape (A, B).

    Parameters
    ----------
    tables : FrettingTables
    before, after : GripArrays
    kind : TransitionKind
    """
    return fret_moves(tables, before[:, None], after[None, :], kind)


def fret_moves(
    tables: FrettingTables, before: GripArrays, after: GripArrays, kind: TransitionKind = PICKED
) -> FretMoves:
    """Do as `all_moves`, each grip only to its partner, arrays of one shape or of shapes that broadcast.

    Parameters
    ----------
    tables : FrettingTables
    before, after : GripArrays
    kind : TransitionKind
    """
    hand, legato = tables.hand, kind.legato
    shift = after.position - before.position
    shifted: Bools = shift != 0
    was_down, is_down = (any_down(grips) for grips in (before, after))
    times, rolled, jumped = finger_times(tables, before, after, shift, kind)
    pulls = kind.slur or legato is Mark.PULL
    lifted = was_down & ~is_down
    times["lift_ms"] = (0.0 if pulls or legato is Mark.TAP else hand.lift_ms) * lifted  # a tap leaves it down
    if pulls:
        times["pull_ms"] = times.get("pull_ms", 0.0) + hand.pull_ms * lifted
    times["shift_ms"] = hand.shift_ms * shifted
    times["shift_fitts_ms"] = tables.shift_travel_ms[before.position, after.position]
    plain = before.single and after.single
    leaves = shifted | jumped if plain and hand.letting_go is LettingGo.HOLD else shifted
    if legato is not Mark.SLIDE and not kind.silent_between:
        times["hold_ms"] = hand.hold_ms * (leaves & was_down)
    if legato is Mark.SLIDE:
        times["slide_ms"] = np.array(hand.slide_ms)
    if legato is Mark.TAP:
        times["tap_ms"] = np.array(hand.tap_ms)
        times["to_neck_ms"] = np.array(hand.to_neck_ms * kind.to_neck)
    efforts: Terms = {}
    mm = tables.shift_mm[before.position, after.position]
    hurried = hand_efforts(tables, before, after, shift, shifted, mm, kind)
    allowed = (
        keeps_held(before, after)
        & keeps_shape(before, after, kind)
        & can_be_reached(before, after, shift, kind)
        & flies_on(before, after, shifted)
    )
    if not before.single and not after.single:
        efforts = chord_efforts(tables, before, after)
    if kind.within_span and not plain:
        efforts["added"] = tables.comfort.added * fingers_added(before, after)
    if plain:
        times |= note_times(NotePassage(tables, before, after, shifted), kind)
        efforts = note_efforts(tables, before, after, shifted, rolled, kind)
    return FretMoves(
        times, efforts, hurried, allowed, shifted, rolled, jumped, mm, np.broadcast_to(~was_down, shift.shape)
    )
