"""The riff in time: repeats expanded, every event with its bar, beat, onset and length.

Times are exact fractions of a quarter note from the start of the riff. A pickup is bar 0, and beats count
from 1 within the full bar. A written bar may be a part of a bar of the metre (before and after a pickup).
`played` is the onset bent by the swing and by changes of tempo, which is what hands have to keep to: it counts in
quarter notes of the riff's own tempo, so that a slower bar takes more of them.

Grace notes fall on the beat of the note they lead to, and take their time from it: a 32nd each, but
together never more than half of it.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property

from dromic.memory import Memo, memo
from dromic.music.rhythm import Meter, Swing, beat_words
from dromic.music.riff import Bar, Event, Mark, Riff

GRACE_QUARTERS = Fraction(1, 8)
PASSES_KEPT = 16


@dataclass(frozen=True)
class TimedEvent:
    """An event in time.

    Parameters
    ----------
    index : int
        Place in the expanded riff, rests counted.
    event_index : int
        Place of its event in reading order (see `Riff.written_events`).
    bar : int
    beat, onset, duration, swung, played : Fraction
        Quarter notes; `swung` is the onset bent by the swing alone.
    phrase : int
        Index of the phrase it belongs to.
    pass_number : int
        Which time round of the phrase, from 0.
    meter : Meter
        The metre in force.
    pace : Fraction
        Quarter notes of the riff's tempo that one lasts here; more than 1 where it is slower.
    """

    index: int
    event_index: int
    event: Event
    bar: int
    beat: Fraction
    onset: Fraction
    duration: Fraction
    swung: Fraction
    played: Fraction
    phrase: int
    pass_number: int
    meter: Meter = field(default_factory=Meter)
    pace: Fraction = Fraction(1)

    @cached_property
    def played_at(self) -> float:
        """`played` as a number that pictures and tables are made of."""
        return float(self.played)

    @property
    def ends(self) -> Fraction:
        """When it is over, counted as `played`."""
        return self.played + self.duration * self.pace

    @property
    def place_words(self) -> str:
        """Where it is, in words.

        Examples
        --------
        >>> from dromic.music.rhythm import NoteValue
        >>> times = Fraction(5, 2), Fraction(0), Fraction(1, 2), Fraction(0), Fraction(0)
        >>> TimedEvent(0, 0, Event(NoteValue(8)), 2, *times, 0, 0).place_words
        'bar 2 beat 2 &'
        """
        # Grace notes take their time from the note that they lead to, which is still counted where it is written.
        late = Fraction(0) if self.event.grace else max(self.event.quarters - self.duration, Fraction(0))
        grace = " (grace note)" if self.event.grace else ""
        return f"bar {self.bar} beat {beat_words(self.beat - late, self.meter, rough=self.event.grace)}{grace}"

    @property
    def tied(self) -> bool:
        """Whether the note goes on sounding from the one before."""
        return Mark.TIE in self.event.marks


@dataclass(frozen=True)
class BarInTime:
    """A written bar each time that it is played.

    Parameters
    ----------
    bar : Bar
    event_index : int
        Place of its first event in reading order.
    phrase, pass_number : int
    number : int
        Of the metre's bar it lies in; 0 for a pickup.
    start : Fraction
        Onset, in quarter notes.
    inside : Fraction
        How far into the metre's bar it begins.
    meter : Meter
    since : Fraction
        When it begins, counted as `TimedEvent.played`.
    pace : Fraction
    tempo : float
        The tempo in force.
    """

    bar: Bar
    event_index: int
    phrase: int
    pass_number: int
    number: int
    start: Fraction
    inside: Fraction
    meter: Meter
    since: Fraction
    pace: Fraction
    tempo: float = field(compare=False)

    def __hash__(self) -> int:
        # Bars are long to hash, and seldom differ where these do not.
        return hash((self.event_index, self.pass_number, self.start))

    def played(self, inside: Fraction) -> Fraction:
        """A place so far into the metre's bar, counted as `TimedEvent.played`, swing left out."""
        return self.since + self.pace * (inside - self.inside)


def bars_in_time(riff: Riff) -> tuple[BarInTime, ...]:
    """Every written bar as often as it is played, in order of time."""
    return memo(_all_bars_in_time, riff)


def _all_bars_in_time(riff: Riff) -> tuple[BarInTime, ...]:
    return tuple(_bars_in_time(riff))


def _bars_in_time(riff: Riff) -> Iterator[BarInTime]:
    meter, tempo, written = riff.meter, riff.tempo, 0
    start = inside = since = Fraction(0)
    own_tempo = Fraction(str(riff.tempo))
    number = 1
    if riff.pickup:
        number, inside = 0, riff.meter.bar - riff.pickup
    current = riff.meter
    paces = {riff.tempo: Fraction(1)}
    for index, phrase in enumerate(riff.phrases):
        laid = []
        for bar in phrase.bars:
            meter, tempo = bar.meter or meter, bar.tempo or tempo
            laid.append((bar, written, meter, tempo))
            written += len(bar.events)
        for take in range(phrase.times):
            for bar, first, own, at in laid:
                if own != current and inside:
                    number, inside = number + 1, Fraction(0)
                current = own
                if at not in paces:
                    paces[at] = own_tempo / Fraction(str(at))
                pace = paces[at]
                place = first, index, take, number, start, inside, own, since, pace, at
                yield BarInTime(bar, *place)
                length = bar.quarters
                start += length
                since += length if pace == 1 else length * pace
                inside += length
                while inside >= own.bar:
                    number, inside = number + 1, inside - own.bar


def timeline(riff: Riff) -> tuple[TimedEvent, ...]:
    """Expand repeats and date every event.

    Parameters
    ----------
    riff : Riff

    Returns
    -------
    tuple of TimedEvent
        In order of time; grace notes and the note they lead to follow each other.

    Examples
    --------
    >>> from dromic.formats.rifftext.reader import read_riff_text
    >>> riff = read_riff_text("| 5:5/8 5:7 4:5 4:7 r/2 |").riff
    >>> [float(moment.onset) for moment in timeline(riff)]
    [0.0, 0.5, 1.0, 1.5, 2.0]
    """
    timeline: list[TimedEvent] = []
    graces: list[tuple[int, Event]] = []
    for where in bars_in_time(riff):
        if graces or any(event.grace for event in where.bar.events):
            _date(timeline, graces, where, riff.swing)
            continue
        timeline += _bar_memo(where.bar)(where, len(timeline), riff.swing)
    return tuple(timeline)


def _bar_memo(bar: Bar) -> Memo[list[TimedEvent]]:
    """What a bar's events were dated to, each time that it is played; kept with the bar."""
    return memo(_new_bar_memo, bar)


def _new_bar_memo(bar: Bar) -> Memo[list[TimedEvent]]:
    return Memo(_dated, PASSES_KEPT)


def _dated(where: BarInTime, first: int, swing: Swing) -> list[TimedEvent]:
    """The events of a bar without grace notes in time, the first of them with a number."""
    dated: list[TimedEvent] = []
    _date(dated, [], where, swing, first)
    return dated


def _date(
    found: list[TimedEvent], graces: list[tuple[int, Event]], where: BarInTime, swing: Swing, first: int = 0
) -> None:
    """Date the events of a bar; grace notes wait for the note that they lead to."""
    at = Fraction(0)

    def date(written: int, event: Event, since: Fraction, duration: Fraction) -> None:
        number, inside, onset = where.number, where.inside + since, where.start + since
        while inside >= where.meter.bar:
            number, inside = number + 1, inside - where.meter.bar
        late = Fraction(0) if swing.straight else swing.played(inside, where.meter.bar) - inside
        played = where.since + where.pace * (since + late)
        moment = TimedEvent(
            first + len(found),
            written,
            event,
            number,
            1 + inside,
            onset,
            duration,
            onset + late,
            played,
            where.phrase,
            where.pass_number,
            where.meter,
            where.pace,
        )
        found.append(moment)

    for written, event in enumerate(where.bar.events, start=where.event_index):
        if event.grace:
            graces.append((written, event))
            continue
        length = event.quarters
        if graces:
            share = min(GRACE_QUARTERS, length / (2 * len(graces)))
            for step, (place, grace) in enumerate(graces):
                date(place, grace, at + step * share, share)
            taken = share * len(graces)
            graces.clear()
            date(written, event, at + taken, length - taken)
        else:
            date(written, event, at, length)
        at += length


def total_played(riff: Riff) -> Fraction:
    """Length of the whole riff, repeats included, counted as `TimedEvent.played`."""
    return sum((one.bar.quarters * one.pace for one in bars_in_time(riff)), Fraction(0))


def total_quarters(riff: Riff) -> Fraction:
    """Length of the whole riff, repeats included, in quarter notes.

    Examples
    --------
    >>> from dromic.formats.rifftext.reader import read_riff_text
    >>> riff = read_riff_text("| 5:5/8 5:7 4:5 4:7 r/2 |").riff
    >>> total_quarters(riff)
    Fraction(4, 1)
    """
    return sum(
        (bar.quarters * phrase.times for phrase in riff.phrases for bar in phrase.bars),
        Fraction(0),
    )
