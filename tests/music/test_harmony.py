"""Keys, chord signs and what notes are in them; chords written in riffs and kept through changes."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic.errors import RiffError
from dromic.formats.rifftext.edit import edited_text
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.music import editing
from dromic.music.chords import QUALITIES, Chord, NoChord, parse_chord, parse_sign
from dromic.music.harmony import chords_in_time, note_harmony
from dromic.music.key_finding import key_of_notes
from dromic.music.keys import circle_of_fourths, parse_key
from dromic.music.rhythm import NoteValue
from dromic.music.riff import Event, Note, Place
from dromic.music.scales import FORMULAS, Scale, formula_named, outside
from dromic.music.timeline import timeline
from dromic.music.tones import Tone, parse_tone
from dromic.planner.told.plan_harmony import harmony_of, key_of
from tests.helpers import not_none, plan, riff

ROOTS = ["C", "F#", "Bb", "Eb", "G", "C#", "Ab"]


def signs(text: str) -> list[str]:
    return [str(event.chord) for event in riff(text).written_events() if event.chord is not None]


@given(
    root=st.sampled_from(ROOTS), quality=st.sampled_from(list(QUALITIES)), bass=st.sampled_from(["", "/E", "/Bb"])
)
def test_a_sign_that_is_written_reads_as_the_chord_it_was(root: str, quality: str, bass: str) -> None:
    chord = not_none(parse_chord(f"{root}{quality}{bass}"))
    assert parse_chord(str(chord)) == chord
    assert chord.quality.sign == quality


@pytest.mark.parametrize(
    ("written", "meant"),
    [("CM7", "Cmaj7"), ("C-7", "Cm7"), ("Cø", "Cm7b5"), ("C+", "Caug"), ("Csus", "Csus4"), ("C7(b9)", "C7b9")],
)
def test_several_ways_of_writing_are_read_and_one_is_written(written: str, meant: str) -> None:
    assert str(parse_chord(written)) == meant


@pytest.mark.parametrize("written", ["", "H7", "Cmaj77", "C7(b)", "Chord", "m7", "C/H", "C7b4"])
def test_signs_that_mean_nothing_are_not_guessed(written: str) -> None:
    assert parse_chord(written) is None


def test_chords_stand_before_the_note_where_they_begin() -> None:
    text = "| {Am7} 5:7/8 5:8 {D7/F#} 4:5 4:7 {N.C.} r/2 |"
    assert signs(text) == ["Am7", "D7/F#", "N.C."]
    again = read_riff_text(write_riff_text(riff(text))).riff
    assert again.phrases == riff(text).phrases


@pytest.mark.parametrize(
    ("bars", "message"),
    [
        ("| {Hm} 5:7/1 |", r"2:3: found '{Hm}', expected a metre, a tempo or a chord"),
        ("| {Amaj77} 5:7/1 |", r"2:3: found '{Amaj77}', expected a chord sign that means something"),
        ("| {Am} {G} 5:7/1 |", r"2:8: two chord signs stand before one note, '{Am}' and '{G}'"),
        ("| 5:7/1 | {Am}", r"2:11: the chord sign '{Am}' stands before nothing"),
    ],
)
def test_a_chord_that_cannot_be_read_is_told_with_its_place(bars: str, message: str) -> None:
    with pytest.raises(RiffError, match=message):
        read_riff_text(f"tempo: 90\n{bars}\n")


def test_chords_stay_where_they_begin_when_notes_change() -> None:
    one = riff("| {Am7} 5:7/4 5:8 {D7} 4:5 4:7 |")
    silent = editing.silence(one, 2)
    assert str(silent.written_events()[2].chord) == "D7"
    shorter = editing.delete(one, 2)
    assert str(shorter.written_events()[2].chord) == "D7"
    longer = editing.insert(one, 0, [Event(NoteValue(4), (Note(Place(5, 5)),))])
    assert [str(event.chord) for event in longer.written_events()[:2]] == ["Am7", "None"]
    held = editing.change(one, 0, lambda event: Event(NoteValue(2), event.notes))
    assert str(held.written_events()[0].chord) == "Am7"


def test_a_chord_that_is_set_changes_the_text_only_there() -> None:
    text = "tempo:  90  # slow\n|  5:7/4   {G} 5:8  4:5 4:7  |\n"
    reading = read_riff_text(text)
    changed, read = edited_text(text, reading, editing.set_sign(reading.riff, 1, parse_chord("C/E")))
    assert changed == "tempo:  90  # slow\n|  5:7/4   {C/E} 5:8  4:5 4:7  |\n"
    assert read.riff.written_events()[1].chord == parse_chord("C/E")


def test_a_chord_holds_on_until_the_next_through_repeats() -> None:
    moments = timeline(riff("[A] | {Am} 5:7/2 5:8 | x2 | {G} 5:7/2 {N.C.} 5:8 |"))
    assert [str(chord) for chord in chords_in_time(moments)] == ["Am"] * 4 + ["G", "None"]


def test_notes_know_their_degree_and_their_chord_tone() -> None:
    found = note_harmony(70, parse_key("C"), parse_chord("C7"))
    assert (found.name, str(found.degree), str(found.chord_tone), found.in_key) == ("Bb", "b7", "b7", False)
    assert note_harmony(64, None, None).words == "E"


def test_the_plan_tells_where_the_old_check_holds() -> None:
    bar = riff("| {Am} 5:0/8 5:2 5:3 5:0 {Am} 5:3!u 5:2 5:0 5:3 |", key="A minor")
    harmony = harmony_of(plan(bar, "pulse-alternate"))
    assert harmony.downs.told
    assert len(harmony.downs.holds) == 3
    assert harmony.downs.fails == (4,)
    assert not harmony_of(plan(riff("| 5:0/4 5:2 5:3 5:0 |"))).downs.told


def test_shapes_of_the_neck_are_called_by_their_open_chords() -> None:
    box = plan(riff("| 6:5/8 6:8 5:5 5:7 4:5 4:7 3:5 3:7 |", key="A minor"))
    assert harmony_of(box).shapes[0].words == "E shape of A minor, position 5: root on string 6 under finger 1"
    other = plan(riff("| 5:3/8 4:2 4:5 3:2 3:4 3:5 2:3 2:5 |", key="C major"))
    assert harmony_of(other).shapes[0].shape in ("A", "C")
    drop = plan(riff("| 6:5/8 6:7 5:5 5:7 4:5 4:7 3:5 3:7 |", key="G major", tuning="drop"))
    assert harmony_of(drop).shapes[0].shape == ""


def test_a_key_is_written_or_told_or_not_known() -> None:
    assert key_of(riff("| 5:3/4 5:5 4:2 4:3 |", key="D dorian")).written
    told = key_of(riff("| C4/8 D4 E4 F4 G4 A4 B4 C5 | G4/4 E4 C4/2 |"))
    assert str(told.key) == "C major"
    assert "told from the notes" in told.words
    few = key_of(riff("| 6:0/1 |"))
    assert few.key is None
    assert "too few notes to tell a key" in few.words
    odd = key_of(riff("| 6:0/1 |", key="the blue one"))
    assert "The header's key 'the blue one' is none that is known" in odd.words


@given(key=st.sampled_from(["C", "Am", "D dorian", "F#m", "Eb"]), by=st.integers(0, 11))
def test_a_key_that_is_told_moves_with_its_notes(key: str, by: int) -> None:
    scale = not_none(parse_key(key)).scale
    first = scale.step(60 + scale.tonic.pitch_class).number
    notes = [scale.up(60 + scale.tonic.pitch_class, step) for step in (0, 1, 2, 4, 3, 2, 1, 0, 4, 0)]
    assert first >= 0
    one = key_of_notes(notes, [1.0] * len(notes))
    other = key_of_notes([note + by for note in notes], [1.0] * len(notes))
    assert (not_none(other).key.tonic.pitch_class - not_none(one).key.tonic.pitch_class) % 12 == by


@given(key=st.sampled_from(["C major", "A minor", "G mixolydian", "E phrygian"]))
def test_twelve_fourths_are_the_key_again(key: str) -> None:
    keys = circle_of_fourths(not_none(parse_key(key)))
    assert len({one.tonic.pitch_class for one in keys}) == 12
    assert keys[-1].up(5).tonic.pitch_class == keys[0].tonic.pitch_class


@given(name=st.sampled_from(list(FORMULAS)), tonic=st.sampled_from(ROOTS), midi=st.integers(30, 90))
def test_as_many_degrees_as_a_scale_has_are_an_octave(name: str, tonic: str, midi: int) -> None:
    scale = Scale(not_none(parse_tone(tonic)), FORMULAS[name])
    assert scale.up(midi, scale.size) == midi + 12
    assert scale.up(scale.up(midi, 3), -3) == midi or not scale.holds(midi)
    assert scale.spelled(midi).midi == midi


def test_scales_say_what_they_do_not_hold() -> None:
    assert outside(Scale(Tone("C"), FORMULAS["major"]), [60, 63, 66, 75]) == ("Eb", "F#")
    with pytest.raises(RiffError, match="there is no scale 'doric'; expected one of major"):
        formula_named("doric")


def test_no_chord_is_a_sign_of_its_own() -> None:
    assert parse_sign("N.C.") == NoChord()
    assert isinstance(parse_sign("G"), Chord)
