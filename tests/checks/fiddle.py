"""Fiddle tunes of an open collection as riffs.

Source: Ryan's Mammoth Collection (1883, public domain), as the music21 package carries it, read by music21.
"""

from __future__ import annotations

import warnings
from fractions import Fraction

from dromic.music.pitch import parse_pitch, pitch_name
from dromic.music.rhythm import Meter, NoteValue
from dromic.music.riff import Bar, Event, Note, Phrase, Riff

with warnings.catch_warnings():
    # What the library's own imports warn of is not ours to mend.
    warnings.simplefilter("ignore")
    import music21

_VALUES = {
    value.quarters: value
    for base in (1, 2, 4, 8, 16, 32)
    for value in (NoteValue(base), NoteValue(base, 1), NoteValue(base, tuplet=3))
}


def paths() -> list[str]:
    """Every file of the collection, in the order of names."""
    return sorted(str(path) for path in music21.corpus.getComposer("ryansMammoth"))


def tune(path: str) -> Riff | None:
    """A tune as a riff without repeats and grace notes; None where it is no single line in one of our metres."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        score = music21.converter.parse(path)
    part = score.parts[0]
    signatures = list(part.recurse().getElementsByClass(music21.meter.TimeSignature))
    if len({signature.ratioString for signature in signatures}) != 1:
        return None
    meter = Meter(signatures[0].numerator, signatures[0].denominator)
    bars = []
    for measure in part.getElementsByClass(music21.stream.Measure):
        events = [_event(one) for one in measure.recurse().notesAndRests if one.duration.quarterLength]
        if any(event is None for event in events):
            return None
        if events:
            bars.append(Bar(tuple(event for event in events if event is not None)))
    if not bars:
        return None
    first = bars[0].quarters
    pickup = first if first < meter.bar else Fraction(0)
    if not _full_bars_lie_on_the_grid(bars, meter, pickup):
        return None
    return Riff((Phrase(tuple(bars)),), title=str(score.metadata.title), meter=meter, pickup=pickup, tempo=160.0)


def _full_bars_lie_on_the_grid(bars: list[Bar], meter: Meter, pickup: Fraction) -> bool:
    """Whether bars that are split at repeats add up, so that every full bar begins where the metre has one."""
    at = Fraction(0)
    for bar in bars:
        if bar.quarters > meter.bar or (bar.quarters == meter.bar and (at - pickup) % meter.bar):
            return False
        at += bar.quarters
    return True


def _event(one: music21.note.GeneralNote) -> Event | None:
    value = _VALUES.get(Fraction(one.duration.quarterLength).limit_denominator(96))
    if value is None or isinstance(one, music21.chord.Chord):
        return None
    if one.isRest:
        return Event(value)
    return Event(value, (Note(parse_pitch(pitch_name(one.pitch.midi))),))
