"""Drills of the fretting hand by itself: pairs of fingers, and chords changed in silence."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise

import numpy as np

from dromic.errors import RiffError
from dromic.music.rhythm import Meter, NoteValue
from dromic.music.riff import Bar, Event, Locks, Mark, Note, Phrase, Place, Riff
from dromic.planner.locking import decided
from dromic.planner.plan import Plan
from dromic.planner.task.state import State
from dromic.practice.passages.splits import place_of
from dromic.practice.tempo.ladder import Range

PAIRS = tuple((one, two) for one in range(1, 5) for two in range(1, 5) if one != two)
"""The six pairs of fingers in both leads: the finger that comes first, first."""
NOTES_A_BAR = 8


@dataclass(frozen=True)
class FingerPair:
    """One finger after another on a string.

    Parameters
    ----------
    lead, other : int
        Fingers.
    count : int
        How often the plan hands over from the one to the other.
    load : float
        The largest load on such a way; 0 where the plan has none.
    riff : Riff
        The two in turn, where the plan's hand is when it does so.
    """

    lead: int
    other: int
    count: int
    load: float
    riff: Riff


def finger_pairs(plan: Plan) -> tuple[FingerPair, ...]:
    """All pairs of fingers in both leads, those first that the plan loads most.

    Parameters
    ----------
    plan : Plan
    """
    found = [_pair(plan, lead, other) for lead, other in PAIRS]
    return tuple(sorted(found, key=lambda one: (-one.load, -one.count, one.lead, one.other)))


def _pair(plan: Plan, lead: int, other: int) -> FingerPair:
    where = [
        step
        for step in range(1, len(plan.states))
        if _single(plan.states[step - 1]) == lead and _single(plan.states[step]) == other
    ]
    loads = {step: plan.event_of_step(step).loads.fret for step in where}
    hardest = max(where, key=lambda step: loads[step], default=None)
    usual = _usual_position(plan)
    state = plan.states[hardest] if hardest is not None else None
    position = max(state.position if state is not None else usual, 1)
    position = min(position, plan.instrument.top_fret - 3)
    string = state.string if state is not None else min(3, plan.instrument.strings)
    eighth = NoteValue(8)
    events = [
        Event(
            eighth,
            (Note(Place(string, position + finger - 1)),),
            locks=Locks(finger=finger, position=position),
        )
        for finger in (lead, other) * (NOTES_A_BAR // 2)
    ]
    riff = _drill(plan, f"fingers {lead} and {other}", events)
    return FingerPair(lead, other, len(where), max(loads.values(), default=0.0), riff)


def _single(state: State) -> int:
    return state.finger if len(state.notes) == 1 else 0


def _usual_position(plan: Plan) -> int:
    return int(np.median([state.position for state in plan.states]))


@dataclass(frozen=True)
class ChordChange:
    """From one chord to the next without a sound.

    Parameters
    ----------
    chosen : Range
        The two steps.
    travel_mm : tuple of (int, float)
        How far each finger that both need goes, along the neck and across it: finger and millimetres.
    riff : Riff
        The two chords in turn.
    """

    chosen: Range
    travel_mm: tuple[tuple[int, float], ...]
    riff: Riff

    @property
    def words(self) -> str:
        """The ways in words.

        Examples
        --------
        >>> ChordChange(Range(0, 1), ((1, 0.0), (3, 31.4)), Riff(())).words
        'finger 1 stays, finger 3 goes 31 mm'
        """
        told = [
            f"finger {finger} " + (f"goes {mm:.0f} mm" if mm >= 0.5 else "stays") for finger, mm in self.travel_mm
        ]
        return ", ".join(told) or "no finger is in both"


def chord_changes(plan: Plan) -> tuple[ChordChange, ...]:
    """Every change between two chords of a plan, once each, those with the longest ways first.

    Parameters
    ----------
    plan : Plan
    """
    found: dict[tuple[object, object], ChordChange] = {}
    for at, (one, two) in enumerate(pairwise(plan.states)):
        if min(_fretted(one), _fretted(two)) < 2 or one.notes == two.notes or (one.notes, two.notes) in found:
            continue
        chosen = Range(at, at + 1)
        found[one.notes, two.notes] = ChordChange(chosen, tuple(_ways(plan, one, two)), _changed(plan, chosen))
    return tuple(sorted(found.values(), key=lambda one: -max((mm for _, mm in one.travel_mm), default=0.0)))


def _fretted(state: State) -> int:
    return sum(fret > 0 for _, fret, _ in state.notes)


def _ways(plan: Plan, one: State, two: State) -> Iterator[tuple[int, float]]:
    """How far each finger goes that holds something in both; a barre counts by its thickest string."""
    spots, across = plan.instrument.spots, plan.instrument.neck_y

    def held(state: State) -> dict[int, tuple[float, float]]:
        at: dict[int, tuple[float, float]] = {}
        for string, fret, finger in state.notes:
            if finger:
                at.setdefault(finger, (float(spots[fret]), float(across[plan.instrument.index(string)])))
        return at

    before, after = held(one), held(two)
    for finger in sorted(before.keys() & after.keys()):
        (x, y), (to_x, to_y) = before[finger], after[finger]
        yield finger, float(np.hypot(to_x - x, to_y - y))


def _changed(plan: Plan, chosen: Range) -> Riff:
    """The two chords in turn, put down without a stroke; open strings are no work for the hand."""
    events = [event for step in (chosen.first, chosen.last) for event in _put_down(decided(plan, step))]
    return _drill(plan, "chords in silence", events)


def _put_down(event: Event) -> tuple[Event, Event]:
    fretted = tuple(Note(note.target, locks=note.locks) for note in event.notes if place_of(note).fret)
    quarter = NoteValue(4)
    return Event(quarter, fretted, frozenset({Mark.HAMMER})), Event(quarter)


def _drill(plan: Plan, words: str, events: Sequence[Event]) -> Riff:
    """A bar of four quarters on the plan's instrument."""
    return replace(
        plan.riff,
        title=f"{plan.riff.title or 'Drill'}: {words}",
        section="drill",
        tempo=plan.tempo,
        meter=Meter(),
        pickup=Fraction(0),
        comments=(),
        tail=(),
        phrases=(Phrase((Bar(tuple(events)),)),),
    )


def damper_words(plan: Plan, chosen: Range) -> str:
    """Where a damper lies while the fretting hand plays alone, so that only what it sounds is heard.

    Parameters
    ----------
    plan : Plan
    chosen : Range

    Raises
    ------
    RiffError
        Where nothing is fretted.
    """
    notes = [note for step in range(chosen.first, chosen.last + 1) for note in plan.states[step].notes]
    frets = [fret for _, fret, _ in notes if fret]
    if not frets:
        raise RiffError("nothing is fretted here; the fretting hand has nothing to do")
    if len(frets) < len(notes):
        return "No damper here: open strings are in it."
    lowest = min(frets) + plan.riff.capo
    if lowest == 1:
        return "A damper has no room here: the lowest note is at the first fret."
    return f"A damper (a cloth or a tie) lies over the strings at fret {max(lowest - 2, 1)}."
