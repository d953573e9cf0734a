"""Chord shapes that somebody else published: how many of them Dromic fingers, and finds, as they stand there.

Source: the open data set chords-db 0.5.1 (licence beside it in `chords/`), 1,984 shapes of the six-string guitar,
equal ones once: of each the fret of every string from the thickest, -1 silent, and the finger, 0 for none. It says
how one book fingers a chord by itself, not on its way to the next.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path

from dromic.errors import DromicError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.hands.profile import Hands, hands_named
from dromic.instrument.presets import instrument_named
from dromic.music.pitch import OCTAVE, pitch_name
from dromic.music.riff import Place
from dromic.planner.plan import PlannedNote
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import school_named

FILE = Path(__file__).parent / "chords" / "shapes.jsonl"
STRINGS = 6


@dataclass(frozen=True)
class ChordShape:
    """A published shape: its name, and string, fret and finger of each note, the thickest string first."""

    name: str
    notes: tuple[tuple[int, int, int], ...]

    @property
    def places(self) -> str:
        """Its places as riff text."""
        return " ".join(f"{string}:{fret}" for string, fret, _ in self.notes)

    @property
    def pitches(self) -> str:
        """Its pitches as riff text."""
        guitar = instrument_named("guitar-6")
        return " ".join(pitch_name(guitar.pitch(Place(string, fret))) for string, fret, _ in self.notes)


def shapes() -> Iterator[ChordShape]:
    """All shapes of two notes or more."""
    for line in FILE.read_text(encoding="utf-8").splitlines():
        data = json.loads(line)
        rows = enumerate(zip(data["frets"], data["fingers"], strict=True))
        notes = tuple((STRINGS - at, fret, finger) for at, (fret, finger) in rows if fret >= 0)
        if len(notes) > 1:
            yield ChordShape(data["chord"], notes)


@cache
def _hands(*, knowing: bool) -> Hands:
    """Hands that know taught shapes, or that only feel what is comfortable."""
    hands = hands_named("medium")
    strange = replace(hands.comfort, practised=1.0, practised_open=1.0, unknown_shape=0.0)
    return hands if knowing else replace(hands, comfort=strange)


@cache
def _planned(notes: str, *, knowing: bool = True) -> tuple[PlannedNote, ...]:
    """How a chord alone is played, the thickest string first; nothing where there is no plan."""
    riff = read_riff_text(f"tempo: 60\n| ({notes})/1 |").riff
    try:
        plan = plan_riff(riff, Request(_hands(knowing=knowing), school_named("least-motion")))
    except DromicError:
        return ()
    return tuple(sorted(plan.events[0].notes, key=lambda note: -note.string))


def fingered_as_published(shape: ChordShape, *, knowing: bool = True) -> bool:
    """Whether the shape, its places given, has the fingers of the table.

    Parameters
    ----------
    shape : ChordShape
    knowing : bool
        Whether the hands know the table's shapes, which the planner takes for granted of its player.
    """
    fingers = [note.finger for note in _planned(shape.places, knowing=knowing)]
    return fingers == [finger for _, _, finger in shape.notes]


@dataclass(frozen=True)
class Placed:
    """Whether a chord's pitches alone are played in places that the table has, and if not, whether at another fret.

    The table has each kind of chord on each root in four places at most; a shape without open strings that it has
    on another root is the same shape.
    """

    there: bool
    moved: bool


def placed_as_published(shape: ChordShape, known: frozenset[str]) -> Placed:
    """Where the shape's pitches alone are played.

    Parameters
    ----------
    shape : ChordShape
    known : frozenset of str
        Places of all shapes of the table.
    """
    notes = _planned(shape.pitches)

    def at(frets_up: int) -> str:
        return " ".join(f"{note.string}:{note.fret + frets_up}" for note in notes)

    closed = bool(notes) and all(note.fret for note in notes)
    there = at(0) in known
    return Placed(there, not there and closed and any(at(up) in known for up in range(-OCTAVE, OCTAVE + 1)))
