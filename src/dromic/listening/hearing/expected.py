"""What a take of a plan should hold: its notes in order, where they fall, how they sound and how they begin."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from itertools import groupby

import numpy as np

from dromic.arrays import Floats
from dromic.errors import RiffError
from dromic.listening.sound.rendering import soundings_by_event
from dromic.music.pitch import frequency
from dromic.music.riff import BEND_SEMITONES, Mark, Place, Stroke
from dromic.music.timeline import total_played
from dromic.planner.plan import Plan, PlannedEvent


@dataclass(frozen=True)
class ExpectedNote:
    """One note, or chord, of a riff.

    Parameters
    ----------
    index : int
        Of the plan's event.
    beat, end : float
        Where it begins and is over, in quarter notes from the riff's start.
    bar : int
    pitches : tuple of float
        MIDI numbers that it comes to, thickest string first; empty for a dead note.
    first_pitches : tuple of float
        MIDI numbers that it begins with; others than `pitches` only where a note glides.
    strings : tuple of int
    picked : bool
        Whether a stroke or a finger of the picking hand sounds it.
    glides : bool
        Whether its pitch moves to a goal: a bend, a release or a slide.
    kind : str
        Notes of one kind can be compared in loudness and tone.
    halves : bool
        Whether it stands on a quarter note that it shares with one other note, on its second half: their lengths
        tell the swing.
    """

    index: int
    beat: float
    end: float
    bar: int
    pitches: tuple[float, ...]
    first_pitches: tuple[float, ...]
    strings: tuple[int, ...]
    picked: bool
    glides: bool
    kind: str
    halves: bool


@dataclass(frozen=True)
class Expected:
    """A riff as it should sound.

    Parameters
    ----------
    notes : tuple of ExpectedNote
    length : float
        Of one round, in quarter notes.
    tempo : float
        The plan's, in quarter notes a minute.
    bar_starts : tuple of int
        Notes at which a player begins again: the first of every bar and phrase, by their place in `notes`.
    open_pitches : tuple of (int, int)
        String and pitch of the open strings.
    """

    notes: tuple[ExpectedNote, ...]
    length: float
    tempo: float
    bar_starts: tuple[int, ...]
    open_pitches: tuple[tuple[int, int], ...]
    beats: Floats = field(repr=False, default_factory=lambda: np.zeros(0))

    @property
    def lowest_hertz(self) -> float:
        """Of the lowest note."""
        return frequency(min((min(note.pitches) for note in self.notes if note.pitches), default=40.0))


def expected_of(plan: Plan) -> Expected:
    """What a take of a plan should hold.

    Parameters
    ----------
    plan : Plan

    Raises
    ------
    RiffError
        Where the riff holds no notes.
    """
    sounding = {
        index: [one for _, one in rows] for index, rows in groupby(soundings_by_event(plan), key=lambda row: row[0])
    }
    notes: list[ExpectedNote] = []
    for event in plan.events:
        if event.step is None:
            continue
        parts = sounding[event.moment.index]
        marks = event.moment.event.marks
        dead = Mark.DEAD in marks
        notes.append(
            ExpectedNote(
                event.moment.index,
                float(event.moment.played),
                max(part.end for part in parts),
                event.moment.bar,
                () if dead else tuple(part.pitches[1] for part in parts),
                () if dead else tuple(part.pitches[0] for part in parts),
                tuple(part.string for part in parts),
                event.stroke is not Stroke.NONE,
                not dead and any(part.pitches[0] != part.pitches[1] for part in parts),
                _kind(event),
                _halves(plan, event),
            )
        )
    if not notes:
        raise RiffError("the riff holds no notes to listen for")
    starts = tuple(at for at, note in enumerate(notes) if not at or note.bar != notes[at - 1].bar)
    instrument = plan.instrument
    open_pitches = tuple(
        (string, instrument.pitch(Place(string, 0))) for string in range(1, instrument.strings + 1)
    )
    beats = np.array([note.beat for note in notes])
    return Expected(tuple(notes), float(total_played(plan.riff)), plan.tempo, starts, open_pitches, beats)


def _halves(plan: Plan, event: PlannedEvent) -> bool:
    """Whether a note and the next two stand on a quarter note, on its half, and on the next quarter note."""
    first = event.moment
    following = [one.moment for one in plan.events[first.index + 1 : first.index + 3]]
    if len(following) < 2 or any(plan.events[one.index].step is None for one in following):
        return False
    return first.beat.denominator == 1 and [one.onset - first.onset for one in following] == [Fraction(1, 2), 1]


def _kind(event: PlannedEvent) -> str:
    """What a note's loudness and tone can be compared with."""
    marks = event.moment.event.marks
    words = []
    if len(event.notes) > 1:
        words.append("chord")
    if Mark.DEAD in marks:
        words.append("dead")
    elif Mark.PALM_MUTE in marks:
        words.append("palm-muted")
    if event.stroke is Stroke.NONE:
        words.append("slurred")
    if Mark.ACCENT in marks:
        words.append("accented")
    if any(mark in marks for mark in BEND_SEMITONES):
        words.append("bent")
    return " ".join(words) or "plain"
