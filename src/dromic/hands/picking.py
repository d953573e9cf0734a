"""The picking hand: what a pick does between two strokes.

String s lies at y(s); a stroke in direction d (+1 down, toward the floor; -1 up) ends at ``y + d a`` and the
next one begins at ``y' - d' a``. The way D between the two, the strings that lie on it, and the changes of
sign in the sequence (d, D, d') give the time needed::

    t = base + reversal * changes + clear * strings + fitts * log2(1 + |D| / target)

(Fitts 1954 in MacKenzie's Shannon form, 1992). A stroke that ends above the strings, because of the pick's
lean, clears them for nothing, and inside picking is then not awkward; sweeping on out of such a stroke costs
a drop. All tables have the shape (strings, states, strings, states): from string and pick state, to string
and pick state. Strings count from the thickest; pick states are the rows of `pick_states`.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dromic.hands.profile import Lean, PickingHand

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]

DOWN, UP = 1, -1


@dataclass(frozen=True)
class PickStates:
    """Directions and leans a pick stroke can have.

    Parameters
    ----------
    direction : ndarray, shape (states,)
        +1 down, -1 up.
    escape : ndarray, shape (states,)
        The direction whose strokes end above the strings.
    """

    direction: Ints
    escape: Ints

    def __len__(self) -> int:
        return len(self.direction)


def pick_states(hand: PickingHand) -> PickStates:
    """States of a hand: two strokes, in each lean that the player uses; the habitual lean first.

    Examples
    --------
    >>> pick_states(PickingHand()).direction.tolist()
    [1, -1, 1, -1]
    """
    habitual = UP if hand.lean is Lean.UP_ESCAPES else DOWN
    escapes = [habitual, -habitual] if hand.turns else [habitual]
    return PickStates(
        np.tile(np.array([DOWN, UP]), len(escapes)),
        np.repeat(np.array(escapes), 2),
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
    turned = states.escape[None, :, None, None] != states.escape[None, None, None, :]
    turned = np.broadcast_to(turned, way.shape)

    bits = np.log2(1.0 + np.abs(way) / hand.target_mm)
    time_ms = (
        hand.base_ms
        + hand.reversal_ms * reversals
        + hand.clear_ms * paid
        + hand.fitts_ms * bits
        + hand.inside_ms * (inside & (paid > 0))
        + hand.drop_ms * drop
        + hand.turn_ms * turned
    )
    return PickMoves(np.abs(way), reversals, cleared, paid, inside, outside, sweep, drop, turned, time_ms)
