"""How far a bend or a slide is from its goal, in cents, from the harmonics of what is held after it."""

from __future__ import annotations

import numpy as np
from scipy.fft import rfft

from dromic.arrays import Samples
from dromic.listening.hearing.recording import HEARING_RATE
from dromic.music.pitch import frequency

SHORTEST_S, LONGEST_S = 0.15, 0.6
HARMONICS, REACH_CENTS = 6, 140.0
PADDED = 1 << 16
LEAST_SHARE = 0.05
LEAST_CENTS = 1.5


def goal_cents(samples: Samples, start_s: float, end_s: float, pitch: float) -> tuple[float, float] | None:
    """How far the pitch held between two times is from a goal.

    Parameters
    ----------
    samples : ndarray of float32, shape (samples,)
    start_s, end_s : float
        From where the goal should be reached until the note is over.
    pitch : float
        MIDI number of the goal.

    Returns
    -------
    (float, float) or None
        Cents above the goal and their standard error; None for less than 150 ms, or where there is no clear pitch.
    """
    if end_s - start_s < SHORTEST_S:
        return None
    first, last = round(start_s * HEARING_RATE), round(min(end_s, start_s + LONGEST_S) * HEARING_RATE)
    piece = samples[max(first, 0) : last]
    if len(piece) < SHORTEST_S * HEARING_RATE * 0.9:
        return None
    spectrum = np.abs(rfft(piece * np.hanning(len(piece)), PADDED))
    cents, weights = [], []
    goal = frequency(pitch)
    for number in range(1, HARMONICS + 1):
        low, high = (goal * number * 2 ** (side * REACH_CENTS / 1200) for side in (-1, 1))
        bins = np.arange(int(low * PADDED / HEARING_RATE), int(high * PADDED / HEARING_RATE) + 2)
        if bins[-1] >= len(spectrum) - 1:
            break
        peak = int(bins[spectrum[bins].argmax()])
        if peak in (bins[0], bins[-1]):
            continue
        around = np.log(np.maximum(spectrum[peak - 1 : peak + 2], 1e-12))
        shift = 0.5 * (around[0] - around[2]) / (around[0] - 2 * around[1] + around[2] - 1e-12)
        hertz = (peak + shift) * HEARING_RATE / PADDED / number
        cents.append(1200 * np.log2(hertz / goal))
        weights.append(float(spectrum[peak]))
    if not cents:
        return None
    loud = np.array(weights) >= LEAST_SHARE * max(weights)
    kept, share = np.array(cents)[loud], np.array(weights)[loud]
    middle = float(np.average(kept, weights=share))
    spread = float(np.sqrt(np.average((kept - middle) ** 2, weights=share) / max(len(kept) - 1, 1)))
    if spread > REACH_CENTS / 4:
        return None
    return round(middle, 1), round(max(spread, LEAST_CENTS), 1)
