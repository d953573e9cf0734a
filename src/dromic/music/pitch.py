"""Pitches in scientific notation, MIDI numbers and frequencies.

C4 is middle C, MIDI number 60; A4 is 440 Hz (ISO 16). All pitches are sounding pitches.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

_STEPS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
_SHARP_NAMES = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")
_FLAT_NAMES = ("C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb", "B")
_PITCH = re.compile(r"([A-G])(#{1,2}|b{1,2})?(-?[0-9]{1,2})")

A4_HZ = 440.0
OCTAVE = 12
"""Semitones."""


@dataclass(frozen=True)
class Pitch:
    """A spelled pitch.

    Parameters
    ----------
    letter : str
        ``A`` to ``G``.
    alter : int
        Semitones added by accidentals, -2 to 2.
    octave : int
        Scientific octave; it changes between B and C.

    Examples
    --------
    >>> Pitch("C", 1, 4).midi, str(Pitch("B", -1, 2))
    (61, 'Bb2')
    """

    letter: str
    alter: int
    octave: int

    @property
    def midi(self) -> int:
        """MIDI note number."""
        return 12 * (self.octave + 1) + _STEPS[self.letter] + self.alter

    def __str__(self) -> str:
        accidental = "#" * self.alter if self.alter >= 0 else "b" * -self.alter
        return f"{self.letter}{accidental}{self.octave}"


@lru_cache(maxsize=1024)
def parse_pitch(text: str) -> Pitch | None:
    """Read a pitch, or return None when the text is not one.

    Examples
    --------
    >>> parse_pitch("Bb2").midi, parse_pitch("H2")
    (46, None)
    """
    match = _PITCH.fullmatch(text)
    if match is None:
        return None
    letter, accidental, octave = match.groups()
    accidental = accidental or ""
    return Pitch(letter, accidental.count("#") - accidental.count("b"), int(octave))


def pitch_name(midi: int, *, flats: bool = False) -> str:
    """Name a MIDI number.

    Examples
    --------
    >>> pitch_name(61), pitch_name(61, flats=True)
    ('C#4', 'Db4')
    """
    names = _FLAT_NAMES if flats else _SHARP_NAMES
    return f"{names[midi % 12]}{midi // 12 - 1}"


def frequency(midi: float) -> float:
    """Frequency in hertz, twelve-tone equal temperament on A4 = 440 Hz.

    Examples
    --------
    >>> frequency(57)
    220.0
    """
    return A4_HZ * float(2.0 ** ((midi - 69) / 12))
