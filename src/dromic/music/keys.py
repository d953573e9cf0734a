"""Keys: a tonic and a mode, as players write them, and the circle that they go round in."""

from __future__ import annotations

import re
from dataclasses import dataclass

from dromic.music.scales import FORMULAS, Scale
from dromic.music.tones import Degree, Tone, parse_tone, plain_tone

# What each mode adds to the fifths of its tonic's major key.
MODE_FIFTHS = {
    "lydian": 1,
    "major": 0,
    "mixolydian": -1,
    "dorian": -2,
    "minor": -3,
    "phrygian": -4,
    "locrian": -5,
}
FIFTHS = {"F": -1, "C": 0, "G": 1, "D": 2, "A": 3, "E": 4, "B": 5}
SHORT_MODES = {
    "": "major",
    "maj": "major",
    "ion": "major",
    "m": "minor",
    "min": "minor",
    "aeo": "minor",
    "mix": "mixolydian",
    "dor": "dorian",
    "phr": "phrygian",
    "loc": "locrian",
    "lyd": "lydian",
}
_KEY = re.compile(r"\s*([A-G](?:#|b)?)\s*([A-Za-z]*)\s*")


@dataclass(frozen=True)
class Key:
    """A key.

    Parameters
    ----------
    tonic : Tone
    mode : str
        One of `MODE_FIFTHS`.

    Examples
    --------
    >>> str(Key(Tone("F", 1), "minor")), Key(Tone("F", 1), "minor").fifths, Key(Tone("D"), "dorian").fifths
    ('F# minor', 3, 0)
    """

    tonic: Tone
    mode: str = "major"

    @property
    def fifths(self) -> int:
        """Sharps of its signature; flats where negative."""
        return FIFTHS[self.tonic.letter] + 7 * self.tonic.alter + MODE_FIFTHS[self.mode]

    @property
    def scale(self) -> Scale:
        """Its scale."""
        return Scale(self.tonic, FORMULAS[self.mode])

    @property
    def minor(self) -> bool:
        """Whether its third is a minor one."""
        return self.scale.formula.degrees[2] == Degree(3, -1)

    def up(self, semitones: int) -> Key:
        """The same mode on another tonic, spelled with the fewer signs.

        Examples
        --------
        >>> str(parse_key("C").up(5)), str(parse_key("Am").up(1)), str(parse_key("E").up(1))
        ('F major', 'Bb minor', 'F major')
        """
        pitch_class = self.tonic.pitch_class + semitones
        both = [Key(plain_tone(pitch_class, flats=flats), self.mode) for flats in (True, False)]
        return min(both, key=lambda key: abs(key.fifths))

    def __str__(self) -> str:
        return f"{self.tonic} {self.mode}"


def parse_key(text: str) -> Key | None:
    """Read a key such as ``A minor``, ``F#m`` or ``D dorian``; None when the text does not begin with one.

    Examples
    --------
    >>> str(parse_key("Em")), str(parse_key("Bb")), str(parse_key("Ador")), parse_key("blue")
    ('E minor', 'Bb major', 'A dorian', None)
    """
    match = _KEY.fullmatch(text)
    tonic = parse_tone(match[1]) if match is not None else None
    if match is None or tonic is None:
        return None
    word = match[2]
    short = word if word == "m" else "maj" if word == "M" else word.lower()[:3]
    mode = SHORT_MODES.get(short)
    return None if mode is None else Key(tonic, mode)


CIRCLE_STEP = 5
"""Semitones from one key to the next round the circle of fourths."""


def circle_of_fourths(key: Key) -> tuple[Key, ...]:
    """The twelve keys from one on, each a fourth above the one before.

    Examples
    --------
    >>> " ".join(str(one.tonic) for one in circle_of_fourths(parse_key("C")))
    'C F Bb Eb Ab Db Gb B E A D G'
    """
    return (key, *(key.up(CIRCLE_STEP * number) for number in range(1, 12)))
