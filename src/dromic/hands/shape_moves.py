"""From one chord shape to another: what each finger has to do, and how long the slowest of them takes.

Fingers move at the same time: a change of shape takes as long as its slowest finger, and a little longer for each
further finger that has to land with it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from dromic.hands.fretting import PICKED, FretMoves, FretStates, FrettingTables, TransitionKind, constant
from dromic.hands.shapes import Shape, as_shapes
from dromic.music.riff import Mark

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]


@dataclass(frozen=True)
class _Grip:
    """Shapes as arrays: by finger (0 to 4) whether it is down, its strings and fret; by string what sounds there.

    `down`, `first`, `last`, `fret` have the shape (shapes, 5); `has`, `struck`, `string_fret`, `string_finger` the
    shape (shapes, strings).
    """

    down: Bools
    first: Ints
    last: Ints
    fret: Ints
    has: Bools
    struck: Bools
    string_fret: Ints
    string_finger: Ints


def _grip(shapes: Sequence[Shape], strings: int) -> _Grip:
    by_finger, by_string = (len(shapes), 5), (len(shapes), strings)
    down, has, struck = np.zeros(by_finger, bool), np.zeros(by_string, bool), np.zeros(by_string, bool)
    first, last, fret = (np.zeros(by_finger, np.int64) for _ in range(3))
    string_fret, string_finger = (np.zeros(by_string, np.int64) for _ in range(2))
    for row, shape in enumerate(shapes):
        for one in shape.held:
            at = row, one.finger
            down[at], first[at], last[at], fret[at] = True, one.first, one.last, one.fret
        for string, its_fret, finger in shape.notes:
            has[row, string], string_fret[row, string], string_finger[row, string] = True, its_fret, finger
            struck[row, string] = string not in shape.silent
    return _Grip(down, first, last, fret, has, struck, string_fret, string_finger)


def shape_moves(
    before: FretStates, after: FretStates, tables: FrettingTables, manner: TransitionKind = PICKED
) -> FretMoves:
    """Times and kinds of all moves where one side or both are chords, arrays of shape (A, B)."""
    legato, hand = manner.legato, tables.hand
    strings = tables.instrument.strings
    one, two = (_grip(as_shapes(states), strings) for states in (before, after))
    moves = tables.all_moves(before, after, TransitionKind(None, manner.silent_between))
    shift = after.position[None, :] - before.position[:, None]
    slowest = _slowest_fingers(one, two, shift, before, after, tables, legato)
    allowed = _keeps_held(one, two) & _legato_allows(one, two, shift, legato)
    is_slide = legato is Mark.SLIDE
    nothing = constant(0.0, shift.shape)
    release_ring = hand.pull_ms if legato is Mark.PULL else hand.lift_ms
    held_before, held_after = (np.asarray(grip.down.any(axis=1)) for grip in (one, two))
    lifted = held_before[:, None] & ~held_after[None, :]
    leaves = (shift != 0) & held_before[:, None]
    return replace(
        moves,
        place=slowest.place,
        lift=np.where(lifted, release_ring, 0.0),
        fourth=nothing,
        weak=nothing,
        roll=slowest.roll,
        jump=slowest.jump,
        cross=nothing,
        also=hand.extra_fingers_ms * np.maximum(slowest.moving - 1, 0),
        plant=np.where(slowest.place > 0, hand.plant_ms if manner.plants and legato is not Mark.PULL else 0.0, 0.0),
        hold=(0.0 if is_slide or manner.silent_between else hand.hold_ms) * leaves,
        slide=np.full(shift.shape, hand.slide_ms if is_slide else 0.0),
        late=nothing,
        release=nothing,
        allowed=np.zeros_like(allowed) if manner.slur else allowed,
        rolled=slowest.roll > 0,
        jumped=slowest.jump > 0,
        weak_pair=nothing,
        apart=nothing,
        squeezed=nothing,
        against=nothing,
    )


@dataclass(frozen=True)
class _Slowest:
    """The slowest finger of each change of shape, by name, and how many fingers move."""

    place: Floats
    roll: Floats
    jump: Floats
    moving: Ints


def _slowest_fingers(
    one: _Grip,
    two: _Grip,
    shift: Ints,
    before: FretStates,
    after: FretStates,
    tables: FrettingTables,
    legato: Mark | None,
) -> _Slowest:
    hand, spots, across = tables.hand, tables.instrument.spots, tables.instrument.neck_y
    put = {Mark.HAMMER: hand.hammer_ms, Mark.PULL: hand.pull_ms}.get(legato or Mark.TIE, hand.place_ms)
    place, roll, jump = (np.zeros(shift.shape) for _ in range(3))
    longest, moving = np.full(shift.shape, -1.0), np.zeros(shift.shape, np.int64)
    for finger in (1, 2, 3, 4):
        was, is_down = one.down[:, finger, None], two.down[None, :, finger]
        if not is_down.any():
            continue
        first_a, last_a, fret_a = (part[:, finger, None] for part in (one.first, one.last, one.fret))
        first_b, last_b, fret_b = (part[None, :, finger] for part in (two.first, two.last, two.fret))
        covered = (fret_a == fret_b) & (first_a <= first_b) & (last_b <= last_a)
        glides = (first_a == first_b) & (last_a == last_b) & (fret_b - fret_a == shift)
        moves = is_down & ~(was & (covered | glides))
        alone = (first_a == last_a) & (first_b == last_b)
        rolls = moves & was & alone & (fret_a == fret_b) & (np.abs(first_a - first_b) == 1)
        barre = hand.barre_ms * (last_b > first_b)
        put_ms = np.where(moves & ~rolls, put + hand.fourth_ms * (finger == 4) + barre, 0.0)
        along = spots[fret_b] - spots[fret_a]
        aside = (across[first_b] + across[last_b] - across[first_a] - across[last_a]) / 2
        way = np.hypot(along, aside)
        jump_ms = hand.jump_ms + hand.jump_fitts_ms * np.log2(1.0 + way / hand.jump_target_mm)
        jump_ms = np.where(moves & ~rolls & was & (shift == 0), jump_ms, 0.0)
        roll_ms = np.where(rolls, tables.roll_ms, 0.0)
        time_ms = put_ms + jump_ms + roll_ms
        slower = moves & (time_ms > longest)
        for whole, part in ((place, put_ms), (roll, roll_ms), (jump, jump_ms), (longest, time_ms)):
            np.copyto(whole, part, where=slower)
        moving += moves
    return _Slowest(place, roll, jump, moving)


def _keeps_held(one: _Grip, two: _Grip) -> Bools:
    """Whether what rings on or stays bent is held by the same finger as before."""
    held = (two.has & ~two.struck)[None]
    same = (
        one.has[:, None]
        & (one.string_fret[:, None] == two.string_fret[None])
        & (one.string_finger[:, None] == two.string_finger[None])
    )
    kept: Bools = (~held | same).all(axis=-1)
    return kept


def _legato_allows(one: _Grip, two: _Grip, shift: Ints, legato: Mark | None) -> Bools:
    """Whether the mark lets the fingers get to every note that it sounds, each from one on its own string."""
    if legato is None:
        return np.ones(shift.shape, dtype=np.bool_)
    struck = two.struck[None]
    rise = np.where(struck, two.string_fret[None] - one.string_fret[:, None], 0)
    step = two.string_finger[None] - one.string_finger[:, None]
    found: Bools = np.asarray((~struck | one.has[:, None]).all(axis=-1))
    if legato is Mark.HAMMER:
        found &= (rise >= 0).all(axis=-1) & (rise > 0).any(axis=-1)
    elif legato is Mark.PULL:
        found &= (rise <= 0).all(axis=-1) & (rise < 0).any(axis=-1) & (shift == 0)
    else:
        found &= (~struck | (step == 0)).all(axis=-1)
        if legato is Mark.SLIDE:
            found &= (~struck | (rise == shift[..., None])).all(axis=-1) & (shift != 0)
        else:
            found &= (rise == 0).all(axis=-1) & (shift == 0)
    return found


def finger_travels(before: Shape, after: Shape, tables: FrettingTables) -> dict[int, float]:
    """How far each finger travels that is down in the second shape, in mm, by finger.

    A finger that was not down hovered at ease over the middle of the first shape.

    Parameters
    ----------
    before, after : Shape
    tables : FrettingTables
    """
    spots, across = tables.instrument.spots, tables.instrument.neck_y
    down = {one.finger: one for one in before.held}
    middle = sum(string for string, _, _ in before.notes) / len(before.notes)
    middle_mm = float(np.interp(middle, np.arange(len(across)), across))
    found = {}
    for one in after.held:
        was = down.get(one.finger)
        if was == one:
            found[one.finger] = 0.0
            continue
        if was is None:
            start = float(spots[before.position]) + float(tables.spread[one.finger]), middle_mm
        else:
            start = float(spots[was.fret]), float(across[was.first] + across[was.last]) / 2
        end = float(spots[one.fret]), float(across[one.first] + across[one.last]) / 2
        found[one.finger] = float(np.hypot(end[0] - start[0], end[1] - start[1]))
    return found
