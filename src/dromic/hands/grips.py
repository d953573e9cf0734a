"""Grips: every way to hold what sounds at one moment, one note or several, as objects and as arrays.

A single note is a grip of one note. A bend that is held while another string sounds is part of the grip too: it is
held and not struck again, and the finger that holds it may not leave. So is the rest of a chord that is played note
by note: it is *ready*, down before it is struck and after.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from dromic.arrays import Bools, Ints

Fretted = tuple[int, int, int]
"""String (1 is the thinnest), fret, and finger (0 is an open string)."""


@dataclass(frozen=True)
class FingerDown:
    """One finger on the neck: the strings it covers, from the thickest to the thinnest, and its fret."""

    finger: int
    thickest: int
    thinnest: int
    fret: int


@dataclass(frozen=True)
class Grip:
    """A way to hold what sounds at one moment.

    Parameters
    ----------
    notes : tuple of (int, int, int)
        String, fret and finger of each note that is struck, thickest string first.
    position : int
        Fret over which the first finger is at home.
    held : tuple of (int, int, int)
        Bends from before that sound on, as `notes`.
    flight : int
        For how many notes on end no finger has been down, this one counted, so that the hand may have been on its
        way to another position; 0 while one is down.
    ready : tuple of (int, int, int)
        The rest of the chord shape that the hand holds, as `notes`.
    shape : int
        Which of the shapes of its span it belongs to, from 1 on; 0 where the note is played by itself.
    """

    notes: tuple[Fretted, ...]
    position: int
    held: tuple[Fretted, ...] = ()
    flight: int = 0
    ready: tuple[Fretted, ...] = ()
    shape: int = 0

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash((self.notes, self.position, self.held, self.flight, self.ready, self.shape))

    @property
    def single(self) -> bool:
        """Whether one note is all that sounds."""
        return len(self.notes) == 1 and not (self.held or self.shape)

    @cached_property
    def sounding(self) -> tuple[Fretted, ...]:
        """Notes struck, held and ready, thickest string first."""
        others = (*self.held, *self.ready)
        return tuple(sorted((*self.notes, *others), key=lambda note: -note[0])) if others else self.notes

    @property
    def fretted(self) -> bool:
        """Whether any finger is down."""
        return any(note[2] for note in self.sounding)

    @property
    def thickest(self) -> int:
        """Thickest string struck."""
        return self.notes[0][0]

    @property
    def thinnest(self) -> int:
        """Thinnest string struck."""
        return self.notes[-1][0]

    @cached_property
    def fingers(self) -> tuple[FingerDown, ...]:
        """Fingers that are down, lowest first.

        Examples
        --------
        >>> Grip(((6, 5, 1), (5, 7, 3), (4, 5, 1)), 5).fingers[0]
        FingerDown(finger=1, thickest=6, thinnest=4, fret=5)
        """
        if self.single:
            string, fret, finger = self.notes[0]
            return (FingerDown(finger, string, string, fret),) if finger else ()
        found: dict[int, list[Fretted]] = {}
        for note in self.sounding:
            if note[2]:
                found.setdefault(note[2], []).append(note)
        return tuple(
            FingerDown(finger, some[0][0], some[-1][0], some[0][1]) for finger, some in sorted(found.items())
        )


@dataclass(frozen=True, eq=False)
class GripArrays:
    """Grips as arrays, all of one shape behind the first axis of those that have slots.

    Parameters
    ----------
    single : bool
        Whether each is a single note.
    position, thickest, thinnest : ndarray
        The hand's position, and the outermost strings that are struck.
    finger, first, last, fret : tuple of ndarray, one a finger slot
        Fingers that are down (0: none), the strings each covers, and its fret.
    strikes : tuple of ndarray of bool, one a finger slot
        Whether the finger holds a note that is struck.
    string, note_fret, note_finger : tuple of ndarray, one a note slot
        Notes (string -1: none).
    struck, held : tuple of ndarray of bool, one a note slot
        Whether the note is struck, and whether it is held on from before.
    flight : ndarray
        For how many notes no finger has been down.
    shape : ndarray
        Which of the shapes of its span it belongs to; 0: none.
    """

    single: bool
    position: Ints
    thickest: Ints
    thinnest: Ints
    finger: tuple[Ints, ...]
    first: tuple[Ints, ...]
    last: tuple[Ints, ...]
    fret: tuple[Ints, ...]
    strikes: tuple[Bools, ...]
    string: tuple[Ints, ...]
    note_fret: tuple[Ints, ...]
    note_finger: tuple[Ints, ...]
    struck: tuple[Bools, ...]
    held: tuple[Bools, ...]
    flight: Ints
    shape: Ints

    def __getitem__(self, at: Any) -> GripArrays:
        """The arrays indexed, slot by slot."""
        if self.single:
            # A single note's finger is its one slot: nothing is copied twice.
            parts = (self.string[0], self.fret[0], self.finger[0], self.position, self.flight)
            return _single(*(part[at] for part in parts))

        def slots(some: tuple[Any, ...]) -> Any:
            return tuple(one[at] for one in some)

        return GripArrays(
            single=False,
            position=self.position[at],
            thickest=self.thickest[at],
            thinnest=self.thinnest[at],
            finger=slots(self.finger),
            first=slots(self.first),
            last=slots(self.last),
            fret=slots(self.fret),
            strikes=slots(self.strikes),
            string=slots(self.string),
            note_fret=slots(self.note_fret),
            note_finger=slots(self.note_finger),
            struck=slots(self.struck),
            held=slots(self.held),
            flight=self.flight[at],
            shape=self.shape[at],
        )


def _single(string: Ints, fret: Ints, finger: Ints, position: Ints, flight: Ints) -> GripArrays:
    down = finger > 0
    return GripArrays(
        True, position, string, string, (finger,), (string,), (string,), (fret,), (down,),
        (string,), (fret,), (finger,), (np.ones_like(down),), (np.zeros_like(down),), flight, np.zeros_like(flight),
    )  # fmt: skip


def joined(some: Sequence[GripArrays]) -> GripArrays:
    """Arrays of single notes one after the other."""
    parts = [(one.string[0], one.fret[0], one.finger[0], one.position, one.flight) for one in some]
    string, fret, finger, position, flight = (np.concatenate(part) for part in zip(*parts, strict=True))
    return _single(string, fret, finger, position, flight)


@dataclass(frozen=True, eq=False)
class Grips:
    """All grips of a step, single notes or not, in a fixed order.

    Compared by identity, so that tables can be remembered by the grips they were made for.

    Parameters
    ----------
    rows : tuple of Grip
    strings : int
        How many strings the instrument has.
    """

    rows: tuple[Grip, ...]
    strings: int

    def __len__(self) -> int:
        return len(self.rows)

    @property
    def single(self) -> bool:
        """Whether each is a single note."""
        return self.arrays.single

    @cached_property
    def parts(self) -> tuple[tuple[Ints, Grips], ...]:
        """Single notes and the others apart, each with where they stand; more is weighed between single notes."""
        kinds = np.array([row.single for row in self.rows], dtype=np.bool_)
        if kinds.all() or not kinds.any():
            return ((np.arange(len(self.rows)), self),)
        places = np.flatnonzero(kinds), np.flatnonzero(~kinds)
        return tuple((at, Grips(tuple(self.rows[one] for one in at), self.strings)) for at in places)

    @cached_property
    def as_chords(self) -> Grips:
        """Whatever each grip holds, struck together."""
        rows = (Grip(row.sounding, row.position, flight=row.flight, shape=row.shape) for row in self.rows)
        return Grips(tuple(rows), self.strings)

    @cached_property
    def flies(self) -> bool:
        """Whether any of them leaves the hand free."""
        return any(grip.flight for grip in self.rows)

    @cached_property
    def arrays(self) -> GripArrays:
        """The grips as arrays of shape (grips,)."""
        rows, strings = self.rows, self.strings
        if all(grip.single for grip in rows):
            parts = np.array([(*grip.notes[0], grip.position, grip.flight) for grip in rows], dtype=np.int64)
            parts = parts.reshape(-1, 5).T
            return _single(strings - parts[0], parts[1], parts[2], parts[3], parts[4])
        outer = np.array(
            [(grip.position, grip.thickest, grip.thinnest, grip.flight, grip.shape) for grip in rows],
            dtype=np.int64,
        ).T
        slots = max(1, *(len(grip.fingers) for grip in rows))
        downs = np.zeros((5, slots, len(rows)), dtype=np.int64)
        notes = np.zeros((5, max(len(grip.sounding) for grip in rows), len(rows)), dtype=np.int64)
        notes[0] = -1
        for row, grip in enumerate(rows):
            sounding = {finger for _, _, finger in grip.notes}
            for slot, one in enumerate(grip.fingers):
                covered = strings - one.thickest, strings - one.thinnest
                downs[:, slot, row] = one.finger, *covered, one.fret, one.finger in sounding
            for slot, note in enumerate(grip.sounding):
                how = note in grip.notes, note in grip.held
                notes[:, slot, row] = strings - note[0], note[1], note[2], *how
        return GripArrays(
            single=False,
            position=outer[0],
            thickest=strings - outer[1],
            thinnest=strings - outer[2],
            finger=tuple(downs[0]),
            first=tuple(downs[1]),
            last=tuple(downs[2]),
            fret=tuple(downs[3]),
            strikes=tuple(downs[4] > 0),
            string=tuple(notes[0]),
            note_fret=tuple(notes[1]),
            note_finger=tuple(notes[2]),
            struck=tuple(notes[3] > 0),
            held=tuple(notes[4] > 0),
            flight=outer[3],
            shape=outer[4],
        )


def ordered(grips: Sequence[Grip], strings: int) -> Grips:
    """Grips in their fixed order: thinnest string first, then by fret, finger and position.

    Parameters
    ----------
    grips : sequence of Grip
    strings : int

    Returns
    -------
    Grips
        Those on one string stand in a run, which the search relies on.
    """

    def key(grip: Grip) -> tuple[object, ...]:
        if grip.single:
            string, fret, finger = grip.notes[0]
            return string, ((strings - string, fret, finger),), grip.position, (), grip.flight, 0
        notes = tuple((strings - string, fret, finger) for string, fret, finger in grip.sounding)
        others = tuple(strings - string for string, _, _ in (*grip.held, *grip.ready))
        return grip.thickest, notes, grip.position, others, grip.flight, grip.shape

    return Grips(tuple(sorted(grips, key=key)), strings)
