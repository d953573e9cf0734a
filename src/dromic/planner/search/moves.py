"""What a search asks of the moves over one link, and moves that are one whole table.

The moves of both hands are `dromic.planner.kernel.JoinedMoves`, which writes no table; in layers they are
`dromic.planner.costs.figure_layers.LayeredMoves`.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

import numpy as np

from dromic.arrays import Floats, Ints
from dromic.planner.kernel import first_least, max_min, min_plus
from dromic.planner.kernel.inputs import Bound, Least


class Moves(Protocol):
    """Moves from the joint states before a link to those after it.

    None is taken whose load is above a `bound`. They are compared by identity.
    """

    def __hash__(self) -> int: ...

    def least(self, here: Floats, *, back: bool = False, bound: Bound = np.inf) -> Least:
        """Least sums after the moves, or before them; of one row of sums, or of several each by itself.

        Parameters
        ----------
        here : ndarray
        back : bool
        bound : Bound
        """

    def smallest_largest(self, here: Floats, *, back: bool = False) -> Floats:
        """Smallest largest load after the moves, or before them, over moves that can be made.

        Shape (before, after).
        """

    def source(self, here: Floats, state: int, *, bound: float = np.inf) -> int:
        """The state that the least sum at a state after the moves comes from; of equal ones the first.

        Parameters
        ----------
        here : ndarray
        state : int
        bound : float
            Load that no link may pass.
        """

    def costs(self, bound: float = np.inf) -> Floats:
        """Costs of all moves, shape (states before, states after)."""

    def loads(self) -> Floats:
        """Loads of all moves, shape (states before, states after)."""

    def pair_loads(self, one: Ints, two: Ints) -> Floats:
        """Loads of the moves from states `one` to states `two`, arrays of one length; shape (pairs,)."""


class TableMoves:
    """Moves written out as tables.

    Parameters
    ----------
    table : ndarray, shape (states before, states after)
        Costs, infinite where a move cannot be made.
    loads : ndarray, callable or None
        Loads, of the same shape; or what makes them when they are asked for; None where none are.
    """

    def __init__(self, table: Floats, loads: Floats | Callable[[], Floats] | None = None) -> None:
        self._table = np.ascontiguousarray(table, dtype=np.float64)
        self._made = loads

    def costs(self, bound: float = np.inf) -> Floats:
        """See `Moves`."""
        return self._table if bound == np.inf else np.where(self.loads() <= bound, self._table, np.inf)

    def loads(self) -> Floats:
        """See `Moves`."""
        assert self._made is not None, "no loads are known of these moves"
        if callable(self._made):
            self._made = self._made()
        return self._made

    def least(self, here: Floats, *, back: bool = False, bound: Bound = np.inf) -> Least:
        """See `Moves`; loads that have not been made are left out, as 0."""
        known = self._made if isinstance(self._made, np.ndarray) else np.zeros_like(self._table)
        known = known.T if back else known
        rows, several = [], np.atleast_2d(here)
        for row, most in zip(several, np.broadcast_to(bound, len(several)).tolist(), strict=True):
            table = self.costs(most).T if back else self.costs(most)
            total = row[:, None] + table
            sources, at = total.argmin(axis=0), np.arange(total.shape[1])
            values, some = total[sources, at], np.isfinite(total[sources, at])
            rows.append(Least(values, np.where(some, sources, -1), np.where(some, known[sources, at], 0.0)))
        return rows[0] if here.ndim == 1 else Least(*(np.stack(own) for own in zip(*rows, strict=True)))

    def smallest_largest(self, here: Floats, *, back: bool = False) -> Floats:
        """See `Moves`."""
        table = np.where(np.isfinite(self._table), self.loads(), np.inf)
        smallest_largest: Floats = max_min(here[None], table.T if back else table)[0]
        return smallest_largest

    def source(self, here: Floats, state: int, *, bound: float = np.inf) -> int:
        """See `Moves`."""
        return first_least(here + self.costs(bound)[:, state])

    def pair_loads(self, one: Ints, two: Ints) -> Floats:
        """See `Moves`."""
        pair_loads: Floats = self.loads()[one, two]
        return pair_loads

    def many(self, starts: Floats, bound: float = np.inf) -> Floats:
        """Least sums from several rows of starts, shape (starts, states after)."""
        return min_plus(starts, self.costs(bound))
