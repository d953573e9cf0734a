"""What the movements of a plan take, by the six factors, so that others can be tried without planning anew."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dromic.arrays import Floats
from dromic.hands.factors import FACTOR_OF, FACTORS
from dromic.planner.plan import Plan
from dromic.planner.told.reasons import model_of, report_to
from dromic.practice.movement import movement_and_gap, movement_key, of_hand


@dataclass(frozen=True)
class MovementTimes:
    """Movements with the share of the time there is that each factor takes.

    Parameters
    ----------
    keys : tuple of str
        Names of the movements, without how long they may last.
    picking, fretting, meeting : ndarray, shape (movements, factors)
        Loads at the plan's tempo where all factors are one; the load of both hands' meeting comes on top of the
        larger one.
    quarters : ndarray, shape (movements,)
        How long each may last, in quarter notes.
    tempo : float
        The plan's.
    """

    keys: tuple[str, ...]
    picking: Floats
    fretting: Floats
    meeting: Floats
    quarters: Floats
    tempo: float

    def ceilings(self, factors: Floats) -> Floats:
        """The tempo at which each movement has no time left.

        Parameters
        ----------
        factors : ndarray, shape (factors,)

        Returns
        -------
        ndarray, shape (movements,)
            In quarter notes a minute; infinite where nothing moves.
        """
        load = np.maximum(self.picking @ factors, self.fretting @ factors) + self.meeting @ factors
        return np.asarray(self.tempo / np.maximum(load, 1e-9))

    def taken(self, rows: Sequence[int], quarters: Sequence[float]) -> MovementTimes:
        """Some of the movements, with other gaps; the tempo of each grows as its gap does."""
        at = np.array(rows, dtype=int)
        shares = np.array(
            [own / wanted if wanted else 1.0 for own, wanted in zip(self.quarters[at], quarters, strict=True)]
        )
        return MovementTimes(
            tuple(self.keys[row] for row in rows),
            self.picking[at] * shares[:, None],
            self.fretting[at] * shares[:, None],
            self.meeting[at] * shares[:, None],
            np.array([wanted or own for own, wanted in zip(self.quarters[at], quarters, strict=True)]),
            self.tempo,
        )

    def mean(self) -> MovementTimes:
        """One movement that stands for all of them."""
        return MovementTimes(
            self.keys[:1],
            self.picking.mean(0, keepdims=True),
            self.fretting.mean(0, keepdims=True),
            self.meeting.mean(0, keepdims=True),
            self.quarters[:1],
            self.tempo,
        )


def movement_times(plan: Plan) -> MovementTimes:
    """Take the movements of a plan apart, those of both hands and each hand's alone.

    Parameters
    ----------
    plan : Plan
    """
    model = model_of(plan)
    keys: list[str] = []
    quarters: list[float] = []
    rows: list[tuple[Floats, Floats, Floats]] = []
    nothing = np.zeros(len(FACTORS))
    for step in range(1, len(plan.states)):
        report = report_to(plan, step, model)
        if report is None:
            continue
        key = movement_key(plan.event_of_step(step - 1), plan.event_of_step(step))
        pick = nothing if report.pick is None else _by_factor(report.pick.times) / report.pick_gap_ms
        fret = _by_factor(report.fret.times) / report.fret_gap_ms
        meet = _by_factor(report.sync_times) / report.gap_ms
        for own, parts in (
            (key, (pick, fret, meet)),
            (of_hand(key, picking=True), (pick, nothing, nothing)),
            (of_hand(key, picking=False), (nothing, fret, nothing)),
        ):
            movement, gap = movement_and_gap(own)
            keys.append(movement)
            quarters.append(gap)
            rows.append(parts)
    picking, fretting, meeting = (
        np.array([row[at] for row in rows]).reshape(len(rows), len(FACTORS)) for at in range(3)
    )
    return MovementTimes(tuple(keys), picking, fretting, meeting, np.array(quarters), plan.tempo)


def _by_factor(times: dict[str, float]) -> Floats:
    by_factor = np.zeros(len(FACTORS))
    for key, amount in times.items():
        by_factor[FACTORS.index(FACTOR_OF[key])] += amount
    return by_factor
