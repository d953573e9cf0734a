"""Chord shapes: all of them playable, none left out."""

from __future__ import annotations

from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.errors import NoPlanError
from dromic.hands.profile import Hands
from dromic.hands.shapes import find_shapes
from dromic.instrument.presets import instrument_named
from dromic.music.riff import Place
from dromic.planner.told.reasons import model_of, reason_for
from tests.helpers import plan, riff, strokes

GUITAR, HAND = instrument_named("guitar-6"), Hands().fretting


@st.composite
def chords(draw: st.DrawFn) -> list[Place]:
    strings = draw(st.lists(st.integers(1, 6), min_size=2, max_size=4, unique=True))
    base = draw(st.integers(1, 12))
    return [Place(string, draw(st.sampled_from([0, base, base + 1, base + 2]))) for string in sorted(strings)[::-1]]


def independent_fingerings(places: list[Place]) -> set[tuple[int, ...]]:
    """Every assignment of fingers that the rules of docs/model.md allow, by trying all of them."""
    found = set()
    for fingers in product(range(5), repeat=len(places)):
        pairs = list(zip(places, fingers, strict=True))
        if any((place.fret == 0) != (finger == 0) for place, finger in pairs):
            continue
        held = [(finger, place.fret, -place.string) for place, finger in pairs if finger]
        if any(one[0] < two[0] and one[1] > two[1] for one in held for two in held):
            continue
        if any(one[0] == two[0] and one[1] != two[1] for one in held for two in held):
            continue
        # On one fret the thicker string (the smaller last number) takes the lower or the same finger.
        if any(one[1] == two[1] and one[2] < two[2] and one[0] > two[0] for one in held for two in held):
            continue
        blocked = False
        for finger in set(fingers) - {0}:
            own = [place for place, one in pairs if one == finger]
            low, high = max(place.string for place in own), min(place.string for place in own)
            inside = [place for place in places if high <= place.string <= low]
            blocked = blocked or (len(own) > 1 and any(place.fret < own[0].fret for place in inside))
        if not blocked and _reachable(held):
            found.add(fingers)
    return found


def _reachable(held: list[tuple[int, int, int]]) -> bool:
    def reaches(finger: int, fret: int, home: int) -> bool:
        reach = GUITAR.spots[fret] - GUITAR.spots[home] - HAND.spread_mm[finger - 1]
        return -2 <= fret - home - finger + 1 <= 2 and -HAND.crowd_mm <= reach <= HAND.stretch_mm

    homes = range(1, GUITAR.top_fret + 1)
    return any(all(reaches(finger, fret, home) for finger, fret, _ in held) for home in homes)


@given(chords())
@settings(max_examples=120)
def test_all_fingerings_are_found_and_no_others(places: list[Place]) -> None:
    shapes = find_shapes([[place] for place in places], [None] * len(places), GUITAR, HAND)
    found = {tuple(finger for _, _, finger in shape.notes) for shape in shapes}
    assert found == independent_fingerings(places)


@given(st.lists(chords(), min_size=2, max_size=4), st.sampled_from(["least-motion", "economy", "hybrid"]))
@settings(max_examples=40)
def test_reasons_add_up_for_chords_too(row: list[list[Place]], school: str) -> None:
    words = [f"({' '.join(map(str, places))})" for places in row]
    made = riff(f"| {' '.join(words[:1])}/4 {' '.join(words[1:])} 3:2 |", meter=f"{len(words) + 1}/4", tempo=130)
    try:
        planned = plan(made, school, alternatives=3)
    except NoPlanError as error:
        _is_refused_in_words(error)
        return
    model = model_of(planned)
    total = sum(reason_for(planned, step, model).cost for step in range(len(planned.states)))
    assert total == pytest.approx(planned.cost)
    for event in planned.events:
        strings = [note.string for note in event.notes]
        assert len(set(strings)) == len(strings)
        silent = {mute.string for mute in event.mutes}
        assert silent == set(range(1, 7)) - {note.string for note in event.on_the_neck}


def _is_refused_in_words(error: NoPlanError) -> None:
    assert "no hand can hold these notes together" in error.message


def test_a_chord_is_struck_as_one_hit_and_the_pick_goes_on_from_its_end() -> None:
    made = riff("| (6:3 5:5)!d/4 4:5 (6:3 5:5)!u 6:3!u |", tempo=120)
    planned = plan(made)
    assert strokes(planned)[0] == "d"
    assert planned.states[0].ends == 5
    assert planned.states[2].begins == 5
    assert planned.states[2].ends == 6


def test_chords_slide_and_hammer_on_the_same_strings_only() -> None:
    slid = plan(riff("| (6:3 5:5)/2 (6:5 5:7).s |"))
    assert slid.states[1].position - slid.states[0].position == 2
    hammered = plan(riff("| (2:5 1:5)/2 (2:7 1:5).h |"))
    assert str(hammered.events[1].legato) == "h"
    with pytest.raises(NoPlanError, match="cannot be reached from"):
        plan(riff("| (6:3 5:5)/2 (5:5 4:7).s |"))


def test_locked_fingers_of_single_notes_are_kept() -> None:
    notes = plan(riff("| (6:3@2 5:5@4)/1 |")).events[0].notes
    assert [note.finger for note in notes] == [2, 4]
