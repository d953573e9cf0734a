"""Exact search over chains: least sum, and what every state would cost.

The kernels know nothing of hands: they get one array of costs a step and moves over each link. Among equal costs
the state with the smallest number wins, from the last step back, so results repeat.

References
----------
Bellman 1957, dynamic programming; the forward and backward pass together price every state (min-marginals).
"""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import overload

import numpy as np

from dromic.arrays import Floats, Ints
from dromic.planner.kernel import first_least
from dromic.planner.kernel.inputs import Bound, Least
from dromic.planner.search.moves import Moves

Plain = Callable[[int, int], int]
MOST_KEPT_STEPS = 3_000
NOWHERE: Ints = np.empty(0, dtype=np.int64)


@dataclass(frozen=True)
class Chain:
    """A chain of steps and links.

    Parameters
    ----------
    node_costs : sequence of ndarray, one of shape (states,) a step
    moves : callable
        The moves over link i, from step i to step i + 1.
    bound : float or ndarray, shape (rows,)
        Moves of a larger load are not taken; one for each of the rows of sums that are carried, or one for all.
    """

    node_costs: Sequence[Floats]
    moves: Callable[[int], Moves]
    bound: Bound = np.inf

    def onward(self, link: int, sums: Floats) -> Least:
        """Least sums behind a link, the costs of its step included."""
        values, sources, loads = self.moves(link).least(sums, bound=self.bound)
        return Least(values + self.node_costs[link + 1], sources, loads)

    def back(self, link: int, sums: Floats) -> Least:
        """Least sums on from each state before a link; sources are the states that they lead to.

        `sums` are those on from the step behind it, whose own costs are not in them.
        """
        return self.moves(link).least(sums + self.node_costs[link + 1], back=True, bound=self.bound)


class DeadEndError(Exception):
    """No way through the chain.

    Parameters
    ----------
    step : int
        First step that cannot be reached.
    """

    def __init__(self, step: int) -> None:
        super().__init__(f"no way to step {step}")
        self.step = step


@dataclass(frozen=True)
class Path:
    """A best path: a state for each step, and its total."""

    path: tuple[int, ...]
    total: float


def least_sum(chain: Chain, start: Floats | None = None, end: Floats | None = None) -> Path:
    """Find the path with the least sum of efforts and costs.

    Parameters
    ----------
    chain : Chain
    start, end : ndarray or None
        Added to the efforts of the first and last step.

    Returns
    -------
    Path

    Raises
    ------
    DeadEndError
        When every path costs infinity.

    Notes
    -----
    O(steps * states^2) time, O(steps * states) memory.

    Examples
    --------
    >>> from dromic.planner.search.moves import TableMoves
    >>> moves = TableMoves(np.array([[0.0, 9.0], [1.0, 1.0]]))
    >>> least_sum(Chain([np.array([0.0, 1.0]), np.array([5.0, 0.0])], lambda link: moves))
    Path(path=(1, 1), total=2.0)
    """
    ahead = forward_sums(chain, start)
    for step, sums in enumerate(ahead):
        check_reached(sums, step)
    if end is not None:
        check_reached(ahead[-1] + end, len(ahead) - 1)
    return traced(chain, ahead, end)


def check_reached(ahead: Floats, step: int) -> None:
    """Raise `DeadEndError` where no state of a step can be reached."""
    if not ahead.min() < np.inf:
        raise DeadEndError(step)


def traced(chain: Chain, ahead: Sequence[Floats], end: Floats | None = None) -> Path:
    """Follow the least forward sums back from the end, where `end` is added.

    Parameters
    ----------
    chain : Chain
    ahead : sequence of ndarray
    end : ndarray or None
    """
    last = ahead[-1] if end is None else ahead[-1] + end
    state = first_least(last)
    return Path((*path_to(chain, ahead, len(ahead) - 1, state), state), float(last.min()))


def path_to(chain: Chain, ahead: Sequence[Floats], step: int, state: int) -> tuple[int, ...]:
    """Best way up to a state, that state not included.

    Parameters
    ----------
    chain : Chain
    ahead : sequence of ndarray
    step, state : int
    """
    path = []
    for link in range(step - 1, -1, -1):
        state = source_of(chain, ahead, link, state)
        path.append(state)
    return tuple(reversed(path))


def source_of(chain: Chain, ahead: Sequence[Floats], link: int, state: int) -> int:
    """The state before a link from which a state behind it is best reached.

    Parameters
    ----------
    chain : Chain
    ahead : sequence of ndarray
    link, state : int
    """
    assert isinstance(chain.bound, float), "a path is followed within one bound"
    return chain.moves(link).source(ahead[link], state, bound=chain.bound)


def forward_sums(chain: Chain, start: Floats | None = None) -> list[Floats]:
    """Least sums from the start up to each state, its own cost included."""
    first: Floats = np.asarray(chain.node_costs[0], dtype=np.float64)
    sums = [first if start is None else first + start]
    for link in range(len(chain.node_costs) - 1):
        sums.append(chain.onward(link, sums[-1]).values)
    return sums


def backward_sums(chain: Chain, end: Floats | None = None) -> list[Floats]:
    """Least sums from each state to the end, its own cost not included; `end` is added at the last step."""
    sums = [np.zeros(len(chain.node_costs[-1])) if end is None else end]
    for link in range(len(chain.node_costs) - 2, -1, -1):
        sums.append(chain.back(link, sums[-1]).values)
    sums.reverse()
    return sums


@dataclass(frozen=True)
class _Carried:
    """Largest loads from one end of a chain: by step, with the states that they come from and the moves' loads."""

    values: list[Floats]
    sources: list[Ints]
    loads: list[Floats]


def _carried(
    states: int, sources: Sequence[Ints], loads_of: Callable[[int], Floats], order: range, old: _Carried | None
) -> _Carried:
    """Carry largest loads along the links in some order; those of before are taken over where they are the same."""
    carried = _Carried([np.zeros(states)], [], [])
    if old is not None and len(old.sources) != len(order):
        old = None
    if old is not None and len(old.values[0]) == states:
        carried.values[0] = old.values[0]
    for at, link in enumerate(order):
        here, link_loads, before = sources[link], loads_of(link), carried.values[-1]
        known = None if old is None else old.values[at + 1]
        if (
            known is not None
            and old is not None
            and here is old.sources[at]
            and link_loads is old.loads[at]
            and before is old.values[at]
        ):
            carried.values.append(known)
        else:
            # From nowhere is from any state: what is not reached has no load.
            values = np.maximum(link_loads, before[here])
            same = known is not None and np.array_equal(values, known)
            carried.values.append(known if same and known is not None else values)
        carried.sources.append(here)
        carried.loads.append(link_loads)
    return carried


class ByStep(Sequence[Floats]):
    """Figures of the states of each step, made when they are asked for."""

    @abstractmethod
    def of_step(self, step: int) -> Floats:
        """Figures of one step, one a state; shape (joint states,)."""

    @overload
    def __getitem__(self, step: int) -> Floats: ...

    @overload
    def __getitem__(self, step: slice) -> list[Floats]: ...

    def __getitem__(self, step: int | slice) -> Floats | list[Floats]:
        if isinstance(step, slice):
            return [self.of_step(at) for at in range(len(self))[step]]
        return self.of_step(range(len(self))[step])


class LargestLoads(ByStep):
    """Largest load of the best path through each state of each step.

    Parameters
    ----------
    up : _Carried
        From the start.
    on : _Carried
        From the end.
    keep : bool
        Whether both are kept, so that the next ones can be made from them.
    """

    def __init__(self, up: _Carried, on: _Carried, *, keep: bool) -> None:
        self.up: _Carried | None = up if keep else None
        self.on: _Carried | None = on if keep else None
        self._up, self._on = up.values, on.values
        if not keep:
            for one, two in zip(self._up, reversed(self._on), strict=True):
                np.maximum(one, two, out=one)
            self._on = []

    def __len__(self) -> int:
        return len(self._up)

    def of_step(self, step: int) -> Floats:
        """Largest loads through the states of a step; shape (joint states,)."""
        if not self._on:
            return self._up[step]
        largest: Floats = np.maximum(self._up[step], self._on[len(self) - 1 - step])
        return largest


@dataclass(frozen=True)
class Passes:
    """Both passes over a chain, with the state that each sum comes from; a plan through any state can be followed.

    Parameters
    ----------
    ahead, behind : sequence of ndarray
        Least sums up to each state of each step, its own cost included, and on from it, its own not.
    sources : sequence of ndarray of int
        For each link and state behind it the state before it on the best way there.
    targets : sequence of ndarray of int
        For each link and state before it the state behind it on the best way on.
    source_loads, target_loads : list of ndarray or None
        Loads of these moves, where they have been worked out.
    """

    ahead: Sequence[Floats]
    behind: Sequence[Floats]
    sources: Sequence[Ints]
    targets: Sequence[Ints]
    source_loads: list[Floats | None]
    target_loads: list[Floats | None]

    @property
    def through(self) -> list[Floats]:
        """Cost of the best path through each state of each step."""
        return [one + two for one, two in zip(self.ahead, self.behind, strict=True)]

    def largest_loads(self, chain: Chain, before: LargestLoads | None = None) -> LargestLoads:
        """Largest load of the best path through each state of each step.

        Parameters
        ----------
        chain : Chain
        before : LargestLoads or None
            Those of passes before; what they have in common is taken over.
        """
        count = len(self.ahead)
        # Loads of single moves are for the next time; those of a long riff would take too much room.
        keep = count <= MOST_KEPT_STEPS

        def source_loads(link: int) -> Floats:
            sources, loads = self.sources[link], self.source_loads[link]
            if loads is None:
                loads = chain.moves(link).pair_loads(np.maximum(sources, 0), np.arange(len(sources)))
                self.source_loads[link] = loads if keep else None
            return loads

        def target_loads(link: int) -> Floats:
            targets, loads = self.targets[link], self.target_loads[link]
            if loads is None:
                loads = chain.moves(link).pair_loads(np.arange(len(targets)), np.maximum(targets, 0))
                self.target_loads[link] = loads if keep else None
            return loads

        order = range(count - 1)
        up = _carried(len(self.ahead[0]), self.sources, source_loads, order, None if before is None else before.up)
        on = _carried(
            len(self.behind[-1]),
            self.targets,
            target_loads,
            order[::-1],
            None if before is None else before.on,
        )
        return LargestLoads(up, on, keep=keep)

    @property
    def largest_loads_by_row(self) -> list[Floats]:
        """Largest load of the best path through each state of each step, of passes with several rows."""
        up, on = [np.zeros(self.ahead[0].shape)], [np.zeros(self.behind[-1].shape)]
        for found, links in (
            (up, zip(self.sources, self.source_loads, strict=True)),
            (on, zip(reversed(self.targets), reversed(self.target_loads), strict=True)),
        ):
            for sources, loads in links:
                assert loads is not None, "passes with rows keep their loads"
                found.append(np.maximum(loads, np.take_along_axis(found[-1], np.maximum(sources, 0), axis=1)))
        return [np.maximum(one, two) for one, two in zip(up, reversed(on), strict=True)]

    def detour(self, step: int, state: int, path: Sequence[int], plain: Plain) -> tuple[int, tuple[int, ...]]:
        """Where the best path through a state leaves a path: the first step, and the states until they meet again.

        Parameters
        ----------
        step, state : int
        path : sequence of int
            A state of each step.
        plain : callable
            Of a step and a state, what has to be the same for paths to meet.
        """
        joints = [state]
        first, last = step, len(path) - 1
        while first:
            source = int(self.sources[first - 1][joints[0]])
            if plain(first - 1, source) == plain(first - 1, path[first - 1]):
                break
            first -= 1
            joints.insert(0, source)
        at = step
        while at < last:
            onward = int(self.targets[at][joints[-1]])
            if plain(at + 1, onward) == plain(at + 1, path[at + 1]):
                break
            at += 1
            joints.append(onward)
        return first, tuple(joints)


def both_passes(chain: Chain, rows: int | None = None) -> Passes:
    """Make both passes over a chain.

    Parameters
    ----------
    chain : Chain
    rows : int or None
        With a bound for each row: how many; sums, sources and loads then have so many rows.
    """
    first: Floats = np.asarray(chain.node_costs[0], dtype=np.float64)
    last = np.zeros(len(chain.node_costs[-1]))
    if rows is not None:
        first, last = (np.broadcast_to(ends, (rows, len(ends))).copy() for ends in (first, last))
    keep = rows is not None or len(chain.node_costs) <= MOST_KEPT_STEPS
    up, on = [Least(first, NOWHERE, first)], [Least(last, NOWHERE, last)]
    links = range(len(chain.node_costs) - 1)
    for link in links:
        up.append(chain.onward(link, up[-1].values))
    for link in reversed(links):
        on.append(chain.back(link, on[-1].values))
    on.reverse()
    return Passes(
        [one.values for one in up],
        [one.values for one in on],
        [one.sources for one in up[1:]],
        [one.sources for one in on[:-1]],
        [one.loads if keep else None for one in up[1:]],
        [one.loads if keep else None for one in on[:-1]],
    )
