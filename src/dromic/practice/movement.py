"""What the hands do from one note to the next, by name: the same wherever it lies and whatever it sounds.

A movement key says the pair of strokes and how many strings the pick goes; the fingers, how many frets apart
they land, and how far the hand shifts; and legato. No pitch, no place: by its keys a log counts one movement
across riffs. Behind the sign @ stands how long it may last, in quarter notes: a movement in eighths at 160 is as
fast as the same in sixteenths at 80.
"""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from itertools import pairwise

from dromic.music.riff import Riff, Stroke
from dromic.planner.plan import Plan, PlannedEvent

_LETTERS = {Stroke.DOWN: "d", Stroke.UP: "u", Stroke.CHORD_PLUCK: "t", Stroke.NONE: "-"}
# Shifts farther than this are one kind of movement.
FARTHEST_SHIFT = 7
FINEST_GAP = 96


@dataclass(frozen=True)
class Movements:
    """The movements of a plan.

    Parameters
    ----------
    keys : tuple of str
        One for the way to each step after the first.
    loads : mapping of str to float
        The largest load of each, at the plan's tempo.
    """

    keys: tuple[str, ...]
    loads: Mapping[str, float]

    @property
    def each(self) -> tuple[str, ...]:
        """Every movement once, in the order in which it comes first."""
        return tuple(dict.fromkeys(self.keys))


def movements(plan: Plan) -> Movements:
    """Name every movement of a plan.

    Parameters
    ----------
    plan : Plan
    """
    played = [event for event in plan.events if event.step is not None]
    keys: list[str] = []
    loads: dict[str, float] = {}
    for before, after in pairwise(played):
        key = movement_key(before, after)
        keys.append(key)
        loads[key] = max(loads.get(key, 0.0), after.loads.largest)
    return Movements(tuple(keys), loads)


def movement_key(before: PlannedEvent, after: PlannedEvent, gap: Fraction | None = None) -> str:
    """The name of a movement.

    ``du+1.13+2.0@1/4`` is a down, then an up one string thinner, by fingers 1 and 3, two frets up, without a
    shift, a quarter of a quarter note later.

    Parameters
    ----------
    before, after : PlannedEvent
        Two notes, or chords, that follow each other.
    gap : Fraction or None
        How long it may last, in quarter notes; None for what lies between their onsets.
    """
    strokes = f"{_stroke(before)}{_stroke(after)}{_left(before) - _met(after):+d}"
    fingers = f"{_fingers(before)}{_fingers(after)}{_frets(before, after)}"
    shift = (after.position or 0) - (before.position or 0)
    shift = max(min(shift, FARTHEST_SHIFT), -FARTHEST_SHIFT)
    between = Fraction(after.moment.played - before.moment.played) if gap is None else gap
    return f"{strokes}.{fingers}.{shift}@{between.limit_denominator(FINEST_GAP)}"


@lru_cache(maxsize=20_000)
def movement_and_gap(key: str) -> tuple[str, float]:
    """What the hands do, and the quarter notes that they have for it; 0 where the key does not say.

    Examples
    --------
    >>> movement_and_gap("du+1.13+2.0@1/4")
    ('du+1.13+2.0', 0.25)
    """
    movement, _, gap = key.partition("@")
    try:
        return movement, float(Fraction(gap)) if gap else 0.0
    except (ValueError, ZeroDivisionError):
        return movement, 0.0


def of_hand(key: str, *, picking: bool) -> str:
    """What one hand does of a movement; the other hand's part is left open.

    Examples
    --------
    >>> of_hand("du+1.13+2.0@1/4", picking=True), of_hand("du+1.13+2.0@1/4", picking=False)
    ('du+1..@1/4', '.13+2.0@1/4')
    """
    movement, _, gap = key.partition("@")
    strokes, fingers, shift = movement.split(".")
    return f"{strokes}..@{gap}" if picking else f".{fingers}.{shift}@{gap}"


def _stroke(event: PlannedEvent) -> str:
    if event.legato is not None and event.stroke is Stroke.NONE:
        return str(event.legato)
    return _LETTERS.get(event.stroke, str(event.stroke))


def _left(event: PlannedEvent) -> int:
    """The string that the stroke leaves last."""
    strings = [note.string for note in event.notes]
    return max(strings) if event.stroke is Stroke.UP else min(strings)


def _met(event: PlannedEvent) -> int:
    """The string that the stroke meets first."""
    strings = [note.string for note in event.notes]
    return min(strings) if event.stroke is Stroke.UP else max(strings)


def _fingers(event: PlannedEvent) -> str:
    fingers = "".join(str(note.finger) for note in event.notes)
    return fingers if len(fingers) == 1 else f"({fingers})"


def _frets(before: PlannedEvent, after: PlannedEvent) -> str:
    """How many frets apart the lowest fingers land; nothing where one of the two is open."""
    one, two = ([note.fret for note in event.notes if note.finger] for event in (before, after))
    return f"{min(two) - min(one):+d}" if one and two else ""


def riff_hash(riff: Riff) -> str:
    """What tells riffs apart in the log: instrument and notes as written, whatever tempo, title or decisions.

    Parameters
    ----------
    riff : Riff
    """
    words = [riff.instrument, riff.tuning, str(riff.capo), str(riff.meter), str(riff.swing)]
    for phrase in riff.phrases:
        words.append(f"x{phrase.times}")
        for bar in phrase.bars:
            words.append("|")
            for event in bar.events:
                notes = [f"{note.target}{''.join(sorted(note.marks))}" for note in event.notes]
                words.append(f"{event.value}{''.join(sorted(event.marks))}{' '.join(notes)}")
    return _hashed(words)


def plan_hash(plan: Plan) -> str:
    """What tells plans apart: every place, finger and stroke.

    Parameters
    ----------
    plan : Plan
    """
    return _hashed([f"{state.notes}{state.position}{state.stroke}{state.sounded}" for state in plan.states])


def _hashed(words: list[str]) -> str:
    return hashlib.sha256("\n".join(words).encode()).hexdigest()[:16]
