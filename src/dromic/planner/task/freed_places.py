"""A riff whose strings are free again, or all of it."""

from __future__ import annotations

from dataclasses import replace

from dromic.instrument.instrument import Instrument
from dromic.memory import Stages
from dromic.music.pitch import parse_pitch, pitch_name
from dromic.music.riff import NO_LOCKS, Bar, Event, Mark, Note, Place, Riff


def as_pitches(riff: Riff, instrument: Instrument) -> Riff:
    """Return the riff with its places given up for the pitches they sound; dead notes keep theirs.

    Parameters
    ----------
    riff : Riff
    instrument : Instrument
        The one the places were written for.
    """
    return _with_bars(riff, [_freed_bar(bar, instrument) for bar in _bars_of(riff)])


def music_of(riff: Riff, instrument: Instrument, stages: Stages) -> Riff:
    """Return the riff with nothing decided: pitches for places, but for dead notes, and no locks.

    Parameters
    ----------
    riff : Riff
    instrument : Instrument
        The one the places were written for.
    stages : Stages
        What was made of this riff before.
    """
    return _with_bars(riff, stages.map(_undecided_bar, _bars_of(riff), common=(instrument,)))


def _bars_of(riff: Riff) -> list[Bar]:
    return [bar for phrase in riff.phrases for bar in phrase.bars]


def _with_bars(riff: Riff, bars: list[Bar]) -> Riff:
    left = iter(bars)
    phrases = (replace(phrase, bars=tuple(next(left) for _ in phrase.bars)) for phrase in riff.phrases)
    return replace(riff, phrases=tuple(phrases))


def _freed_bar(bar: Bar, instrument: Instrument) -> Bar:
    events = (
        replace(event, notes=tuple(_freed(note, event, instrument) for note in event.notes)) for event in bar.events
    )
    return replace(bar, events=tuple(events))


def _undecided_bar(bar: Bar, instrument: Instrument) -> Bar:
    events = []
    for event in _freed_bar(bar, instrument).events:
        notes = tuple(replace(note, locks=NO_LOCKS) for note in event.notes)
        events.append(replace(event, notes=notes, locks=NO_LOCKS))
    return replace(bar, events=tuple(events))


def _freed(note: Note, event: Event, instrument: Instrument) -> Note:
    if not isinstance(note.target, Place) or Mark.DEAD in note.marks | event.marks:
        return note
    pitch = parse_pitch(pitch_name(instrument.pitch(note.target)))
    return note if pitch is None else replace(note, target=pitch)
