"""The planner against exhaustive search on an independent writing of the model (tests/planner/reference.py)."""

from __future__ import annotations

from dataclasses import replace
from itertools import product
from math import inf

import pytest
from hypothesis import given, settings

from dromic.errors import NoPlanError
from dromic.hands.profile import Hands, Lean
from dromic.instrument.presets import instrument_for
from dromic.music.riff import Mark, Riff
from dromic.planner.plan import Plan
from tests import helpers
from tests.planner.reference import DOWN, UP, Choice, Reference
from tests.strategies import pitch_lines, short_lines

SCHOOLS = ["strict-alternate", "pulse-alternate", "economy", "least-motion"]
ONE_LEAN = replace(Hands(), picking=replace(Hands().picking, turns=False))
OTHER_LEAN = replace(Hands(), picking=replace(Hands().picking, lean=Lean.DOWN_ESCAPES))


def reference_choices(plan: Plan) -> list[Choice]:
    signs = {"down": DOWN, "up": UP}
    return [
        Choice(
            plan.instrument.strings - state.string,
            state.fret,
            state.finger,
            state.position,
            signs[state.stroke],
            signs[state.escape],
        )
        for state in plan.states
    ]


def check(riff: Riff, school: str, hands: Hands) -> None:
    reference = Reference(riff, hands, school, instrument_for(riff))
    try:
        plan = helpers.plan(riff, school, hands=hands)
    except NoPlanError:
        assert reference.best_cost() == inf
        return
    choices = reference_choices(plan)
    assert reference.cost_of(choices) == pytest.approx(plan.cost, rel=1e-9)
    assert reference.best_cost(plan.cost * (1 + 1e-9) + 1e-12) == pytest.approx(plan.cost, rel=1e-9)
    if plan.ceiling is not None:
        assert reference.load_of(choices) == pytest.approx(riff.tempo / plan.ceiling)


@pytest.mark.parametrize("school", SCHOOLS)
@given(riff=short_lines(most=4, decided=True))
@settings(max_examples=60)
def test_least_effort_up_to_four_notes(school: str, riff: Riff) -> None:
    check(riff, school, Hands())


@pytest.mark.parametrize("school", SCHOOLS)
@given(riff=short_lines(most=6, decided=True))
@settings(max_examples=50)
def test_least_effort_up_to_six_notes_with_one_lean(school: str, riff: Riff) -> None:
    check(riff, school, ONE_LEAN)


@given(riff=short_lines(most=3, decided=True))
@settings(max_examples=30)
def test_the_other_lean(riff: Riff) -> None:
    check(riff, "least-motion", OTHER_LEAN)


@pytest.mark.parametrize("school", SCHOOLS)
@given(riff=short_lines(most=4, decided=True))
@settings(max_examples=25)
def test_highest_tempo(school: str, riff: Riff) -> None:
    reference = Reference(riff, ONE_LEAN, school, instrument_for(riff))
    try:
        plan = helpers.plan(riff, school, hands=ONE_LEAN, objective="tempo")
    except NoPlanError:
        assert reference.best_cost() == inf
        return
    choices = reference_choices(plan)
    load = reference.load_of(choices)
    assert reference.best_load(load * (1 + 1e-9) + 1e-12) == pytest.approx(load, rel=1e-8)
    assert reference.best_cost(plan.cost * (1 + 1e-9) + 1e-12, load * (1 + 1e-8)) == pytest.approx(plan.cost)


@pytest.mark.parametrize("school", SCHOOLS)
@given(riff=pitch_lines(most=4))
@settings(max_examples=20)
def test_pitches_are_placed_jointly(school: str, riff: Riff) -> None:
    check(riff, school, ONE_LEAN)


@pytest.mark.parametrize("objective", ["effort", "tempo"])
@pytest.mark.parametrize("school", SCHOOLS)
@given(riff=short_lines(most=4, decided=True))
@settings(max_examples=15)
def test_loops_of_both_objectives(school: str, objective: str, riff: Riff) -> None:
    first = next(event for event in riff.written_events() if event.notes)
    if {Mark.HAMMER, Mark.PULL, Mark.SLIDE} & first.marks:
        return
    reference = Reference(riff, ONE_LEAN, school, instrument_for(riff))
    try:
        plan = helpers.plan(riff, school, hands=ONE_LEAN, objective=objective, loop=True)
    except NoPlanError:
        assert reference.best_cost(loop=True) == inf
        return
    choices = reference_choices(plan)
    load = reference.load_of(choices, loop=True)
    assert reference.cost_of(choices, loop=True) == pytest.approx(plan.cost, rel=1e-9)
    assert load == pytest.approx(riff.tempo / plan.ceiling)
    most = inf
    if objective == "tempo":
        most = load * (1 + 1e-8)
        assert reference.best_load(load * (1 + 1e-9) + 1e-12, loop=True) == pytest.approx(load, rel=1e-8)
    best = reference.best_cost(plan.cost * (1 + 1e-9) + 1e-12, most, loop=True)
    assert best == pytest.approx(plan.cost, rel=1e-9)


def test_every_combination_without_any_bound() -> None:
    riff = helpers.line("3:5 2:5 2:7.h", tempo=150, meter="3/16")
    reference = Reference(riff, ONE_LEAN, "least-motion", instrument_for(riff))
    costs = [reference.cost_of(list(choices)) for choices in product(*reference.options)]
    assert len(costs) > 10_000
    assert min(costs) == pytest.approx(helpers.plan(riff, hands=ONE_LEAN).cost)
