"""Inverse optimisation: which weights of the model make what a player plays the cheapest, by a margin.

An example is one riff: the terms of what the player plays, and those of other ways that were cheaper, or nearly.
The weights stay near those of before, and only as many move as the examples ask for: they move by factors, and the
sum of the factors' logarithms is kept small.

References
----------
Structured learning with a margin (Taskar, Guestrin and Koller 2003; Tsochantaridis et al. 2005), softened; the
least absolute shrinkage of Tibshirani 1996; minimised by `scipy.optimize` (L-BFGS-B).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields

import numpy as np

from dromic.arrays import Floats
from dromic.hands.comfort import Comfort

SOFT = 0.01
MARGIN = 0.01
MOST_LOG = 2.5


@dataclass(frozen=True)
class Example:
    """One riff as a player plays it, against other ways.

    Parameters
    ----------
    own : ndarray, shape (weights,)
        How much of each weighed term the player's way has: its effort over its weight.
    own_rest : float
        Effort of the player's way that no weight weighs.
    others, others_rest : ndarray, shape (ways, weights) and (ways,)
        The same of the other ways.
    wrong : ndarray, shape (ways,)
        How many notes each other way plays otherwise than the player.
    """

    own: Floats
    own_rest: float
    others: Floats
    others_rest: Floats
    wrong: Floats


def weights() -> tuple[str, ...]:
    """Names of the weights that can be learned: every effort of comfort that weighs a term of its own.

    Examples
    --------
    >>> "fourth" in weights(), "calm" in weights(), "against" in weights()
    (True, False, False)
    """
    return tuple(
        entry.name
        for entry in fields(Comfort)
        if entry.metadata["unit"] == "effort" and entry.metadata["term"] and entry.name != "against"
    )


def fitted(examples: Sequence[Example], start: Floats, reluctance: float) -> Floats:
    """Find weights near those at the start under which players' ways are the cheapest by a margin.

    Parameters
    ----------
    examples : sequence of Example
    start : ndarray, shape (weights,)
        Above zero.
    reluctance : float
        What moving one weight by a factor of e costs, in effort of the margin missed.

    Returns
    -------
    ndarray, shape (weights,)

    Examples
    --------
    >>> one = Example(np.array([0.0, 1.0]), 0.0, np.array([[1.0, 0.0]]), np.zeros(1), np.ones(1))
    >>> low, high = fitted([one], np.array([0.05, 0.06]), 0.001)
    >>> bool(low > high)
    True
    """
    count = len(start)

    def objective(point: Floats) -> tuple[float, Floats]:
        up, down = point[:count], point[count:]
        now = start * np.exp(up - down)
        value, slope = reluctance * float(point.sum()), np.zeros(count)
        for example in examples:
            behind = (
                (example.own - example.others) @ now
                + example.own_rest
                - example.others_rest
                + MARGIN * example.wrong
            )
            parts = np.concatenate([[0.0], behind]) / SOFT
            highest = parts.max()
            shares = np.exp(parts - highest)
            total = shares.sum()
            value += SOFT * (highest + float(np.log(total)))
            slope += (shares[1:] / total) @ (example.own - example.others)
        by_log = slope * now
        return value, np.concatenate([by_log, -by_log]) + reluctance

    # Loaded when somebody learns: it takes a third of a second.
    from scipy.optimize import minimize

    found = minimize(
        objective, np.zeros(2 * count), jac=True, method="L-BFGS-B", bounds=[(0.0, MOST_LOG)] * (2 * count)
    )
    moved: Floats = start * np.exp(found.x[:count] - found.x[count:])
    return moved


def changed(start: Floats, now: Floats, names: Sequence[str], least: float = 1.25) -> Mapping[str, float]:
    """Weights that have moved by a factor of at least so much, by name, the farthest first.

    Parameters
    ----------
    start, now : ndarray
    names : sequence of str
    least : float

    Examples
    --------
    >>> changed(np.array([0.1, 0.2]), np.array([0.3, 0.21]), ("roll", "fourth"))
    {'roll': 3.0}
    """
    factors = {name: float(new / old) for name, old, new in zip(names, start, now, strict=True)}
    far = sorted(factors.items(), key=lambda one: -abs(np.log(one[1])))
    return {name: round(factor, 6) for name, factor in far if abs(np.log(factor)) >= np.log(least)}
