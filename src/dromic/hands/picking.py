"""The picking hand: what pick and plucking fingers do between two strokes.

String s lies at y(s); a stroke in direction d (+1 down, toward the floor; -1 up) ends at ``y + d a`` and the
next one begins at ``y' - d' a``. The way D between the two, the strings that lie on it, and the changes of
sign in the sequence (d, D, d') give the time needed::

    t = base + reversal * changes + clear * strings + fitts * log2(1 + |D| / target)

(Fitts 1954 in MacKenzie's Shannon form, 1992). A stroke that ends above the strings, because of the pick's
lean, clears them for nothing, and inside picking is then not awkward; sweeping on out of such a stroke costs
a drop. A camp that never rests the pick on the next string pays for each string of a sweep, and a wide jump
moves the hand.

Plucking fingers lie over the strings above the pick: m one string thinner, a two, c three; without a pick, i and
m share a string. Where a finger has plucked says where the hand is, and the next finger or the pick has to get
from there to its string; a pick that was in the air starts without a reversal.

All tables have the shape (strings, states, strings, states): from string and pick state, to string and pick
state. Strings count from the thickest; pick states are the rows of `pick_states`.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dromic.hands.profile import HandRest, Lean, PickingHand, RestStrokes
from dromic.music.riff import Stroke

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]

PICK = (Stroke.DOWN, Stroke.UP)
_STRINGS_ABOVE_PICK = {Stroke.MIDDLE: 1, Stroke.RING: 2, Stroke.LITTLE: 3}
DOWN, UP = 1, -1


@dataclass(frozen=True)
class PickStates:
    """What can sound a note: strokes of the pick in each lean, and plucking fingers.

    Parameters
    ----------
    strokes : tuple of Stroke
        One a state.
    direction : ndarray, shape (states,)
        +1 down, -1 up, 0 for a finger.
    escape : ndarray, shape (states,)
        The direction whose strokes end above the strings; 0 for a finger.
    above : ndarray, shape (states,)
        How many strings above the pick (on the thinner side) a finger lies; 0 for the pick itself.
    """

    strokes: tuple[Stroke, ...]
    direction: Ints
    escape: Ints
    above: Ints

    def __len__(self) -> int:
        return len(self.strokes)


def pick_states(hand: PickingHand, means: Sequence[Stroke] = PICK) -> PickStates:
    """States of a hand: strokes of the pick in each lean it uses, the habitual one first, then fingers.

    Parameters
    ----------
    hand : PickingHand
    means : sequence of Stroke
        What the school sounds notes with.

    Examples
    --------
    >>> pick_states(PickingHand()).direction.tolist()
    [1, -1, 1, -1]
    >>> pick_states(PickingHand(), (Stroke.INDEX, Stroke.MIDDLE)).above.tolist()
    [0, 0]
    """
    habitual = UP if hand.lean is Lean.UP_ESCAPES else DOWN
    escapes = [habitual, -habitual] if hand.turns else [habitual]
    with_pick = set(PICK) <= set(means)
    fingers = [stroke for stroke in means if stroke not in PICK]
    picks = [(stroke, escape) for escape in escapes for stroke in PICK] if with_pick else []
    signs = {Stroke.DOWN: DOWN, Stroke.UP: UP}
    return PickStates(
        (*(stroke for stroke, _ in picks), *fingers),
        np.array([*(signs[stroke] for stroke, _ in picks), *(0 for _ in fingers)], dtype=np.int64),
        np.array([*(escape for _, escape in picks), *(0 for _ in fingers)], dtype=np.int64),
        np.array(
            [*(0 for _ in picks), *(_STRINGS_ABOVE_PICK.get(one, 0) if with_pick else 0 for one in fingers)],
            dtype=np.int64,
        ),
    )


@dataclass(frozen=True)
class PickMoves:
    """Everything about the pick's way from one stroke to the next, each (S, K, S, K).

    `travel_mm` is the way between the strokes, `cleared` the strings on it, `paid` those that the lean does
    not clear for nothing.
    """

    travel_mm: Floats
    reversals: Ints
    cleared: Ints
    paid: Ints
    inside: Bools
    outside: Bools
    sweep: Bools
    drop: Bools
    turned: Bools
    time_ms: Floats


def pick_moves(y: Floats, states: PickStates, hand: PickingHand) -> PickMoves:
    """Tabulate all moves.

    Parameters
    ----------
    y : ndarray, shape (strings,), millimetres
        Strings across the picking spot, growing toward the floor.
    states : PickStates
    hand : PickingHand

    Returns
    -------
    PickMoves

    Examples
    --------
    Alternate strokes on one string come about 15 a second, a sweep about 25:

    >>> hand = PickingHand()
    >>> moves = pick_moves(np.array([0.0, 10.0]), pick_states(hand), hand)
    >>> float(1000 / moves.time_ms[0, 0, 0, 1]).__round__(1), float(1000 / moves.time_ms[0, 0, 1, 0]).__round__(1)
    (15.4, 26.3)
    """
    a = hand.half_stroke_mm
    ends = (y[:, None] + states.direction * a)[:, :, None, None]
    begins = (y[:, None] - states.direction * a)[None, None, :, :]
    way = begins - ends
    sign = np.sign(np.round(way, 9)).astype(np.int64)
    before = states.direction[None, :, None, None]
    after = states.direction[None, None, None, :]
    reversals = np.where(sign == 0, before != after, (before != sign).astype(int) + (sign != after)).astype(int)

    low, high = np.minimum(ends, begins), np.maximum(ends, begins)
    lies_between = (y > low[..., None]) & (y < high[..., None])
    cleared = lies_between.sum(axis=-1)

    escaped = (states.direction == states.escape)[None, :, None, None]
    step = np.sign(np.arange(len(y))[None, None, :, None] - np.arange(len(y))[:, None, None, None])
    changes_string = np.broadcast_to(step != 0, way.shape)
    sweep = changes_string & (before == after) & (after == step)
    outside = changes_string & (before != after) & (before == step)
    inside = changes_string & (before != after) & (before == -step)
    paid = np.where(escaped, 0, cleared)
    drop = sweep & escaped
    both_pick = (before != 0) & (after != 0)
    turned = both_pick & (states.escape[None, :, None, None] != states.escape[None, None, None, :])
    turned = np.broadcast_to(turned, way.shape)
    bits = np.log2(1.0 + np.abs(way) / hand.target_mm)
    picked_ms = (
        hand.base_ms
        + hand.reversal_ms * reversals
        + hand.clear_ms * paid
        + hand.fitts_ms * bits
        + hand.inside_ms * (inside & (paid > 0))
        + hand.drop_ms * drop
        + hand.turn_ms * turned
        + hand.attack_ms * (sweep & ~escaped & (hand.rest_strokes is RestStrokes.NEVER))
        + wide_jump_ms(way, hand)
    )
    with_pick = PickMoves(np.abs(way), reversals, cleared, paid, inside, outside, sweep, drop, turned, picked_ms)
    return with_pick if both_pick.all() else _with_fingers(with_pick, y, states, hand, both_pick)


def wide_jump_ms(way: Floats, hand: PickingHand) -> Floats:
    """Time for moving the hand where a wrist does not reach so far; an anchored hand has to let go first."""
    each = hand.glide_ms + (hand.anchored_ms if hand.hand_rest is HandRest.ANCHORED else 0.0)
    moved: Floats = np.asarray(each * (np.abs(way) > hand.glide_from_mm), dtype=np.float64)
    return moved


def _with_fingers(
    moves: PickMoves, y: Floats, states: PickStates, hand: PickingHand, both_pick: Bools
) -> PickMoves:
    """Replace every move from or to a plucking finger."""
    gap = float((y[-1] - y[0]) / max(len(y) - 1, 1))
    home = y[:, None] - states.above * gap
    starts = np.where(states.direction == 0, home, y[:, None] - states.direction * hand.half_stroke_mm)
    way = starts[None, None, :, :] - home[:, :, None, None]
    number = np.arange(len(states))
    same = (number[:, None] == number)[None, :, None, :]
    step = np.arange(len(y))[None, None, :, None] - np.arange(len(y))[:, None, None, None]
    to_pick = (states.direction != 0)[None, None, None, :]
    # One finger goes on to the next string; a chord that is plucked together is plucked again.
    one_finger = np.array([stroke is not Stroke.CHORD_PLUCK for stroke in states.strokes])[None, None, None, :]
    raked = same & (step == -1) & (states.above == 0)[None, None, None, :] & ~to_pick & one_finger
    little = np.array([stroke is Stroke.LITTLE for stroke in states.strokes])[None, None, None, :]
    plucked_ms = np.where(
        raked,
        hand.rake_ms,
        hand.pluck_ms + hand.pluck_again_ms * same + hand.pluck_little_ms * little,
    )
    bits = np.log2(1.0 + np.abs(way) / hand.target_mm)
    time_ms = np.where(to_pick, hand.base_ms, plucked_ms) + hand.fitts_ms * bits + wide_jump_ms(way, hand)

    def kept(part: Any, otherwise: Any) -> Any:
        return np.where(both_pick, part, otherwise)

    return PickMoves(
        kept(moves.travel_mm, np.abs(way)),
        kept(moves.reversals, 0),
        kept(moves.cleared, 0),
        kept(moves.paid, 0),
        kept(moves.inside, False),
        kept(moves.outside, False),
        kept(moves.sweep, raked),
        kept(moves.drop, False),
        kept(moves.turned, False),
        kept(moves.time_ms, time_ms),
    )
