"""Riffs of a chosen length, the same every time, for all benchmarks."""

from __future__ import annotations

import random

from dromic.music.pitch import parse_pitch, pitch_name
from dromic.music.rhythm import Meter, NoteValue
from dromic.music.riff import Bar, Event, Mark, Note, Phrase, Riff

_SCALE = (0, 2, 3, 5, 7, 8, 10)


def wandering_lick(count: int, *, seed: int = 7, tempo: float = 140.0) -> Riff:
    """Return sixteenths that wander over a scale between E2 and C6, all places free."""
    chance = random.Random(seed)
    ladder = [midi for midi in range(40, 85) if (midi - 40) % 12 in _SCALE]
    at = len(ladder) // 2
    events = []
    for _ in range(count):
        at = min(max(at + chance.choice((-3, -2, -1, -1, 1, 1, 2, 4)), 0), len(ladder) - 1)
        pitch = parse_pitch(pitch_name(ladder[at]))
        assert pitch is not None
        events.append(Event(NoteValue(16), (Note(pitch),)))
    bars = tuple(Bar(tuple(events[start : start + 16])) for start in range(0, count, 16))
    return Riff((Phrase(bars),), tempo=tempo, meter=Meter(4, 4))


def refrain(count: int, *, different: int = 8) -> Riff:
    """Return a wandering lick of which every second bar is one of a few that come back."""
    riff = wandering_lick(count)
    bars = riff.phrases[0].bars
    again = tuple(bars[2 * (number // 2 % different)] if number % 2 else bar for number, bar in enumerate(bars))
    return Riff((Phrase(again),), tempo=riff.tempo, meter=riff.meter)


def varied_riff(count: int, *, seed: int = 11, chords: bool = False) -> Riff:
    """Return a chromatic line of mixed lengths with marks, and chords where they are wanted."""
    chance = random.Random(seed)
    at, events, bars, left = 56, [], [], 16
    marks = [frozenset(some) for some in ((), (), (Mark.PALM_MUTE,), (Mark.ACCENT,), (Mark.VIBRATO,))]
    while count > 0:
        at = min(max(at + chance.choice((-4, -3, -2, -1, 1, 2, 3, 4)), 42), 80)
        size = min(chance.choice((1, 1, 1, 2, 4)), left)
        size = 2 if size == 3 else size
        names = [at, *((at + 7, at + 12) if chords and chance.random() < 0.2 and at < 66 else ())]
        pitches = (parse_pitch(pitch_name(midi)) for midi in names)
        notes = tuple(Note(pitch) for pitch in pitches if pitch is not None)
        events.append(Event(NoteValue(16 // size), notes, marks=chance.choice(marks)))
        left -= size
        count -= 1
        if not left:
            bars.append(Bar(tuple(events)))
            events, left = [], 16
    if events:
        rests = [Event(NoteValue(16)) for _ in range(left)]
        bars.append(Bar((*events, *rests)))
    return Riff((Phrase(tuple(bars)),), tempo=140.0, meter=Meter(4, 4))
