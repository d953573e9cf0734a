"""Variations of a lick: what each does to the notes, how they are compared, and what cannot be done."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from itertools import pairwise, product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.errors import RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.instrument.presets import instrument_for
from dromic.music.keys import Key
from dromic.music.rhythm import NoteValue
from dromic.music.riff import Mark, Place, Riff
from dromic.practice.movement import movement_and_gap, movements
from dromic.practice.vary.by_chord import in_mode
from dromic.practice.vary.by_degrees import scale_of, shifted
from dromic.practice.vary.by_keys import SamePlace, route_mm, same_places, shortest_route
from dromic.practice.vary.by_order import reversed_units, rotated
from dromic.practice.vary.by_rhythm import displaced, revalued, with_accents
from dromic.practice.vary.easier import change_price, fewest_changes, thinned
from dromic.practice.vary.lick import Lick, Moved, lick_of
from dromic.practice.vary.units import laid, units_of
from dromic.practice.vary.variants import Varied, once, vary
from tests.helpers import not_none, plan, riff
from tests.practice.licks import heard, licks, melody

BOX = "| {Am7} 5:5/8 5:7 4:5 4:7 3:5 3:7 2:5 2:8 | {D7} 2:8 2:5 3:7 3:5 4:7 4:5 5:7 5:5 |"
FEW = settings(max_examples=15, deadline=None)


def lick(one: Riff) -> Lick:
    return lick_of(plan(one))


def varied(one: Riff, *ways: str) -> Varied:
    return vary(plan(one), ways)


def words(found: Varied) -> list[str]:
    return [one.words for one in found.variants]


# -- what is done to the notes ---------------------------------------------------------------------------------


@FEW
@given(licks())
def test_as_many_degrees_as_the_scale_has_are_an_octave(one: Riff) -> None:
    own = lick(one)
    size = scale_of(own).size
    try:
        up = shifted(own, size)
    except RiffError:
        return
    assert melody(up) == [tuple(midi + 12 for midi in pitches) for pitches in melody(one)]


@FEW
@given(licks(), st.integers(1, 6))
def test_degrees_up_and_down_again_are_the_lick(one: Riff, degrees: int) -> None:
    own = lick(one)
    try:
        up = shifted(own, degrees)
    except RiffError:
        return
    assert melody(shifted(lick(up), -degrees, scale_of(own))) == melody(one)


@FEW
@given(licks())
def test_backward_twice_is_the_lick(one: Riff) -> None:
    back, origins = laid(one, reversed_units(units_of(one)), "back")
    assert melody(back) == melody(one)[::-1]
    assert list(origins) == list(range(len(origins)))[::-1]
    again, _ = laid(back, reversed_units(units_of(back)), "again")
    assert heard(again) == heard(one)


@FEW
@given(licks(), st.integers(1, 3))
def test_what_is_rotated_on_and_on_comes_home(one: Riff, beats: int) -> None:
    units = units_of(one)
    length = sum((unit.quarters for unit in units), Fraction(0))
    turned = rotated(units, Fraction(beats))
    assert turned is not None
    assert rotated(turned, length - beats) == list(units)


@FEW
@given(licks(), st.sampled_from([Fraction(1, 2), Fraction(1)]))
def test_what_is_displaced_is_the_same_and_later(one: Riff, by: Fraction) -> None:
    later, _ = laid(one, displaced(units_of(one), by), "later")
    assert [(onset - by, length, pitches) for onset, length, pitches in heard(later)] == heard(one)


@FEW
@given(licks())
def test_triplets_and_back_are_the_lick(one: Riff) -> None:
    eighth, triplet = NoteValue(8), NoteValue(8, tuplet=3)
    units = units_of(one)
    three = revalued(units, eighth.quarters, triplet)
    assert {unit.quarters for unit in three if not unit.rest} == {Fraction(1, 3)}
    back = [unit for unit in revalued(three, triplet.quarters, eighth) if not unit.rest]
    assert [unit.events for unit in back] == [unit.events for unit in units]


@FEW
@given(licks())
def test_minor_for_major_and_back_is_the_lick(one: Riff) -> None:
    own = lick(one)
    other = Key(own.key.tonic, "major" if own.key.minor else "minor")
    made = in_mode(own, other)
    if not isinstance(made, Moved):
        return
    back = in_mode(lick(made.riff), own.key)
    inside = all(own.key.scale.holds(midi) for pitches in melody(one) for midi in pitches)
    if isinstance(back, Moved) and inside:
        assert melody(back.riff) == melody(one)


def test_accents_stand_on_the_notes_that_are_asked_for_and_nowhere_else() -> None:
    accented = with_accents(riff("| 5:5.>/4 5:7 4:5 4:7 |"), lambda at: at == 2)
    marks = [Mark.ACCENT in event.marks for event in accented.written_events()]
    assert marks == [False, False, True, False]


def test_slurs_turn_with_the_notes_and_are_told_where_they_cannot() -> None:
    found = varied(riff("| 5:5/4 5:7.h 5:5.p 4:5 |", key="A minor"), "order")
    back = next(one for one in found.variants if one.words == "backward")
    assert [sorted(event.marks) for event in back.riff.written_events()] == [[], [], [Mark.HAMMER], [Mark.PULL]]
    made = varied(riff("| C4/4 E4.h D4 F4.h |", key="C major"), "degrees")
    unison = next(one for one in made.variants if one.words.startswith("leaps of a third turned over"))
    assert unison.words.endswith("(2 slurs picked instead)")


def test_chords_go_with_the_notes() -> None:
    found = varied(riff(BOX, key="A minor"), "keys", "chord", "order")
    d_minor = next(one for one in found.variants if one.words.startswith("in D minor"))
    assert [str(event.chord) for event in d_minor.riff.written_events() if event.chord] == ["Dm7", "G7"]
    back = next(one for one in found.variants if one.words == "backward")
    assert [str(event.chord) for event in back.riff.written_events() if event.chord] == ["D7", "Am7"]
    suspended = next(one for one in found.variants if one.words.startswith("thirds suspended to fourths"))
    assert [str(event.chord) for event in suspended.riff.written_events() if event.chord][1] == "D7sus4"


def test_a_lick_in_thirds_leaps_by_fourths() -> None:
    found = varied(riff("| C4/8 E4 D4 F4 E4 G4 F4 A4 |", key="C"), "degrees")
    wider = next(one for one in found.variants if one.words == "leaps of a third made a fourth")
    assert [str(note.notes[0].target) for note in wider.riff.written_events()] == [
        "C4",
        "F4",
        "D4",
        "G4",
        "E4",
        "A4",
        "F4",
        "B4",
    ]


# -- keys, and the route through them --------------------------------------------------------------------------


def test_every_key_is_there_with_the_fingering_kept() -> None:
    one = plan(riff(BOX, key="A minor"))
    found = vary(one, ["keys"])
    keys = [variant for variant in found.variants if "fingering kept" in variant.words]
    assert len(keys) == 11
    assert {variant.riff.key.split()[0] for variant in keys} == {
        "C",
        "D",
        "E",
        "F",
        "G",
        "B",
        "Eb",
        "Bb",
        "C#",
        "F#",
        "G#",
    }
    for variant in keys:
        assert not variant.changed_fingers
        assert not variant.changed_strokes
        assert [state.finger for state in variant.plan.states] == [state.finger for state in one.states]


def test_the_route_through_the_keys_is_the_shortest_of_all() -> None:
    one = lick(riff(BOX, key="A minor"))
    places = same_places(one)
    own = next(place for place in places if not place.strings and not place.frets)
    layers = [[place for place in places if (place.semitones - 5 * step) % 12 == 0] for step in range(1, 6)]
    route = shortest_route(layers, own)
    assert route_mm(route, own) == pytest.approx(min(route_mm(way, own) for way in product(*layers)))


@settings(max_examples=60, deadline=None)
@given(
    st.lists(
        st.lists(st.tuples(st.integers(-2, 2), st.integers(0, 900)), min_size=1, max_size=4), min_size=1, max_size=5
    ),
    st.integers(0, 900),
)
def test_routes_are_the_shortest_of_all_ways(layers: list[list[tuple[int, int]]], start: int) -> None:
    """Against every way there is."""
    own = SamePlace(0, 0, 0, float(start))
    made = [[SamePlace(strings, 0, 0, float(mm)) for strings, mm in layer] for layer in layers]
    found = shortest_route(made, own)
    assert route_mm(found, own) == pytest.approx(min(route_mm(way, own) for way in product(*made)))


def test_the_route_plays_the_lick_in_twelve_keys() -> None:
    found = varied(riff("| 5:5/8 5:7 4:5 4:7 3:5 3:7 2:5 2:8 |", key="A minor"), "keys")
    route = next(one for one in found.variants if one.words.startswith("through the twelve keys"))
    tunes = melody(route.riff)
    first = [pitches[0] for pitches in tunes[:8]]
    for number in range(12):
        own = [pitches[0] for pitches in tunes[8 * number : 8 * number + 8]]
        rise = {one - other for one, other in zip(own, first, strict=True)}
        assert len(rise) == 1
        assert (rise.pop() - 5 * number) % 12 == 0


def test_open_strings_do_not_move_and_that_is_said() -> None:
    found = varied(riff("| 5:0/4 5:2 4:0 4:2 |", key="A minor"), "keys")
    assert any("open strings do not move" in one.words for one in found.refusals)
    assert all("fingered anew" in one.words for one in found.variants if "string" not in one.words)


# -- compared, chosen, made easier -----------------------------------------------------------------------------


def test_new_movements_are_those_that_the_lick_does_not_have() -> None:
    one = plan(riff(BOX, key="A minor"))
    known = {movement_and_gap(key)[0] for key in movements(one).keys}
    for variant in vary(one, ["order"]).variants:
        own = {movement_and_gap(key)[0] for key in movements(variant.plan).keys}
        assert set(variant.new_movements) == own - known


def test_changes_are_those_of_finger_and_stroke_note_by_note() -> None:
    one = plan(riff(BOX, key="A minor"))
    for variant in vary(one, ["chord", "order"]).variants:
        if len(variant.plan.states) != len(one.states) or variant.words == "backward":
            continue
        changed = {change.step for change in variant.changes}
        pairs = zip(one.states, variant.plan.states, strict=True)
        if variant.by == "chord":
            assert changed == {
                step
                for step, (before, after) in enumerate(pairs)
                if (before.finger, before.stroke, before.sounded) != (after.finger, after.stroke, after.sounded)
            }
        assert all(change.words for change in variant.changes)


def test_five_are_chosen_and_no_way_takes_more_than_two() -> None:
    found = varied(riff(BOX, key="A minor"), "degrees", "order", "chord", "strings")
    five = found.worth_a_week
    assert len(five) == 5
    assert all(sum(one.by == other.by for other in five) <= 2 for one in five)
    first = five[0]
    worth = len(first.new_movements) / max(first.effort / found.lick.cost, 0.5)
    assert worth == max(len(one.new_movements) / max(one.effort / found.lick.cost, 0.5) for one in found.variants)
    assert found.chosen(everything=True) == found.variants


def test_every_capo_and_tuning_that_was_tried_is_priced() -> None:
    found = varied(riff(BOX, key="A minor"), "easier")
    capos = [one for one in found.tried if "capo" in one.words]
    assert [one.riff.capo for one in capos] == [1, 2, 3, 4, 5, 6, 7]
    for one in (*capos, *(each for each in found.tried if "tuning" in each.words)):
        assert melody(one.riff) == melody(riff(BOX))
        assert plan(one.riff).cost == pytest.approx(one.effort)
    assert len(found.every) >= len(found.tried)


def test_every_variant_reads_back_as_it_was_written_and_plans_to_its_effort() -> None:
    found = varied(riff(BOX, key="A minor"), "rhythm", "strings")
    for one in found.variants:
        again = read_riff_text(write_riff_text(one.riff)).riff
        assert heard(again) == heard(one.riff)
        assert plan(again).cost == pytest.approx(one.effort)


def test_easier_versions_are_easier() -> None:
    one = plan(riff("| 6:3/16 5:5 6:3 4:5" + " 6:3 5:5 6:3 4:5" * 3 + " |", tempo=150, key="G"))
    found = vary(one, ["easier"])
    assert found.easiest
    for version in found.easiest:
        faster = not_none(version.ceilings.both) > not_none(one.ceiling)
        assert faster or version.effort < one.cost
    assert found.easiest[0].words.startswith("only the notes on the")


def test_places_with_few_string_changes_are_the_best_of_all_ways() -> None:
    instrument = instrument_for(riff("| 6:0/1 |"))
    midis = [52, 55, 57, 59, 57]
    places = fewest_changes(instrument, midis)

    def price(way: Sequence[Place]) -> float:
        return sum(change_price(one, two) for one, two in pairwise(way))

    every = product(*(instrument.places(midi) for midi in midis))
    assert price(places) == pytest.approx(min(map(price, every)))
    assert [instrument.pitch(place) for place in places] == midis


def test_thinner_keeps_what_is_on_the_beats() -> None:
    units = thinned(units_of(riff("| 5:5/8 5:7 5:8 5:7 4:5 4:7 4:5 4:7 |")), Fraction(1))
    made, _ = laid(riff("| 5:5/4 r/2. |"), not_none(units), "thin")
    assert [onset for onset, _, _ in heard(made)] == [0, 1, 2, 3]


# -- what cannot be done ---------------------------------------------------------------------------------------


def test_what_leaves_the_neck_is_said_with_what_can_be_done() -> None:
    found = varied(riff("| 1:20/4 1:22 1:24 1:22 |", key="E minor"), "strings")
    told = [one.words for one in found.refusals]
    assert any(
        "does not reach; try it an octave away, or on an instrument with more strings" in one for one in told
    )


def test_tones_that_the_scale_does_not_hold_are_told() -> None:
    found = varied(riff("| C4/4 Eb4 F#4 G4 |", key="C major"), "degrees")
    assert found.refusals[0].words.startswith("C major does not hold Eb, F#; such tones stay altered")


def test_without_a_key_degrees_are_refused_and_strings_are_not() -> None:
    one = riff("| 5:0/4 r/2. |")
    found = varied(one, "degrees", "keys", "strings")
    assert any("too few notes to tell a key" in refusal.words for refusal in found.refusals)
    assert all(variant.by == "strings" for variant in found.variants)


def test_a_riff_too_long_is_refused_at_once() -> None:
    bar = "| " + "5:5/16 5:7 " * 8 + "|"
    long = plan(riff(bar * 26))
    with pytest.raises(RiffError, match=r"has 416 notes, and licks of up to 400 are varied; select a passage"):
        vary(long, ["keys"])


def test_two_notes_of_a_chord_that_fall_together_are_not_made_one() -> None:
    found = varied(riff("| {C} (C4 E4 F4)/2 (5:3 4:2) |", key="C"), "chord")
    told = "with thirds suspended to fourths makes two notes of a chord one"
    assert any(one.words.startswith(told) for one in found.refusals)


def test_a_way_that_is_not_known() -> None:
    with pytest.raises(RiffError, match="there is no variation by 'magic'; expected one of keys"):
        varied(riff("| 5:5/1 |"), "magic")


def test_repeats_are_played_once() -> None:
    one = plan(riff("[A] | 5:5/8 5:7 4:5 4:7 r/2 | x3"))
    assert len(once(one).states) == 4
    assert vary(one, ["order"]).lick.cost == pytest.approx(plan(riff("[A] | 5:5/8 5:7 4:5 4:7 r/2 |")).cost)


def test_what_makes_no_other_order_is_said() -> None:
    assert (
        varied(riff("| 5:5/2 5:7 |", key="Am"), "order")
        .refusals[0]
        .words.startswith("Two notes have no other order")
    )
