"""How bars that come back are played best alike: of the ways in which a plan plays them, the cheapest in all."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import product

import numpy as np

from dromic.arrays import Bools
from dromic.music.riff import Stroke
from dromic.planner.search.chains import backward_sums, forward_sums
from dromic.planner.solving.problem import Problem
from dromic.planner.task.same_bars import ways_of
from dromic.planner.task.state import State
from dromic.planner.task.step import UsualWay

MOST_WAYS = 4
"""Of each group of bars, how many ways are weighed, the commonest."""


def usual_ways(
    problem: Problem, bound: float, states: Sequence[State], groups: Sequence[Sequence[range]]
) -> Mapping[int, UsualWay]:
    """Find for each step of bars that are not all played alike how it is to be played usually.

    Parameters
    ----------
    problem : Problem
    bound : float
        Load that no link may pass.
    states : sequence of State
        The best plan.
    groups : sequence of sequence of range
        Bars that are alike, as of `same_bars`.

    Returns
    -------
    mapping of int to UsualWay
        The way that costs least when each of the bars is played by it, the rest of the riff as is best for that bar
        (a loop's seam left out).
    """
    ways = {number: ways_of(bars, states)[:MOST_WAYS] for number, bars in enumerate(groups)}
    ways = {number: some for number, some in ways.items() if len(some) > 1}
    if not ways:
        return {}
    prices = _Prices(problem, bound)
    usual: dict[int, UsualWay] = {}
    for number, some in ways.items():
        bars = groups[number]
        best = min(some, key=lambda way: sum(prices.of(bar, way) for bar in bars))
        usual |= {at: one for bar in bars for at, one in zip(bar, best, strict=True)}
    return usual


class _Prices:
    """What the best plan costs in which a bar is played in a given way."""

    def __init__(self, problem: Problem, bound: float) -> None:
        self._problem = problem
        self._chain = problem.solver.within(bound)
        self._ahead, self._behind = forward_sums(self._chain), backward_sums(self._chain)

    def of(self, bar: range, way: Sequence[UsualWay]) -> float:
        masks = self._masks(bar, way)
        sums = np.where(next(masks), self._ahead[bar.start], np.inf)
        for link, mask in zip(bar, masks, strict=False):
            sums = np.where(mask, self._chain.onward(link, sums).values, np.inf)
        return float((sums + self._behind[bar[-1]]).min())

    def _masks(self, bar: range, way: Sequence[UsualWay]) -> Iterator[Bools]:
        problem = self._problem
        strokes = problem.model.picking.strokes
        for step, one in zip(bar, way, strict=True):
            node = problem.nodes[step]
            held = np.array([grip.notes == one.notes for grip in node.grips.rows])
            struck = [
                (stroke if sounded else Stroke.NONE) is one.stroke
                for sounded, stroke in product(node.blocks, strokes)
            ]
            yield (np.array(struck)[:, None] & held).ravel()[problem.layers.plain_of(step)]
