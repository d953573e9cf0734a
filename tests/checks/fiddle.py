"""Fiddle tunes of an open collection as riffs.

Source: Ryan's Mammoth Collection (1883, public domain), as the music21 package carries it, read by music21.
"""

from __future__ import annotations

import re
import warnings
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

from dromic.music.pitch import parse_pitch, pitch_name
from dromic.music.rhythm import Meter, NoteValue
from dromic.music.riff import Bar, Event, Mark, Note, Phrase, Place, Riff
from dromic.planner.plan import Plan, PlannedNote
from tests.helpers import not_none

with warnings.catch_warnings():
    # What the library's own imports warn of is not ours to mend.
    warnings.simplefilter("ignore")
    import music21

_VALUES = {
    value.quarters: value
    for base in (1, 2, 4, 8, 16, 32, 64)
    for value in (NoteValue(base), NoteValue(base, 1), NoteValue(base, 2), NoteValue(base, tuplet=3))
}
# Guitar is written an octave higher than it sounds, and so fiddle tunes are read from fiddle books.
OCTAVE = 12


def paths() -> list[str]:
    """Every file of the collection, in the order of names."""
    return sorted(str(path) for path in music21.corpus.getComposer("ryansMammoth"))


@dataclass(frozen=True)
class Tune:
    """A tune read, or why it is none of ours."""

    title: str
    riff: Riff | None
    why_not: str = ""


def tune(path: str) -> Tune:
    """Read a tune as a riff without repeats and grace notes.

    Bars that a repeat sign cuts in two, or that are short or long in the source, are filled up with rests or get
    a metre of their own, so that every note stays where the source has it in its bar.
    """
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        score = music21.converter.parseData(_mended(Path(path).read_text(encoding="utf-8")), format="abc")
    part = score.parts[0]
    title = str(score.metadata.title)
    first = next(iter(part.recurse().getElementsByClass(music21.meter.TimeSignature)), None)
    if first is None:
        return Tune(title, None, "no metre")
    meter = _meter(first)
    current = start = meter
    bars: list[Bar] = []
    for measure in part.getElementsByClass(music21.stream.Measure):
        for signature in measure.recurse().getElementsByClass(music21.meter.TimeSignature):
            meter = _meter(signature)
        sounding = [one for one in measure.recurse().notesAndRests if one.duration.quarterLength]
        if any(isinstance(one, music21.chord.Chord) for one in sounding):
            return Tune(title, None, "several notes at a time")
        whole = [event for one in sounding for event in _events(one)]
        if not whole:
            continue
        length = sum((event.quarters for event in whole), Fraction(0))
        own = meter
        if length > meter.bar:
            own = Meter(int(length * 8), 32)
        elif length < meter.bar:
            rests = _rests(meter.bar - length)
            whole = rests + whole if measure.paddingLeft else whole + rests
        bars.append(Bar(tuple(whole), meter=own if own != current else None))
        current = own
    if not bars:
        return Tune(title, None, "no notes")
    return Tune(title, Riff((Phrase(tuple(bars)),), title=title, meter=start, tempo=160.0))


def _mended(text: str) -> str:
    """The text with what the library's reader stumbles over put right (accidentals, repeats, holds)."""
    text = re.sub(r"^(X:.*)$", r"%abc-2.1\n\1", text, count=1, flags=re.MULTILINE)
    text = re.sub(r"^(K:.*)$", r"%%propagate-accidentals octave\n\1", text, count=1, flags=re.MULTILINE)
    lines = []
    for line in text.splitlines():
        if not re.match(r"[A-Za-z]:|%", line):
            line = re.sub(r"H(?=[\^_=]*[A-Ga-g])", "", line.replace("::", " :: "))
        lines.append(line)
    return "\n".join(lines)


def _meter(signature: music21.meter.TimeSignature) -> Meter:
    return Meter(signature.numerator, signature.denominator)


def _rests(length: Fraction) -> list[Event]:
    """Rests of a length, the longest first."""
    found = []
    for value in sorted(_VALUES.values(), key=lambda one: -one.quarters):
        while not value.tuplet and value.quarters <= length:
            found.append(Event(value))
            length -= value.quarters
    return found


def _events(one: music21.note.GeneralNote) -> list[Event]:
    """A note or rest, tied together where no single value has its length."""
    length = Fraction(one.duration.quarterLength).limit_denominator(192)
    value = _VALUES.get(length)
    events = _rests(length) if value is None else [Event(value)]
    if one.isRest:
        return events
    note = Note(not_none(parse_pitch(pitch_name(one.pitch.midi - OCTAVE))))
    tied = [frozenset(), *[frozenset({Mark.TIE})] * (len(events) - 1)]
    return [replace(event, notes=(note,), marks=marks) for event, marks in zip(events, tied, strict=True)]


def at_the_places_of(planned: Plan) -> Riff:
    """The tune with every place as it was planned."""
    events = iter([event.notes[0] for event in planned.events if event.step is not None])
    last: list[PlannedNote] = []

    def placed(event: Event) -> Event:
        if event.rest:
            return event
        if Mark.TIE not in event.marks:
            last.append(next(events))
        note = last[-1]
        return replace(event, notes=(Note(Place(note.string, note.fret)),))

    phrase = planned.riff.phrases[0]
    bars = tuple(replace(bar, events=tuple(placed(event) for event in bar.events)) for bar in phrase.bars)
    return replace(planned.riff, phrases=(replace(phrase, bars=bars),))
