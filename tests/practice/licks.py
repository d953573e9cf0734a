"""Licks to vary: drawn at random, and what is heard of them."""

from __future__ import annotations

from fractions import Fraction

from hypothesis import strategies as st

from dromic.instrument.presets import instrument_for, instrument_named
from dromic.music.riff import Mark, Place, Riff
from dromic.music.timeline import timeline
from tests.helpers import riff

GUITAR = instrument_named("guitar-6")
NOTES = {"C major": (0, 2, 4, 5, 7, 9, 11), "A minor": (9, 11, 0, 2, 4, 5, 7)}


@st.composite
def licks(draw: st.DrawFn) -> Riff:
    """A bar or two of single notes of a key around the middle of a guitar, as pitches or as places."""
    key = draw(st.sampled_from(list(NOTES)))
    placed = draw(st.booleans())
    words = []
    for _ in range(draw(st.sampled_from([8, 16]))):
        if placed:
            string = draw(st.integers(2, 5))
            opens = GUITAR.pitch(Place(string, 0))
            frets = [fret for fret in range(5, 10) if (opens + fret) % 12 in NOTES[key]]
            words.append(f"{string}:{draw(st.sampled_from(frets))}")
        else:
            octave, tone = draw(st.sampled_from([3, 4])), draw(st.sampled_from(NOTES[key]))
            words.append(["C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"][tone] + str(octave))
    first = words[0] + "/8"
    bars = [[first, *words[1:8]], words[8:]] if len(words) > 8 else [[first, *words[1:]]]
    return riff(" ".join(f"| {' '.join(bar)} |" for bar in bars), key=key)


def heard(one: Riff) -> list[tuple[Fraction, Fraction, tuple[int, ...]]]:
    """Onset, length and pitches of every note; what is tied is one note."""
    instrument = instrument_for(one)
    found: list[tuple[Fraction, Fraction, tuple[int, ...]]] = []
    for moment in timeline(one):
        event = moment.event
        if event.rest:
            continue
        pitches = tuple(sorted(instrument.pitch_of(note.target) for note in event.notes))
        if Mark.TIE in event.marks and found:
            onset, length, before = found[-1]
            found[-1] = (onset, length + moment.duration, before)
        else:
            found.append((moment.onset, moment.duration, pitches))
    return found


def melody(one: Riff) -> list[tuple[int, ...]]:
    """Pitches in order."""
    return [pitches for _, _, pitches in heard(one)]
