"""A riff changed on the board or by a lock: its text changes there, and nowhere else."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.app.document import Document
from dromic.errors import RiffError
from dromic.formats.rifftext.edit import edited_text
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.music import editing, phrases
from dromic.music.rhythm import NoteValue
from dromic.music.riff import Event, Locks, Mark, Note, Place, Riff, Stroke
from tests.helpers import not_none
from tests.strategies import riffs

TEXT = """\
# practised on Tuesdays
title:   Tin Roof
tempo: 96     # not faster yet
[ A ]
|  6:0/8   6:3   6:5  6:3   5:7/4   r    |   6:0/8 6:3 6:5 6:7  5:5/4 r |

# the hard one
| 4:5/16 4:7 5:5 5:7   4:5/8 4:7  5:5/4  5:7 |  x2   # watch the pinky
[B]
| 3:5/2    3:7 |  3:5/1 |
"""


def edited(change: Callable[[Riff], Riff], text: str = TEXT) -> str:
    """The text after a change, which has to read as the changed riff."""
    reading = read_riff_text(text)
    wanted = change(reading.riff)
    new, read = edited_text(text, reading, wanted)
    assert read == read_riff_text(new)
    assert read.riff == wanted
    return new


def test_a_lock_touches_one_word() -> None:
    new = edited(lambda riff: editing.set_locks(riff, 2, Locks(stroke=Stroke.UP)))
    assert new == TEXT.replace("6:5  6:3   5:7/4", "6:5!u  6:3   5:7/4", 1)


def test_a_duration_that_stood_for_those_behind_it_is_written_there() -> None:
    text = "| 6:0/8 6:1 6:2 6:3 6:5/2 |"
    new = edited(lambda riff: _first_as(riff, Note(Place(5, 2)), NoteValue(8)), text)
    assert new == "| 5:2/8 6:1 6:2 6:3 6:5/2 |"


def _first_as(riff: Riff, note: Note, value: NoteValue) -> Riff:
    return editing.change(riff, 0, lambda _event: Event(value, (note,)))


def test_a_bar_with_another_number_of_notes_leaves_the_others_alone() -> None:
    def split(riff: Riff) -> Riff:
        phrase = riff.phrases[0]
        bar = phrase.bars[1]
        rests = (Event(NoteValue(8)), Event(NoteValue(8)))
        bars = (phrase.bars[0], replace(bar, events=(*bar.events[:-1], *rests)), phrase.bars[2])
        return replace(riff, phrases=(replace(phrase, bars=bars), riff.phrases[1]))

    new = edited(split)
    before, after = TEXT.splitlines(), new.splitlines()
    touched = [number for number, pair in enumerate(zip(before, after, strict=True)) if pair[0] != pair[1]]
    assert touched == [4]
    assert after[4] == "|  6:0/8   6:3   6:5  6:3   5:7/4   r    |   6:0/8 6:3 6:5 6:7 5:5/4 r/8 r |"


def test_where_bars_have_to_be_written_anew_the_header_stays() -> None:
    note = Event(NoteValue(8), (Note(Place(6, 1)),))
    new = edited(lambda riff: editing.insert(riff, 1, [note]))
    assert new.splitlines()[:3] == TEXT.splitlines()[:3]
    assert "# the hard one" in new
    assert "# watch the pinky" in new


def test_a_bar_is_put_behind_the_last_and_taken_away_again() -> None:
    text = "title: One\n\n|   6:0/4 6:1   6:2 6:3 |\n"
    more = [Event(NoteValue(4), (Note(Place(5, fret)),)) for fret in (1, 2, 3, 4)]
    longer = edited(lambda riff: editing.insert(riff, 4, more), text)
    assert longer == "title: One\n\n|   6:0/4 6:1   6:2 6:3 |\n| 5:1 5:2 5:3 5:4 |\n"
    assert edited(lambda riff: editing.delete(riff, 4, 4), longer) == text


@pytest.mark.parametrize(
    ("changes", "line", "instead"),
    [
        ({"tempo": 132.0}, "tempo: 96     # not faster yet", "tempo: 132     # not faster yet"),
        ({"title": "Wet Roof"}, "title:   Tin Roof", "title:   Wet Roof"),
        ({"capo": 2}, "tempo: 96     # not faster yet", "tempo: 96     # not faster yet\ncapo: 2"),
    ],
)
def test_a_header_line_changes_by_itself(changes: dict[str, Any], line: str, instead: str) -> None:
    assert edited(lambda riff: replace(riff, **changes)) == TEXT.replace(line, instead)


def test_a_header_line_that_says_nothing_any_longer_goes() -> None:
    with_capo = TEXT.replace("title:", "capo: 3\ntitle:")
    assert edited(lambda riff: replace(riff, capo=0), with_capo) == TEXT


def test_a_phrase_with_another_school_is_written_so() -> None:
    assert "[B = economy]" in edited(lambda riff: phrases.with_phrase_school(riff, 1, "economy"))


def test_the_documents_text_keeps_the_players_layout() -> None:
    document = Document()
    document.start(TEXT)
    document.edit(
        editing.set_locks(not_none(document.reading).riff, 0, Locks(finger=None, stroke=Stroke.DOWN)), "a lock"
    )
    assert document.text == TEXT.replace("6:0/8", "6:0!d/8", 1)
    document.undo()
    assert document.text == TEXT


def _loosely(riff: Riff) -> str:
    """The riff's text, laid out as no program would."""
    lines = write_riff_text(riff).splitlines()
    return "\n".join(f"  {line.replace(' | ', '  |  ')}   " if line.startswith("|") else line for line in lines)


CHANGES: dict[str, Callable[[Riff, int], Riff]] = {
    "silence": editing.silence,
    "delete": editing.delete,
    "stroke": lambda riff, at: editing.set_locks(riff, at, Locks(stroke=Stroke.DOWN)),
    "accent": lambda riff, at: editing.toggle_mark(riff, at, Mark.ACCENT),
    "longer": lambda riff, at: editing.change(riff, at, lambda event: replace(event, value=NoteValue(2))),
    "shorter": lambda riff, at: editing.change(riff, at, lambda event: replace(event, value=NoteValue(16))),
    "more": lambda riff, at: editing.insert(riff, at, [Event(NoteValue(8, 1), (Note(Place(1, 3)),))]),
    "tempo": lambda riff, _at: replace(riff, tempo=77.5),
    "twice": lambda riff, _at: phrases.set_times(riff, 0, 2),
}


@settings(max_examples=20)
@given(riff=riffs(), where=st.integers(0, 400), change=st.sampled_from(sorted(CHANGES)))
def test_whatever_is_changed_the_text_reads_as_it(riff: Riff, where: int, change: str) -> None:
    text = _loosely(riff)
    reading = read_riff_text(text)
    try:
        wanted = CHANGES[change](reading.riff, where % len(reading.spans))
        wanted = read_riff_text(write_riff_text(wanted)).riff
    except RiffError:
        return
    new, read = edited_text(text, reading, wanted)
    assert read.riff == wanted
    assert read == read_riff_text(new)
