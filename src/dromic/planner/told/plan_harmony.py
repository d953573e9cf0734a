"""The harmony of a plan: its key, its chords, what each note is in them, and the shapes of the neck."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from dromic.instrument.presets import instrument_for
from dromic.memory import memo
from dromic.music.chords import Chord
from dromic.music.harmony import NoteHarmony, chords_in_time, note_harmony
from dromic.music.key_finding import KeyGuess, key_of_notes
from dromic.music.keys import Key, parse_key
from dromic.music.pitch import Pitch
from dromic.music.riff import Riff, Stroke
from dromic.planner.plan import Plan
from dromic.planner.told.neck_shapes import NeckShape, neck_shapes


@dataclass(frozen=True)
class KeyFound:
    """The key of a riff.

    Parameters
    ----------
    key : Key or None
        None where it can be told neither from the header nor from the notes.
    written : bool
        Whether the header says it.
    guess : KeyGuess or None
        What the notes say, where the header says nothing.
    unread : str
        What the header says, where it means no key.
    """

    key: Key | None
    written: bool
    guess: KeyGuess | None = None
    unread: str = ""

    @property
    def words(self) -> str:
        """The key, and how it is known."""
        if self.key is None:
            said = f"The header's key '{self.unread}' is none that is known, and t" if self.unread else "T"
            return f"{said}here are too few notes to tell a key from; write one, for example 'key: A minor'."
        if self.written:
            return f"{self.key}, as the header says."
        if self.guess is not None and not self.guess.sure:
            others = " or ".join(map(str, self.guess.others[:2]))
            return f"Perhaps {self.key}, told from the notes; it may be {others}. Write it to be certain."
        return f"{self.key}, told from the notes."


@dataclass(frozen=True)
class DownCheck:
    """Whether chord tones on the beat get downs, as flatpickers are told to check.

    Parameters
    ----------
    told : bool
        Whether chords are written, so that it can be checked at all.
    holds, fails : tuple of int
        Steps.
    """

    told: bool
    holds: tuple[int, ...] = ()
    fails: tuple[int, ...] = ()


@dataclass(frozen=True)
class Harmony:
    """The harmony of a plan; what concerns all notes is worked out when it is first asked for.

    Parameters
    ----------
    plan : Plan
    key : KeyFound
    chords : tuple of Chord or None
        One a step.
    """

    plan: Plan
    key: KeyFound
    chords: tuple[Chord | None, ...]

    def notes_of(self, step: int) -> tuple[NoteHarmony, ...]:
        """The notes of a step, thickest string first."""
        event = self.plan.event_of_step(step)
        written = [note.target for note in event.moment.event.notes]
        spelled = {what.midi: what for what in written if isinstance(what, Pitch)}
        key, chord = self.key.key, self.chords[step]
        return tuple(note_harmony(note.pitch, key, chord, spelled.get(note.pitch)) for note in event.notes)

    @cached_property
    def notes(self) -> tuple[tuple[NoteHarmony, ...], ...]:
        """The notes of every step."""
        return tuple(self.notes_of(step) for step in range(len(self.chords)))

    @cached_property
    def shapes(self) -> tuple[NeckShape, ...]:
        """The shapes that the plan goes through."""
        return neck_shapes(self.plan, self.key.key, self.chords)

    @cached_property
    def downs(self) -> DownCheck:
        """Whether chord tones on the beat get downs."""
        return _downs(self.plan, self)

    def shape_at(self, step: int) -> NeckShape | None:
        """The shape that a step is part of."""
        return next((shape for shape in self.shapes if shape.first <= step <= shape.last), None)


def key_of(riff: Riff) -> KeyFound:
    r"""The key of a riff: written, or else told from its notes.

    Parameters
    ----------
    riff : Riff

    Examples
    --------
    >>> from dromic.formats.rifftext.reader import read_riff_text
    >>> key_of(read_riff_text("key: Em\n| 6:0/4 5:2 4:2 3:0 |").riff).words
    'E minor, as the header says.'
    """
    written = parse_key(riff.key) if riff.key else None
    if written is not None:
        return KeyFound(written, True)
    instrument = instrument_for(riff)
    midis: list[int] = []
    lengths: list[float] = []
    for event in riff.written_events():
        for note in event.notes:
            midis.append(instrument.pitch_of(note.target))
            lengths.append(float(event.value.quarters))
    guess = key_of_notes(midis, lengths)
    return KeyFound(guess.key if guess is not None else None, False, guess, riff.key)


def harmony_of(plan: Plan) -> Harmony:
    """Work out the harmony of a plan.

    Parameters
    ----------
    plan : Plan
    """
    return memo(_harmony, plan)


def _harmony(plan: Plan) -> Harmony:
    of_moment = chords_in_time([event.moment for event in plan.events])
    chords = tuple(of_moment[step.moment.index] for step in plan.task.steps)
    return Harmony(plan, key_of(plan.riff), chords)


def _downs(plan: Plan, harmony: Harmony) -> DownCheck:
    if all(chord is None for chord in harmony.chords):
        return DownCheck(told=False)
    holds: list[int] = []
    fails: list[int] = []
    for number, (step, state) in enumerate(zip(plan.task.steps, plan.states, strict=True)):
        if not step.place.on_beat or not state.sounded or state.stroke not in (Stroke.DOWN, Stroke.UP):
            continue
        if any(one.chord_tone is not None for one in harmony.notes_of(number)):
            (holds if state.stroke is Stroke.DOWN else fails).append(number)
    return DownCheck(True, tuple(holds), tuple(fails))
