"""The answer: what each hand does at every note, what it costs, and what holds it back."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Protocol

from dromic.hands.fingers import LITTLE, finger_words
from dromic.hands.posture import spread_on
from dromic.hands.profile import Hands
from dromic.hands.style import Sound
from dromic.hands.terms import LoadKind
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Mark, Place, Riff, Stroke
from dromic.music.timeline import TimedEvent
from dromic.planner.task.state import Loads, State
from dromic.planner.task.task import Task
from dromic.planner.ways import Alternative
from dromic.schools.school import School


class Objective(StrEnum):
    """What the best plan is: of least effort, or of the highest tempo and then of least effort."""

    EFFORT = "effort"
    TEMPO = "tempo"


class StrokeKind(StrEnum):
    """Whether the pick comes to rest on the next string."""

    REST = "rest"
    FREE = "free"


@dataclass(frozen=True)
class Mute:
    """A string that could sound, and what silences it.

    Parameters
    ----------
    string : int
    by : str
    rang : bool
        Whether it sounded until now, so that it has to be stopped.
    doubtful : bool
        Whether it may go on ringing unless care is taken.
    """

    string: int
    by: str
    rang: bool = False
    doubtful: bool = False


@dataclass(frozen=True)
class PlannedNote:
    """A note with its place and finger."""

    pitch: int
    string: int
    fret: int
    finger: int

    @property
    def place(self) -> Place:
        """String and fret."""
        return Place(self.string, self.fret)


@dataclass(frozen=True)
class PlannedSpan:
    """Notes for which the hand holds one chord shape.

    Parameters
    ----------
    first, last : int
        Its first and its last event.
    chord : str
        Its sign, as it is written or else as the tones say; empty where they make no chord.
    notes : tuple of PlannedNote
        The shape, the thickest string first; of two on a string one is added or lifted.
    """

    first: int
    last: int
    chord: str
    notes: tuple[PlannedNote, ...]

    @property
    def words(self) -> str:
        """The chord and its shape."""
        notes = ", ".join(
            f"{note.place} {finger_words(note.finger) if note.finger else 'open'}" for note in self.notes
        )
        return f"{self.chord or 'A chord'} held: {notes}"


class Offers(Protocol):
    """Other choices for every note, worked out when they are asked for."""

    def at(self, step: int) -> tuple[Alternative, ...]:
        """Return the choices of a step; none while it has not been priced."""

    def at_once(self, step: int) -> bool:
        """Whether the choices of a step can be listed at once; else they are planned when they are asked for."""

    @property
    def complete(self) -> bool:
        """Whether every step has been priced, or can be when it is asked for."""

    def finish(self) -> None:
        """Price what has not been priced."""


@dataclass(frozen=True)
class PlannedEvent:
    """One event of the riff as planned; rests and ties are events too.

    `step` is the index of its step in the task, or None for rests and ties. `loads` are those of the way to
    this note; the first note of a loop has the seam's. `strokes` says what sounds each note, `held` which notes
    from before sound on, `ready` what else of a chord shape is down, `span` the notes that it is held for. `spots`
    are keys of the terms that mark hand-sync spots there (see `dromic.hands.terms`).
    """

    moment: TimedEvent
    step: int | None
    rest: bool
    notes: tuple[PlannedNote, ...]
    position: int | None
    stroke: Stroke
    stroke_kind: StrokeKind | None
    legato: Mark | None
    loads: Loads
    mutes: tuple[Mute, ...]
    strokes: tuple[Stroke, ...] = ()
    held: tuple[PlannedNote, ...] = ()
    ready: tuple[PlannedNote, ...] = ()
    span: PlannedSpan | None = None
    spots: tuple[str, ...] = ()
    offers: Offers | None = field(default=None, compare=False, repr=False)

    @property
    def on_the_neck(self) -> tuple[PlannedNote, ...]:
        """All that the hand holds: notes struck, sounding on, and ready."""
        return (*self.notes, *self.held, *self.ready)

    @property
    def alternatives(self) -> tuple[Alternative, ...]:
        """The cheapest other choices for this note, as many as were asked for."""
        return () if self.offers is None or self.step is None else self.offers.at(self.step)

    @property
    def offers_at_once(self) -> bool:
        """Whether `alternatives` are there at once; else they are planned when they are asked for."""
        return self.offers is None or self.step is None or self.offers.at_once(self.step)


@dataclass(frozen=True)
class Bottleneck:
    """A transition that holds the plan back: events where it starts and ends, and which load is the largest."""

    start: int
    end: int
    kind: LoadKind
    load: float
    text: str


@dataclass(frozen=True)
class Ceilings:
    """Tempi at which a hand has no time left, in quarter notes a minute; None where it has nothing to do.

    Parameters
    ----------
    pick, fret : float or None
        Of each hand by itself.
    both : float or None
        Of the whole plan: of the slower hand, or of both meeting.
    """

    pick: float | None
    fret: float | None
    both: float | None


@dataclass(frozen=True)
class Plan:
    """A plan with everything it was made from.

    Parameters
    ----------
    school, rules : School
        The school asked for, and the form of it that served best; the same for most schools.
    sound : Sound
        The style that was taken, and the gain.
    style_said : bool
        Whether the style is one that somebody asked for, and not told from the music.
    by_phrase : tuple of (int, School)
        Schools of single phrases, by the phrase's index.
    states : tuple of State
        One a step of `task`.
    cost : float
        Total effort.
    ceilings : Ceilings
    bottlenecks : tuple of Bottleneck
        The transitions with the largest load, in order.
    totals : mapping of str to float
        By the keys of `dromic.planner.told.totals`.
    """

    riff: Riff
    instrument: Instrument
    hands: Hands
    school: School
    rules: School
    sound: Sound
    style_said: bool
    by_phrase: tuple[tuple[int, School], ...]
    objective: Objective
    tempo: float
    task: Task
    states: tuple[State, ...]
    cost: float
    ceilings: Ceilings
    bottlenecks: tuple[Bottleneck, ...]
    totals: Mapping[str, float]
    events: tuple[PlannedEvent, ...]

    @property
    def hand_mm(self) -> float:
        """From the first finger to the fourth at ease on this neck, in mm."""
        return float(spread_on(self.instrument, self.hands.fretting)[LITTLE])

    @property
    def ceiling(self) -> float | None:
        """Tempo at which the largest load is 1; None when there is only one note."""
        return self.ceilings.both

    @property
    def loop(self) -> bool:
        """Whether the seam is part of the plan."""
        return self.task.seam is not None

    @property
    def warnings(self) -> tuple[str, ...]:
        """What is kept but not planned yet."""
        return self.task.warnings

    @property
    def spans(self) -> tuple[PlannedSpan, ...]:
        """Where the hand holds a chord shape for several notes."""
        return tuple(dict.fromkeys(event.span for event in self.events if event.span is not None))

    def event_of_step(self, step: int) -> PlannedEvent:
        """Return the event of a step."""
        return self.events[self.task.steps[step].moment.index]
