"""Pitches, scales, chords and metres against music21, a general-purpose library of music theory (BSD)."""

from __future__ import annotations

import warnings
from fractions import Fraction

import pytest

from dromic.formats.musicxml.reader import musicxml_source
from dromic.formats.musicxml.tree import open_score
from dromic.formats.musicxml.writer import write_musicxml
from dromic.instrument.presets import instrument_named
from dromic.music.chords import Chord, parse_chord
from dromic.music.keys import parse_key
from dromic.music.pitch import frequency, parse_pitch
from dromic.music.riff import Place
from dromic.music.scales import FORMULAS, Scale
from dromic.music.tones import parse_tone
from tests.helpers import not_none, plan, riff

with warnings.catch_warnings():
    # What the library's own imports warn of is not ours to mend.
    warnings.simplefilter("ignore")
    import music21

GUITAR = instrument_named("guitar-6")
TONICS = ["C", "D", "E-", "F", "G", "A", "B-", "B", "F#", "C#"]
SCALES = {
    "major": music21.scale.MajorScale,
    "minor": music21.scale.MinorScale,
    "dorian": music21.scale.DorianScale,
    "phrygian": music21.scale.PhrygianScale,
    "lydian": music21.scale.LydianScale,
    "mixolydian": music21.scale.MixolydianScale,
    "harmonic minor": music21.scale.HarmonicMinorScale,
}


def ours(pitch: music21.pitch.Pitch) -> str:
    """The library's name in our spelling."""
    return str(pitch.nameWithOctave).replace("-", "b")


@pytest.mark.parametrize("tonic", TONICS)
@pytest.mark.parametrize("name", SCALES)
def test_every_degree_of_every_scale_has_its_number_and_frequency(name: str, tonic: str) -> None:
    for pitch in SCALES[name](tonic).getPitches(f"{tonic}3", f"{tonic}5"):
        found = parse_pitch(ours(pitch))
        assert found is not None
        assert found.midi == pitch.midi
        assert frequency(found.midi) == pytest.approx(pitch.frequency)


@pytest.mark.parametrize("name", ["m2", "M2", "m3", "M3", "P4", "A4", "P5", "m6", "M6", "m7", "M7", "P8"])
@pytest.mark.parametrize("tonic", ["C4", "E-4", "F#3", "A3"])
def test_intervals_are_as_many_semitones(name: str, tonic: str) -> None:
    interval = music21.interval.Interval(name)
    one, two = music21.pitch.Pitch(tonic), music21.pitch.Pitch(tonic).transpose(interval)
    found = [parse_pitch(ours(pitch)) for pitch in (one, two)]
    assert not_none(found[1]).midi - not_none(found[0]).midi == interval.semitones


SHAPES = {
    "E minor": ("6:0 5:2 4:2 3:0 2:0 1:0", "E", "minor"),
    "A minor": ("5:0 4:2 3:2 2:1 1:0", "A", "minor"),
    "C major": ("5:3 4:2 3:0 2:1 1:0", "C", "major"),
    "D major": ("4:0 3:2 2:3 1:2", "D", "major"),
    "G major": ("6:3 5:2 4:0 3:0 2:0 1:3", "G", "major"),
    "F major": ("6:1 5:3 4:3 3:2 2:1 1:1", "F", "major"),
    "B minor": ("5:2 4:4 3:4 2:3 1:2", "B", "minor"),
    "E minor triad up the neck": ("3:9 2:8 1:7", "E", "minor"),
}


@pytest.mark.parametrize("name", SHAPES)
def test_chord_shapes_sound_the_chords_they_are_named_after(name: str) -> None:
    places, root, quality = SHAPES[name]
    planned = plan(riff(f"| ({places})/1 |"))
    chord = music21.chord.Chord([note.pitch for note in planned.events[0].notes])
    assert chord.root().name == root
    assert chord.quality == quality
    assert len(planned.events[0].notes) == len(places.split())


@pytest.mark.parametrize("root", ["C", "G", "E-", "A"])
@pytest.mark.parametrize("kind", ["major", "minor", "diminished"])
def test_wanted_pitches_of_a_chord_are_all_there(root: str, kind: str) -> None:
    """A triad asked for by its pitches is held somewhere, every note on a string of its own."""
    third = "M3" if kind == "major" else "m3"
    fifth = "d5" if kind == "diminished" else "P5"
    base = music21.pitch.Pitch(f"{root}4")
    wanted = [base, base.transpose(third), base.transpose(fifth)]
    planned = plan(riff(f"| ({' '.join(ours(pitch) for pitch in wanted)})/1 |"))
    notes = planned.events[0].notes
    assert sorted(note.pitch for note in notes) == sorted(pitch.midi for pitch in wanted)
    assert len({note.string for note in notes}) == 3
    chord = music21.chord.Chord([note.pitch for note in notes])
    assert chord.orderedPitchClasses == music21.chord.Chord(wanted).orderedPitchClasses


@pytest.mark.parametrize("midi", range(40, 89))
def test_every_place_of_a_pitch_sounds_it(midi: int) -> None:
    for place in GUITAR.places(midi):
        open_string = music21.pitch.Pitch(midi=GUITAR.pitch(Place(place.string, 0)))
        assert open_string.transpose(place.fret).midi == midi


@pytest.mark.parametrize("meter", ["2/4", "3/4", "4/4", "2/2", "6/8", "9/8", "12/8"])
def test_pulse_alternate_puts_downs_where_the_metre_has_its_accents(meter: str) -> None:
    """Beat strengths of the library: every beat is a down, and stronger than what lies right after it."""
    signature = music21.meter.TimeSignature(meter)
    eighths = int(signature.barDuration.quarterLength * 2)
    made = riff(f"| {'E4/8 ' + 'E4 ' * (eighths - 1)}|", meter=meter)
    school = "jig" if meter.endswith("/8") else "pulse-alternate"
    strokes = {event.moment.beat - 1: str(event.stroke) for event in plan(made, school).events}
    beat = Fraction(signature.beatDuration.quarterLength)
    for number in range(signature.beatCount):
        offset = number * beat
        assert strokes[offset] == "down"
        after = signature.getAccentWeight(float(offset) + 0.5)
        assert signature.getAccentWeight(float(offset)) > after
        if school == "pulse-alternate":
            assert strokes[offset + Fraction(1, 2)] == "up"


# -- scales, keys and chord signs of our own against the library ---------------------------------------------------

OURS_THEIRS = {
    "major": music21.scale.MajorScale,
    "minor": music21.scale.MinorScale,
    "dorian": music21.scale.DorianScale,
    "phrygian": music21.scale.PhrygianScale,
    "lydian": music21.scale.LydianScale,
    "mixolydian": music21.scale.MixolydianScale,
    "locrian": music21.scale.LocrianScale,
    "harmonic minor": music21.scale.HarmonicMinorScale,
    "melodic minor": music21.scale.MelodicMinorScale,
    "whole tone": music21.scale.WholeToneScale,
}


def theirs(name: str) -> str:
    return name.replace("-", "b")


@pytest.mark.parametrize("tonic", TONICS)
@pytest.mark.parametrize("name", OURS_THEIRS)
def test_formulas_give_the_scales_of_the_library(name: str, tonic: str) -> None:
    scale = Scale(not_none(parse_tone(theirs(tonic))), FORMULAS[name])
    found = [pitch.pitchClass for pitch in OURS_THEIRS[name](tonic).getPitches(f"{tonic}3", f"{tonic}4")][:-1]
    assert [tone.pitch_class for tone in scale.tones] == found
    if name != "whole tone":
        library = OURS_THEIRS[name](tonic).getPitches(f"{tonic}3", f"{tonic}4")
        assert [str(tone) for tone in scale.tones] == [theirs(pitch.name) for pitch in library][:-1]


@pytest.mark.parametrize("mode", ["major", "minor", "dorian", "phrygian", "lydian", "mixolydian", "locrian"])
@pytest.mark.parametrize("tonic", TONICS)
def test_signatures_are_those_of_the_library(tonic: str, mode: str) -> None:
    assert not_none(parse_key(f"{theirs(tonic)} {mode}")).fifths == music21.key.Key(tonic, mode).sharps


# Signs that the library reads the same way; it writes flats with a minus.
SIGNS = "C Cm C7 Cmaj7 Cm7 Cdim Cdim7 Cm7b5 Caug C6 Cm6 C9 Cm9 C11 C13 Csus4 Csus2 F#m7 Bbmaj7 A7 Cm11 Gm"


@pytest.mark.parametrize("sign", SIGNS.split())
def test_chord_signs_mean_the_tones_that_they_mean_to_the_library(sign: str) -> None:
    found = not_none(parse_chord(sign))
    library = music21.harmony.ChordSymbol(sign.replace("Bb", "B-") if sign.startswith("Bb") else sign)
    assert {tone.pitch_class for tone in found.tones} == {pitch.pitchClass for pitch in library.pitches}
    assert found.root.pitch_class == library.root().pitchClass


@pytest.mark.parametrize("sign", ["Am7", "D7b9/F#", "C/E", "Gmaj7", "Bm7b5", "F6", "E7#9", "Asus4", "Cdim7"])
def test_chords_in_musicxml_are_those_that_the_library_reads(sign: str) -> None:
    written = write_musicxml(riff(f"| {{{sign}}} 5:7/1 |")).decode()
    score = music21.converter.parse(written, format="musicxml")
    library = next(iter(score.recurse().getElementsByClass("ChordSymbol")))
    found = not_none(parse_chord(sign))
    assert {pitch.pitchClass for pitch in library.pitches} == {tone.pitch_class for tone in found.tones}
    if found.bass is not None:
        assert library.bass().pitchClass == found.bass.pitch_class


@pytest.mark.parametrize(
    "kind", ["major", "minor-seventh", "dominant-ninth", "half-diminished", "suspended-fourth"]
)
def test_chords_that_the_library_writes_are_read(kind: str) -> None:
    stream = music21.stream.Stream()
    part = music21.stream.Part()
    measure = music21.stream.Measure(number=1)
    measure.append(music21.meter.TimeSignature("4/4"))
    symbol = music21.harmony.ChordSymbol(root="B-", kind=kind)
    measure.insert(0, symbol)
    measure.append(music21.note.Note("B-3", type="whole"))
    part.append(measure)
    stream.append(part)
    data = music21.musicxml.m21ToXml.GeneralObjectExporter(stream).parse()
    source = musicxml_source(open_score(data))
    sign = source.read(source.likely).riff.written_events()[0].chord
    assert isinstance(sign, Chord)
    assert {tone.pitch_class for tone in sign.tones} == {pitch.pitchClass for pitch in symbol.pitches}
