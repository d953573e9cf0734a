"""From lengths in quarter notes to note values."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from functools import cache, lru_cache

from dromic.errors import RiffError
from dromic.music.rhythm import NOTE_BASES, NoteValue
from dromic.music.riff import NO_LOCKS, Event, Mark

_TUPLETS = (3, 5, 6, 7, 9, 2, 4, 10, 11, 12, 13, 14, 15)
TOLERANCE = Fraction(1, 24)


class UnsayableError(RiffError):
    """A length that no values of notes add up to."""


_LASTING = frozenset({Mark.PALM_MUTE, Mark.LET_RING, Mark.VIBRATO})


@cache
def _values() -> dict[Fraction, NoteValue]:
    """Every length that one value can have, with the plainest value of it."""
    values: dict[Fraction, NoteValue] = {}
    for tuplet in (0, *_TUPLETS):
        for dots in (0, 1, 2):
            for base in NOTE_BASES:
                value = NoteValue(base, dots, tuplet)
                if not (tuplet and dots > 1):
                    values.setdefault(value.quarters, value)
    return values


def value_of(length: Fraction) -> NoteValue | None:
    """The one value of a length in quarter notes, or None.

    Examples
    --------
    >>> str(value_of(Fraction(3, 2))), str(value_of(Fraction(1, 3))), value_of(Fraction(5, 4))
    ('4.', '8t', None)
    """
    return _values().get(length)


def values_of(length: Fraction) -> tuple[NoteValue, ...]:
    """Values that add up to a length, the longest first.

    Raises
    ------
    UnsayableError
        For a length that no values of up to 15 in a tuplet add up to.

    Examples
    --------
    >>> [str(value) for value in values_of(Fraction(5, 4))]
    ['4', '16']
    """
    values = _adding_up_to(length)
    if values is None:
        raise UnsayableError(f"a length of {length} quarter notes cannot be written with note values")
    return values


@lru_cache(maxsize=4_096)
def _adding_up_to(length: Fraction) -> tuple[NoteValue, ...] | None:
    """Values that add up to a length; None where there are none."""
    one = value_of(length)
    if one is not None:
        return (one,)
    found: list[NoteValue] = []
    left = length
    # Plain values take what is binary; what is left over has to be one value of a tuplet.
    for base in NOTE_BASES:
        plain = NoteValue(base)
        while plain.quarters <= left:
            found.append(plain)
            left -= plain.quarters
            if left in _values():
                return (*found, _values()[left])
            if len(found) > 64:
                break
        if not left:
            return tuple(found)
    return None


@lru_cache(maxsize=4_096)
def snapped(length: Fraction) -> Fraction:
    """The nearest length that values can have: files round what their divisions cannot say.

    Examples
    --------
    >>> snapped(Fraction(5, 4)), snapped(Fraction(333, 1000))
    (Fraction(5, 4), Fraction(1, 3))
    """
    try:
        values_of(length)
    except UnsayableError:
        for parts in (48, 64, 80):
            near = Fraction(round(length * parts), parts)
            if near and abs(near - length) <= TOLERANCE and near in _values():
                return near
        return max(Fraction(round(length * 16), 16), Fraction(1, 16))
    return length


def sounding(event: Event, length: Fraction) -> list[Event]:
    """An event of a length, tied where it takes several values; a grace note stays one."""
    if event.grace:
        return [event]
    sounding: list[Event] = []
    for value in values_of(length):
        one = replace(event, value=value, chord=None if sounding else event.chord)
        if sounding and not event.rest:
            one = replace(one, marks=frozenset({Mark.TIE}) | (event.marks & _LASTING), locks=NO_LOCKS)
        sounding.append(one)
    return sounding
