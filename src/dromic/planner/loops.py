"""Exact search round a loop: chains whose last step leads back to the first.

References
----------
As `dromic.planner.search`; a loop is searched as a chain for one state at a cut after another, in the order of
a lower bound.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from dromic.arrays import Floats
from dromic.planner.kernel import first_least
from dromic.planner.moves import Moves
from dromic.planner.search import (
    Chain,
    DeadEndError,
    Path,
    backward_sums,
    both_passes,
    check_reached,
    forward_sums,
    least_sum,
    traced,
)

AheadFrom = Callable[[int], list[Floats]]
LargestFrom = Callable[[int], Floats]


def least_sum_loop(chain: Chain, seam: Floats, behind: Floats, ahead_from: AheadFrom) -> Path:
    """Find the closed path with the least sum, the seam from last to first step included.

    Parameters
    ----------
    chain : Chain
    seam : ndarray, shape (states of the last step, states of the first step)
    behind : ndarray, shape (states of the first step,)
        Least sums on from each first state to the end, its own cost not included.
    ahead_from : callable
        Forward sums of the paths that begin in one state.

    Notes
    -----
    Starts are tried in the order of a lower bound (the best open path from there, with the cheapest seam back
    to it) until the bound passes the best loop found, so few of them are usually tried.

    Raises
    ------
    DeadEndError
    """
    if len(chain.node_costs) == 1:
        around = chain.node_costs[0] + np.diagonal(seam)
        check_reached(around, 0)
        return Path((first_least(around),), float(around.min()))
    onward = behind + chain.node_costs[0]
    if not np.isfinite(onward).any():
        least_sum(chain)
    bounds = onward + seam.min(axis=0)
    best: Path | None = None
    for state in np.argsort(bounds, kind="stable"):
        if not np.isfinite(bounds[state]) or (best is not None and bounds[state] >= best.total):
            break
        ahead = ahead_from(int(state))
        closed = ahead[-1] + seam[:, state]
        if not np.isfinite(closed).any():
            continue
        if best is None or float(closed.min()) < best.total:
            best = traced(chain, ahead, seam[:, state])
    if best is None:
        raise DeadEndError(0)
    return best


def closed_path(chain: Chain, seam: Floats) -> Path:
    """Find the closed path with the least sum through a chain of which nothing is known yet."""

    def ahead_from(state: int) -> list[Floats]:
        start = np.full(len(chain.node_costs[0]), np.inf)
        start[state] = 0.0
        return forward_sums(chain, start)

    return least_sum_loop(chain, seam, backward_sums(chain)[0], ahead_from)


def least_largest_value_loop(seam: tuple[Floats, Floats], onward: Floats, largest_from: LargestFrom) -> float:
    """Smallest largest load of any closed path.

    Starts are tried in the order of a lower bound: the smallest largest load on from there, seam included.

    Parameters
    ----------
    seam : (ndarray, ndarray)
        Costs and loads of the link from the last step to the first.
    onward : ndarray, shape (states of the first step,)
        Smallest largest loads on from each first state to the end, infinite where there is no way.
    largest_from : callable
        Smallest largest loads on the way from one first state to each state of the last step.

    Raises
    ------
    DeadEndError
    """
    closing = np.where(np.isfinite(seam[0]), seam[1], np.inf)
    bounds = np.maximum(onward, closing.min(axis=0))
    best = np.inf
    for state in np.argsort(bounds, kind="stable"):
        if bounds[state] >= best:
            break
        best = min(best, float(np.maximum(largest_from(int(state)), closing[:, state]).min()))
    if not np.isfinite(best):
        raise DeadEndError(0)
    return best


@dataclass(frozen=True)
class Cut:
    """A loop cut open at one state of one step, as a chain that begins and ends there.

    Parameters
    ----------
    chain : Chain
        One step more than the loop has: the last is the first again.
    order : tuple of int
        The loop's step at each step of the chain, the last one left out.
    """

    chain: Chain
    order: tuple[int, ...]


def cut_open(chain: Chain, seam: Moves, step: int, state: int) -> Cut:
    """Cut a loop open.

    Parameters
    ----------
    chain : Chain
    seam : Moves
        From the last step to the first.
    step, state : int
        Where to cut.
    """
    count = len(chain.node_costs)
    order = tuple((step + offset) % count for offset in range(count))
    first = np.full(len(chain.node_costs[step]), np.inf)
    last = first.copy()
    first[state], last[state] = chain.node_costs[step][state], 0.0
    efforts = [first, *(chain.node_costs[one] for one in order[1:]), last]

    def moves(link: int) -> Moves:
        return seam if order[link] == count - 1 else chain.moves(order[link])

    return Cut(Chain(efforts, moves, chain.bound), order)


def narrowest(chain: Chain) -> int:
    """Step with the fewest states that are possible."""
    return min(range(len(chain.node_costs)), key=lambda step: int(np.isfinite(chain.node_costs[step]).sum()))


@dataclass(frozen=True)
class AroundLoop:
    """Cost of the best closed path through each state of each step, and the largest load of that path."""

    cost: list[Floats]
    largest: list[Floats]


def through_loop(chain: Chain, seam: Moves) -> AroundLoop:
    """Price every state of a loop.

    Parameters
    ----------
    chain : Chain
    seam : Moves
        From the last step to the first.

    Notes
    -----
    The loop is cut at the step with the fewest states, and each of these is carried all the way round, so time
    grows with their number.
    """
    step = narrowest(chain)
    best = [np.full(len(effort), np.inf) for effort in chain.node_costs]
    largest = [np.zeros(len(effort)) for effort in chain.node_costs]
    for state in np.flatnonzero(np.isfinite(chain.node_costs[step])):
        cut = cut_open(chain, seam, step, int(state))
        passes = both_passes(cut.chain)
        loads = passes.largest_loads(cut.chain)
        # The last step of the open chain is its first again.
        for own, through, load in zip(cut.order, passes.through, loads, strict=False):
            better = through < best[own]
            best[own] = np.where(better, through, best[own])
            largest[own] = np.where(better, load, largest[own])
    return AroundLoop(best, largest)
