"""Pieces of a plan put together: a growing chain, one pair of strings, the same bars of two plans in turn."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

from dromic.errors import RiffError
from dromic.music.laying import rests_of
from dromic.music.rhythm import Meter
from dromic.music.riff import Bar, Phrase, Riff
from dromic.music.timeline import total_played
from dromic.planner.locking import differing
from dromic.planner.plan import Plan
from dromic.practice.movement import movement_key
from dromic.practice.passages.excerpt import excerpt
from dromic.practice.passages.splits import chains
from dromic.practice.tempo.ladder import Range, place_words

MOST_EACH_WAY = 8


def string_pair(plan: Plan, step: int) -> Range:
    """The notes round a change of strings that stay on these two strings.

    Parameters
    ----------
    plan : Plan
    step : int
        The one after the change.

    Raises
    ------
    RiffError
        Where the way to it does not go from one string to another, or a chord is in it.

    Examples
    --------
    >>> from tests.helpers import plan, riff
    >>> string_pair(plan(riff("| 5:5/8 4:5 4:7 3:5 4:7 4:5 3:5 3:7 |")), 3)
    Range(first=1, last=7)
    """
    if not step or len({plan.states[step - 1].string, plan.states[step].string}) < 2:
        raise RiffError("nothing changes strings there; choose a note on a new string")
    pair = {plan.states[step - 1].string, plan.states[step].string}

    def on_pair(at: int) -> bool:
        state = plan.states[at]
        return len(state.notes) == 1 and state.string in pair

    if not (on_pair(step - 1) and on_pair(step)):
        raise RiffError("a chord covers more strings than a pair; choose a single note")
    first, last = step - 1, step
    while first > max(step - MOST_EACH_WAY, 0) and on_pair(first - 1):
        first -= 1
    while last < min(step + MOST_EACH_WAY, len(plan.states)) - 1 and on_pair(last + 1):
        last += 1
    return Range(first, last)


def chain(plan: Plan, chosen: Range, *, backward: bool = False) -> Riff:
    """A passage that grows by a note each time, as one riff: a phrase for every length.

    Parameters
    ----------
    plan : Plan
    chosen : Range
    backward : bool
        From its end on.

    Raises
    ------
    RiffError
        For a single note.
    """
    pieces = [excerpt(plan, one) for one in chains(chosen, backward=backward)]
    words = "backward" if backward else "forward"
    named = [(piece, f"{number} notes") for number, piece in enumerate(pieces, start=2)]
    return replace(joined(named), title=f"{plan.riff.title or 'Drill'}: {place_words(plan, chosen)}, {words}")


def seam(plan: Plan) -> tuple[Range, Riff, str]:
    """From the last beat of a riff back to its first, at the same tempo.

    Parameters
    ----------
    plan : Plan

    Returns
    -------
    tuple of (Range, Riff, str)
        The steps of the last beat, the two beats as one riff, and the movement of the seam.

    Raises
    ------
    RiffError
        For a single note.
    """
    last = len(plan.states) - 1
    if not last:
        raise RiffError("a single note has no seam; choose a longer riff")
    ends, begins = _beat_of(plan, last), _beat_of(plan, 0)
    riff = joined([(excerpt(plan, ends), "end"), (excerpt(plan, begins), "start")])
    before, after = plan.event_of_step(last), plan.event_of_step(0)
    gap = total_played(plan.riff) - before.moment.played + after.moment.played
    return ends, replace(riff, title=f"{plan.riff.title or 'Drill'}: the seam"), movement_key(before, after, gap)


def _beat_of(plan: Plan, step: int) -> Range:
    """The steps of one beat."""
    moment = plan.task.steps[step].moment
    beat = moment.meter.beat
    start = moment.onset - (moment.beat - 1) % beat
    own = [number for number, one in enumerate(plan.task.steps) if start <= one.moment.onset < start + beat]
    return Range(own[0], own[-1])


def in_turn(one: Plan, other: Plan, chosen: Range) -> Riff:
    """The same notes of two plans of a riff, one after the other.

    Parameters
    ----------
    one, other : Plan
    chosen : Range
        Steps, the same in both.

    Raises
    ------
    RiffError
        Where the plans are not of the same notes, or play these alike.
    """
    if _music(one) != _music(other):
        raise RiffError("these are plans of two different riffs; choose two of the same riff")
    if not any(chosen.first <= step <= chosen.last for step in differing(one, other)):
        raise RiffError("both plans play these notes the same way; choose others, or another plan")
    made = joined([(excerpt(one, chosen), "A"), (excerpt(other, chosen), "B")])
    return replace(made, title=f"{one.riff.title or 'Drill'}: {place_words(one, chosen)}, two plans in turn")


def _music(plan: Plan) -> list[tuple[Fraction, list[int]]]:
    """What is heard, whatever has been decided of how it is played: onsets and pitches."""
    music = []
    for step in plan.task.steps:
        event = plan.events[step.moment.index]
        music.append((step.moment.onset, sorted(note.pitch for note in event.notes)))
    return music


def joined(pieces: Sequence[tuple[Riff, str]]) -> Riff:
    """Small riffs one after the other, a phrase with a name for each.

    Parameters
    ----------
    pieces : sequence of (Riff, str)
        Of one instrument, each of one phrase.
    """
    phrases = []
    meter, pace = pieces[0][0].meter, pieces[0][0].tempo
    for riff, name in pieces:
        bars = [bar for phrase in riff.phrases for bar in phrase.bars]
        if riff.pickup:
            lead = rests_of(riff.meter.bar - riff.pickup)
            bars[0] = replace(bars[0], events=(*lead, *bars[0].events))
        begins = bars[0].meter or riff.meter
        runs = bars[0].tempo or riff.tempo
        bars[0] = replace(bars[0], meter=begins if begins != meter else None, tempo=runs if runs != pace else None)
        meter, pace = _left_at(bars, meter, pace)
        phrases.append(Phrase(tuple(bars), name, 1, riff.phrases[0].school))
    return replace(pieces[0][0], pickup=Fraction(0), phrases=tuple(phrases))


def _left_at(bars: Sequence[Bar], meter: Meter, pace: float) -> tuple[Meter, float]:
    """Metre and tempo in which bars end that begin in these."""
    for bar in bars:
        meter, pace = bar.meter or meter, bar.tempo or pace
    return meter, pace
