"""A step: one note, or notes struck together, and what the hands are asked to do with it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum, auto

from dromic.hands.grips import Fretted
from dromic.memory import copy_with, memo
from dromic.music.grid import GridPlace
from dromic.music.riff import BEND_SEMITONES, TRILL_SEMITONES, Locks, Mark, Note, Stroke
from dromic.music.timeline import TimedEvent


class SpanPart(StrEnum):
    """Where in its harmony span a step is."""

    FIRST = auto()
    LATER = auto()


@dataclass(frozen=True)
class InSpan:
    """The harmony span that a step is in.

    Parameters
    ----------
    tones : tuple of int
        All pitches of the span, the lowest first.
    part : SpanPart
    """

    tones: tuple[int, ...]
    part: SpanPart


@dataclass(frozen=True)
class UsualWay:
    """How a note of a bar that comes back is played in most of these bars.

    Parameters
    ----------
    notes : tuple of Fretted
        String, fret and finger of each note, thickest string first.
    stroke : Stroke
        `Stroke.NONE` where no stroke sounds it.
    """

    notes: tuple[Fretted, ...]
    stroke: Stroke


@dataclass(frozen=True)
class HeldNote:
    """A bend that waits for its release while others are struck.

    Parameters
    ----------
    step : int
        Where it was struck.
    note : Note
    """

    step: int
    note: Note


@dataclass(frozen=True)
class Step:
    """One note, or notes struck together, to be played.

    Parameters
    ----------
    moment : TimedEvent
    note : Note
        With the marks of the event merged in; the first of a chord.
    more : tuple of Note
        The other notes of a chord.
    held : tuple of HeldNote
        Earlier bends that have to be held.
    place : GridPlace
        Its place in the beat grid.
    locks : Locks
        What the player has decided, after anything that was freed.
    legato : Mark or None
        Hammer-on, pull-off, slide or bend release by which it is reached.
    picked : bool
        Whether a stroke sounds it.
    count : int
        Picked notes since its bar began.
    opening : bool
        Whether it is the first picked note of all.
    may_slur : bool
        Whether it could be hammered on or pulled off although it is written to be picked.
    pedal : bool
        Whether its lowest note is struck again close by.
    again : bool
        Whether it is struck just after the same notes.
    exempt : bool
        Whether its locked stroke is played although the school grants none that is.
    span : InSpan or None
        The chord that it is part of.
    over_drone : bool
        Whether it is part of a tune over drones, or one of these.
    usual : UsualWay or None
        How it is played elsewhere, in a bar that comes back and would not be played alike of itself.
    """

    moment: TimedEvent
    note: Note
    place: GridPlace
    locks: Locks
    legato: Mark | None
    picked: bool
    count: int
    opening: bool = False
    may_slur: bool = False
    more: tuple[Note, ...] = ()
    held: tuple[HeldNote, ...] = ()
    pedal: bool = False
    again: bool = False
    exempt: bool = False
    span: InSpan | None = None
    over_drone: bool = False
    usual: UsualWay | None = None

    def told(self, **changes: object) -> Step:
        """The step with other fields; the same one where they are as they were.

        Told the same again, it is the same step, so that what was made of it is found.
        """
        own = self.__dict__
        if all(own[name] == value for name, value in changes.items()):
            return self
        return memo(_told, self, changes)

    @property
    def rings(self) -> bool:
        """Whether it rings on: it is marked so, or part of a tune over drones."""
        return self.over_drone or Mark.LET_RING in self.note.marks

    @property
    def slurred(self) -> bool:
        """Whether it is locked to be hammered on or pulled off although it is written to be picked."""
        return self.picked and self.locks.stroke is Stroke.NONE

    @property
    def notes(self) -> tuple[Note, ...]:
        """All notes."""
        return (self.note, *self.more)

    @property
    def bend(self) -> bool:
        """Whether a note is bent."""
        return bool(self.marked(*BEND_SEMITONES))

    @property
    def tapped(self) -> bool:
        """Whether a finger of the picking hand frets and sounds it."""
        return self.legato is Mark.TAP

    @property
    def trill(self) -> bool:
        """Whether a note alternates with one above it, which a higher finger hammers."""
        return bool(self.marked(*TRILL_SEMITONES))

    @property
    def needs_finger(self) -> bool:
        """Whether no open string can sound it: it is bent, has vibrato, or is slid into."""
        return self.bend or self.vibrato or bool(self.marked(Mark.SLIDE_IN, Mark.HARMONIC))

    @property
    def vibrato(self) -> bool:
        """Whether a note has vibrato."""
        return bool(self.marked(Mark.VIBRATO))

    def marked(self, *marks: Mark) -> tuple[Note, ...]:
        """Notes that have one of some marks."""
        return tuple(note for note in self.notes if note.marks & set(marks))

    @property
    def raked(self) -> bool:
        """Whether the pick is dragged through the strings to it."""
        return Mark.RAKE in self.note.marks

    @property
    def words(self) -> str:
        """The note and where it is, in words."""
        names = " ".join(str(note.target) for note in self.notes)
        return f"{f'({names})' if self.more else names} at {self.moment.place_words}"


def _told(step: Step, changes: Mapping[str, object]) -> Step:
    return copy_with(step, **changes)
