"""Scales by their formulas, and notes as degrees of them.

A note is a step of a scale and what it is altered by: steps are counted through all octaves, so that a note goes
up a degree by going up a step, and so many steps as the scale has tones are an octave.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from dromic.errors import RiffError
from dromic.music.pitch import Pitch
from dromic.music.tones import LETTERS, Degree, Tone, parse_degrees, usual_degree


@dataclass(frozen=True)
class Formula:
    """What a scale is made of.

    Parameters
    ----------
    name : str
    degrees : tuple of Degree
        From the tonic up, within an octave.
    family : str
        ``mode``, ``minor``, ``five``, ``blues``, ``bebop`` or ``symmetric``.
    """

    name: str
    degrees: tuple[Degree, ...]
    family: str


# Formulas are common practice; tests hold those that it knows against music21.
_TABLE = (
    ("major", "1 2 3 4 5 6 7", "mode"),
    ("dorian", "1 2 b3 4 5 6 b7", "mode"),
    ("phrygian", "1 b2 b3 4 5 b6 b7", "mode"),
    ("lydian", "1 2 3 #4 5 6 7", "mode"),
    ("mixolydian", "1 2 3 4 5 6 b7", "mode"),
    ("minor", "1 2 b3 4 5 b6 b7", "mode"),
    ("locrian", "1 b2 b3 4 b5 b6 b7", "mode"),
    ("harmonic minor", "1 2 b3 4 5 b6 7", "minor"),
    ("melodic minor", "1 2 b3 4 5 6 7", "minor"),
    ("phrygian dominant", "1 b2 3 4 5 b6 b7", "minor"),
    ("lydian dominant", "1 2 3 #4 5 6 b7", "minor"),
    ("altered", "1 b2 b3 b4 b5 b6 b7", "minor"),
    ("major pentatonic", "1 2 3 5 6", "five"),
    ("minor pentatonic", "1 b3 4 5 b7", "five"),
    ("blues", "1 b3 4 b5 5 b7", "blues"),
    ("major blues", "1 2 b3 3 5 6", "blues"),
    ("bebop dominant", "1 2 3 4 5 6 b7 7", "bebop"),
    ("bebop major", "1 2 3 4 5 #5 6 7", "bebop"),
    ("bebop dorian", "1 2 b3 3 4 5 6 b7", "bebop"),
    ("whole tone", "1 2 3 #4 #5 b7", "symmetric"),
    ("diminished", "1 2 b3 4 b5 b6 6 7", "symmetric"),
    ("half-whole diminished", "1 b2 b3 3 #4 5 6 b7", "symmetric"),
    ("chromatic", "1 b2 2 b3 3 4 #4 5 b6 6 b7 7", "symmetric"),
)
FORMULAS = {name: Formula(name, parse_degrees(degrees), family) for name, degrees, family in _TABLE}


def formula_named(name: str) -> Formula:
    """Find a formula.

    Raises
    ------
    RiffError
        For a name that is not known.
    """
    if name not in FORMULAS:
        raise RiffError(f"there is no scale '{name}'; expected one of {', '.join(FORMULAS)}")
    return FORMULAS[name]


@dataclass(frozen=True)
class Step:
    """A note of a scale: its step through all octaves, and what it is altered by."""

    number: int
    alter: int = 0


@dataclass(frozen=True)
class Scale:
    """A scale on a tonic.

    Examples
    --------
    >>> scale = Scale(Tone("A"), FORMULAS["harmonic minor"])
    >>> " ".join(map(str, scale.tones)), str(scale)
    ('A B C D E F G#', 'A harmonic minor')
    """

    tonic: Tone
    formula: Formula

    @cached_property
    def tones(self) -> tuple[Tone, ...]:
        """Its tones, spelled, from the tonic up."""
        return tuple(self.tonic.above(degree) for degree in self.formula.degrees)

    @cached_property
    def _rises(self) -> tuple[int, ...]:
        return tuple(degree.semitones for degree in self.formula.degrees)

    @property
    def size(self) -> int:
        """How many tones it has."""
        return len(self._rises)

    def __str__(self) -> str:
        return f"{self.tonic} {self.formula.name}"

    def midi(self, step: Step) -> int:
        """The MIDI number of a step."""
        octave, index = divmod(step.number, self.size)
        return self.tonic.pitch_class + 12 * octave + self._rises[index] + step.alter

    def holds(self, midi: int) -> bool:
        """Whether a note is one of the scale's."""
        return (midi - self.tonic.pitch_class) % 12 in self._rises

    def step(self, midi: int, spelled: Pitch | None = None) -> Step:
        """The step of a note; one outside the scale is the step that it is spelled as, altered.

        Where it has no spelling, or the scale has not one tone a letter, it is a raised fourth or the next higher
        step lowered.

        Examples
        --------
        >>> scale = Scale(Tone("C"), FORMULAS["major"])
        >>> scale.step(62), scale.step(66), scale.step(70)
        (Step(number=36, alter=0), Step(number=38, alter=1), Step(number=41, alter=-1))
        """
        octave, rise = divmod(midi - self.tonic.pitch_class, 12)
        if rise in self._rises:
            return Step(octave * self.size + self._rises.index(rise))
        if spelled is not None and len({tone.letter for tone in self.tones}) == self.size == len(LETTERS):
            index = next(at for at, tone in enumerate(self.tones) if tone.letter == spelled.letter)
            alter = (rise - self._rises[index] + 6) % 12 - 6
            plain = midi - alter
            octave = (plain - self.tonic.pitch_class) // 12
            return Step(octave * self.size + index, alter)
        below = max((at for at, one in enumerate(self._rises) if one < rise), default=0)
        if usual_degree(rise).alter > 0:
            return Step(octave * self.size + below, rise - self._rises[below])
        above = octave * self.size + below + 1
        return Step(above, midi - self.midi(Step(above)))

    def up(self, midi: int, steps: int, spelled: Pitch | None = None) -> int:
        """A note so many degrees higher, or lower where negative; what is altered stays so.

        Parameters
        ----------
        midi, steps : int
        spelled : Pitch or None

        Examples
        --------
        >>> scale = Scale(Tone("C"), FORMULAS["major"])
        >>> scale.up(60, 2), scale.up(61, 7) - 61, scale.up(64, -1)
        (64, 12, 62)
        """
        at = self.step(midi, spelled)
        return self.midi(Step(at.number + steps, at.alter))

    def spelled(self, midi: int) -> Pitch:
        """A note with the name that it has in the scale.

        Examples
        --------
        >>> str(Scale(Tone("F"), FORMULAS["major"]).spelled(70))
        'Bb4'
        """
        rise = (midi - self.tonic.pitch_class) % 12
        held = rise in self._rises
        tone = self.tones[self._rises.index(rise)] if held else self.tonic.above(usual_degree(rise))
        octave = (midi - tone.alter) // 12 - 1
        return Pitch(tone.letter, tone.alter, octave)


def outside(scale: Scale, midis: Sequence[int]) -> tuple[str, ...]:
    """The tones of some notes that a scale does not hold, by name, each once."""
    strange = dict.fromkeys(midi % 12 for midi in midis if not scale.holds(midi))
    return tuple(str(scale.spelled(60 + pitch_class)).rstrip("0123456789") for pitch_class in sorted(strange))
