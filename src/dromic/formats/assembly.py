"""From what a file holds to a riff: lengths become written values, bars are made to fill their metre.

Files break bars where riff text may not: a second part with another pickup, a last bar left short, a bar that is
simply wrong. What can be kept as it is stays; otherwise repeats are written out, broken bars are joined, short ones
filled with rests, and long ones get a metre of their own, and each of these is told.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import cache

from dromic.errors import RiffError
from dromic.formats.rifftext_reader import MOST_EVENTS, MOST_TIMES, read_riff_text
from dromic.formats.rifftext_writer import write_riff_text
from dromic.instrument.presets import instrument_for
from dromic.music.editing import filled_up
from dromic.music.pitch import Pitch, pitch_name
from dromic.music.rhythm import NOTE_BASES, Meter, NoteValue
from dromic.music.riff import NO_LOCKS, Bar, Event, Mark, Note, Phrase, Riff

_TUPLETS = (3, 5, 6, 7, 9, 2, 4, 10, 11, 12, 13, 14, 15)
TOLERANCE = Fraction(1, 24)
_LASTING = frozenset({Mark.PALM_MUTE, Mark.LET_RING, Mark.VIBRATO})


@dataclass(frozen=True)
class Brought:
    """A riff from a file, and what has to be said about it.

    Parameters
    ----------
    riff : Riff
    remarks : tuple of str
        What was inferred, changed or left out, a sentence each.
    tags : tuple of int
        For every written event the number that its reader gave it (see `Tagged`); -1 for none.
    """

    riff: Riff
    remarks: tuple[str, ...] = ()
    tags: tuple[int, ...] = ()


@dataclass(frozen=True)
class Tagged(Event):
    """An event that remembers where in the file it comes from, through everything that is done to it here."""

    tag: int = -1


@dataclass(frozen=True)
class Part:
    """One of the things in a file that a player can choose: a tune, a track, a voice."""

    name: str
    words: str = ""


@dataclass(frozen=True)
class Source:
    """What is in a file.

    Parameters
    ----------
    parts : tuple of Part
        At least one.
    read : callable
        From the number of a part to its riff; raises RiffError.
    likely : int
        The part that a player will most likely want.
    """

    parts: tuple[Part, ...]
    read: Callable[[int], Brought]
    likely: int = 0


@dataclass
class Remarks:
    """Gathers remarks; the same one is said once, with the places where it holds."""

    _found: dict[str, list[str]] = field(default_factory=dict)

    def add(self, words: str, place: str = "") -> None:
        """Say something, about a place such as ``bar 3``."""
        places = self._found.setdefault(words, [])
        if place and place not in places:
            places.append(place)

    def told(self, most: int = 4) -> tuple[str, ...]:
        """Everything that was said, each with its first places."""
        found = []
        for words, places in self._found.items():
            shown = ", ".join(places[:most]) + (f" and {len(places) - most} more" if len(places) > most else "")
            found.append(f"{words}: {shown}" if places else words)
        return tuple(found)


@dataclass
class RawBar:
    """A bar as a file has it; its events may fill it or not. `leads` where the file says that it is a pickup.

    A comment is kept at the bar.
    """

    events: list[Event] = field(default_factory=list)
    meter: Meter = field(default_factory=Meter)
    leads: bool = False
    comment: str = ""

    @property
    def quarters(self) -> Fraction:
        """Length in quarter notes."""
        return sum((event.quarters for event in self.events), Fraction(0))

    def copied(self) -> RawBar:
        """The same bar once more."""
        return replace(self, events=list(self.events))


@dataclass
class RawPhrase:
    """Bars that are played `times` times."""

    bars: list[RawBar] = field(default_factory=list)
    name: str | None = None
    times: int = 1


@cache
def _values() -> dict[Fraction, NoteValue]:
    """Every length that one value can have, with the plainest value of it."""
    found: dict[Fraction, NoteValue] = {}
    for tuplet in (0, *_TUPLETS):
        for dots in (0, 1, 2):
            for base in NOTE_BASES:
                value = NoteValue(base, dots, tuplet)
                if not (tuplet and dots > 1):
                    found.setdefault(value.quarters, value)
    return found


def value_of(length: Fraction) -> NoteValue | None:
    """The one value of a length in quarter notes, or None.

    Examples
    --------
    >>> str(value_of(Fraction(3, 2))), str(value_of(Fraction(1, 3))), value_of(Fraction(5, 4))
    ('4.', '8t', None)
    """
    return _values().get(length)


def values_of(length: Fraction) -> tuple[NoteValue, ...]:
    """Values that add up to a length, the longest first.

    Raises
    ------
    RiffError
        For a length that no values of up to 15 in a tuplet add up to.

    Examples
    --------
    >>> [str(value) for value in values_of(Fraction(5, 4))]
    ['4', '16']
    """
    one = value_of(length)
    if one is not None:
        return (one,)
    found: list[NoteValue] = []
    left = length
    # Plain values take what is binary; what is left over has to be one value of a tuplet.
    for base in NOTE_BASES:
        plain = NoteValue(base)
        while plain.quarters <= left:
            found.append(plain)
            left -= plain.quarters
            if left in _values():
                return (*found, _values()[left])
            if len(found) > 64:
                break
        if not left:
            return tuple(found)
    raise RiffError(f"a length of {length} quarter notes cannot be written with note values")


def snapped(length: Fraction) -> Fraction:
    """The nearest length that values can have: files round what their divisions cannot say.

    Examples
    --------
    >>> snapped(Fraction(5, 4)), snapped(Fraction(333, 1000))
    (Fraction(5, 4), Fraction(1, 3))
    """
    try:
        values_of(length)
    except RiffError:
        for parts in (48, 64, 80):
            near = Fraction(round(length * parts), parts)
            if near and abs(near - length) <= TOLERANCE and near in _values():
                return near
        return max(Fraction(round(length * 16), 16), Fraction(1, 16))
    return length


def sounding(event: Event, length: Fraction) -> list[Event]:
    """An event of a length, tied where it takes several values; a grace note stays one."""
    if event.grace:
        return [event]
    found: list[Event] = []
    for value in values_of(length):
        one = replace(event, value=value)
        if found and not event.rest:
            one = replace(one, marks=frozenset({Mark.TIE}) | (event.marks & _LASTING), locks=NO_LOCKS)
        found.append(one)
    return found


def assembled(head: Riff, phrases: Sequence[RawPhrase], remarks: Remarks) -> Brought:
    """Make a riff of a file's bars.

    Parameters
    ----------
    head : Riff
        Title, instrument, tempo and so on; its metre, pickup and phrases are set here.
    phrases : sequence of RawPhrase
    remarks : Remarks
        Takes what had to be changed.

    Raises
    ------
    RiffError
        When there is nothing to play, or too much.
    """
    kept = [RawPhrase([bar for bar in one.bars if bar.events], one.name, one.times) for one in phrases]
    kept = [phrase for phrase in kept if phrase.bars]
    if not any(event.notes for phrase in kept for bar in phrase.bars for event in bar.events):
        raise RiffError("there are no notes in it; choose another part or another file")
    for phrase in kept:
        if phrase.times > MOST_TIMES:
            remarks.add(f"repeats are played {MOST_TIMES} times at most")
            phrase.times = MOST_TIMES
    if sum(phrase.times * sum(len(bar.events) for bar in phrase.bars) for phrase in kept) > MOST_EVENTS:
        raise RiffError(f"it has more than {MOST_EVENTS} notes with its repeats; split it into several files")
    head = _reached(head, kept, remarks)
    _without_loose_ends(kept)
    if not _joins(kept):
        kept = _written_out(kept, remarks)
    _fill(kept, remarks)
    _without_loose_ends(kept)
    riff = _riff(head, kept)
    tags = tuple(getattr(event, "tag", -1) for event in riff.written_events())
    return Brought(_normal(riff), remarks.told(), tags)


# What is tried, in this order, when an instrument does not reach all notes.
_LARGER = {
    "guitar-6": (("guitar-6", "drop"), ("guitar-7", ""), ("guitar-8", "")),
    "guitar-7": (("guitar-7", "drop"), ("guitar-8", "")),
    "bass-4": (("bass-4", "drop"), ("bass-5", ""), ("bass-6", "")),
    "bass-5": (("bass-6", ""),),
}


def _reached(head: Riff, phrases: Sequence[RawPhrase], remarks: Remarks) -> Riff:
    """An instrument that reaches all pitches; where there is none, they are moved by octaves."""
    pitches = [
        note.what.midi
        for phrase in phrases
        for bar in phrase.bars
        for event in bar.events
        for note in event.notes
        if isinstance(note.what, Pitch)
    ]
    if not pitches:
        return head
    low, high = min(pitches), max(pitches)
    for name, tuning in ((head.instrument, head.tuning), *_LARGER.get(head.instrument, ())):
        instrument = instrument_for(replace(head, instrument=name, tuning=tuning))
        if instrument.lowest <= low and high <= instrument.highest:
            if (name, tuning) != (head.instrument, head.tuning):
                remarks.add(f"it goes down to {pitch_name(low)}, so it is read for {name} {tuning}".rstrip())
            return replace(head, instrument=name, tuning=tuning)
    instrument = instrument_for(head)
    for octaves in (1, -1, 2, -2, 3, -3):
        if instrument.lowest <= low + 12 * octaves and high + 12 * octaves <= instrument.highest:
            _move(phrases, octaves)
            remarks.add(
                f"all notes are moved by {counted(abs(octaves), 'octave')} {'up' if octaves > 0 else 'down'}"
            )
            return head
    raise RiffError(
        f"its notes go from {pitch_name(low)} to {pitch_name(high)}, which {head.instrument} does not reach; "
        "choose another part"
    )


def _move(phrases: Sequence[RawPhrase], octaves: int) -> None:
    def moved(note: Note) -> Note:
        what = note.what
        return replace(note, what=replace(what, octave=what.octave + octaves)) if isinstance(what, Pitch) else note

    for phrase in phrases:
        for bar in phrase.bars:
            bar.events = [replace(event, notes=tuple(moved(note) for note in event.notes)) for event in bar.events]


def _without_loose_ends(phrases: list[RawPhrase]) -> None:
    """Drop grace notes that lead to no note, and ties that no note comes before."""
    before: Event | None = None
    # Grace notes that still wait for the note that they lead to, with their bars' events.
    waiting: list[tuple[list[Event], Event]] = []
    for phrase in phrases:
        for bar in phrase.bars:
            own: list[Event] = []
            for event in bar.events:
                if Mark.TIE in event.marks and not (before is not None and _same(before, event)):
                    event = replace(event, marks=event.marks - {Mark.TIE})
                if event.rest:
                    _drop(waiting)
                elif not event.grace:
                    waiting.clear()
                own.append(event)
                if event.grace:
                    waiting.append((own, event))
                before = event
            bar.events = own
    _drop(waiting)
    for phrase in phrases:
        for bar in list(phrase.bars):
            if bar.events and not bar.quarters:
                _give_to_next(phrases, bar)
        phrase.bars = [bar for bar in phrase.bars if bar.events]
    phrases[:] = [phrase for phrase in phrases if phrase.bars]


def _drop(waiting: list[tuple[list[Event], Event]]) -> None:
    for events, grace in waiting:
        events[:] = [event for event in events if event is not grace]
    waiting.clear()


def _give_to_next(phrases: list[RawPhrase], bar: RawBar) -> None:
    """Grace notes that stand before a bar line belong to the bar after it."""
    flat = [one for phrase in phrases for one in phrase.bars]
    at = next(number for number, one in enumerate(flat) if one is bar)
    if at + 1 < len(flat) and flat[at + 1].events and not flat[at + 1].events[0].rest:
        flat[at + 1].events[:0] = bar.events
    bar.events = []


def _same(before: Event, event: Event) -> bool:
    return [str(note.what) for note in before.notes] == [str(note.what) for note in event.notes]


def _pickup(phrases: Sequence[RawPhrase]) -> Fraction:
    first = phrases[0].bars[0]
    alone = len(phrases) == 1 and len(phrases[0].bars) == 1 and not first.leads
    return first.quarters if first.quarters < first.meter.bar and not alone else Fraction(0)


def _joins(phrases: Sequence[RawPhrase]) -> bool:
    """Whether all bars are as riff text wants them, with one length of pickup."""
    pickup = _pickup(phrases)
    at_pickup = bool(pickup)
    meter = phrases[0].bars[0].meter
    for phrase in phrases:
        began = at_pickup
        for bar in phrase.bars:
            if at_pickup and bar.meter != meter:
                return False
            meter = bar.meter
            if pickup and not pickup < meter.bar:
                return False
            if bar.quarters == (pickup if at_pickup else meter.bar):
                at_pickup = False
            elif pickup and not at_pickup and bar.quarters == meter.bar - pickup:
                at_pickup = True
            else:
                return False
        if phrase.times > 1 and at_pickup != began:
            return False
    return True


def _written_out(phrases: Sequence[RawPhrase], remarks: Remarks) -> list[RawPhrase]:
    """Repeats played out, and neighbouring parts of one bar put together."""
    if any(phrase.times > 1 for phrase in phrases):
        remarks.add("repeats are written out, because the bars around them are broken")
    found: list[RawPhrase] = []
    before: RawBar | None = None
    for phrase in phrases:
        for take in range(phrase.times):
            own = RawPhrase(name=phrase.name if not take else None)
            for bar in phrase.bars:
                bar = bar.copied()
                if (
                    before is not None
                    and before.meter == bar.meter
                    and before.quarters + bar.quarters == bar.meter.bar
                    and not _is_first(found, own, before)
                ):
                    before.events += bar.events
                    continue
                own.bars.append(bar)
                before = bar
            if own.bars:
                found.append(own)
    return found


def _is_first(found: Sequence[RawPhrase], own: RawPhrase, bar: RawBar) -> bool:
    """Whether a bar is the very first one, which stays a pickup."""
    first = found[0].bars[0] if found else own.bars[0]
    return first is bar


def _fill(phrases: list[RawPhrase], remarks: Remarks) -> None:
    """Make every bar fill its metre: with rests where it is short, by a metre of its own where it is long."""
    if _joins(phrases):
        return
    number = 0
    pickup = _pickup(phrases)
    for phrase in phrases:
        for bar in phrase.bars:
            number += 1
            if number == 1 and pickup:
                continue
            if bar.quarters > bar.meter.bar:
                bar.meter = _own_meter(bar.quarters, bar.meter)
                remarks.add("bars longer than their metre have one of their own", f"bar {number}")
            missing = bar.meter.bar - bar.quarters
            if missing > 0:
                rests = filled_up(bar.events, missing)
                # A short bar at the start of a phrase leads into it; any other has come to its end early.
                bar.events = [*rests, *bar.events] if bar is phrase.bars[0] else [*bar.events, *rests]
                remarks.add("bars that were too short are filled with rests", f"bar {number}")
        phrase.times = 1 if number == 1 else phrase.times
    first = phrases[0].bars[0]
    if pickup and not _joins(phrases):
        # A metre that changes right after the pickup, or another conflict: the pickup becomes a whole bar.
        first.events[:0] = filled_up((), first.meter.bar - first.quarters)
        remarks.add("the pickup is a whole bar, with rests before it")


def _own_meter(quarters: Fraction, meter: Meter) -> Meter:
    """A metre that is as long as a bar, or a little longer where none is."""
    for unit in (meter.unit, 4, 8, 16, 32):
        count = quarters * unit / 4
        if count.denominator == 1 and 1 <= count <= 32:
            return Meter(int(count), unit)
    whole = int(-(-quarters * meter.unit // 4))
    if whole > 32:
        raise RiffError(f"a bar of {quarters} quarter notes is too long for any metre; split it with bar lines")
    return Meter(whole, meter.unit)


def _riff(head: Riff, phrases: Sequence[RawPhrase]) -> Riff:
    meter = first = phrases[0].bars[0].meter
    made: list[Phrase] = []
    for number, phrase in enumerate(phrases):
        bars = []
        for bar in phrase.bars:
            new = bar.meter if bar.meter != meter else None
            bars.append(Bar(tuple(bar.events), comment=bar.comment, meter=new))
            meter = bar.meter
        name = phrase.name
        if name is None and number and made[-1].times == 1:
            # Without a name of its own it goes on with the phrase before.
            if phrase.times == 1:
                made[-1] = replace(made[-1], bars=(*made[-1].bars, *bars))
                continue
            name = f"part {number + 1}"
        made.append(Phrase(tuple(bars), name, phrase.times))
    return replace(head, phrases=tuple(made), meter=first, pickup=_pickup(phrases))


def _normal(riff: Riff) -> Riff:
    """The riff as its own text gives it back; whatever the text would refuse is refused here."""
    return read_riff_text(write_riff_text(riff)).riff


def clean_title(words: str) -> str:
    """A title as riff text takes it: one line, no leading sign, not too long."""
    return " ".join(words.split())[:120].strip()


def phrase_name(words: str) -> str | None:
    """A phrase name as riff text takes it, or None."""
    name = " ".join(words.replace("[", " ").replace("]", " ").replace("#", " ").split())[:40].strip()
    return name or None


def counted(count: int, noun: str) -> str:
    """A number with its noun.

    Examples
    --------
    >>> counted(1, "bar"), counted(3, "bar")
    ('1 bar', '3 bars')
    """
    return f"{count} {noun}{'' if count == 1 else 's'}"


def notes_in(events: Iterable[Event]) -> int:
    """How many events sound."""
    return sum(not event.rest for event in events)
