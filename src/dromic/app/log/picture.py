"""What the Log stage shows, worked out from the log in a thread. Plain Python without Qt."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date

from dromic.app.jobs import Watch
from dromic.app.log.keeper import LogKeeper
from dromic.planner.plan import Plan
from dromic.practice.log.hands_from_log import HandsOffer, hands_offer
from dromic.practice.log.history import MOST_REPS, History
from dromic.practice.log.logbook import Rep
from dromic.practice.log.progress import (
    Calibration,
    DayOf,
    best_clean,
    by_day,
    calibration,
    filled_in,
    minutes_by_day,
)
from dromic.practice.log.rates import Rates, fitted_rates
from dromic.practice.movement import riff_hash

SHOWN, CALIBRATED = 400, 3_000


@dataclass(frozen=True)
class RiffInLog:
    """A riff that was practised: its hash, title, minutes and when it was played last."""

    name: str
    title: str
    minutes: float
    last: date


@dataclass(frozen=True)
class LogPicture:
    """The log as pictures.

    Parameters
    ----------
    count : int
        Repetitions in the whole log.
    riffs : tuple of RiffInLog
        The one played last first.
    riff : str
        The one shown, by its hash; empty for all.
    days : tuple of DayOf
    minutes : dict of date to dict of str to float
        Minutes of every day by kind.
    calibration : tuple of Calibration
    progress : tuple of float or None
        For every step of the plan that is open.
    ceiling, target : float or None
        Of the plan that is open, where it is the riff that is shown.
    offer : HandsOffer or None
    rates : Rates
    last : tuple of Rep
        The last repetitions, the newest first.
    """

    count: int
    riffs: tuple[RiffInLog, ...]
    riff: str
    days: tuple[DayOf, ...]
    minutes: dict[date, dict[str, float]]
    calibration: tuple[Calibration, ...]
    progress: tuple[float | None, ...]
    ceiling: float | None
    target: float | None
    offer: HandsOffer | None
    rates: Rates
    last: tuple[Rep, ...]


def draw_up(log: LogKeeper, plan: Plan | None, target: float, riff: str, watch: Watch) -> Iterator[LogPicture]:
    """Read the log and work everything out.

    Parameters
    ----------
    log : LogKeeper
    plan : Plan or None
        Of the riff that is open.
    target : float
        The tempo that is wanted of it.
    riff : str
        Which riff to show, by its hash; empty for the open one, or for all where that was never practised.
    """
    reps = log.reps()
    watch(0.3)
    riffs = _riffs(reps)
    known = {one.name for one in riffs}
    mine = riff_hash(plan.riff) if plan is not None else ""
    shown = riff if riff in known else mine if mine in known else ""
    own = [rep for rep in reps if not shown or rep.riff == shown]
    history = History(reps[-MOST_REPS:])
    days = by_day(own[-MOST_REPS:]) if shown else ()
    watch(0.7)
    here = plan is not None and shown == mine
    picture = LogPicture(
        len(reps),
        riffs,
        shown,
        days,
        minutes_by_day(own),
        calibration(own[-CALIBRATED:]),
        filled_in(plan, best_clean(reps), target) if plan is not None else (),
        plan.ceiling if plan is not None and here else None,
        target if here else None,
        None,
        fitted_rates(history.reps),
        tuple(own[: -SHOWN - 1 : -1]),
    )
    yield picture
    # What takes longest comes last, when everything else shows.
    offer = hands_offer(plan, history) if plan is not None else None
    if offer is not None:
        watch(0.9)
        yield replace(picture, offer=offer)


def _riffs(reps: Sequence[Rep]) -> tuple[RiffInLog, ...]:
    minutes: dict[str, float] = defaultdict(float)
    last: dict[str, Rep] = {}
    for rep in reps:
        minutes[rep.riff] += rep.seconds / 60.0
        last[rep.riff] = rep
    found = [
        RiffInLog(name, rep.title.partition(":")[0] or "a riff without a title", minutes[name], rep.when.date())
        for name, rep in last.items()
    ]
    return tuple(sorted(found, key=lambda one: (one.last, one.title), reverse=True))
