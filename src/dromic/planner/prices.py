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
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from dromic.arrays import Floats, Ints
from dromic.planner.choices import Choice, ChoiceFinder
from dromic.planner.loops import AroundLoop, cut_open, through_loop
from dromic.planner.plan import State
from dromic.planner.problem import Problem
from dromic.planner.search import Passes, both_passes
from dromic.planner.solving import LOAD_TOLERANCE
from dromic.planner.tied_repeats import FoldedProblem
from dromic.planner.ways import Alternative, Detour, WayKind

NO_PRICE = 1e-9


@dataclass(frozen=True)
class _Offer:
    """A choice for a step with the joint state of the best plan that makes it, and that plan's cost."""

    choice: Choice
    joint: int
    cost: float


def price_all(
    problem: Problem,
    bound: float,
    chosen: Sequence[State],
    total: float,
    most: int,
    tempo: float,
    folded: FoldedProblem | None = None,
    path: Sequence[int] | None = None,
) -> list[tuple[Alternative, ...]]:
    """Return the cheapest other choices for every note.

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

    Returns
    -------
    list of tuple of Alternative, one a step
        Cheapest first (under the highest tempo, by ceiling and then price). Each changes one thing and leaves the
        rest of the plan free.
    """
    finder = ChoiceFinder(problem)
    if folded is not None:
        if problem.seam is not None or np.isfinite(bound):
            return [()] * len(problem.steps)
        costs = folded.through
        offers = [_offers(finder, step, chosen[step], cost, most) for step, cost in enumerate(costs)]
        return _told(offers, [defaultdict(float)] * len(offers), total, tempo)
    if problem.seam is not None:
        around = through_loop(problem.solver.within(bound), problem.seam)
        offers = [_offers(finder, step, chosen[step], cost, most) for step, cost in enumerate(around.cost)]
        return _told(offers, _loads_around(problem, bound, around, offers), total, tempo)
    if np.isfinite(bound):
        return _by_ceiling(problem, finder, bound, chosen, total, most, tempo)
    passes = problem.solver.passes
    offers = [_offers(finder, step, chosen[step], cost, most) for step, cost in enumerate(passes.through)]
    told = _told(offers, _loads(passes.largest_loads(problem.solver.within(np.inf)), offers), total, tempo)
    return told if path is None else _with_detours(problem, offers, told, passes, path)


def best_of_forms(
    by_form: Sequence[Sequence[tuple[Alternative, ...]]], most: int, *, for_tempo: bool
) -> list[tuple[Alternative, ...]]:
    """Return each choice as it is best played, where a school has several forms.

    Parameters
    ----------
    by_form : sequence of sequences of tuples of Alternative
        What `price_all` gives for each form.
    most : int
        How many choices to return for each note at most.
    for_tempo : bool
        Whether the best ceiling counts before the price.
    """
    if len(by_form) == 1:
        return list(by_form[0])

    def rank(one: Alternative) -> tuple[float, float]:
        return (-(one.ceiling or np.inf), one.price) if for_tempo else (one.price, 0.0)

    found = []
    for some in zip(*by_form, strict=True):
        best: dict[object, Alternative] = {}
        for one in (one for alternatives in some for one in alternatives):
            if one.way not in best or rank(one) < rank(best[one.way]):
                best[one.way] = one
        found.append(tuple(sorted(best.values(), key=rank)[:most]))
    return found


def _offers(finder: ChoiceFinder, step: int, chosen: State, cost: Floats, most: int) -> list[_Offer]:
    """Return the cheapest choices for a step."""
    choices = finder.at(step, chosen)
    if not choices.named:
        return []
    joint, cost = _best_layers(cost, finder.plain_of(step), choices.keep.shape[1])
    costs = np.where(choices.keep, cost, np.inf)
    best = costs.argmin(axis=1)
    least = costs[np.arange(len(best)), best]
    order = np.argsort(least, kind="stable")[:most]
    return [
        _Offer(choices.named[at], int(joint[best[at]]), float(least[at])) for at in order if np.isfinite(least[at])
    ]


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


def _loads(largest: Sequence[Floats], offers: Sequence[Sequence[_Offer]]) -> list[dict[int, float]]:
    """Largest load of the best plan through each offered state, by step and state."""
    return [
        {offer.joint: float(loads[offer.joint]) for offer in some}
        for some, loads in zip(offers, largest, strict=True)
    ]


def _with_detours(
    problem: Problem,
    offers: Sequence[Sequence[_Offer]],
    told: Sequence[tuple[Alternative, ...]],
    passes: Passes,
    path: Sequence[int],
) -> list[tuple[Alternative, ...]]:
    """Tell of each step's cheapest choice what its plan plays otherwise."""
    found = []
    for step, (some, alternatives) in enumerate(zip(offers, told, strict=True)):
        if not some:
            found.append(alternatives)
            continue
        # Where the hand is over an open string cannot be seen: what can be is compared first.
        seen = next((at for at, one in enumerate(alternatives) if one.kind is not WayKind.POSITION), 0)
        first, joints = passes.detour(step, some[seen].joint, path, problem.layers.plain)
        states = tuple(problem.state(first + at, joint) for at, joint in enumerate(joints))
        told_one = replace(alternatives[seen], detour=Detour(first, states))
        found.append((*alternatives[:seen], told_one, *alternatives[seen + 1 :]))
    return found


def _told(
    offers: Sequence[Sequence[_Offer]], loads: Sequence[dict[int, float]], total: float, tempo: float
) -> list[tuple[Alternative, ...]]:
    def one(offer: _Offer, load: float) -> Alternative:
        choice, price = offer.choice, offer.cost - total
        price = 0.0 if abs(price) < NO_PRICE else price
        return Alternative(choice.way, price, tempo / load if load > 0 else None)

    return [
        tuple(one(offer, known[offer.joint]) for offer in some) for some, known in zip(offers, loads, strict=True)
    ]


# -- round a loop -------------------------------------------------------------------------------------------


def _loads_around(
    problem: Problem, bound: float, around: AroundLoop, offers: list[list[_Offer]]
) -> list[dict[int, float]]:
    """Largest load of the best loop through each offered state."""
    assert problem.seam is not None
    chain = problem.solver.within(bound)
    by_start: dict[int, list[tuple[int, int]]] = defaultdict(list)
    for step, some in enumerate(offers):
        for offer in some:
            by_start[int(around.start[step][offer.joint])].append((step, offer.joint))
    found: list[dict[int, float]] = [{} for _ in offers]
    for state, wanted in by_start.items():
        cut = cut_open(chain, problem.seam, around.cut, state)
        largest = dict(zip(cut.order, both_passes(cut.chain).largest_loads(cut.chain), strict=False))
        for step, joint in wanted:
            found[step][joint] = float(largest[step][joint])
    return found


# -- for the highest tempo ----------------------------------------------------------------------------------


def _by_ceiling(
    problem: Problem,
    finder: ChoiceFinder,
    bound: float,
    chosen: Sequence[State],
    total: float,
    most: int,
    tempo: float,
) -> list[tuple[Alternative, ...]]:
    """Return the choices that leave the best ceilings; each is priced within the ceiling that it leaves."""
    before = problem.solver.worst
    after = problem.solver.worst_onward
    wanted: dict[float, list[tuple[int, Choice]]] = defaultdict(list)
    for step, largest in enumerate(np.maximum(one, two) for one, two in zip(before, after, strict=True)):
        choices = finder.at(step, chosen[step])
        if choices.named:
            least = np.where(choices.keep, largest, np.inf).min(axis=1)
            for at in np.argsort(least, kind="stable")[:most]:
                if np.isfinite(least[at]):
                    wanted[max(float(least[at]) * (1 + LOAD_TOLERANCE), bound)].append((step, choices.named[at]))
    found: list[list[Alternative]] = [[] for _ in chosen]
    for limit, some in sorted(wanted.items(), key=lambda one: one[0]):
        chain = problem.solver.within(limit)
        passes = both_passes(chain)
        through = passes.through
        offers: list[list[_Offer]] = [[] for _ in chosen]
        for step, choice in some:
            joint, least = _best_layers(through[step], finder.plain_of(step), choice.keep.size)
            cost = np.where(choice.keep.ravel(), least, np.inf)
            best = int(cost.argmin())
            offers[step].append(_Offer(choice, int(joint[best]), float(cost[best])))
        told = _told(offers, _loads(passes.largest_loads(chain), offers), total, tempo)
        for step, alternatives in enumerate(told):
            found[step].extend(sorted(alternatives, key=lambda one: one.price))
    return [tuple(some) for some in found]
