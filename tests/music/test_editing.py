"""Editing riffs: whatever is done, every bar fills its metre, and what is written reads back the same."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from functools import partial

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.errors import RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.music import editing, phrases
from dromic.music.laying import laid_in_bars
from dromic.music.rhythm import NoteValue
from dromic.music.riff import Event, Locks, Mark, Note, Place, Riff, Stroke
from dromic.music.timeline import total_quarters
from tests.helpers import riff

EIGHT = "| 6:0/8 6:1 6:2 6:3 6:4 6:5 6:6 6:7 |"
VALUES = [NoteValue(4), NoteValue(8), NoteValue(8, 1), NoteValue(16), NoteValue(8, tuplet=3), NoteValue(2)]


def bars(made: Riff) -> list[str]:
    return [line.strip() for line in write_riff_text(made).splitlines() if line.startswith(("|", "{"))]


def test_a_longer_note_moves_what_follows_over_the_bar_line() -> None:
    longer = editing.change(riff(EIGHT), 6, lambda event: replace(event, value=NoteValue(2)))
    assert bars(longer) == ["| 6:0/8 6:1 6:2 6:3 6:4 6:5 6:6/4 |", "| 6:6.t 6:7/8 r r/2 |"]


def test_notes_are_put_in_and_taken_out() -> None:
    new = Event(NoteValue(8), (Note(Place(1, 12)),))
    put = editing.insert(riff(EIGHT), 2, [new])
    assert bars(put) == ["| 6:0/8 6:1 1:12 6:2 6:3 6:4 6:5 6:6 |", "| 6:7 r r/4 r/2 |"]
    assert bars(editing.delete(put, 2)) == bars(riff(EIGHT))
    assert bars(editing.insert(riff("| 6:0/2 6:1 |"), 2, [new])) == ["| 6:0/2 6:1 |", "| 1:12/8 r r/4 r/2 |"]


def test_a_note_silenced_leaves_its_time() -> None:
    assert bars(editing.silence(riff(EIGHT), 3)) == ["| 6:0/8 6:1 6:2 r 6:4 6:5 6:6 6:7 |"]
    tied = editing.silence(riff("| 6:0/2 6:0.t |"), 0)
    assert Mark.TIE not in tied.written_events()[1].marks


def test_marks_that_contradict_each_other_replace_each_other() -> None:
    made = editing.toggle_mark(editing.toggle_mark(riff(EIGHT), 1, Mark.HAMMER), 1, Mark.SLIDE)
    assert made.written_events()[1].marks == {Mark.SLIDE}
    assert editing.toggle_mark(made, 1, Mark.SLIDE) == riff(EIGHT)


def test_transposing() -> None:
    assert bars(editing.transpose(riff("| 6:0/2 E4 |"), 3)) == ["| 6:3/2 G4 |"]
    assert bars(editing.transpose(riff("| 6:3/2 G4 |"), -1)) == ["| 6:2/2 Gb4 |"]
    with pytest.raises(RiffError, match="6:0 cannot move by -1 frets on its string"):
        editing.transpose(riff(EIGHT), -1)


def test_phrases_are_repeated_copied_and_begun() -> None:
    made = riff("[A] | 6:0/1 | 6:1 | [B] | 6:2 |")
    assert phrases.set_times(made, 0, 3).phrases[0].times == 3
    with pytest.raises(RiffError, match="found 0 times, expected 1 to 99"):
        phrases.set_times(made, 0, 0)
    copied = phrases.copied_phrase(made, 0)
    assert [phrase.name for phrase in copied.phrases] == ["A", "A 2", "B"]
    begun = phrases.split_phrase(made, 1, "turn")
    assert [phrase.name for phrase in begun.phrases] == ["A", "turn", "B"]
    assert [phrase.name for phrase in phrases.split_phrase(made, 2, "C").phrases] == ["A", "C"]


def test_locks_and_places() -> None:
    made = editing.set_locks(riff(EIGHT), 4, Locks(Stroke.UP, 2, 3))
    assert "6:4!u@2^3" in bars(made)[0]
    assert editing.without_locks(made) == riff(EIGHT)
    placed = editing.set_places(riff("| E4/1 |"), 0, [Place(2, 5)])
    assert bars(placed) == ["| 2:5/1 |"]


def test_a_pickup_and_metre_changes_stay() -> None:
    made = riff("[A] | 5:0/4 | 6:0/4 6:0 6:0 6:0 | [B] | {3/4} 6:1/4 6:1 6:1 |", pickup="1/4")
    put = editing.insert(made, 2, [Event(NoteValue(4), (Note(Place(1, 1)),))])
    assert [bar.quarters for bar in put.phrases[0].bars] == [1, 4, 4]
    assert str(put.phrases[1].bars[0].meter) == "3/4"


def test_what_cannot_be_done_is_said() -> None:
    with pytest.raises(RiffError, match="there is no note 9 in this riff; it has 8"):
        editing.delete(riff(EIGHT), 8)
    with pytest.raises(RiffError, match="this is all there is in the riff"):
        editing.delete(riff(EIGHT), 0, 8)
    with pytest.raises(RiffError, match="does not fit into a bar"):
        editing.insert(riff("| 6:0/4 |", meter="1/4"), 0, [Event(NoteValue(1, tuplet=3))])


@st.composite
def edits(draw: st.DrawFn) -> list[tuple[str, int, NoteValue]]:
    kinds = st.sampled_from(["change", "insert", "append", "delete", "silence", "mark", "rest"])
    return draw(st.lists(st.tuples(kinds, st.integers(0, 40), st.sampled_from(VALUES)), max_size=12))


@given(
    edits(),
    st.sampled_from([EIGHT, "| 6:0/4t 6:1 6:2 6:3/2 | 5:1/1 |", "[A] | 6:0/1 | x2 [B] | {7/8} r/8 6:3/4. r |"]),
)
@settings(max_examples=150)
def test_every_bar_stays_full_whatever_is_done(done: list[tuple[str, int, NoteValue]], start: str) -> None:
    made = riff(start)
    for kind, number, value in done:
        count = len(made.written_events())
        at = number % count
        note = Event(value, (Note(Place(number % 6 + 1, number % 12)),))
        try:
            if kind == "change":
                made = editing.change(made, at, partial(replace, value=value))
            elif kind == "rest":
                made = editing.insert(made, at, [Event(value)])
            elif kind in ("insert", "append"):
                made = editing.insert(made, at if kind == "insert" else count, [note])
            elif kind == "delete":
                made = editing.delete(made, at)
            elif kind == "silence":
                made = editing.silence(made, at)
            else:
                made = editing.toggle_mark(made, at, Mark.PALM_MUTE)
        except RiffError:
            continue
        meter = made.meter
        for phrase in made.phrases:
            for bar in phrase.bars:
                meter = bar.meter or meter
                assert bar.quarters == meter.bar
    assert total_quarters(made) % Fraction(1, 2) == 0
    again = read_riff_text(write_riff_text(made)).riff
    assert again.phrases == made.phrases


def test_grace_notes_go_over_the_bar_line_with_their_note() -> None:
    triplet = NoteValue(4, tuplet=3)
    grace = Event(NoteValue(32), (Note(Place(5, 5)),), frozenset({Mark.GRACE}))
    note = Event(triplet, (Note(Place(5, 7)),))
    long = Event(NoteValue(2, 1), (Note(Place(5, 3)),))
    laid = laid_in_bars([long, note, grace, note], lambda _number: (Fraction(4), None))
    assert [event.grace for event in laid[1].events[:2]] == [True, False]
