"""The K best plans against the independent writing of the model, and comparing schools."""

from __future__ import annotations

from itertools import islice, product

import pytest
from hypothesis import given, settings

from dromic.errors import NoPlanError
from dromic.hands.profile import Hands, PickingHand, hands_named
from dromic.instrument.presets import instrument_for
from dromic.music.riff import Riff
from dromic.planner.compare import compare_schools
from dromic.planner.plan import State
from dromic.planner.planning import Request, best_plans_of
from dromic.schools.registry import SCHOOLS, school_named
from tests.helpers import line, plan, riff
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
        label = tuple((one.string, one.fret, one.finger, one.stroke) for one in choices)
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


def test_loops_are_not_ranked() -> None:
    with pytest.raises(NoPlanError, match="plans are ranked for least effort once through"):
        best_plans_of(line("6:0 6:1"), Request(Hands(), school_named("economy"), loop=True), 3)


def test_all_schools_side_by_side() -> None:
    made = line("5:5 5:7 4:5 4:7 3:5 3:7", tempo=120)
    comparison = compare_schools(made, Request(Hands(), school_named("economy")))
    assert {one.school.name for one in comparison.plans} == set(SCHOOLS)
    ceilings = [one.ceiling for one in comparison.plans]
    assert ceilings == sorted(ceilings, reverse=True)
    by_name = {one.school.name: one for one in comparison.plans}
    assert by_name["least-motion"].cost <= by_name["strict-alternate"].cost
    assert by_name["economy"].totals.strings_cleared < by_name["downstroke-first"].totals.strings_cleared


def test_a_school_that_cannot_play_a_riff_says_why() -> None:
    made = riff("| 6:0!u/4 6:0!u 6:0 6:0 |")
    comparison = compare_schools(made, Request(Hands(), school_named("economy")))
    assert "strict-alternate" in comparison.refusals
    assert "locked" in comparison.refusals["strict-alternate"]
    assert any(one.school.name == "least-motion" for one in comparison.plans)
