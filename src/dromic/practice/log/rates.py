"""How fast practice raises a tempo, and how fast it is forgotten: assumed, until a log says it of this player.

Between two days on which a drill was practised, ``change of ln theta = growth (1 - exp(-minutes / tau)) -
forgetting x days``. What is assumed is a prior, and the fit is the most likely pair given prior and log, in closed
form; tau is left as assumed, for a log of self-marks does not tell it apart from growth.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from dromic.practice.log.history import DAY_S
from dromic.practice.log.logbook import Clean, Rep
from dromic.practice.tempo.climb import PRIOR_SD
from dromic.practice.tempo.schedule import GROWTH, TAU_MINUTES

FORGETTING_A_DAY = 0.004
GROWTH_SD, FORGETTING_SD = 0.03, 0.004
LEAST_REPS, LEAST_PAIRS = 30, 5
REACH, POINTS, USUAL_EDGE, LEAST_SD = 0.5, 80, 0.08, 0.01


@dataclass(frozen=True)
class Rates:
    """Rates of growth and forgetting.

    Parameters
    ----------
    growth : float
        What no end of minutes would raise the logarithm of a tempo by, in a day.
    forgetting : float
        What a day without practice takes from it.
    growth_sd : float
        How uncertain the growth is.
    reps : int
        Repetitions that it was fitted to; 0 where it is assumed.
    """

    growth: float = GROWTH
    forgetting: float = FORGETTING_A_DAY
    growth_sd: float = GROWTH_SD
    reps: int = 0

    @property
    def words(self) -> str:
        """Where the rates come from.

        Examples
        --------
        >>> Rates().words
        'Assumed: a day of practice on a spot raises it by at most 5 %, and a day without takes 0.4 %.'
        """
        begin = f"From {self.reps} repetitions in the log" if self.reps else "Assumed"
        growth, sd, forgetting = 100 * self.growth, 100 * self.growth_sd, 100 * self.forgetting
        sure = f" (give or take {sd:.2g})" if self.reps else ""
        return (
            f"{begin}: a day of practice on a spot raises it by at most {growth:.2g} %{sure}, and a day without "
            f"takes {forgetting:.2g} %."
        )


ASSUMED = Rates()


def fitted_rates(reps: Sequence[Rep]) -> Rates:
    """Rates from a log; the assumed ones where it says too little.

    Parameters
    ----------
    reps : sequence of Rep
    """
    marked = [rep for rep in reps if rep.clean is not Clean.UNMARKED and rep.movement_keys]
    if len(marked) < LEAST_REPS:
        return ASSUMED
    rows = [row for days in _days(marked) for row in _changes(days)]
    if len(rows) < LEAST_PAIRS:
        return ASSUMED
    grown, days, change, weight = (np.array(column) for column in zip(*rows, strict=True))
    design = np.column_stack([grown, -days])
    prior = np.diag([GROWTH_SD**-2, FORGETTING_SD**-2])
    precision = design.T @ (weight[:, None] * design) + prior
    toward = design.T @ (weight * change) + prior @ np.array([GROWTH, FORGETTING_A_DAY])
    growth, forgetting = np.linalg.solve(precision, toward)
    sd = float(np.sqrt(np.linalg.inv(precision)[0, 0]))
    return Rates(float(max(growth, 0.0)), float(max(forgetting, 0.0)), sd, len(marked))


@dataclass(frozen=True)
class _Day:
    at: float
    minutes: float
    mean: float
    variance: float


def _days(reps: Sequence[Rep]) -> list[list[_Day]]:
    """For every drill, what was shown on each day that it was practised."""
    by_drill: dict[tuple[object, ...], dict[int, list[Rep]]] = defaultdict(lambda: defaultdict(list))
    for rep in reps:
        drill = rep.riff, rep.movement_keys, rep.density
        by_drill[drill][int(rep.when.timestamp() // DAY_S)].append(rep)
    found = []
    for days in by_drill.values():
        centre = float(np.median([rep.tempo for own in days.values() for rep in own]))
        found.append([_day(at, days[at], centre) for at in sorted(days)])
    return found


def _day(at: int, reps: Sequence[Rep], centre: float) -> _Day:
    """What one day showed: mean and variance of ln theta, by the chance of being clean that climbs are made by."""
    tempi = np.log([rep.tempo for rep in reps])
    clean = np.array([rep.clean is Clean.CLEAN for rep in reps])
    thetas = np.linspace(float(tempi.min()) - REACH, float(tempi.max()) + REACH, POINTS)
    chance = 1.0 / (1.0 + np.exp(-(thetas[:, None] - tempi) / USUAL_EDGE))
    told = np.log(np.clip(np.where(clean, chance, 1.0 - chance), 1e-12, 1.0)).sum(axis=1)
    log = told - 0.5 * ((thetas - np.log(centre)) / PRIOR_SD) ** 2
    weights = np.exp(log - log.max())
    weights /= weights.sum()
    mean = float(weights @ thetas)
    variance = max(float(weights @ (thetas - mean) ** 2), LEAST_SD**2)
    return _Day(float(at), sum(rep.seconds for rep in reps) / 60.0, mean, variance)


def _changes(days: Sequence[_Day]) -> list[tuple[float, float, float, float]]:
    """Growth's share, days between, change of the logarithm, weight."""
    return [
        (
            float(1.0 - np.exp(-one.minutes / TAU_MINUTES)),
            two.at - one.at,
            two.mean - one.mean,
            1.0 / (one.variance + two.variance),
        )
        for one, two in pairwise(days)
    ]
