"""A range of a plan as a riff of its own: in its place in the bar, everything decided as it was planned."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from fractions import Fraction
from itertools import groupby

from dromic.music.laying import filled_up
from dromic.music.rhythm import Meter
from dromic.music.riff import LEGATO_MARKS, NO_LOCKS, Bar, Event, Mark, Phrase, Riff
from dromic.music.timeline import TimedEvent
from dromic.planner.locking import decided
from dromic.planner.plan import Plan
from dromic.planner.request import Request
from dromic.practice.tempo.ladder import Range, place_words

_FROM_BEFORE = frozenset({*LEGATO_MARKS, Mark.TIE, Mark.RELEASE})


def excerpt(plan: Plan, chosen: Range) -> Riff:
    """Return a range of a plan as a riff: bars filled with rests, strokes, fingers and hand locked.

    Parameters
    ----------
    plan : Plan
    chosen : Range

    Returns
    -------
    Riff
        Repeats are played out, so that each time round keeps its own strokes.
    """
    first, last = (plan.task.steps[step].moment.index for step in (chosen.first, chosen.last))
    moments = [event.moment for event in plan.events]
    while last + 1 < len(moments) and (moments[last + 1].tied or moments[last].event.grace):
        last += 1
    begin = next((at + 1 for at in range(first, -1, -1) if moments[at].bar != moments[first].bar), 0)
    end = next((at for at in range(last, len(moments)) if moments[at].bar != moments[last].bar), len(moments))
    inside = [
        (moment, _sounded(plan, moment.index, starts=moment.index == first))
        if first <= moment.index <= last
        else (moment, Event(moment.event.value))
        for moment in moments[begin:end]
        if first <= moment.index <= last or not moment.event.grace
    ]
    meter = moments[first].meter
    bars = tuple(_bars(inside, meter, plan.tempo))
    pickup = bars[0].quarters if moments[first].bar == 0 else Fraction(0)
    return replace(
        plan.riff,
        title=f"{plan.riff.title or 'Drill'}: {place_words(plan, chosen)}",
        section="drill",
        tempo=plan.tempo,
        meter=meter,
        pickup=pickup,
        comments=(),
        tail=(),
        phrases=(_phrase(plan, moments[first].phrase, bars),),
    )


def request_like(plan: Plan) -> Request:
    """How a small riff is planned that was taken out of a plan: by the same hands, school and style.

    Parameters
    ----------
    plan : Plan
    """
    return Request(plan.hands, plan.school, plan.objective, style=plan.sound.style)


def _phrase(plan: Plan, phrase: int, bars: tuple[Bar, ...]) -> Phrase:
    """One phrase of the bars, by the school of the one it begins in."""
    old = plan.riff.phrases[phrase]
    return Phrase(bars, old.name, 1, old.school) if old.school else Phrase(bars)


def _bars(events: Iterable[tuple[TimedEvent, Event]], meter: Meter, tempo: float) -> Iterable[Bar]:
    """Bars of the metre; one that is short, as the last after a pickup may be, is filled with rests."""
    pace = Fraction(1)
    for number, group in groupby(events, key=lambda one: one[0].bar):
        rows = list(group)
        own, current = [event for _, event in rows], rows[0][0].meter
        missing = current.bar - sum((event.quarters for event in own), Fraction(0))
        if missing > 0 and number:
            own += filled_up(own, missing)
        faster = None if rows[0][0].pace == pace else round(tempo / float(rows[0][0].pace), 4)
        yield Bar(tuple(own), meter=current if current != meter else None, tempo=faster)
        meter, pace = current, rows[0][0].pace


def _sounded(plan: Plan, index: int, *, starts: bool) -> Event:
    """An event inside the range, as it was planned."""
    planned = plan.events[index]
    event = planned.moment.event
    if planned.step is not None:
        event = decided(plan, planned.step)
    elif planned.moment.tied:
        # It goes on at the place that the note before it was given.
        struck = next(one for one in reversed(plan.events[:index]) if one.step is not None)
        assert struck.step is not None
        notes = decided(plan, struck.step).notes
        event = replace(event, notes=tuple(replace(note, locks=NO_LOCKS, marks=frozenset()) for note in notes))
    # What leads into the first note from before is not there any more.
    return replace(event, marks=event.marks - _FROM_BEFORE) if starts else event
