"""How much a take swings: the longer eighth of a beat against the shorter one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

LEAST_PAIRS = 6
DRAWS = 400


@dataclass(frozen=True)
class Swing:
    """The ratio of the first to the second half of a beat, with its 90 % interval.

    Parameters
    ----------
    ratio, low, high : float
        1 is straight, 2 is triplet swing.
    pairs : int
    """

    ratio: float
    low: float
    high: float
    pairs: int


def swing_of(pairs: list[tuple[float, float]], seed: int = 0) -> Swing | None:
    """The swing of pairs of notes; None for fewer than six.

    Parameters
    ----------
    pairs : list of (float, float)
        How long the first and the second half of each beat last.
    seed : int

    Examples
    --------
    >>> swing_of([(0.2, 0.1)] * 8)
    Swing(ratio=2.0, low=2.0, high=2.0, pairs=8)
    """
    if len(pairs) < LEAST_PAIRS:
        return None
    ratios = np.array([long / short for long, short in pairs])
    chance = np.random.default_rng(seed)
    drawn = np.median(chance.choice(ratios, (DRAWS, len(ratios))), axis=1)
    low, high = np.quantile(drawn, (0.05, 0.95))
    return Swing(round(float(np.median(ratios)), 3), round(float(low), 3), round(float(high), 3), len(pairs))
