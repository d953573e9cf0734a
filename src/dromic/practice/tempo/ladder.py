"""The tempo ladder: from a tempo at which nothing goes wrong, in small steps, to the goal.

Slow, clean rounds first and small steps up are common practice, no source; so are the shares and counts here.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from dromic.planner.plan import Plan

START_SHARE = 0.6
STEPS_UP = 8
USUAL_ROUNDS = 4
SLOWEST = 20


@dataclass(frozen=True)
class Ladder:
    """A way up.

    Parameters
    ----------
    start, goal : int
        Tempo in quarter notes a minute.
    step : int
        By how much each tempo is faster than the one before; the last step may be smaller.
    rounds : int
        How often each tempo is played.
    ceiling : float or None
        Where the model sees the limit; None where nothing moves.
    """

    start: int
    goal: int
    step: int
    rounds: int = USUAL_ROUNDS
    ceiling: float | None = None


@dataclass(frozen=True)
class Range:
    """Steps of a plan from one to another, both included."""

    first: int
    last: int


def range_ceiling(plan: Plan, chosen: Range) -> float | None:
    """Highest tempo that the movements inside a range allow; None when nothing moves.

    Parameters
    ----------
    plan : Plan
    chosen : Range
    """
    inside = (plan.event_of_step(step).loads.largest for step in range(chosen.first + 1, chosen.last + 1))
    largest = max(inside, default=0.0)
    return plan.tempo / largest if largest else None


def ladder_for(plan: Plan, chosen: Range, target: float) -> Ladder:
    """Propose a ladder up to the target; the range's ceiling is told beside it, and caps nothing.

    Parameters
    ----------
    plan : Plan
    chosen : Range
    target : float
        The tempo that the player wants to reach, quarter notes a minute.
    """
    goal = max(round(target), SLOWEST)
    start = max(round(goal * START_SHARE), SLOWEST)
    return Ladder(start, goal, max(round((goal - start) / STEPS_UP), 1), ceiling=range_ceiling(plan, chosen))


def round_of(plan: Plan, chosen: Range) -> tuple[Fraction, Fraction]:
    """Where a round of a range begins and ends: at beats, with time to breathe after the last note.

    Parameters
    ----------
    plan : Plan
    chosen : Range

    Returns
    -------
    tuple of Fraction
        Quarter notes from the start of the riff; the end may lie beyond the riff's.
    """
    first, last = (plan.task.steps[step].moment for step in (chosen.first, chosen.last))
    beat = first.meter.beat
    start = first.onset - (first.beat - 1) % beat
    whole = -(-(last.onset + last.duration - start) // beat)
    # The count of beats is even, so that strong beats stay strong from one round to the next.
    return start, start + (whole + whole % 2) * beat


def around(plan: Plan, step: int) -> Range:
    """Propose a range around a step: from the beat before its own to the end of its own."""
    moment = plan.task.steps[step].moment
    beat = moment.meter.beat
    own = moment.onset - (moment.beat - 1) % beat
    steps = [
        number for number, other in enumerate(plan.task.steps) if own - beat <= other.moment.onset < own + beat
    ]
    return Range(min(steps), max(steps))


def place_words(plan: Plan, chosen: Range) -> str:
    """A range in words."""
    first, last = (plan.task.steps[step].moment.place_words for step in (chosen.first, chosen.last))
    return first if first == last else f"{first} to {last}"
