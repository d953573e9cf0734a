"""The beat that a player keeps: a smooth, robust curve through the onsets of a take.

Between two restarts time is a smooth function of the place in the riff. A straight line serves for few notes, a
parabola for more, and piecewise cubics for long takes, so that a tempo that drifts or is raised is followed and
single late notes are not. Whatever a steady lead or lag of the whole take is, cannot be told from its sound.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.interpolate import BSpline, make_lsq_spline

from dromic.arrays import Floats

FOR_A_LINE, FOR_A_PARABOLA, FOR_A_CUBIC = 2, 10, 40
LONG_S = 12.0
KNOT_EVERY_S = 8.0
ROUNDS_OF_WEIGHTS = 8
HUBER, TUKEY = 1.5, 4.7
LEAST_SPREAD_S = 0.002


@dataclass(frozen=True)
class TempoCurve:
    """Time as a function of the place in the riff, in seconds and quarter notes."""

    spline: BSpline

    def when(self, beats: Floats) -> Floats:
        """When these places are due, in seconds; of the shape of what is asked."""
        return np.asarray(self.spline(beats))

    def quarter_s(self, beat: float) -> float:
        """How long a quarter note lasts at a place."""
        return float(self.spline.derivative()(beat))


def tempo_curve(beats: Floats, times: Floats, quarter_s: float) -> TempoCurve:
    """The smooth curve through a run of notes.

    Parameters
    ----------
    beats : ndarray, shape (notes,)
        Places in quarter notes, in rising order.
    times : ndarray, shape (notes,)
        In seconds.
    quarter_s : float
        How long a quarter note lasts where the notes are too few to tell.
    """
    # Two notes at one place, a grace and its note, would leave the sums without an answer.
    beats = beats + np.arange(len(beats)) * 1e-9
    low, high = float(beats[0]), float(beats[-1])
    if len(beats) < FOR_A_LINE or high - low < 1e-6:
        start = float(np.median(times - quarter_s * (beats - low)))
        return TempoCurve(BSpline(np.array([low, low, low + 1, low + 1]), [start, start + quarter_s], 1))
    seconds = float(times[-1] - times[0])
    order = 1 if len(beats) < FOR_A_PARABOLA else 3 if len(beats) >= FOR_A_CUBIC and seconds > LONG_S else 2
    pieces = max(int(seconds // KNOT_EVERY_S), 1) if order == 3 else 1
    # Every piece needs notes enough of its own.
    inside = [
        float(at) for at in np.quantile(beats, np.arange(1, pieces) / pieces) if low + 1e-6 < at < high - 1e-6
    ]
    knots = np.concatenate([[low] * (order + 1), np.unique(inside), [high] * (order + 1)])
    weights = np.ones(len(beats))
    spline = _fit(beats, times, knots, order, weights)
    for turn in range(ROUNDS_OF_WEIGHTS):
        off = times - spline(beats)
        spread = max(1.4826 * float(np.median(np.abs(off - np.median(off)))), LEAST_SPREAD_S)
        if turn < ROUNDS_OF_WEIGHTS // 2:
            # What is far off now may be near when the curve has settled, so at first it only counts for less.
            weights = np.sqrt(np.minimum(1.0, HUBER * spread / np.maximum(np.abs(off), 1e-9)))
        else:
            weights = np.sqrt(np.maximum(1 - (off / (TUKEY * spread)) ** 2, 0.0) ** 2 + 1e-4)
        spline = _fit(beats, times, knots, order, weights)
    return TempoCurve(spline)


def _fit(beats: Floats, times: Floats, knots: Floats, order: int, weights: Floats) -> BSpline:
    return make_lsq_spline(beats, times, knots, order, w=weights)
