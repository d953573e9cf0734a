"""Changing a riff: notes put in, taken out and changed, pitches transposed.

Every function returns a new riff whose bars fill their metre again: the events of a phrase are laid into bars
anew from the first bar that changes, a note that crosses a bar line is tied over it, and the last bar is filled
with rests. An event is named by its place in reading order, as in `Riff.written_events`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from dromic.errors import RiffError
from dromic.memory import memo
from dromic.music.chords import Sign
from dromic.music.laying import laid_in_bars, rests_of
from dromic.music.pitch import Pitch, parse_pitch, pitch_name
from dromic.music.rhythm import Meter
from dromic.music.riff import (
    EXCLUSIVE_MARKS,
    INFERRED,
    NO_LOCKS,
    Bar,
    Event,
    Locks,
    Mark,
    Note,
    Place,
    Riff,
    with_bars_of,
)


@dataclass(frozen=True)
class Where:
    """Place of an event: its phrase, bar and number in the bar, all from 0."""

    phrase: int
    bar: int
    event: int


def where(riff: Riff, written: int) -> Where:
    """Find an event.

    Raises
    ------
    RiffError
        When the riff has no such event.
    """
    left = written
    for phrase_index, phrase in enumerate(riff.phrases):
        for bar_index, bar in enumerate(phrase.bars):
            if 0 <= left < len(bar.events):
                return Where(phrase_index, bar_index, left)
            left -= len(bar.events)
    raise RiffError(f"there is no note {written + 1} in this riff; it has {len(riff.written_events())}")


def first_of_phrase(riff: Riff, index: int) -> int:
    """Place in reading order of a phrase's first event."""
    return sum(len(bar.events) for phrase in riff.phrases[:index] for bar in phrase.bars)


def change(riff: Riff, written: int, new: Callable[[Event], Event]) -> Riff:
    """Return the riff with one event changed; what follows moves if its length does.

    Parameters
    ----------
    riff : Riff
    written : int
        The event's place in reading order.
    new : callable
    """
    at = where(riff, written)
    old = riff.phrases[at.phrase].bars[at.bar].events[at.event]
    return _with_events(riff, at, [_with_sign(old, new(old))], removed=1)


def change_all(riff: Riff, chosen: range, new: Callable[[Event], Event]) -> Riff:
    """Return the riff with neighbouring events changed, all of them before anything is laid into bars anew.

    Parameters
    ----------
    riff : Riff
    chosen : range
    new : callable
    """
    start = chosen.start
    while start < chosen.stop:
        at = where(riff, start)
        own = [event for bar in riff.phrases[at.phrase].bars for event in bar.events]
        first = start - first_of_phrase(riff, at.phrase)
        count = min(chosen.stop - start, len(own) - first)
        before = len(riff.written_events())
        riff = _with_events(
            riff, at, [_with_sign(event, new(event)) for event in own[first : first + count]], removed=count
        )
        # What is laid anew may have more or fewer events than before, in this phrase only.
        grown = len(riff.written_events()) - before
        start, chosen = start + count + grown, range(chosen.start, chosen.stop + grown)
    return riff


def insert(riff: Riff, written: int, events: Sequence[Event]) -> Riff:
    """Return the riff with events put in before one; `written` may be one beyond the last, to append.

    Parameters
    ----------
    riff : Riff
    written : int
        The event's place in reading order.
    events : sequence of Event
    """
    written_events = riff.written_events()
    count = len(written_events)
    if written >= count:
        at = where(riff, count - 1)
        return _with_events(riff, replace(at, event=at.event + 1), events, removed=0)
    sign = written_events[written].chord
    if sign is not None and events and events[0].chord is None:
        # The chord begins where it did, at what stands there now.
        riff = set_sign(riff, written, None)
        events = [replace(events[0], chord=sign), *events[1:]]
    return _with_events(riff, where(riff, written), events, removed=0)


def set_sign(riff: Riff, written: int, sign: Sign | None) -> Riff:
    """Return the riff with another chord sign at one event; None takes it away.

    Parameters
    ----------
    riff : Riff
    written : int
        The event's place in reading order.
    sign : Sign or None
    """
    return _replaced(riff, written, lambda event: replace(event, chord=sign))


def _with_sign(old: Event, new: Event) -> Event:
    """What takes an event's place; the chord begins there still."""
    return new if new.chord is not None or old.chord is None else replace(new, chord=old.chord)


def delete(riff: Riff, written: int, count: int = 1) -> Riff:
    """Return the riff with events of one phrase taken out; what follows moves up.

    Parameters
    ----------
    riff : Riff
    written, count : int

    Raises
    ------
    RiffError
        For the last note of a riff, which has to stay.
    """
    at = where(riff, written)
    length = sum(len(bar.events) for bar in riff.phrases[at.phrase].bars)
    start = written - first_of_phrase(riff, at.phrase)
    count = min(count, length - start)
    if count == length:
        if len(riff.phrases) == 1:
            raise RiffError("this is all there is in the riff; change it instead, or start a new one")
        return replace(riff, phrases=(*riff.phrases[: at.phrase], *riff.phrases[at.phrase + 1 :]))
    gone = riff.written_events()[written : written + count]
    sign = next((event.chord for event in reversed(gone) if event.chord is not None), None)
    if sign is not None and start + count < length and riff.written_events()[written + count].chord is None:
        # The chord begins with what takes their place.
        riff = set_sign(riff, written + count, sign)
    return _with_events(riff, at, [], removed=count)


def silence(riff: Riff, written: int) -> Riff:
    """Return the riff with a rest in an event's place, so that everything else stays where it is in time."""
    after = written + 1
    following = riff.written_events()[after] if after < len(riff.written_events()) else None
    if following is not None and Mark.TIE in following.marks:
        riff = _replaced(riff, after, lambda event: replace(event, marks=event.marks - {Mark.TIE}))
    if riff.written_events()[written].grace:
        return delete(riff, written)
    return _replaced(riff, written, lambda event: Event(event.value, chord=event.chord))


def set_locks(riff: Riff, written: int, locks: Locks) -> Riff:
    """Return the riff with other decisions of the player's at one event.

    Parameters
    ----------
    riff : Riff
    written : int
        The event's place in reading order.
    locks : Locks
    """
    return _replaced(riff, written, lambda event: replace(event, locks=locks))


def set_places(riff: Riff, written: int, places: Sequence[Place], fingers: Sequence[int | None] = ()) -> Riff:
    """Return the riff with the places of an event's notes fixed, and the fingers of a chord's.

    Parameters
    ----------
    riff : Riff
    written : int
        The event's place in reading order.
    places : sequence of Place
    fingers : sequence of int or None
    """

    def placed(event: Event) -> Event:
        own = list(fingers) or [note.locks.finger for note in event.notes]
        notes = tuple(
            Note(place, note.marks, replace(note.locks, finger=finger or None) if len(places) > 1 else note.locks)
            for note, place, finger in zip(event.notes, places, own, strict=True)
        )
        return replace(event, notes=notes)

    return _replaced(riff, written, placed)


def without_locks(riff: Riff) -> Riff:
    """Return the riff with every stroke, finger and position lock lifted; places stay."""
    return _map_events(riff, _freed)


def without_locks_at(riff: Riff, written: int) -> Riff:
    """Return the riff with the locks of one event lifted."""
    return _replaced(riff, written, _freed)


def _freed(event: Event) -> Event:
    notes = tuple(replace(note, locks=NO_LOCKS) for note in event.notes)
    return replace(event, locks=NO_LOCKS, notes=notes)


def toggle_mark(riff: Riff, written: int, mark: Mark) -> Riff:
    """Return the riff with a mark put on an event, or taken off; marks that contradict it go.

    Parameters
    ----------
    riff : Riff
    written : int
        The event's place in reading order.
    mark : Mark
    """
    rivals = frozenset().union(*(group for group in EXCLUSIVE_MARKS if mark in group))

    def marked(event: Event) -> Event:
        if event.rest:
            return event
        marks = event.marks - {mark} if mark in event.marks else (event.marks - rivals) | {mark}
        return replace(event, marks=marks)

    return change(riff, written, marked)


def transpose(riff: Riff, semitones: int, top_fret: int = 24) -> Riff:
    """Return the riff higher or lower: pitches by semitones, places along their string.

    Parameters
    ----------
    riff : Riff
    semitones, top_fret : int

    Raises
    ------
    RiffError
        When a place would leave the neck.
    """

    def moved(note: Note) -> Note:
        what = note.target
        if isinstance(what, Pitch):
            pitch = parse_pitch(pitch_name(what.midi + semitones, flats=semitones < 0))
            return note if pitch is None else replace(note, target=pitch)
        if not 0 <= what.fret + semitones <= top_fret:
            raise RiffError(
                f"{what} cannot move by {semitones} frets on its string; give the note as a pitch, or move less far"
            )
        return replace(note, target=Place(what.string, what.fret + semitones))

    return _map_events(riff, lambda event: replace(event, notes=tuple(moved(note) for note in event.notes)))


# -- laying bars anew -------------------------------------------------------------------------------------------


def _meters(riff: Riff) -> list[list[Meter]]:
    """The metre of every bar of every phrase."""
    meter, meters = riff.meter, []
    for phrase in riff.phrases:
        row = []
        for bar in phrase.bars:
            meter = bar.meter or meter
            row.append(meter)
        meters.append(row)
    return meters


def _with_events(riff: Riff, at: Where, events: Sequence[Event], removed: int) -> Riff:
    """Take out and put in events at a place, and lay the rest of the phrase into bars anew.

    Where each event is as long as the one that it stands for, no other bar is touched.
    """
    phrase = riff.phrases[at.phrase]
    old = phrase.bars
    own = old[at.bar].events
    gone = own[at.event : at.event + removed]
    if [(one.value, one.grace) for one in gone] == [(one.value, one.grace) for one in events]:
        bar = replace(old[at.bar], events=(*own[: at.event], *events, *own[at.event + removed :]))
        same = replace(phrase, bars=(*old[: at.bar], bar, *old[at.bar + 1 :]))
        return _mended(replace(riff, phrases=(*riff.phrases[: at.phrase], same, *riff.phrases[at.phrase + 1 :])))
    meters = _meters(riff)[at.phrase]
    tail = [event for bar in old[at.bar :] for event in bar.events]
    tail = _without_filling(tail)
    whole = [*tail[: at.event], *events, *tail[at.event + removed :]]
    kept = old[: at.bar]

    def lengths(number: int) -> tuple[Fraction, Meter | None]:
        index = at.bar + number
        if index < len(old):
            # Bars that a pickup cuts short keep their length.
            return old[index].quarters, old[index].meter
        return (meters[-1] if meters else riff.meter).bar, None

    laid = laid_in_bars(whole, lengths)
    if not laid and not kept:
        laid = [Bar(rests_of(old[0].quarters), meter=old[0].meter)]
    dressed = [
        replace(
            bar,
            lead=old[at.bar + number].lead,
            comment=_comment(old[at.bar + number], bar),
            tempo=old[at.bar + number].tempo,
        )
        if at.bar + number < len(old)
        else bar
        for number, bar in enumerate(laid)
    ]
    changed = replace(phrase, bars=(*kept, *dressed))
    laid_anew = replace(riff, phrases=(*riff.phrases[: at.phrase], changed, *riff.phrases[at.phrase + 1 :]))
    return with_bars_of(_mended(laid_anew), riff)


def _comment(old: Bar, new: Bar) -> str:
    """The comment of a bar that was laid anew; a rhythm that the player has changed is inferred no more."""
    same = [event.value for event in old.events] == [event.value for event in new.events]
    return old.comment if same or old.comment != INFERRED else ""


def _without_filling(events: list[Event]) -> list[Event]:
    """Events without the rests at the end, which only fill the last bar."""
    while events and events[-1].rest:
        events = events[:-1]
    return events


def _replaced(riff: Riff, written: int, new: Callable[[Event], Event]) -> Riff:
    """Return the riff with an event changed in place; its length must stay."""
    at = where(riff, written)
    phrase = riff.phrases[at.phrase]
    bar = phrase.bars[at.bar]
    events = (*bar.events[: at.event], new(bar.events[at.event]), *bar.events[at.event + 1 :])
    bars = (*phrase.bars[: at.bar], replace(bar, events=events), *phrase.bars[at.bar + 1 :])
    changed = replace(phrase, bars=bars)
    return _mended(replace(riff, phrases=(*riff.phrases[: at.phrase], changed, *riff.phrases[at.phrase + 1 :])))


def _targets(event: Event) -> list[Place | Pitch]:
    return [note.target for note in event.notes]


def _tied_or_grace(riff: Riff) -> Iterator[int]:
    """Places in reading order of the events that are tied, or grace notes."""
    first = 0
    for phrase in riff.phrases:
        for bar in phrase.bars:
            for at in memo(_tied_or_grace_in, bar):
                yield first + at
            first += len(bar.events)


def _tied_or_grace_in(bar: Bar) -> tuple[int, ...]:
    return tuple(at for at, event in enumerate(bar.events) if event.grace or Mark.TIE in event.marks)


def _mended(riff: Riff) -> Riff:
    """Return the riff without ties that go on from nothing, and without grace notes that lead to nothing."""
    events = riff.written_events()
    loose, idle = set(), set()
    for at in _tied_or_grace(riff):
        event = events[at]
        if Mark.TIE in event.marks and (not at or _targets(event) != _targets(events[at - 1])):
            loose.add(at)
        if event.grace and (at + 1 == len(events) or events[at + 1].rest):
            idle.add(at)
    if not loose and not idle:
        return riff
    numbers = iter(range(len(events)))

    def bar(one: Bar) -> Bar:
        kept = []
        for event in one.events:
            at = next(numbers)
            if at not in idle:
                kept.append(replace(event, marks=event.marks - {Mark.TIE}) if at in loose else event)
        return replace(one, events=tuple(kept))

    phrases = tuple(replace(phrase, bars=tuple(bar(one) for one in phrase.bars)) for phrase in riff.phrases)
    return _mended(replace(riff, phrases=phrases)) if idle else replace(riff, phrases=phrases)


def _map_events(riff: Riff, new: Callable[[Event], Event]) -> Riff:
    phrases = tuple(
        replace(
            phrase,
            bars=tuple(replace(bar, events=tuple(new(event) for event in bar.events)) for bar in phrase.bars),
        )
        for phrase in riff.phrases
    )
    return replace(riff, phrases=phrases)
