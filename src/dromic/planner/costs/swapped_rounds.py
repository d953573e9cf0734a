"""A loop with an odd number of strokes: it goes round in two rounds, the second with the other strokes.

Where every stroke has to be another than the one before, the end of such a loop leads back to its start by the
other stroke. What is planned is the first round; in the second each stroke is the opposite one, and the rest
is played as in the first. A state costs the mean of what it costs in both rounds, so does a move, and its load is
the larger of the two: a chain like any other, whose seam leads from the last state to the opposite of the first.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import replace

import numpy as np

from dromic.arrays import Floats, Ints
from dromic.hands.picking import PickStates
from dromic.memory import Memo
from dromic.music.riff import Stroke
from dromic.planner.kernel.inputs import Layers
from dromic.planner.search.chains import Chain
from dromic.planner.search.moves import Moves, TableMoves
from dromic.planner.task.state import State
from dromic.planner.task.step import Step

_PICK = {Stroke.DOWN: Stroke.UP, Stroke.UP: Stroke.DOWN}
_FINGERS = {Stroke.INDEX: Stroke.MIDDLE, Stroke.MIDDLE: Stroke.INDEX}
TABLE_BYTES = 64 * 2**20


def opposites(means: Collection[Stroke]) -> Mapping[Stroke, Stroke]:
    """Of each stroke the other one: of the pick, or where there is none of two fingers that walk.

    Parameters
    ----------
    means : collection of Stroke
        What is in the player's hand.
    """
    return _PICK if set(_PICK) & set(means) else _FINGERS if set(_FINGERS) <= set(means) else {}


def swapped_state(state: State, means: Collection[Stroke]) -> State:
    """A state with the other stroke."""
    return replace(state, stroke=opposites(means).get(state.stroke, state.stroke))


def swapped_step(step: Step, means: Collection[Stroke]) -> Step:
    """A step whose stroke, where it is locked or played so elsewhere, is the other one."""
    other = opposites(means)
    stroke, usual = step.locks.stroke, step.usual
    if stroke is not None and stroke in other:
        step = replace(step, locks=replace(step.locks, stroke=other[stroke]))
    if usual is not None and usual.stroke in other:
        step = replace(step, usual=replace(usual, stroke=other[usual.stroke]))
    return step


def opposite_picks(states: PickStates) -> Ints:
    """Of each pick state the one with the other stroke and the same lean, shape (picks,)."""
    other = opposites(states.strokes)
    pairs = zip(states.strokes, states.escape.tolist(), strict=True)
    return np.array([states.index(other.get(stroke, stroke), escape) for stroke, escape in pairs])


def opposite_states(layers: Layers, blocks: int, picks: Ints) -> Ints:
    """Of each joint state in layers the one with the other stroke.

    Parameters
    ----------
    layers : Layers
    blocks : int
        How many blocks the step has.
    picks : ndarray of int, shape (picks,)
        See `opposite_picks`.

    Returns
    -------
    ndarray of int, shape (states,)
    """
    parts, first = [], 0
    for grips in np.diff(layers.starts).tolist():
        numbers = first + np.arange(blocks * len(picks) * grips).reshape(blocks, len(picks), grips)
        parts.append(numbers[:, picks].ravel())
        first += numbers.size
    return np.concatenate(parts)


class SwappedRounds:
    """Makes of a chain the one whose every second round has the other strokes.

    Parameters
    ----------
    opposites : sequence of ndarray of int, shape (states,)
        Of each step, see `opposite_states`.
    """

    def __init__(self, opposites: Sequence[Ints]) -> None:
        self._opposites = opposites
        self._both = Memo(_both, TABLE_BYTES, lambda moves: 2 * moves.costs().nbytes)

    def chain(self, plain: Chain, second_costs: Sequence[Floats]) -> Chain:
        """The chain of both rounds.

        Parameters
        ----------
        plain : Chain
        second_costs : sequence of ndarray, shape (states,)
            What each state costs in the second round.
        """
        both = zip(plain.node_costs, second_costs, self._opposites, strict=True)
        costs = [(first + second[opposite]) / 2 for first, second, opposite in both]
        return replace(plain, node_costs=costs, moves=self._moves_of(plain.moves))

    def seam(self, plain: Moves) -> TableMoves:
        """Moves from the last state of a round to the first state of the next, named by what it is in this one."""
        last, first = (tuple(own.tolist()) for own in (self._opposites[-1], self._opposites[0]))
        both = _both(plain, last, first)
        order = self._opposites[0]
        return TableMoves(both.costs()[:, order], np.ascontiguousarray(both.loads()[:, order]))

    def _moves_of(self, moves: Callable[[int], Moves]) -> Callable[[int], Moves]:
        def of_link(link: int) -> Moves:
            before, after = self._opposites[link], self._opposites[link + 1]
            return self._both(moves(link), tuple(before.tolist()), tuple(after.tolist()))

        return of_link


def _both(plain: Moves, before: tuple[int, ...], after: tuple[int, ...]) -> TableMoves:
    """Moves of both rounds: the mean of their costs, the larger of their loads.

    Parameters
    ----------
    plain : Moves
    before, after : tuple of int
        Of each state before the moves, and after them, the opposite one.
    """
    costs, loads = plain.costs(), plain.loads()
    at = np.ix_(before, after)
    return TableMoves((costs + costs[at]) / 2, np.maximum(loads, loads[at]))
