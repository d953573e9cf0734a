"""Exact durations, metres and swing. Lengths are fractions of a quarter note."""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property

_VALUE = re.compile(r"(\d{1,3})(\.{0,2})(t|q\d{1,2})?")
NOTE_BASES = (1, 2, 4, 8, 16, 32, 64)


@dataclass(frozen=True)
class NoteValue:
    """A written duration.

    Parameters
    ----------
    base : int
        4 for a quarter note, 8 for an eighth, and so on.
    dots : int
        0 to 2.
    tuplet : int
        0 for none, else how many notes share the time of `tuplet_time` plain ones.

    Examples
    --------
    >>> NoteValue(8, 1).quarters, NoteValue(8, tuplet=3).quarters, str(NoteValue(16, tuplet=5))
    (Fraction(3, 4), Fraction(1, 3), '16q5')
    """

    base: int
    dots: int = 0
    tuplet: int = 0

    @cached_property
    def quarters(self) -> Fraction:
        """Length in quarter notes."""
        plain = Fraction(4, self.base)
        dotted = plain * (2 - Fraction(1, 2**self.dots))
        return dotted * Fraction(tuplet_time(self.tuplet), self.tuplet) if self.tuplet else dotted

    def __str__(self) -> str:
        tuplet = {0: "", 3: "t"}.get(self.tuplet, f"q{self.tuplet}")
        return f"{self.base}{'.' * self.dots}{tuplet}"


def tuplet_time(count: int) -> int:
    """How many plain notes a tuplet of `count` takes the time of.

    Two and four stand in the time of three (duplets of compound metre); every other count in the time
    of the largest power of two below it.

    Examples
    --------
    >>> [tuplet_time(count) for count in (2, 3, 5, 6, 7, 9)]
    [3, 2, 4, 4, 4, 8]
    """
    if count in (2, 4):
        return 3
    return 1 << ((count - 1).bit_length() - 1)


def parse_value(text: str) -> NoteValue | None:
    """Read a duration such as ``8``, ``8.``, ``8t`` or ``16q5``; None when the text is not one.

    Examples
    --------
    >>> parse_value("8t"), parse_value("12")
    (NoteValue(base=8, dots=0, tuplet=3), None)
    """
    match = _VALUE.fullmatch(text)
    if match is None or int(match[1]) not in NOTE_BASES:
        return None
    tuplet = 0
    if match[3] == "t":
        tuplet = 3
    elif match[3]:
        tuplet = int(match[3][1:])
        if not 2 <= tuplet <= 16 or tuplet in (8, 16):
            return None
    return NoteValue(int(match[1]), len(match[2]), tuplet)


@dataclass(frozen=True)
class Meter:
    """A time signature.

    Examples
    --------
    >>> Meter(6, 8).bar, Meter(6, 8).beat, Meter(4, 4).beat
    (Fraction(3, 1), Fraction(3, 2), Fraction(1, 1))
    """

    count: int = 4
    unit: int = 4

    @cached_property
    def bar(self) -> Fraction:
        """Length of a bar in quarter notes."""
        return Fraction(4 * self.count, self.unit)

    @property
    def compound(self) -> bool:
        """Whether beats are dotted (6/8, 9/8, 12/8 and their like)."""
        return self.unit >= 8 and self.count % 3 == 0 and self.count > 3

    @cached_property
    def beat(self) -> Fraction:
        """Length of a beat in quarter notes."""
        return Fraction(4 * (3 if self.compound else 1), self.unit)

    def __str__(self) -> str:
        return f"{self.count}/{self.unit}"


_STRAIGHT = Fraction(1, 2)


@dataclass(frozen=True)
class Swing:
    """Uneven halves: the first of a pair takes `share` of its time.

    Parameters
    ----------
    share : Fraction
        Between 1/2 (straight) and 4/5.
    unit : int
        8 for swung eighths, 16 for swung sixteenths.
    """

    share: Fraction = Fraction(1, 2)
    unit: int = 8

    @property
    def straight(self) -> bool:
        """Whether nothing is swung."""
        return self.share == _STRAIGHT

    def played(self, quarters: Fraction, end: Fraction | None = None) -> Fraction:
        """When a written moment is played, both in quarter notes from the start of a beat grid.

        A pair that the `end` of the grid cuts short is straight.

        Examples
        --------
        >>> Swing(Fraction(2, 3)).played(Fraction(5, 2))
        Fraction(8, 3)
        >>> Swing(Fraction(2, 3)).played(Fraction(13, 4), end=Fraction(7, 2))
        Fraction(13, 4)
        """
        if self.straight:
            return quarters
        pair = Fraction(8, self.unit)
        start = quarters // pair * pair
        if end is not None and start + pair > end:
            return quarters
        inside = (quarters - start) / pair
        if inside < Fraction(1, 2):
            bent = inside * 2 * self.share
        else:
            bent = self.share + (inside - Fraction(1, 2)) * 2 * (1 - self.share)
        return start + bent * pair

    @property
    def pair(self) -> Fraction:
        """Length of a long and a short one, in quarter notes."""
        return Fraction(8, self.unit)

    def written(self, quarters: float) -> float:
        """When a moment that is played is written: `played` the other way round.

        Examples
        --------
        >>> Swing(Fraction(2, 3)).written(8 / 3)
        2.5
        """
        pair, share = float(self.pair), float(self.share)
        start = quarters // pair * pair
        inside = (quarters - start) / pair
        straight = inside / share / 2 if inside < share else 0.5 + (inside - share) / (1 - share) / 2
        return round(start + straight * pair, 9)

    def __str__(self) -> str:
        ratio = self.share / (1 - self.share)
        text = f"{ratio.numerator}:{ratio.denominator}"
        return text if self.unit == 8 else f"{self.unit} {text}"


_COUNTED = {
    Fraction(1, 4): " e",
    Fraction(1, 3): " &",
    Fraction(1, 2): " &",
    Fraction(2, 3): " a",
    Fraction(3, 4): " a",
}


def beat_words(beat: Fraction, meter: Meter, *, rough: bool = False) -> str:
    """A beat as players count it: 1 e & a, triplets and the beats of a jig 1 & a; what has no name by its place.

    Parameters
    ----------
    beat : Fraction
        In quarter notes, from 1.
    meter : Meter
        Compound metres count their own beats.
    rough : bool
        Whether the last place that has a name is enough.

    Examples
    --------
    >>> [beat_words(Fraction(n, 4), Meter(4, 4)) for n in (4, 5, 6, 7)]
    ['1', '1 e', '1 &', '1 a']
    >>> beat_words(Fraction(7, 3), Meter(4, 4)), beat_words(Fraction(3), Meter(6, 8))
    ('2 &', '2 &')
    >>> beat_words(Fraction(6, 5), Meter(4, 4))
    '1, 2nd of 5'
    """
    unit = meter.beat if meter.compound else Fraction(1)
    whole, rest = divmod((beat - 1) / unit, 1)
    if rough:
        rest = max((one for one in _COUNTED if one <= rest), default=Fraction(0))
    counted = _COUNTED.get(rest, f", {_nth(rest.numerator + 1)} of {rest.denominator}") if rest else ""
    return f"{whole + 1}{counted}"


def _nth(number: int) -> str:
    return f"{number}{ {1: 'st', 2: 'nd', 3: 'rd'}.get(number % 10 if number // 10 % 10 != 1 else 0, 'th') }"
