"""Drills taken out of a plan, and the ladder they are climbed by."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.demo.library import demo_riffs
from dromic.errors import NoPlanError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.hands.profile import hands_named
from dromic.music.riff import Mark, Place, Riff
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.practice.passages.excerpt import excerpt
from dromic.practice.session.advice import ladder_words
from dromic.practice.tempo.ladder import Range, ladder_for, place_words, range_ceiling, round_of
from dromic.schools.registry import school_named
from tests.helpers import plan, riff
from tests.strategies import short_lines

DEMOS = [
    plan_riff(demo.riff, Request(hands_named("medium"), school_named(demo.school), tempo=demo.riff.tempo))
    for demo in demo_riffs()
]


def same_hands(planned: Plan, chosen: Range, again: Plan) -> bool:
    wanted = planned.states[chosen.first : chosen.last + 1]
    return [(one.notes, one.stroke, one.position) for one in wanted] == [
        (one.notes, one.stroke, one.position) for one in again.states
    ]


@pytest.mark.parametrize("number", range(len(DEMOS)))
def test_a_drill_is_planned_as_the_riff_was(number: int) -> None:
    planned = DEMOS[number]
    for first in range(0, len(planned.states) - 6, 5):
        chosen = Range(first, first + 5)
        drill = excerpt(planned, chosen)
        assert read_riff_text(write_riff_text(drill)).riff == drill
        again = plan_riff(drill, Request(planned.hands, planned.school, tempo=planned.tempo))
        assert same_hands(planned, chosen, again)
        shift = planned.task.steps[first].moment.onset - again.task.steps[0].moment.onset
        for step in range(first, first + 6):
            here, there = planned.task.steps[step].moment, again.task.steps[step - first].moment
            assert (here.onset, here.beat) == (there.onset + shift, there.beat)


@given(short_lines(most=8), st.integers(0, 7), st.integers(0, 7))
@settings(max_examples=40, deadline=None)
def test_any_range_makes_a_riff_that_reads_back(made: Riff, one: int, other: int) -> None:
    try:
        planned = plan(made)
    except NoPlanError:
        return
    last = len(planned.states) - 1
    first, end = sorted((min(one, last), min(other, last)))
    drill = excerpt(planned, Range(first, end))
    assert read_riff_text(write_riff_text(drill)).riff == drill
    assert len(plan(drill).states) == end - first + 1


def test_a_drill_keeps_tuplets_pickups_metres_ties_and_chords() -> None:
    made = riff(
        "| 6:3/8 | 6:0/8t 6:1 6:3 5:0/4 5:2/2 | {3/4} (6:3 5:2)/4 5:3/4. 6:1/8 | 5:0/4 5:2/2 | 5:2.t/4 5:3/2 |",
        pickup="1/8",
    )
    planned = plan(made)
    drill = excerpt(planned, Range(2, 5))
    assert write_riff_text(drill).splitlines()[-1].startswith("| r/8t ")
    drill = excerpt(planned, Range(0, 1))
    assert drill.pickup == made.pickup
    drill = excerpt(planned, Range(4, 7))
    assert [str(bar.meter) for bar in drill.phrases[0].bars] == ["None", "3/4"]
    assert read_riff_text(write_riff_text(drill)).riff == drill
    tied = excerpt(planned, Range(9, 10))
    assert Mark.TIE in tied.phrases[0].bars[1].events[0].marks


def test_the_first_note_of_a_drill_needs_nothing_before_it() -> None:
    planned = plan(riff("| 5:5/8 5:7.h 5:5.p 4:7 r/2 |"))
    drill = excerpt(planned, Range(1, 3))
    first = next(event for event in drill.written_events() if event.notes)
    assert not first.marks
    assert first.notes[0].target == Place(5, 7)


def test_each_time_round_keeps_its_own_strokes() -> None:
    planned = plan(riff("meter: 3/8\n| 6:5/8 6:7 6:8 | x2"), "strict-alternate")
    rounds = [excerpt(planned, Range(first, first + 2)).written_events() for first in (0, 3)]
    strokes = [[str(event.locks.stroke) for event in events] for events in rounds]
    assert sorted(strokes) == [["down", "up", "down"], ["up", "down", "up"]]


def test_a_ladder_leads_to_the_target_and_the_ceiling_is_told_beside_it() -> None:
    planned = DEMOS[0]
    hardest = Range(0, len(planned.states) - 1)
    assert range_ceiling(planned, hardest) == pytest.approx(planned.ceiling)
    low, high = ladder_for(planned, hardest, 60.0), ladder_for(planned, hardest, 1000.0)
    assert (low.goal, high.goal) == (60, 1000)
    assert "ceiling" not in ladder_words(low)
    assert f"the plan's ceiling here is {planned.ceiling:.0f}" in ladder_words(high)
    for ladder in (low, high):
        assert ladder.start <= 0.7 * ladder.goal
        assert 0 < ladder.step < ladder.goal - ladder.start
    assert range_ceiling(planned, Range(3, 3)) is None


def test_a_round_lasts_whole_pairs_of_beats() -> None:
    planned = plan(riff("| 6:0/8 6:1 6:3 5:0 5:2 5:3 4:0 4:2 |"))
    assert round_of(planned, Range(1, 2)) == (Fraction(0), Fraction(2))
    assert round_of(planned, Range(2, 6)) == (Fraction(1), Fraction(5))
    assert place_words(planned, Range(1, 2)) == "bar 1 beat 1 & to bar 1 beat 2"
    assert place_words(planned, Range(2, 2)) == "bar 1 beat 2"
    compound = plan(replace(riff("| 6:0/8 6:1 6:3 5:0 5:2 5:3 |", meter="6/8")))
    assert round_of(compound, Range(1, 1)) == (Fraction(0), Fraction(3))
