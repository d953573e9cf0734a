"""A piece of material, what it is made for, and notes laid into a riff."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for
from dromic.music.chords import Chord
from dromic.music.keys import Key
from dromic.music.laying import laid_in_bars
from dromic.music.phrases import on_same_instrument
from dromic.music.rhythm import Meter, NoteValue
from dromic.music.riff import NO_LOCKS, Event, Locks, Note, Place, Riff
from dromic.music.scales import Formula, Scale

SIXTEENTH, TRIPLET, QUARTER = NoteValue(16), NoteValue(8, tuplet=3), NoteValue(4)


class Family(StrEnum):
    """A kind of material."""

    SCALES = "Scales"
    SEQUENCES = "Sequences"
    ARPEGGIOS = "Arpeggios"
    CHORDS_OF_KEY = "Chords of the key"
    FINGERS = "Finger patterns"
    STRING_PAIRS = "String pairs"
    STROKES = "Stroke patterns"
    ROLLS = "Rolls"
    WALKING = "Walking lines"


@dataclass(frozen=True)
class Asked:
    """What material is made for.

    Parameters
    ----------
    head : Riff
        Instrument, tuning, capo, tempo and gain are taken from it.
    key : Key
    scale : Formula
        Of the scales, on the key's tonic.
    chord : Chord
        Of the arpeggios.
    position : int
        About where the hand is.
    changes : tuple of Chord
        Of the walking lines, a bar each.
    """

    head: Riff
    key: Key
    scale: Formula
    chord: Chord
    position: int = 5
    changes: tuple[Chord, ...] = ()

    @cached_property
    def instrument(self) -> Instrument:
        """What it is played on."""
        return instrument_for(self.head)

    @property
    def on_scale(self) -> Scale:
        """The scale on the key's tonic."""
        return Scale(self.key.tonic, self.scale)


@dataclass(frozen=True)
class Material:
    """Something to practise, as a riff.

    Parameters
    ----------
    name : str
    family : Family
    riff : Riff
    """

    name: str
    family: Family
    riff: Riff


def piece(asked: Asked, family: Family, name: str, events: Iterable[Event], *, key: str = "") -> Material:
    """Events laid into bars of four quarters.

    Parameters
    ----------
    asked : Asked
    family : Family
    name : str
    events : iterable of Event
    key : str
        For the header; empty for none.

    Raises
    ------
    RiffError
        Where they do not fit into bars.
    """
    head, meter = asked.head, Meter()
    bars = laid_in_bars(list(events), lambda _number: (meter.bar, None))
    riff = on_same_instrument(head, bars, title=name[:120], section="drill", style=head.style, key=key)
    return Material(name, family, riff)


def at_places(places: Sequence[Place], value: NoteValue = SIXTEENTH) -> list[Event]:
    """Single notes at places."""
    return [Event(value, (Note(place),)) for place in places]


def locked(place: Place, locks: Locks = NO_LOCKS, value: NoteValue = SIXTEENTH) -> Event:
    """A single note with decisions.

    Parameters
    ----------
    place : Place
    locks : Locks
    value : NoteValue
    """
    return Event(value, (Note(place),), locks=locks)


def there_and_back(places: Sequence[Place]) -> list[Place]:
    """Up and down again, ending where it began."""
    return [*places, *reversed(places[:-1])]
