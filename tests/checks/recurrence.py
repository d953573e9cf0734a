"""Whether the same again is played the same: pitches that are struck again, and bars that come back."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

from dromic.music.riff import Bar, Mark, Place
from dromic.planner.plan import Plan, PlannedEvent

MOVED = frozenset({Mark.HAMMER, Mark.PULL, Mark.SLIDE, Mark.TAP, Mark.TIE})


@dataclass(frozen=True)
class Recurrence:
    """How often something comes again, and how often it is then played otherwise.

    Parameters
    ----------
    again, otherwise : int
        Single notes struck again next to each other, and of these those in another place or by another finger.
    bars, other_bars : int
        Bars that come back as they were written, and of these those whose places, fingers or strokes are others.
    """

    again: int = 0
    otherwise: int = 0
    bars: int = 0
    other_bars: int = 0

    def __add__(self, other: Recurrence) -> Recurrence:
        return Recurrence(
            self.again + other.again,
            self.otherwise + other.otherwise,
            self.bars + other.bars,
            self.other_bars + other.other_bars,
        )


def recurrence_of(plan: Plan) -> Recurrence:
    """Count what comes again in a plan, and what of it is played otherwise."""
    struck = [event for event in plan.events if not event.rest]
    pairs = [(one, two) for one, two in pairwise(struck) if _again(one, two)]
    otherwise = sum(one.notes != two.notes for one, two in pairs)
    first: dict[Bar, object] = {}
    bars = other_bars = 0
    for bar, ways in _by_bar(plan):
        if bar in first:
            bars += 1
            other_bars += ways != first[bar]
        else:
            first[bar] = ways
    return Recurrence(len(pairs), otherwise, bars, other_bars)


def _again(one: PlannedEvent, two: PlannedEvent) -> bool:
    """Whether one single note is struck twice, and nobody has asked for anything else."""
    if len(one.notes) != 1 or len(two.notes) != 1 or one.notes[0].pitch != two.notes[0].pitch:
        return False
    written = [event.moment.event for event in (one, two)]
    free = all(not isinstance(event.notes[0].target, Place) for event in written)
    return free and not written[1].marks & MOVED


def _by_bar(plan: Plan) -> list[tuple[Bar, object]]:
    """Each bar as it is played, in order: what is written, and how it is played."""
    phrases = plan.riff.phrases
    bar_of = [
        (phrase, number)
        for phrase, own in enumerate(phrases)
        for number, bar in enumerate(own.bars)
        for _ in bar.events
    ]
    played: dict[tuple[int, int, int], list[object]] = {}
    for event in plan.events:
        phrase, number = bar_of[event.moment.event_index]
        notes = played.setdefault((phrase, event.moment.pass_number, number), [])
        if not event.rest:
            notes.append((event.notes, event.stroke))
    return [(phrases[phrase].bars[number], tuple(notes)) for (phrase, _, number), notes in played.items()]
