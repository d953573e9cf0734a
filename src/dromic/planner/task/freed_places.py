"""A riff whose strings are free again."""

from __future__ import annotations

from dataclasses import replace

from dromic.instrument.instrument import Instrument
from dromic.music.pitch import parse_pitch, pitch_name
from dromic.music.riff import Bar, Event, Mark, Note, Place, Riff


def as_pitches(riff: Riff, instrument: Instrument) -> Riff:
    """Return the riff with its places given up for the pitches they sound; dead notes keep theirs.

    Parameters
    ----------
    riff : Riff
    instrument : Instrument
        The one the places were written for.
    """

    def note(one: Note, event: Event) -> Note:
        if not isinstance(one.target, Place) or Mark.DEAD in one.marks | event.marks:
            return one
        pitch = parse_pitch(pitch_name(instrument.pitch(one.target)))
        return one if pitch is None else replace(one, target=pitch)

    def bar(one: Bar) -> Bar:
        events = (replace(event, notes=tuple(note(each, event) for each in event.notes)) for event in one.events)
        return replace(one, events=tuple(events))

    phrases = (replace(phrase, bars=tuple(bar(one) for one in phrase.bars)) for phrase in riff.phrases)
    return replace(riff, phrases=tuple(phrases))
