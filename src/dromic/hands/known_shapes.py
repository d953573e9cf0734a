"""Chord shapes that players know: those of a published table, and all that is part of one.

A shape without an open string is known wherever it lies along the neck. Strings count as they are tuned against
each other: where those of a shape are tuned otherwise than on the guitar, the table has nothing to say.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache, lru_cache
from importlib.resources import files

from dromic.hands.grips import Fretted
from dromic.instrument.instrument import Instrument

STANDARD = (64, 59, 55, 50, 45, 40)
"""MIDI numbers of the strings that the table is for, the thinnest first."""
Shape = dict[tuple[int, int], int]
"""Of string and fret the finger."""
MOST_REMEMBERED = 20_000
MOST_BELOW = 4
"""Frets that the lowest note of a part can lie above the lowest of its shape."""


def is_known(notes: Sequence[Fretted], instrument: Instrument) -> bool | None:
    """Whether notes with their fingers are a known shape or part of one; None where the table cannot say.

    Parameters
    ----------
    notes : sequence of (int, int, int)
        String, fret and finger.
    instrument : Instrument

    Examples
    --------
    >>> from dromic.instrument.presets import instrument_named
    >>> guitar = instrument_named("guitar-6")
    >>> is_known([(5, 3, 3), (3, 0, 0), (2, 1, 1)], guitar), is_known([(5, 3, 1), (3, 0, 0), (2, 1, 4)], guitar)
    (True, False)
    """
    strings = [string for string, _, _ in notes]
    if max(strings) > len(STANDARD):
        return None
    tuned = {instrument.tuning[instrument.index(string)] - STANDARD[string - 1] for string in strings}
    if len(tuned) > 1:
        return None
    frets = tuple(fret for _, fret, _ in notes)
    return tuple(finger for _, _, finger in notes) in _fingerings(tuple(zip(strings, frets, strict=True)))


@lru_cache(MOST_REMEMBERED)
def _fingerings(places: tuple[tuple[int, int], ...]) -> frozenset[tuple[int, ...]]:
    """The fingers that known shapes have at some places."""
    opened, closed = _table()
    frets = [fret for _, fret in places]
    found = _in(opened, places)
    if all(frets):
        for above in range(1, MOST_BELOW + 2):
            found |= _in(closed, [(string, fret - min(frets) + above) for string, fret in places])
    return frozenset(found)


def _in(shapes: Sequence[Shape], places: Sequence[tuple[int, int]]) -> set[tuple[int, ...]]:
    return {tuple(shape[place] for place in places) for shape in shapes if all(place in shape for place in places)}


@cache
def _table() -> tuple[tuple[Shape, ...], tuple[Shape, ...]]:
    """Shapes with open strings, and those without, from the first fret."""
    found: tuple[list[Shape], list[Shape]] = [], []
    text = files("dromic.hands").joinpath("chord_shapes.txt").read_text(encoding="utf-8")
    for line in (line for line in text.splitlines() if not line.startswith("#")):
        *frets, fingers = line.split()
        shape = {
            (len(STANDARD) - at, int(fret)): int(finger)
            for at, (fret, finger) in enumerate(zip(frets, fingers, strict=True))
            if fret != "x"
        }
        found[all(fret for _, fret in shape)].append(shape)
    return tuple(found[0]), tuple(found[1])
