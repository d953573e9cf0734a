"""Exact search over chains of arrays: least sum, least largest load, and both round a loop.

The kernels know nothing of hands: they get one array of efforts a step and one of costs a link. Among equal
costs the state with the smallest number wins, so results repeat.

References
----------
Bellman 1957, dynamic programming; the forward and backward pass together price every state (min-marginals).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
LinkArray = Callable[[int], Floats]


@dataclass(frozen=True)
class Chain:
    """A chain of steps and links.

    Parameters
    ----------
    efforts : sequence of ndarray, one of shape (states,) a step
    link : callable
        Array of shape (states before, states after) for link i, from step i to step i + 1. Infinite where a
        move cannot be made.
    """

    efforts: Sequence[Floats]
    link: LinkArray


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
class Found:
    """A best path: a state for each step, and its total."""

    path: tuple[int, ...]
    total: float


def least_sum(chain: Chain, start: Floats | None = None, end: Floats | None = None) -> Found:
    """Find the path with the least sum of efforts and costs.

    Parameters
    ----------
    chain : Chain
    start, end : ndarray or None
        Added to the efforts of the first and last step.

    Returns
    -------
    Found

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
    Found(path=(1, 1), total=2.0)
    """
    ahead = forward_sums(chain, start, end)
    for step, sums in enumerate(ahead):
        _check(sums, step)
    return traced(chain, ahead)


def _check(ahead: Floats, step: int) -> None:
    if not np.isfinite(ahead).any():
        raise DeadEndError(step)


def traced(chain: Chain, ahead: Sequence[Floats]) -> Found:
    """Follow the least forward sums back from the end."""
    state = int(ahead[-1].argmin())
    total = float(ahead[-1][state])
    return Found((*path_to(chain, ahead, len(ahead) - 1, state), state), total)


def path_to(
    chain: Chain, ahead: Sequence[Floats], step: int, state: int, known: Sequence[int] = ()
) -> tuple[int, ...]:
    """Best way up to a state, that state not included; `known` is a best path, followed once it is met."""
    path = []
    for link in range(step - 1, -1, -1):
        state = int((ahead[link] + chain.link(link)[:, state]).argmin())
        path.append(state)
        if known and known[link] == state:
            return (*known[:link], *reversed(path))
    return tuple(reversed(path))


def path_from(
    chain: Chain, behind: Sequence[Floats], step: int, state: int, known: Sequence[int] = ()
) -> tuple[int, ...]:
    """Best way on from a state, that state not included; `known` is a best path, followed once it is met."""
    path = []
    for link in range(step, len(chain.efforts) - 1):
        state = int((chain.link(link)[state] + chain.efforts[link + 1] + behind[link + 1]).argmin())
        path.append(state)
        if known and known[link + 1] == state:
            return (*path, *known[link + 2 :])
    return tuple(path)


def forward_sums(chain: Chain, start: Floats | None = None, end: Floats | None = None) -> list[Floats]:
    """Least sums from the start up to each state, its own effort included."""
    first: Floats = np.asarray(chain.efforts[0], dtype=np.float64)
    sums = [first if start is None else first + start]
    for step in range(len(chain.efforts) - 1):
        sums.append(_least_into(sums[-1], chain.link(step)) + chain.efforts[step + 1])
    if end is not None:
        sums[-1] = sums[-1] + end
    return sums


def _least_into(ahead: Floats, link: Floats) -> Floats:
    """Least of `ahead` plus each column; rows that cannot be reached are left out."""
    reached = np.isfinite(ahead)
    if not reached.all():
        if not reached.any():
            return np.full(link.shape[1], np.inf)
        ahead, link = ahead[reached], link[reached]
    least: Floats = (link + ahead[:, None]).min(axis=0)
    return least


def backward_sums(chain: Chain) -> list[Floats]:
    """Least sums from each state to the end, its own effort not included."""
    sums = [np.zeros(len(chain.efforts[-1]))]
    for step in range(len(chain.efforts) - 2, -1, -1):
        after = sums[-1] + chain.efforts[step + 1]
        sums.append((chain.link(step) + after).min(axis=1))
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
    _check(worst, 0)
    found = [worst]
    for step in range(len(chain.efforts) - 1):
        load = np.where(np.isfinite(chain.link(step)), loads(step), np.inf)
        worst = np.maximum(worst[:, None], load).min(axis=0)
        worst = np.where(np.isfinite(chain.efforts[step + 1]), worst, np.inf)
        _check(worst, step + 1)
        found.append(worst)
    return found


def least_sum_loop(chain: Chain, seam: Floats) -> Found:
    """Find the closed path with the least sum, the seam from last to first step included.

    Parameters
    ----------
    chain : Chain
    seam : ndarray, shape (states of the last step, states of the first step)

    Notes
    -----
    Starts are tried in the order of a lower bound (the best open path from there, with the cheapest seam back
    to it) until the bound passes the best loop found, so few of them are usually tried.

    Raises
    ------
    DeadEndError
    """
    if len(chain.efforts) == 1:
        around = chain.efforts[0] + np.diagonal(seam)
        _check(around, 0)
        state = int(around.argmin())
        return Found((state,), float(around[state]))
    onward = backward_sums(chain)[0] + chain.efforts[0]
    if not np.isfinite(onward).any():
        least_sum(chain)
    bounds = onward + seam.min(axis=0)
    best: Found | None = None
    for state in np.argsort(bounds, kind="stable"):
        if not np.isfinite(bounds[state]) or (best is not None and bounds[state] >= best.total):
            break
        start = np.full(len(bounds), np.inf)
        start[state] = 0.0
        try:
            found = least_sum(chain, start, seam[:, state])
        except DeadEndError:
            continue
        if best is None or found.total < best.total:
            best = found
    if best is None:
        raise DeadEndError(0)
    return best


def least_largest_value(chain: Chain, loads: LinkArray) -> float:
    """Smallest largest load of any path."""
    return float(least_largest(chain, loads)[-1].min())


def least_largest_value_loop(chain: Chain, loads: LinkArray, seam_cost: Floats, seam_load: Floats) -> float:
    """Smallest largest load of any closed path, by trying every start in the order of its seam."""
    closing = np.where(np.isfinite(seam_cost), seam_load, np.inf)
    best = np.inf
    order = np.argsort(closing.min(axis=0), kind="stable")
    for state in order:
        if closing[:, state].min() >= best or not np.isfinite(chain.efforts[0][state]):
            continue
        start = np.full(closing.shape[1], np.inf)
        start[state] = 0.0
        try:
            last = least_largest(chain, loads, start)[-1]
        except DeadEndError:
            continue
        best = min(best, float(np.maximum(last, closing[:, state]).min()))
    if not np.isfinite(best):
        raise DeadEndError(0)
    return best


def through_loop(chain: Chain, seam: Floats) -> list[Floats]:
    """Cost of the best closed path through each state of each step.

    Parameters
    ----------
    chain : Chain
    seam : ndarray, shape (states of the last step, states of the first step)

    Notes
    -----
    The loop is cut at the step with the fewest states, and each of these is carried all the way round, so time
    grows with their number.
    """
    count = len(chain.efforts)

    def link(step: int) -> Floats:
        return seam if step == count - 1 else chain.link(step)

    if count == 1:
        return [chain.efforts[0] + np.diagonal(seam)]
    cut = min(range(count), key=lambda step: int(np.isfinite(chain.efforts[step]).sum()))
    order = [(cut + offset) % count for offset in range(count)]
    best = [np.full(len(chain.efforts[step]), np.inf) for step in range(count)]
    for state in np.flatnonzero(np.isfinite(chain.efforts[cut])):
        ahead = [np.full(len(chain.efforts[cut]), np.inf)]
        ahead[0][state] = chain.efforts[cut][state]
        for before, after in pairwise(order):
            ahead.append(_least_into(ahead[-1], link(before)) + chain.efforts[after])
        behind = link(order[-1])[:, state]
        for place in range(count - 1, -1, -1):
            step = order[place]
            np.minimum(best[step], ahead[place] + behind, out=best[step])
            if place:
                behind = (link(order[place - 1]) + (behind + chain.efforts[step])).min(axis=1)
    return best
