"""Which drills to choose: the fewest that cover what is needed, or those that cover most in the minutes there are.

Both are solved exactly as integer programmes (SciPy's branch and bound). What taking the best next drill again and
again would give is told beside it: it never covers less than 63 % of the best (Nemhauser, Wolsey and Fisher, 1978).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass

import numpy as np

from dromic.errors import RiffError
from dromic.practice.coverage.cells import Cell

MOST_DRILLS = 400
SECONDS = 10.0


@dataclass(frozen=True)
class Cover:
    """Drills that were chosen.

    Parameters
    ----------
    drills : tuple of int
        Their numbers.
    missing : frozenset of Cell
        What is needed and in none of the drills there are.
    """

    drills: tuple[int, ...]
    missing: frozenset[Cell]


@dataclass(frozen=True)
class BestInMinutes:
    """Drills that fit into some minutes.

    Parameters
    ----------
    drills : tuple of int
    covered, greedy, all_needed : float
        Weight that they cover, that taking the best next one would cover, and that there is.
    """

    drills: tuple[int, ...]
    covered: float
    greedy: float
    all_needed: float


def smallest_cover(needed: AbstractSet[Cell], drills: Sequence[AbstractSet[Cell]]) -> Cover:
    """The fewest drills that cover everything that can be covered.

    Parameters
    ----------
    needed : set of Cell
    drills : sequence of set of Cell
        What each covers.

    Raises
    ------
    RiffError
        For more drills than can be weighed against each other.

    Examples
    --------
    >>> from dromic.practice.coverage.cells import FLIPS
    >>> smallest_cover(set(FLIPS), [{FLIPS[0]}, {FLIPS[1]}, set(FLIPS)]).drills
    (2,)
    """
    from scipy.optimize import LinearConstraint, milp

    _bounded(drills)
    coverable = frozenset(needed) & frozenset().union(*drills)
    if not coverable:
        return Cover((), frozenset(needed))
    cells = sorted(coverable)
    holds = np.array([[cell in drill for drill in drills] for cell in cells], dtype=np.float64)
    # Of covers with as few drills the one whose drills come first, so that ties break the same way every time.
    weights = 1.0 + np.arange(len(drills)) / (len(drills) * len(drills) * 4)
    found = milp(
        weights,
        constraints=LinearConstraint(holds, lb=1.0),
        integrality=np.ones(len(drills)),
        bounds=(0, 1),
        options={"time_limit": SECONDS},
    )
    if found.x is None:
        raise RiffError("no set of drills was found in ten seconds; ask for fewer kinds of movement")
    chosen = tuple(int(number) for number in np.flatnonzero(found.x > 0.5))
    return Cover(chosen, frozenset(needed) - coverable)


def best_in_minutes(
    needed: Mapping[Cell, float], drills: Sequence[AbstractSet[Cell]], minutes: Sequence[float], there_are: float
) -> BestInMinutes:
    """The drills that cover most of what is needed in the minutes there are.

    Parameters
    ----------
    needed : mapping of Cell to float
        Weights.
    drills : sequence of set of Cell
    minutes : sequence of float
        What each takes.
    there_are : float

    Raises
    ------
    RiffError
    """
    from scipy.optimize import Bounds, LinearConstraint, milp

    _bounded(drills)
    cells = sorted(cell for cell, weight in needed.items() if weight > 0)
    total = sum(needed[cell] for cell in cells)
    if not cells or not drills:
        return BestInMinutes((), 0.0, 0.0, total)
    count, kinds = len(drills), len(cells)
    holds = np.array([[cell in drill for drill in drills] for cell in cells], dtype=np.float64)
    weights = np.array([needed[cell] for cell in cells])
    # A cell counts where a drill that covers it is taken; the drills' own tiny price breaks ties.
    price = np.concatenate([np.full(count, 1e-6 * float(weights.min())), -weights])
    covered = LinearConstraint(np.hstack([holds, -np.eye(kinds)]), lb=0.0)
    time = LinearConstraint(np.concatenate([np.asarray(minutes, dtype=np.float64), np.zeros(kinds)]), ub=there_are)
    found = milp(
        price,
        constraints=[covered, time],
        integrality=np.concatenate([np.ones(count), np.zeros(kinds)]),
        bounds=Bounds(0, 1),
        options={"time_limit": SECONDS},
    )
    if found.x is None:
        raise RiffError("no choice of drills was found in ten seconds; ask for fewer kinds of movement")
    chosen = tuple(int(number) for number in np.flatnonzero(found.x[:count] > 0.5))
    return BestInMinutes(
        chosen,
        _weight(needed, drills, chosen),
        _weight(needed, drills, _greedy(needed, drills, minutes, there_are)),
        total,
    )


def _weight(needed: Mapping[Cell, float], drills: Sequence[AbstractSet[Cell]], chosen: Sequence[int]) -> float:
    covered = frozenset().union(*(drills[number] for number in chosen))
    return sum(weight for cell, weight in needed.items() if weight > 0 and cell in covered)


def _greedy(
    needed: Mapping[Cell, float], drills: Sequence[AbstractSet[Cell]], minutes: Sequence[float], there_are: float
) -> tuple[int, ...]:
    chosen: list[int] = []
    left = dict(needed)
    time = there_are
    while True:
        gains = [
            (sum(left.get(cell, 0.0) for cell in drill) / minutes[number], -number)
            for number, drill in enumerate(drills)
            if number not in chosen and minutes[number] <= time
        ]
        best = max(gains, default=(0.0, 0))
        if best[0] <= 0:
            return tuple(chosen)
        number = -best[1]
        chosen.append(number)
        time -= minutes[number]
        for cell in drills[number]:
            left.pop(cell, None)


def _bounded(drills: Sequence[AbstractSet[Cell]]) -> None:
    if len(drills) > MOST_DRILLS:
        raise RiffError(f"{len(drills)} drills are too many to choose from; at most {MOST_DRILLS}")
