"""What clean and not clean at known tempi say of a player's hands: an offer with its evidence, never a change.

A drill whose hardest movement one hand holds back tells of that hand: where the player is clean a tenth above the
ceiling of the model, the hand takes a tenth less time than was thought. Drills are weighed by how sure their clean
tempo is, and what no drill tells of stays as it is.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from dromic.hands.profile import Hands, measures, with_measures
from dromic.hands.terms import LoadKind
from dromic.planner.plan import Plan
from dromic.practice.climb import Climb
from dromic.practice.history import History
from dromic.practice.logbook import Clean, Rep
from dromic.practice.movement import movement_and_gap, movement_key, of_hand
from dromic.practice.progress import answer_at, drills_of

PRIOR_SD, MODEL_SD = 0.2, 0.08
LEAST_REPS, LEAST_EACH = 12, 4
WORTH = 0.04
HANDS = ((LoadKind.PICK, "picking hand"), (LoadKind.FRET, "fretting hand"))


@dataclass(frozen=True)
class Evidence:
    """What the log says of one hand.

    Parameters
    ----------
    kind : LoadKind
    factor : float
        The time it takes over the time that was thought.
    give_or_take : float
        Of the factor, with a probability of two thirds.
    drills, reps : int
        What it rests on.
    """

    kind: LoadKind
    factor: float
    give_or_take: float
    drills: int
    reps: int

    @property
    def words(self) -> str:
        """The evidence in one sentence."""
        name = dict(HANDS)[self.kind]
        by = abs(1 - self.factor)
        how = "faster" if self.factor < 1 else "slower"
        return (
            f"The {name} is {100 * by:.0f} % {how} than planned with, give or take {100 * self.give_or_take:.0f} "
            f"(from {self.reps} repetitions of {self.drills} drills)."
        )


@dataclass(frozen=True)
class HandsOffer:
    """Other hands, and why.

    Parameters
    ----------
    hands : Hands
    evidence : tuple of Evidence
    """

    hands: Hands
    evidence: tuple[Evidence, ...]


def hands_offer(plan: Plan, history: History) -> HandsOffer | None:
    """Hands that suit the log better than those a plan was made with; None where it does not say enough.

    Parameters
    ----------
    plan : Plan
        What its movements load which hand with is the measure.
    history : History
    """
    ceilings = _ceilings(plan)
    found = [one for kind, _ in HANDS if (one := _evidence(kind, ceilings, history)) is not None]
    if not found:
        return None
    told = {one.kind: one.factor for one in found}
    old = measures(plan.hands)
    new = replace(
        old,
        picking=old.picking * told.get(LoadKind.PICK, 1.0),
        fretting=old.fretting * told.get(LoadKind.FRET, 1.0),
    )
    return HandsOffer(with_measures(plan.hands, new), tuple(found))


def _ceilings(plan: Plan) -> dict[str, tuple[float, LoadKind, float]]:
    """For each movement, of both hands and of one: the tempo that the model gives it, which hand, and its gap."""
    found: dict[str, tuple[float, LoadKind, float]] = {}

    def take(key: str, load: float, kind: LoadKind) -> None:
        movement, gap = movement_and_gap(key)
        if load > 0 and (movement not in found or plan.tempo / load < found[movement][0]):
            found[movement] = plan.tempo / load, kind, gap

    for step in range(1, len(plan.states)):
        before, here = plan.event_of_step(step - 1), plan.event_of_step(step)
        key = movement_key(before, here)
        take(key, here.loads.largest, here.loads.kind)
        take(of_hand(key, picking=True), here.loads.pick, LoadKind.PICK)
        take(of_hand(key, picking=False), here.loads.fret, LoadKind.FRET)
    return found


def _evidence(
    kind: LoadKind, ceilings: Mapping[str, tuple[float, LoadKind, float]], history: History
) -> Evidence | None:
    logs, weights, reps = [], [], 0
    for group in drills_of(rep for rep in history.reps if rep.density == 1):
        ceiling = _ceiling_of(group[0], kind, ceilings)
        outcomes = {rep.clean for rep in group}
        # Where everything was clean, or nothing, the log says only that the edge lies beyond.
        if ceiling is None or len(group) < LEAST_EACH or not outcomes >= {Clean.CLEAN, Clean.NOT}:
            continue
        climb = Climb(ceiling, tuple(answer_at(rep, history.now) for rep in group))
        low, high = climb.between(2 / 3)
        variance = (float(np.log(high / low)) / 2) ** 2 + MODEL_SD**2
        logs.append(float(np.log(ceiling / climb.clean_tempo)))
        weights.append(1.0 / variance)
        reps += len(group)
    if reps < LEAST_REPS:
        return None
    precision = sum(weights) + PRIOR_SD**-2
    mean = float(np.dot(weights, logs)) / precision
    sd = precision**-0.5
    if abs(mean) < max(WORTH, sd):
        return None
    factor = float(np.exp(mean))
    return Evidence(kind, factor, factor * sd, len(logs), reps)


def _ceiling_of(rep: Rep, kind: LoadKind, ceilings: Mapping[str, tuple[float, LoadKind, float]]) -> float | None:
    """The tempo at which a drill has no time left, where that is for one hand and all its movements are known."""
    least: tuple[float, LoadKind] | None = None
    for key in rep.movement_keys:
        movement, gap = movement_and_gap(key)
        if movement not in ceilings:
            return None
        tempo, own, planned_gap = ceilings[movement]
        tempo *= gap / planned_gap if gap and planned_gap else 1.0
        if least is None or tempo < least[0]:
            least = tempo, own
    return least[0] if least is not None and least[1] is kind else None
