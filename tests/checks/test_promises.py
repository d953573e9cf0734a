"""What the planner promises, on a few riffs; `run_promises.py` tries many."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import pytest

from dromic.errors import NoPlanError
from dromic.hands.profile import hands_named
from dromic.planner.limits import Limits
from dromic.planner.locking import decided_in_full, with_alternative
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.planner.told.reasons import model_of, reason_for
from dromic.schools.registry import school_named
from tests import helpers
from tests.checks.run_promises import tried
from tests.helpers import riff


# Of the last three one has a shape of which a single note is left down, one an open string before the hand is
# anywhere, and one choices that cost the same to the last digits but two.
@pytest.mark.parametrize(
    "seed", [*range(9000, 9007), 13271, *range(1_000_000, 1_000_003), 1_020_066, 1_020_569, 1_030_017]
)
def test_the_promises_are_kept(seed: int) -> None:
    assert tried(seed).broken == []


def differing(plan: Plan, again: Callable[[Plan, int], Plan]) -> list[str]:
    """Choices whose price is not what the plan locked to them costs more."""
    found = []
    for step in range(len(plan.states)):
        for at, one in enumerate(plan.event_of_step(step).alternatives):
            rise = again(plan, step * 1000 + at).cost - plan.cost
            if rise != pytest.approx(one.price, abs=1e-9):
                found.append(f"step {step}: {one.words}, priced {one.price}, costs {rise}")
    return found


PRICED = (
    (
        "| G2/16 A2 E2.h B1 D2.l D#2 r r r C#2 |",
        {"instrument": "bass-6", "tempo": 80, "meter": "10/16", "gain": "clean"},
        {"school": "downstroke-first"},
    ),
    (
        "| 6:5/8 6:4 6:5 6:0 (6:4 5:5) 6:0 r |",
        {"tuning": "whole-step-down", "tempo": 40, "meter": "7/8", "swing": "2:1"},
        {"school": "economy", "hands": "large"},
    ),
    ("| C#4/16 E4!u F4 F4 D#4!d@1 |", {"tempo": 160, "meter": "5/16"}, {"school": "least-motion", "loop": True}),
    (
        "| 3:0/8 (4:2 3:2).z (6:0 5:0) 4:2 r 4:4 (4:0 3:0) (5:3 4:3 3:0) (6:0 5:2) |",
        {"tempo": 40, "meter": "9/8", "swing": "2:1"},
        {"school": "sweep"},
    ),
    # Ringing comes from the pitches, a planted finger from the pitch of the pull-off.
    ("| G3.l/8 G3.l E3.l C4.l A3.l G3.l |", {"meter": "6/8"}, {"school": "least-motion"}),
    ("| D3/8 C3.p D3 E3 D3.p C3.p |", {"meter": "6/8"}, {"school": "economy"}),
    # What is not picked can be decided too.
    ("| 5:5/8 5:7 4:5 3:7 3:5 4:7 |", {"meter": "6/8"}, {"school": "sparse"}),
    # One finger that the school does not have leaves the rest of it in force.
    (
        "| C#3!u/16 F3 r F3 r D#3!i@2 A#2!d A#2 F2 C2 |",
        {"instrument": "guitar-7", "tempo": 160, "meter": "10/16"},
        {"school": "hybrid"},
    ),
)


@pytest.mark.parametrize(("bars", "header", "asked"), PRICED, ids=[one[0][:24] for one in PRICED])
def test_a_price_is_what_the_plan_locked_to_it_costs(
    bars: str, header: dict[str, object], asked: dict[str, object]
) -> None:
    asked = dict(asked)
    school = str(asked.pop("school"))
    written = riff(bars, **header)
    plan = helpers.plan(written, school, alternatives=40, **asked)  # type: ignore[arg-type]

    def locked(plan: Plan, number: int) -> Plan:
        step, at = divmod(number, 1000)
        one = plan.event_of_step(step).alternatives[at]
        return helpers.plan(with_alternative(plan, step, one), school, **asked)  # type: ignore[arg-type]

    assert differing(plan, locked) == []


def reasons_of(plan: Plan) -> float:
    model = model_of(plan)
    return sum(reason_for(plan, step, model).cost for step in range(len(plan.states)))


@pytest.mark.parametrize(
    ("bars", "school"),
    [
        ("[A] | 5:1/8 6:0 6:0 5:4 6:3 6:2 6:1 6:3 6:4 6:1 6:3 5:0 | x3", "bass-two-finger"),
        ("| 6:3/8!d 6:5!d 5:3 5:5 r 6:3!u 6:0 6:3 6:1 6:0 6:3 6:5 |", "strict-alternate"),
    ],
)
@pytest.mark.parametrize("loop", [False, True])
def test_reasons_add_up_to_the_cost(bars: str, school: str, loop: bool) -> None:
    plan = helpers.plan(riff(bars, tempo=220, meter="12/8", tuning="drop"), school, loop=loop)
    assert reasons_of(plan) == pytest.approx(plan.cost, abs=1e-9)


def test_a_lock_against_the_school_is_the_exception_where_it_stands() -> None:
    free = helpers.plan(riff("| 6:0/8 6:3 6:5!d 6:3!d 6:0 6:3 6:5 6:3 |"), "strict-alternate")
    assert helpers.strokes(free)[2:4] == "dd"
    assert [step.exempt for step in free.task.steps] == [False] * 3 + [True] + [False] * 4
    # Locking what is played anyway changes nothing.
    more = helpers.plan(riff("| 6:0/8 6:3!u 6:5!d 6:3!d 6:0!u 6:3 6:5!u 6:3 |"), "strict-alternate")
    assert more.cost == pytest.approx(free.cost, abs=1e-12)
    assert more.states == free.states


def test_a_finger_that_the_school_does_not_have_lifts_no_other_rule() -> None:
    bars = "| C#3!u/16 F3 r F3 r D#3!i@2 A#2!d A#2 F2 C2 |"
    header: dict[str, object] = {"instrument": "guitar-7", "tempo": 160, "meter": "10/16"}
    plan = helpers.plan(riff(bars, **header), "hybrid", hands="small")
    stroke = {"down": "d", "up": "u"}.get(str(plan.states[-2].stroke), str(plan.states[-2].stroke))
    again = helpers.plan(riff(bars.replace("F2 C2", f"F2!{stroke} C2"), **header), "hybrid", hands="small")
    assert again.cost == pytest.approx(plan.cost, abs=1e-12)


def test_a_plan_within_limits_can_be_decided() -> None:
    text = "[A] | (4:3 3:1 2:1)/16 1:0 A#2 2:2 (4:2 3:1 2:1 1:1) | x3"
    written = riff(text, instrument="bass-4", tempo=40, meter="5/16")
    request = Request(hands_named("medium"), school_named("strict-alternate"), limits=Limits(low=0, high=13))
    plan = plan_riff(written, request)
    decided = decided_in_full(plan)
    assert len(decided.phrases) == 3
    again = plan_riff(decided, request)
    assert again.cost == pytest.approx(plan.cost, abs=1e-12)
    assert again.states == plan.states


def test_limits_that_leave_no_plan_are_refused_whatever_is_locked() -> None:
    written = riff("| 6:0!d/8 6:3!d 5:12 r |", meter="4/8")
    request = Request(hands_named("medium"), school_named("strict-alternate"), limits=Limits(low=0, high=9))
    with pytest.raises(NoPlanError, match=r"cannot be played between frets 0 and 9.*between frets 0 and 12"):
        plan_riff(written, request)
    assert plan_riff(written, replace(request, limits=Limits(low=0, high=12))).task.steps[1].exempt
