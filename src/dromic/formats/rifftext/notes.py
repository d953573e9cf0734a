"""Riff text, the small end: one note, rest or chord with its marks, locks and duration.

A word is ``what[.marks][locks][/duration]``, where *what* is ``string:fret``, a pitch, ``r``, or notes in
parentheses. Marks and locks inside the parentheses belong to one note, those after them to all.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

from dromic.hands.fingers import FINGERS_BY_SIGN
from dromic.instrument.instrument import Instrument
from dromic.memory import Memo, memo
from dromic.music.pitch import Pitch, parse_pitch, pitch_name
from dromic.music.rhythm import NoteValue, parse_value
from dromic.music.riff import (
    EXCLUSIVE_MARKS,
    HARMONIC_RISE,
    MARK_WORDS,
    NO_LOCKS,
    Event,
    Locks,
    Mark,
    Note,
    Place,
    Stroke,
)

GRACE_VALUE = NoteValue(32)
MOST_KNOWN = 20_000
_PLACE = re.compile(r"(\d{1,3}):(\d{1,3})")
_HEAD = re.compile(r"[^.!@^/]*")
_END_OF_VALUE = re.compile(r"[!@^/]")
_STROKES = {
    "d": Stroke.DOWN,
    "u": Stroke.UP,
    "m": Stroke.MIDDLE,
    "a": Stroke.RING,
    "c": Stroke.LITTLE,
    "i": Stroke.INDEX,
    "t": Stroke.CHORD_PLUCK,
    "h": Stroke.NONE,
}
STROKE_LETTERS = {stroke: letter for letter, stroke in _STROKES.items()}
_MARKS_HELP = ", ".join(f"{mark} {MARK_WORDS[mark]}" for mark in Mark)
_VALUE_HELP = "/4 quarter, /8. dotted eighth, /8t triplet eighth, /16q5 five in the time of four"

Fail = Callable[[int, str], Exception]


@dataclass(frozen=True)
class _Tail:
    marks: frozenset[Mark]
    locks: Locks
    value: NoteValue | None


class _WordError(Exception):
    """What cannot be read in a word, and how far into it."""

    def __init__(self, offset: int, message: str) -> None:
        super().__init__(message)
        self.offset, self.message = offset, message


def _words_read(instrument: Instrument) -> Memo[tuple[Event, NoteValue]]:
    """Words that were read for an instrument, with the duration in force before, and that behind them."""
    return Memo(partial(_read, instrument), MOST_KNOWN)


class WordReader:
    """Reads words for one instrument, keeping the duration in force.

    Parameters
    ----------
    instrument : Instrument
        What string numbers, frets and pitches are checked against.
    value : NoteValue
        The duration in force before the first word.
    """

    def __init__(self, instrument: Instrument, value: NoteValue) -> None:
        self._known = memo(_words_read, instrument)
        self.value = value

    def read(self, word: str, fail: Fail) -> Event:
        """Read one word; one that was read before, with the same duration in force, is not read again.

        Parameters
        ----------
        word : str
            A note, a rest or a chord with everything that belongs to it.
        fail : callable
            Makes an error from an offset into the word and a message.

        Raises
        ------
        RiffError
            With the place of the first thing that cannot be read.
        """
        try:
            event, self.value = self._known(word, self.value)
        except _WordError as error:
            raise fail(error.offset, error.message) from None
        return event


def _read(instrument: Instrument, word: str, value: NoteValue) -> tuple[Event, NoteValue]:
    fail = _WordError
    if word.startswith("("):
        close = word.index(")")
        notes = _chord(instrument, word[1:close])
        offset = close + 1
    elif word == "r" or word.startswith(("r/", "r.", "r!", "r@", "r^")):
        notes, offset = (), 1
    else:
        head = _HEAD.match(word)
        offset = head.end() if head else 0
        notes = (Note(_what(instrument, word[:offset], fail)),)
    tail = _tail(word, offset, fail)
    if not notes and (tail.marks or tail.locks != NO_LOCKS):
        raise fail(1, "a rest takes no marks and no locks; write it as 'r' or 'r/8'")
    _check_harmonics(notes, tail.marks, fail)
    if Mark.GRACE in tail.marks:
        if tail.value is not None:
            raise fail(
                word.index("/", offset),
                "a grace note takes its time from the note after it and has no duration of its own; "
                f"write '{word[: word.index('/', offset)]}'",
            )
        return Event(GRACE_VALUE, notes, tail.marks, tail.locks), value
    value = tail.value or value
    return Event(value, notes, tail.marks, tail.locks), value


def _chord(instrument: Instrument, inside: str) -> tuple[Note, ...]:
    notes: list[Note] = []
    strings: set[int] = set()
    for match in re.finditer(r"\S+", inside):
        at, word = 1 + match.start(), match[0]

        def fail_here(offset: int, text: str, at: int = at) -> _WordError:
            return _WordError(at + offset, text)

        head = _HEAD.match(word)
        offset = head.end() if head else 0
        what = _what(instrument, word[:offset], fail_here)
        tail = _tail(word, offset, fail_here)
        if tail.value is not None:
            raise fail_here(word.index("/"), "a duration stands after the parenthesis, for example '(6:6 5:8)/4'")
        if tail.locks.stroke or tail.locks.position is not None or Mark.GRACE in tail.marks:
            raise fail_here(
                offset,
                "stroke and position locks and the grace mark belong to the whole chord: write them "
                "after the parenthesis, for example '(6:6 5:8).g' or '(6:6 5:8)!d'",
            )
        if isinstance(what, Place):
            if what.string in strings:
                raise fail_here(
                    0,
                    f"string {what.string} is used twice in one chord; a string sounds one note at a time",
                )
            strings.add(what.string)
        notes.append(Note(what, tail.marks, tail.locks))
    if len(notes) < 2:
        raise _WordError(1, "a chord needs two notes or more, for example '(6:6 5:8)/4'")
    if len(notes) > instrument.strings:
        raise _WordError(1, f"{len(notes)} notes are struck together on {instrument.strings} strings")
    return tuple(notes)


def _what(instrument: Instrument, head: str, fail: Fail) -> Place | Pitch:
    match = _PLACE.fullmatch(head)
    if match:
        place = Place(int(match[1]), int(match[2]))
        if not 1 <= place.string <= instrument.strings:
            raise fail(
                0,
                f"found string {place.string}, but {instrument.name} has strings 1 (thinnest) "
                f"to {instrument.strings}; for example '{instrument.strings}:{min(place.fret, 5)}'",
            )
        if place.fret > instrument.top_fret:
            capo = " above the capo" if instrument.capo else ""
            raise fail(
                len(match[1]) + 1,
                f"found fret {place.fret}, but {instrument.name} has {instrument.top_fret} frets{capo}; "
                f"for example '{place.string}:12'",
            )
        return place
    pitch = parse_pitch(head)
    if pitch is None:
        raise fail(0, _not_a_note(head))
    if not instrument.lowest <= pitch.midi <= instrument.highest:
        raise fail(
            0,
            f"{pitch} cannot be played on {instrument.name} in this tuning; it reaches from "
            f"{pitch_name(instrument.lowest)} to {pitch_name(instrument.highest)}",
        )
    return pitch


def _check_harmonics(notes: tuple[Note, ...], marks: frozenset[Mark], fail: Fail) -> None:
    """See that natural harmonics lie where a string has some."""
    for note in notes:
        if Mark.HARMONIC in note.marks | marks and not (
            isinstance(note.target, Place) and note.target.fret in HARMONIC_RISE
        ):
            frets = ", ".join(str(fret) for fret in HARMONIC_RISE)
            raise fail(
                0,
                f"a natural harmonic is written as its string and the fret that is touched, one of {frets}, for "
                f"example '1:12.n'; found '{note.target}'",
            )


def _not_a_note(head: str) -> str:
    if head and parse_pitch(head[0].upper() + head[1:]) is not None:
        return f"found '{head}'; pitches are written with a capital letter: '{head[0].upper() + head[1:]}'"
    found = f"found '{head}'" if head else "found marks without a note"
    return (
        f"{found}, expected a note as string:fret such as 5:7, a pitch such as C#4, r for a rest, "
        "notes struck together such as (6:6 5:8), a bar line, [phrase] or x3"
    )


def _tail(word: str, start: int, fail: Fail) -> _Tail:
    """Read marks, locks and duration from an offset to the end of the word."""
    marks: set[Mark] = set()
    locks = NO_LOCKS
    value: NoteValue | None = None
    at = start
    while at < len(word):
        sign = word[at]
        if sign == "/":
            end = _END_OF_VALUE.search(word, at + 1)
            written = word[at + 1 : end.start() if end else None]
            if value is not None:
                raise fail(at, "the duration stands twice on one note; keep one of them, for example '5:7/8'")
            value = parse_value(written)
            if value is None:
                raise fail(at, f"found '/{written}', expected a duration: {_VALUE_HELP}; marks come before it")
            at += 1 + len(written)
        elif sign == "." and value is None:
            at = _marks(word, at + 1, marks, fail)
        elif sign in "!@^":
            locks, at = _lock(word, at, locks, fail)
        else:
            raise fail(
                at,
                f"found '{word[at:]}', expected marks (.m), locks (!d @3 ^7) or a duration (/8), "
                "for example '5:7.m!d/8'",
            )
    return _Tail(frozenset(marks), locks, value)


def _marks(word: str, at: int, marks: set[Mark], fail: Fail) -> int:
    first = at
    while at < len(word) and word[at] not in "!@^/.":
        size = 2 if word[at] in "bw" else 1
        text = word[at : at + size]
        if text not in Mark._value2member_map_:
            raise fail(at, f"found '{text}', expected a mark after the dot ({_MARKS_HELP}), for example '5:7.m'")
        mark = Mark(text)
        if mark in marks:
            raise fail(at, f"the mark '{text}' ({MARK_WORDS[mark]}) stands twice on one note; write it once")
        marks.add(mark)
        for group in EXCLUSIVE_MARKS:
            clash = sorted(marks & group)
            if len(clash) > 1:
                words = " and ".join(f"'{one}' ({MARK_WORDS[one]})" for one in clash)
                raise fail(at, f"{words} contradict each other on one note; keep one of them")
        at += size
    if at == first:
        raise fail(at - 1, f"a dot wants marks after it ({_MARKS_HELP}), for example '5:7.m'")
    return at


def _lock(word: str, at: int, locks: Locks, fail: Fail) -> tuple[Locks, int]:
    sign = word[at]
    if sign == "!":
        stroke = _STROKES.get(word[at + 1 : at + 2])
        if stroke is None:
            raise fail(
                at,
                f"found '{word[at : at + 2]}', expected !d or !u for the stroke, !m !a !c !i for a plucking "
                "finger, !t for a chord that fingers pluck together, or !h for a note that is hammered on or "
                "pulled off, for example '5:7!d'",
            )
        if locks.stroke is not None:
            raise fail(at, "the stroke is locked twice on one note; keep one of the locks, for example '5:7!d'")
        return replace(locks, stroke=stroke), at + 2
    match = re.compile(r"\d+").match(word, at + 1)
    number = int(match[0][:3]) if match else 0
    end = match.end() if match else at + 1
    if sign == "@":
        end = end if match else at + 2
        finger = FINGERS_BY_SIGN.get(word[at + 1 : end].upper())
        if finger is None:
            expected = "a fretting finger @1 to @4, or @T for the thumb over the neck"
            raise fail(at, f"found '{word[at:end]}', expected {expected}, for example '5:7@3'")
        if locks.finger is not None:
            raise fail(at, "the finger is locked twice on one note; keep one of the locks, for example '5:7@3'")
        return replace(locks, finger=finger), end
    if not 1 <= number <= 24:
        raise fail(at, f"found '{word[at:end]}', expected a hand position ^1 to ^24, for example '5:7^5'")
    if locks.position is not None:
        raise fail(at, "the position is locked twice on one note; keep one of the locks, for example '5:7^5'")
    return replace(locks, position=number), end
