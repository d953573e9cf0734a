"""The picking hand: what pick and plucking fingers do between two strokes.

String s lies at y(s); a stroke in direction d (+1 down, toward the floor; -1 up) ends at ``y + d a`` and the
next one begins at ``y' - d' a``. The way D between the two, the strings that lie on it, and the changes of
sign in the sequence (d, D, d') give the time needed::

    t = base + reversal * changes + clear * strings + fitts * log2(1 + |D| / target)

(Fitts 1954 in MacKenzie's Shannon form, 1992). A stroke that ends above the strings, because of the pick's
lean, clears them for nothing, and inside picking is then not awkward; sweeping on out of such a stroke costs
a drop. A player who never rests the pick on the next string pays for each string of a sweep, and a wide jump
moves the hand.

Plucking fingers lie over the strings above the pick: m one string thinner, a two, c three; without a pick, i and
m share a string. Where a finger has plucked says where the hand is, and the next finger or the pick has to get
from there to its string; a pick that was in the air starts without a reversal.

All tables have the shape (states, strings, states, strings): from pick state and string, to pick state and string;
pick states are the rows of `pick_states`. Times are terms by key (`dromic.hands.terms`); each formula stands here
once, for the search and for the reasons alike.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dromic.arrays import Bools, Floats, Ints, Terms
from dromic.hands.comfort import Comfort
from dromic.hands.constants import HandRest, Lean, PickingHand, RestStrokes
from dromic.music.riff import Stroke

MOST_DRAGGED = 2
PICK = (Stroke.DOWN, Stroke.UP)
_STRINGS_ABOVE_PICK = {Stroke.MIDDLE: 1, Stroke.RING: 2, Stroke.LITTLE: 3}
DOWN, UP = 1, -1
MEDIUM = Comfort()


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

    def index(self, stroke: Stroke, escape: int) -> int:
        """Return the number of a stroke that escapes in a direction."""
        return self._numbers[stroke, escape]

    @cached_property
    def _numbers(self) -> dict[tuple[Stroke, int], int]:
        return {(stroke, int(self.escape[at])): at for at, stroke in enumerate(self.strokes)}


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
            [*(0 for _ in picks), *(_STRINGS_ABOVE_PICK.get(finger, 0) if with_pick else 0 for finger in fingers)],
            dtype=np.int64,
        ),
    )


@dataclass(frozen=True)
class PickContext:
    """What of a link changes the time of a stroke.

    Parameters
    ----------
    palm_changes, accent : bool
        Whether the palm is put down or lifted on the way, and whether the second note is accented.
    off_beat : bool
        Whether the second note lies on an odd part of its beat, where an up is expected.
    resumes : bool
        Whether it is the first picked note after legato.
    rested : bool
        Whether a rest is written between the two notes.
    exempt : bool
        Whether its stroke is the player's, whatever the school says.
    pinched, from_neck : bool
        Whether the thumb touches the string after the pick, and whether the hand comes back from tapping.
    """

    palm_changes: bool = False
    accent: bool = False
    off_beat: bool = False
    resumes: bool = False
    rested: bool = False
    exempt: bool = False
    pinched: bool = False
    from_neck: bool = False


@dataclass(frozen=True)
class PickMoves:
    """Everything about the way from one stroke to the next, each array of shape (states, strings, states, strings).

    Parameters
    ----------
    travel_mm : ndarray, millimetres
        The way between the strokes.
    reversals, cleared, paid : ndarray of int
        Changes of direction, the strings on the way, and those that the lean does not clear for nothing.
    inside, outside, sweep, changes_string : ndarray of bool
    times : dict of str to ndarray, milliseconds
        Terms that hold for every link.
    in_context : dict of str to ndarray, milliseconds
        Terms that hold for some links only, see `PickMoves.times_in`.
    efforts : dict of str to ndarray
        Comforts that do not depend on time.
    """

    travel_mm: Floats
    reversals: Ints
    cleared: Ints
    paid: Ints
    inside: Bools
    outside: Bools
    sweep: Bools
    changes_string: Bools
    times: Terms
    in_context: Terms
    efforts: Terms

    @cached_property
    def time_ms(self) -> Floats:
        """Sum of the terms that hold for every link; of the moves' shape, in ms."""
        total: Floats = sum(self.times.values(), np.zeros(self.travel_mm.shape))
        return total

    @cached_property
    def effort(self) -> Floats:
        """Sum of the comforts; of the moves' shape."""
        total: Floats = sum(self.efforts.values(), np.zeros(self.travel_mm.shape))
        return total

    def times_in(self, context: PickContext) -> Terms:
        """Terms that hold in a context, beside `times`; each of the moves' shape, in ms."""
        chosen = {
            "sweep_turn_ms": context.resumes,
            "odd_ms on beats": not context.off_beat,
            "odd_ms off beats": context.off_beat,
            "palm_ms": context.palm_changes,
            "accent_ms": context.accent,
            "pinch_ms": context.pinched,
            "from_neck_ms": context.from_neck,
        }
        return {key.split()[0]: self.in_context[key] for key, holds in chosen.items() if holds}


def pick_moves(y: Floats, states: PickStates, hand: PickingHand, comfort: Comfort = MEDIUM) -> PickMoves:
    """Tabulate all moves.

    Parameters
    ----------
    y : ndarray, shape (strings,), millimetres
        Strings across the picking spot, growing toward the floor.
    states : PickStates
    hand : PickingHand
    comfort : Comfort

    Returns
    -------
    PickMoves

    Examples
    --------
    Alternate strokes on one string come about 13 or 14 a second, and a sweep, in step with the fingers, about 13:

    >>> hand = PickingHand()
    >>> moves = pick_moves(np.array([0.0, 10.0]), pick_states(hand), hand)
    >>> float(1000 / moves.time_ms[0, 0, 1, 0]).__round__(1), float(1000 / moves.time_ms[0, 0, 0, 1]).__round__(1)
    (13.5, 12.7)
    """
    strings = np.arange(len(y))
    before, after = states.direction[:, None, None, None], states.direction[None, None, :, None]
    escape_a, escape_b = states.escape[:, None, None, None], states.escape[None, None, :, None]
    y_a, y_b = y[None, :, None, None], y[None, None, None, :]
    step = np.sign(strings[None, None, None, :] - strings[None, :, None, None])
    with_pick = (before != 0) & (after != 0)
    # A plucking finger lies over its string; where it has plucked says where the hand is.
    gap = float((y[-1] - y[0]) / max(len(y) - 1, 1))
    above_a, above_b = (states.above * gap)[:, None, None, None], (states.above * gap)[None, None, :, None]
    ends = np.where(with_pick, y_a + before * hand.half_stroke_mm, y_a - above_a)
    begins = np.where(after != 0, y_b - after * hand.half_stroke_mm, y_b - above_b)
    way = begins - ends
    shape = way.shape
    sign = np.sign(np.round(way, 9)).astype(np.int64)
    reversals = np.where(sign == 0, before != after, (before != sign).astype(int) + (sign != after).astype(int))
    reversals = np.where(with_pick, reversals, 0)
    low, high = np.minimum(ends, begins), np.maximum(ends, begins)
    cleared = ((y > low[..., None]) & (y < high[..., None])).sum(axis=-1) * with_pick
    escaped = with_pick & (before == escape_a)
    changes = np.broadcast_to(step != 0, shape)
    swept = with_pick & changes & (before == after) & (after == step)
    outside = with_pick & changes & (before != after) & (before == step)
    inside = with_pick & changes & (before != after) & (before == -step)
    paid = np.where(escaped, 0, cleared)
    plucks, strikes = after == 0, after != 0
    raked = _raked(states, step, strings)
    same = (np.arange(len(states))[:, None] == np.arange(len(states)))[:, None, :, None]
    little = np.array([stroke is Stroke.LITTLE for stroke in states.strokes])[None, None, :, None]
    wide = np.abs(way) > hand.glide_from_mm
    skipped = np.maximum(np.abs(strings[None, None, None, :] - strings[None, :, None, None]) - 1, 0)
    times = {
        "base_ms": hand.base_ms * np.broadcast_to(strikes, shape),
        "reversal_ms": hand.reversal_ms * reversals,
        "clear_ms": hand.clear_ms * paid,
        "fitts_ms": hand.fitts_ms * np.log2(1.0 + np.abs(way) / hand.target_mm),
        "inside_ms": hand.inside_ms * inside,
        "skip_ms": hand.skip_ms * skipped,
        "sweep_ms": hand.sweep_ms * swept,
        "drop_ms": hand.drop_ms * (swept & escaped),
        "turn_ms": hand.turn_ms * (with_pick & (escape_a != escape_b)),
        "attack_ms": hand.attack_ms * (swept & ~escaped & (hand.rest_strokes is RestStrokes.NEVER)),
        "glide_ms": hand.glide_ms * wide,
        "anchored_ms": hand.anchored_ms * (wide & (hand.hand_rest is HandRest.ANCHORED)),
        "pluck_ms": hand.pluck_ms * (plucks & ~raked),
        "pluck_next_ms": hand.pluck_next_ms * (plucks & ~raked & (before == 0)),
        "pluck_again_ms": hand.pluck_again_ms * (plucks & ~raked & same),
        "pluck_little_ms": hand.pluck_little_ms * (plucks & ~raked & little),
        "rake_ms": hand.rake_ms * raked,
    }
    efforts = {
        "skip": comfort.skip * skipped,
        "inside": comfort.inside * inside,
        "outside": comfort.outside * outside,
        "again": comfort.again * (with_pick & (before == after) & ~(changes & (after == step))),
    }
    in_context = {
        "sweep_turn_ms": hand.sweep_turn_ms * (with_pick & changes & (before != after)),
        "odd_ms on beats": hand.odd_ms * (with_pick & changes & (after == UP)),
        "odd_ms off beats": hand.odd_ms * (with_pick & changes & (after == DOWN)),
        "palm_ms": np.array(hand.palm_ms),
        "accent_ms": np.array(hand.accent_ms),
        "pinch_ms": np.array(hand.pinch_ms),
        "from_neck_ms": np.array(hand.from_neck_ms),
    }
    return PickMoves(
        np.abs(way),
        reversals,
        cleared,
        paid,
        inside,
        outside,
        swept | raked,
        changes,
        {key: np.ascontiguousarray(np.broadcast_to(term, shape)) for key, term in times.items()},
        {key: np.broadcast_to(term, shape) for key, term in in_context.items()},
        {key: np.ascontiguousarray(np.broadcast_to(term, shape)) for key, term in efforts.items()},
    )


def _raked(states: PickStates, step: Ints, strings: Ints) -> Bools:
    """Where one finger goes on to the next lower-pitched string; with a pick in the hand, none does."""
    number = np.arange(len(states))
    rakes = [stroke not in (*PICK, Stroke.CHORD_PLUCK) for stroke in states.strokes]
    with_pick = any(stroke in PICK for stroke in states.strokes)
    same = (number[:, None] == number) & np.array(rakes)[:, None] & (not with_pick)
    next_lower = (strings[None, :] - strings[:, None]) == -1
    raked: Bools = same[:, None, :, None] & next_lower[None, :, None, :]
    return raked


@dataclass(frozen=True)
class StrokeSpan:
    """Where each stroke begins and ends on each grip, and the terms of its way through; each (states, grips).

    Parameters
    ----------
    begins, ends : ndarray of int
        Strings met first and left last.
    times : dict of str to ndarray, milliseconds
    strings : ndarray of int
        How many strings it goes on after the first.
    """

    begins: Ints
    ends: Ints
    times: Terms
    strings: Ints

    @property
    def time_ms(self) -> Floats:
        """Sum of the terms; of the moves' shape, in ms."""
        total: Floats = sum(self.times.values(), np.zeros(self.begins.shape))
        return total


def stroke_spans(
    thickest: Ints, thinnest: Ints, states: PickStates, hand: PickingHand, strings: int, *, raked: bool
) -> StrokeSpan:
    """How strokes go through what each grip sounds.

    Parameters
    ----------
    thickest, thinnest : ndarray of int, shape (grips,)
        The outermost strings that are struck.
    states : PickStates
    hand : PickingHand
    strings : int
        How many strings the instrument has.
    raked : bool
        Whether the pick is dragged; to a single note across the strings before it, two at most.

    Returns
    -------
    StrokeSpan
    """
    low, high = thickest[None, :], thinnest[None, :]
    down, up = states.direction[:, None] == DOWN, states.direction[:, None] == UP
    begins, ends = np.where(up, high, low), np.where(down, high, low)
    if raked:
        one = low == high
        begins = begins - down * np.minimum(low, MOST_DRAGGED) * one
        begins = begins + up * np.minimum(strings - 1 - low, MOST_DRAGGED) * one
    further = np.abs(np.where(down | up, ends - begins, high - low))
    key, each_ms = ("drag_ms", hand.drag_ms) if raked else ("through_ms", hand.through_ms)
    return StrokeSpan(begins, ends, {key: each_ms * further}, further)
