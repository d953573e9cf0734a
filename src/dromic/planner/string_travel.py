"""From string to string: what counts as a change of string, for the pick and for a school, chords included."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from dromic.hands.fretting import FretStates
from dromic.hands.shapes import ShapeStates

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

MOST_DRAGGED = 2


def changes_string(before: FretStates, after: FretStates) -> NDArray[np.bool_]:
    """Whether the pick has to go to another string, shape (before, after); a chord counts as its outer strings."""
    lows: NDArray[np.bool_] = before.string[:, None] != after.string[None, :]
    highs = [states.high if isinstance(states, ShapeStates) else states.string for states in (before, after)]
    changes: NDArray[np.bool_] = lows | (highs[0][:, None] != highs[1][None, :])
    return changes


def dragged_strings(states: FretStates, direction: int, strings: int) -> Ints:
    """How many strings a rake in a direction drags across on its way to each single note, at most two."""
    free = states.string if direction > 0 else strings - 1 - states.string
    return np.minimum(free, MOST_DRAGGED)


def rule_travel(before: FretStates, after: FretStates) -> Ints:
    """Strings moved as a school sees it, shape (before, after): none where two chords share strings."""
    high_before, high_after = (one.high if isinstance(one, ShapeStates) else one.string for one in (before, after))
    onward = after.string[None, :] - high_before[:, None]
    backward = high_after[None, :] - before.string[:, None]
    return np.where(onward > 0, onward, np.where(backward < 0, backward, 0))


def expand_by_string(by_string: Floats, states: FretStates) -> Floats:
    """Widen a last axis of strings to one of states, which stand in runs from the thinnest string down."""
    runs = np.bincount(states.string, minlength=by_string.shape[-1])[::-1]
    expand_by_string: Floats = np.repeat(by_string[..., ::-1], runs, axis=-1)
    return expand_by_string
