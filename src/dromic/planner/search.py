"""Exact search over chains of arrays: least sum, and least largest load.

The kernels know nothing of hands: they get one array of costs a step and one a link. Among equal costs the state
with the smallest number wins, from the last step back, so results repeat.

References
----------
Bellman 1957, dynamic programming; the forward and backward pass together price every state (min-marginals).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from dromic.arrays import Floats, Ints
from dromic.planner.moves import Dense, Moves

LinkArray = Callable[[int], Floats]
LinkMoves = Callable[[int], Moves]
PairLoads = Callable[[int, Ints, Ints], Floats]
Plain = Callable[[int, int], int]

TIE = 1e-11


@dataclass(frozen=True)
class Chain:
    """A chain of steps and links.

    Parameters
    ----------
    node_costs : sequence of ndarray, one of shape (states,) a step
    edge_costs : callable
        Array of shape (states before, states after) for link i, from step i to step i + 1. Infinite where a
        move cannot be made.
    edges_of : callable or None
        The same as `Moves`, where there is a quicker way to ask than the whole array.
    """

    node_costs: Sequence[Floats]
    edge_costs: LinkArray
    edges_of: LinkMoves | None = None

    def edges(self, link: int) -> Moves:
        """Moves over a link."""
        return Dense(self.edge_costs(link)) if self.edges_of is None else self.edges_of(link)


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
    >>> chain = Chain([np.array([0.0, 1.0]), np.array([5.0, 0.0])], lambda i: np.array([[0.0, 9.0], [1.0, 1.0]]))
    >>> least_sum(chain)
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
    if not np.isfinite(ahead).any():
        raise DeadEndError(step)


def first_least(values: Floats) -> int:
    """The first place of the least value; values that differ by rounding only are equal.

    Examples
    --------
    >>> first_least(np.array([2.0, 1.0 + 1e-13, 1.0]))
    1
    """
    return int(np.argmax(values <= values.min() + TIE))


def traced(chain: Chain, ahead: Sequence[Floats], end: Floats | None = None) -> Path:
    """Follow the least forward sums back from the end, where `end` is added."""
    last = ahead[-1] if end is None else ahead[-1] + end
    state = first_least(last)
    return Path((*path_to(chain, ahead, len(ahead) - 1, state), state), float(last.min()))


def path_to(chain: Chain, ahead: Sequence[Floats], step: int, state: int) -> tuple[int, ...]:
    """Best way up to a state, that state not included."""
    path = []
    for link in range(step - 1, -1, -1):
        state = first_least(ahead[link] + chain.edges(link).columns(np.array([state]))[:, 0])
        path.append(state)
    return tuple(reversed(path))


def forward_sums(chain: Chain, start: Floats | None = None) -> list[Floats]:
    """Least sums from the start up to each state, its own cost included."""
    first: Floats = np.asarray(chain.node_costs[0], dtype=np.float64)
    sums = [first if start is None else first + start]
    for step in range(len(chain.node_costs) - 1):
        sums.append(chain.edges(step).relax_forward(sums[-1]) + chain.node_costs[step + 1])
    return sums


def backward_sums(chain: Chain, end: Floats | None = None) -> list[Floats]:
    """Least sums from each state to the end, its own cost not included; `end` is added at the last step."""
    sums = [np.zeros(len(chain.node_costs[-1])) if end is None else end]
    for step in range(len(chain.node_costs) - 2, -1, -1):
        sums.append(chain.edges(step).relax_backward(sums[-1] + chain.node_costs[step + 1]))
    sums.reverse()
    return sums


@dataclass(frozen=True)
class Trail:
    """The best ways from one end of a chain to some states of each step.

    Parameters
    ----------
    states : sequence of ndarray of int
        States of each step that lie on these ways, sorted; the end that they come from is the first step.
    sources : sequence of ndarray of int
        For each state of every later step the one before it.
    """

    states: Sequence[Ints]
    sources: Sequence[Ints]

    def source(self, step: int, state: int) -> int:
        """The state before one of a step's states."""
        return int(self.sources[step - 1][np.searchsorted(self.states[step], state)])


@dataclass(frozen=True)
class Through:
    """The best paths through some states of each step: their largest loads, and the ways from both ends."""

    largest: list[Floats]
    before: Trail
    after: Trail

    def detour(self, step: int, state: int, path: Sequence[int], plain: Plain) -> tuple[int, tuple[int, ...]]:
        """Where the best path through a state leaves a path: the first step, and the states until they meet again.

        Parameters
        ----------
        step, state : int
            One of those that were wanted.
        path : sequence of int
            A state of each step.
        plain : callable
            Of a step and a state, what has to be the same for paths to meet.
        """
        found = [state]
        first, last = step, len(path) - 1
        while first:
            source = self.before.source(first, found[0])
            if plain(first - 1, source) == plain(first - 1, path[first - 1]):
                break
            first -= 1
            found.insert(0, source)
        at = step
        while at < last:
            onward = self.after.source(last - at, found[-1])
            if plain(at + 1, onward) == plain(at + 1, path[at + 1]):
                break
            at += 1
            found.append(onward)
        return first, tuple(found)


def largest_through(
    chain: Chain, pair_loads: PairLoads, ahead: Sequence[Floats], behind: Sequence[Floats], wanted: Sequence[Ints]
) -> Through:
    """Find the best path through some states of each step, and its largest load.

    Parameters
    ----------
    chain : Chain
    pair_loads : callable
        Loads over a link between two arrays of states.
    ahead, behind : sequence of ndarray
        What `forward_sums` and `backward_sums` give.
    wanted : sequence of ndarray of int
        States of each step, each array sorted.

    Returns
    -------
    Through
        Its loads have the shapes of `wanted`.

    Notes
    -----
    Only states that lie on one of these paths are looked at; paths meet soon, so these are few.
    """
    before, trail_before = _largest_on_the_way(
        wanted,
        lambda step, states: (ahead[step - 1][:, None] + chain.edges(step - 1).columns(states)).argmin(axis=0),
        lambda step, sources, states: pair_loads(step - 1, sources, states),
    )
    last = len(wanted) - 1

    def onward(step: int, states: Ints) -> Ints:
        at = last - step
        total = chain.edges(at).rows(states) + (chain.node_costs[at + 1] + behind[at + 1])
        best: Ints = total.argmin(axis=1)
        return best

    after, trail_after = _largest_on_the_way(
        wanted[::-1], onward, lambda step, targets, states: pair_loads(last - step, states, targets)
    )
    largest = [np.maximum(one, two) for one, two in zip(before, after[::-1], strict=True)]
    return Through(largest, trail_before, trail_after)


def _largest_on_the_way(
    wanted: Sequence[Ints],
    sources_of: Callable[[int, Ints], Ints],
    loads_of: Callable[[int, Ints, Ints], Floats],
) -> tuple[list[Floats], Trail]:
    """Largest load from the first step to each wanted state, over the best way there, and the ways."""
    needs, ways = [], []
    carried = np.empty(0, dtype=np.int64)
    for step in range(len(wanted) - 1, -1, -1):
        need = np.union1d(wanted[step], carried)
        needs.append(need)
        if step and len(need):
            carried = sources_of(step, need)
            ways.append((carried, loads_of(step, carried, need)))
        elif step:
            # Nothing here can be played otherwise, nor anything beyond.
            carried = np.empty(0, dtype=np.int64)
            ways.append((carried, np.empty(0)))
    needs.reverse()
    ways.reverse()
    largest = np.zeros(len(needs[0]))
    found = [largest[np.searchsorted(needs[0], wanted[0])]]
    for step, (sources, loads) in enumerate(ways, start=1):
        largest = np.maximum(largest[np.searchsorted(needs[step - 1], sources)], loads)
        found.append(largest[np.searchsorted(needs[step], wanted[step])])
    return found, Trail(needs, [sources for sources, _ in ways])
