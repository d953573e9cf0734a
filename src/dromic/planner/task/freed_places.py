"""A riff whose strings are free again, or all of it."""

from __future__ import annotations

from dataclasses import replace

from dromic.instrument.instrument import Instrument
from dromic.memory import Stages
from dromic.music.pitch import parse_pitch, pitch_name
from dromic.music.riff import NO_LOCKS, Bar, Mark, Note, Place, Riff


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
    """Return the riff with nothing decided: pitches for places, of dead notes too, and no locks.

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
    events = []
    for event in bar.events:
        dead = Mark.DEAD in event.marks
        notes = (note if dead or Mark.DEAD in note.marks else _freed(note, instrument) for note in event.notes)
        events.append(replace(event, notes=tuple(notes)))
    return replace(bar, events=tuple(events))


def _undecided_bar(bar: Bar, instrument: Instrument) -> Bar:
    events = []
    for event in bar.events:
        notes = tuple(replace(_freed(note, instrument), locks=NO_LOCKS) for note in event.notes)
        events.append(replace(event, notes=notes, locks=NO_LOCKS))
    return replace(bar, events=tuple(events))


def _freed(note: Note, instrument: Instrument) -> Note:
    if not isinstance(note.target, Place):
        return note
    pitch = parse_pitch(pitch_name(instrument.pitch(note.target)))
    return note if pitch is None else replace(note, target=pitch)
