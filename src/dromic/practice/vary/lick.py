"""The lick that is varied, and what a variation makes of it before it is planned.

A variation hands over drafts: a riff, words for it, and for every struck note of it the note of the lick that it
comes from, so that fingers and strokes can be compared. What cannot be done is a refusal: why, and what can be done
instead.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from dromic.errors import RiffError
from dromic.instrument.instrument import Instrument
from dromic.music.chords import Chord, NoChord
from dromic.music.keys import Key
from dromic.music.pitch import Pitch, parse_pitch, pitch_name
from dromic.music.riff import LEGATO_MARKS, NO_LOCKS, Bar, Event, Locks, Mark, Note, Place, Riff
from dromic.planner.plan import Plan
from dromic.planner.task.state import State
from dromic.planner.told.plan_harmony import Harmony, harmony_of

MOST_NOTES = 400
WIDEST_SLUR = 4
WAYS = ("keys", "degrees", "strings", "rhythm", "order", "chord", "easier")
WAY_WORDS = {
    "keys": "Other keys",
    "degrees": "Other degrees",
    "strings": "Other strings",
    "rhythm": "Other rhythms",
    "order": "Another order",
    "chord": "Other chord tones",
    "easier": "Easier versions",
}


@dataclass(frozen=True)
class Draft:
    """A variation that is not planned yet.

    Parameters
    ----------
    words : str
        What is varied.
    by : str
        One of `WAYS`.
    riff : Riff
    origins : tuple of int or None
        For each struck note in reading order the struck note of the lick; None for a new one.
    rivals : str
        Of drafts with the same word here only the easiest is kept, and only where it is easier than the lick.
    """

    words: str
    by: str
    riff: Riff
    origins: tuple[int | None, ...]
    rivals: str = ""

    def named(self, more: str) -> Draft:
        """The same with more words."""
        return replace(self, words=self.words + more)


@dataclass(frozen=True)
class Refusal:
    """What cannot be done, why, and what can be done instead."""

    by: str
    words: str


Drafts = Iterator[Draft | Refusal]


@dataclass(frozen=True)
class Lick:
    """What is varied: a plan, and what is known of its music.

    Parameters
    ----------
    plan : Plan
    harmony : Harmony
    """

    plan: Plan
    harmony: Harmony

    @property
    def riff(self) -> Riff:
        """As it is written."""
        return self.plan.riff

    @property
    def instrument(self) -> Instrument:
        """What it is played on."""
        return self.plan.instrument

    @cached_property
    def key(self) -> Key:
        """Its key.

        Raises
        ------
        RiffError
            Where it can be told neither from the header nor from the notes.
        """
        key = self.harmony.key.key
        if key is None:
            raise RiffError(self.harmony.key.words)
        return key

    @cached_property
    def midis(self) -> tuple[int, ...]:
        """Pitches of all its notes as written, what is tied too."""
        targets = [note.target for event in self.riff.written_events() for note in event.notes]
        return tuple(map(self.instrument.pitch_of, targets))

    @cached_property
    def first_steps(self) -> dict[int, int]:
        """The first step of each written event that is struck."""
        first_steps: dict[int, int] = {}
        for step, one in enumerate(self.plan.task.steps):
            first_steps.setdefault(one.moment.event_index, step)
        return first_steps

    @cached_property
    def struck(self) -> tuple[int, ...]:
        """The written events that are struck, in order."""
        return tuple(sorted(self.first_steps))

    @cached_property
    def states(self) -> tuple[State, ...]:
        """How the plan plays each of them, the first time round."""
        return tuple(self.plan.states[self.first_steps[written]] for written in self.struck)

    @cached_property
    def chords(self) -> tuple[Chord | None, ...]:
        """The chord over each of them."""
        return tuple(self.harmony.chords[self.first_steps[written]] for written in self.struck)

    def title(self, words: str) -> str:
        """What a variation is called."""
        return f"{self.riff.title or 'Lick'}: {words}"[:120]

    def all_origins(self) -> tuple[int, ...]:
        """Each note from itself."""
        return tuple(range(len(self.struck)))


def check_length(plan: Plan) -> None:
    """See that a riff is not too long to be varied.

    Parameters
    ----------
    plan : Plan

    Raises
    ------
    RiffError
        For one that is too long.
    """
    notes = len({step.moment.event_index for step in plan.task.steps})
    if notes > MOST_NOTES:
        raise RiffError(
            f"this riff has {notes} notes, and licks of up to {MOST_NOTES} are varied; select a passage and make "
            "it a riff of its own first"
        )


def lick_of(plan: Plan) -> Lick:
    """Take a plan as a lick to vary.

    Parameters
    ----------
    plan : Plan

    Raises
    ------
    RiffError
        For one that is too long.
    """
    check_length(plan)
    return Lick(plan, harmony_of(plan))


# -- notes moved, everything else as it is --------------------------------------------------------------------


@dataclass(frozen=True)
class Moved:
    """A riff with other notes, how many had to leave their string, and how many slurs are struck now."""

    riff: Riff
    freed: int
    struck: int

    @property
    def words(self) -> str:
        """What else had to change, in parentheses; nothing where nothing had to."""
        told = []
        if self.freed:
            told.append(f"{self.freed} {'note' if self.freed == 1 else 'notes'} on other strings")
        if self.struck:
            told.append(f"{self.struck} {'slur' if self.struck == 1 else 'slurs'} picked instead")
        return f" ({', '.join(told)})" if told else ""


def moved_notes(lick: Lick, new: Callable[[int, int], int], words: str) -> Moved:
    """The lick with other pitches: on the same strings where the hand reaches them, else freed.

    Parameters
    ----------
    lick : Lick
    new : callable
        Takes which struck note it is and its MIDI number, and returns another MIDI number.
    words : str
        What is done, for the error.

    Raises
    ------
    RiffError
        Where a note leaves the neck, or two of a chord fall together.
    """
    instrument = lick.instrument
    at = -1
    freed = struck = 0
    before: tuple[int, int] | None = None
    last: tuple[Note, ...] = ()

    def event_of(event: Event) -> Event:
        nonlocal at, freed, struck, before, last
        if event.rest:
            last = ()
            return event
        if Mark.TIE in event.marks:
            return replace(event, notes=last, locks=NO_LOCKS)
        at += 1
        notes = []
        for note in event.notes:
            midi = instrument.pitch_of(note.target)
            wanted = new(at, midi)
            made, own = _moved(lick, note, midi, wanted, before, words)
            freed += isinstance(note.target, Place) and not isinstance(made.target, Place)
            before = own if len(event.notes) == 1 else None
            notes.append(made)
        if len({instrument.pitch_of(note.target) for note in notes}) < len(notes):
            raise RiffError(f"{words} makes two notes of a chord one; take one of them out of the chord")
        stays = all(one.target == other.target for one, other in zip(notes, event.notes, strict=True))
        kept = event.locks if stays else Locks(event.locks.stroke)
        made_event = replace(event, notes=tuple(notes), locks=kept)
        if not stays or last:
            made_event = slurred_from(made_event, last, instrument)
        struck += made_event.marks < event.marks and len(made_event.marks) < len(event.marks)
        last = tuple(replace(note, marks=frozenset(), locks=NO_LOCKS) for note in notes)
        return made_event

    return Moved(with_events(lick.riff, event_of), freed, struck)


def slurred_from(event: Event, before: Sequence[Note], instrument: Instrument) -> Event:
    """An event whose slur suits the note that it comes from: up, down, or struck where there is no way.

    Parameters
    ----------
    event : Event
    before : sequence of Note
        What sounds before it; empty for nothing.
    instrument : Instrument
    """
    marks = event.marks & set(LEGATO_MARKS)
    if not marks:
        return event
    rest = event.marks - set(LEGATO_MARKS)
    if len(event.notes) > 1 or len(before) != 1:
        return event if before else replace(event, marks=rest)
    here, there = event.notes[0].target, before[0].target
    rise = instrument.pitch_of(here) - instrument.pitch_of(there)
    if isinstance(here, Place) and isinstance(there, Place):
        apart = here.string != there.string
    else:
        # The planner finds a string for both only where one hand can span them.
        apart = isinstance(here, Place) != isinstance(there, Place) or abs(rise) > WIDEST_SLUR
    if apart or not rise:
        return replace(event, marks=rest)
    mark = Mark.SLIDE if Mark.SLIDE in marks else Mark.HAMMER if rise > 0 else Mark.PULL
    return replace(event, marks=rest | {mark})


def _moved(
    lick: Lick, note: Note, midi: int, wanted: int, before: tuple[int, int] | None, words: str
) -> tuple[Note, tuple[int, int] | None]:
    """A note at another pitch, with its old and new fret where it keeps its string."""
    instrument, what = lick.instrument, note.target
    if not instrument.lowest <= wanted <= instrument.highest:
        spelled = lick.key.scale.spelled(wanted)
        raise RiffError(
            f"{words} needs {spelled}, which {instrument.name} does not reach; try it an octave away, or on an "
            "instrument with more strings"
        )
    if isinstance(what, Place):
        fret = what.fret + wanted - midi
        wide = 0 if before is None else abs(what.fret - before[0])
        reached = before is None or abs(fret - before[1]) <= max(wide, 4) or not fret
        if 0 <= fret <= instrument.top_fret and reached and (fret or not what.fret or wanted == midi):
            stays = note.locks if wanted == midi else NO_LOCKS
            return replace(note, target=Place(what.string, fret), locks=stays), (what.fret, fret)
    return replace(note, target=lick.key.scale.spelled(wanted), locks=NO_LOCKS), None


def with_events(riff: Riff, new: Callable[[Event], Event]) -> Riff:
    """The riff with every event changed in place, in reading order."""

    def bar_of(bar: Bar) -> Bar:
        return replace(bar, events=tuple(new(event) for event in bar.events))

    phrases = tuple(replace(phrase, bars=tuple(bar_of(bar) for bar in phrase.bars)) for phrase in riff.phrases)
    return replace(riff, phrases=phrases)


def with_signs_changed(riff: Riff, new: Callable[[Chord], Chord | None]) -> Riff:
    """The riff with other chord signs; where there is none, no chord holds on."""

    def event_of(event: Event) -> Event:
        return replace(event, chord=new(event.chord) or NoChord()) if isinstance(event.chord, Chord) else event

    return with_events(riff, event_of)


def freed(riff: Riff, lick: Lick, by: int = 0) -> Riff:
    """The riff with its places, fingers and positions given up for pitches, moved by semitones.

    Parameters
    ----------
    riff : Riff
    lick : Lick
        Whose key spells them, and whose instrument the places were written for.
    by : int
    """
    scale = lick.key.up(by).scale if by and lick.harmony.key.key is not None else None
    own = lick.harmony.key.key

    def note_of(note: Note, event: Event) -> Note:
        if Mark.DEAD in note.marks | event.marks and isinstance(note.target, Place):
            return note
        midi = lick.instrument.pitch_of(note.target) + by
        speller = scale or (own.scale if own is not None else None)
        same = isinstance(note.target, Pitch) and not by
        target = note.target if same else (speller.spelled(midi) if speller is not None else _plain(midi))
        return replace(note, target=target, locks=NO_LOCKS)

    def event_of(event: Event) -> Event:
        return replace(
            event, notes=tuple(note_of(note, event) for note in event.notes), locks=Locks(event.locks.stroke)
        )

    return with_events(riff, event_of)


def _plain(midi: int) -> Pitch:
    plain = parse_pitch(pitch_name(midi))
    assert plain is not None
    return plain
