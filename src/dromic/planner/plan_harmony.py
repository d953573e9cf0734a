"""The harmony of a plan: its key, its chords, what each note is in them, and the shapes of the neck."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.instrument.presets import instrument_for
from dromic.music.chords import Chord
from dromic.music.harmony import NoteHarmony, chords_in_time, note_harmony
from dromic.music.key_finding import KeyGuess, key_of_notes
from dromic.music.keys import Key, parse_key
from dromic.music.pitch import Pitch
from dromic.music.riff import Riff, Stroke
from dromic.planner.neck_shapes import NeckShape, neck_shapes
from dromic.planner.plan import Plan


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
    """The harmony of a plan.

    Parameters
    ----------
    key : KeyFound
    chords : tuple of Chord or None
        One a step.
    notes : tuple of tuple of NoteHarmony
        For each step its notes, thickest string first.
    shapes : tuple of NeckShape
    downs : DownCheck
    """

    key: KeyFound
    chords: tuple[Chord | None, ...]
    notes: tuple[tuple[NoteHarmony, ...], ...]
    shapes: tuple[NeckShape, ...]
    downs: DownCheck

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
    >>> from dromic.formats.rifftext_reader import read_riff_text
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
    found = key_of(plan.riff)
    of_moment = chords_in_time([event.moment for event in plan.events])
    steps = [event for event in plan.events if event.step is not None]
    chords = tuple(of_moment[event.moment.index] for event in steps)
    notes = []
    for event, chord in zip(steps, chords, strict=True):
        written = event.moment.event.notes
        pitches = [note.target if isinstance(note.target, Pitch) else None for note in written]
        by_midi = {pitch.midi: pitch for pitch in pitches if pitch is not None}
        notes.append(
            tuple(note_harmony(note.pitch, found.key, chord, by_midi.get(note.pitch)) for note in event.notes)
        )
    return Harmony(found, chords, tuple(notes), neck_shapes(plan, found.key, chords), _downs(plan, tuple(notes)))


def _downs(plan: Plan, notes: tuple[tuple[NoteHarmony, ...], ...]) -> DownCheck:
    if not any(one.chord is not None for own in notes for one in own):
        return DownCheck(told=False)
    holds: list[int] = []
    fails: list[int] = []
    for number, (step, state, own) in enumerate(zip(plan.task.steps, plan.states, notes, strict=True)):
        tone = any(one.chord_tone is not None for one in own)
        if not step.place.on_beat or not tone or not state.sounded or state.stroke not in (Stroke.DOWN, Stroke.UP):
            continue
        (holds if state.stroke is Stroke.DOWN else fails).append(number)
    return DownCheck(True, tuple(holds), tuple(fails))
