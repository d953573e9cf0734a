"""What a log shows: how much of a riff is clean at its tempo, how the clean tempo went, what was predicted."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

import numpy as np

from dromic.planner.plan import Plan
from dromic.practice.log.history import DAY_S, MOST_ANSWERS
from dromic.practice.log.logbook import Clean, Rep, Source
from dromic.practice.movement import movement_and_gap, movement_key
from dromic.practice.tempo.climb import FIRST_SHARE, Answer, Climb, chances_before
from dromic.practice.tempo.schedule import riff_tempo

ONE_HAND = frozenset({"picking", "fretting"})
BINS = 5
SHARE = 2 / 3
MOST_DAYS = 120


def best_clean(reps: Iterable[Rep]) -> dict[str, float]:
    """The fastest clean tempo of every movement, both hands together and as dense as the riff is.

    Parameters
    ----------
    reps : iterable of Rep

    Returns
    -------
    dict of str to float
        By movement key; quarter notes a minute.
    """
    best_clean: dict[str, float] = {}
    for rep in reps:
        if rep.clean is Clean.CLEAN and rep.density == 1 and rep.kind not in ONE_HAND:
            for key in rep.movement_keys:
                best_clean[key] = max(best_clean.get(key, 0.0), rep.tempo)
    return best_clean


def filled_in(plan: Plan, best: Mapping[str, float], target: float) -> tuple[float | None, ...]:
    """For every step, the best clean tempo of the way to it over the tempo that is wanted.

    Parameters
    ----------
    plan : Plan
    best : mapping of str to float
        From `best_clean`; the same movement in notes of another length counts at the tempo at which it is as fast.
    target : float
        Quarter notes a minute.

    Returns
    -------
    tuple of float or None
        None where nothing was clean yet; the first step, which has no way to it, is as its neighbour.
    """
    by_movement: dict[str, list[tuple[float, float]]] = defaultdict(list)
    for key, tempo in best.items():
        movement, gap = movement_and_gap(key)
        by_movement[movement].append((tempo, gap))
    found: list[float | None] = []
    for step in range(1, len(plan.states)):
        movement, gap = movement_and_gap(movement_key(plan.event_of_step(step - 1), plan.event_of_step(step)))
        speeds = [tempo * (gap / own if gap and own else 1.0) for tempo, own in by_movement.get(movement, ())]
        found.append(max(speeds) / target if speeds else None)
    return (found[0] if found else None, *found)


@dataclass(frozen=True)
class DayOf:
    """What is known of a clean tempo on a day.

    Parameters
    ----------
    day : date
    low, tempo, high : float
        Quarter notes a minute: theta lies between low and high with a probability of two thirds.
    source : Source
        Whether players' marks or takes say so.
    """

    day: date
    low: float
    tempo: float
    high: float
    source: Source


def by_day(reps: Sequence[Rep]) -> tuple[DayOf, ...]:
    """How the clean tempo of a riff went lately: of all its drills together, by day; marks and takes apart.

    Parameters
    ----------
    reps : sequence of Rep
        Of one riff.
    """
    found: list[DayOf] = []
    last = max((rep.when for rep in reps), default=None)
    since = None if last is None else last - timedelta(days=MOST_DAYS)
    for source in Source:
        own = [
            rep for rep in reps if rep.source is source and _counts(rep) and (since is None or rep.when >= since)
        ]
        groups = [[(rep.when.date(), rep) for rep in group] for group in drills_of(own)]
        for day in sorted({rep.when.date() for rep in own}):
            known = [_climb_until(group, day) for group in groups]
            climbs = [climb for climb in known if climb is not None]
            low, middle, high = (
                riff_tempo([climb.quantile(share) for climb in climbs])
                for share in ((1 - SHARE) / 2, 0.5, (1 + SHARE) / 2)
            )
            found.append(DayOf(day, low, middle, high, source))
    return tuple(found)


def _counts(rep: Rep) -> bool:
    return rep.clean is not Clean.UNMARKED and rep.density == 1 and rep.kind not in ONE_HAND


def drills_of(reps: Iterable[Rep]) -> list[list[Rep]]:
    """Repetitions in groups of one drill each."""
    groups: dict[tuple[object, ...], list[Rep]] = defaultdict(list)
    for rep in reps:
        groups[rep.riff, rep.movement_keys, rep.density].append(rep)
    return list(groups.values())


def _climb_until(reps: Sequence[tuple[date, Rep]], day: date) -> Climb | None:
    """What is known of a drill at the end of a day; None before it was practised."""
    until = [rep for own, rep in reps if own <= day][-MOST_ANSWERS:]
    if not until:
        return None
    last = max(rep.when for rep in until)
    return Climb(reps[0][1].tempo / FIRST_SHARE, tuple(answer_at(rep, last) for rep in until))


def answer_at(rep: Rep, now: datetime) -> Answer:
    """A repetition as it counts at a time."""
    return Answer(rep.tempo, rep.clean is Clean.CLEAN, max((now - rep.when).total_seconds() / DAY_S, 0.0))


def minutes_by_day(reps: Iterable[Rep]) -> dict[date, dict[str, float]]:
    """Minutes played on every day, by kind of drill."""
    found: dict[date, dict[str, float]] = defaultdict(lambda: defaultdict(float))
    for rep in reps:
        found[rep.when.date()][rep.kind] += rep.seconds / 60.0
    return {day: dict(kinds) for day, kinds in sorted(found.items())}


@dataclass(frozen=True)
class Calibration:
    """What was predicted against what came.

    Parameters
    ----------
    predicted : float
        Mean chance of being clean, as it was before these repetitions.
    came : float
        The share that was.
    count : int
    """

    predicted: float
    came: float
    count: int


def calibration(reps: Sequence[Rep]) -> tuple[Calibration, ...]:
    """Repetitions in groups by how likely they were thought to be clean beforehand.

    Parameters
    ----------
    reps : sequence of Rep
        In the order in which they were written; what a prediction is made from are those before it.
    """
    pairs: list[tuple[float, bool]] = []
    for group in drills_of(rep for rep in reps if rep.clean is not Clean.UNMARKED):
        answers = [Answer(rep.tempo, rep.clean is Clean.CLEAN) for rep in group]
        chances = chances_before(group[0].tempo / FIRST_SHARE, answers)
        pairs += [(chance, answer.clean) for chance, answer in zip(chances, answers, strict=True)]
    calibration = []
    for number in range(BINS):
        low, high = number / BINS, (number + 1) / BINS
        own = [pair for pair in pairs if low <= pair[0] < high or (number == BINS - 1 and pair[0] == 1.0)]
        if own:
            thought, came = zip(*own, strict=True)
            calibration.append(Calibration(float(np.mean(thought)), float(np.mean(came)), len(own)))
    return tuple(calibration)
