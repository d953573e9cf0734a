"""Costs of all joint moves over one link, asked in the ways that a search asks.

A link need not be written out as one big table. Where both notes are single and picked, its cost is a part of the
fretting hand's, by the fretting states before and after, and a part of the pick's, by pick states and strings; only
some pairs, where the hands meet, need more. `Factored` keeps these parts and takes every least sum in two stages,
first over the states of each string, then over strings and pick states: exact, and many times less to do.

Joint states are numbered ``pick state * F + fretting state``; fretting states stand in runs of one string.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np

from dromic.arrays import Floats, Ints


class Moves(Protocol):
    """Costs of all moves from the joint states before to those after."""

    def relax_forward(self, ahead: Floats) -> Floats:
        """Least of `ahead` and the cost of the move, for each state after."""

    def relax_backward(self, behind: Floats) -> Floats:
        """Least of the cost of the move and `behind`, for each state before."""

    def rows(self, before: Ints) -> Floats:
        """Costs from some states, shape (some, after)."""

    def columns(self, after: Ints) -> Floats:
        """Costs to some states, shape (before, some)."""

    def dense(self) -> Floats:
        """All costs, shape (before, after)."""

    @property
    def nbytes(self) -> int:
        """Size of the tables that are its own."""


@dataclass(frozen=True)
class Dense:
    """A whole table, shape (states before, states after), infinite where a move cannot be made."""

    table: Floats

    def relax_forward(self, ahead: Floats) -> Floats:
        """See `Moves`."""
        reached = np.isfinite(ahead)
        if reached.all():
            least: Floats = (self.table + ahead[:, None]).min(axis=0)
            return least
        if not reached.any():
            return np.full(self.table.shape[1], np.inf)
        among: Floats = (self.table[reached] + ahead[reached, None]).min(axis=0)
        return among

    def relax_backward(self, behind: Floats) -> Floats:
        """See `Moves`."""
        least: Floats = (self.table + behind).min(axis=1)
        return least

    def rows(self, before: Ints) -> Floats:
        """See `Moves`."""
        return self.table[before]

    def columns(self, after: Ints) -> Floats:
        """See `Moves`."""
        return self.table[:, after]

    def dense(self) -> Floats:
        """See `Moves`."""
        return self.table

    @property
    def nbytes(self) -> int:
        """See `Moves`."""
        return self.table.nbytes


@dataclass(frozen=True)
class StringRuns:
    """StringRuns of fretting states on one string: where each begins, and the string of each run and state."""

    starts: Ints
    strings: Ints
    by_state: Ints

    @staticmethod
    def of(string: Ints) -> StringRuns:
        """Find the runs of an array of strings."""
        starts = np.flatnonzero(np.r_[True, string[1:] != string[:-1]])
        return StringRuns(starts, string[starts], string)


@dataclass(frozen=True)
class SyncPairs:
    """Pairs of fretting states whose cost is not the sum of the two hands' parts, ordered by the state after.

    Parameters
    ----------
    one, two : ndarray, shape (pairs,)
    cost : ndarray, shape (picks, picks, pairs)
    """

    one: Ints
    two: Ints
    cost: Floats


@dataclass(frozen=True, eq=False)
class Factored:
    """A link between two single picked notes.

    Parameters
    ----------
    fret : ndarray, shape (before, after)
        The fretting hand's part; infinite where a move cannot be made, and for the special pairs.
    pick : ndarray, shape (picks, strings, picks, strings)
        The picking hand's part.
    before, after : StringRuns
    special : SyncPairs
    """

    fret: Floats
    pick: Floats
    before: StringRuns
    after: StringRuns
    special: SyncPairs

    @property
    def picks(self) -> int:
        """Number of pick states."""
        return len(self.pick)

    @cached_property
    def _pick_into(self) -> Floats:
        """Pick part by (pick, run before) and (pick, state after), a table."""
        part = self.pick[:, self.before.strings][..., self.after.by_state]
        return np.ascontiguousarray(part.reshape(self.picks * len(self.before.strings), -1))

    @cached_property
    def _pick_onto(self) -> Floats:
        """Pick part by (pick, state before) and (pick, run after), a table."""
        part = self.pick[:, self.before.by_state][..., self.after.strings]
        return np.ascontiguousarray(part.reshape(-1, self.picks * len(self.after.strings)))

    @cached_property
    def _backward(self) -> tuple[Ints, Ints, Ints]:
        """Sync pairs by the state before: their order, the starts of the groups, and each group's state."""
        order = np.argsort(self.special.one, kind="stable")
        one = self.special.one[order]
        starts = np.flatnonzero(np.r_[True, one[1:] != one[:-1]])
        return order, starts, one[starts]

    @cached_property
    def _forward(self) -> tuple[Ints, Ints]:
        """Sync pairs by the state after: the starts of the groups, and each group's state."""
        two = self.special.two
        starts = np.flatnonzero(np.r_[True, two[1:] != two[:-1]])
        return starts, two[starts]

    def relax_forward(self, ahead: Floats) -> Floats:
        """See `Moves`."""
        here = ahead.reshape(self.picks, -1)
        by_run = np.minimum.reduceat(here[:, :, None] + self.fret, self.before.starts, axis=1)
        shape = (by_run.shape[0] * by_run.shape[1], 1, by_run.shape[2])
        total = by_run.reshape(shape) + self._pick_into.reshape(shape[0], self.picks, -1)
        least: Floats = total.min(axis=0)
        if len(self.special.one):
            starts, states = self._forward
            more = (here[:, None, self.special.one] + self.special.cost).min(axis=0)
            more = np.minimum.reduceat(more, starts, axis=1)
            least[:, states] = np.minimum(least[:, states], more)
        return least.ravel()

    def relax_backward(self, behind: Floats) -> Floats:
        """See `Moves`."""
        there = behind.reshape(self.picks, -1)
        by_run = np.minimum.reduceat(there[None] + self.fret[:, None, :], self.after.starts, axis=2)
        total = self._pick_onto.reshape(self.picks, len(self.fret), -1) + by_run.reshape(len(self.fret), -1)
        least: Floats = total.min(axis=2)
        if len(self.special.one):
            order, starts, states = self._backward
            more = (there[None, :, self.special.two] + self.special.cost).min(axis=1)[:, order]
            more = np.minimum.reduceat(more, starts, axis=1)
            least[:, states] = np.minimum(least[:, states], more)
        return least.ravel()

    def rows(self, before: Ints) -> Floats:
        """See `Moves`."""
        pick, state = np.divmod(before, len(self.fret))
        costs = self.pick[pick, self.before.by_state[state]][:, :, self.after.by_state]
        costs += self.fret[state][:, None, :]
        if len(self.special.one):
            order, starts, states = self._backward
            some, places = _members(state, starts, states, len(order))
            places = order[places]
            costs[some, :, self.special.two[places]] = self.special.cost[pick[some], :, places]
        return costs.reshape(len(before), self.picks * self.fret.shape[1])

    def columns(self, after: Ints) -> Floats:
        """See `Moves`."""
        pick, state = np.divmod(after, self.fret.shape[1])
        costs = self.pick[:, :, pick, self.after.by_state[state]][:, self.before.by_state]
        costs += self.fret[:, state]
        if len(self.special.one):
            starts, states = self._forward
            some, places = _members(state, starts, states, len(self.special.two))
            costs[:, self.special.one[places], some] = self.special.cost[:, pick[some], places]
        return costs.reshape(self.picks * len(self.fret), len(after))

    def dense(self) -> Floats:
        """See `Moves`."""
        table = self.pick[:, self.before.by_state][..., self.after.by_state] + self.fret[None, :, None, :]
        # Two arrays of indices with slices between put the pairs' axis first.
        table[:, self.special.one, :, self.special.two] = self.special.cost.transpose(2, 0, 1)
        size = self.picks * len(self.fret)
        whole: Floats = table.reshape(size, -1)
        return whole

    @property
    def nbytes(self) -> int:
        """See `Moves`."""
        return 2 * self.fret.nbytes + self.special.cost.nbytes


@dataclass(frozen=True)
class PickHeld:
    """A link whose second note is not picked: the pick state stays, and only the fretting hand moves."""

    fret: Floats
    picks: int

    def relax_forward(self, ahead: Floats) -> Floats:
        """See `Moves`."""
        least: Floats = (ahead.reshape(self.picks, -1, 1) + self.fret).min(axis=1)
        return least.ravel()

    def relax_backward(self, behind: Floats) -> Floats:
        """See `Moves`."""
        least: Floats = (behind.reshape(self.picks, 1, -1) + self.fret).min(axis=2)
        return least.ravel()

    def rows(self, before: Ints) -> Floats:
        """See `Moves`."""
        pick, state = np.divmod(before, len(self.fret))
        costs = np.full((len(before), self.picks, self.fret.shape[1]), np.inf)
        costs[np.arange(len(before)), pick] = self.fret[state]
        return costs.reshape(len(before), self.picks * self.fret.shape[1])

    def columns(self, after: Ints) -> Floats:
        """See `Moves`."""
        pick, state = np.divmod(after, self.fret.shape[1])
        costs = np.full((self.picks, len(self.fret), len(after)), np.inf)
        costs[pick, :, np.arange(len(after))] = self.fret[:, state].T
        return costs.reshape(self.picks * len(self.fret), len(after))

    def dense(self) -> Floats:
        """See `Moves`."""
        rows, columns = self.fret.shape
        table = np.full((self.picks, rows, self.picks, columns), np.inf)
        for pick in range(self.picks):
            table[pick, :, pick, :] = self.fret
        return table.reshape(self.picks * rows, -1)

    @property
    def nbytes(self) -> int:
        """See `Moves`; the fretting hand's table is shared."""
        return 0


def _members(wanted: Ints, starts: Ints, states: Ints, count: int) -> tuple[Ints, Ints]:
    """Pairs of wanted states: which of the wanted each belongs to, and its place among the grouped pairs."""
    group = np.searchsorted(states, wanted)
    there = group < len(states)
    there[there] = states[group[there]] == wanted[there]
    some = np.flatnonzero(there)
    ends = np.append(starts[1:], count)
    first, sizes = starts[group[some]], (ends - starts)[group[some]]
    offsets = np.arange(int(sizes.sum())) - np.repeat(np.cumsum(sizes) - sizes, sizes)
    return np.repeat(some, sizes), np.repeat(first, sizes) + offsets
