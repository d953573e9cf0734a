"""Facts of the trade about the fretting hand and about both hands together.

Common practice, no source. Each fact is tried at several places and tempi.
"""

from __future__ import annotations

import math
from dataclasses import replace

import pytest

from dromic.errors import NoPlanError
from dromic.hands.constants import LowFrets, SameFret
from dromic.hands.profile import hands_named
from dromic.planner.told.reasons import reason_for
from tests.helpers import fingers, line, not_none, places, plan, riff, strokes

FRETS = [3, 5, 7, 9]
TEMPI = [80, 120, 160]


@pytest.mark.parametrize("fret", FRETS)
@pytest.mark.parametrize("tempo", TEMPI)
def test_a_box_of_two_notes_a_string_is_one_position(fret: int, tempo: int) -> None:
    """The pentatonic box: first finger on the lower fret of every string, third or fourth on the upper."""
    box = [(6, 0, 3), (5, 0, 2), (4, 0, 2), (3, 0, 2), (2, 0, 3), (1, 0, 3)]
    notes = " ".join(f"{string}:{fret + step}" for string, *steps in box for step in steps)
    planned = plan(line(notes, tempo=tempo))
    assert {state.position for state in planned.states} == {fret}
    for state in planned.states:
        assert state.finger in {0: (1,), 2: (3,), 3: (3, 4)}[state.fret - fret]


@pytest.mark.parametrize("gain", ["clean", "high"])
@pytest.mark.parametrize("fret", FRETS)
def test_one_fret_on_neighbouring_strings_both_schools(fret: int, gain: str) -> None:
    made = line(f"4:{fret} 3:{fret} 2:{fret} 3:{fret}", "8", tempo=100, gain=gain)
    for camp, count in ((SameFret.ROLL, 1), (SameFret.SEPARATE, 3)):
        hands = hands_named("medium")
        hands = replace(hands, fretting=replace(hands.fretting, same_fret=camp))
        found = fingers(plan(made, hands=hands)).split()
        assert len(set(found)) == count if camp is SameFret.ROLL else len(set(found)) >= 2


@pytest.mark.parametrize("fret", FRETS)
@pytest.mark.parametrize(("one", "two"), [(4, 3), (3, 2), (5, 4)])
def test_a_roll_is_harder_with_high_gain(fret: int, one: int, two: int) -> None:
    notes = f"{one}:{fret}@1 {two}:{fret}@1 " * 3
    clean, high = (plan(line(notes, tempo=100, gain=gain)) for gain in ("clean", "high"))
    assert all(
        after.loads.fret > before.loads.fret
        for before, after in zip(clean.events[1:], high.events[1:], strict=True)
    )


@pytest.mark.parametrize("string", [6, 4, 2])
def test_shifts_cost_by_millimetres_not_by_frets(string: int) -> None:
    """Five frets are a longer way near the nut than up the neck, and take longer."""
    low = plan(line(f"{string}:1@1 {string}:6@1", tempo=120))
    high = plan(line(f"{string}:12@1 {string}:17@1", tempo=120))
    assert low.totals["shift_mm"] > high.totals["shift_mm"] * 1.5
    assert low.events[1].loads.fret > high.events[1].loads.fret


@pytest.mark.parametrize("string", [5, 4, 3])
def test_stretches_are_worse_low_on_the_neck(string: int) -> None:
    """Five frets between first and fourth finger: most at the first fret, hardly any at the twelfth."""
    stretches = [
        plan(line(f"{string}:{fret}@1^{fret} {string}:{fret + 4}@4^{fret}", "4")).totals["max_stretch_mm"]
        for fret in (1, 5, 9, 12)
    ]
    assert stretches == sorted(stretches, reverse=True)
    assert stretches[0] > 40
    assert stretches[-1] < 20


@pytest.mark.parametrize("fret", FRETS)
@pytest.mark.parametrize("string", [5, 3, 1])
def test_strong_and_weak_pairs(fret: int, string: int) -> None:
    """Trills by 1-2, 1-3 and 1-4 go on longer than by 2-4, and those longer than by 3-4."""

    def trill(one: int, other: int) -> float:
        notes = f"{string}:{fret + one - 1}@{one} {string}:{fret + other - 1}@{other} " * 2
        planned = plan(line(notes, tempo=100))
        return max(event.loads.fret for event in planned.events) + sum(
            term.amount for term in reason_for(planned, 1).efforts if "weak" in term.words
        )

    assert max(trill(1, 2), trill(1, 3)) < trill(2, 4) < trill(3, 4)
    assert trill(1, 4) < trill(2, 4)


@pytest.mark.parametrize("fret", FRETS)
@pytest.mark.parametrize("string", [6, 3, 1])
def test_hammering_goes_up_by_a_higher_finger_pulling_down_by_a_lower(fret: int, string: int) -> None:
    notes = f"{string}:{fret} {string}:{fret + 2}.h {string}:{fret}.p {string}:{fret + 3}.h {string}:{fret}.p"
    planned = plan(line(notes, tempo=120))
    found = [int(one) for one in fingers(planned).split()]
    assert found[1] > found[0] == found[2] == found[4] < found[3]
    assert strokes(planned)[1:] == "----"


@pytest.mark.parametrize("fret", FRETS)
def test_descending_legato_plants_the_lower_finger_ahead(fret: int) -> None:
    """Three notes down one string by pull-offs: the lower finger lands with the higher one."""
    planned = plan(line(f"1:{fret + 3} 1:{fret + 2}.p 1:{fret}.p", tempo=100))
    down = [int(one) for one in fingers(planned).split()]
    assert down == sorted(down, reverse=True)
    again = plan(line(f"2:{fret} 1:{fret + 3} 1:{fret}.p", tempo=100))
    assert "plant_ms" in again.events[1].spots
    assert "plant_ms" not in again.events[2].spots


@pytest.mark.parametrize("fret", FRETS)
@pytest.mark.parametrize("string", [6, 4, 1])
def test_a_slide_keeps_its_finger(fret: int, string: int) -> None:
    planned = plan(line(f"{string}:{fret} {string}:{fret + 2}.s {string}:{fret + 5}.s", "8", tempo=100))
    assert len(set(fingers(planned).split())) == 1
    assert planned.totals["shifts"] == 2


@pytest.mark.parametrize("fret", FRETS)
def test_a_guide_finger_is_cheaper_than_lifting(fret: int) -> None:
    """Shifting along the string on one finger costs less than by two fingers that have to be put down anew."""
    far = fret + 4
    guided = plan(line(f"3:{fret}@1^{fret} 3:{far}@1^{far}", "8", tempo=120))
    lifted = plan(line(f"3:{fret}@1^{fret} 2:{far}@1^{far}", "8", tempo=120))
    assert guided.events[1].loads.fret < lifted.events[1].loads.fret


@pytest.mark.parametrize("bend", ["b1", "b2"])
@pytest.mark.parametrize("fret", [7, 9, 12, 15])
@pytest.mark.parametrize("string", [3, 2])
def test_bends_have_helpers_behind_them(string: int, fret: int, bend: str) -> None:
    planned = plan(riff(f"| {string}:{fret}.{bend}/4 {string}:{fret}.r r/2 |", tempo=100))
    assert fingers(planned) == "3 3"


@pytest.mark.parametrize("fret", [5, 7, 10])
def test_a_bend_is_held_while_the_next_string_sounds(fret: int) -> None:
    planned = plan(riff(f"| 3:{fret + 2}.b2/4 2:{fret} 3:{fret + 2}.r r |", tempo=90))
    assert planned.events[1].held[0].string == 3
    assert planned.events[1].held[0].finger == planned.events[2].notes[0].finger


@pytest.mark.parametrize("fret", [3, 5, 7, 8])
@pytest.mark.parametrize("root", [6, 5])
def test_power_chords_are_one_three_four(fret: int, root: int) -> None:
    chord = f"({root}:{fret} {root - 1}:{fret + 2} {root - 2}:{fret + 2})"
    planned = plan(riff(f"| {chord}/1 |"))
    assert [note.finger for note in planned.events[0].notes] == [1, 3, 4]


@pytest.mark.parametrize("fret", [2, 5, 7])
def test_in_drop_tuning_one_finger_takes_the_power_chord(fret: int) -> None:
    planned = plan(riff(f"| (6:{fret} 5:{fret} 4:{fret})/1 |", tuning="drop"))
    assert [note.finger for note in planned.events[0].notes] == [1, 1, 1]


@pytest.mark.parametrize("fret", [1, 3, 5, 7])
def test_the_barre_chord_of_the_e_shape(fret: int) -> None:
    notes = f"6:{fret} 5:{fret + 2} 4:{fret + 2} 3:{fret + 1} 2:{fret} 1:{fret}"
    assert [note.finger for note in plan(riff(f"| ({notes})/1 |")).events[0].notes] == [1, 3, 4, 2, 1, 1]


@pytest.mark.parametrize("tempo", TEMPI)
@pytest.mark.parametrize("fret", [2, 4, 6])
def test_six_pairs_led_by_either_finger_need_no_shift(fret: int, tempo: int) -> None:
    for one in range(1, 5):
        for other in range(1, 5):
            if one != other:
                notes = f"4:{fret + one - 1} 4:{fret + other - 1} " * 2
                found = fingers(plan(line(notes, tempo=tempo)))
                assert plan(line(notes, tempo=tempo)).totals["shifts"] == 0
                assert found.split()[0] != found.split()[1]


@pytest.mark.parametrize("fret", range(5, 10))
@pytest.mark.parametrize("string", [6, 5])
def test_the_closed_major_scale_on_the_guitar(fret: int, string: int) -> None:
    """Root under the second finger: 2-4, 1-2-4, 1-3-4, up and back with the same fingers (guitar, low strings)."""
    up = [(string, 0), (string, 2), (string - 1, -1), (string - 1, 0), (string - 1, 2)]
    up += [(string - 2, -1), (string - 2, 1), (string - 2, 2)]
    notes = " ".join(f"{one}:{fret + step}" for one, step in [*up, *up[-2::-1]])
    assert fingers(plan(line(notes, "8", tempo=100))) == "2 4 1 2 4 1 3 4 3 1 4 2 1 4 2"


@pytest.mark.parametrize("string", [4, 3])
@pytest.mark.parametrize("tempo", [80, 110])
def test_double_bass_fingering_down_low(string: int, tempo: int) -> None:
    hands = hands_named("medium")
    camp = replace(hands, fretting=replace(hands.fretting, low_frets=LowFrets.ONE_TWO_FOUR))
    notes = f"{string}:1 {string}:2 {string}:3 {string - 1}:1 {string - 1}:3"
    assert fingers(plan(line(notes, "8", tempo=tempo, instrument="bass-4"), hands=camp)) == "1 2 4 1 4"


@pytest.mark.parametrize("tempo", [100, 140])
@pytest.mark.parametrize(("low", "high"), [(2, 9), (3, 10), (5, 12)])
def test_an_open_string_buys_time_for_a_shift(low: int, high: int, tempo: int) -> None:
    closed = plan(line(f"2:{low} 2:{high} 2:{high} 2:{high}", tempo=tempo), objective="tempo")
    opened = plan(line(f"2:{low} 2:0 2:{high} 2:{high}", tempo=tempo), objective="tempo")
    assert not_none(opened.ceiling) > not_none(closed.ceiling)


@pytest.mark.parametrize("fret", [5, 8])
@pytest.mark.parametrize("tempo", [120, 160])
def test_a_string_change_with_a_shift_is_harder_than_either(fret: int, tempo: int) -> None:
    def largest(notes: str) -> float:
        return plan(line(notes, tempo=tempo)).events[1].loads.largest

    change = largest(f"4:{fret}@1!d 3:{fret + 2}@3!d")
    shift = largest(f"4:{fret}@1!d 4:{fret + 5}@1!u")
    both = largest(f"4:{fret}@1!d 3:{fret + 5}@1!d")
    assert both > max(change, shift)


@pytest.mark.parametrize("school", ["economy", "strict-alternate"])
@pytest.mark.parametrize("tempo", [120, 160])
def test_picking_after_legato_and_new_subdivisions_cost_something(school: str, tempo: int) -> None:
    picked = plan(line("3:5 3:7 2:5 2:7", tempo=tempo), school)
    slurred = plan(line("3:5 3:7.h 2:5 2:7", tempo=tempo), school)
    assert slurred.events[2].loads.sync > picked.events[2].loads.sync
    even = plan(riff("| 3:5/8 3:5 3:5 3:5 r/2 |", tempo=tempo), school)
    uneven = plan(riff("| 3:5/8 3:5 3:5/8t 3:5 3:5 r/2 |", tempo=tempo), school)
    assert even.events[2].loads.sync == 0
    assert uneven.events[2].loads.sync > 0


@pytest.mark.parametrize("school", ["economy", "strict-alternate", "pulse-alternate"])
@pytest.mark.parametrize("notes", ["6:5 6:7 5:5 5:7", "4:9 3:7 2:9 3:7"])
def test_the_seam_counts_when_a_phrase_goes_round(notes: str, school: str) -> None:
    once = plan(line(notes, tempo=140, meter="1/4"), school)
    round_and_round = plan(line(notes, tempo=140, meter="1/4"), school, loop=True)
    assert round_and_round.cost > once.cost
    assert not_none(round_and_round.ceiling) <= not_none(once.ceiling) * (1 + 1e-9) or school != "pulse-alternate"
    assert round_and_round.events[0].loads.largest > 0


def test_small_hands_stretch_farther_for_the_same_notes_or_cannot_reach_them() -> None:
    def stretch(hands: str, fret: int) -> float:
        made = line(f"4:{fret}@1^{fret} 4:{fret + 4}@4^{fret}", "4")
        try:
            return plan(made, hands=hands).totals["max_stretch_mm"]
        except NoPlanError:
            return math.inf

    for fret in (1, 3, 5, 9, 12):
        assert stretch("small", fret) >= stretch("medium", fret) >= stretch("large", fret)
    assert stretch("small", 5) > stretch("medium", 5) > stretch("large", 5)
    assert math.isinf(stretch("small", 1))
    assert math.isfinite(stretch("large", 1))


@pytest.mark.parametrize("fret", [5, 7, 12])
def test_a_note_moves_to_another_string_to_make_a_sweep_regular(fret: int) -> None:
    """A three-string minor arpeggio from bare pitches goes one note a string."""
    names = {5: ("C4", "E4", "A4"), 7: ("D4", "F#4", "B4"), 12: ("G4", "B4", "E5")}[fret]
    planned = plan(line(" ".join(names), tempo=180), "sweep")
    assert len({place.split(":")[0] for place in places(planned).split()}) == 3


def shapes_of(
    bar: str, school: str = "pulse-alternate", **header: object
) -> list[tuple[tuple[int, int, int], ...]]:
    return [state.notes for state in plan(riff(f"| {bar} |", **header), school).states]


@pytest.mark.parametrize("fret", [5, 7, 9])
def test_fourths_in_the_box_are_barred_by_the_first_and_the_third_finger(fret: int) -> None:
    """Common practice, no source."""
    low, high = f"(2:{fret} 1:{fret})", f"(2:{fret + 2} 1:{fret + 2})"
    found = shapes_of(f"{low}/8 {low} {high} {low} {high} {high} {low} {low}", tempo=126, gain="crunch")
    assert {note[2] for shape in found for note in shape if note[1] == fret} == {1}
    assert {note[2] for shape in found for note in shape if note[1] == fret + 2} == {3}


def test_sixths_keep_the_second_finger_as_a_guide() -> None:
    """Common practice, no source."""
    sixths = "(D4 B4)/8 (D4 B4) (E4 C5) (D4 B4) (F#4 D5) (G4 E5) (F#4 D5) (E4 C5)"
    found = shapes_of(sixths, "hybrid", tempo=96, gain="clean")
    assert {note[2] for shape in found for note in shape if note[0] == 3} == {2}


def test_power_chords_in_an_open_riff_are_open_where_their_root_is() -> None:
    """Common practice, no source."""
    bar = "(D3 A3)/8 D3 (D3 A3) D3 (Bb2 F3) Bb2 (D3 A3) (D3 A3)"
    found = shapes_of(bar, tempo=116, gain="crunch", key="D minor")
    assert {shape for shape in found if shape[0][0] == 4} >= {((4, 0, 0), (3, 2, 2))}
    assert not any(note[1] > 4 for shape in found for note in shape)


@pytest.mark.parametrize("school", ["sweep", "economy"])
def test_an_arpeggio_that_goes_back_stays_in_its_place(school: str) -> None:
    """Common practice, no source."""
    up = ["A3", "C4", "E4", "A4", "C5", "E5"]
    there, back = " ".join(up), " ".join(up[-2::-1])
    bar = f"{there} {back}".replace(" ", "/16 ", 1)
    places = [shape[0][:2] for shape in shapes_of(f"{bar} r/16 r/4", school, tempo=84, gain="high")]
    assert places == places[::-1]


def test_chords_that_fingers_pluck_need_not_be_damped_inside() -> None:
    """A tune over a bass: at the nut, however many strings lie between. Common practice, no source."""
    found = shapes_of("(E2 E4)/8 D4 (E2 B3) A3 (E2 G3) A3 (E2 G3) E3", "hybrid", tempo=88, gain="clean", key="E")
    assert all(note[1] < 5 for shape in found for note in shape)
