"""Six factors of a player's speed, fitted from what was clean at which tempo and what was not.

Each drill of the log says something of the tempo at which it is clean one time in two: everything clean says that
it lies above, nothing clean that it lies below (censored observations), a mixture brackets it. The model says what
that tempo would be for any six factors, give or take `MODEL_SD` a drill. Before anything is known the logarithms of
the factors are spread by `OWN_SD` each and `COMMON_SD` all together, for who is quick is mostly quick at
everything. The posterior is drawn by elliptical slice sampling, which has nothing to tune.

References
----------
Murray, Adams and MacKay 2010, Elliptical slice sampling, AISTATS.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dromic.arrays import Floats
from dromic.hands.factors import FACTORS, Factor
from dromic.planner.plan import Plan
from dromic.practice.log.history import History
from dromic.practice.log.logbook import Clean, Rep
from dromic.practice.log.movement_times import MovementTimes, movement_times
from dromic.practice.log.progress import answer_at, drills_of
from dromic.practice.movement import movement_and_gap, riff_hash

OWN_SD, COMMON_SD, MODEL_SD = 0.15, 0.2, 0.06
GRID = np.linspace(np.log(20.0), np.log(480.0), 320)
DRAWS, BURN_IN = 800, 150
LEAST_REPS = 12
SHARPNESS = (0.03, 0.045, 0.065, 0.09, 0.13, 0.18)
WORTH, NINETY = 0.04, (0.05, 0.95)
MOST_DRILLS = 80


@dataclass(frozen=True)
class Told:
    """What the log says of one factor.

    Parameters
    ----------
    factor : Factor
    value, low, high : float
        The time it takes over the time that was planned with: the median and the 90 % interval.
    give_or_take : float
        Half of the interval that holds it with a probability of two thirds.
    """

    factor: Factor
    value: float
    low: float
    high: float
    give_or_take: float

    @property
    def known(self) -> bool:
        """Whether the log says more of it than was thought before."""
        return self.give_or_take < 0.75 * float(np.hypot(OWN_SD, COMMON_SD)) * self.value

    @property
    def differs(self) -> bool:
        """Whether it is not what was planned with, by more than its uncertainty."""
        return self.known and abs(np.log(self.value)) > max(WORTH, self.give_or_take / self.value)


@dataclass(frozen=True)
class SixFactors:
    """What is known of the six factors.

    Parameters
    ----------
    draws : ndarray, shape (draws, factors)
        Of their posterior.
    reps, drills : int
        What it rests on.
    """

    draws: Floats
    reps: int
    drills: int

    @cached_property
    def told(self) -> tuple[Told, ...]:
        """One a factor, in their order."""
        found = []
        for at, factor in enumerate(FACTORS):
            own = self.draws[:, at]
            low, high = np.quantile(own, NINETY)
            inner = np.quantile(own, (1 / 6, 5 / 6))
            found.append(
                Told(factor, float(np.median(own)), float(low), float(high), float(inner[1] - inner[0]) / 2)
            )
        return tuple(found)

    def ceiling(self, plan: Plan) -> tuple[float, float, float]:
        """The tempo at which a plan has no time left, by these factors: 5 %, median, 95 %."""
        times = movement_times(plan)
        values = [float(times.ceilings(draw).min()) for draw in self.draws[::4]]
        low, middle, high = np.quantile(values, (0.05, 0.5, 0.95))
        return float(low), float(middle), float(high)

    def tells_most(self, plan: Plan) -> tuple[int, Factor] | None:
        """The movement of a plan whose drill would tell most, by its step, and of which factor it would.

        Where its ceiling is least certain, an answer says most. None for a plan without movements.
        """
        times = movement_times(plan)
        whole = [at for at, key in enumerate(times.keys) if not key.startswith(".") and not key.endswith("..")]
        if not whole:
            return None
        own = times.taken(whole, [float(times.quarters[at]) for at in whole])
        logs = np.log(np.array([own.ceilings(draw) for draw in self.draws[::4]]))
        spread = logs.std(0)
        best = int(spread.argmax())
        parts = np.maximum(own.picking[best], own.fretting[best]) + own.meeting[best]
        share = parts * np.log(self.draws).std(0)
        return best + 1, FACTORS[int(share.argmax())]


def six_factors(plans: Sequence[Plan], history: History, seed: int = 0) -> SixFactors | None:
    """Fit the six factors; None where the log says too little of the movements of these plans.

    Parameters
    ----------
    plans : sequence of Plan
        Made with the same hands; only drills whose movements all occur in them count.
    history : History
    seed : int
    """
    known = _Known(plans)
    drills: list[MovementTimes] = []
    tables: list[Floats] = []
    reps = 0
    for group in drills_of(rep for rep in history.reps if rep.density == 1):
        times = known.times_of(group[0])
        if times is None:
            continue
        drills.append(times)
        tables.append(_table(group, history))
        reps += len(group)
    if reps < LEAST_REPS:
        return None
    drills, tables = drills[-MOST_DRILLS:], tables[-MOST_DRILLS:]
    return SixFactors(np.exp(_drawn(_Likelihood(drills, tables), seed)), reps, len(drills))


class _Known:
    """Movements of some plans, found by name: first in the plan of the riff that was played, then in the others."""

    def __init__(self, plans: Sequence[Plan]) -> None:
        self.riffs = [riff_hash(plan.riff) for plan in plans]
        self.times = [movement_times(plan) for plan in plans]
        self.rows: list[dict[str, list[int]]] = []
        for times in self.times:
            found: dict[str, list[int]] = defaultdict(list)
            for row, key in enumerate(times.keys):
                found[key].append(row)
            self.rows.append(found)

    def times_of(self, rep: Rep) -> MovementTimes | None:
        """What a drill's movements take; None where one of them is not known."""
        order = sorted(range(len(self.times)), key=lambda number: self.riffs[number] != rep.riff)
        parts: list[MovementTimes] = []
        for key in rep.movement_keys:
            movement, gap = movement_and_gap(key)
            number = next((one for one in order if movement in self.rows[one]), None)
            if number is None:
                return None
            rows = self.rows[number][movement]
            # A movement of one name may lie in several places, where the frets are wider or narrower: their mean.
            parts.append(self.times[number].taken(rows, [gap] * len(rows)).mean())
        if not parts:
            return None
        # Loads are put to one tempo, so that plans of several can stand together.
        tempo = parts[0].tempo
        picking, fretting, meeting = (
            np.concatenate([getattr(part, name) * (tempo / part.tempo) for part in parts])
            for name in ("picking", "fretting", "meeting")
        )
        keys = tuple(part.keys[0] for part in parts)
        return MovementTimes(
            keys, picking, fretting, meeting, np.array([part.quarters[0] for part in parts]), tempo
        )


def _table(group: Sequence[Rep], history: History) -> Floats:
    """Log-likelihood of a drill, shape (edges, grid), for every tempo at which the model puts its edge."""
    answers = [answer_at(rep, history.now) for rep in group]
    tempi = np.log([answer.tempo for answer in answers])
    clean = np.array([rep.clean is Clean.CLEAN for rep in group])
    weights = np.array([answer.weight for answer in answers])
    logs = []
    for edge in SHARPNESS:
        up = (GRID[:, None] - tempi[None, :]) / edge
        told = np.where(clean, -np.logaddexp(0.0, -up), -np.logaddexp(0.0, up))
        logs.append(told @ weights)
    # The model is not exact: the real edge lies about where it says.
    step = float(GRID[1] - GRID[0])
    reach = np.arange(-round(4 * MODEL_SD / step), round(4 * MODEL_SD / step) + 1) * step
    blur = np.exp(-0.5 * (reach / MODEL_SD) ** 2)
    found = []
    for log in logs:
        padded = np.pad(np.exp(log - log.max()), len(reach) // 2, mode="edge")
        blurred = np.convolve(padded, blur / blur.sum(), "valid")
        found.append(np.log(np.maximum(blurred, 1e-12)) + log.max())
    return np.array(found)


class _Likelihood:
    """The log-likelihood of all drills for logarithms of the six factors."""

    def __init__(self, drills: Sequence[MovementTimes], tables: Sequence[Floats]) -> None:
        self.picking, self.fretting, self.meeting = (
            np.concatenate([getattr(drill, name) for drill in drills])
            for name in ("picking", "fretting", "meeting")
        )
        counts = [len(drill.keys) for drill in drills]
        self.starts = np.concatenate([[0], np.cumsum(counts)[:-1]])
        self.tempi = np.log([drill.tempo for drill in drills])
        self.tables = np.array(tables).transpose(1, 0, 2)
        self.rows = np.arange(len(drills))

    def __call__(self, logs: Floats) -> float:
        factors = np.exp(logs)
        load = np.maximum(self.picking @ factors, self.fretting @ factors) + self.meeting @ factors
        hardest = np.maximum.reduceat(np.maximum(load, 1e-9), self.starts)
        place = (self.tempi - np.log(hardest) - GRID[0]) / (GRID[1] - GRID[0])
        place = np.clip(place, 0.0, len(GRID) - 1.001)
        low = place.astype(int)
        part = place - low
        own = self.tables[:, self.rows, low] * (1 - part) + self.tables[:, self.rows, low + 1] * part
        # How sharp the edge is, is the player's own, the same for all drills, and unknown.
        sums = own.sum(1)
        return float(np.logaddexp.reduce(sums))


def _drawn(likelihood: _Likelihood, seed: int) -> Floats:
    """Draws of the posterior, shape (draws, factors), in logarithms."""
    chance = np.random.default_rng(seed)
    count = len(FACTORS)

    def prior() -> Floats:
        return np.asarray(OWN_SD * chance.standard_normal(count) + COMMON_SD * chance.standard_normal())

    here = np.zeros(count)
    now = likelihood(here)
    drawn = np.empty((DRAWS, count))
    for number in range(-BURN_IN, DRAWS):
        other = prior()
        least = now + np.log(chance.random())
        angle = chance.uniform(0.0, 2 * np.pi)
        low, high = angle - 2 * np.pi, angle
        while True:
            wanted = here * np.cos(angle) + other * np.sin(angle)
            value = likelihood(wanted)
            if value >= least:
                break
            low, high = (angle, high) if angle < 0 else (low, angle)
            angle = chance.uniform(low, high)
        here, now = wanted, value
        if number >= 0:
            drawn[number] = here
    return drawn
