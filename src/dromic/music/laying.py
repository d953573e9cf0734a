"""Events laid into bars: a note that crosses a bar line is tied over it, and what is left of a bar is rests."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from fractions import Fraction

from dromic.errors import RiffError
from dromic.music.rhythm import Meter, NoteValue
from dromic.music.riff import NO_LOCKS, Bar, Event, Mark

_BASES = (1, 2, 4, 8, 16, 32, 64)
PLAIN = {value.quarters: value for base in _BASES for dots in (0, 1, 2) for value in (NoteValue(base, dots),)}
_LONGEST_FIRST = sorted(PLAIN.items(), reverse=True)


def rests_of(length: Fraction) -> tuple[Event, ...]:
    """Rests that fill a length, the longest first; nothing for less than a sixty-fourth."""
    rests = []
    for quarters, value in _LONGEST_FIRST:
        while not value.dots and quarters <= length:
            rests.append(Event(value))
            length -= quarters
    return tuple(rests)


def _pieces(event: Event, room: Fraction) -> tuple[list[Event], list[Event]]:
    """Cut an event in two at a bar line, each part tied together where no single value has its length."""
    return _of_length(event, room, first=True), _of_length(event, event.quarters - room, first=False)


def _of_length(event: Event, length: Fraction, *, first: bool) -> list[Event]:
    found: list[Event] = []
    for quarters, value in _LONGEST_FIRST:
        while quarters <= length:
            tied = replace(event, value=value, chord=event.chord if first and not found else None)
            if (found or not first) and not event.rest:
                tied = replace(
                    tied,
                    marks=frozenset({Mark.TIE}) | (event.marks & {Mark.PALM_MUTE, Mark.LET_RING, Mark.VIBRATO}),
                    locks=NO_LOCKS,
                )
            found.append(tied)
            length -= quarters
    return found


def laid_in_bars(events: Iterable[Event], lengths: Callable[[int], tuple[Fraction, Meter | None]]) -> list[Bar]:
    """Lay events into bars; `lengths` tells the length and the metre change of each bar from its number."""
    bars: list[Bar] = []
    own: list[Event] = []
    full, meter = lengths(0)
    room = full
    waiting = list(events)
    while waiting:
        event = waiting.pop(0)
        if event.quarters <= room:
            own.append(event)
            room -= event.quarters
        elif event.value.tuplet or not _binary(room):
            # A tuplet is not cut: what is left of the bar stays silent.
            if room == full:
                raise RiffError(f"a note of {event.quarters} quarter notes does not fit into a bar of {full}")
            # Grace notes go with the note that they lead to.
            leading = len(own)
            while leading and own[leading - 1].grace:
                leading -= 1
            waiting[:0] = [*own[leading:], event]
            own = [*own[:leading], *filled_up(own[:leading], room)]
            room = Fraction(0)
        else:
            now, later = _pieces(event, room)
            own += now
            waiting[:0] = later
            room = Fraction(0)
        if not room:
            own = _closed(bars, own, meter)
            full, meter = lengths(len(bars))
            room = full
    if own:
        _closed(bars, own + filled_up(own, room), meter)
    return bars


def _binary(length: Fraction) -> bool:
    """Whether plain values fill a length."""
    return 16 % length.denominator == 0


def filled_up(own: Sequence[Event], room: Fraction) -> list[Event]:
    """Return what fills a bar: rests of the last tuplet as far as they are needed, then plain ones."""
    last = next((event.value for event in reversed(own) if event.value.tuplet), None)
    found: list[Event] = []
    while not _binary(room):
        tuplet = 0 if last is None else last.tuplet
        values = [NoteValue(base, tuplet=tuplet) for base in _BASES if tuplet]
        value = next((one for one in values if one.quarters <= min(room, Fraction(2, 3))), None)
        if value is None:
            raise RiffError("the rest of this bar cannot be filled with rests; finish the tuplet first")
        found.append(Event(value))
        room -= value.quarters
    # The short ones first, so that the long ones lie on beats.
    return [*found, *reversed(rests_of(room))]


def _closed(bars: list[Bar], own: list[Event], meter: Meter | None) -> list[Event]:
    bars.append(Bar(tuple(own), meter=meter))
    return []
