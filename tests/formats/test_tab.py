"""Text tablature in and out: pages as players type them, and our own read back."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.demo.library import demo_riffs
from dromic.errors import RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.formats.tab.page import read_page, row_kind, string_line
from dromic.formats.tab.reader import tab_source
from dromic.formats.tab.rhythm import Spaced, infer
from dromic.formats.tab.writer import write_tab
from dromic.hands.profile import hands_named
from dromic.instrument.presets import instrument_for
from dromic.music.rhythm import Meter, NoteValue
from dromic.music.riff import (
    BEND_SEMITONES,
    INFERRED,
    TRILL_SEMITONES,
    Bar,
    Event,
    Locks,
    Mark,
    Note,
    Phrase,
    Place,
    Riff,
    Stroke,
    without_rivals,
)
from dromic.planner.locking import decided_riff
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import school_named
from tests.helpers import place_of, riff

HEAD = "Time: 4/4, 120 bpm\n\n"


def read(page: str) -> Riff:
    return tab_source(page).read(0).riff


def bars(page: str) -> str:
    lines = [line for line in write_riff_text(read(page)).splitlines() if line.startswith(("|", "["))]
    return " ".join(lines).replace(f"  # {INFERRED}", "").replace("| |", "|")


def six(top: str, *, at: int = 1, labels: str = "eBGDAE", blank: str | None = None) -> str:
    """A system of six lines with one that is played."""
    empty = blank if blank is not None else "".join("|" if sign == "|" else "-" for sign in top)
    lines = [top if number == at else empty for number in range(1, 7)]
    return HEAD + "\n".join(f"{label}{line}" for label, line in zip(labels, lines, strict=True)) + "\n"


@pytest.mark.parametrize(
    ("line", "wanted"),
    [
        ("|-0-2-4-5-7-5-4-2-|", "| 1:0/8 1:2 1:4 1:5 1:7 1:5 1:4 1:2 |"),
        ("|--0---2---4---5--|", "| 1:0 1:2 1:4 1:5 |"),
        ("|0---2-4-5---7-5-|", "| 1:0 1:2/8 1:4 1:5/4 1:7/8 1:5 |"),
        ("|-10-12-10-9-|", "| 1:10 1:12 1:10 1:9 |"),
        ("|-10--12--10--9---|", "| 1:10 1:12 1:10 1:9 |"),
        ("|-0-2-4-|-5-4-2-|", "| 1:0/2t 1:2 1:4 | 1:5 1:4 1:2 |"),
        ("|-5h7-5p3-5/7-7\\5-|", "| 1:5/8 1:7.h 1:5 1:3.p 1:5 1:7.s 1:7 1:5.s |"),
        ("|-7b9---7b9r7-----|", "| 1:7.b2/4. 1:7.b2/4 1:7.r/4. |"),
        ("|-7b8---5~----x---|", "| 1:7.b1/4. 1:5.v 1:5.x/4 |"),
        ("|-------5-7-------|", "| r/4. 1:5/8 1:7/2 |"),
    ],
)
def test_one_string(line: str, wanted: str) -> None:
    assert bars(six(line)) == wanted


def test_chords_are_stacked_and_wide_frets_line_up() -> None:
    page = HEAD + "e|-10---9--|\nB|-10--10--|\nG|--9---9--|\nD|---------|\nA|---------|\nE|---------|\n"
    first, second = read(page).written_events()
    assert {note.target for note in first.notes} == {Place(1, 10), Place(2, 10), Place(3, 9)}
    assert {note.target for note in second.notes} == {Place(1, 9), Place(2, 10), Place(3, 9)}


@pytest.mark.parametrize(
    ("labels", "name", "tuning"),
    [
        ("eBGDAE", "guitar-6", ""),
        ("eBGDAD", "guitar-6", "drop"),
        ("EADGBe", "guitar-6", ""),
        ("      ", "guitar-6", ""),
        ("CGDAEB", "bass-6", ""),
    ],
)
def test_tunings_by_their_letters(labels: str, name: str, tuning: str) -> None:
    found = read(six("|-3-3-|", labels=labels))
    assert (found.instrument, found.tuning) == (name, tuning)
    place = found.written_events()[0].notes[0].target
    assert place == (Place(6, 3) if labels == "EADGBe" else Place(1, 3))


def test_words_around_systems() -> None:
    page = (
        "Harbour Riff\nTuning: standard, capo 2, 7/8, tempo 140\n\n[Intro] x2\n   PM--|\n   d u d u\n"
        + "\n".join(f"{label}|{'-5-5-5-5-' if label == 'A' else '---------'}|" for label in "eBGDAE")
        + "\n\nsome words in between, with 3 numbers\n\nChorus:\n   q   s s h\n"
        + "\n".join(f"{label}|{'-5---5-5-7-' if label == 'A' else '-----------'}|" for label in "eBGDAE")
        + " x3\n"
    )
    brought = tab_source(page).read(0)
    made = brought.riff
    assert (made.title, made.capo, str(made.meter), made.tempo) == ("Harbour Riff", 2, "7/8", 140.0)
    assert [(phrase.name, phrase.times) for phrase in made.phrases] == [("Intro", 2), ("Chorus", 3)]
    intro = made.phrases[0].bars[0]
    assert intro.comment == INFERRED
    assert [event.locks.stroke for event in intro.events if event.notes] == [Stroke.DOWN, Stroke.UP] * 2
    assert [Mark.PALM_MUTE in event.marks for event in intro.events if event.notes] == [True, True, False, False]
    chorus = made.phrases[1].bars[0]
    assert not chorus.comment
    assert [str(event.value) for event in chorus.events][:4] == ["4", "16", "16", "2"]


def lines(labels: str, **played: str) -> str:
    """String lines with what is played on some; the others are as long."""
    width = max(map(len, played.values()))
    empty = "".join("|" if sign == "|" else "-" for sign in max(played.values(), key=len))
    return "\n".join(f"{label}|{played.get(label, empty).ljust(width, '-')}|" for label in labels) + "\n"


@pytest.mark.parametrize(
    ("labels", "string", "instrument", "place"),
    [
        # Only those strings that a riff needs: neighbours of a guitar's, by their letters.
        ("eBGD", "B", "guitar-6", Place(2, 5)),
        ("GDAE", "A", "bass-4", Place(3, 5)),
        ("BGDA", "D", "guitar-6", Place(4, 5)),
        ("BGDAE", "E", "guitar-6", Place(6, 5)),
        ("eBGDA", "A", "guitar-6", Place(5, 5)),
        ("GDAEB", "B", "bass-5", Place(5, 5)),
        ("DGBe", "D", "guitar-6", Place(4, 5)),
        ("FCGD", "C", "bass-4", Place(2, 5)),
        ("eB", "B", "guitar-6", Place(2, 5)),
        ("DAE", "E", "guitar-6", Place(6, 5)),
        ("e", "e", "guitar-6", Place(1, 5)),
        ("E", "E", "guitar-6", Place(6, 5)),
        ("A", "A", "guitar-6", Place(5, 5)),
    ],
)
def test_some_of_the_strings(labels: str, string: str, instrument: str, place: Place) -> None:
    made = read(HEAD + lines(labels, **{string: "-5---5---5---5---"}))
    assert made.instrument == instrument
    assert made.written_events()[0].notes[0].target == place


def test_systems_with_fewer_lines_than_others() -> None:
    whole = lines("eBGDAE", A="-5-5-")
    brought = tab_source(HEAD + whole + "\n" + lines("GDAE", G="-7-7-") + "\n" + lines("CFAD", C="-7-7-")).read(0)
    assert [str(event.notes[0].target) for event in brought.riff.written_events()] == ["5:5"] * 2 + ["3:7"] * 2
    assert any("other strings than the guitar-6's" in one for one in brought.remarks)
    bare = "|-7-7-|\n|-----|\n|-----|\n|-----|\n|-----|\n"
    brought = tab_source(HEAD + whole + "\n" + bare).read(0)
    assert brought.riff.written_events()[2].notes[0].target == Place(1, 7)
    assert any("taken as the upper strings" in one for one in brought.remarks)
    # One wide system among narrow ones is believed when its lines have letters.
    wide = lines("eBGDAEB", B="-5-5-").replace("B|-5-5-|", "B|-----|", 1)
    brought = tab_source(HEAD + (bare + "|-----|\n\n") * 2 + wide).read(0)
    assert brought.riff.instrument == "guitar-7"
    assert brought.riff.written_events()[-1].notes[0].target == Place(7, 5)


def test_colons_for_bar_lines() -> None:
    page = lines("GDAE", A="-5-7-|-5-7-").replace("|", ":")
    assert bars(HEAD + page) == "| 3:5/2 3:7 | 3:5 3:7 |"
    page = lines("eBGDAE", A="--5--7--8--5--").replace("|", ":", 1).replace("\ne|", "\ne:")
    assert bars(HEAD + page.replace("B|", "B:").replace("A|", "A:")) == "| 5:5 5:7 5:8 5:5 |"


@pytest.mark.parametrize(
    ("count", "wanted"),
    [
        ("   1   & 2   & a 3", "| 3:5/8 3:5 3:5 3:5/16 3:5 3:5/2 |"),
        ("   1   + 2   + a 3", "| 3:5/8 3:5 3:5 3:5/16 3:5 3:5/2 |"),
        # The whole row some columns aside.
        ("      1   & 2   & a 3", "| 3:5/8 3:5 3:5 3:5/16 3:5 3:5/2 |"),
        ("   1   & 2", None),
        ("   1   & 4   & a 3", None),
    ],
)
def test_a_row_that_counts_gives_the_rhythm(count: str, wanted: str | None) -> None:
    page = HEAD + count + "\n" + lines("eBGDAE", G="--5---5-5---5-5-5----")
    made = read(page)
    assert (made.phrases[0].bars[0].comment == INFERRED) == (wanted is None)
    if wanted is not None:
        assert bars(page) == wanted


@pytest.mark.parametrize(
    ("heading", "name", "times"),
    [
        ("Intro (play twice)\n\n", "Intro", 2),
        ("[Solo] 3 times\n\n", "Solo", 3),
        ("Verse 1:\n", "Verse 1", 1),
        ("Low part, repeat 4x\n", "Low part", 4),
        ("Some words of mine\n\n", None, 1),
        ("[x4]\n\n", None, 4),
        ("(play 3 times)\n", None, 3),
    ],
)
def test_headings(heading: str, name: str | None, times: int) -> None:
    phrase = read(HEAD + heading + lines("eBGDAE", A="-5-5-5-5-")).phrases[0]
    assert (phrase.name, phrase.times) == (name, times)


def test_several_systems_without_a_blank_line_and_uneven_ends() -> None:
    lines = ["e|-0-2-4-5-|", "B|---------", "G|---------|", "D|------", "A|---------|", "E|---------|"]
    page = HEAD + "\n".join(lines * 2)
    assert len(read_page(page).systems) == 2
    made = read(page)
    assert sum(len(phrase.bars) for phrase in made.phrases) == 2
    assert len([event for event in made.written_events() if event.notes]) == 8


def test_repeat_signs() -> None:
    page = HEAD + "\n".join(f"{label}|:{'-5-5-5-5-' if label == 'A' else '---------'}:|" for label in "eBGDAE")
    assert read(page).phrases[0].times == 2
    # Dots on the two middle strings, as stars or as small circles.
    for dot in "*o":
        strings = [f"{label}||{dot if label in 'GD' else '-'}" for label in "eBGDAE"]
        ends = [f"{dot if label in 'GD' else '-'}||" for label in "eBGDAE"]
        played = ["--5--5--5--5--" if label == "A" else "-" * 14 for label in "eBGDAE"]
        page = HEAD + "\n".join(map("".join, zip(strings, played, ends, strict=True)))
        assert bars(page) == "| 5:5 5:5 5:5 5:5 | x2"


def test_what_is_not_understood_is_told() -> None:
    page = six("|-3-3-|") + "\n|---|---\n|--3--|-\n\n"
    told = " ".join(tab_source(page).read(0).remarks)
    assert "no whole system" in told
    assert "inferred from the spacing" in told
    assert "120" not in told
    bare = "\n".join(["e|-<12>-t5-27-|"] + [f"{label}|----------|" for label in "BGDAE"])
    told = " ".join(tab_source(bare).read(0).remarks)
    for words in ("4/4 is assumed", "120 quarter notes"):
        assert words in told


def test_plucking_fingers() -> None:
    made = read(HEAD + lines("GDAE", A="-5-5-5-5-") + "   i m a m\n")
    assert [event.locks.stroke for event in made.written_events()] == [
        Stroke.INDEX,
        Stroke.MIDDLE,
        Stroke.RING,
        Stroke.MIDDLE,
    ]


@pytest.mark.parametrize(
    ("words", "tuning"),
    [
        ("(Tune down 1/2 step)", "half-step-down"),
        ("half-step lower", "half-step-down"),
        ("tuned a whole step down", "whole-step-down"),
        ("tune down 1 step", "whole-step-down"),
        ("a step up the neck, then down", ""),
    ],
)
def test_tunings_in_words(words: str, tuning: str) -> None:
    assert read(f"{words}\n\n" + lines("eBGDAE", A="-5-5-5-5-")).tuning == tuning
    assert read(f"{words}\n\n" + "|-5-5-|\n|-----|\n|-----|\n|-----|\n|-----|\n|-----|\n").tuning == tuning


def test_lengths_that_stand_aside_are_taken_in_turn() -> None:
    page = HEAD + "  q  e  e q q        e e q     h\n" + lines("eBGDAE", G="--5--5--5--5--5--|--5-5-5-----5---")
    assert bars(page) == "| 3:5 3:5/8 3:5 3:5/4 3:5 | 3:5/8 3:5 3:5/4 3:5/2 |"


def test_a_length_in_words_is_no_metre() -> None:
    assert read("1/2 step down\n\n" + lines("GDAE", A="-5-5-5-5-")).meter == Meter(4, 4)
    assert read("1/8 notes, 6/8\n\n" + lines("GDAE", A="-5-5-5-5-5-5-")).meter == Meter(6, 8)


@pytest.mark.parametrize(
    ("line", "kind"),
    [
        ("   d u d u", "stroke"),
        (" n v n v ", "stroke"),
        ("  i m i m", "stroke"),
        ("  d m u a", "stroke"),
        ("mud", ""),
        (" 1 & 2 &", "count"),
        (" e e q. h", "rhythm"),
        ("PM------|", "palm"),
        ("let ring---", "ring"),
        ("finger  1 3 4", "finger"),
        ("a line of words", ""),
    ],
)
def test_rows_beside_a_system(line: str, kind: str) -> None:
    assert row_kind(line, above=True) == kind


@pytest.mark.parametrize("line", ["words - with - dashes", "", "----", "|||", "1 2 3", "e: the first string --"])
def test_lines_that_are_no_strings(line: str) -> None:
    assert string_line(line) is None or line == "----"


def test_arrows_and_bow_signs_are_told_apart() -> None:
    for row, wanted in (("  n v n v", "dudu"), ("  v ^ v ^", "dudu"), ("  d u d u", "dudu")):
        body = "\n".join(f"{label}|{'-5-5-5-5-' if label == 'A' else '---------'}|" for label in "eBGDAE")
        made = read(f"{HEAD} {row}\n{body}\n")
        assert "".join(str(event.locks.stroke)[0] for event in made.written_events()) == wanted


@given(st.lists(st.integers(1, 3), min_size=2, max_size=8), st.integers(1, 3))
@settings(max_examples=60)
def test_evenly_spaced_bars_are_read_as_they_are_spaced(steps: list[int], unit: int) -> None:
    """Notes on a grid of equal columns come out in the proportions of the columns."""
    total = sum(steps)
    if total not in (2, 4, 8, 16):
        return
    columns, at = [], 1
    for step in steps:
        columns.append(at)
        at += step * 2 * unit
    timed = infer(Spaced(tuple(columns), (0,) * len(columns), at), Meter(4, 4))
    wanted = [Fraction(sum(steps[:number]) * 4, total) for number in range(len(steps))]
    assert list(timed.onsets) == wanted
    assert timed.sure


VALUES = [NoteValue(4), NoteValue(8), NoteValue(8, 1), NoteValue(16), NoteValue(8, tuplet=3)]


@st.composite
def tabs(draw: st.DrawFn) -> Riff:
    """Riffs of places that tablature can say in full."""
    name = draw(st.sampled_from(["guitar-6", "bass-4", "guitar-7"]))
    strings = instrument_for(Riff((), instrument=name)).strings
    phrases = []
    for number in range(draw(st.integers(1, 2))):
        own = []
        for _ in range(draw(st.integers(1, 2))):
            events: list[Event] = []
            left = Fraction(4)
            while left:
                fitting = [one for one in VALUES if one.quarters * (one.tuplet or 1) <= left]
                value = draw(st.sampled_from(fitting))
                events += [draw(_event(value, strings)) for _ in range(value.tuplet or 1)]
                left -= value.quarters * (value.tuplet or 1)
            if not any(event.notes for event in events):
                events[0] = Event(events[0].value, (Note(Place(1, 1)),))
            own.append(Bar(tuple(events)))
        phrases.append(Phrase(tuple(own), f"part {'AB'[number]}", draw(st.sampled_from([1, 2, 3]))))
    return Riff(tuple(phrases), title="A riff", instrument=name, tempo=140.0)


@st.composite
def _event(draw: st.DrawFn, value: NoteValue, strings: int) -> Event:
    chosen = draw(st.lists(st.integers(1, strings), max_size=3, unique=True))
    notes = tuple(Note(Place(string, draw(st.integers(0, 24)))) for string in sorted(chosen, reverse=True))
    if not notes:
        return Event(value)
    marks = set(draw(st.sets(st.sampled_from([Mark.PALM_MUTE, Mark.VIBRATO]))))
    marks.add(draw(st.sampled_from([Mark.PALM_MUTE, Mark.ACCENT, Mark.SLIDE_OFF, Mark.STACCATO])))
    low = all(place_of(note).fret < 23 for note in notes)
    risen = draw(st.sampled_from([None, None, *BEND_SEMITONES, *TRILL_SEMITONES]))
    if risen is not None and low and Mark.VIBRATO not in marks:
        marks.add(risen)
    reached = draw(st.sampled_from([None, None, Mark.TAP, Mark.SLIDE_IN, Mark.PINCH]))
    if reached is not None:
        marks.add(reached)
    stroke = draw(
        st.sampled_from([None, Stroke.DOWN, Stroke.UP, Stroke.INDEX, Stroke.MIDDLE, Stroke.RING, Stroke.LITTLE])
    )
    finger = draw(st.sampled_from([None, 1, 3])) if len(notes) == 1 else None
    return Event(value, notes, without_rivals(marks), Locks(stroke, finger))


def standard(made: Riff) -> Riff:
    """The riff without the name of its tuning, which the page gives in letters."""
    return replace(made, tuning="")


@given(tabs())
@settings(max_examples=30)
def test_our_own_pages_read_back(made: Riff) -> None:
    text, remarks = write_tab(made)
    assert not remarks
    assert standard(read(text)) == read_riff_text(write_riff_text(made)).riff


@pytest.mark.parametrize("number", range(5))
def test_planned_demo_riffs_keep_everything_but_accents_and_swing(number: int) -> None:
    demo = demo_riffs()[number]
    planned = plan_riff(demo.riff, Request(hands_named("medium"), school_named(demo.school)))
    decided = decided_riff(planned)
    text, _ = write_tab(decided)
    assert max(map(len, text.splitlines())) <= 130
    found, wanted = read(text).written_events(), decided.written_events()
    assert [event.value for event in found] == [event.value for event in wanted]
    assert [[note.target for note in event.notes] for event in found] == [
        [note.target for note in event.notes] for event in wanted
    ]
    strokes = [event.locks.stroke for event in wanted]
    if all(stroke in (None, Stroke.DOWN, Stroke.UP) for stroke in strokes):
        assert [event.locks.stroke for event in found] == strokes


@pytest.mark.parametrize(
    ("page", "words"),
    [
        ("", "no tablature is found"),
        ("just words\nand more", "no tablature is found"),
        ("|---|\n|---|\n", "no tablature is found"),
        ("\n".join(f"{label}|-----|" for label in "eBGDAE"), "no notes"),
        ("x\n" * 20_002, "more than 20000 lines"),
    ],
)
def test_bad_pages(page: str, words: str) -> None:
    with pytest.raises(RiffError, match=words):
        read(page)


def test_a_pitch_without_a_place_cannot_be_written() -> None:
    with pytest.raises(RiffError, match="has no string yet"):
        write_tab(riff("| C4/4 D4 E4 F4 |"))
