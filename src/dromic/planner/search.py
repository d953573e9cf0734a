"""Exact search over chains of arrays: least sum, and least largest load.

The kernels know nothing of hands: they get one array of efforts a step and one of costs a link. Among equal
costs the state with the smallest number wins, so results repeat.

References
----------
Bellman 1957, dynamic programming; the forward and backward pass together price every state (min-marginals).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dromic.planner.moves import Dense, Moves

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
LinkArray = Callable[[int], Floats]
LinkMoves = Callable[[int], Moves]
PairLoads = Callable[[int, Ints, Ints], Floats]


@dataclass(frozen=True)
class Chain:
    """A chain of steps and links.

    Parameters
    ----------
    efforts : sequence of ndarray, one of shape (states,) a step
    link : callable
        Array of shape (states before, states after) for link i, from step i to step i + 1. Infinite where a
        move cannot be made.
    parts : callable or None
        The same as `Moves`, where there is a quicker way to ask than the whole array.
    """

    efforts: Sequence[Floats]
    link: LinkArray
    parts: LinkMoves | None = None

    def moves(self, link: int) -> Moves:
        """Moves over a link."""
        return Dense(self.link(link)) if self.parts is None else self.parts(link)


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
    ahead = forward_sums(chain, start, end)
    for step, sums in enumerate(ahead):
        check_reached(sums, step)
    return traced(chain, ahead)


def check_reached(ahead: Floats, step: int) -> None:
    """Raise `DeadEndError` where no state of a step can be reached."""
    if not np.isfinite(ahead).any():
        raise DeadEndError(step)


def traced(chain: Chain, ahead: Sequence[Floats]) -> Path:
    """Follow the least forward sums back from the end."""
    state = int(ahead[-1].argmin())
    total = float(ahead[-1][state])
    return Path((*path_to(chain, ahead, len(ahead) - 1, state), state), total)


def path_to(
    chain: Chain, ahead: Sequence[Floats], step: int, state: int, known: Sequence[int] = ()
) -> tuple[int, ...]:
    """Best way up to a state, that state not included; `known` is a best path, followed once it is met."""
    path = []
    for link in range(step - 1, -1, -1):
        state = int((ahead[link] + chain.moves(link).columns(np.array([state]))[:, 0]).argmin())
        path.append(state)
        if link < len(known) and known[link] == state:
            return (*known[:link], *reversed(path))
    return tuple(reversed(path))


def path_from(
    chain: Chain, behind: Sequence[Floats], step: int, state: int, known: Sequence[int] = ()
) -> tuple[int, ...]:
    """Best way on from a state, that state not included; `known` is a best path, followed once it is met."""
    path = []
    for link in range(step, len(chain.efforts) - 1):
        state = int(
            (chain.moves(link).rows(np.array([state]))[0] + chain.efforts[link + 1] + behind[link + 1]).argmin()
        )
        path.append(state)
        if link + 1 < len(known) and known[link + 1] == state:
            return (*path, *known[link + 2 :])
    return tuple(path)


def forward_sums(
    chain: Chain, start: Floats | None = None, end: Floats | None = None, known: Sequence[Floats] = ()
) -> list[Floats]:
    """Least sums from the start up to each state, its own effort included; `known` are those of the first steps."""
    first: Floats = np.asarray(chain.efforts[0], dtype=np.float64)
    sums = list(known) or [first if start is None else first + start]
    for step in range(len(sums) - 1, len(chain.efforts) - 1):
        sums.append(chain.moves(step).into(sums[-1]) + chain.efforts[step + 1])
    if end is not None:
        sums[-1] = sums[-1] + end
    return sums


def backward_sums(chain: Chain, end: Floats | None = None, known: Sequence[Floats] = ()) -> list[Floats]:
    """Least sums from each state to the end, its own effort not included.

    `end` is added at the last step; `known` are the sums of the last steps.
    """
    sums = list(known[::-1]) or [np.zeros(len(chain.efforts[-1])) if end is None else end]
    for step in range(len(chain.efforts) - 1 - len(sums), -1, -1):
        sums.append(chain.moves(step).onto(sums[-1] + chain.efforts[step + 1]))
    sums.reverse()
    return sums


def least_largest(chain: Chain, loads: LinkArray, start: Floats | None = None) -> list[Floats]:
    """Smallest largest load on the way to each state, over paths that can be made.

    Parameters
    ----------
    chain : Chain
        Says which states and moves can be made at all.
    loads : callable
        Loads of link i, of the same shape as its costs.
    start : ndarray or None
        Zero for the states to start from, infinity for the others.

    Returns
    -------
    list of ndarray, one of shape (states,) a step

    Raises
    ------
    DeadEndError
    """
    worst = np.where(np.isfinite(chain.efforts[0]), 0.0, np.inf)
    if start is not None:
        worst = worst + start
    check_reached(worst, 0)
    found = [worst]
    for step in range(len(chain.efforts) - 1):
        load = np.where(np.isfinite(chain.link(step)), loads(step), np.inf)
        worst = np.maximum(worst[:, None], load).min(axis=0)
        worst = np.where(np.isfinite(chain.efforts[step + 1]), worst, np.inf)
        check_reached(worst, step + 1)
        found.append(worst)
    return found


def least_largest_behind(chain: Chain, loads: LinkArray) -> list[Floats]:
    """Smallest largest load on the way from each state to the end; parameters as in `least_largest`."""
    worst = np.where(np.isfinite(chain.efforts[-1]), 0.0, np.inf)
    found = [worst]
    for step in range(len(chain.efforts) - 2, -1, -1):
        load = np.where(np.isfinite(chain.link(step)), loads(step), np.inf)
        worst = np.maximum(load, worst).min(axis=1)
        worst = np.where(np.isfinite(chain.efforts[step]), worst, np.inf)
        found.append(worst)
    return found[::-1]


def least_largest_value(chain: Chain, loads: LinkArray) -> float:
    """Smallest largest load of any path."""
    return float(least_largest(chain, loads)[-1].min())


def largest_through(
    chain: Chain, pair_loads: PairLoads, ahead: Sequence[Floats], behind: Sequence[Floats], wanted: Sequence[Ints]
) -> list[Floats]:
    """Largest load on the best path through some states of each step.

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
    list of ndarray, of the shapes of `wanted`

    Notes
    -----
    Only states that lie on one of these paths are looked at; paths meet soon, so these are few.
    """
    before = _largest_on_the_way(
        wanted,
        lambda step, states: (ahead[step - 1][:, None] + chain.moves(step - 1).columns(states)).argmin(axis=0),
        lambda step, sources, states: pair_loads(step - 1, sources, states),
    )
    last = len(wanted) - 1

    def onward(step: int, states: Ints) -> Ints:
        at = last - step
        total = chain.moves(at).rows(states) + (chain.efforts[at + 1] + behind[at + 1])
        best: Ints = total.argmin(axis=1)
        return best

    after = _largest_on_the_way(
        wanted[::-1], onward, lambda step, targets, states: pair_loads(last - step, states, targets)
    )
    return [np.maximum(one, two) for one, two in zip(before, after[::-1], strict=True)]


def _largest_on_the_way(
    wanted: Sequence[Ints],
    sources_of: Callable[[int, Ints], Ints],
    loads_of: Callable[[int, Ints, Ints], Floats],
) -> list[Floats]:
    """Largest load from the first step to each wanted state, over the best way there."""
    needs, ways = [], []
    carried = np.empty(0, dtype=np.int64)
    for step in range(len(wanted) - 1, -1, -1):
        need = np.union1d(wanted[step], carried)
        needs.append(need)
        if step:
            carried = sources_of(step, need)
            ways.append((carried, loads_of(step, carried, need)))
    needs.reverse()
    ways.reverse()
    largest = np.zeros(len(needs[0]))
    found = [largest[np.searchsorted(needs[0], wanted[0])]]
    for step, (sources, loads) in enumerate(ways, start=1):
        largest = np.maximum(largest[np.searchsorted(needs[step - 1], sources)], loads)
        found.append(largest[np.searchsorted(needs[step], wanted[step])])
    return found
