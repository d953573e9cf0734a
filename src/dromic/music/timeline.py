"""The riff in time: repeats expanded, every event with its bar, beat, onset and length.

Times are exact fractions of a quarter note from the start of the riff. A pickup is bar 0, and beats count
from 1 within the full bar. `played` is the onset bent by the swing, which is what hands have to keep to.

Grace notes fall on the beat of the note they lead to, and take their time from it: a 32nd each, but
together never more than half of it.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from dromic.music.rhythm import beat_words
from dromic.music.riff import Event, Mark, Phrase, Riff

GRACE_QUARTERS = Fraction(1, 8)


@dataclass(frozen=True)
class Moment:
    """An event in time.

    Parameters
    ----------
    index : int
        Place in the expanded riff, rests counted.
    written : int
        Place of its event in reading order (see `Riff.written_events`).
    bar : int
    beat, onset, duration, played : Fraction
        Quarter notes.
    phrase : int
        Index of the phrase it belongs to.
    take : int
        Which time round of the phrase, from 0.
    """

    index: int
    written: int
    event: Event
    bar: int
    beat: Fraction
    onset: Fraction
    duration: Fraction
    played: Fraction
    phrase: int
    take: int

    @property
    def place_words(self) -> str:
        """Where it is, in words.

        Examples
        --------
        >>> from dromic.music.rhythm import NoteValue
        >>> Moment(0, 0, Event(NoteValue(8)), 2, Fraction(5, 2), *[Fraction(0)] * 3, 0, 0).place_words
        'bar 2 beat 2½'
        """
        return f"bar {self.bar} beat {beat_words(self.beat)}"

    @property
    def tied(self) -> bool:
        """Whether the note goes on sounding from the one before."""
        return Mark.TIE in self.event.marks


@dataclass(frozen=True)
class _Raw:
    written: int
    event: Event
    onset: Fraction
    duration: Fraction
    phrase: int
    take: int


def timeline(riff: Riff) -> tuple[Moment, ...]:
    """Expand repeats and date every event.

    Parameters
    ----------
    riff : Riff

    Returns
    -------
    tuple of Moment
        In order of time; grace notes and the note they lead to follow each other.
    """
    raws: list[_Raw] = []
    onset = Fraction(0)
    written = 0
    for number, phrase in enumerate(riff.phrases):
        for take in range(phrase.times):
            onset, used = _expand(phrase, number, take, onset, written, raws)
        written += used
    return tuple(_dated(riff, index, raw) for index, raw in enumerate(raws))


def total_quarters(riff: Riff) -> Fraction:
    """Length of the whole riff, repeats included, in quarter notes."""
    return sum(
        (bar.quarters * phrase.times for phrase in riff.phrases for bar in phrase.bars),
        Fraction(0),
    )


def _expand(
    phrase: Phrase, number: int, take: int, onset: Fraction, written: int, raws: list[_Raw]
) -> tuple[Fraction, int]:
    used = 0
    graces: list[tuple[int, Event]] = []
    for bar in phrase.bars:
        for event in bar.events:
            here = written + used
            used += 1
            if event.grace:
                graces.append((here, event))
                continue
            share = min(GRACE_QUARTERS, event.quarters / (2 * len(graces))) if graces else Fraction(0)
            for step, (place, grace) in enumerate(graces):
                raws.append(_Raw(place, grace, onset + step * share, share, number, take))
            taken = share * len(graces)
            graces.clear()
            raws.append(_Raw(here, event, onset + taken, event.quarters - taken, number, take))
            onset += event.quarters
    return onset, used


def _dated(riff: Riff, index: int, raw: _Raw) -> Moment:
    length = riff.meter.bar
    since = raw.onset - riff.pickup
    bars, inside = divmod(since, length)
    bar = int(bars) + 1
    played = riff.pickup + bars * length + riff.swing.played(inside)
    return Moment(
        index,
        raw.written,
        raw.event,
        bar,
        1 + inside,
        raw.onset,
        raw.duration,
        played,
        raw.phrase,
        raw.take,
    )
