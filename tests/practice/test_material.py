"""Material: scales, arpeggios, strings, rolls and walking lines hold what their names say, and can be planned."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise, product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.errors import RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.instrument.presets import PRESETS, instrument_for, instrument_named
from dromic.music.chords import QUALITIES, parse_chord
from dromic.music.keys import parse_key
from dromic.music.riff import Place, Riff
from dromic.music.scales import FORMULAS, Scale
from dromic.music.tones import parse_tone
from dromic.practice.coverage.cells import INSIDE
from dromic.practice.material.arpeggios import shape, substitutes
from dromic.practice.material.catalogue import AIMS, material, serving
from dromic.practice.material.pieces import Asked, Family
from dromic.practice.material.scale_runs import along_string, in_position, notes_a_string, sequence
from dromic.practice.material.walking import BEATS, layers_of, price_of, walk
from tests.helpers import not_none, plan, riff

GUITAR = instrument_named("guitar-6")
ROOTS = ["C", "F#", "Bb", "Eb", "A"]


def asked(key: str = "A minor", chord: str = "Am7", **more: object) -> Asked:
    head = riff("| r/1 |", tempo=90)
    known = not_none(parse_key(key))
    made = Asked(head, known, known.scale.formula, not_none(parse_chord(chord)))
    return replace(made, **more)  # type: ignore[arg-type]


def pitches(one: Riff) -> list[int]:
    instrument = instrument_for(one)
    return [instrument.pitch_of(note.target) for event in one.written_events() for note in event.notes]


@given(st.sampled_from(list(FORMULAS)), st.sampled_from(ROOTS), st.integers(1, 12))
def test_layouts_hold_the_scale_and_nothing_else_and_rise(name: str, tonic: str, position: int) -> None:
    scale = Scale(not_none(parse_tone(tonic)), FORMULAS[name])
    for places in (in_position(GUITAR, scale, position), notes_a_string(GUITAR, scale, position)):
        midis = [GUITAR.pitch(place) for place in places]
        assert all(scale.holds(midi) for midi in midis)
        assert all(one < two for one, two in pairwise(midis))
        assert not midis or (midis[0] - scale.tonic.pitch_class) % 12 == 0
        # No tone between the first and the last is left out.
        assert [midi for midi in range(midis[0], midis[-1] + 1) if scale.holds(midi)] == midis if midis else True
    assert {place.string for place in along_string(GUITAR, scale, 3)} == {3}


def test_three_notes_a_string_are_three_and_a_pentatonic_has_two() -> None:
    major = Scale(not_none(parse_tone("G")), FORMULAS["major"])
    counts = [
        sum(place.string == string for place in notes_a_string(GUITAR, major, 3)) for string in range(6, 0, -1)
    ]
    assert counts == [3] * 6
    five = Scale(not_none(parse_tone("A")), FORMULAS["minor pentatonic"])
    places = notes_a_string(GUITAR, five, 5)
    # The first box, as every book has it.
    assert " ".join(map(str, places)) == "6:5 6:8 5:5 5:7 4:5 4:7 3:5 3:7 2:5 2:8 1:5 1:8"


def test_sequences_go_up_by_their_figure_and_come_back() -> None:
    run = [Place(5, fret) for fret in range(1, 7)]
    frets = [place.fret for place in sequence(run, (0, 1, 2))]
    assert frets[:6] == [1, 2, 3, 2, 3, 4]
    assert frets == frets[::-1]


@settings(deadline=None)
@given(st.sampled_from(list(QUALITIES)), st.sampled_from(ROOTS), st.integers(2, 6), st.integers(1, 12))
def test_shapes_have_the_chord_in_order_under_one_hand(
    quality: str, root: str, strings: int, position: int
) -> None:
    chord = not_none(parse_chord(f"{root}{quality}"))
    places = shape(GUITAR, chord, list(range(strings, 0, -1)), position)
    tones = {tone.pitch_class for tone in chord.tones}
    midis = [GUITAR.pitch(place) for place in places]
    assert all(midi % 12 in tones for midi in midis)
    for one, two in pairwise(midis):
        assert not [between for between in range(one + 1, two) if between % 12 in tones]
    if places:
        assert midis[0] % 12 == chord.root.pitch_class
        assert {place.string for place in places} == set(range(1, strings + 1))
        frets = [place.fret for place in places if place.fret]
        assert max(frets, default=0) - min(frets, default=0) <= 5


def test_what_stands_in_for_a_chord() -> None:
    told = {words: str(other) for words, other in substitutes(not_none(parse_chord("C7")))}
    assert told == {"tritone substitute": "Gb7", "from its third": "Em7b5"}
    assert [str(other) for _, other in substitutes(not_none(parse_chord("Am7")))] == ["Cmaj7"]


@pytest.mark.parametrize("family", list(Family))
@pytest.mark.parametrize("instrument", ["guitar-6", "bass-4", "guitar-8"])
def test_every_family_reads_back_and_plans(family: Family, instrument: str) -> None:
    assert instrument in PRESETS
    made = material(family, asked(head=riff("| r/1 |", tempo=90, instrument=instrument)))
    assert made
    assert len({one.name for one in made}) == len(made)
    for one in made[:: max(len(made) // 3, 1)]:
        again = read_riff_text(write_riff_text(one.riff)).riff
        assert again.phrases == one.riff.phrases
        assert plan(again).ceiling


def test_the_chords_of_a_key_come_in_order() -> None:
    made = material(Family.CHORDS_OF_KEY, asked("C major"))[0]
    roots = [pitches(made.riff)[at] % 12 for at in range(0, 28, 4)]
    assert sorted(roots) == [0, 2, 4, 5, 7, 9, 11]
    assert [(two - one) % 12 for one, two in pairwise(roots)] == [2, 2, 1, 2, 2, 2]


def test_chords_want_a_scale_of_seven() -> None:
    with pytest.raises(RiffError, match="A minor pentatonic has 5 tones, and chords are stacked"):
        material(Family.CHORDS_OF_KEY, asked(scale=FORMULAS["minor pentatonic"]))


def test_a_position_beyond_the_neck_is_refused() -> None:
    with pytest.raises(RiffError, match="position 30 is beyond the neck; choose 1 to 21"):
        material(Family.FINGERS, asked(position=30))


@settings(deadline=None, max_examples=25)
@given(
    st.lists(
        st.tuples(st.sampled_from(ROOTS), st.sampled_from(["7", "m7", "maj7", "m7b5", ""])), min_size=1, max_size=6
    )
)
def test_walking_lines_keep_their_rules(chords: list[tuple[str, str]]) -> None:
    changes = [not_none(parse_chord(f"{root}{quality}")) for root, quality in chords]
    bass = instrument_named("bass-4")
    line = walk(bass, changes, bass.lowest)
    assert line is not None
    assert all(one != two for one, two in pairwise(line))
    for number, chord in enumerate(changes):
        assert line[BEATS * number] % 12 == chord.root.pitch_class
        target = changes[(number + 1) % len(changes)].root.pitch_class
        assert (line[BEATS * number + 3] - target) % 12 in (1, 2, 7, 10, 11)
    assert max(abs(one - two) for one, two in pairwise(line)) <= 12


def test_walking_lines_are_the_best_of_all_that_keep_the_rules() -> None:
    bass, changes = instrument_named("bass-4"), [not_none(parse_chord("G7"))]
    layers = layers_of(bass, changes, bass.lowest)
    every = product(*([one.midi for one in layer] for layer in layers))
    best = min(price_of(way, layers) for way in every if all(one != two for one, two in pairwise(way)))
    assert price_of(not_none(walk(bass, changes, bass.lowest)), layers) == pytest.approx(best)


def test_an_aim_is_served_by_what_trains_it_most() -> None:
    request = plan(riff("| 5:5/1 |"))
    found = serving("inside", asked(), _request(request.school.name))
    best = found[0]
    assert "inside" in best.material.name
    assert best.share == max(one.share for one in found)
    inside = sum(count for cell, count in best.covers.counts.items() if cell.row == INSIDE)
    assert inside / sum(best.covers.counts.values()) == pytest.approx(best.share)
    with pytest.raises(RiffError, match="there is no aim 'speed'; expected one of weak fingers"):
        serving("speed", asked(), _request("least-motion"))


def test_rolls_with_the_fourth_finger_have_it() -> None:
    found = serving("rolls with finger 4", asked(), _request("least-motion"))
    assert found
    assert all(" 4" in one.material.name.split(" on ")[0] for one in found)
    assert len(AIMS) >= 7


def _request(school: str):  # type: ignore[no-untyped-def]
    from dromic.hands.profile import hands_named
    from dromic.planner.request import Request
    from dromic.schools.registry import school_named

    return Request(hands_named("medium"), school_named(school))
