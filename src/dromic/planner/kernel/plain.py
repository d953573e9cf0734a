"""The kernel in NumPy: what the compiled one has to give, number for number.

Every table is written out, so this is the readable form, and what serves where no compiler was. Among equal sums
the state with the smallest number is the source.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dromic.arrays import Floats, Ints
from dromic.planner.kernel.inputs import EffortCurve, Entry, Part, Side, check_parts

TIE = 1e-11


class JoinedMoves:
    """All moves from the joint states of one step to those of the next.

    Parameters
    ----------
    parts : sequence of Part
        At most one from any block to any other.
    before, after : Side
    curve : EffortCurve
    """

    def __init__(self, parts: Sequence[Part], before: Side, after: Side, curve: EffortCurve) -> None:
        check_parts(parts, before, after)
        self.parts, self.before, self.after, self.curve = tuple(parts), before, after, curve

    def costs(self, bound: float = np.inf) -> Floats:
        """Cost of every move, shape (states before, states after); infinite where it cannot be made.

        Parameters
        ----------
        bound : float
            Moves of a larger load cannot be made either.
        """
        found = np.full((self.before.states, self.after.states), np.inf)
        for part in self.parts:
            cost, load = self._part(part)
            found[self._place(part)] = np.where(load <= bound, cost, np.inf)
        return found

    def loads(self) -> Floats:
        """Largest load of every move, shape (states before, states after)."""
        found = np.full((self.before.states, self.after.states), np.inf)
        for part in self.parts:
            found[self._place(part)] = self._part(part)[1]
        return found

    def _place(self, part: Part) -> tuple[slice, slice]:
        rows, columns = self.before.picks * self.before.grips, self.after.picks * self.after.grips
        return (
            slice(part.before * rows, (part.before + 1) * rows),
            slice(part.after * columns, (part.after + 1) * columns),
        )

    def _part(self, part: Part) -> tuple[Floats, Floats]:
        """Costs and loads of one part, each of shape (picks * grips before, picks * grips after)."""
        hand, effort, picks = part.hand, self.curve.of, self.before.picks
        load = hand.time_ms / part.hand_gaps_ms[:, None]
        cost = effort(load) + (hand.effort + part.hurry[:, None] * hand.hurried)
        rows, columns = load.shape
        if part.pick is None:
            held = np.full((picks, rows, picks, columns), np.inf)
            loads = held.copy()
            for pick in range(picks):
                held[pick, :, pick], loads[pick, :, pick] = cost, load
            return held.reshape(picks * rows, -1), loads.reshape(picks * rows, -1)
        meets = hand.meeting_ms > 0
        extra = hand.meeting_ms / part.gap_ms
        together = effort(load + extra)
        cost = cost + np.where(meets, together, 0.0)
        stroke_load, stroke_cost = (
            table[:, self.before.classes][..., self.after.classes] for table in (part.pick.load, part.pick.cost)
        )
        load, extra, together = (one[None, :, None, :] for one in (load, extra, together))
        more = np.where(meets[None, :, None, :] & (stroke_load > load), effort(stroke_load + extra) - together, 0.0)
        joined = (stroke_cost + cost[None, :, None, :]) + more
        loads = np.maximum(stroke_load, load) + extra
        return joined.reshape(picks * rows, -1), loads.reshape(picks * rows, -1)

    def least(
        self, here: Floats, entry: Entry | None = None, *, back: bool = False, bound: float = np.inf
    ) -> tuple[Floats, Ints]:
        """Least sums after the moves, and the state that each comes from.

        Parameters
        ----------
        here : ndarray, shape (layers * states,)
            Sums at the states that the moves begin with; those after the link where it is gone back over.
        entry : Entry or None
            How layers lead to layers; None where there are none.
        back : bool
            Whether to go back over the link.
        bound : float
            Load that no move may have more of.

        Returns
        -------
        (ndarray, ndarray of int), each of shape (layers entered * states,)
            Infinite, and -1, where nothing leads to a state.
        """
        table = self.costs(bound)
        if back:
            table = table.T
        count, size = table.shape
        sums = here.reshape(-1, count)
        layers = 1 if entry is None else entry.changing.shape[1]
        values, sources = np.full((layers, size), np.inf), np.full((layers, size), -1, dtype=np.int64)
        for layer in range(layers):
            start, lead = sums[0], np.zeros(count, dtype=np.int64)
            if entry is not None:
                entered = sums + entry.changing[:, layer, None]
                lead, start = entered.argmin(axis=0), entered.min(axis=0)
            total = start[:, None] + table
            best = _first_of_least(total, lead * count + np.arange(count))
            values[layer] = total.min(axis=0)
            reached = np.isfinite(values[layer])
            if entry is not None:
                reached &= np.tile(entry.only[layer], size // entry.only.shape[1])
                values[layer, ~reached] = np.inf
            sources[layer, reached] = best[reached]
        return values.ravel(), sources.ravel()

    def smallest_largest(self, here: Floats, *, back: bool = False) -> Floats:
        """Smallest largest load after the moves, over moves that can be made.

        Parameters
        ----------
        here : ndarray, shape (states,)
            Largest loads on the way so far; infinite where a state is not reached.
        back : bool
        """
        table = np.where(np.isfinite(self.costs()), self.loads(), np.inf)
        if back:
            table = table.T
        found: Floats = np.maximum(here[:, None], table).min(axis=0)
        return found

    def costs_to(self, state: int, bound: float = np.inf) -> Floats:
        """Costs of the moves to one state, shape (states before,)."""
        return np.ascontiguousarray(self.costs(bound)[:, state])

    def costs_from(self, state: int, bound: float = np.inf) -> Floats:
        """Costs of the moves from one state, shape (states after,)."""
        return np.ascontiguousarray(self.costs(bound)[state])

    def pair_loads(self, one: Ints, two: Ints) -> Floats:
        """Loads of the moves from states `one` to states `two`, arrays of one length."""
        found: Floats = self.loads()[one, two]
        return found


def _first_of_least(total: Floats, number: Ints) -> Ints:
    """For each column the smallest number among its least values."""
    found: Ints = np.where(total == total.min(axis=0), number[:, None], np.iinfo(np.int64).max).min(axis=0)
    return found


def min_plus(starts: Floats, table: Floats) -> Floats:
    """Least sums of several rows of starts over one table: shapes (starts, before), (before, after)."""
    found = np.full((len(starts), table.shape[1]), np.inf)
    for row, start in enumerate(starts):
        reached = np.isfinite(start)
        if reached.any():
            found[row] = (start[reached, None] + table[reached]).min(axis=0)
    return found


def max_min(starts: Floats, table: Floats) -> Floats:
    """Smallest largest values of several rows of starts over one table, as `min_plus`."""
    found = np.full((len(starts), table.shape[1]), np.inf)
    for row, start in enumerate(starts):
        reached = np.isfinite(start)
        if reached.any():
            found[row] = np.maximum(start[reached, None], table[reached]).min(axis=0)
    return found
