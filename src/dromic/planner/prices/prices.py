"""What every other choice would cost: exact, from one forward and one backward pass.

The sum of the best way up to a state and the best way on from it is the cost of the best plan through that
state. The least of these over all states that share a choice (an up, the fourth string, the third finger) is
the cost of the best plan with that choice forced; less the optimum, it is the price. The largest load on that
plan gives the ceiling it would leave.

Under the highest tempo a choice is worth the best ceiling that it leaves, and its price is that of the best plan
with it that reaches this ceiling; it may save effort and be negative. Round a loop the same passes are made for
every state at one cut; there, under the highest tempo, only choices that keep the ceiling are priced. Where repeats
are identical, a choice is made in all of them; it is priced for least effort once through, without the ceiling.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from dromic.arrays import Floats, Ints
from dromic.planner.plan import Offers
from dromic.planner.prices.choices import Choice, ChoiceFinder
from dromic.planner.search.chains import both_passes
from dromic.planner.search.loops import MOST_NUMBERS, through_loop
from dromic.planner.search.solver import LOAD_TOLERANCE
from dromic.planner.solving.problem import Problem
from dromic.planner.solving.tied_repeats import FoldedProblem
from dromic.planner.task.state import State
from dromic.planner.ways import Alternative, Detour, WayKind

NO_PRICE = 1e-9
TIE = 1e-11


@dataclass(frozen=True)
class _Offer:
    """A choice for a step with the joint state of the best plan that makes it, and that plan's cost."""

    choice: Choice
    joint: int
    cost: float


@dataclass(frozen=True)
class _Wanted:
    """A choice that is to be priced, and the load that the best ceiling with it leaves."""

    load: float
    choice: Choice


class Prices:
    """The cheapest other choices for every note: the passes are made at once, the choices of a note when asked for.

    Parameters
    ----------
    problem : Problem
        Solved.
    bound : float
        The load that no link of the plan passes; infinite for least effort.
    chosen : sequence of State
        What the plan does.
    total : float
        Its cost.
    most : int
        How many choices to return for each note at most.
    tempo : float
        Quarter notes a minute that the problem is for.
    folded : FoldedProblem or None
        Where repeats are identical, the problem as it was solved.
    path : sequence of int or None
        The plan's joint states; with it, what the plan of the cheapest other choice plays otherwise is told.
    first : range or None
        Steps to price first where that takes its time; `finish` prices the others.
    """

    def __init__(
        self,
        problem: Problem,
        bound: float,
        chosen: Sequence[State],
        total: float,
        most: int,
        tempo: float,
        folded: FoldedProblem | None = None,
        path: Sequence[int] | None = None,
        first: range | None = None,
    ) -> None:
        self._problem, self._bound, self._chosen, self._total = problem, bound, chosen, total
        self._most, self._tempo, self._path = most, tempo, path
        self._finder = ChoiceFinder(problem)
        self._known: dict[int, tuple[Alternative, ...]] = {}
        self._at: Callable[[int], tuple[Alternative, ...]]
        self._wanted: dict[int, list[_Wanted]] = {}
        if folded is not None:
            priced = problem.seam is None and not np.isfinite(bound)
            self._through = folded.through if priced else []
            self._at = self._in_folds if priced else lambda step: ()
        elif problem.seam is not None:
            self._around = through_loop(problem.solver.within(bound), problem.seam)
            self._at = self._round_the_loop
        elif np.isfinite(bound):
            self._wanted = self._wanted_by_load()
            self._by_step: list[tuple[Alternative, ...] | None] = [None] * len(chosen)
            self._at = self._by_ceiling
            steps = range(len(chosen))
            self._price(steps if first is None else range(*slice(first.start, first.stop).indices(len(chosen))))
        else:
            self._passes = problem.solver.passes
            self._largest = problem.solver.largest_loads
            self._at = self._once_through

    def at(self, step: int) -> tuple[Alternative, ...]:
        """Return the choices of a step; none while it has not been priced.

        Cheapest first (under the highest tempo, by ceiling and then price). Each changes one thing and leaves the
        rest of the plan free.
        """
        choices = self._known.get(step)
        if choices is None:
            choices = self._at(step)
            if self.complete:
                self._known[step] = choices
        return choices

    def at_once(self, _step: int) -> bool:
        """Whether the choices of a step can be listed at once."""
        return True

    @property
    def complete(self) -> bool:
        """Whether every step has been priced, or can be when it is asked for."""
        return not self._wanted

    def finish(self) -> None:
        """Price what has not been priced."""
        self._price(range(len(self._chosen)))

    def _offers(self, step: int, cost: Floats) -> list[_Offer]:
        return _offers(self._finder, step, self._chosen, cost, self._most)

    def _told(self, offers: Sequence[_Offer], load: Callable[[int], float]) -> tuple[Alternative, ...]:
        return _told(offers, load, self._total, self._tempo)

    def _in_folds(self, step: int) -> tuple[Alternative, ...]:
        return self._told(self._offers(step, self._through[step]), lambda joint: 0.0)

    def _once_through(self, step: int) -> tuple[Alternative, ...]:
        offers = self._offers(step, self._passes.ahead[step] + self._passes.behind[step])
        largest = self._largest[step]
        told = self._told(offers, lambda joint: float(largest[joint]))
        return told if self._path is None or not offers else self._with_detour(step, offers, told, self._path)

    def _with_detour(
        self, step: int, offers: Sequence[_Offer], told: tuple[Alternative, ...], path: Sequence[int]
    ) -> tuple[Alternative, ...]:
        """Tell of a step's cheapest choice what its plan plays otherwise."""
        # Where the hand is over an open string cannot be seen: what can be is compared first.
        seen = next((at for at, one in enumerate(told) if one.kind is not WayKind.POSITION), 0)
        first, joints = self._passes.detour(step, offers[seen].joint, path, self._problem.layers.plain)
        states = tuple(self._problem.state(first + at, joint) for at, joint in enumerate(joints))
        told_one = replace(told[seen], detour=Detour(first, states))
        return (*told[:seen], told_one, *told[seen + 1 :])

    def _round_the_loop(self, step: int) -> tuple[Alternative, ...]:
        largest = self._around.largest[step]
        return self._told(self._offers(step, self._around.cost[step]), lambda joint: float(largest[joint]))

    # -- for the highest tempo ------------------------------------------------------------------------------

    def _wanted_by_load(self) -> dict[int, list[_Wanted]]:
        """Which choices are worth pricing, by step."""
        problem, finder, chosen = self._problem, self._finder, self._chosen
        before, after = problem.solver.worst, problem.solver.worst_onward
        wanted: dict[int, list[_Wanted]] = {}
        for step, largest in enumerate(np.maximum(one, two) for one, two in zip(before, after, strict=True)):
            choices = finder.at(step, chosen)
            least = np.where(choices.keep, largest, np.inf).min(axis=1) if choices.named else np.empty(0)
            wanted[step] = [
                _Wanted(max(float(least[at]) * (1 + LOAD_TOLERANCE), self._bound), choices.named[at])
                for at in in_order(least)[: self._most]
                if np.isfinite(least[at])
            ]
        return wanted

    def _by_ceiling(self, step: int) -> tuple[Alternative, ...]:
        return self._by_step[step] or ()

    def _price(self, steps: range) -> None:
        """Price the choices of steps, each within the ceiling that it leaves; all those of one ceiling together."""
        by_load: dict[float, list[tuple[int, Choice]]] = defaultdict(list)
        for step in steps:
            for one in self._wanted.get(step, ()):
                by_load[one.load].append((step, one.choice))
        priced: dict[int, list[Alternative]] = {step: [] for step in steps if step in self._wanted}
        states = sum(len(own) for own in self._problem.solver.within(np.inf).node_costs)
        at_once, limits = max(MOST_NUMBERS // max(states, 1), 1), sorted(by_load)
        for first in range(0, len(limits), at_once):
            self._price_within(limits[first : first + at_once], by_load, priced)
        for step, its in priced.items():
            self._by_step[step] = tuple(its)
            del self._wanted[step]

    def _price_within(
        self,
        limits: Sequence[float],
        by_load: Mapping[float, Sequence[tuple[int, Choice]]],
        priced: Mapping[int, list[Alternative]],
    ) -> None:
        """Price choices in passes within several limits at once."""
        finder = self._finder
        chain = replace(self._problem.solver.within(np.inf), bound=np.array(limits))
        passes = both_passes(chain, rows=len(limits))
        largest_loads = passes.largest_loads_by_row
        for row, limit in enumerate(limits):
            offers: dict[int, list[_Offer]] = defaultdict(list)
            for step, choice in by_load[limit]:
                through = passes.ahead[step][row] + passes.behind[step][row]
                joint, least = _best_layers(through, finder.plain_of(step), choice.keep.size)
                cost = np.where(choice.keep.ravel(), least, np.inf)
                best = int(cost.argmin())
                offers[step].append(_Offer(choice, int(joint[best]), float(cost[best])))
            for step, its in offers.items():
                loads = largest_loads[step][row]
                alternatives = self._told(its, lambda joint, loads=loads: float(loads[joint]))  # type: ignore[misc]
                priced[step].extend(ranked(alternatives, for_tempo=False))


class PricesOfForms:
    """The choices of a note as each is best played, where a school has several forms.

    Parameters
    ----------
    forms : sequence of Prices
        Of each form.
    most : int
        How many choices to return for each note at most.
    for_tempo : bool
        Whether the best ceiling counts before the price.
    """

    def __init__(self, forms: Sequence[Offers], most: int, *, for_tempo: bool) -> None:
        self._forms, self._most, self._for_tempo = tuple(forms), most, for_tempo

    def at(self, step: int) -> tuple[Alternative, ...]:
        """Return the choices of a step."""
        best: dict[object, Alternative] = {}
        for one in (one for form in self._forms for one in form.at(step)):
            if one.way not in best or ranked([best[one.way], one], for_tempo=self._for_tempo)[0] is one:
                best[one.way] = one
        return tuple(ranked(list(best.values()), for_tempo=self._for_tempo)[: self._most])

    def at_once(self, _step: int) -> bool:
        """Whether the choices of a step can be listed at once."""
        return True

    @property
    def complete(self) -> bool:
        """Whether every step has been priced in every form, or can be when it is asked for."""
        return all(form.complete for form in self._forms)

    def finish(self) -> None:
        """Price what has not been priced."""
        for form in self._forms:
            form.finish()


def _offers(finder: ChoiceFinder, step: int, chosen: Sequence[State], cost: Floats, most: int) -> list[_Offer]:
    """Return the cheapest choices for a step."""
    choices = finder.at(step, chosen)
    if not choices.named:
        return []
    joint, cost = _best_layers(cost, finder.plain_of(step), choices.keep.shape[1])
    costs = np.where(choices.keep, cost, np.inf)
    best = costs.argmin(axis=1)
    least = costs[np.arange(len(best)), best]
    order = in_order(least)[:most]
    return [
        _Offer(choices.named[at], int(joint[best[at]]), float(least[at])) for at in order if np.isfinite(least[at])
    ]


def in_order(values: Floats) -> Ints:
    """Places of some values, the least first; those that only rounding tells apart stay in the order they have.

    Examples
    --------
    >>> in_order(np.array([2.0, 1.0 + 1e-15, 1.0, np.inf])).tolist()
    [1, 2, 0, 3]
    """
    order: Ints = np.argsort(values, kind="stable")
    ascending = values[order]
    close = (ascending[1:] <= ascending[:-1] + TIE) & (ascending[1:] < np.inf)
    if not close.any():
        return order
    groups = np.append(0, np.cumsum(~close))
    places: Ints = order[np.lexsort((order, groups))]
    return places


def ranked(choices: Sequence[Alternative], *, for_tempo: bool) -> list[Alternative]:
    """Choices by price, or by the ceiling they leave and then by price.

    Examples
    --------
    >>> from dromic.planner.ways import OtherFinger
    >>> from dromic.music.riff import Place
    >>> ways = [OtherFinger(Place(1, 5), finger) for finger in (1, 2)]
    >>> choices = [Alternative(ways[0], 0.5, 120.0), Alternative(ways[1], 0.2, 100.0)]
    >>> [[one.price for one in ranked(choices, for_tempo=tempo)] for tempo in (False, True)]
    [[0.2, 0.5], [0.5, 0.2]]
    """
    order = in_order(np.array([one.price for one in choices]))
    if for_tempo:
        order = order[in_order(np.array([-(choices[at].ceiling or np.inf) for at in order]))]
    return [choices[at] for at in order]


def _best_layers(cost: Floats, plain: Ints, states: int) -> tuple[Ints, Floats]:
    """Of each state the number, layer included, and the cost in the layer where it is least."""
    if len(cost) == states:
        return plain, cost
    least = cost[:states].copy()
    np.minimum.at(least, plain[states:], cost[states:])
    at = np.flatnonzero(cost == least[plain])[::-1]
    joint = np.zeros(states, dtype=np.int64)
    # The last one written stays: the smallest number.
    joint[plain[at]] = at
    return joint, least


def _told(
    offers: Sequence[_Offer], load: Callable[[int], float], total: float, tempo: float
) -> tuple[Alternative, ...]:
    """Offers as alternatives; `load` says the largest load of the plan through a joint state."""

    def one(offer: _Offer) -> Alternative:
        price, largest = offer.cost - total, load(offer.joint)
        price = 0.0 if abs(price) < NO_PRICE else price
        return Alternative(offer.choice.way, price, tempo / largest if largest > 0 else None)

    return tuple(one(offer) for offer in offers)
