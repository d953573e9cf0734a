"""What players write beyond plain notes, and the camps they belong to."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from dromic.errors import NoPlanError
from dromic.hands.constants import (
    HandRest,
    LettingGo,
    LittleFinger,
    LowFrets,
    OpenStrings,
    RestStrokes,
    SameFret,
    Shifting,
)
from dromic.hands.profile import Hands, hands_named
from dromic.music.riff import Stroke
from dromic.planner.plan import Plan, StrokeKind
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.planner.told.reasons import Reason, reason_for
from dromic.schools.registry import school_named
from tests.helpers import fingers, line, not_none, plan, riff, strokes


def terms(reason: Reason, hand: str) -> dict[str, float]:
    return {term.words: term.amount for one in reason.hands if one.kind == hand for term in one.terms}


def picking(**options: Any) -> Hands:
    hands = hands_named("medium")
    return replace(hands, picking=replace(hands.picking, **options))


def fretting(**options: Any) -> Hands:
    hands = hands_named("medium")
    return replace(hands, fretting=replace(hands.fretting, **options))


def held(planned: Plan) -> list[list[tuple[int, int]]]:
    return [[(note.string, note.fret) for note in event.held] for event in planned.events]


def test_a_rake_drags_the_pick_across_the_strings_before_its_note() -> None:
    plain, raked = plan(line("6:3 1:7!d", "4")), plan(line("6:3 1:7.k!d", "4"))
    assert terms(reason_for(raked, 1), "pick")["raked across two strings"] == pytest.approx(28.0)
    assert raked.events[1].loads.pick != plain.events[1].loads.pick
    up = reason_for(plan(line("1:3 6:7.k!u", "4")), 1)
    assert "raked across two strings" in terms(up, "pick")


def test_a_rake_has_to_have_strings_before_it() -> None:
    with pytest.raises(NoPlanError, match="down there is no string to drag the pick across"):
        plan(line("1:7 6:3.k!d", "4"))
    assert strokes(plan(line("6:3.k 1:7.k 6:3.k", "4"))) == "udu"


def test_notes_that_ring_are_held_by_one_shape() -> None:
    planned = plan(riff("| 5:3.l/8 4:2.l 3:0.l 2:1.l 3:0.l 4:2.l 3:0.l 2:1.l |"))
    assert held(planned)[3] == [(5, 3), (4, 2), (3, 0)]
    assert fingers(planned) == "3 2 0 1 0 2 0 1"
    assert not planned.warnings


def test_what_no_hand_can_hold_at_once_is_held_in_two_shapes() -> None:
    planned = plan(riff("| 6:1.l/4 5:1.l 1:14.l 2:15.l |"))
    assert [(span.first, span.last) for span in planned.spans] == [(0, 1), (2, 3)]
    assert held(planned) == [[], [(6, 1)], [], [(1, 14)]]


def test_a_bend_is_held_while_another_string_sounds() -> None:
    planned = plan(riff("| 3:7.b2/8 2:5 1:5 3:7.r r/2 |"))
    assert held(planned)[:4] == [[], [(3, 7)], [(3, 7)], []]
    assert fingers(planned).split()[0] == fingers(planned).split()[3] == "3"
    with pytest.raises(NoPlanError, match="no hand can play this and hold the bend of 3:7"):
        plan(riff("| 3:7.b2/4 2:17 3:7.r r |"))
    with pytest.raises(NoPlanError, match="a release has no bend before it on its string"):
        plan(riff("| 3:7/4 2:5 3:7.r r |"))


def test_vibrato_wants_a_strong_finger_and_no_open_string() -> None:
    assert fingers(plan(line("2:8.v 2:8.v", "4"))) == "3 3" or fingers(plan(line("2:8.v", "4"))) in "23"
    with pytest.raises(NoPlanError, match="an open string cannot have vibrato"):
        plan(line("1:0.v", "4"))


def test_an_accent_bounces_the_palm_off_the_strings() -> None:
    """A palm-muted accent leaves the palm in the air: it has to come down for the next muted note."""
    plain = plan(line("6:0.m!d 6:0.m!u"))
    bounced = plan(line("6:0.m>!d 6:0.m!u"))
    assert terms(reason_for(bounced, 1), "pick")["palm"] == 15.0
    assert "palm" not in terms(reason_for(plain, 1), "pick")


def test_the_first_stroke_may_be_fixed() -> None:
    made = line("6:5 6:7 5:5 5:7")
    for stroke, wanted in ((Stroke.DOWN, "dudu"), (Stroke.UP, "udud")):
        assert strokes(plan(made, "strict-alternate", first_stroke=stroke)) == wanted
    with pytest.raises(NoPlanError, match="locked to down, but the first stroke is wanted to be up"):
        plan(line("6:5!d 6:7"), "strict-alternate", first_stroke=Stroke.UP)


def test_rest_stroke_camps() -> None:
    made = line("6:3!d 5:5!d 4:5!u 4:7!d", "8", tempo=120)
    kinds = {}
    for camp in RestStrokes:
        planned = plan(made, hands=picking(rest_strokes=camp, turns=False))
        kinds[camp] = [event.stroke_kind for event in planned.events]
    assert kinds[RestStrokes.NEVER] == ["free"] * 4
    assert kinds[RestStrokes.LONG][0] == "rest"
    assert kinds[RestStrokes.WHENEVER].count(StrokeKind.REST) > kinds[RestStrokes.LONG].count(StrokeKind.REST)
    never = plan(made, hands=picking(rest_strokes=RestStrokes.NEVER, turns=False))
    assert "a sweep without resting" in terms(reason_for(never, 1), "pick")


def test_an_anchored_hand_lets_go_for_a_wide_jump() -> None:
    made = line("6:3 1:3", "8")
    floating, anchored = plan(made), plan(made, hands=picking(hand_rest=HandRest.ANCHORED))
    assert not_none(anchored.ceiling) < not_none(floating.ceiling)
    assert terms(reason_for(anchored, 1), "pick")["the hand moves for a wide jump"] == 25.0


def test_one_fret_on_two_strings_by_camp() -> None:
    made = line("4:7 3:7 4:7 3:7", "8", tempo=100)
    rolled = plan(made, hands=fretting(same_fret=SameFret.ROLL))
    separate = plan(made, hands=fretting(same_fret=SameFret.SEPARATE))
    assert len(set(fingers(rolled).split())) == 1
    assert len(set(fingers(separate).split())) == 2


def test_low_frets_by_camp() -> None:
    made = line("4:1 4:2 4:3 3:1", "8")
    assert "3" in fingers(plan(made))
    assert "3" not in fingers(plan(made, hands=fretting(low_frets=LowFrets.ONE_TWO_FOUR)))


def test_the_little_finger_may_be_avoided() -> None:
    made = line("4:5 4:6 4:7 4:8", "8", tempo=100)
    assert "4" in fingers(plan(made))
    assert "4" not in fingers(plan(made, hands=fretting(little_finger=LittleFinger.AVOIDED)))


def test_letting_go_by_camp() -> None:
    made = line("4:5@1!d 3:7@3 4:5@1", "8")
    lifted = plan(made, hands=fretting(letting_go=LettingGo.LIFT))
    assert terms(reason_for(lifted, 1), "fret")["lifting exactly then"] == 4.0
    jump = line("4:5@1!d 3:8@1", "8")
    holding = plan(jump, hands=fretting(letting_go=LettingGo.HOLD))
    assert holding.events[1].loads.fret >= plan(jump).events[1].loads.fret


def test_an_odd_count_begins_the_next_string_against_the_beat() -> None:
    planned = plan(line("6:5!d 6:7!u 6:8!d 5:5!u", tempo=100, meter="1/4"), "strict-alternate")
    assert "a string begun against the beat" not in terms(reason_for(planned, 3), "pick")
    inverted = plan(line("6:5!u 6:7!d 6:8!u 5:5!d", tempo=100, meter="1/4"), "strict-alternate")
    assert terms(reason_for(inverted, 3), "pick")["a string begun against the beat"] == 3.0


@pytest.mark.parametrize(
    ("text", "school", "says"),
    [
        ("| 5:3!t/1 |", "hybrid", "a single note is plucked by one finger"),
        ("| (5:3 4:5 3:5 2:5 1:3)!t/1 |", "hybrid", "4 strings are all that can be plucked together"),
        ("| 5:3!t/1 |", "economy", "a single note is plucked by one finger"),
        ("| (5:3 4:5)!m/1 |", "hybrid", "one finger does not pluck several strings"),
        ("| (5:3 4:5).k!t/1 |", "hybrid", "a rake is dragged by one stroke"),
    ],
)
def test_what_fingers_cannot_pluck_together(text: str, school: str, says: str) -> None:
    with pytest.raises(NoPlanError, match=says):
        plan(riff(text), school)


def test_bass_fingers_pluck_a_double_stop_together() -> None:
    planned = plan(riff("| (4:5 2:7)/2 (4:3 2:5) |", instrument="bass-4"), "bass-two-finger")
    assert {event.strokes for event in planned.events} == {(Stroke.INDEX, Stroke.MIDDLE)}


def test_a_wish_for_a_stroke_leaves_the_request_as_it_was() -> None:
    request = Request(hands_named("medium"), school_named("economy"), first_stroke=Stroke.UP)
    planned = plan_riff(line("6:5 6:7"), request)
    assert strokes(planned) == "ud"
    assert request.first_stroke is Stroke.UP


def test_open_strings_as_the_player_has_them() -> None:
    made = riff("| B3/8 C4 D4 E4 F#4 G4 E4 B3 |", tempo=120, style="bluegrass")
    opens = [
        sum(
            note.fret == 0
            for event in plan(made, hands=fretting(open_strings=answer)).events
            for note in event.notes
        )
        for answer in (OpenStrings.BY_STYLE, OpenStrings.AVOIDED)
    ]
    assert opens[0] >= 2
    assert opens[1] == 0


def test_a_player_who_seldom_shifts() -> None:
    made = riff("| A3/8 B3 C4 D4 E4 F4 G4 A4 | B4 C5 B4 A4 G4 F4 E4 D4 |", tempo=100, style="rock")
    shifts = [
        plan(made, "strict-alternate", hands=fretting(shifting=answer)).totals["shifts"]
        for answer in (Shifting.SELDOM, Shifting.FREELY)
    ]
    assert shifts[0] <= shifts[1]
