"""The shape of the neck that notes are taken from: which root they lie around, and where the hand is.

Chord shapes are called by the open chord that they look like (common practice, no source): in E shape the lowest
root is on the sixth string under the first fingers, in G shape under the last ones, A and C shape are the same on
the fifth string, and in D shape the lowest root is on the fourth.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from dromic.hands.fingers import finger_words
from dromic.music.chords import Chord
from dromic.music.keys import Key
from dromic.planner.plan import Plan

LEAST_NOTES = 3
SPAN = 4
_STANDARD = (5, 5, 5, 4, 5)
_SHAPES = {(6, False): "E", (6, True): "G", (5, False): "A", (5, True): "C", (4, False): "D", (4, True): "D"}


@dataclass(frozen=True)
class NeckShape:
    """Where some notes lie.

    Parameters
    ----------
    first, last : int
        Steps of the plan.
    position : int
        Fret at which the first finger is at home.
    harmony : str
        The chord or key whose root counts.
    shape : str
        ``E``, ``G``, ``A``, ``C`` or ``D``; empty where the tuning is another.
    root_string : int
        String of the lowest root under the hand; 0 where there is none.
    root_finger : int
        The finger over it.
    """

    first: int
    last: int
    position: int
    harmony: str
    shape: str
    root_string: int
    root_finger: int

    @property
    def words(self) -> str:
        """The shape in words.

        Examples
        --------
        >>> NeckShape(0, 7, 5, "A minor", "E", 6, 1).words
        'E shape of A minor, position 5: root on string 6 under finger 1'
        >>> NeckShape(0, 7, 5, "A minor", "", 0, 0).words
        'position 5: no root of A minor under the hand'
        """
        if not self.root_string:
            return f"position {self.position}: no root of {self.harmony} under the hand"
        finger = f"under {finger_words(self.root_finger)}" if self.root_finger else "open"
        root = f"root on string {self.root_string} {finger}"
        if self.shape:
            return f"{self.shape} shape of {self.harmony}, position {self.position}: {root}"
        return f"{self.harmony}, position {self.position}: {root}"


def neck_shapes(plan: Plan, key: Key | None, chords: Sequence[Chord | None]) -> tuple[NeckShape, ...]:
    """The shapes that a plan goes through, one after the other.

    Parameters
    ----------
    plan : Plan
    key : Key or None
    chords : sequence of Chord or None
        One a step of the plan.
    """
    neck_shapes: list[NeckShape] = []
    for first, last in _stays(plan, chords):
        chord = chords[first]
        if chord is None and key is None:
            continue
        if last - first + 1 >= LEAST_NOTES:
            root = chord.root if chord is not None else key.tonic if key is not None else None
            assert root is not None
            harmony = str(chord) if chord is not None else str(key)
            neck_shapes.append(_shape(plan, first, last, root.pitch_class, harmony))
    return tuple(neck_shapes)


def _stays(plan: Plan, chords: Sequence[Chord | None]) -> list[tuple[int, int]]:
    """Where hand and chord stay the same; a finger that reaches a fret further does not move the hand."""
    stays: list[tuple[int, int]] = []
    first = 0
    positions = [state.position for state in plan.states]
    for step in range(1, len(positions) + 1):
        ends = step == len(positions)
        if ends or abs(positions[step] - positions[first]) > 1 or chords[step] != chords[first]:
            stays.append((first, step - 1))
            first = step
    return stays


def _shape(plan: Plan, first: int, last: int, root: int, harmony: str) -> NeckShape:
    instrument = plan.instrument
    position = min(state.position for state in plan.states[first : last + 1])
    frets = [fret for state in plan.states[first : last + 1] for _, fret, _ in state.notes]
    opens = 0 in frets and position <= 2
    low, high = (0 if opens else position), max(position + SPAN - 1, *frets)
    for string in range(instrument.strings, 0, -1):
        tuned = instrument.tuning[instrument.index(string)] + instrument.capo
        for fret in range(low, high + 1):
            if (tuned + fret - root) % 12 == 0:
                finger = min(max(fret - position + 1, 1), 4) if fret else 0
                below = fret - position >= 2
                shape = _SHAPES.get((string, below), "") if _standard(instrument.tuning) else ""
                return NeckShape(first, last, position, harmony, shape, string, finger)
    return NeckShape(first, last, position, harmony, "", 0, 0)


def _standard(tuning: Sequence[int]) -> bool:
    """Whether the six thinnest strings are as far apart as a guitar's in standard tuning."""
    own = tuple(upper - lower for lower, upper in pairwise(tuning))
    return own[-5:] == _STANDARD
