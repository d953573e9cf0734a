"""Facts of the trade about the picking hand: small riffs, and what players do with them.

Common practice, no source. Each fact is tried at several places and tempi.
"""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import pytest

from dromic.hands.constants import PickingHand
from dromic.hands.profile import Hands, hands_named
from dromic.music.riff import Stroke
from dromic.planner.plan import Plan
from tests.helpers import line, not_none, plan, riff, strokes

ONE_LEAN = Hands(picking=PickingHand(turns=False))
PAIRS = [(6, 5), (5, 4), (4, 3), (3, 2), (2, 1)]
TEMPI = [90, 140, 190]


def picked(planned: Plan) -> list[str]:
    return [str(event.stroke) for event in planned.events if event.step is not None]


@pytest.mark.parametrize("tempo", TEMPI)
@pytest.mark.parametrize(("thick", "thin"), PAIRS)
def test_between_two_strings_the_first_stroke_makes_all_changes_outside_or_inside(
    thick: int, thin: int, tempo: int
) -> None:
    """One note a string, to and fro: down on the thicker string is outside picking, up on it inside picking."""
    notes = f"{thick}:5 {thin}:5 " * 4
    for first, outside, inside in ((Stroke.DOWN, 7, 0), (Stroke.UP, 0, 7)):
        totals = plan(line(notes, tempo=tempo), "strict-alternate", first_stroke=first).totals
        assert (totals["outside"], totals["inside"]) == (outside, inside)


@pytest.mark.parametrize(("thick", "thin"), PAIRS)
def test_inside_picking_is_the_awkward_one(thick: int, thin: int) -> None:
    """For a hand that does not turn its lean, the same two strings round and round go slower from the inside."""
    notes = line(f"{thick}:0 {thin}:0 " * 4, tempo=120)
    outside, inside = (
        plan(notes, "strict-alternate", hands=ONE_LEAN, first_stroke=first, loop=True)
        for first in (Stroke.DOWN, Stroke.UP)
    )
    assert (outside.totals["outside"], inside.totals["inside"]) == (8, 8)
    assert not_none(outside.ceiling) > not_none(inside.ceiling)
    assert outside.cost < inside.cost


@pytest.mark.parametrize("school", ["strict-alternate", "least-motion"])
@pytest.mark.parametrize("string", [6, 5, 4])
def test_a_skip_is_slower_than_a_change_to_the_neighbour(string: int, school: str) -> None:
    near = plan(line(f"{string}:0 {string - 1}:0 " * 4, tempo=120), school, objective="tempo")
    far = plan(line(f"{string}:0 {string - 2}:0 " * 4, tempo=120), school, objective="tempo")
    farther = plan(line(f"{string}:0 {string - 3}:0 " * 4, tempo=120), school, objective="tempo")
    assert not_none(near.ceiling) > not_none(far.ceiling) > not_none(farther.ceiling)


@pytest.mark.parametrize("tempo", TEMPI)
@pytest.mark.parametrize("fret", [5, 8])
def test_economy_downward_is_up_down_up(fret: int, tempo: int) -> None:
    notes = " ".join(f"{string}:{fret + step}" for string in (2, 3, 4, 5) for step in (4, 2, 0))
    planned = plan(line(notes + f" 6:{fret + 4}", count=13, tempo=tempo), "economy")
    assert strokes(planned)[:12] == "udu" * 4


@pytest.mark.parametrize("tempo", [100, 130, 160])
@pytest.mark.parametrize("root", [7, 10, 12])
def test_a_three_string_sweep_is_three_downs_and_ups_back(root: int, tempo: int) -> None:
    notes = f"3:{root + 2} 2:{root + 1} 1:{root} 1:{root + 3}.h 1:{root}.p 2:{root + 1} 3:{root + 2}"
    planned = plan(line(notes, "16", tempo=tempo), "sweep")
    assert strokes(planned) == "ddd--uu"


@pytest.mark.parametrize("tempo", TEMPI)
@pytest.mark.parametrize(("first", "second"), [(4, 3), (3, 2), (2, 1)])
def test_swing_jazz_starts_every_new_string_down(first: int, second: int, tempo: int) -> None:
    notes = f"{first}:5 {first}:7 {second}:5 {second}:7 {second}:8 {first}:7 {first}:5 {second}:5"
    planned = plan(line(notes, "8", tempo=tempo), "new-string-down")
    states = planned.states
    for one, two, stroke in zip(states, states[1:], picked(planned)[1:], strict=False):
        if one.string != two.string:
            assert stroke == "down"


@pytest.mark.parametrize("chord", ["4:2 3:0 2:1", "5:3 4:2 3:0", "4:0 3:2 2:3"])
@pytest.mark.parametrize("tempo", [100, 140])
def test_a_roll_over_three_strings_keeps_its_cycle(chord: str, tempo: int) -> None:
    planned = plan(line(" ".join([chord] * 4), "8", tempo=tempo, meter="12/8"), "cross-picking")
    found = strokes(planned)
    assert found in ("ddu" * 4, "ddduuu" * 2, "du" * 6)


@pytest.mark.parametrize("tempo", [80, 100, 110])
@pytest.mark.parametrize("note", ["6:0.m", "5:2.m"])
def test_eighths_are_all_downs_while_there_is_time(note: str, tempo: int) -> None:
    assert strokes(plan(line(f"{note} " * 8, "8", tempo=tempo), "downstroke-first")) == "d" * 8


@pytest.mark.parametrize("tempo", [150, 180, 210])
def test_repeated_downs_stop_working_when_the_notes_get_fast(tempo: int) -> None:
    found = strokes(plan(line("6:0.m " * 8, "16", tempo=tempo), "downstroke-first"))
    assert found == "du" * 4


@pytest.mark.parametrize("tempo", [150, 170, 190])
@pytest.mark.parametrize(("low", "high"), [("6:0.m", "5:2"), ("5:0.m", "4:2")])
def test_a_displaced_gallop_is_down_up_down(low: str, high: str, tempo: int) -> None:
    """Two quick sixteenths and an eighth on another string: an up only for the second of the quick ones."""
    cell = f"{low}/16 {low} {high}/8"
    found = strokes(plan(riff(f"| {' '.join([cell] * 4)} |", tempo=tempo), "downstroke-first"))
    assert found == "dud" * 4


@pytest.mark.parametrize("key", ["D4", "A3", "E4"])
@pytest.mark.parametrize("tempo", [120, 180])
def test_after_a_quarter_the_next_eighth_is_a_down_again(key: str, tempo: int) -> None:
    made = riff(f"| {key}/4 {key}/8 {key} {key}/4 {key}/8 {key} |", tempo=tempo)
    assert strokes(plan(made, "pulse-alternate")) == "dduddu"


@pytest.mark.parametrize("tempo", [100, 160])
def test_the_hand_keeps_swinging_through_rests_and_slurs(tempo: int) -> None:
    made = riff("| r/8 4:2 4:4 r 4:2 4:4.h r 4:2 |", tempo=tempo)
    assert strokes(plan(made, "pulse-alternate")) == "udd-u"


@pytest.mark.parametrize("tempo", [200, 270])
@pytest.mark.parametrize("meter", ["6/8", "9/8", "12/8"])
def test_jigs_are_down_up_down_or_alternate_through_the_bar(meter: str, tempo: int) -> None:
    """Both camps: each beat starts with a down, or strokes alternate and every other beat starts with an up."""
    count = int(meter.split("/")[0])
    made = line("E4 " * count, "8", meter=meter, tempo=tempo)
    assert strokes(plan(made, "jig")) == "dud" * (count // 3)
    plain = strokes(plan(made, "strict-alternate", first_stroke=Stroke.DOWN))
    assert plain == ("dududu" * 2)[:count]


@pytest.mark.parametrize("bass", [(6, 3), (5, 3), (4, 2)])
@pytest.mark.parametrize("tempo", [90, 140])
def test_hybrid_gives_the_thin_strings_a_finger_each(bass: tuple[int, int], tempo: int) -> None:
    string, fret = bass
    notes = f"{string}:{fret} 3:4 2:5 1:3 2:5 3:4 " * 2
    found = picked(plan(line(notes, "8", tempo=tempo, meter="12/8"), "hybrid"))
    assert found == (["down", "m", "a", "c", "a", "m"] * 2)


@pytest.mark.parametrize("tempo", [90, 120])
@pytest.mark.parametrize("low", [6, 5])
def test_a_wide_jump_is_easier_for_a_finger_than_for_the_pick(low: int, tempo: int) -> None:
    made = line(f"{low}:5 1:5 " * 4, tempo=tempo)
    hybrid, pick = plan(made, "hybrid"), plan(made, "strict-alternate")
    assert not_none(hybrid.ceiling) > not_none(pick.ceiling)
    assert {stroke for stroke, state in zip(picked(hybrid), hybrid.states, strict=True) if state.string == 1} <= {
        "m",
        "a",
        "c",
    }


@pytest.mark.parametrize("string", [4, 3])
@pytest.mark.parametrize("fret", [3, 5, 9])
def test_bass_fingers_rake_to_the_lower_string(string: int, fret: int) -> None:
    lower = [f"{one}:{fret}" for one in range(string - 2, string + 1)]
    found = picked(plan(line(" ".join(lower), "8", tempo=100, instrument="bass-4"), "bass-two-finger"))
    assert len(set(found)) == 1
    higher = picked(plan(line(" ".join(lower[::-1]), "8", tempo=100, instrument="bass-4"), "bass-two-finger"))
    assert all(one != two for one, two in pairwise(higher))


@pytest.mark.parametrize("string", [6, 4, 2])
@pytest.mark.parametrize("tempo", [100, 150])
def test_sparse_picking_strikes_once_a_string(string: int, tempo: int) -> None:
    notes = f"{string}:5 {string}:7 {string}:8 {string}:7 {string}:5"
    found = strokes(plan(line(notes, tempo=tempo), "sparse"))
    assert found[0] in "du"
    assert found[1:] == "----"


@pytest.mark.parametrize("string", [6, 3, 1])
@pytest.mark.parametrize("school", ["strict-alternate", "economy", "least-motion"])
def test_a_palm_that_comes_and_goes_is_work(string: int, school: str) -> None:
    steady = plan(line(f"{string}:0.m " * 8), school)
    changing = plan(line(f"{string}:0.m {string}:0 " * 4), school)
    assert not_none(changing.ceiling) < not_none(steady.ceiling)


@pytest.mark.parametrize("tempo", [100, 140])
@pytest.mark.parametrize("string", [6, 4])
def test_accents_on_the_beat_are_downs(string: int, tempo: int) -> None:
    cell = f"{string}:0.> {string}:0 {string}:0 {string}:0"
    found = strokes(plan(line(" ".join([cell] * 4), tempo=tempo)))
    assert found == "du" * 8


@pytest.mark.parametrize("tempo", [110, 150])
@pytest.mark.parametrize("fret", [5, 9, 12])
def test_a_phrase_starts_so_that_its_sweep_can_go_down(fret: int, tempo: int) -> None:
    """After three notes on a string, down up down, the sweep goes on; two may begin either way, it stays down."""
    tail = f"5:{fret} 4:{fret} 3:{fret} 2:{fret}"
    for lead in (f"6:{fret} 6:{fret + 3}", f"6:{fret} 6:{fret + 2} 6:{fret + 3}"):
        notes = f"{lead} {tail}"
        found = strokes(plan(line(notes, tempo=tempo), "economy"))
        assert found.endswith("dddd")
        assert found[: len(lead.split())] in (("ud", "du") if len(lead.split()) == 2 else ("dud",))


def pick_work(planned: Plan) -> float:
    return sum(event.loads.pick for event in planned.events)


@pytest.mark.parametrize("fret", [2, 5, 9])
def test_two_notes_a_string_want_the_right_first_stroke(fret: int) -> None:
    """Upward, a hand whose upstrokes escape changes strings freely when it starts down, and is trapped when up."""
    made = line(" ".join(f"{string}:{fret + step}" for string in (6, 5, 4, 3) for step in (0, 3)), tempo=120)
    down, up = (
        plan(made, "strict-alternate", hands=ONE_LEAN, first_stroke=first, objective="tempo")
        for first in (Stroke.DOWN, Stroke.UP)
    )
    assert not_none(down.ceiling) >= not_none(up.ceiling)
    assert pick_work(down) < pick_work(up)
    other = replace(
        ONE_LEAN, picking=replace(ONE_LEAN.picking, lean=hands_named("medium").picking.lean.DOWN_ESCAPES)
    )
    up, down = (
        plan(made, "strict-alternate", hands=other, first_stroke=first) for first in (Stroke.UP, Stroke.DOWN)
    )
    assert pick_work(up) < pick_work(down)


@pytest.mark.parametrize("tempo", [100, 140])
@pytest.mark.parametrize("school", ["strict-alternate", "economy"])
def test_more_string_changes_in_a_bar_are_harder_at_the_same_tempo(school: str, tempo: int) -> None:
    few = plan(line("6:5 6:5 6:5 6:5 5:5 5:5 5:5 5:5", tempo=tempo), school)
    many = plan(line("6:5 5:5 6:5 5:5 6:5 5:5 6:5 5:5", tempo=tempo), school)
    assert many.cost > few.cost
    fastest = [plan(made.riff, school, objective="tempo").ceiling for made in (many, few)]
    assert not_none(fastest[0]) <= not_none(fastest[1])


@pytest.mark.parametrize("strings", [(5, 4), (4, 3), (3, 2)])
@pytest.mark.parametrize("tempo", [100, 160])
def test_a_double_stop_hits_its_two_strings_and_no_other(strings: tuple[int, int], tempo: int) -> None:
    low, high = strings
    made = riff(
        f"| ({low}:5 {high}:5)/8 ({low}:7 {high}:7) ({low}:5 {high}:5) ({low}:3 {high}:3) r/2 |", tempo=tempo
    )
    planned = plan(made)
    for state in planned.states:
        assert {state.begins, state.ends} == {low, high}
    gap = float(planned.instrument.pick_y[1] - planned.instrument.pick_y[0])
    assert planned.totals["pick_travel_mm"] < 4 * (2 * gap + 4 * planned.hands.picking.half_stroke_mm)


@pytest.mark.parametrize("tempo", [90, 120])
def test_long_notes_are_rest_strokes_and_running_ones_free(tempo: int) -> None:
    """The middle camp: a quarter rests on the next string, running eighths do not."""
    hands = replace(ONE_LEAN, picking=replace(ONE_LEAN.picking, turns=False))
    made = riff("| 3:2!d/4 3:4!d 3:2!d/8 3:4!u 3:2!d 3:4!u |", tempo=tempo)
    kinds = [event.stroke_kind for event in plan(made, hands=hands).events]
    assert kinds == ["rest", "rest", "free", "free", "free", "free"]


@pytest.mark.parametrize("share", ["2:1", "3:2", "60%"])
def test_swing_makes_the_second_of_two_eighths_the_hurried_one(share: str) -> None:
    planned = plan(line("4:5 4:5 4:5 4:5", "8", swing=share, tempo=150), "strict-alternate")
    long, short, again = (event.loads.pick for event in planned.events[1:])
    assert short > long == again


@pytest.mark.parametrize("hands", ["medium", "fast", "beginner"])
def test_profiles_differ_in_speed_not_in_what_they_do(hands: str) -> None:
    made = line("6:5 6:7 5:5 5:7 4:5 4:7", tempo=60)
    assert strokes(plan(made, "economy", hands=hands)) == strokes(plan(made, "economy"))
    factor = {"medium": 1.0, "fast": 1 / 0.8, "beginner": 1 / 1.8}[hands]
    same = plan(made, "economy", hands=hands, objective="tempo").ceiling
    assert same == pytest.approx(not_none(plan(made, "economy", objective="tempo").ceiling) * factor, rel=1e-6)
