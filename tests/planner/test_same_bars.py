"""Bars that come back are rather played alike; where they are not, the program can say why."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dromic.hands.profile import hands_named
from dromic.instrument.presets import instrument_for
from dromic.music.riff import Riff
from dromic.planner.locking import with_alternative
from dromic.planner.plan import Plan
from dromic.planner.request import Request
from dromic.planner.same_again import played_otherwise
from dromic.planner.task.same_bars import same_bars
from dromic.schools.registry import school_named
from tests import helpers

TURNED = "| A2/8 D3 F3 G3 | E3/8 B2 C3 A2 | A2/8 D3 F3 G3 | F4/8 A4 A4 F4 |"
HEADER = {"tempo": 120, "meter": "4/8", "style": "rock"}
FORGETFUL = replace(
    hands_named("medium"), comfort=replace(hands_named("medium").comfort, otherwise=0.0, other_stroke=0.0)
)


def bars_of(plan: Plan, length: int = 4) -> list[str]:
    words = helpers.places(plan).split()
    return [" ".join(words[at : at + length]) for at in range(0, len(words), length)]


def request(school: str = "pulse-alternate") -> Request:
    return Request(hands_named("medium"), school_named(school))


def test_a_bar_that_comes_back_is_played_as_before() -> None:
    riff = helpers.riff(TURNED, **HEADER)
    apart, tied = (
        bars_of(helpers.plan(riff, "pulse-alternate", hands=hands)) for hands in (FORGETFUL, hands_named("medium"))
    )
    assert apart[0] != apart[2]
    assert tied[0] == tied[2]


def test_of_all_ways_to_play_it_alike_the_cheapest_is_taken() -> None:
    riff = helpers.riff(TURNED, **HEADER)
    plan = helpers.plan(riff, "pulse-alternate")
    usual = [step.usual for step in plan.task.steps]
    assert usual[:4] == usual[8:12] != [None] * 4
    assert usual[4:8] == usual[12:] == [None] * 4
    apart = helpers.plan(riff, "pulse-alternate", hands=FORGETFUL)
    # Played alike in whichever way, it costs at least as much as where nothing is asked.
    assert plan.cost >= apart.cost


def test_what_is_locked_changes_neither_the_other_bars_nor_what_is_usual() -> None:
    riff = helpers.riff(TURNED, **HEADER)
    plan = helpers.plan(riff, "pulse-alternate", alternatives=6)
    for one in plan.event_of_step(9).alternatives:
        locked = helpers.plan(with_alternative(plan, 9, one), "pulse-alternate")
        assert locked.cost - plan.cost == pytest.approx(one.price, abs=1e-9)
        assert [step.usual for step in locked.task.steps] == [step.usual for step in plan.task.steps]


@pytest.mark.parametrize(
    ("bars", "groups"),
    [
        ("| 5:5/8 5:7 4:5 4:7 | D3 E3 G3 A3 |", 1),
        ("| D3/8 E3 G3 A3 | D3 E3 G3 A3.h |", 0),
        ("| D3/8 E3 G3/4 | D3/8 E3 G3 A3 |", 0),
        ("| D3/8 E3 G3 A3 | x3", 1),
    ],
)
def test_bars_are_the_same_by_their_music(bars: str, groups: int) -> None:
    riff = helpers.riff(bars, meter="4/8")
    steps = helpers.plan(riff).task.steps
    assert len(same_bars(steps, instrument_for(riff))) == groups


def odd_bars() -> Riff:
    return helpers.riff("| 5:5/8 5:7 4:5 4:7 3:5 | 5:5/8 5:7 4:5 4:7 3:5 |", meter="5/8", tempo=120)


def test_what_is_played_otherwise_is_told_with_its_price() -> None:
    plan = helpers.plan(odd_bars(), "strict-alternate")
    assert helpers.strokes(plan) == "dududududu"
    (one,) = played_otherwise(plan, request("strict-alternate"))
    assert one.step == 5
    assert one.words == "Bar 2 is bar 1 again; 5:5 at bar 2 beat 1 is played up, before down."
    assert one.price is not None
    assert one.price > 0
    assert "going against the school" in one.why


def test_nothing_is_told_where_all_is_played_alike() -> None:
    plan = helpers.plan(odd_bars(), "downstroke-first")
    assert list(played_otherwise(plan, request("downstroke-first"))) == []


def test_a_note_that_is_locked_otherwise_is_told_as_locked() -> None:
    plan = helpers.plan(helpers.riff("| 5:5@1/8 5:5@3 5:5 5:5 |", meter="4/8"), "pulse-alternate")
    found = list(played_otherwise(plan, request()))
    assert [one.step for one in found] == [1]
    assert found[0].why == "it is locked as it is"
    assert (found[0].now, found[0].before) == ("5:5 with finger 3", "5:5 with finger 1")
