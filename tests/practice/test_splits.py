"""One hand alone, chains and joins: what the kept hand does is what it does in the plan."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from hypothesis import assume, given, settings

from dromic.demo.library import demo_riffs
from dromic.errors import NoPlanError, RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.hands.profile import hands_named
from dromic.music.riff import Riff, Stroke
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.practice.passages.excerpt import excerpt
from dromic.practice.passages.splits import Split, chains, counts_by_string, fretting_alone, joins, picking_alone
from dromic.practice.tempo.ladder import Range
from dromic.schools.registry import school_named
from tests.helpers import plan, riff
from tests.strategies import small_material


def everything(made: Plan) -> Range:
    return Range(0, len(made.task.steps) - 1)


def picked(made: Plan) -> list[tuple[str, tuple[int, ...]]]:
    return [
        (str(event.stroke), tuple(note.string for note in event.notes))
        for event in made.events
        if event.step is not None and event.stroke is not Stroke.NONE
    ]


def again(small: Riff, school: str = "least-motion") -> Plan:
    """Planned from its own text, as a player's file would be."""
    text = write_riff_text(small)
    return plan_riff(read_riff_text(text).riff, Request(hands_named("medium"), school_named(school)))


@pytest.mark.parametrize("number", range(5))
def test_the_picking_hand_alone_makes_the_same_strokes_and_the_other_hand_has_no_load(number: int) -> None:
    demo = demo_riffs()[number]
    made = plan_riff(demo.riff, Request(hands_named("medium"), school_named(demo.school)))
    split = picking_alone(made, everything(made))
    alone = again(split.riff, demo.school)
    whole = plan_riff(excerpt(made, everything(made)), Request(hands_named("medium"), school_named(demo.school)))
    assert picked(alone) == picked(whole)
    assert all(event.loads.fret == 0.0 for event in alone.events)


def split_or_none(split: Callable[[Plan, Range], Split], made: Plan) -> Plan | None:
    """The plan of a split; None where nothing is left of the passage."""
    try:
        return again(split(made, everything(made)).riff)
    except RiffError:
        return None


@given(small_material(most=5))
@settings(max_examples=25)
def test_hands_alone_of_all_material(music: Riff) -> None:
    try:
        made = plan_riff(music, Request(hands_named("medium"), school_named("least-motion")))
    except NoPlanError:
        assume(False)
    picking, fretting = split_or_none(picking_alone, made), split_or_none(fretting_alone, made)
    if picking is not None:
        assert all(event.loads.fret == 0.0 for event in picking.events)
        assert all(not note.finger for event in picking.events for note in event.notes)
    if fretting is not None:
        assert all(event.loads.pick == 0.0 for event in fretting.events)
        assert all(event.stroke is Stroke.NONE for event in fretting.events)


def test_the_fretting_hand_alone_keeps_its_fingers() -> None:
    made = plan(riff("| 3:5@1/8 3:7@3 3:8@4 3:7@3 2:5@1 2:8@4 2:5@1 3:7@3 |"))
    split = fretting_alone(made, everything(made))
    alone = again(split.riff)
    assert [event.notes[0].finger for event in alone.events] == [event.notes[0].finger for event in made.events]
    assert "".join(str(event.legato) for event in alone.events[1:]) == "hhphhph"
    assert split.left_out == ()
    told = fretting_alone(plan(riff("| 3:5/8 3:5 4:0 (4:7 3:7) r/2 |")), Range(0, 3)).left_out
    assert len(told) == 3


def test_counts_a_string() -> None:
    made = plan(riff("| 6:5/16 6:7 6:8 5:5 5:7 5:8 4:5 4:7 4:8 4:7 4:5 5:8 5:7 5:5 r/8 |"))
    assert counts_by_string(picking_alone(made, everything(made)).riff) == ((6, 3), (5, 3), (4, 5), (5, 3))


def test_a_passage_of_which_nothing_is_left() -> None:
    slurred = plan(riff("| 1:12.T/8 1:8.p 1:5.p 1:8.h 1:12.T 1:8.p 1:5.p 1:8.h |"))
    with pytest.raises(RiffError, match="nothing is picked"):
        picking_alone(slurred, everything(slurred))
    struck = plan(riff("| (4:7 3:7)/4 (4:5 3:5) r/2 |"))
    with pytest.raises(RiffError, match="without a stroke"):
        fretting_alone(struck, everything(struck))
    with pytest.raises(RiffError, match="two notes or more"):
        chains(Range(3, 3))


def test_joins_are_where_phrases_and_rounds_meet() -> None:
    made = plan(riff("[A] | 6:0/4 6:1 6:2 6:3 | x2 [B] | 6:5/4 6:4 6:3 6:2 |"))
    assert joins(made) == (Range(3, 4), Range(7, 8))
    assert joins(plan(riff("| 6:0/4 6:1 6:2 6:3 |"))) == ()
