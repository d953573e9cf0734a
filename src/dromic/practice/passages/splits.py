"""A passage taken apart: one hand alone, a note more each time, the join of two phrases.

What a hand does in a split is what it does in the plan; the other hand has nothing to do. What cannot be played
so is left out as a rest, and told.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import groupby, pairwise

from dromic.errors import RiffError
from dromic.music.riff import NO_LOCKS, STRUCK_MARKS, UNPICKED_MARKS, Event, Locks, Mark, Note, Place, Riff, Stroke
from dromic.planner.plan import Plan
from dromic.practice.passages.excerpt import excerpt
from dromic.practice.tempo.ladder import Range

# Marks that the picking hand makes.
_OF_THE_PICK = frozenset({Mark.ACCENT, Mark.RAKE, Mark.STACCATO})
# Marks that are left of a note that is hammered on instead of struck.
_KEPT_WHEN_HAMMERED = frozenset({Mark.VIBRATO, Mark.TRILL_HALF, Mark.TRILL_WHOLE, Mark.SLIDE_OFF, Mark.STACCATO})


@dataclass(frozen=True)
class Split:
    """A passage as one hand plays it.

    Parameters
    ----------
    kind : str
        ``picking`` or ``fretting``.
    riff : Riff
    left_out : tuple of str
        What this hand alone cannot sound, and why, a sentence each.
    """

    kind: str
    riff: Riff
    left_out: tuple[str, ...] = ()


def picking_alone(plan: Plan, chosen: Range, *, open_strings: bool = False) -> Split:
    """The strokes of a passage on damped strings, or on open ones; what is not picked is a rest.

    Parameters
    ----------
    plan : Plan
    chosen : Range
    open_strings : bool

    Raises
    ------
    RiffError
        When nothing is picked there.
    """

    def damped(event: Event) -> Event | None:
        stroke = event.locks.stroke
        if event.rest or stroke in (None, Stroke.NONE) or _reached(event):
            return None if event.grace else Event(event.value)
        notes = tuple(Note(Place(place_of(note).string, 0)) for note in event.notes)
        marks = event.marks.union(*(note.marks for note in event.notes)) & (_OF_THE_PICK | {Mark.GRACE})
        damp = frozenset() if open_strings else {Mark.DEAD}
        return Event(event.value, notes, marks | damp, Locks(stroke=stroke))

    riff = changed(excerpt(plan, chosen), damped)
    return _one_hand("picking", riff, "nothing is picked in this passage; choose another")


def counts_by_string(riff: Riff) -> tuple[tuple[int, int], ...]:
    """How many strokes fall on each string in turn: pairs of string and count; chords count by their thickest.

    Examples
    --------
    >>> from dromic.formats.rifftext.reader import read_riff_text
    >>> counts_by_string(read_riff_text("| 3:0.x/8 3:0.x 3:0.x 2:0.x 2:0.x 3:0.x r/4 |").riff)
    ((3, 3), (2, 2), (3, 1))
    """
    strings = [max(place_of(note).string for note in event.notes) for event in riff.written_events() if event.notes]
    return tuple((string, len(list(some))) for string, some in groupby(strings))


def fretting_alone(plan: Plan, chosen: Range) -> Split:
    """A passage with no stroke: every note hammered on, from nowhere too, or pulled off.

    Parameters
    ----------
    plan : Plan
    chosen : Range

    Raises
    ------
    RiffError
        When nothing can be sounded so.
    """
    left_out: dict[str, None] = {}
    sounds: Event | None = None

    def hammered(event: Event) -> Event | None:
        nonlocal sounds
        if event.rest:
            sounds = None
            return event
        if Mark.TIE in event.marks and sounds is not None:
            return replace(event, locks=NO_LOCKS)
        reached = _without_stroke(sounds, event)
        if not isinstance(reached, Mark):
            left_out[reached] = None
            if event.grace:
                return None
            sounds = None
            return Event(event.value)
        sounds = event
        marks = event.marks.union(event.notes[0].marks) & (_KEPT_WHEN_HAMMERED | {Mark.GRACE})
        locks = Locks(None, event.locks.finger or event.notes[0].locks.finger, event.locks.position)
        return Event(event.value, (Note(event.notes[0].target),), marks | {reached}, locks)

    riff = changed(excerpt(plan, chosen), hammered)
    empty = "no note of this passage can be sounded without a stroke; choose another"
    return _one_hand("fretting", riff, empty, tuple(left_out))


def _one_hand(hand: str, riff: Riff, empty: str, left_out: tuple[str, ...] = ()) -> Split:
    """What is left for a hand, called by its name; where that is nothing, an error that says so."""
    if not any(event.notes for event in riff.written_events()):
        raise RiffError(empty)
    return Split(hand, replace(riff, title=f"{riff.title}, {hand} hand alone"), left_out)


def _without_stroke(before: Event | None, event: Event) -> Mark | str:
    """The mark by which a note is reached without a stroke, or why it is not."""
    if len(event.notes) > 1:
        return "chords are put down in silence"
    marks = event.marks | event.notes[0].marks
    if Mark.DEAD in marks:
        return "dead notes are left out"
    if Mark.TAP in marks:
        return "taps are the other hand's, and left out"
    here, finger = place_of(event.notes[0]), event.locks.finger or 0
    if before is None or place_of(before.notes[0]).string != here.string:
        return Mark.HAMMER if here.fret else "open strings that no finger comes off are left out"
    there, was = place_of(before.notes[0]), before.locks.finger or 0
    shift = (event.locks.position or 0) - (before.locks.position or 0)
    if here.fret > there.fret and finger > was:
        return Mark.HAMMER
    if here.fret < there.fret and (finger < was or not here.fret) and not shift:
        return Mark.PULL
    if here.fret - there.fret == shift != 0 and finger == was and finger:
        return Mark.SLIDE
    if here.fret == there.fret:
        return "notes that are only struck again are left out"
    return "notes that no finger reaches on the string that sounds are left out"


def _reached(event: Event) -> bool:
    """Whether a note is reached without a stroke."""
    marks = event.marks.union(*(note.marks for note in event.notes))
    return bool(marks & set(UNPICKED_MARKS)) and not marks & STRUCK_MARKS and event.locks.stroke is None


def place_of(note: Note) -> Place:
    """Where a planned note lies."""
    if not isinstance(note.target, Place):
        raise RiffError(f"{note.target} has no place yet; plan the riff first")
    return note.target


def changed(riff: Riff, change: Callable[[Event], Event | None]) -> Riff:
    """The riff with every event changed, those that become None left out, and grace notes that lead nowhere too."""
    phrases = tuple(
        replace(
            phrase,
            bars=tuple(
                replace(bar, events=tuple(_kept([change(event) for event in bar.events]))) for bar in phrase.bars
            ),
        )
        for phrase in riff.phrases
    )
    return replace(riff, phrases=phrases)


def _kept(events: Sequence[Event | None]) -> Iterator[Event]:
    there = [event for event in events if event is not None]
    for event, following in pairwise([*there, None]):
        if event is not None and not (event.grace and (following is None or following.rest)):
            yield event


def chains(chosen: Range, *, backward: bool = False) -> tuple[Range, ...]:
    """A passage that grows by a note each time: from its first note on, or backward from its last.

    Examples
    --------
    >>> chains(Range(4, 7)), chains(Range(4, 6), backward=True)[0]
    ((Range(first=4, last=5), Range(first=4, last=6), Range(first=4, last=7)), Range(first=5, last=6))
    """
    if chosen.last <= chosen.first:
        raise RiffError("a chain needs two notes or more; choose a longer passage")
    if backward:
        return tuple(Range(first, chosen.last) for first in range(chosen.last - 1, chosen.first - 1, -1))
    return tuple(Range(chosen.first, last) for last in range(chosen.first + 1, chosen.last + 1))


def joins(plan: Plan) -> tuple[Range, ...]:
    """Where one phrase, or one time round, goes over into the next: a beat before and a beat after.

    Parameters
    ----------
    plan : Plan
    """
    steps = plan.task.steps
    found = []
    for at, (one, two) in enumerate(pairwise(steps)):
        if (one.moment.phrase, one.moment.pass_number) == (two.moment.phrase, two.moment.pass_number):
            continue
        beat = two.moment.meter.beat
        near = [
            number
            for number, step in enumerate(steps)
            if two.moment.onset - beat <= step.moment.onset < two.moment.onset + beat
        ]
        found.append(Range(min(*near, at), max(*near, at + 1)))
    return tuple(dict.fromkeys(found))
