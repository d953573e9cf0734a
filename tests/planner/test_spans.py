"""Chords that are held for several notes: where they are found, and that the hand keeps to them."""

from __future__ import annotations

import json
from typing import Any

import pytest

from dromic.formats.plan_json import write_plan_json
from dromic.formats.rifftext.reader import read_riff_text
from dromic.hands.known_shapes import is_known
from dromic.instrument.presets import instrument_for, instrument_named
from dromic.planner.limits import Limits
from dromic.planner.locking import with_alternative
from dromic.planner.plan import Plan
from tests import helpers

BALLAD = "| A2.l/8 A3.l C4.l E4.l C4.l A3.l C4.l A3.l | D3.l/8 A3.l D4.l F4.l D4.l A3.l D4.l A3.l |"
LONG_ROLL = (
    "tempo: 126\n| G3.l/8 C4.l E4.l G3.l C4.l E4.l A3.l E4.l | A#3.l C4.l E4.l A3.l C4.l E4.l G3.l E4.l "
    "| F3.l A3.l C4.l F3.l A3.l C4.l F3.l C4.l | E3.l G3.l C4.l E3.l G3.l C4.l E3.l C4.l "
    "| D3.l G3.l B3.l D3.l G3.l B3.l E3.l B3.l | E3.l G3.l C4.l C3.l E3.l G3.l C4.l/4 |"
)


def planned(text: str, school: str = "hybrid", **more: Any) -> Plan:
    return helpers.plan(read_riff_text(text).riff, school, **more)


def places(plan: Plan) -> str:
    return " ".join(f"{note.string}:{note.fret}" for event in plan.events for note in event.notes)


def chords(text: str, school: str = "pulse-alternate") -> list[str]:
    return [span.chord for span in planned(text, school).spans]


def fingers_by_place(plan: Plan, span: int) -> dict[tuple[int, int], set[int]]:
    found: dict[tuple[int, int], set[int]] = {}
    inside = plan.spans[span]
    for event in plan.events[inside.first : inside.last + 1]:
        for note in event.on_the_neck:
            found.setdefault((note.string, note.fret), set()).add(note.finger)
    return found


def test_an_arpeggio_at_the_nut_is_the_open_chord() -> None:
    plan = planned(BALLAD)
    assert places(plan).startswith("5:0 3:2 2:1 1:0 2:1 3:2 2:1 3:2 4:0 3:2 2:3 1:1")
    assert [span.chord for span in plan.spans] == ["Am", "Dm"]


def test_the_hand_keeps_its_shape_for_the_whole_span() -> None:
    plan = planned(LONG_ROLL, "cross-picking")
    assert len(plan.spans) == 6
    for number, span in enumerate(plan.spans):
        by_place = fingers_by_place(plan, number)
        assert all(len(fingers) == 1 for fingers in by_place.values())
        assert len({event.position for event in plan.events[span.first : span.last + 1]}) == 1
        assert {(note.string, note.fret) for note in span.notes} == set(by_place)


def test_what_is_ready_is_down_before_it_is_struck() -> None:
    first, second = planned(BALLAD).events[:2]
    assert {(note.string, note.fret) for note in first.ready} == {(3, 2), (2, 1), (1, 0)}
    assert {(note.string, note.fret) for note in second.held} == {(5, 0)}
    assert {note.finger for note in second.notes} <= {note.finger for note in first.ready}


@pytest.mark.parametrize(
    ("bar", "signs"),
    [
        ("G3/8 B3 D4 G3 B3 D4 G3 D4", ["G"]),
        ("C3/4 (G3 C4 E4)/8 (G3 C4 E4) E3/4 (G3 C4 E4)/8 (G3 C4 E4)", ["C"]),
        ("{Am} A2/8 (A3 C4 E4) {D7} D3 (A3 C4 F#4) {Am} A2 (A3 C4 E4) E3 (A3 C4 E4)", ["Am", "D7", "Am"]),
        ("D4.l/8 A3.l F#4.l A3.l G4.l B3.l D4.l B3.l", ["D", "G/B"]),
        ("G3/8 A3 B3 C4 D4 E4 F#4 G4", []),
        ("D4/8 F#4 A4 D5 A4 F#4 D4 A3", []),
        ("A4.l/8 G4.l E4.l D4.l C#4.l B3.l A3.l G3.l", []),
        ("(E2 B2)/8 E2 E2 (G2 D3) E2 E2 (A2 E3) (G2 D3)", []),
        ("(D3 F#3 A3)/4 (E3 G3 B3) (D3 F#3 A3) (C3 E3 G3)", []),
    ],
)
def test_where_chords_are_held(bar: str, signs: list[str]) -> None:
    assert chords(f"key: C\n| {bar} |") == signs


UP_AND_DOWN = "tempo: 88\n| A2/8 E3 A3 C4 E4 C4 A3 E3 | G2 D3 G3 B3 D4 B3 G3 D3 | E2 B2 E3 G#3 B3 G#3 E3 B2 |"
MOVING_BASS = "tempo: 110\n| D3/8 A3 D4 F#4 A2 A3 D4 F#4 | A2 A3 C#4 E4 E3 A3 C#4 E4 |"
JIG = "tempo: 172\nmeter: 6/8\n| A3/8 B3 C4 E4 C4 A3 | B3 G3 B3 D4 B3 G3 | D4 C4 B3 C4 B3 A3 | G3 B3 D4 G4 D4 B3 |"


@pytest.mark.parametrize(("text", "signs"), [(UP_AND_DOWN, ["Am", "G", "E"]), (MOVING_BASS, ["D", "A"]), (JIG, [])])
def test_an_accompaniment_needs_no_marks_and_a_tune_is_none(text: str, signs: list[str]) -> None:
    assert chords(text) == signs


def test_an_open_bass_is_not_fretted_beside_a_chord_that_leaves_it_free() -> None:
    # Common practice, no source: A by the nut has its open fifth string.
    assert places(planned(MOVING_BASS, "pulse-alternate")).split()[8:12] == ["5:0", "3:2", "2:2", "1:0"]


def test_with_high_gain_only_what_is_marked_rings() -> None:
    roll = "G3/8 B3 D4 G3 B3 D4 G3 D4"
    assert chords(f"gain: high\n| {roll} |") == []
    assert chords("gain: high\n| G3.l/8 B3.l D4.l G3.l B3.l D4.l G3.l D4.l |") == ["G"]


def test_a_voice_moves_on_its_string_while_the_chord_stays() -> None:
    plan = planned("key: C\n| G3.l/8 C4.l E4.l A3.l C4.l E4.l G3.l E4.l |", "cross-picking")
    assert len(plan.spans) == 1
    strings = {note.pitch: note.string for note in plan.spans[0].notes}
    assert strings[55] == strings[57]
    assert len({strings[55], strings[60], strings[64]}) == 3


def test_a_tune_over_a_drone_has_a_string_of_its_own() -> None:
    tune = "key: G\n| A3.l/8 3:0.l B3.l 3:0.l C4.l 3:0.l B3.l 3:0.l |"
    strings = [event.notes[0].string for event in planned(tune, "pulse-alternate").events]
    assert set(strings[1::2]) == {3}
    assert 3 not in strings[::2]


def test_locks_that_no_shape_allows_leave_the_notes_to_themselves() -> None:
    plan = planned("| A2.l/8 A3.l@1 C4.l@1 E4.l@4 C4.l A3.l C4.l A3.l |")
    assert not plan.spans
    assert [event.notes[0].finger for event in plan.events[1:4]] == [1, 1, 4]


def test_a_place_that_is_written_is_where_the_shape_lies() -> None:
    plan = planned("| A2.l/8 A3.l 3:5.l E4.l C4.l A3.l C4.l A3.l |")
    assert len(plan.spans) == 1
    assert (3, 5) in {(note.string, note.fret) for note in plan.spans[0].notes}


def test_limits_hold_for_the_whole_shape() -> None:
    plan = planned(BALLAD, limits=Limits(low=5, high=12, open_strings=False))
    assert all(5 <= note.fret <= 12 for event in plan.events for note in event.on_the_neck)
    assert plan.spans


def test_a_choice_in_a_span_costs_what_is_said_and_moves_the_shape() -> None:
    plan = planned(BALLAD, alternatives=99)
    moved = [other for other in plan.events[1].alternatives if "String" in other.words or "string" in other.words]
    assert moved
    for other in moved[:3]:
        again = helpers.plan(with_alternative(plan, 1, other), "hybrid")
        assert again.cost == pytest.approx(plan.cost + other.price, rel=1e-9)


def test_a_pitch_struck_again_stays_where_it_is() -> None:
    plan = planned("style: rock\ntempo: 120\n| A2/8 A2 A2 C3 A2 A2 G2 A2 |", "downstroke-first")
    pitches = [event.notes[0] for event in plan.events]
    assert len({(note.string, note.fret, note.finger) for note in pitches if note.pitch == 45}) == 1


def test_as_json() -> None:
    data = json.loads(write_plan_json(planned(BALLAD)))
    assert [(span["from"], span["to"], span["chord"]) for span in data["spans"]] == [(0, 7, "Am"), (8, 15, "Dm")]
    assert [note[:2] for note in data["spans"][0]["shape"]] == [[5, 0], [3, 2], [2, 1], [1, 0]]
    assert all((fret > 0) == (finger > 0) for span in data["spans"] for _, fret, finger in span["shape"])
    assert [event["span"] for event in data["events"]] == [0] * 8 + [1] * 8


def test_the_table_says_nothing_of_strings_tuned_otherwise() -> None:
    seven = instrument_named("guitar-7")
    assert is_known([(5, 3, 3), (4, 2, 2), (3, 0, 0)], seven) is True
    assert is_known([(7, 3, 3), (4, 2, 2), (3, 0, 0)], seven) is None
    assert is_known([(5, 3, 1), (4, 5, 3), (3, 5, 4)], instrument_named("bass-4")) is None


def test_a_chords_own_fingers_are_known_before_those_of_a_larger_one() -> None:
    guitar = instrument_named("guitar-6")
    assert is_known([(4, 0, 0), (3, 2, 1), (2, 3, 3), (1, 2, 2)], guitar) is True
    # With its third in the bass it would be another shape, whose fingers these are.
    assert is_known([(4, 0, 0), (3, 2, 2), (2, 3, 4), (1, 2, 3)], guitar) is False


def test_an_open_string_tuned_otherwise_is_left_out_and_moved_shapes_may_have_drones() -> None:
    drop = instrument_for(read_riff_text("tuning: drop\n\n| r/1 |\n").riff)
    assert is_known([(6, 0, 0), (4, 0, 0), (3, 2, 1), (2, 3, 3), (1, 2, 2)], drop) is True
    assert is_known([(6, 2, 1), (4, 0, 0), (3, 2, 1), (2, 3, 3)], drop) is None
    guitar = instrument_named("guitar-6")
    assert is_known([(4, 0, 0), (3, 11, 2), (2, 10, 1), (1, 10, 1)], guitar) is True
    assert is_known([(4, 0, 0), (3, 11, 1), (2, 10, 2), (1, 10, 3)], guitar) is False


def test_a_finger_that_holds_a_tone_of_the_next_chord_stays() -> None:
    """Common practice, no source: the suspended fourth is added to D by the little finger."""
    plan = planned("| (D3 A3 D4 F#4)/4 (D3 A3 D4 G4) (D3 A3 D4 F#4) (D3 A3 D4 E4) |", "pulse-alternate")
    fingers = ["".join(str(note.finger) for note in event.notes) for event in plan.events]
    assert fingers == ["0132", "0134", "0132", "0130"]


def test_a_shape_that_the_little_finger_adds_to_is_known() -> None:
    guitar = instrument_named("guitar-6")
    assert is_known([(4, 0, 0), (3, 2, 1), (2, 3, 3), (1, 3, 4)], guitar) is True
    assert is_known([(4, 0, 0), (3, 2, 2), (2, 3, 3), (1, 3, 4)], guitar) is False


def test_a_broken_chord_is_rather_played_with_open_strings() -> None:
    text = "tuning: drop\ntempo: 90\nmeter: 6/8\nstyle: {}\n"
    bars = "| D2.l/8 D3.l A3.l D4.l F#4.l D4.l | A2.l E3.l A3.l C#4.l E4.l C#4.l |"
    assert "5:0 4:2 3:2 2:2 1:0" in places(planned(text.format("rock") + bars))
    assert "5:0" not in places(planned(text.format("jazz") + bars))


def test_a_bass_run_to_the_next_chord_is_no_part_of_the_chord_before() -> None:
    bars = "| A2/4 (A3 C#4 E4)/8 (A3 C#4 E4) E3/4 (A3 C#4 E4)/8 C#3 | D3/4 (A3 D4 F#4)/8 (A3 D4 F#4) D3/2 |"
    plan = planned(f"tempo: 118\n{bars}", "pulse-alternate")
    assert plan.task.spans[0] == range(5)
