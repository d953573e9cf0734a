"""Tones without an octave, spelled, and the degrees that they are of one another.

A degree is a number and what it is altered by against the major scale: b3 is the third, a semitone lower. Numbers
go on beyond the octave, as in chords: the ninth is the second an octave higher.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

LETTERS = "CDEFGAB"
MAJOR = (0, 2, 4, 5, 7, 9, 11)
_DEGREE = re.compile(r"(#{0,2}|b{0,2})(\d{1,2})")
_TONE = re.compile(r"([A-G])(#{1,2}|b{1,2})?")
HIGHEST_DEGREE = 13


@dataclass(frozen=True)
class Degree:
    """A degree.

    Parameters
    ----------
    number : int
        1 to 13.
    alter : int
        Semitones added to the major scale's.

    Examples
    --------
    >>> str(Degree(3, -1)), Degree(9).semitones
    ('b3', 14)
    """

    number: int
    alter: int = 0

    @property
    def semitones(self) -> int:
        """Semitones above the root."""
        octaves, step = divmod(self.number - 1, 7)
        return 12 * octaves + MAJOR[step] + self.alter

    def __str__(self) -> str:
        return f"{'#' * self.alter if self.alter > 0 else 'b' * -self.alter}{self.number}"


def parse_degrees(text: str) -> tuple[Degree, ...]:
    """Read degrees with blanks between; for the tables of this room.

    Raises
    ------
    ValueError

    Examples
    --------
    >>> [degree.semitones for degree in parse_degrees("1 b3 5 b7")]
    [0, 3, 7, 10]
    """
    degrees = []
    for word in text.split():
        match = _DEGREE.fullmatch(word)
        if match is None or not 1 <= int(match[2]) <= HIGHEST_DEGREE:
            raise ValueError(word)
        degrees.append(Degree(int(match[2]), match[1].count("#") - match[1].count("b")))
    return tuple(degrees)


@dataclass(frozen=True)
class Tone:
    """A spelled tone without an octave.

    Parameters
    ----------
    letter : str
    alter : int

    Examples
    --------
    >>> str(Tone("B", -1)), Tone("B", -1).pitch_class, str(Tone("E").above(Degree(3)))
    ('Bb', 10, 'G#')
    """

    letter: str
    alter: int = 0

    @property
    def pitch_class(self) -> int:
        """Semitones above C, 0 to 11."""
        return (MAJOR[LETTERS.index(self.letter)] + self.alter) % 12

    def above(self, degree: Degree) -> Tone:
        """The tone a degree above; one that would need three signs gets a plainer name."""
        letter = LETTERS[(LETTERS.index(self.letter) + degree.number - 1) % 7]
        wanted = (self.pitch_class + degree.semitones) % 12
        alter = (wanted - MAJOR[LETTERS.index(letter)] + 6) % 12 - 6
        return Tone(letter, alter) if abs(alter) <= 2 else plain_tone(wanted, flats=alter < 0)

    def __str__(self) -> str:
        return f"{self.letter}{'#' * self.alter if self.alter > 0 else 'b' * -self.alter}"


def parse_tone(text: str) -> Tone | None:
    """Read a tone such as ``F#``; None when the text is not one."""
    match = _TONE.fullmatch(text)
    if match is None:
        return None
    signs = match[2] or ""
    return Tone(match[1], signs.count("#") - signs.count("b"))


_SHARP = tuple(map(parse_tone, ["C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"]))
_FLAT = tuple(map(parse_tone, ["C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb", "B"]))


def plain_tone(pitch_class: int, *, flats: bool = False) -> Tone:
    """The tone of a pitch class with one sign at most.

    Examples
    --------
    >>> str(plain_tone(10)), str(plain_tone(10, flats=True))
    ('A#', 'Bb')
    """
    plain_tone = (_FLAT if flats else _SHARP)[pitch_class % 12]
    assert plain_tone is not None
    return plain_tone


_USUAL = parse_degrees("1 b2 2 b3 3 4 #4 5 b6 6 b7 7")


def usual_degree(semitones: int) -> Degree:
    """The degree that so many semitones above a tonic are called where the spelling does not say.

    Examples
    --------
    >>> str(usual_degree(6)), str(usual_degree(10))
    ('#4', 'b7')
    """
    return _USUAL[semitones % 12]
