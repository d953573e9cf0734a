"""Every way of taking a passage apart: playable, from the plan, and the hand that is kept does what it did."""

from __future__ import annotations

from collections import Counter
from itertools import groupby

import pytest
from hypothesis import assume, given, settings

from dromic.demo.library import demo_riffs
from dromic.errors import NoPlanError, RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.hands.profile import hands_named
from dromic.music.riff import Mark, Place, Riff, Stroke
from dromic.planner.plan import Plan
from dromic.planner.planning import best_plans_of, plan_riff
from dromic.planner.request import Request
from dromic.practice.passages.density import DENSITIES, cells, denser, with_density
from dromic.practice.passages.drill import Drill, Focus
from dromic.practice.passages.excerpt import excerpt, request_like
from dromic.practice.passages.finger_drills import PAIRS, chord_changes, damper_words, finger_pairs
from dromic.practice.passages.pieces import chain, in_turn, joined, seam, string_pair
from dromic.practice.passages.string_areas import string_areas
from dromic.practice.passages.take_apart import chain_drill, hardest_step, take_apart
from dromic.practice.tempo.ladder import Range, around
from dromic.schools.registry import school_named
from tests.helpers import plan, riff
from tests.strategies import small_material


def everything(made: Plan) -> Range:
    return Range(0, len(made.task.steps) - 1)


def again(small: Riff, like: Plan) -> Plan:
    """Planned from its own text, as a player's file would be."""
    return plan_riff(read_riff_text(write_riff_text(small)).riff, request_like(like))


def shapes(made: Plan) -> list[tuple[object, ...]]:
    """What both hands do at every note, wherever on the strings it is."""
    first = made.states[0].string
    return [
        (tuple((string - first, fret, finger) for string, fret, finger in state.notes), state.stroke, state.sounded)
        for state in made.states
    ]


@pytest.mark.parametrize("number", range(5))
def test_every_way_of_every_demo_riff_is_played_from_its_own_text(number: int) -> None:
    demo = demo_riffs()[number]
    made = plan_riff(demo.riff, Request(hands_named("medium"), school_named(demo.school)))
    chosen = around(made, hardest_step(made, everything(made)))
    parts = take_apart(made, chosen)
    assert {"spot", "picking", "pair", "chain", "fretting"} <= {drill.kind for drill in parts.drills}
    assert len(parts.drills) > 20
    for drill in parts.drills:
        small = again(drill.riff, made)
        assert small.states
        assert drill.riff.section == "drill"
        assert drill.why.endswith(".")
        assert drill.criterion.startswith("Clean is:")
        if drill.focus is Focus.FRETTING:
            assert all(event.loads.pick == 0.0 for event in small.events)
        if drill.focus is Focus.PICKING:
            assert all(event.loads.fret == 0.0 for event in small.events)
    refused = dict(parts.refused)
    assert all(words and not words.endswith(".") for words in refused.values())


@given(small_material(most=6))
@settings(max_examples=20)
def test_every_way_of_all_material_is_played_from_its_own_text(music: Riff) -> None:
    try:
        made = plan_riff(music, Request(hands_named("medium"), school_named("least-motion")))
    except NoPlanError:
        assume(False)
    for drill in take_apart(made, everything(made)).drills:
        assert read_riff_text(write_riff_text(drill.riff)).riff.written_events()
        assert drill.keys == tuple(dict.fromkeys(drill.keys))


FIGURE = "| 5:5@1/16 5:7@3 4:5@1 4:7@3 5:5@1/8 5:7@3 r/2 |"


def test_fewer_string_changes_keep_places_and_fingers() -> None:
    made = plan(riff(FIGURE), "strict-alternate")
    small = excerpt(made, everything(made))
    groups = cells(small.written_events())
    assert [[event.notes[0].target for event in cell if event.notes] for cell in groups] == [
        [Place(5, 5), Place(5, 7)],
        [Place(4, 5), Place(4, 7)],
        [Place(5, 5), Place(5, 7)],
    ]
    for density in DENSITIES[:-1]:
        dense = again(with_density(small, density), made)
        runs = [(string, len(list(some))) for string, some in groupby(state.string for state in dense.states)]
        assert runs == [(5, 2 * density), (4, 2 * density), (5, 2 * density)]
        assert Counter(state.notes for state in dense.states) == {
            notes: count * density for notes, count in Counter(state.notes for state in made.states).items()
        }
    assert with_density(small, 1) is small
    assert [denser(one) for one in DENSITIES] == [4, 2, 1, None]


def test_a_slur_into_a_cell_is_made_once_only() -> None:
    made = plan(riff("| 4:5@1/8 4:7.h@3 3:5@1 3:7.h@3 r/2 |"), "strict-alternate")
    marks = [Mark.HAMMER in event.marks for event in with_density(excerpt(made, Range(0, 3)), 2).written_events()]
    assert marks[:8] == [False, True] * 4


@pytest.mark.parametrize(
    ("bars", "density", "words"),
    [
        ("| 5:5/8 5:7 5:8 5:7 r/2 |", 2, "stays on one string"),
        ("| 5:5/8 5:7 4:5 4:7 r/2 |", 3, "expected one of 8, 4, 2, 1"),
        ("| 5:5/16 4:7 5:5 4:7 5:5 4:7 5:5 4:7 5:5 4:7 5:5 4:7 5:5 4:7 5:5 4:7 |" * 4, 8, "more than 400 notes"),
    ],
)
def test_densities_that_cannot_be(bars: str, density: int, words: str) -> None:
    made = plan(riff(bars.replace("| |", "|").replace("||", "|")))
    with pytest.raises(RiffError, match=words):
        with_density(excerpt(made, everything(made)), density)


def test_a_pair_of_strings_is_what_stays_on_it() -> None:
    made = plan(riff("| 6:5/8 5:5 5:7 4:5 4:7 5:7 5:5 3:5 |"))
    assert string_pair(made, 3) == Range(1, 6)
    with pytest.raises(RiffError, match="nothing changes strings"):
        string_pair(made, 2)
    chords = plan(riff("| 6:5/4 (5:7 4:7) 6:5/2 |"))
    with pytest.raises(RiffError, match="a chord covers more"):
        string_pair(chords, 1)


def test_a_chain_grows_by_a_note_each_time() -> None:
    made = plan(riff("| 5:5/8 5:7 4:5 4:7 r/2 |"))
    for backward in (False, True):
        whole = chain(made, Range(0, 3), backward=backward)
        assert [phrase.name for phrase in whole.phrases] == ["2 notes", "3 notes", "4 notes"]
        grown = again(whole, made)
        assert len(grown.states) == 9
        assert [(one.notes, one.stroke) for one in grown.states[-4:]] == [
            (one.notes, one.stroke) for one in made.states
        ]
    long = plan(riff("| 5:5/16 5:7 5:5 5:7 5:5 5:7 5:5 5:7 5:5 5:7 5:5 5:7 5:5 5:7 5:5 5:7 | 5:5 5:7 r/8 r/2. |"))
    assert chain_drill(long, everything(long)).chosen == Range(2, 17)


def test_pieces_with_a_pickup_and_other_metres_are_joined() -> None:
    made = plan(riff("| 5:5/4 | 5:7/4 5:8 5:7 5:5 | {3/4} 4:5/4 4:7 4:5 |", pickup="1/4"))
    pieces = [(excerpt(made, one), f"{number}") for number, one in enumerate((Range(0, 1), Range(3, 6)))]
    whole = again(joined(pieces), made)
    assert [state.notes for state in whole.states] == [made.states[at].notes for at in (0, 1, 3, 4, 5, 6)]


def test_the_seam_goes_from_the_last_beat_to_the_first() -> None:
    made = plan(riff("| 5:5@1/8 5:7@3 4:5@1 4:7@3 3:5@1 3:7@3 4:7@3 4:5@1 |"), "strict-alternate")
    (drill,) = (one for one in take_apart(made, Range(6, 7)).drills if one.name == "The seam")
    assert [phrase.name for phrase in drill.riff.phrases] == ["end", "start"]
    played = again(drill.riff, made)
    assert [one.notes for one in played.states] == [made.states[at].notes for at in (6, 7, 0, 1)]
    assert drill.keys[-1] == "ud-1.11+0.0@1/2"
    assert "The seam" in dict(take_apart(made, Range(2, 4)).refused)
    with pytest.raises(RiffError, match="no seam"):
        seam(plan(riff("| 5:5/1 |")))


def test_two_plans_in_turn() -> None:
    asked = Request(hands_named("medium"), school_named("least-motion"))
    one, other = best_plans_of(riff("| 5:5/8 5:7 4:5 4:7 r/2 |"), asked, 2)
    both = again(in_turn(one, other, Range(0, 3)), one)
    assert [(state.notes, state.stroke) for state in both.states] == [
        (state.notes, state.stroke) for state in (*one.states, *other.states)
    ]
    with pytest.raises(RiffError, match="both plans play these notes the same way"):
        in_turn(one, one, Range(0, 3))
    with pytest.raises(RiffError, match="two different riffs"):
        in_turn(one, plan(riff("| 5:5/8 5:7 r/2. |")), Range(0, 1))
    turns = take_apart(one, Range(0, 3), other).drills[-1]
    assert (turns.name, [phrase.name for phrase in turns.riff.phrases]) == ("Two plans in turn", ["A", "B"])


def test_a_figure_on_other_strings_is_the_same_movement() -> None:
    made = plan(riff("| 4:5@1/8 4:7@3 3:5@1 3:7@3 r/2 |"), "strict-alternate")
    areas = string_areas(made, Range(0, 3))
    assert [area for area, _ in areas] == ["low strings", "middle strings", "high strings"]
    moved = [again(small, made) for _, small in areas]
    assert [one.states[0].string for one in moved] == [6, 4, 2]
    assert all(shapes(one) == shapes(made) for one in moved)
    wide = plan(riff("| 6:5/4 1:5 6:5 1:5 |"))
    with pytest.raises(RiffError, match="needs all strings"):
        string_areas(wide, Range(0, 3))


def test_the_palm_down_and_up_leave_the_strokes_alone() -> None:
    made = plan(riff("| 6:0.m/8 6:3 6:0.m 6:3.l r/2 |"))
    down, up = (drill for drill in take_apart(made, Range(0, 3)).drills if drill.name.startswith("Palm"))
    for drill, muted in ((down, True), (up, False)):
        played = again(drill.riff, made)
        assert [state.stroke for state in played.states] == [state.stroke for state in made.states]
        marks = [event.moment.event.marks for event in played.events if event.step is not None]
        assert all((Mark.PALM_MUTE in one) is muted for one in marks)


def test_finger_pairs_come_from_the_plan() -> None:
    made = plan(riff("| 3:5@1/16 3:8@4 3:5@1 3:8@4 3:5@1 3:7@3 3:5@1 3:7@3 r/2 |"))
    pairs = finger_pairs(made)
    assert {(one.lead, one.other) for one in pairs} == set(PAIRS)
    assert len(PAIRS) == 12
    loaded = [(one.lead, one.other) for one in pairs if one.count]
    assert set(loaded) == {(1, 4), (4, 1), (1, 3), (3, 1)}
    assert [one.load for one in pairs] == sorted((one.load for one in pairs), reverse=True)
    played = again(pairs[0].riff, made)
    assert {state.finger for state in played.states} == {pairs[0].lead, pairs[0].other}
    assert {state.position for state in played.states} == {5}


def test_chords_are_changed_in_silence_and_the_ways_are_measured() -> None:
    """Fret distances by the rule of the twelfth root of two, 648 mm; strings as the instrument says."""
    made = plan(riff("| (5:3@3 4:2@2 2:1@1)/2 (5:3@3 4:2@2 2:3@4) | (6:3@3 5:2@2 1:3@4)/1 |"))
    first = chord_changes(made)
    assert [change.chosen for change in first] == [Range(1, 2), Range(0, 1)]
    stays = dict(first[1].travel_mm)
    assert stays == {2: 0.0, 3: 0.0}
    ways = dict(first[0].travel_mm)
    across = made.instrument.neck_y
    assert ways[3] == pytest.approx(float(across[1] - across[0]), abs=1e-9)
    silent = again(first[0].riff, made)
    assert all(event.stroke is Stroke.NONE for event in silent.events)
    assert all(event.loads.pick == 0.0 for event in silent.events)
    assert "finger 3 goes" in first[0].words


@pytest.mark.parametrize(
    ("bars", "words"),
    [
        ("| 3:7/4 3:9 r/2 |", "at fret 5"),
        ("| 3:1/4 3:3 r/2 |", "no room"),
        ("| 3:0/4 3:2 r/2 |", "open strings are in it"),
    ],
)
def test_where_the_damper_lies(bars: str, words: str) -> None:
    made = plan(riff(bars))
    assert words in damper_words(made, everything(made))
    with pytest.raises(RiffError, match="nothing is fretted"):
        damper_words(plan(riff("| 3:0/4 2:0 r/2 |")), Range(0, 1))


def test_a_drill_says_where_it_is_and_what_moves() -> None:
    made = plan(riff("| 3:5@1/8 3:7@3 2:5@1 2:7@3 r/2 |"), "strict-alternate")
    picking, *_ = (drill for drill in take_apart(made, Range(0, 3)).drills if drill.focus is Focus.PICKING)
    assert picking.keys == ("du+0..@1/2", "ud+1..@1/2")
    assert picking.remarks == ("Strokes a string: 2 · 2.",)
    assert picking.where == "bar 1 beat 1 to bar 1 beat 2 &"
    both: Drill = take_apart(made, Range(0, 3)).drills[0]
    assert [key.partition("@")[0] for key in both.keys] == ["du+0.13+2.0", "ud+1.31-2.0"]
