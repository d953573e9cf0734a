"""How fast a take begins: the tempo at which its first moments make most sense as the riff.

The same prices as in the alignment, for many tempi at a time and without restarts: times between notes are compared
with the riff's at every tempo, and the best sum tells which it is.
"""

from __future__ import annotations

import numpy as np

from dromic.arrays import Floats
from dromic.listening.hearing.alignment import (
    LARGEST_TIME_PRICE,
    LATER_PRICE,
    SPREAD_S,
    SPREAD_SHARE,
    AlignmentCosts,
    Moments,
)
from dromic.listening.hearing.expected import Expected

SLOWEST, FASTEST, STEP = 0.3, 3.2, 1.07
FIRST_MOMENTS, FIRST_S, FIRST_NOTES = 40, 16.0, 48
BACK_MOMENTS, MOST_SKIPPED = 8, 2
NEARER_THE_PLAN = 1.5


def starting_quarter(moments: Moments, expected: Expected) -> float:
    """How long a quarter note lasts at the beginning of a take, in seconds.

    Parameters
    ----------
    moments : Moments
        At least one.
    expected : Expected

    Notes
    -----
    Of tempi that explain the take equally well, the one nearer to the plan's is taken.
    """
    count = min(FIRST_MOMENTS, int(np.searchsorted(moments.times, moments.times[0] + FIRST_S)))
    few = Moments(moments.times[:count], moments.strengths[:count], moments.fits[:count])
    prices = AlignmentCosts.of(few, expected)
    planned = 60.0 / expected.tempo
    steps = np.arange(np.ceil(np.log(SLOWEST) / np.log(STEP)), np.log(FASTEST) / np.log(STEP))
    ratios = STEP**steps
    # The first notes are enough, but a short riff comes round again within the first moments.
    notes = min(FIRST_NOTES, len(expected.notes))
    comes_round = notes == len(expected.notes)
    best = _best_sums(few, expected, prices, planned / ratios, notes, comes_round)
    return float(planned / ratios[int(np.argmax(best - NEARER_THE_PLAN * np.abs(np.log2(ratios))))])


def _best_sums(
    moments: Moments, expected: Expected, prices: AlignmentCosts, quarters: Floats, notes: int, comes_round: bool
) -> Floats:
    """The best sum at each tempo, shape (tempi,)."""
    here = np.arange(notes)
    skips = np.arange(MOST_SKIPPED + 1)[:, None]
    previous = here[None, :] - 1 - skips
    wraps = previous < 0
    beats = expected.beats[:notes]
    apart = beats[None, :] - beats[previous % notes] + wraps * expected.length
    closed = np.where(wraps & (not comes_round), np.inf, 0.0)
    previous = previous % notes
    missed = prices.missed[:notes]
    skipped = np.stack(
        [
            sum((missed[(here - 1 - at) % notes] for at in range(skip)), 0.0 * missed)
            for skip in range(MOST_SKIPPED + 1)
        ]
    )
    due = apart[None] * quarters[:, None, None]
    spread = SPREAD_S + SPREAD_SHARE * due
    scale = np.log(spread / SPREAD_S) + skipped[None] + closed[None]
    entry = np.full(notes, -np.inf)
    for note, price in zip(prices.entries.notes, prices.entries.prices, strict=True):
        if note < notes:
            entry[note] = -price
    count = len(moments.times)
    score = np.full((count, len(quarters), notes), -np.inf)
    for at in range(count):
        best = np.broadcast_to(entry - prices.outside(at), (len(quarters), notes)).copy()
        for back in range(max(0, at - BACK_MOMENTS), at):
            off = (moments.times[at] - moments.times[back] - due) / spread
            price = 0.5 * off * off
            far = LARGEST_TIME_PRICE + LATER_PRICE * np.log1p(np.maximum(off, 0.0))
            price = np.where(off > 0, np.minimum(price, far), price)
            between = prices.before[at] - prices.before[back + 1]
            np.maximum(best, (score[back][:, previous] - price - scale).max(1) - between, out=best)
        score[at] = best + prices.gain[at, :notes]
    left = np.array([prices.outside_after(at) for at in range(count)])
    return np.asarray((score.max(2) - left[:, None]).max(0))
