"""The planner against exhaustive search on an independent writing of the model (tests/planner/reference.py)."""

from __future__ import annotations

from dataclasses import replace
from itertools import product
from math import inf
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.errors import NoPlanError
from dromic.hands.constants import Damping, Lean, OpenStrings, Shifting, ThumbOver
from dromic.hands.profile import Hands
from dromic.instrument.presets import instrument_for
from dromic.music.riff import Mark, Riff, Stroke
from dromic.planner.plan import Plan
from dromic.schools.registry import SCHOOLS, school_named
from tests import helpers
from tests.planner.reference import CYCLES, DIRECTIONS, HYBRID_FORMS, Asked, Choice, Grip, Reference
from tests.strategies import broken_chords, moved_figures, pitch_lines, repeated_lines, short_lines, small_material

ALL = list(SCHOOLS)
ONE_LEAN = replace(Hands(), picking=replace(Hands().picking, turns=False))
# Figures weigh so much that they decide.
CARRYING = replace(ONE_LEAN, comfort=replace(ONE_LEAN.comfort, figure=0.3, figure_strings=0.08))
OTHER_LEAN = replace(Hands(), picking=replace(Hands().picking, lean=Lean.DOWN_ESCAPES))


def reference_choices(plan: Plan) -> list[Choice]:
    return [
        Choice(
            Grip(state.notes, state.position, state.held, state.grip.flight, state.grip.ready, state.grip.shape),
            str(state.stroke),
            DIRECTIONS.get(str(state.escape), 0),
            state.sounded,
        )
        for state in plan.states
    ]


def references(riff: Riff, school: str, hands: Hands, asked: Asked) -> list[Reference]:
    """One reference for each form of the school."""
    schools = {school, *asked.by_phrase.values()}
    cycles = CYCLES if "cross-picking" in schools else CYCLES[-1:]
    hybrids = HYBRID_FORMS if "hybrid" in schools else HYBRID_FORMS[-1:]
    return [
        Reference(riff, hands, school, instrument_for(riff), asked, cycle, hybrid)
        for cycle, hybrid in product(cycles, hybrids)
    ]


def planned(riff: Riff, school: str, hands: Hands, asked: Asked, **more: Any) -> Plan | None:
    by_phrase = {name: school_named(one) for name, one in asked.by_phrase.items()}
    first = None if asked.first_stroke is None else Stroke(asked.first_stroke)
    settings_asked: dict[str, Any] = {
        "loop": asked.loop,
        "identical_repeats": asked.identical_repeats,
        "by_phrase": by_phrase,
        "first_stroke": first,
    }
    try:
        return helpers.plan(riff, school, hands=hands, **settings_asked, **more)
    except NoPlanError:
        return None


def check(riff: Riff, school: str, hands: Hands, asked: Asked | None = None, objective: str = "effort") -> None:
    asked = asked or Asked()
    plan = planned(riff, school, hands, asked, objective=objective)
    if plan is not None and any(step.exempt for step in plan.task.steps):
        # Locks stand above the school only where no plan obeys both, and no more of them than that.
        assert min(one.best_cost() for one in references(riff, school, hands, asked)) == inf
        exempt = frozenset(number for number, step in enumerate(plan.task.steps) if step.exempt)
        for number in exempt:
            fewer = replace(asked, exempt=exempt - {number})
            assert min(one.best_cost() for one in references(riff, school, hands, fewer)) == inf
        asked = replace(asked, exempt=exempt)
    task = None if plan is None else plan.task
    exempt_seam = task is not None and task.seam is not None and task.seam.pick.exempt and not task.steps[0].exempt
    if task is not None and (task.swapped or exempt_seam):
        # Two rounds, or the seam against the school, only where one round does not do.
        assert min(one.best_cost() for one in references(riff, school, hands, asked)) == inf
        asked = replace(asked, swapped=task.swapped, exempt_seam=exempt_seam)
        if exempt_seam:
            swapped = replace(asked, swapped=True, exempt_seam=False)
            assert min(one.best_cost() for one in references(riff, school, hands, swapped)) == inf
    usual = () if plan is None else tuple(step.usual for step in plan.task.steps)
    if any(usual):
        asked = replace(asked, usual=usual)
    forms = references(riff, school, hands, asked)
    if plan is None:
        assert min(one.best_cost() for one in forms) == inf
        return
    choices = reference_choices(plan)
    own = min(forms, key=lambda one: abs(one.cost_of(choices) - plan.cost))
    if any(usual):
        # How bars are usually played is found for each form by itself.
        forms = [own]
    load = own.load_of(choices)
    assert own.cost_of(choices) == pytest.approx(plan.cost, rel=1e-9)
    if plan.ceiling is not None:
        assert load == pytest.approx(riff.tempo / plan.ceiling)
    most = inf
    if objective == "tempo":
        most = load * (1 + 1e-8)
        assert min(one.best_load(load * (1 + 1e-9) + 1e-12) for one in forms) == pytest.approx(load, rel=1e-8)
    bound = plan.cost * (1 + 1e-9) + 1e-12
    assert min(one.best_cost(bound, most) for one in forms) == pytest.approx(plan.cost, rel=1e-9)


@pytest.mark.parametrize("school", ALL)
@given(riff=short_lines(most=4, decided=True))
@settings(max_examples=15)
def test_single_notes_up_to_four(school: str, riff: Riff) -> None:
    check(riff, school, Hands())


@pytest.mark.parametrize("school", ALL)
@given(riff=short_lines(most=6, decided=True))
@settings(max_examples=12)
def test_single_notes_up_to_six_with_one_lean(school: str, riff: Riff) -> None:
    check(riff, school, ONE_LEAN)


@given(riff=short_lines(most=3, decided=True))
@settings(max_examples=18)
def test_the_other_lean(riff: Riff) -> None:
    check(riff, "least-motion", OTHER_LEAN)


@pytest.mark.parametrize("school", ["pulse-alternate", "economy", "sparse"])
@given(riff=broken_chords())
@settings(max_examples=4)
def test_chords_that_are_held(school: str, riff: Riff) -> None:
    check(riff, school, ONE_LEAN)


@pytest.mark.parametrize("school", ALL)
@given(riff=small_material())
@settings(max_examples=7)
def test_chords_rakes_held_notes_ties_grace_notes_and_swing(school: str, riff: Riff) -> None:
    check(riff, school, ONE_LEAN)


@pytest.mark.parametrize("school", ALL)
@given(riff=short_lines(most=4, decided=True))
@settings(max_examples=6)
def test_highest_tempo(school: str, riff: Riff) -> None:
    check(riff, school, ONE_LEAN, objective="tempo")


@given(riff=small_material(), school=st.sampled_from(ALL))
@settings(max_examples=9)
def test_highest_tempo_of_all_material(school: str, riff: Riff) -> None:
    check(riff, school, ONE_LEAN, objective="tempo")


@pytest.mark.parametrize("school", ALL)
@given(riff=pitch_lines(most=4))
@settings(max_examples=5)
def test_pitches_are_placed_jointly(school: str, riff: Riff) -> None:
    check(riff, school, ONE_LEAN)


@given(riff=moved_figures(), school=st.sampled_from(["least-motion", "strict-alternate", "sweep"]))
@settings(max_examples=3)
def test_figures_that_come_back_moved(school: str, riff: Riff) -> None:
    check(riff, school, CARRYING)


@given(riff=moved_figures(), loop=st.booleans(), objective=st.sampled_from(["effort", "tempo"]))
@settings(max_examples=3)
def test_figures_round_a_loop_and_for_the_highest_tempo(loop: bool, objective: str, riff: Riff) -> None:
    check(riff, "strict-alternate", CARRYING, Asked(loop=loop), objective)


@pytest.mark.parametrize("notes", ["A3 C4 E4 G4 B4 G4 E4 C4 A3", "B4 G4 E4 C4 A3 C4 E4 G4 B4"])
def test_arpeggios_that_go_back_the_way_they_came(notes: str) -> None:
    check(helpers.line(notes, tempo=120), "strict-alternate", CARRYING)


CAMPS = [
    {"open_strings": OpenStrings.AVOIDED, "shifting": Shifting.SELDOM, "damping": Damping.ALWAYS},
    {"open_strings": OpenStrings.WELCOME, "shifting": Shifting.FREELY, "damping": Damping.SELDOM},
]


@pytest.mark.parametrize("camp", CAMPS, ids=["avoided", "welcome"])
@given(riff=pitch_lines(most=3), school=st.sampled_from(ALL))
@settings(max_examples=9)
def test_players_who_say_otherwise_than_their_style(camp: dict[str, Any], school: str, riff: Riff) -> None:
    check(riff, school, replace(ONE_LEAN, fretting=replace(ONE_LEAN.fretting, **camp)))


@pytest.mark.parametrize(
    "notes",
    [
        "| A2/4 C4 E4 A2 C4 E4 | A2 E4 G4 C4 E4 G4 |",
        "| A2/2 (C4 E4)/2. r/4 | E2/2 (E4 G4)/1 |",
        "| A2/2 (C4 E4) r | A2/2 (C#4 E4) r | B2/2 A3/1 |",
    ],
)
def test_accompaniments(notes: str) -> None:
    check(helpers.riff(notes, tempo=90, meter="3/2"), "strict-alternate", ONE_LEAN)


@pytest.mark.parametrize(
    "notes",
    [
        "| (F#2 A3 D4 F#4)/2 (E2 B2 E3 G#3) |",
        "| (F2 C3 F3 A3 C4 F4)/2 (F2 C4) |",
        "| (G2 D3 G3 B3)/2 A#3 |",
        "| F#2.l/4 D3.l D4.l F#4.l |",
    ],
)
def test_the_thumb_over_the_neck_and_stretches_across(notes: str) -> None:
    over = replace(ONE_LEAN.fretting, thumb=ThumbOver.FOR_BASS)
    hands = replace(ONE_LEAN, fretting=over, comfort=replace(ONE_LEAN.comfort, apart=0.1))
    check(helpers.riff(notes, tempo=90), "strict-alternate", hands)


def begins_with_legato(riff: Riff) -> bool:
    first = next(event for event in riff.written_events() if event.notes)
    return bool({Mark.HAMMER, Mark.PULL, Mark.SLIDE} & first.marks)


@pytest.mark.parametrize("objective", ["effort", "tempo"])
@pytest.mark.parametrize("school", ALL)
@given(riff=short_lines(most=4, decided=True))
@settings(max_examples=3)
def test_loops_of_both_objectives(school: str, objective: str, riff: Riff) -> None:
    if not begins_with_legato(riff):
        check(riff, school, ONE_LEAN, Asked(loop=True), objective)


@given(riff=small_material(), school=st.sampled_from(ALL))
@settings(max_examples=9)
def test_loops_of_all_material(school: str, riff: Riff) -> None:
    check(riff, school, ONE_LEAN, Asked(loop=True))


@pytest.mark.parametrize("objective", ["effort", "tempo"])
@given(riff=repeated_lines(), school=st.sampled_from(ALL), loop=st.booleans())
@settings(max_examples=18)
def test_identical_repeats(objective: str, school: str, riff: Riff, loop: bool) -> None:
    check(riff, school, ONE_LEAN, Asked(loop=loop, identical_repeats=True), objective)


@given(riff=repeated_lines(most=2), schools=st.lists(st.sampled_from(ALL), min_size=2, max_size=2))
@settings(max_examples=15)
def test_schools_of_single_phrases(schools: list[str], riff: Riff) -> None:
    check(riff, schools[0], ONE_LEAN, Asked(by_phrase={"again": schools[1]}))


@given(riff=short_lines(most=4), school=st.sampled_from(ALL), first=st.sampled_from(["down", "up"]))
@settings(max_examples=18)
def test_a_first_stroke(school: str, first: str, riff: Riff) -> None:
    check(riff, school, ONE_LEAN, Asked(first_stroke=first))


def test_every_combination_without_any_bound() -> None:
    riff = helpers.line("3:5 2:5 2:7.h", tempo=150, meter="3/16")
    reference = Reference(riff, ONE_LEAN, "least-motion", instrument_for(riff))
    costs = [reference.cost_of(list(choices)) for choices in product(*reference.options)]
    assert len(costs) > 10_000
    assert min(costs) == pytest.approx(helpers.plan(riff, hands=ONE_LEAN).cost)


def test_a_rake_after_legato_turns_where_it_begins() -> None:
    """The ceiling once left the turn out, because the note's own string is that of the note before."""
    riff = helpers.riff("| 2:8.v/8 2:10.b2 2:10.r 2:6.k |", instrument="bass-4", tempo=110, meter="4/8")
    check(riff, "economy", ONE_LEAN)


def test_a_chord_plucked_again_is_not_raked() -> None:
    riff = helpers.riff("| (3:0 2:0)/8 (4:0 3:0) |", instrument="bass-4", tempo=110, meter="2/8")
    check(riff, "bass-two-finger", ONE_LEAN)
