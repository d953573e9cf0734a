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
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import count

import numpy as np

from dromic.arrays import Floats, Ints
from dromic.memory import memo
from dromic.planner.costs.model import Model
from dromic.planner.costs.nodes import Node
from dromic.planner.kernel import first_least
from dromic.planner.search.chains import Path, backward_sums
from dromic.planner.solving.problem import Problem


@dataclass(frozen=True)
class _Part:
    """Plans that begin with one row of labels.

    Parameters
    ----------
    row : tuple of int
    states : ndarray
        Joint states they may be in now.
    sums : ndarray
        The least cost of each.
    behind : sequence of ndarray
        Least sums on from every state of every step, back to where a loop began.
    before : _Part or None
        The part that this one goes on from.
    """

    row: tuple[int, ...]
    states: Ints
    sums: Floats
    behind: Sequence[Floats]
    before: _Part | None


def labels_of(problem: Problem, step: int) -> Ints:
    """Number what can be seen of each joint state of a step, shape (joint states,)."""
    node, model = problem.nodes[step], problem.model
    labels = memo(_labels_of, node, model)
    return labels[problem.layers.plain_of(step)]


def _labels_of(node: Node, model: Model) -> Ints:
    names: dict[tuple[object, ...], int] = {}
    found = []
    for joint in range(len(node.blocks) * model.picks * len(node.grips)):
        state = model.state(node, joint)
        name = (state.notes, state.stroke if state.sounded else None)
        found.append(names.setdefault(name, len(names)))
    return np.array(found, dtype=np.int64)


class PlanRanking:
    """Ranks the plans of a problem.

    Parameters
    ----------
    problem : Problem
    bound : float
        Load that no link may pass; infinite for least effort.
    """

    def __init__(self, problem: Problem, bound: float = np.inf) -> None:
        self._problem = problem
        self._chain, self._bound = problem.solver.within(bound), bound
        self._seam: Floats | None = None if problem.seam is None else problem.seam.costs(bound)
        self._known: dict[object, Ints] = {}
        self._order = count()
        self._queue: list[tuple[float, int, _Part]] = []
        self._most = 0

    def best(self, most: int) -> Iterator[Path]:
        """Yield plans that differ, cheapest first.

        Parameters
        ----------
        most : int
            How many to yield at most.

        Notes
        -----
        Time grows with the number of plans times the number of steps; for loops also with the number of states
        that the first step has, because each of them has its own way back.
        """
        chain = self._chain
        self._queue, self._most = [], most
        self._begin()
        given: set[tuple[int, ...]] = set()
        last = len(chain.node_costs) - 1
        while self._queue and len(given) < most:
            _, _, part = heapq.heappop(self._queue)
            step = len(part.row) - 1
            if step < last:
                self._push(step + 1, chain.onward(step, self._sums_of(part)).values, part.behind, part)
            elif part.row not in given:
                given.add(part.row)
                yield self._path_of(part)

    def _begin(self) -> None:
        chain, seam = self._chain, self._seam
        first = np.asarray(chain.node_costs[0], dtype=np.float64)
        if seam is None:
            self._push(0, first, backward_sums(chain))
            return
        for state in np.flatnonzero(np.isfinite(first)):
            only = np.full(len(first), np.inf)
            only[state] = first[state]
            self._push(0, only, backward_sums(chain, seam[:, state]))

    def _sums_of(self, part: _Part) -> Floats:
        """Sums of a part at its last step, infinite in states that it is not in."""
        sums = np.full(len(self._chain.node_costs[len(part.row) - 1]), np.inf)
        sums[part.states] = part.sums
        return sums

    def _push(self, step: int, sums: Floats, behind: Sequence[Floats], before: _Part | None = None) -> None:
        row = () if before is None else before.row
        whole = sums + behind[step]
        own = self._labels(step)
        at = np.flatnonzero(np.isfinite(whole))
        if not len(at):
            return
        at = at[np.argsort(own[at], kind="stable")]
        begins = np.concatenate(([0], 1 + np.flatnonzero(own[at[1:]] != own[at[:-1]])))
        least = np.minimum.reduceat(whole[at], begins)
        ends = np.append(begins[1:], len(at))
        # No two of these have a plan in common, and each has one of its cost: no more can be wanted than so many.
        kept = np.sort(np.argsort(least, kind="stable")[: self._most])
        for first, end, cost in zip(begins[kept].tolist(), ends[kept].tolist(), least[kept].tolist(), strict=True):
            some = at[first:end]
            # Of equal costs the longer row comes first, so that whole plans come out early.
            part = _Part((*row, int(own[some[0]])), some, sums[some], behind, before)
            heapq.heappush(self._queue, (cost, -next(self._order), part))

    def _labels(self, step: int) -> Ints:
        key = self._problem.layers.key(step)
        if key not in self._known:
            self._known[key] = labels_of(self._problem, step)
        return self._known[key]

    def _path_of(self, part: _Part) -> Path:
        """The best path of a row of labels, followed back part by part."""
        last = len(part.row) - 1
        whole = self._sums_of(part) + part.behind[last]
        path = [first_least(whole)]
        before = part.before
        while before is not None:
            link = len(before.row) - 1
            path.append(self._chain.moves(link).source(self._sums_of(before), path[-1], bound=self._bound))
            before = before.before
        return Path(tuple(reversed(path)), float(whole.min()))
