"""How the minutes of a session are shared out: where they raise most the tempo at which the whole riff is clean.

The riff's clean tempo is taken as a soft minimum of those of its drills, ``(sum of theta^-p)^(-1/p)``: the
slowest counts most, and two slow ones are worse than one. With p the inverse of how sharp the edge of being clean
usually is (see `dromic.practice.tempo.climb`), that is near the tempo at which all are clean one time in two. m
minutes on a drill raise its theta by ``growth (1 - exp(-m / tau))`` in the logarithm: the first minutes give most.
Both are assumptions, and shown as such; growth is fitted where a player has records (`dromic.practice.log.rates`).
Because the soft minimum is a sum over drills, the best shares are found exactly, minute by minute; of several
riffs the product of their tempi counts, so that a per cent is worth the same in each.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dromic.arrays import Floats, Ints
from dromic.errors import RiffError

SOFTNESS = 1.0 / 0.08
GROWTH, TAU_MINUTES = 0.05, 5.0
LEAST_BLOCK, MOST_BLOCK = 3, 8
SHORTEST, LONGEST = 5, 180
WARM_UP_MINUTES, WARM_UP_SHARE = 4, 0.6
BREAK_AFTER, BREAK_MINUTES = 10, 1
MOST_DRILLS = 40


@dataclass(frozen=True)
class Candidate:
    """A drill that minutes may go to.

    Parameters
    ----------
    name : str
    theta : float
        The tempo at which it is clean now, as far as is known, quarter notes a minute.
    growth : float
        What no end of minutes would raise its logarithm by, today.
    """

    name: str
    theta: float
    growth: float = GROWTH

    def after(self, minutes: int) -> float:
        """The tempo at which it is clean after some minutes."""
        return float(self.theta * np.exp(self.growth * (1.0 - np.exp(-minutes / TAU_MINUTES))))


def riff_tempo(thetas: Sequence[float]) -> float:
    """The tempo at which a riff is clean whose drills are clean at these.

    Examples
    --------
    >>> round(riff_tempo([100.0]), 6), riff_tempo([100.0, 100.0]) < 100 < riff_tempo([101.0, 400.0])
    (100.0, True)
    """
    found = np.asarray(thetas)
    least = float(found.min())
    total = float(((found / least) ** -SOFTNESS).sum())
    return least * float(np.power(total, -1.0 / SOFTNESS))


def shared_out(candidates: Sequence[Candidate], minutes: int) -> tuple[int, ...]:
    """Minutes for each drill of a riff, none or a block's length, so that its clean tempo is highest afterwards.

    Parameters
    ----------
    candidates : sequence of Candidate
    minutes : int
        What is there for drills.

    Returns
    -------
    tuple of int
        Of shares that do equally well, those that take fewer minutes of the later drills.

    Raises
    ------
    RiffError
        Where there is no drill, or more than can be weighed.
    """
    return shared_among([candidates], minutes)[0]


def shared_among(riffs: Sequence[Sequence[Candidate]], minutes: int) -> tuple[tuple[int, ...], ...]:
    """Minutes for each drill of several riffs, so that the product of their clean tempi is highest afterwards.

    Parameters
    ----------
    riffs : sequence of sequence of Candidate
        The drills of each riff.
    minutes : int
        What is there for drills.

    Raises
    ------
    RiffError
        Where a riff has no drill, or there are more than can be weighed.
    """
    if not riffs or not all(riffs):
        raise RiffError("there is nothing to practise in this riff: no hand has to move")
    if sum(map(len, riffs)) > MOST_DRILLS:
        raise RiffError(f"{sum(map(len, riffs))} drills are too many for one session; choose {MOST_DRILLS} at most")
    tables = [_best_for(candidates, minutes) for candidates in riffs]
    best: Floats = np.zeros(minutes + 1)
    taken = np.zeros((len(riffs), minutes + 1), dtype=np.int64)
    for number, (slowness, _) in enumerate(tables):
        # The logarithm of the slowness stands for that of the tempo.
        worth = np.log(slowness)
        after = np.full(minutes + 1, np.inf)
        for own in range(minutes + 1):
            total = best[: minutes + 1 - own] + worth[own]
            better = total < after[own:] - 1e-15
            after[own:][better] = total[better]
            taken[number, own:][better] = own
        best = after
    left = int(np.argmin(best))
    found: list[tuple[int, ...]] = []
    for number in reversed(range(len(riffs))):
        own = int(taken[number, left])
        found.append(_shares(tables[number][1], own))
        left -= own
    return tuple(reversed(found))


def _best_for(candidates: Sequence[Candidate], minutes: int) -> tuple[Floats, Ints]:
    """For every number of minutes the least sum of theta^-p over a riff's drills, and each drill's share of it."""
    blocks = (0, *range(LEAST_BLOCK, MOST_BLOCK + 1))
    scale = min(candidate.theta for candidate in candidates)
    best: Floats = np.zeros(minutes + 1)
    chosen: Ints = np.zeros((len(candidates), minutes + 1), dtype=np.int64)
    for number, one in enumerate(candidates):
        after = np.full(minutes + 1, np.inf)
        for block in blocks:
            if block > minutes:
                continue
            rest = best[: minutes + 1 - block] + (one.after(block) / scale) ** -SOFTNESS
            better = rest < after[block:] - 1e-15
            after[block:][better] = rest[better]
            chosen[number, block:][better] = block
        best = after
    return best, chosen


def _shares(chosen: Ints, minutes: int) -> tuple[int, ...]:
    found = []
    for number in reversed(range(len(chosen))):
        found.append(int(chosen[number, minutes]))
        minutes -= found[-1]
    return tuple(reversed(found))


@dataclass(frozen=True)
class Frame:
    """How a session is laid out round its drills.

    Parameters
    ----------
    warm_up, drilling, breaks : int
        Minutes.
    """

    warm_up: int
    drilling: int
    breaks: int


def frame_of(minutes: int) -> Frame:
    """Share a session's minutes between warm-up, drills and breaks.

    Parameters
    ----------
    minutes : int

    Raises
    ------
    RiffError
        For too few or too many.

    Examples
    --------
    >>> frame_of(30), frame_of(8)
    (Frame(warm_up=4, drilling=24, breaks=2), Frame(warm_up=2, drilling=6, breaks=0))
    """
    if not SHORTEST <= minutes <= LONGEST:
        raise RiffError(
            f"found {minutes} minutes, expected {SHORTEST} to {LONGEST}; rather practise short and often"
        )
    warm_up = min(WARM_UP_MINUTES, max(minutes // 4, 1))
    # A break after every ten minutes of playing, and none at the end.
    breaks = (minutes - warm_up - 1) // (BREAK_AFTER + BREAK_MINUTES) * BREAK_MINUTES
    return Frame(warm_up, minutes - warm_up - breaks, breaks)
