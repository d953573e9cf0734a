"""Exact search round a loop: chains whose last step leads back to the first.

References
----------
As `dromic.planner.search.chains`; a loop is searched as a chain for one state at a cut after another, in the order
of a lower bound.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import ceil

import numpy as np

from dromic.arrays import Floats, Ints
from dromic.planner.kernel import first_least
from dromic.planner.search.chains import (
    Chain,
    DeadEndError,
    Path,
    backward_sums,
    check_reached,
    forward_sums,
    least_sum,
    traced,
)
from dromic.planner.search.many_starts import many_sums, with_largest_loads
from dromic.planner.search.moves import Moves

AheadFrom = Callable[[int], list[Floats]]
LargestFrom = Callable[[int], Floats]
# Sums of one pass that are kept at a time; with all that is kept beside them some 50 bytes each.
MOST_NUMBERS = 1_500_000


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
    The start with the smallest lower bound (the best open path from there, with the cheapest seam back to it) is
    tried first, and then all whose bound is below the loop found, in one pass: beside the first, as long as it
    matters where they began.

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
    order = [int(state) for state in np.argsort(bounds, kind="stable") if np.isfinite(bounds[state])]
    if not order:
        raise DeadEndError(0)
    ahead = ahead_from(order[0])
    end = seam[:, order[0]]
    least = float((ahead[-1] + end).min())
    others = np.array([state for state in order[1:] if bounds[state] < least], dtype=np.int64)
    if len(others):
        first = np.full((len(others), len(bounds)), np.inf)
        first[np.arange(len(others)), others] = chain.node_costs[0][others]
        links = range(len(chain.node_costs) - 1)
        sums = [one for one, _ in many_sums(first, links, chain.onward, ahead)]
        closed = (sums[-1].of_all + seam[:, others].T).min(axis=1)
        best = int(closed.argmin())
        if closed[best] < least:
            least, end = float(closed[best]), seam[:, others[best]]
            ahead = [one.of_start(best) for one in sums]
    if not np.isfinite(least):
        raise DeadEndError(0)
    return traced(chain, ahead, end)


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
    The loop is cut at the step with the fewest states, and all of these are carried round in one pass each way,
    apart from each other only as long as it matters where they began.
    """
    step = narrowest(chain)
    starts = np.flatnonzero(np.isfinite(chain.node_costs[step]))
    through_loop = AroundLoop(
        [np.full(len(own), np.inf) for own in chain.node_costs], [np.zeros(len(own)) for own in chain.node_costs]
    )
    numbers = len(starts) * sum(len(own) for own in chain.node_costs)
    for some in np.array_split(starts, max(ceil(numbers / MOST_NUMBERS), 1)):
        if len(some):
            _go_round(chain, seam, step, some, through_loop)
    return through_loop


def _go_round(chain: Chain, seam: Moves, step: int, starts: Ints, found: AroundLoop) -> None:
    """Price every state of a loop by the closed paths through some states of one step; in place."""
    count = len(chain.node_costs)
    order = [(step + offset) % count for offset in range(count)]
    opened = Chain(
        [*(chain.node_costs[one] for one in order), np.zeros(len(chain.node_costs[step]))],
        lambda link: seam if order[link] == count - 1 else chain.moves(order[link]),
        chain.bound,
    )
    rows, states = np.arange(len(starts)), len(chain.node_costs[step])
    first, last = np.full((len(starts), states), np.inf), np.full((len(starts), states), np.inf)
    first[rows, starts], last[rows, starts] = chain.node_costs[step][starts], 0.0
    ahead = list(with_largest_loads(many_sums(first, range(count), opened.onward), np.zeros(first.shape)))
    behind = with_largest_loads(many_sums(last, reversed(range(count)), opened.back), np.zeros(last.shape))
    for at, (onward, worst_on) in zip(range(count, -1, -1), behind, strict=True):
        if at == count:
            # The last step of the open chain is its first again.
            continue
        up, worst_up = ahead[at]
        own = order[at]
        through = up.of_all + onward.of_all
        best, numbers = through.argmin(axis=0), np.arange(through.shape[1])
        cost = through[best, numbers]
        load = np.maximum(worst_up[best, numbers], worst_on[best, numbers])
        better = cost < found.cost[own]
        found.cost[own][better], found.largest[own][better] = cost[better], load[better]
