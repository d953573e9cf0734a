"""Whether a chord is hit or raked: how long its strings take to begin, from the first to the last."""

from __future__ import annotations

import numpy as np

from dromic.arrays import Samples
from dromic.listening.hearing.harmonics import own_harmonics, tracks, window_for

TOLD_ABOVE_MS = 12.0
BEFORE_S, AFTER_S = 0.05, 0.11
HELD_FROM_S, HELD_TO_S = 0.05, 0.1
LEAST_RISE = 3.0


def chord_spread(
    samples: Samples, onset_s: float, next_s: float | None, pitches: tuple[float, ...]
) -> tuple[float, float] | None:
    """How long the strings of a chord take to begin.

    Parameters
    ----------
    samples : ndarray of float32, shape (samples,)
    onset_s : float
    next_s : float or None
        Where the next note begins.
    pitches : tuple of float
        MIDI numbers of the chord.

    Returns
    -------
    (float, float) or None
        Milliseconds and their standard error. Less than `TOLD_ABOVE_MS` cannot be told from a chord that is hit.
        None where fewer than two of the pitches can be told apart.
    """
    until = onset_s + AFTER_S
    if next_s is not None and next_s < until + 0.02:
        return None
    window = window_for(pitches)
    sets = [own_harmonics(pitch, tuple(o for o in pitches if o != pitch), window) for pitch in pitches]
    sets = [one for one in sets if len(one)]
    if len(sets) < 2:
        return None
    times = []
    for track in tracks(samples, onset_s - BEFORE_S, until, tuple(sets), window):
        held = track.between(onset_s + HELD_FROM_S, onset_s + HELD_TO_S)
        before = track.levels[:3].min()
        if not len(held) or held.max() < LEAST_RISE * max(float(before), 1e-6):
            continue
        half = (float(held.max()) + float(before)) / 2
        over = np.flatnonzero((track.levels[:-1] < half) & (track.levels[1:] >= half))
        if not len(over):
            continue
        at = int(over[0])
        part = (half - track.levels[at]) / (track.levels[at + 1] - track.levels[at])
        times.append(float(track.times[at] + part * (track.times[at + 1] - track.times[at])))
    if len(times) < 2:
        return None
    return round(1000 * (max(times) - min(times)), 1), 4.0
