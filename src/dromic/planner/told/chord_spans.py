"""The chords that the hand holds: the shape and sign of each harmony span, and what sounds on at each note."""

from __future__ import annotations

from collections.abc import Sequence

from dromic.hands.grips import Fretted
from dromic.instrument.instrument import Instrument
from dromic.music.chords import QUALITIES
from dromic.music.harmony import chords_in_time
from dromic.music.pitch import OCTAVE
from dromic.music.riff import Place
from dromic.planner.plan import PlannedNote, PlannedSpan
from dromic.planner.task.state import State
from dromic.planner.task.task import Task

ROOTS = ("C", "C#", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
FIFTH = 7
MOST_TONES = 4


def planned_spans(task: Task, states: Sequence[State], instrument: Instrument) -> list[PlannedSpan | None]:
    """Of every step the span in which a chord shape is held; None for none.

    Parameters
    ----------
    task : Task
    states : sequence of State
        How its steps are played.
    instrument : Instrument
    """
    spans: list[PlannedSpan | None] = [None] * len(states)
    held = [span for span in task.spans if states[span.start].grip.shape]
    if not held:
        return spans
    signs = chords_in_time(task.moments)
    for span in held:
        grips = [states[at].grip for at in span]
        struck = {note for grip in grips for note in grip.notes}
        shape = sorted(struck | set(grips[0].ready), key=lambda note: (-note[0], note[1]))
        notes = tuple(planned_note(note, instrument) for note in shape)
        first, last = (task.steps[at].moment.index for at in (span.start, span[-1]))
        sign = signs[first]
        in_time = [planned_note(note, instrument).pitch for grip in grips for note in grip.notes]
        chord = str(sign) if sign is not None else chord_sign(in_time)
        spans[span.start : span.stop] = [PlannedSpan(first, last, chord, notes)] * len(span)
    return spans


def planned_note(note: Fretted, instrument: Instrument) -> PlannedNote:
    """A note with its pitch."""
    string, fret, finger = note
    return PlannedNote(instrument.pitch(Place(string, fret)), string, fret, finger)


def sounding_on(task: Task, states: Sequence[State]) -> list[frozenset[Fretted]]:
    """Of every step the notes of its chord shape that were struck before it in the span and are not damped.

    Parameters
    ----------
    task : Task
    states : sequence of State
    """
    found: list[frozenset[Fretted]] = [frozenset()] * len(states)
    for span in task.spans:
        sounding: set[Fretted] = set()
        for at in span:
            grip = states[at].grip
            found[at] = frozenset(sounding & set(grip.ready))
            strings = {note[0] for note in grip.notes}
            sounding = {note for note in sounding if note[0] not in strings} | set(grip.notes)
    return found


def chord_sign(pitches: Sequence[int]) -> str:
    """The plainest chord that some tones make in time, its bass named where it is not the root; empty for none.

    Of the two lowest the first to be struck is the bass: the other may take its turn.

    Examples
    --------
    >>> chord_sign([45, 57, 60, 64]), chord_sign([43, 48, 52]), chord_sign([50, 54, 57, 60]), chord_sign([40, 41])
    ('Am', 'C/G', 'D7', '')
    >>> chord_sign([48, 60, 64, 43, 60, 64])
    'C'
    """
    lowest = sorted({*pitches})[:2]
    classes, bass = {pitch % OCTAVE for pitch in pitches}, min(lowest, key=pitches.index) % OCTAVE
    best: tuple[object, ...] | None = None
    for order, quality in enumerate(QUALITIES.values()):
        kind = {degree.semitones for degree in quality.degrees}
        for root in range(OCTAVE if len(kind) <= MOST_TONES else 0):
            tones = {(root + tone) % OCTAVE for tone in kind}
            missing = tones - classes
            if classes <= tones and missing <= {(root + FIFTH) % OCTAVE}:
                over = "" if bass == root else f"/{ROOTS[bass]}"
                rank = len(missing), bool(over), order, root, f"{ROOTS[root]}{quality.sign}{over}"
                best = rank if best is None or rank < best else best
    return str(best[-1]) if best is not None else ""
