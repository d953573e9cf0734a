"""Drills of strings and fingers: patterns of fingers, pairs of strings, strokes on open strings, rolls."""

from __future__ import annotations

from itertools import permutations

from dromic.errors import RiffError
from dromic.music.riff import Event, Locks, Place, Stroke
from dromic.practice.material.pieces import SIXTEENTH, Asked, Family, Material, locked, piece

D, U = Stroke.DOWN, Stroke.UP
# Patterns of strokes on open strings: strings above the lowest of them, and strokes. Common practice, no source.
STROKE_PATTERNS: tuple[tuple[str, tuple[int, ...], tuple[Stroke, ...]], ...] = (
    ("outside pairs", (0, 1), (D, U)),
    ("inside pairs", (1, 0), (D, U)),
    ("two a string, outside", (0, 0, 1, 1), (D, U, D, U)),
    ("two a string, begun up", (0, 0, 1, 1), (U, D, U, D)),
    ("three a string", (0, 0, 0, 1, 1, 1), (D, U, D, U, D, U)),
    ("sweep of two", (0, 1, 1, 0), (D, D, U, U)),
    ("sweep of three", (0, 1, 2, 2, 1, 0), (D, D, D, U, U, U)),
    ("skip, outside", (0, 2), (D, U)),
    ("skip, inside", (2, 0), (D, U)),
    ("three strings, alternate", (0, 1, 2), (D, U)),
    ("down, down, up", (0, 1, 2), (D, D, U)),
    ("economy, three up", (0, 0, 0, 1, 1, 1), (D, U, D, D, U, D)),
)
# Orders of three strings, low to high as 0, 1, 2.
ROLLS = {
    "forward roll": (0, 1, 2, 0, 1, 2, 0, 1),
    "backward roll": (2, 1, 0, 2, 1, 0, 2, 1),
    "forward and backward roll": (0, 1, 2, 1, 0, 1, 2, 1),
    "alternating roll": (0, 2, 1, 2, 0, 2, 1, 2),
}
ROLL_STROKES = {"alternate": (D, U), "down, down, up": (D, D, U, D, D, U, D, U)}
SHAPES = ((1, 2, 3), (1, 2, 4), (1, 3, 4), (2, 3, 4), (3, 1, 4), (4, 2, 1), (2, 4, 3), (4, 1, 3))
ROUNDS = 4


def finger_patterns(asked: Asked) -> tuple[Material, ...]:
    """All orders of four fingers across the strings, one finger a fret."""
    instrument, position = asked.instrument, _position(asked)
    finger_patterns = []
    for order in permutations((1, 2, 3, 4)):
        places = [
            (Place(string, position + finger - 1), finger)
            for string in range(instrument.strings, 0, -1)
            for finger in order
        ]
        events = [locked(place, Locks(finger=finger, position=position)) for place, finger in places]
        name = f"fingers {' '.join(map(str, order))} across the strings, position {position}"
        finger_patterns.append(piece(asked, Family.FINGERS, name, events))
    return tuple(finger_patterns)


def string_pairs(asked: Asked) -> tuple[Material, ...]:
    """Pairs of fingers over each pair of neighbouring strings, and over pairs with a string between."""
    instrument, position = asked.instrument, _position(asked)
    string_pairs = []
    for skip in (1, 2):
        for thick in range(instrument.strings, skip, -1):
            thin = thick - skip
            for pair in ((1, 2), (1, 3), (2, 3), (2, 4), (3, 4), (1, 4)):
                low, high = pair
                cell = [(thick, low), (thick, high), (thin, low), (thin, high)]
                events = [_fretted(string, finger, position) for string, finger in cell * ROUNDS]
                words = "next to each other" if skip == 1 else "with one between"
                name = f"fingers {low} and {high} on strings {thick} and {thin}, {words}"
                string_pairs.append(piece(asked, Family.STRING_PAIRS, name, events))
    return tuple(string_pairs)


def stroke_patterns(asked: Asked) -> tuple[Material, ...]:
    """Patterns of strokes on open strings, on thick, middle and thin ones."""
    count = asked.instrument.strings
    stroke_patterns = []
    for name, steps, strokes in STROKE_PATTERNS:
        highest = max(steps)
        lows = dict.fromkeys((count, (count + 1 + highest) // 2, highest + 1))
        for low in lows:
            length = len(steps) if len(steps) % len(strokes) == 0 else len(steps) * len(strokes)
            times = max(16 // length, 1) * ROUNDS // 2
            events = [
                locked(Place(low - steps[at % len(steps)], 0), Locks(strokes[at % len(strokes)]))
                for at in range(length * times)
            ]
            thin = low - highest
            words = f"{name} on open strings {low} and {thin}" if highest else f"{name} on open string {low}"
            stroke_patterns.append(piece(asked, Family.STROKES, words, events))
    return tuple(stroke_patterns)


def rolls(asked: Asked) -> tuple[Material, ...]:
    """Rolls over three strings: open, and over shapes with a finger on each.

    Raises
    ------
    RiffError
        On fewer than three strings.
    """
    instrument, position = asked.instrument, _position(asked)
    if instrument.strings < 3:
        raise RiffError("a roll wants three strings")
    rolls = []
    for low in (min(4, instrument.strings), 3):
        for name, order in ROLLS.items():
            for how, strokes in ROLL_STROKES.items():
                where = f"strings {low} to {low - 2}, {how}"
                open_notes = [
                    locked(Place(low - step, 0), Locks(strokes[at % len(strokes)]))
                    for at, step in enumerate(order * ROUNDS)
                ]
                rolls.append(piece(asked, Family.ROLLS, f"{name} on open {where}", open_notes))
                for fingers in SHAPES:
                    held = [
                        _fretted(low - step, fingers[step], position, strokes[at % len(strokes)])
                        for at, step in enumerate(order * ROUNDS)
                    ]
                    words = f"{name} over fingers {' '.join(map(str, fingers))} on {where}"
                    rolls.append(piece(asked, Family.ROLLS, words, held))
    return tuple(rolls)


def _fretted(string: int, finger: int, position: int, stroke: Stroke | None = None) -> Event:
    return locked(Place(string, position + finger - 1), Locks(stroke, finger, position), SIXTEENTH)


def _position(asked: Asked) -> int:
    highest = asked.instrument.top_fret - 3
    if not 1 <= asked.position <= highest:
        raise RiffError(f"position {asked.position} is beyond the neck; choose 1 to {highest}")
    return asked.position
