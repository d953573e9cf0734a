"""A joint state in words of the trade: what both hands do at one step."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from dromic.hands.grips import Fretted, Grip
from dromic.hands.terms import LoadKind
from dromic.music.riff import Stroke


@dataclass(frozen=True)
class State:
    """A joint state in words of the trade.

    Parameters
    ----------
    grip : Grip
        How the fretting hand holds what sounds.
    stroke : Stroke
        The last stroke of the pick, even where this note is not picked.
    escape : Stroke
        Which strokes of the pick end above the strings; `Stroke.NONE` for a plucking finger.
    sounded : bool
        Whether the stroke sounds this note; else it is reached by legato.
    """

    grip: Grip
    stroke: Stroke
    escape: Stroke
    sounded: bool = True

    @property
    def notes(self) -> tuple[Fretted, ...]:
        """String (1 is the thinnest), fret and finger (0 is an open string) of each note, thickest string first."""
        return self.grip.notes

    @property
    def held(self) -> tuple[Fretted, ...]:
        """Notes from before that sound on, as `notes`."""
        return self.grip.held

    @property
    def position(self) -> int:
        """Fret over which the first finger is at home."""
        return self.grip.position

    @property
    def string(self) -> int:
        """Thickest string that sounds."""
        return self.notes[0][0]

    @property
    def fret(self) -> int:
        """Fret on that string."""
        return self.notes[0][1]

    @property
    def finger(self) -> int:
        """Finger on that string."""
        return self.notes[0][2]

    @property
    def thinnest(self) -> int:
        """Thinnest string that sounds."""
        return self.notes[-1][0]

    @property
    def begins(self) -> int:
        """String that the stroke meets first."""
        return self.thinnest if self.stroke is Stroke.UP else self.string

    @property
    def ends(self) -> int:
        """String that the stroke leaves last."""
        return self.thinnest if self.stroke is Stroke.DOWN else self.string

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash((self.grip, self.stroke, self.escape, self.sounded))


@dataclass(frozen=True)
class Loads:
    """Time needed over time there is, on the way to a note."""

    pick: float = 0.0
    fret: float = 0.0
    sync: float = 0.0

    @property
    def largest(self) -> float:
        """The largest of the three."""
        return max(self.pick, self.fret, self.sync)

    @property
    def kind(self) -> LoadKind:
        """Which of the three is the largest."""
        if self.sync >= self.largest:
            return LoadKind.SYNC
        return LoadKind.PICK if self.pick >= self.fret else LoadKind.FRET
