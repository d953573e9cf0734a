"""The kernel in NumPy: what the compiled one has to give, number for number.

Every table is written out, so this is the readable form, and what serves where no compiler was. Among equal sums
the state with the smallest number is the source.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dromic.arrays import Floats, Ints
from dromic.planner.kernel.inputs import Bound, EffortCurve, Layering, Least, Part, Side, check_parts

TIE = 1e-11
LEAST_BYTES = 2_000


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

    @property
    def nbytes(self) -> int:
        """Size of the tables that it works with, which others may share."""
        return LEAST_BYTES + sum(part.hand.nbytes for part in self.parts)

    def costs(self, bound: float = np.inf) -> Floats:
        """Cost of every move, shape (states before, states after); infinite where it cannot be made.

        Parameters
        ----------
        bound : float
            Moves of a larger load cannot be made either.
        """
        costs = np.full((self.before.states, self.after.states), np.inf)
        for part in self.parts:
            cost, load = self._part(part)
            costs[self._place(part)] = np.where(load <= bound, cost, np.inf)
        return costs

    def loads(self) -> Floats:
        """Largest load of every move, shape (states before, states after)."""
        loads = np.full((self.before.states, self.after.states), np.inf)
        for part in self.parts:
            loads[self._place(part)] = self._part(part)[1]
        return loads

    def _place(self, part: Part) -> tuple[slice, slice]:
        rows, columns = self.before.picks * self.before.grips, self.after.picks * self.after.grips
        return (
            slice(part.before * rows, (part.before + 1) * rows),
            slice(part.after * columns, (part.after + 1) * columns),
        )

    def _part(self, part: Part) -> tuple[Floats, Floats]:
        """Costs and loads of one part, each of shape (picks * grips before, picks * grips after)."""
        hand, effort, picks = part.hand, self.curve.of, self.before.picks
        timing, flights = part.timing, self.before.flights
        load = hand.time_ms * timing.per_hand_gap[flights, None]
        cost = effort(load) + (hand.effort + timing.hurry[flights, None] * hand.hurried)
        rows, columns = load.shape
        if part.pick is None:
            held = np.full((picks, rows, picks, columns), np.inf)
            loads = held.copy()
            for pick in range(picks):
                held[pick, :, pick], loads[pick, :, pick] = cost, load
            return held.reshape(picks * rows, -1), loads.reshape(picks * rows, -1)
        extra = hand.meeting_ms * timing.per_gap
        meets = extra > 0
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
        self, here: Floats, layering: Layering | None = None, *, back: bool = False, bound: Bound = np.inf
    ) -> Least:
        """Least sums after the moves, the state that each comes from, and the load of the move from there.

        Parameters
        ----------
        here : ndarray, shape (states,) or (rows, states)
            Sums at the states that the moves begin with; those after the link where it is gone back over. Several
            rows are taken each by itself, in one go.
        layering : Layering or None
            Where states stand in layers; sums and states are then those of all layers, see `Layers`.
        back : bool
            Whether to go back over the link.
        bound : float or ndarray, shape (rows,)
            Load that no move may have more of; one for all, or one for each row.

        Returns
        -------
        Least
            Of as many rows. Among equal sums the state with the smallest number is the source; in layers, among
            those that a state is entered from at least cost. Where a state costs the margin more in a layer than
            in the first, nothing leads to it.
        """
        loads = self.loads().T if back else self.loads()
        if layering is not None:
            entry = layering.onto if back else layering.into
            one, two = (self.after, self.before) if back else (self.before, self.after)
            own, reached = (
                layers.states(side.blocks * side.picks)
                for layers, side in ((entry.sources, one), (entry.targets, two))
            )
            loads = loads[own[:, None], reached]
        found, rows = [], np.atleast_2d(here)
        for row, most in zip(rows, np.broadcast_to(bound, len(rows)).tolist(), strict=True):
            table = self.costs(most).T if back else self.costs(most)
            values, sources = self._row(row, table, layering, back=back)
            taken = np.where(sources < 0, 0.0, loads[sources, np.arange(len(values))])
            found.append(Least(values, sources, taken))
        return found[0] if here.ndim == 1 else Least(*(np.stack(own) for own in zip(*found, strict=True)))

    def _row(self, here: Floats, table: Floats, layering: Layering | None, *, back: bool) -> tuple[Floats, Ints]:
        """Least sums for one row, over a table that goes the way of the sums."""
        one, two = (self.after, self.before) if back else (self.before, self.after)
        if layering is None:
            return _least(here[:, None] + table, np.arange(len(here)))
        entry = layering.onto if back else layering.into
        own, reached = entry.sources.states(one.blocks * one.picks), entry.targets.states(two.blocks * two.picks)
        layer_of = np.repeat(np.arange(entry.sources.count), np.diff(entry.sources.starts) * one.blocks * one.picks)
        ends = entry.targets.starts * two.blocks * two.picks
        values, sources = np.full(len(reached), np.inf), np.full(len(reached), -1, dtype=np.int64)
        values[: two.states], sources[: two.states] = _entered(here + entry.changing[layer_of, 0], own, table)
        begins, layers, costs = entry.exceptions
        for entered in range(1, entry.targets.count):
            inside = slice(ends[entered], ends[entered + 1])
            states = reached[inside]
            found = [(values[inside], sources[inside])]
            if entry.shares[entered]:
                found.append((values[states], sources[states]))
            for place in range(begins[entered], begins[entered + 1]):
                at = np.flatnonzero(layer_of == layers[place])
                if not len(at):
                    continue
                total = (here[at] + costs[place])[:, None] + table[own[at]][:, states]
                found.append(_least(total, at))
            values[inside], sources[inside] = _best_of(found)
        useless = values >= values[reached] + entry.margin
        useless[: two.states] = False
        return np.where(useless, np.inf, values), np.where(useless, -1, sources)

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
        smallest_largest: Floats = np.maximum(here[:, None], table).min(axis=0)
        return smallest_largest

    def source(self, here: Floats, state: int, layering: Layering | None = None, *, bound: float = np.inf) -> int:
        """The state from which a state after the moves is best reached; of equal ones, within `TIE`, the first.

        Parameters
        ----------
        here : ndarray
            Sums at the states before the moves.
        state : int
            In layers one of those of all layers, as the states of `here` are.
        layering, bound
            As in `least`.
        """
        costs = self.costs(bound)
        if layering is None:
            return first_least(here + costs[:, state])
        one, two, into = self.before, self.after, layering.into
        own, reached = into.sources.states(one.blocks * one.picks), into.targets.states(two.blocks * two.picks)
        from_layer, to_layer = (
            np.repeat(np.arange(layers.count), np.diff(layers.starts) * side.blocks * side.picks)
            for layers, side in ((into.sources, one), (into.targets, two))
        )
        return first_least(here + (costs[own, reached[state]] + into.changing[from_layer, to_layer[state]]))

    def pair_loads(self, one: Ints, two: Ints) -> Floats:
        """Loads of the moves from states `one` to states `two`, arrays of one length; shape (pairs,)."""
        pair_loads: Floats = self.loads()[one, two]
        return pair_loads


def first_least(values: Floats) -> int:
    """The first place of the least value; values that differ by rounding only are equal.

    Examples
    --------
    >>> first_least(np.array([2.0, 1.0 + 1e-13, 1.0]))
    1
    """
    return int((values <= values.min() + TIE).argmax())


_NONE = np.iinfo(np.int64).max


def _least(total: Floats, number: Ints) -> tuple[Floats, Ints]:
    """Least value of each column, and the smallest number of the rows that have it; -1 where it is infinite."""
    least = total.min(axis=0)
    found = np.where(total == least, number[:, None], _NONE).min(axis=0)
    return least, np.where(np.isfinite(least), found, -1)


def _entered(sums: Floats, own: Ints, table: Floats) -> tuple[Floats, Ints]:
    """Least sums where each state is entered from the layer in which it costs least, the first of equal ones."""
    start, lead = np.full(len(table), np.inf), np.full(len(table), -1, dtype=np.int64)
    for number, (value, state) in enumerate(zip(sums, own, strict=True)):
        if value < start[state]:
            start[state], lead[state] = value, number
    return _least(start[:, None] + table, lead)


def _best_of(found: Sequence[tuple[Floats, Ints]]) -> tuple[Floats, Ints]:
    """The least of several values in each place, and its source; of equal ones the smallest."""
    values = np.array([value for value, _ in found])
    sources = np.array([np.where(source < 0, _NONE, source) for _, source in found])
    least = values.min(axis=0)
    source = np.where(values == least, sources, _NONE).min(axis=0)
    return least, np.where(np.isfinite(least), source, -1)


def min_plus(starts: Floats, table: Floats) -> Floats:
    """Least sums of several rows of starts over one table: shapes (starts, before), (before, after)."""
    min_plus = np.full((len(starts), table.shape[1]), np.inf)
    for row, start in enumerate(starts):
        reached = np.isfinite(start)
        if reached.any():
            min_plus[row] = (start[reached, None] + table[reached]).min(axis=0)
    return min_plus


def max_min(starts: Floats, table: Floats) -> Floats:
    """Smallest largest values of several rows of starts over one table, as `min_plus`; shape (states after,)."""
    max_min = np.full((len(starts), table.shape[1]), np.inf)
    for row, start in enumerate(starts):
        reached = np.isfinite(start)
        if reached.any():
            max_min[row] = np.maximum(start[reached, None], table[reached]).min(axis=0)
    return max_min
