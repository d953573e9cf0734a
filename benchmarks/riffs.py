"""Riffs of a chosen length, the same every time, for all benchmarks."""

from __future__ import annotations

import random

from dromic.music.pitch import parse_pitch, pitch_name
from dromic.music.rhythm import Meter, NoteValue
from dromic.music.riff import Bar, Event, Note, Phrase, Riff

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
