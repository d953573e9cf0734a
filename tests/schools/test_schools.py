from __future__ import annotations

import pytest

from dromic.errors import RiffError
from dromic.hands.profile import hands_named
from dromic.music.grid import GridPlace
from dromic.music.riff import Stroke
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import DEFAULT_SCHOOL, SCHOOLS, school_named
from dromic.schools.school import (
    NOTHING_TO_SAY,
    NotShownError,
    School,
    StrokeContext,
    StrokePair,
    Verdict,
)
from tests.helpers import line, not_none, plan, riff, strokes

D, U = Stroke.DOWN, Stroke.UP


def test_all_schools_are_found() -> None:
    assert set(SCHOOLS) >= {
        "bass-two-finger", "cross-picking", "downstroke-first", "economy", "hybrid", "jig", "least-motion",
        "new-string-down", "pulse-alternate", "sparse", "strict-alternate", "sweep",
    }  # fmt: skip
    assert DEFAULT_SCHOOL in SCHOOLS
    for name, school in SCHOOLS.items():
        assert school.name == name
        assert school.words.endswith(".")
    with pytest.raises(RiffError, match="school: found 'none', expected one of bass-two-finger"):
        school_named("none")


@pytest.mark.parametrize(
    ("before", "after", "travel", "strict", "economy"),
    [
        (D, U, 0, True, True),
        (D, D, 0, False, False),
        (D, D, 1, False, True),
        (D, U, 1, True, False),
        (U, U, -1, False, True),
        (U, D, 2, True, True),
        (D, U, -3, True, True),
    ],
)
def test_what_may_follow(before: Stroke, after: Stroke, travel: int, strict: bool, economy: bool) -> None:
    pair = StrokePair(before, after, travel)
    assert school_named("strict-alternate").on_pair(pair).allowed is strict
    verdict = school_named("economy").on_pair(pair)
    assert (verdict.allowed and verdict.effort < 0.1) is economy
    assert school_named("least-motion").on_pair(pair).allowed
    assert school_named("pulse-alternate").on_pair(pair).allowed


@pytest.mark.parametrize(("part", "wanted"), [(0, D), (1, U), (2, D), (3, U)])
def test_the_pulse(part: int, wanted: Stroke) -> None:
    school = school_named("pulse-alternate")
    assert school.on_stroke(StrokeContext(wanted, GridPlace(part, 4))).allowed
    assert not school.on_stroke(StrokeContext(U if wanted is D else D, GridPlace(part, 4))).allowed
    assert school.on_stroke(StrokeContext(wanted, GridPlace(part, 4))).reason


def test_strict_alternate_flips_over_legato_and_rests() -> None:
    assert strokes(plan(line("6:5!d 6:7.h 6:5 5:5 6:5"), "strict-alternate")) == "d-udu"
    assert strokes(plan(riff("| 6:5!d/4 r 6:5 6:5 |"), "strict-alternate")) == "dud"


def test_the_pulse_swings_on_through_rests_long_notes_and_legato() -> None:
    assert strokes(plan(riff("| 6:0/4 6:0/8 6:0 r 6:0 6:5/16 6:7.h 6:0 6:0 |"), "pulse-alternate")) == "ddddd-du"


def test_downstroke_first_takes_an_up_only_where_a_down_is_too_slow() -> None:
    made = riff("| 6:0/8 6:0/16 6:0 6:0/8 6:0 6:0/8 6:0/16 6:0 6:0/8 6:0 |", tempo=140)
    assert strokes(plan(made, "downstroke-first")) == "dduddddudd"
    assert strokes(plan(line("6:0 6:0 6:0 6:0", "8", tempo=140), "downstroke-first")) == "dddd"
    assert strokes(plan(line("6:0!d 6:0 6:0 6:0", tempo=140), "downstroke-first")) == "dudu"


@pytest.mark.parametrize("string", [5, 3, 1])
def test_jigs_are_down_up_down(string: int) -> None:
    made = riff(f"| {string}:0/8 {string}:2 {string}:3 {string}:2/4 {string}:0/8 |", meter="6/8", tempo=180)
    assert strokes(plan(made, "jig")) == "duddd"
    assert strokes(plan(line("1:0 1:2 1:0 1:2", "8", meter="2/4"), "jig")) == "dudu"


def test_a_new_string_starts_down() -> None:
    found = strokes(plan(line("3:5!d 3:7 2:5 2:8 2:5 1:5 1:8", tempo=120), "new-string-down"))
    assert found == "dududdu"


@pytest.mark.parametrize(("tempo", "fret"), [(80, 12), (110, 14), (140, 10)])
def test_sweeps_go_on_in_one_direction(tempo: int, fret: int) -> None:
    notes = f"4:{fret} 3:{fret} 2:{fret} 1:{fret} 1:{fret + 3} 2:{fret} 3:{fret} 4:{fret}"
    assert strokes(plan(line(notes, tempo=tempo), "sweep")) in ("dddduuuu", "ddd" + "d" + "uuuu")


def test_cross_picking_chooses_the_cycle_that_serves_best() -> None:
    planned = plan(line("4:2 3:0 2:1 4:2 3:0 2:1", "8", meter="6/8", tempo=200), "cross-picking")
    assert planned.school.name == "cross-picking"
    assert planned.rules in planned.school.variants
    assert strokes(planned) in ("dduddu", "ddduuu", "dududu")


def test_hybrid_gives_thin_strings_to_the_fingers() -> None:
    planned = plan(line("5:3 3:5 2:5 1:3 5:3 1:3", "8", tempo=170), "hybrid")
    kinds = [str(event.stroke) for event in planned.events]
    assert kinds[0] in ("down", "up")
    assert kinds[1:3] == ["m", "a"]
    assert kinds[3] in ("a", "c")
    assert kinds[5] in ("a", "c", "m")
    with_pick = plan(line("5:3 3:5 2:5 1:3 5:3 1:3", "8", tempo=170), "strict-alternate")
    assert not_none(planned.ceiling) > not_none(with_pick.ceiling)


def test_hybrid_plucks_chords_with_fingers_together_or_strikes_them() -> None:
    made = riff("| 5:3/8 (3:5 2:5) 5:3 (3:5 2:5) (2:5 1:5)/4 5:3 |", tempo=160)
    planned = plan(made, "hybrid")
    for event in planned.events:
        if len(event.notes) > 1:
            plucked = (Stroke.DOWN, Stroke.MIDDLE), (Stroke.MIDDLE, Stroke.RING)
            assert event.strokes in (*plucked, (Stroke.DOWN,) * 2, (Stroke.UP,) * 2)
            assert len(event.strokes) == len(event.notes)
    assert any(event.stroke is Stroke.CHORD_PLUCK for event in planned.events)
    wide = plan(riff("| (5:3 3:5 2:5 1:3)!t/1 |"), "hybrid").events[0]
    assert wide.strokes == (Stroke.DOWN, Stroke.MIDDLE, Stroke.RING, Stroke.LITTLE)


def test_bass_fingers_alternate_and_rake_downward() -> None:
    alternate = [str(event.stroke) for event in plan(line("4:3 4:5 3:3 3:5", "8"), "bass-two-finger").events]
    assert alternate in (["i", "m", "i", "m"], ["m", "i", "m", "i"])
    raked = plan(line("2:5 3:5 4:5", "8", instrument="bass-4"), "bass-two-finger")
    assert len({event.stroke for event in raked.events}) == 1


def test_a_phrase_may_have_a_school_of_its_own() -> None:
    made = riff("[A] | 6:0/4 6:0 6:0 6:0 | [B] | 6:0/4 6:0 6:0 6:0 |", tempo=90)
    schools = {"B": school_named("strict-alternate")}
    found = strokes(plan(made, "pulse-alternate", by_phrase=schools))
    assert found.startswith("dddd")
    assert found[4:] in ("udud", "dudu")
    with pytest.raises(RiffError, match="there is no phrase 'C' in this riff; it has 'A', 'B'"):
        plan(made, by_phrase={"C": school_named("economy")})


def test_sparse_picking_picks_only_what_cannot_be_slurred() -> None:
    planned = plan(line("3:5 3:7 3:8 3:7 3:5 2:5 2:6 2:8 2:6", count=9, tempo=120), "sparse")
    assert strokes(planned)[1:5] == "----"
    legato = [str(event.legato) for event in planned.events]
    assert legato[1:5] == ["h", "h", "p", "p"]
    assert planned.totals["pick_travel_mm"] < 30
    repeated = plan(line("3:5 3:5 3:5", tempo=120), "sparse")
    assert "-" not in strokes(repeated)


def test_sparse_picking_picks_the_first_note_of_each_string() -> None:
    found = strokes(plan(line("4:5 4:7 3:5 3:7 2:5 2:8", tempo=100), "sparse"))
    assert [one in "du" for one in found] == [True, False] * 3


def test_sparse_picking_keeps_what_is_struck_on_purpose() -> None:
    planned = plan(line("3:5 3:7.> 3:8!d 3:7.m 3:5.x", tempo=100), "sparse")
    assert "-" not in strokes(planned)
    assert strokes(planned)[2] == "d"
    after_a_rest = plan(riff("| 3:5/4 r 3:7 3:5.p |"), "sparse")
    assert strokes(after_a_rest)[1:] == strokes(after_a_rest)[1] + "-"
    assert strokes(after_a_rest)[1] in "du"


def test_sparse_prices_say_what_picking_would_cost() -> None:
    made = line("3:5 3:7 3:8", tempo=120)
    planned = plan(made, "sparse", alternatives=10)
    offered = {one.words: one.price for one in planned.events[1].alternatives}
    forced = plan(line("3:5 3:7!u 3:8", tempo=120), "sparse")
    assert offered["up stroke"] == pytest.approx(forced.cost - planned.cost)


def ups_in_threes(context: StrokeContext) -> Verdict:
    """Every third note of a bar is an up; only notes off the beat are asked for their number."""
    if context.place.on_beat:
        return NOTHING_TO_SAY
    return Verdict((context.stroke is U) == (context.count % 3 == 2))


def downs_when_slow(pair: StrokePair) -> Verdict:
    return Verdict(pair.after is D if pair.gap_ms > 150 else pair.after is not pair.before)


def test_a_school_is_shown_what_it_reads_and_nothing_has_to_be_declared() -> None:
    school = School("threes", "Threes", "For a test.", on_stroke=ups_in_threes)
    request = Request(hands_named("medium"), school)
    made = line("6:0 6:0 6:0 6:0 6:0 6:0 6:0 6:0", meter="2/4", tempo=100)
    played = strokes(plan_riff(made, request))
    assert (played[1:4], played[5:]) == ("dud", "udd")


def test_a_school_that_reads_the_time_is_shown_it() -> None:
    school = School("slow", "Slow downs", "For a test.", on_pair=downs_when_slow)
    request = Request(hands_named("medium"), school)
    made = riff("| 6:0/8 6:0 6:0 6:0/16 6:0 6:0 6:0 r/8 |", meter="6/8", tempo=120)
    assert strokes(plan_riff(made, request))[1:] == "dddudu"
    assert strokes(plan_riff(made.at_tempo(40), request))[1:] == "dddddd"


def test_reading_what_is_not_shown_is_an_error_of_the_planner() -> None:
    with pytest.raises(NotShownError, match=r"^$"):
        _ = StrokePair(D, U, 0, None).gap_ms
    with pytest.raises(NotShownError, match=r"^$"):
        _ = StrokeContext(D, GridPlace(0, 1), None).count


def test_hybrid_gives_every_string_its_own_finger() -> None:
    roll = plan(riff("| 5:3.l/8 3:0.l 2:1.l 1:0.l 2:1.l 3:0.l 2:1.l 3:0.l |", tempo=90), "hybrid")
    own = {event.notes[0].string: event.stroke for event in roll.events}
    assert own == {5: Stroke.DOWN, 3: Stroke.MIDDLE, 2: Stroke.RING, 1: Stroke.LITTLE}
    assert all(event.stroke is own[event.notes[0].string] for event in roll.events)


def test_a_bass_and_the_first_string_are_pinched_by_pick_and_ring_finger() -> None:
    pinch = plan(riff("| (5:1 1:1)/4 3:1/8 2:3 (5:1 1:1)/4 2:3/8 3:1 |", tempo=84), "hybrid").events[0]
    assert pinch.strokes == (Stroke.DOWN, Stroke.RING)


@pytest.mark.parametrize("school", ["economy", "sweep"])
def test_a_sweep_ends_at_a_rest_and_the_next_begins_down(school: str) -> None:
    made = riff("| 3:5/8 2:5 1:5 2:5 3:5 r 3:5 2:5 |", tempo=100)
    assert strokes(plan(made, school)) == "ddduudd"


def test_economy_may_begin_anew_across_a_skipped_string() -> None:
    made = riff("| 6:0/8 4:2 3:0 2:0 1:0 2:0 5:3 4:2 |", tempo=66)
    assert strokes(plan(made, "economy")) == "dddddudd"
