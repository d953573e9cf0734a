"""The K best plans that differ in what a player would call different: places, fingers or strokes.

Joint states that differ only in what cannot be seen (the lean, where the hand is over an open string) carry the
same label. Rows of labels are searched best first: a part of a row is worth the best plan that begins with it,
which the backward pass tells exactly, so rows come out in the order of their cost and nothing is looked at
that is not the beginning of one of the K best.

References
----------
Hart, Nilsson and Raphael 1968, best-first search with a bound; here the bound is exact.
"""

from __future__ import annotations

import heapq
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import count

import numpy as np
from numpy.typing import NDArray

from dromic.planner.problem import Problem
from dromic.planner.search import Chain, Found, least_sum

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class _Part:
    """Plans that begin with one row of labels: the joint states it may be in now, and the least cost of each."""

    row: tuple[int, ...]
    states: Ints
    sums: Floats


def labels_of(problem: Problem, step: int) -> Ints:
    """Number what can be seen of each joint state of a step, shape (joint states,)."""
    names: dict[tuple[object, ...], int] = {}
    found = []
    for joint in range(len(problem.chain.efforts[step])):
        state = problem.state(step, joint)
        name = (state.notes, state.stroke if state.sounded else None)
        found.append(names.setdefault(name, len(names)))
    return np.array(found, dtype=np.int64)


def best_plans(problem: Problem, most: int) -> Iterator[Found]:
    """Yield plans that differ, cheapest first, without the seam.

    Parameters
    ----------
    problem : Problem
    most : int
        How many to yield at most.

    Notes
    -----
    Time grows with the number of plans times the number of steps.
    """
    chain, behind = problem.chain, problem.behind
    known: dict[object, Ints] = {}

    def labels(step: int) -> Ints:
        key = (problem.states[step], problem.steps[step].picked)
        if key not in known:
            known[key] = labels_of(problem, step)
        return known[key]

    order = count()
    queue: list[tuple[float, int, _Part]] = []

    def push(row: tuple[int, ...], step: int, sums: Floats) -> None:
        whole = sums + behind[step]
        own = labels(step)
        for label in np.unique(own[np.isfinite(whole)]):
            at = np.flatnonzero((own == label) & np.isfinite(whole))
            # Of equal costs the longer row comes first, so that whole plans come out early.
            heapq.heappush(queue, (float(whole[at].min()), -next(order), _Part((*row, int(label)), at, sums[at])))

    push((), 0, np.asarray(chain.efforts[0]))
    given = 0
    last = len(chain.efforts) - 1
    while queue and given < most:
        _, _, part = heapq.heappop(queue)
        step = len(part.row) - 1
        if step == last:
            given += 1
            yield _with_labels(chain, part.row, labels)
            continue
        sums = np.full(len(chain.efforts[step]), np.inf)
        sums[part.states] = part.sums
        push(part.row, step + 1, chain.moves(step).into(sums) + chain.efforts[step + 1])


def _with_labels(chain: Chain, row: tuple[int, ...], labels: Callable[[int], Ints]) -> Found:
    efforts = [np.where(labels(step) == label, chain.efforts[step], np.inf) for step, label in enumerate(row)]
    return least_sum(Chain(efforts, chain.link, chain.parts))
