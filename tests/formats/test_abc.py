"""ABC in and out. Worked examples: the ABC standard 2.1, from memory."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from dromic.errors import RiffError
from dromic.formats.abc.fields import default_length, read_abc_meter, read_abc_tempo, read_key
from dromic.formats.abc.reader import abc_source
from dromic.formats.abc.writer import write_abc
from dromic.formats.rifftext.writer import write_riff_text
from dromic.hands.profile import hands_named
from dromic.music.pitch import Pitch, parse_pitch
from dromic.music.rhythm import Meter, NoteValue
from dromic.music.riff import Bar, Event, Locks, Mark, Note, Phrase, Riff, Stroke
from dromic.planner.locking import decided_riff
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import school_named
from tests.helpers import not_none
from tests.strategies import METERS, VALUES


def bars(music: str, *, key: str = "C", meter: str = "4/4", length: str = "1/8", extra: str = "") -> str:
    """The riff text of a tune's bars, in one line."""
    found = abc_source(f"X:1\n{extra}T:t\nM:{meter}\nL:{length}\nK:{key}\n{music}\n").read(0)
    lines = [line for line in write_riff_text(found.riff).splitlines() if line.startswith(("|", "[", "{"))]
    return " ".join(lines).replace("| |", "|")


def test_pitches_octaves_and_lengths() -> None:
    # Standard 4.1 and 4.3: C, is an octave below C, c above it; A2 twice, A/2 half, A3/2 one and a half as long.
    assert bars("C, C c c' z4|") == "| C3/8 C4 C5 C6 r/2 |"
    assert bars("A2 A/2A/ A3/2A/ A3 z/2z/|") == "| A4 A4/16 A4 A4/8. A4/16 A4/4. r/16 r |"


def test_key_signature_and_accidentals_hold_through_the_bar() -> None:
    assert bars("F =F F f | F8 |", key="G", meter="2/4", length="1/8").startswith("| F#4/8 F4 F4 F5 |")
    octave = bars("F =F F f|", key="G", meter="2/4", extra="%%propagate-accidentals octave\n")
    assert octave == "| F#4/8 F4 F4 F#5 |"
    assert bars("F =F F f|", key="G", meter="2/4", extra="%%propagate-accidentals not\n") == "| F#4/8 F4 F#4 F#5 |"
    assert bars("^F F | F F |", meter="1/4") == "| F#4/8 F#4 | F4 F4 |"


@pytest.mark.parametrize(
    ("text", "altered"),
    [
        # Standard 3.1.14: the keys with their signs.
        ("G", "F#"),
        ("Gmaj", "F#"),
        ("Em", "F#"),
        ("ADor", "F#"),
        ("D Mix", "F#"),
        ("BPhr", "F#"),
        ("CLyd", "F#"),
        ("F#Loc", "F#"),
        ("Bb", "Bb Eb"),
        ("Gm", "Bb Eb"),
        ("C#", "F# C# G# D# A# E# B#"),
        ("D exp _e ^f", "Eb F#"),
        ("D =c", "F#"),
        ("Hp", "F# C#"),
        ("none", ""),
        ("", ""),
        ("G clef=treble", "F#"),
        ("Dmix=c", "F#"),
        ("Dmix^g", "F# G#"),
        ("clef=bass", ""),
    ],
)
def test_keys(text: str, altered: str) -> None:
    key = read_key(text)
    assert key is not None
    found = {f"{letter}{'#' if alter > 0 else 'b'}" for letter, alter in key.alters.items() if alter}
    assert found == set(altered.split())


def test_fields_of_metre_length_and_tempo() -> None:
    assert [str(read_abc_meter(text)) for text in ("C", "C|", "6/8", "(2+2+3)/8", "none")] == [
        "4/4",
        "2/2",
        "6/8",
        "7/8",
        "None",
    ]
    # Standard 3.1.7: below 0.75 the unit is a sixteenth, else an eighth.
    assert default_length(Meter(2, 4)) == Fraction(1, 16)
    assert default_length(Meter(3, 4)) == Fraction(1, 8)
    assert default_length(None) == Fraction(1, 8)
    assert read_abc_tempo("1/2=120", Fraction(1, 8)) == 240
    assert read_abc_tempo("1/4 3/8 1/4 3/8=40", Fraction(1, 8)) == 200
    assert read_abc_tempo('"Allegro"', Fraction(1, 8)) is None
    with pytest.raises(ValueError, match="0/4"):
        read_abc_meter("0/4")


def test_broken_rhythm() -> None:
    # Standard 4.4: a>b is dotted, a>>b double-dotted, a<b the other way round.
    assert bars("A>B c<d|", meter="2/4") == "| A4/8. B4/16 C5 D5/8. |"
    assert bars("A>>B c<<d|", meter="2/4") == "| A4/8.. B4/32 C5 D5/8.. |"
    assert bars("A>(B c2)|", meter="2/4") == "| A4/8. B4/16 C5/4 |"


def test_tuplets() -> None:
    # Standard 4.13: (3 is three in the time of two, (2 two in the time of three, (p:q:r says it in full.
    assert bars("(3ABc d2|", meter="2/4") == "| A4/8t B4 C5 D5/4 |"
    assert bars("(2AB|", meter="3/8") == "| A4/8. B4 |"
    assert bars("(5:4:5A/B/c/d/e/ f2|", meter="2/4") == "| A4/16q5 B4 C5 D5 E5 F5/4 |"
    assert bars("(3::2 A2B d2|", meter="2/4") == "| A4/4t B4/8t D5/4 |"


def test_grace_notes_and_rolls() -> None:
    assert bars("{g}A2 {ga}B2|", meter="2/4") == "| G5.g A4 G5.g A5.g B4 |"
    assert bars("~A3 z|", meter="2/4", key="D") == "| A4/8 B4.g A4 G4.g A4 r |"
    assert bars("~G2 z2|", meter="2/4", key="D") == "| G4/8 A4.g G4 r/4 |"


def test_strokes_fingers_ties_and_chords() -> None:
    assert bars("uA vB !1!c .d|", meter="2/4") == "| A4!u/8 B4!d C5@1 D5.z |"
    assert bars("A2-A2|A4-|A4|", meter="2/4") == "| A4 A4.t | A4/2 | A4.t |"
    assert bars("[CEG]2 [C2E2]|", meter="2/4") == "| (C4 E4 G4) (C4 E4) |"


def test_repeats_and_endings() -> None:
    assert bars("|:A4|B4:|", meter="2/4") == "| A4/2 | B4 | x2"
    assert bars("|:A4|1 B4:|2 c4|]", meter="2/4") == "| A4/2 | B4 | A4 | C5 |"
    # Standard 4.8: an end without a start goes back to the last double bar line, or to the beginning.
    assert bars("A4|B4:|c4:|", meter="2/4").count("x2") == 2
    assert bars("A4||B4:|", meter="2/4") == "[A] | A4/2 | [B] | B4 | x2"
    assert bars("|:A4::B4:|", meter="2/4").count("x2") == 2
    assert bars("|:A4::|", meter="2/4").endswith("x3")


def test_pickup_joins_the_short_last_bar() -> None:
    found = abc_source("X:1\nT:t\nM:4/4\nL:1/4\nK:C\nG|cdef|g2e:|\n").read(0).riff
    assert found.pickup == 1
    assert found.phrases[0].times == 2
    assert len(found.phrases[0].bars) == 3


def test_a_pickup_of_a_triplet_becomes_a_whole_bar() -> None:
    found = abc_source("X:1\nT:t\nM:4/4\nL:1/8\nK:C\n(3:2:2DEF|cdef gabc|\n").read(0).riff
    assert found.pickup == 0
    assert found.phrases[0].bars[0].quarters == 4


def test_parts_with_other_pickups_keep_their_rhythm() -> None:
    brought = abc_source("X:1\nT:t\nM:4/4\nL:1/4\nK:C\nG|cdef|g2e:|\n|:ef|g2e2|c2:|\n").read(0)
    assert "repeats are written out, because the bars around them are broken" in brought.remarks
    total = sum(bar.quarters for phrase in brought.riff.phrases for bar in phrase.bars)
    # Two rounds of 8 and of 8 quarters, and rests that fill the broken bars between the parts and at the end.
    assert total == 2 * 8 + 2 * 8 + 5
    text = write_riff_text(brought.riff)
    assert text.count("G4") == text.count("E5/4 F5") == 2


def test_books_with_several_tunes_and_voices() -> None:
    source = abc_source("X:1\nT:One\nK:C\nC8|\n\nX:2\nT:Two\nM:4/4\nK:C\nV:up\nc8|\nV:low\nC8|\n")
    assert [(part.name, part.words) for part in source.parts] == [
        ("One", "line 1"),
        ("Two", "voice up"),
        ("Two", "voice low"),
    ]
    assert source.read(1).riff.phrases[0].bars[0].events[0].notes[0].target == Pitch("C", 0, 5)
    assert source.read(2).riff.phrases[0].bars[0].events[0].notes[0].target == Pitch("C", 0, 4)


def played(order: str, music: str) -> str:
    """The names of the notes of a tune whose head says in which order its parts are played."""
    riff = abc_source(f"X:1\nT:t\nP:{order}\nM:1/4\nL:1/4\nK:C\n{music}\n").read(0).riff
    assert all(phrase.times == 1 for phrase in riff.phrases)
    return " ".join(str(event.notes[0].target) for event in riff.written_events())


@pytest.mark.parametrize(
    ("order", "notes"),
    [
        # Standard 3.1.9: parts in any order, times, groups and dots.
        ("AB", "C4 D4"),
        ("ABA", "C4 D4 C4"),
        ("A2.B", "C4 C4 D4"),
        ("(AB)2A", "C4 D4 C4 D4 C4"),
        ("((AB)2B)2", "C4 D4 C4 D4 D4 C4 D4 C4 D4 D4"),
    ],
)
def test_parts_are_played_in_the_order_of_the_head(order: str, notes: str) -> None:
    assert played(order, "P:A\nC|\nP:B\nD|") == notes


def test_a_part_repeats_its_bars_each_time_it_is_played() -> None:
    tune = "X:1\nT:t\nP:ABA\nM:1/4\nL:1/4\nK:C\nP:A\n|:C:|\nP:B\n|:D|1 E:|2 F|]\n"
    riff = abc_source(tune).read(0).riff
    names = [
        str(event.notes[0].target)
        for phrase in riff.phrases
        for _ in range(phrase.times)
        for bar in phrase.bars
        for event in bar.events
    ]
    assert " ".join(names) == "C4 C4 D4 E4 D4 F4 C4 C4"


@pytest.mark.parametrize(
    ("order", "words"),
    [
        ("ABC", "not understood"),
        ("A(B", "not understood"),
        ("Slow first", "not understood"),
        ("A99", "not understood"),
        ("((((A9)9)9)9)9", "not understood"),
        ("B", "leaves parts out"),
    ],
)
def test_an_order_that_cannot_be_followed_is_told(order: str, words: str) -> None:
    brought = abc_source(f"X:1\nT:t\nP:{order}\nM:1/4\nL:1/4\nK:C\nP:A\nC|\nP:B\nD|\n").read(0)
    assert any(words in remark and "P:" in remark for remark in brought.remarks)
    assert len(brought.riff.written_events()) == (1 if order == "B" else 2)


def test_chords_between_plus_signs() -> None:
    # Before standard 2.0; what stands between plus signs since then are decorations (4.14).
    assert bars("+CEG+2 +C2E2+|", meter="2/4").endswith("| (C4 E4 G4) (C4 E4) |")
    assert bars("+f+C2 +ff+E2|", meter="2/4") == "| C4 E4 |"


def test_notes_broken_by_a_line_end() -> None:
    music = "A2 [C\nE] [\nDF] | [G,2B,2\n][EG]2|"
    assert bars(music, meter="2/4") == "| A4 (C4 E4)/8 (D4 F4) | (G3 B3)/4 (E4 G4) |"
    assert bars("A\n2 ^c\n/2c/ z\n|B4|", meter="2/4") == "| A4 C#5/16 C#5 r/8 | B4/2 |"
    # What begins like a chord and is none stays as it is.
    assert bars("A2 A2 |[\nB4|", meter="2/4") == "| A4 A4 | B4/2 |"
    assert bars("A4 [\n|B4|", meter="2/4") == "| A4/2 | B4 |"


def test_ornaments_and_words_inside_a_chord_are_no_notes() -> None:
    assert bars('[!fermata!C"Am"E]2 [!accent!C!1!G]2|', meter="2/4") == "| (C4 E4) (C4 G4).> |"


def test_a_lone_bracket_is_no_chord() -> None:
    assert bars("[C2 E2 |D2[FA]2|]", meter="2/4") == "| C4 E4 | D4 (F4 A4) |"


def test_signs_that_a_mail_program_has_coded() -> None:
    assert bars("=3DF2 G2 |=20\nA2 =\nB2 |", key="G", meter="2/4") == "| F4 G4 | A4 B4 |"


def test_tuplets_of_five_without_a_time_are_read_as_their_bar_asks() -> None:
    # Standard 4.13 has (5 in the time of two, or of three in compound metres; many books mean four.
    assert bars("(5ABcde f4|", meter="4/4") == "| A4/8q5 B4 C5 D5 E5 F5/2 |"
    assert bars("(5:2:5A2B2c2d2e2 f4|", meter="4/4").startswith("| A4/8q5")
    brought = abc_source("X:1\nT:t\nM:4/4\nL:1/8\nK:C\n(5ABcde f4|\n").read(0)
    assert any("as their bar asks" in remark for remark in brought.remarks)


def test_what_is_not_understood_is_told() -> None:
    brought = abc_source("X:1\nT:t\nM:9\nK:C\n(A B) MA | § A7 & c8 |\n").read(0)
    told = " ".join(brought.remarks)
    for words in ("slurs", "ornaments", "second voice", "metre is not understood", "'§'", "no tempo"):
        assert words in told


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "no tune in it"),
        ("T:no number\nK:C\nABc\n", "no tune in it"),
        ("X:1\nT:t\nABc\n", "no tune in it"),
        ("X:1\nT:t\nK:C\nz4|\n", "no notes"),
        ("X:1\nK:C\n" + "C" * 300 + "|\n", "too long for any metre"),
        ("X:1\nL:1/1\nK:C\n" + "|:C99C99C99:::::::::::|" * 300, "more than 20000 notes|too long"),
    ],
)
def test_bad_tunes(text: str, words: str) -> None:
    with pytest.raises(RiffError, match=words):
        abc_source(text).read(0)


NAMES = ["C4", "C#4", "D4", "Eb4", "E4", "F4", "F#4", "G4", "Ab4", "A4", "Bb4", "B4", "C5", "B3", "C3", "A5"]


@st.composite
def tunes(draw: st.DrawFn) -> Riff:
    """Riffs that ABC can say in full."""
    meter = draw(st.sampled_from(METERS))
    phrases = []
    for number in range(draw(st.integers(1, 3))):
        own = []
        for _ in range(draw(st.integers(1, 3))):
            events: list[Event] = []
            left = meter.bar
            while left > 0:
                fitting = [value for value in VALUES if value.quarters * (value.tuplet or 1) <= left]
                value = draw(st.sampled_from(fitting or VALUES[3:4]))
                for _ in range(value.tuplet or 1):
                    events.append(draw(_event(value)))
                left -= value.quarters * (value.tuplet or 1)
            own.append(Bar(tuple(events)))
        phrases.append(Phrase(tuple(own), f"P{number}", draw(st.sampled_from([1, 2, 3]))))
    key = draw(st.sampled_from(["C", "G", "Bb", "E minor", "A dor"]))
    assume(any(event.notes for phrase in phrases for bar in phrase.bars for event in bar.events))
    return Riff(tuple(phrases), title="t", meter=meter, key=key, tempo=draw(st.sampled_from([90.0, 132.5])))


@st.composite
def _event(draw: st.DrawFn, value: NoteValue) -> Event:
    names = draw(
        st.lists(
            st.sampled_from(
                [
                    "C4",
                    "C#4",
                    "D4",
                    "Eb4",
                    "E4",
                    "F4",
                    "F#4",
                    "G4",
                    "Ab4",
                    "A4",
                    "Bb4",
                    "B4",
                    "C5",
                    "B3",
                    "C3",
                    "A5",
                ]
            ),
            max_size=3,
        )
    )
    pitches = {not_none(parse_pitch(name)).midi: parse_pitch(name) for name in names}
    notes = tuple(Note(not_none(pitches[midi])) for midi in sorted(pitches))
    if not notes:
        return Event(value)
    marks = frozenset(draw(st.sets(st.sampled_from([Mark.ACCENT, Mark.STACCATO]))))
    stroke = draw(st.sampled_from([None, None, Stroke.DOWN, Stroke.UP]))
    finger = draw(st.sampled_from([None, 1, 4])) if len(notes) == 1 else None
    return Event(value, notes, marks, Locks(stroke, finger))


@given(tunes())
@settings(max_examples=30)
def test_a_tune_comes_back_as_it_was_written(riff: Riff) -> None:
    text, remarks = write_abc(riff)
    assert not remarks
    assert abc_source(text).read(0).riff == riff


def test_a_plan_is_written_with_its_strokes_and_fingers() -> None:
    riff = abc_source("X:1\nT:t\nM:4/4\nK:G\nGABc dedB|\n").read(0).riff
    plan = plan_riff(riff, Request(hands_named("medium"), school_named("pulse-alternate")))
    text, remarks = write_abc(decided_riff(plan))
    assert text.count("v") + text.count("u") == 8
    assert any("strings and frets" in one for one in remarks)
    again = abc_source(text).read(0).riff
    strokes = [event.locks.stroke for event in again.written_events()]
    assert strokes == [state.stroke for state in plan.states]


def test_what_abc_cannot_say_is_told() -> None:
    riff = Riff((Phrase((Bar((Event(VALUES[0], (Note(Pitch("A", 0, 3)),), frozenset({Mark.PALM_MUTE})),)),)),))
    riff = replace(riff, meter=Meter(1, 4), comments=("mine",), capo=2)
    _, remarks = write_abc(riff)
    assert remarks == (
        "comments are left out",
        "ABC cannot say: palm mute",
    )
