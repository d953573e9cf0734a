"""ABC, the writer: a riff as one tune, as far as ABC can say it (standard 2.1)."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from fractions import Fraction
from itertools import groupby, pairwise
from operator import itemgetter

from dromic.errors import RiffError
from dromic.formats.abc.bar import neighbour
from dromic.formats.abc.fields import Key, read_key
from dromic.formats.reading.own_header import own_fields
from dromic.formats.reading.raw import Remarks
from dromic.hands.fingers import FINGERS, THUMB
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for
from dromic.music.pitch import Pitch, parse_pitch, pitch_name
from dromic.music.rhythm import tuplet_time
from dromic.music.riff import (
    LEGATO_MARKS,
    MARK_WORDS,
    TRILL_SEMITONES,
    Bar,
    Event,
    Mark,
    Note,
    Place,
    Riff,
    Stroke,
    harmonic_rise,
)

UNIT = Fraction(1, 2)
OWN = "%%dromic "
MOST_TUPLET = 9
_ACCIDENTALS = {-2: "__", -1: "_", 0: "=", 1: "^", 2: "^^"}
_SAID = {Mark.ACCENT: "!>!", Mark.STACCATO: ".", Mark.SLIDE: "!slide!"}
_STROKES = {Stroke.DOWN: "v", Stroke.UP: "u"}


def write_abc(riff: Riff) -> tuple[str, tuple[str, ...]]:
    r"""Write a riff as an ABC tune.

    Parameters
    ----------
    riff : Riff
        With places decided where fingers and strokes are to be seen (see `dromic.planner.locking.decided_riff`).

    Returns
    -------
    str
    tuple of str
        What ABC cannot say and was left out.

    Raises
    ------
    RiffError
        For tuplets that ABC does not have.

    Examples
    --------
    >>> from dromic.formats.rifftext.reader import read_riff_text
    >>> print(write_abc(read_riff_text("title: A\nkey: G\n| E4/8 F#4 F4 A4!u/4. B4/4 |").riff)[0])
    X:1
    T:A
    M:4/4
    L:1/8
    Q:1/4=120
    K:G
    E F =F uA3 B2 |
    <BLANKLINE>
    """
    remarks = Remarks()
    key = read_key(riff.key) if riff.key else Key("C")
    if key is None or riff.key.strip()[:1] not in "ABCDEFG":
        key = Key("C")
    if riff.comments or riff.tail:
        remarks.add("comments are left out")
    tempo = f"{riff.tempo:g}"
    head = ["X:1", f"T:{riff.title}" if riff.title else "", f"M:{riff.meter}", "L:1/8", f"Q:1/4={tempo}"]
    head += [f"{OWN}{name}: {value}" for name, value in own_fields(riff)]
    head.append(f"K:{riff.key}" if key.name != "C" or riff.key else "K:C")
    lines = [line for line in head if line]
    events = riff.written_events()
    tied = {number for number, (_, after) in enumerate(pairwise(events)) if Mark.TIE in after.marks}
    writer = _BarWriter(key, instrument_for(riff), remarks, tied)
    meter = riff.meter
    for phrase in riff.phrases:
        if phrase.name is not None:
            lines.append(f"P:{phrase.name}")
        if phrase.times > 1:
            lines.append("|:")
        for number, bar in enumerate(phrase.bars):
            change = f"[M:{bar.meter}] " if bar.meter is not None and bar.meter != meter else ""
            meter = bar.meter or meter
            change += f"[Q:1/4={bar.tempo:g}] " if bar.tempo is not None else ""
            end = ":" * (phrase.times - 1) + "|" if number == len(phrase.bars) - 1 and phrase.times > 1 else "|"
            lines.append(f"{change}{writer.bar(bar)} {end}")
    return "\n".join(lines) + "\n", remarks.told()


class _BarWriter:
    def __init__(self, key: Key, instrument: Instrument, remarks: Remarks, tied: Collection[int]) -> None:
        self._key, self._instrument, self._remarks, self._tied = key, instrument, remarks, tied
        self._flats = any(alter < 0 for alter in key.alters.values())
        self._altered: set[str] = set()
        self._written = 0
        self._sign = ""

    def bar(self, bar: Bar) -> str:
        """One bar."""
        self._altered = set()
        words: list[str] = []
        for count, group in groupby(_groups(bar.events), key=itemgetter(0)):
            run = [event for _, event in group]
            for start in range(0, len(run), MOST_TUPLET):
                piece = run[start : start + MOST_TUPLET]
                if count:
                    words.append(self._tuplet(count, sum(not event.grace for event in piece)))
                words += [self._event(event) for event in piece]
        return " ".join(words).replace("} ", "}")

    def _tuplet(self, count: int, notes: int) -> str:
        if count > MOST_TUPLET:
            raise RiffError(f"ABC has no tuplets of {count}; at most {MOST_TUPLET}")
        return f"({count}:{tuplet_time(count)}:{notes}"

    def _event(self, event: Event) -> str:
        tied = self._written in self._tied
        self._written += 1
        if event.chord is not None:
            self._sign = f'"{event.chord}"'
        if event.rest:
            return f"{self._taken_sign()}z{_length(event)}"
        pitches = [self._pitch(self._sounding(event, note)) for note in event.notes]
        if event.grace:
            return "{" + (f"[{''.join(pitches)}]" if len(pitches) > 1 else pitches[0]) + "}"
        what = f"[{''.join(pitches)}]" if len(pitches) > 1 else pitches[0]
        return f"{self._taken_sign()}{self._signs(event)}{what}{_length(event)}{'-' if tied else ''}"

    def _taken_sign(self) -> str:
        """The chord sign that waits for its note; grace notes are passed by."""
        sign, self._sign = self._sign, ""
        return sign

    def _signs(self, event: Event) -> str:
        signs = ""
        marks = set(event.marks).union(*(note.marks for note in event.notes))
        trills = {mark for mark in marks & set(TRILL_SEMITONES) if self._trills_in_key(event, mark)}
        if trills:
            signs += "!trill!"
        for mark in sorted(marks - {Mark.TIE, Mark.GRACE} - trills):
            if mark in _SAID and mark in event.marks:
                signs += _SAID[mark]
            elif mark in LEGATO_MARKS:
                self._remarks.add("hammer-ons and pull-offs are left out")
            else:
                self._remarks.add(f"ABC cannot say: {MARK_WORDS[mark]}")
        if event.locks.stroke in _STROKES:
            signs += _STROKES[event.locks.stroke]
        elif event.locks.stroke not in (None, Stroke.NONE):
            self._remarks.add("plucking fingers are left out")
        if len(event.notes) == 1 and event.locks.finger in FINGERS:
            signs += f"!{event.locks.finger}!"
        elif event.locks.finger == THUMB:
            self._remarks.add("the thumb over the neck is left out")
        return signs

    def _sounding(self, event: Event, note: Note) -> Place | Pitch:
        """A natural harmonic is written as it sounds."""
        rise = harmonic_rise(note, event.marks)
        if not rise and Mark.HARMONIC not in event.marks | note.marks:
            return note.target
        self._remarks.add("harmonics are written as the pitches that sound")
        name = pitch_name(self._named(note.target).midi + rise, flats=self._flats)
        return parse_pitch(name) or note.target

    def _named(self, what: Place | Pitch) -> Pitch:
        if isinstance(what, Pitch):
            return what
        pitch = parse_pitch(pitch_name(self._instrument.pitch(what), flats=self._flats))
        if pitch is None:
            raise RiffError(f"{what} has no name in ABC")
        return pitch

    def _trills_in_key(self, event: Event, mark: Mark) -> bool:
        """Whether the trill goes to the next note of the key, which is all that ABC can say."""
        if len(event.notes) != 1:
            return False
        pitch = self._named(event.notes[0].target)
        return neighbour(pitch, 1, self._key).midi - pitch.midi == TRILL_SEMITONES[mark]

    def _pitch(self, what: Place | Pitch) -> str:
        pitch = self._named(what)
        if isinstance(what, Place):
            self._remarks.add("strings and frets are left out; ABC has only pitches")
        signature = self._key.alter(pitch.letter)
        sign = ""
        # Said anew wherever readers might differ on how far an accidental holds.
        if pitch.alter != signature or pitch.letter in self._altered:
            sign = _ACCIDENTALS[pitch.alter]
            self._altered.add(pitch.letter)
        if pitch.octave >= 5:
            return sign + pitch.letter.lower() + "'" * (pitch.octave - 5)
        return sign + pitch.letter + "," * (4 - pitch.octave)


def _groups(events: Sequence[Event]) -> list[tuple[int, Event]]:
    """Events with the tuplet that they belong to; a grace note goes with the note it leads to."""
    found: list[tuple[int, Event]] = []
    count = 0
    for event in reversed(events):
        count = count if event.grace else event.value.tuplet
        found.append((count, event))
    return found[::-1]


def _length(event: Event) -> str:
    value = event.value
    plain = Fraction(4, value.base) * (2 - Fraction(1, 2**value.dots)) / UNIT
    if plain == 1:
        return ""
    if plain.denominator == 1:
        return str(plain.numerator)
    above = "" if plain.numerator == 1 else str(plain.numerator)
    return f"{above}/{plain.denominator}"
