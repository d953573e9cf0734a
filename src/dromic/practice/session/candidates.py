"""What may be practised in a plan: its hot spots and the joins of its phrases, with what is known of the player."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dromic.errors import RiffError
from dromic.hands.terms import LoadKind
from dromic.planner.plan import Plan
from dromic.practice.log.history import History
from dromic.practice.log.rates import Rates
from dromic.practice.movement import movement_key
from dromic.practice.passages.drill import Drill, Focus, drill_of, range_words
from dromic.practice.passages.excerpt import excerpt
from dromic.practice.passages.splits import joins
from dromic.practice.session.advice import spots_to_practise
from dromic.practice.tempo.climb import Climb
from dromic.practice.tempo.ladder import Range, around, range_ceiling
from dromic.practice.tempo.schedule import Candidate

MOST_SPOTS, MOST_JOINS = 6, 3


@dataclass(frozen=True)
class Work:
    """A passage that minutes may go to.

    Parameters
    ----------
    plan : Plan
    drill : Drill
        Both hands on it.
    hardest : int
        The step that makes it one.
    load : LoadKind
        Which hand is the trouble.
    climb : Climb
        What is known of the player on it.
    theta : float
        The tempo at which it is thought clean today, quarter notes a minute.
    growth : float
    """

    plan: Plan
    drill: Drill
    hardest: int
    load: LoadKind
    climb: Climb
    theta: float
    growth: float

    @property
    def candidate(self) -> Candidate:
        """As the schedule weighs it."""
        return Candidate(self.drill.why, self.theta, self.growth)

    @property
    def changes_strings(self) -> bool:
        """Whether the trouble is on the way from one string to another."""
        before, here = self.plan.states[self.hardest - 1], self.plan.states[self.hardest]
        return self.hardest > 0 and before.string != here.string


def works(plan: Plan, history: History, rates: Rates) -> tuple[Work, ...]:
    """Everything that is worth minutes in a plan, the hardest first, then the joins.

    Parameters
    ----------
    plan : Plan
    history : History
    rates : Rates

    Raises
    ------
    RiffError
        For a riff in which no hand has to move.
    """
    found: list[Work] = []
    taken: set[Range] = set()
    for spot in sorted(spots_to_practise(plan, MOST_SPOTS), key=lambda spot: -spot.load):
        chosen = around(plan, spot.step)
        if chosen in taken:
            # Two spots in one passage are practised together, and called by the harder.
            continue
        taken.add(chosen)
        drill = drill_of(
            plan, chosen, excerpt(plan, chosen), f"{spot.where[:1].upper()}{spot.where[1:]}: {spot.what}"
        )
        found.append(_work(plan, drill, spot.step, plan.event_of_step(spot.step).loads.kind, history, rates))
    for join in joins(plan)[:MOST_JOINS]:
        if join in taken or range_ceiling(plan, join) is None:
            continue
        inside = range(join.first + 1, join.last + 1)
        hardest = max(inside, key=lambda step: plan.event_of_step(step).loads.largest)
        why = f"{range_words(plan, join)}: one phrase goes over into the next"
        drill = drill_of(plan, join, excerpt(plan, join), why, kind="join", name="The join", focus=Focus.JOIN)
        found.append(_work(plan, drill, hardest, LoadKind.SYNC, history, rates))
    if not found:
        raise RiffError("there is nothing to practise in this riff: no hand has to move")
    return tuple(found)


def _work(plan: Plan, drill: Drill, hardest: int, load: LoadKind, history: History, rates: Rates) -> Work:
    climb = climb_of(plan, drill, hardest, history)
    idle = min((answer.days_ago for answer in climb.answers), default=0.0)
    theta = climb.clean_tempo * float(np.exp(-rates.forgetting * idle))
    return Work(plan, drill, hardest, load, climb, theta, rates.growth)


def climb_of(plan: Plan, drill: Drill, hardest: int, history: History) -> Climb:
    """What a log says of a drill, by its hardest movement; the model's ceiling stands in for what it does not say.

    Parameters
    ----------
    plan : Plan
    drill : Drill
    hardest : int
        A step of the plan.
    history : History
    """
    if not hardest:
        return Climb(drill.ceiling, goal=plan.tempo)
    key = movement_key(plan.event_of_step(hardest - 1), plan.event_of_step(hardest))
    return Climb(drill.ceiling, history.answers(key, len(drill.keys), drill.density), plan.tempo)
