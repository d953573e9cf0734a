from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.errors import RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.music.pitch import Pitch
from dromic.music.rhythm import Meter, NoteValue, Swing
from dromic.music.riff import Locks, Mark, Place, Riff, Stroke
from tests.helpers import riff
from tests.strategies import riffs


@given(riffs())
@settings(max_examples=30)
def test_what_is_written_reads_back_the_same(made: Riff) -> None:
    text = write_riff_text(made)
    read = read_riff_text(text).riff
    assert read == made
    assert write_riff_text(read) == text


def check_refusal(error: RiffError) -> None:
    assert error.line is not None
    assert error.column is None or error.column >= 1
    assert len(error.message) > 15


@given(st.text(max_size=80))
@settings(max_examples=60)
def test_any_text_is_read_or_refused_in_words(text: str) -> None:
    try:
        reading = read_riff_text(text)
    except RiffError as error:
        check_refusal(error)
    else:
        assert read_riff_text(write_riff_text(reading.riff)).riff == reading.riff


WORDS = st.sampled_from(
    [
        "|",
        "x2",
        "[A]",
        "r/4",
        "6:0/8",
        "5:7.m>",
        "(6:6 5:8)/4",
        "E4.h/16",
        "D4.p",
        "C#4!d@3^5",
        "3:5.g",
        "x",
        "/8",
        "#",
    ]
)


@given(st.lists(st.one_of(WORDS, st.text("0123456789:./!@^|()[]mhpsbx# \n", max_size=6)), max_size=25))
@settings(max_examples=60)
def test_near_misses_are_refused_in_words(words: list[str]) -> None:
    try:
        read_riff_text("meter: 4/4\n" + " ".join(words))
    except RiffError as error:
        check_refusal(error)


def test_every_kind_of_note() -> None:
    read = riff(
        "| 6:0.m/8 C#4 Bb2.>! r".replace("!", "!u")
        + " (6:6 5:8)!d/4 5:7.h@3^5/16 5:5.p 5:5.t/8 | 3:7.b2/4 3:7.r 3:9.sv 2:5.g 2:8.xz |"
    )
    first, second = read.phrases[0].bars
    what = [event.notes[0].target if event.notes else None for event in first.events]
    assert what[:4] == [Place(6, 0), Pitch("C", 1, 4), Pitch("B", -1, 2), None]
    assert first.events[2].locks == Locks(Stroke.UP)
    assert [str(note.target) for note in first.events[4].notes] == ["6:6", "5:8"]
    assert first.events[4].locks.stroke is Stroke.DOWN
    assert first.events[5].locks == Locks(None, 3, 5)
    assert first.events[7].marks == {Mark.TIE}
    assert second.events[0].marks == {Mark.BEND_WHOLE}
    assert second.events[1].marks == {Mark.RELEASE}
    assert second.events[2].marks == {Mark.SLIDE, Mark.VIBRATO}
    assert second.events[3].grace
    assert second.events[3].quarters == 0
    assert second.events[4].marks == {Mark.DEAD, Mark.STACCATO}


def test_durations_stay_in_force() -> None:
    read = riff("| 6:0/8 6:0 6:0/8. 6:0/16 6:0/8t 6:0 6:0 6:0/16q5 6:0 6:0 6:0 6:0 |")
    values = [event.value for event in read.phrases[0].bars[0].events]
    assert values[:5] == [NoteValue(8), NoteValue(8), NoteValue(8, 1), NoteValue(16), NoteValue(8, tuplet=3)]
    assert sum(value.quarters for value in values) == 4


def test_a_lock_may_stand_after_the_duration() -> None:
    assert riff("| 6:0/1!d |") == riff("| 6:0!d/1 |")


def test_headers() -> None:
    read = riff(
        "| 4:0/4. 4:0 | 4:0/4. 4:0 |",
        title="A: tale #2",
        instrument="bass-5",
        tuning="B0 E1 A1 D2 F#2",
        capo="2",
        tempo="92.5",
        meter="6/8",
        swing="16 57%",
        gain="high",
        key="E minor",
        section="verse",
    )
    assert read.title == "A: tale #2"
    assert (read.instrument, read.capo, read.tempo, read.meter) == ("bass-5", 2, 92.5, Meter(6, 8))
    assert read.swing == Swing(Fraction(57, 100), 16)
    assert (read.gain, read.key, read.section) == ("high", "E minor", "verse")


def test_phrases_and_repeats() -> None:
    read = riff("[A] | 6:0/1 | x3 [B] | 6:1/1 | 6:2/1 | x2 | 6:3/1 |")
    assert [(phrase.name, len(phrase.bars), phrase.times) for phrase in read.phrases] == [
        ("A", 1, 3),
        ("B", 2, 2),
        (None, 1, 1),
    ]


def test_pickup_and_the_short_bar_that_makes_room_for_it() -> None:
    read = riff("[A] | 1:0/8 | 1:0/4 1:0 1:0 1:0/8 | x2", pickup="1/8", meter="4/4")
    assert [bar.quarters for bar in read.phrases[0].bars] == [Fraction(1, 2), Fraction(7, 2)]


def test_comments_are_kept() -> None:
    text = "# about it\ntitle: A\n\n| 6:0/1 |  # low\n# before\n| 6:1/1 |\n# the end\n"
    read = read_riff_text(text).riff
    assert read.comments == ("about it",)
    assert read.phrases[0].bars[0].comment == "low"
    assert read.phrases[0].bars[1].lead == ("before",)
    assert read.tail == ("the end",)
    assert read_riff_text(write_riff_text(read)).riff == read


def test_places_of_events() -> None:
    spans = read_riff_text("tempo: 90\n| 6:0/2\n  C3/2 |").spans
    assert [(span.line, span.start, span.end) for span in spans] == [(2, 3, 8), (3, 3, 7)]


ERRORS = [
    ("| 6:0/4 6:0 6:0 |", 17, r"found a bar of 3 quarter notes, expected 4 .*1 quarter note missing.*'r/4'"),
    ("| 6:0/1 6:0/4 |", 15, r"found a bar of 5 .* 1 quarter note too many; shorten it"),
    ("| 7:0/1 |", 3, r"found string 7, but guitar-6 has strings 1 \(thinnest\) to 6; for example '6:0'"),
    ("| 6:25/1 |", 5, r"found fret 25, but guitar-6 has 24 frets; for example '6:12'"),
    ("| e4/1 |", 3, r"found 'e4'; pitches are written with a capital letter: 'E4'"),
    ("| H4/1 |", 3, r"found 'H4', expected a note as string:fret such as 5:7, a pitch"),
    ("| A9/1 |", 3, r"A9 cannot be played on guitar-6 in this tuning; it reaches from E2 to E6"),
    ("| 6:0.q/1 |", 7, r"found 'q', expected a mark after the dot .*for example '5:7.m'"),
    ("| 6:0./1 |", 6, r"a dot wants marks after it"),
    ("| 6:0.mm/1 |", 8, r"the mark 'm' \(palm mute\) stands twice"),
    ("| 6:0/4 6:1.hp |", 14, r"'h' \(hammer-on\) and 'p' \(pull-off\) contradict each other"),
    ("| 6:0.b/1 |", 7, r"found 'b/'|found 'b'"),
    ("| 6:0/3 |", 6, r"found '/3', expected a duration: /4 quarter"),
    ("| 6:0/8/8 |", 8, r"the duration stands twice"),
    ("| 6:0/8.m |", 6, r"expected a duration: .*marks come before it"),
    ("| 6:0!x/1 |", 6, r"found '!x', expected !d or !u for the stroke"),
    ("| 6:0!d!u/1 |", 8, r"the stroke is locked twice"),
    ("| 6:0@5/1 |", 6, r"found '@5', expected a fretting finger @1 to @4"),
    ("| 6:5@1@2/1 |", 8, r"the finger is locked twice"),
    ("| 6:5^0/1 |", 6, r"found '\^0', expected a hand position \^1 to \^24"),
    ("| 6:5^3^4/1 |", 8, r"the position is locked twice"),
    ("| (6:0 5:0/4 |", 3, r"this parenthesis is not closed in its line"),
    ("| (6:0)/1 |", 4, r"a chord needs two notes or more"),
    ("| (6:0 6:1)/1 |", 8, r"string 6 is used twice in one chord"),
    ("| (6:0/8 5:0) |", 7, r"a duration stands after the parenthesis"),
    ("| (6:0!d 5:0)/1 |", 7, r"belong to the whole chord"),
    ("| r.m/1 |", 4, r"a rest takes no marks and no locks"),
    ("| 6:0.g/8 6:0/1 |", 8, r"a grace note takes its time from the note after it"),
    ("| 6:0/1 6:0.g |", 9, r"a grace note leads to nothing"),
    ("| 6:0.g r/1 |", 9, r"a grace note leads to a rest"),
    ("| 6:0/2 6:1.t |", 9, r"a tie goes on sounding the note before it"),
    ("[A] [B] | 6:0/1 |", 1, r"the phrase \[A\] has no bars"),
    ("[] | 6:0/1 |", 1, r"found '\[\]', expected a phrase name in brackets"),
    ("x3 | 6:0/1 |", 1, r"x3 repeats nothing; write bars before it"),
    ("| 6:0/1 | x100", 11, r"found x100, expected x1 to x99"),
    ("| 6:0/4 [B] 6:0/1 |", 9, r"a phrase mark stands at a bar line, but this bar has only 1 quarter note"),
    ("| 6:0/1 |\ntempo: 90", 1, r"found the header line 'tempo' among the bars"),
    ("| 6:0/1 | {4/5} | 6:0 |", 11, r"found '\{4/5\}', expected a metre, a tempo or a chord in braces"),
    ("| 6:0/1 | {3/4} | 6:0 |", 23, r"expected 3 quarter notes for a bar of 3/4: 1 quarter note too many"),
    ("| 6:0/2 {3/4} 6:0 |", 9, r"a metre change stands at a bar line, but this bar has only 2 quarter notes"),
    ("| 6:0/1 | {3/4}", 16, r"no bar follows the change to 3/4"),
    ("", 1, r"there are no bars yet; write some, for example"),
    ("|||", 4, r"there are no bars yet"),
]


@pytest.mark.parametrize(("bars", "column", "message"), ERRORS, ids=[bars or "nothing" for bars, _, _ in ERRORS])
def test_errors_name_place_find_and_way_out(bars: str, column: int, message: str) -> None:
    with pytest.raises(RiffError, match=message) as caught:
        read_riff_text("title: A\n" + bars)
    assert caught.value.line in (1, 2, 3)
    if bars and caught.value.line == 2 and caught.value.column is not None:
        assert caught.value.column == column


HEADER_ERRORS = [
    ("tempo: fast", r"1:8: tempo: found 'fast', expected quarter notes a minute from 10 to 500, for example"),
    ("tempo: 9", r"1:8: tempo: found '9'"),
    ("meter: 4/5", r"1:8: meter: found '4/5', expected a time signature, for example 'meter: 7/8'"),
    ("swing: lots", r"1:8: swing: found 'lots', expected 'off', a ratio such as 2:1"),
    ("swing: 9:1", r"1:8: swing: found '9:1'"),
    ("pickup: 0/4", r"1:9: pickup: found '0/4', expected its length as a fraction of a whole note"),
    ("pickup: 4/4", r"1:9: pickup: found 4 quarter notes, expected less than a bar of 4/4"),
    ("scale: 3", r"1:8: scale: found '3', expected millimetres from 300 to 1000, for example 'scale: 650'"),
    ("nut: wide", r"1:6: nut: found 'wide', expected millimetres from 15 to 90"),
    ("gain: loud", r"1:7: gain: found 'loud', expected one of clean, crunch, high"),
    ("capo: 13", r"1:7: capo: found '13', expected a fret from 0 to 12"),
    ("instrument: lute", r"1:13: instrument: found 'lute', expected one of guitar-6, guitar-7"),
    ("tuning: E2 A2", r"1:9: tuning: found 2 pitches, but guitar-6 has 6 strings"),
    ("tuning: open", r"1:9: tuning: found 'open', expected a pitch such as E2 or a name"),
    ("tuning: A9 A2 D3 G3 B3 E4", r"1:9: tuning: no string is tuned to A9"),
    ("colour: red", r"1:1: found the header 'colour', expected one of title, instrument"),
    ("title:", r"1:1: title: nothing after the colon"),
    ("key: C\nkey: D", r"2:1: the header 'key' stands here and in line 1"),
]


@pytest.mark.parametrize(("header", "message"), HEADER_ERRORS, ids=[header for header, _ in HEADER_ERRORS])
def test_header_errors(header: str, message: str) -> None:
    with pytest.raises(RiffError, match=message):
        read_riff_text(f"{header}\n| 1:0/1 |")


def test_a_repeat_must_join_its_start() -> None:
    with pytest.raises(RiffError, match="does not join its start when it repeats"):
        riff("| 1:0/8 | 1:0/1 | x2", pickup="1/8")


def test_a_riff_has_bounds() -> None:
    with pytest.raises(RiffError, match="more than 20000 notes; repeat less"):
        riff("| " + "6:0/64 " * 64 + "| " * 1 + "x99 | " + ("6:0 " * 64 + "| ") * 4 + "x99")


def test_the_example_of_the_design_is_read_once_its_first_bar_is_filled() -> None:
    bars = "[A] | 6:0.m/8 6:0.m 5:7.m/16 5:7.m 6:0.m/8 5:8.> 6:0.m r/4 | (6:6 5:8)/4 r D4/8 E4.h/16 D4.p r/4 | x3"
    read = riff(bars, title="Kiln Stairs", instrument="guitar-6", tempo=140, meter="4/4")
    assert len(read.written_events()) == 14
    assert read.phrases[0].times == 3


def test_a_phrase_may_name_its_school() -> None:
    text = "tempo: 100\nmeter: 4/4\n\n[B = economy]\n| 6:0 6:0 6:0 6:0 |\n"
    reading = read_riff_text(text)
    assert (reading.riff.phrases[0].name, reading.riff.phrases[0].school) == ("B", "economy")
    assert "[B = economy]" in write_riff_text(reading.riff)
    with pytest.raises(RiffError, match="1:1: found the school 'louder', expected one of bass-two-finger, "):
        read_riff_text("[B = louder] | 6:0/1 |")
