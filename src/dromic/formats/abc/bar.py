"""ABC, a bar that is being read: its notes before their lengths are certain, and the events they become."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from dromic.formats.abc.fields import Key
from dromic.formats.reading.note_lengths import snapped, sounding, value_of
from dromic.music.chords import Sign
from dromic.music.pitch import Pitch
from dromic.music.rhythm import Meter, NoteValue
from dromic.music.riff import NO_LOCKS, Event, Locks, Mark, Note, without_rivals

_LETTERS = "CDEFGAB"
GRACE = NoteValue(16)


@dataclass
class Proto:
    """A note before its bar is closed: broken rhythm and tuplets may still change its length."""

    length: Fraction
    notes: tuple[Pitch, ...] = ()
    grace: bool = False
    marks: frozenset[Mark] = frozenset()
    locks: Locks = NO_LOCKS
    tied: bool = False
    roll: bool = False
    trill: bool = False
    tuplet: bool = False
    # What the length is to be multiplied by, where a tuplet of 5, 7 or 9 is read as the bar asks.
    custom: Fraction = Fraction(1)
    chord: Sign | None = None


def as_the_bar_asks(bar: Sequence[Proto], meter: Meter | None) -> bool:
    """Read tuplets of 5, 7 and 9 in the time of 4 or 8, where that fills the bar and the standard's 2 or 3 not.

    Tune books mean it so. Returns whether it was done.
    """
    length = sum((proto.length for proto in bar), Fraction(0))
    custom = sum((proto.length * proto.custom for proto in bar), Fraction(0))
    if custom == length or meter is None or length == meter.bar:
        return False
    sayable = all(value_of(proto.length) for proto in bar if proto.custom != 1)
    if custom != meter.bar and sayable:
        return False
    for proto in bar:
        proto.length *= proto.custom
    return True


def events_of(proto: Proto, key: Key) -> list[Event]:
    """What a note becomes when its bar is closed; a roll becomes several.

    Parameters
    ----------
    proto : Proto
    key : Key
        Gives a roll its neighbouring notes.
    """
    notes = tuple(Note(pitch) for pitch in proto.notes)
    marks = proto.marks
    if proto.trill and len(notes) == 1:
        rise = neighbour(proto.notes[0], 1, key).midi - proto.notes[0].midi
        marks |= {Mark.TRILL_HALF if rise == 1 else Mark.TRILL_WHOLE}
    event = Event(GRACE, notes, without_rivals(marks), proto.locks, proto.chord)
    if proto.grace:
        return [event]
    rolled = _rolled(proto, key) if proto.roll and len(notes) == 1 else []
    return rolled or sounding(event, snapped(proto.length))


def _rolled(proto: Proto, key: Key) -> list[Event]:
    """A roll: the note struck again after a cut from above, and after a tap from below where it is long."""
    times = {Fraction(3, 2): 3, Fraction(1): 2}.get(proto.length)
    part = value_of(proto.length / times) if times else None
    if times is None or part is None:
        return []
    pitch = proto.notes[0]
    first = Event(part, (Note(pitch),), proto.marks, proto.locks, proto.chord)
    again = Event(part, (Note(pitch),))
    cut = Event(GRACE, (Note(neighbour(pitch, 1, key)),), frozenset({Mark.GRACE}))
    tap = Event(GRACE, (Note(neighbour(pitch, -1, key)),), frozenset({Mark.GRACE}))
    return [first, cut, again] if times == 2 else [first, cut, again, tap, again]


def neighbour(pitch: Pitch, by: int, key: Key) -> Pitch:
    """The next note of the key, up or down.

    Parameters
    ----------
    pitch : Pitch
    by : int
    key : Key
    """
    place = 7 * pitch.octave + _LETTERS.index(pitch.letter) + by
    letter = _LETTERS[place % 7]
    return Pitch(letter, key.alter(letter), place // 7)
