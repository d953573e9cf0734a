"""The K best plans against the independent writing of the model, and comparing schools."""

from __future__ import annotations

from itertools import islice, product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.arrays import Floats
from dromic.errors import NoPlanError
from dromic.hands.constants import PickingHand
from dromic.hands.profile import Hands, hands_named
from dromic.instrument.presets import instrument_for
from dromic.music.riff import Riff
from dromic.planner.compare import compare_schools
from dromic.planner.plan import Objective
from dromic.planner.planning import best_plans_of
from dromic.planner.request import Request
from dromic.planner.search.moves import Moves
from dromic.planner.solving.kbest import labels_of
from dromic.planner.solving.solution import solve
from dromic.planner.task.state import State
from dromic.schools.registry import SCHOOLS, school_named
from tests.helpers import line, not_none, plan, riff
from tests.planner.reference import Reference
from tests.strategies import pitch_lines, short_lines

ONE_LEAN = Hands(picking=PickingHand(turns=False))


def seen(states: tuple[State, ...]) -> tuple[object, ...]:
    return tuple((state.notes, state.stroke) for state in states)


@given(short_lines(most=3, legato=False))
@settings(max_examples=25)
def test_the_five_best_are_the_five_best_of_all_combinations(made: Riff) -> None:
    reference = Reference(made, ONE_LEAN, "least-motion", instrument_for(made))
    cheapest: dict[tuple[object, ...], float] = {}
    for choices in product(*reference.options):
        label = tuple((one.grip.notes, one.stroke) for one in choices)
        cost = reference.cost_of(list(choices))
        cheapest[label] = min(cheapest.get(label, cost), cost)
    wanted = sorted(cost for cost in cheapest.values() if cost < 1e9)[:5]
    ranked = best_plans_of(made, Request(ONE_LEAN, school_named("least-motion")), 5)
    assert [one.cost for one in ranked] == pytest.approx(wanted)


@given(pitch_lines(most=8))
@settings(max_examples=25)
def test_ranked_plans_differ_rise_and_begin_with_the_best(made: Riff) -> None:
    request = Request(hands_named("medium"), school_named("economy"))
    ranked = best_plans_of(made, request, 6)
    assert ranked[0].cost == pytest.approx(plan(made, "economy").cost)
    costs = [one.cost for one in ranked]
    assert all(one <= two + 1e-9 for one, two in zip(costs, islice(costs, 1, None), strict=False))
    assert len({seen(one.states) for one in ranked}) == len(ranked)


def tables(moves: Moves) -> tuple[Floats, Floats]:
    """Costs and loads of moves."""
    return moves.costs(), moves.loads()


@given(short_lines(most=3, legato=False), st.booleans(), st.sampled_from(["effort", "tempo"]))
@settings(max_examples=20)
def test_ranks_of_loops_and_of_the_highest_tempo(made: Riff, loop: bool, objective: str) -> None:
    """Against every path through the problem's own tables."""
    request = Request(ONE_LEAN, school_named("least-motion"), loop=loop, objective=Objective(objective))
    ranked = best_plans_of(made, request, 4)
    answer = solve(made, request)
    problem, bound = answer.problem, answer.bound
    count = len(problem.steps)
    links = [(at, at + 1, *tables(problem.moves(at))) for at in range(count - 1)]
    if problem.seam is not None:
        links.append((count - 1, 0, *tables(problem.seam)))
    total = np.zeros([len(effort) for effort in problem.chain.node_costs])
    for at, effort in enumerate(problem.chain.node_costs):
        total = total + effort.reshape([-1 if axis == at else 1 for axis in range(count)])
    for one, two, cost, load in links:
        table = np.where(load <= bound, cost, np.inf)
        if one == two:
            total = total + np.diagonal(table)
            continue
        table = table if one < two else table.T
        total = total + table.reshape([total.shape[axis] if axis in (one, two) else 1 for axis in range(count)])
    labels = np.meshgrid(*(labels_of(problem, at) for at in range(count)), indexing="ij")
    row = sum(label.astype(np.int64) * 1000**at for at, label in enumerate(labels)).ravel()
    order = np.argsort(row, kind="stable")
    starts = np.flatnonzero(np.r_[True, np.diff(row[order]) > 0])
    cheapest = np.sort(np.minimum.reduceat(total.ravel()[order], starts))
    wanted = cheapest[np.isfinite(cheapest)][:4]
    assert [one.cost for one in ranked] == pytest.approx(wanted.tolist())


def test_plans_with_repeats_alike_are_not_ranked() -> None:
    with pytest.raises(NoPlanError, match="plans are not ranked with identical repeats"):
        best_plans_of(line("6:0 6:1"), Request(Hands(), school_named("economy"), identical_repeats=True), 3)


def test_all_schools_side_by_side() -> None:
    made = line("5:5 4:5 4:7 3:5 3:7 2:5", tempo=120)
    comparison = compare_schools(made, Request(Hands(), school_named("economy")))
    assert {one.school.name for one in comparison.plans} == set(SCHOOLS)
    ceilings = [one.ceiling for one in comparison.plans]
    assert ceilings == sorted(map(not_none, ceilings), reverse=True)
    by_name = {one.school.name: one for one in comparison.plans}
    assert by_name["least-motion"].cost <= by_name["strict-alternate"].cost
    assert by_name["economy"].totals["strings_cleared"] < by_name["downstroke-first"].totals["strings_cleared"]


def test_a_school_that_cannot_play_a_riff_says_why() -> None:
    made = riff("| 4:3/2 4:3.k |")
    comparison = compare_schools(made, Request(Hands(), school_named("economy")))
    assert "bass-two-finger" in comparison.refusals
    assert "4:3 at bar 1 beat 3" in comparison.refusals["bass-two-finger"]
    assert any(one.school.name == "least-motion" for one in comparison.plans)
