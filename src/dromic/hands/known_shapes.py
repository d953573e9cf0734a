"""Chord shapes that players know: those of a published table, and all that is part of one.

A shape without an open string is known wherever it lies along the neck, and three notes of it or more over open
strings too where no shape has these. Where a shape has just the places of some notes, its fingers are known and
those of larger shapes are not. Strings count as they are tuned against each other: an open string that is tuned
otherwise than on the guitar is left out, and of fingers on such a string the table has nothing to say.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from functools import cache, lru_cache
from importlib.resources import files

from dromic.hands.fingers import LITTLE
from dromic.hands.grips import Fretted
from dromic.instrument.instrument import Instrument

STANDARD = (64, 59, 55, 50, 45, 40)
"""MIDI numbers of the strings that the table is for, the thinnest first."""
Shape = dict[tuple[int, int], int]
"""Of string and fret the finger."""
MOST_REMEMBERED = 20_000
LEAST_EMBELLISHED = 3
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
    if any(string > len(STANDARD) for string, _, _ in notes):
        return None
    tuned = {string: instrument.tuning[instrument.index(string)] - STANDARD[string - 1] for string, _, _ in notes}
    usual = Counter(tuned.values()).most_common(1)[0][0]
    alike = [note for note in notes if tuned[note[0]] == usual]
    if any(fret for string, fret, _ in notes if tuned[string] != usual):
        return None
    places = tuple((string, fret) for string, fret, _ in alike)
    if tuple(finger for _, _, finger in alike) in _fingerings(places):
        return True
    return _embellished(alike)


def _embellished(notes: Sequence[Fretted]) -> bool:
    """Whether the little finger adds a note to a known shape of the first finger and others on a string each."""
    rest = [note for note in notes if note[2] != LITTLE]
    fingers = [finger for _, _, finger in rest if finger]
    added = len(notes) - len(rest) == 1 and len(rest) >= LEAST_EMBELLISHED
    if not added or 1 not in fingers or len({*fingers}) < len(fingers):
        return False
    return tuple(finger for _, _, finger in rest) in _fingerings(tuple((string, fret) for string, fret, _ in rest))


@lru_cache(MOST_REMEMBERED)
def _fingerings(places: tuple[tuple[int, int], ...]) -> frozenset[tuple[int, ...]]:
    """The fingers that known shapes have at some places."""
    opened, closed = _table()
    frets = [fret for _, fret in places]
    found = _in(opened, places)
    fretted = sum(fret > 0 for fret in frets)
    if all(frets) or (fretted > 2 and not found):
        lowest = min(fret for fret in frets if fret)
        for above in range(1, MOST_BELOW + 2):
            moved = [(string, fret - lowest + above) for string, fret in places if fret]
            for fingers in _in(closed, moved):
                each = iter(fingers)
                found.add(tuple(next(each) if fret else 0 for fret in frets))
    return frozenset(found)


def _in(shapes: Sequence[Shape], places: Sequence[tuple[int, int]]) -> set[tuple[int, ...]]:
    """Fingers of the shapes that have some places: of those with no other where there are any, else of all."""
    parts = [shape for shape in shapes if all(place in shape for place in places)]
    whole = [shape for shape in parts if len(shape) == len(places)]
    return {tuple(shape[place] for place in places) for shape in whole or parts}


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
