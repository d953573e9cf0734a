"""How loud a note is against its like: notes of the same kind in the same take, pitch taken into account.

The level is that of the first moments after the attack. What rang before is stopped by the stroke or by a finger,
as a rule, and is not taken off. Notes are compared with others of their kind only (palm-muted with palm-muted,
slurred with slurred); within a kind the level may lean with pitch, as an instrument's does. Where a kind has too
few notes, nothing is said.
"""

from __future__ import annotations

import numpy as np

from dromic.arrays import Floats, Samples
from dromic.listening.hearing.recording import HEARING_RATE

LEVEL_FROM_S, LEVEL_TO_S = 0.004, 0.05
LEAST_OF_A_KIND = 4
FOR_A_LEAN, LEAST_SEMITONES = 10, 5.0
SILENT_DB = -90.0


def attack_level(samples: Samples, onset_s: float, next_s: float | None) -> float:
    """Level of a note's first moments, in decibels.

    Parameters
    ----------
    samples : ndarray of float32, shape (samples,)
    onset_s : float
    next_s : float or None
        Where the next note begins, if there is one.
    """
    end = onset_s + LEVEL_TO_S if next_s is None else min(onset_s + LEVEL_TO_S, next_s - 0.004)
    own = _power(samples, onset_s + LEVEL_FROM_S, max(end, onset_s + 0.02))
    return float(max(10 * np.log10(max(own, 1e-10)), SILENT_DB))


def against_their_like(
    levels: Floats, kinds: list[str], pitches: Floats
) -> tuple[list[float | None], list[float | None]]:
    """How loud every note is against its like, and how sure that is, in decibels.

    Parameters
    ----------
    levels, pitches : ndarray, shape (notes,)
    kinds : list of str
    """
    found: list[float | None] = [None] * len(levels)
    sure: list[float | None] = [None] * len(levels)
    for kind in set(kinds):
        own = np.array([at for at, one in enumerate(kinds) if one == kind])
        if len(own) < LEAST_OF_A_KIND:
            continue
        even = _even(levels[own], pitches[own])
        rest = levels[own] - even
        spread = 1.4826 * float(np.median(np.abs(rest - np.median(rest))))
        for at, value in zip(own, rest, strict=True):
            found[at] = round(float(value), 1)
            sure[at] = round(float(0.8 + spread / np.sqrt(len(own))), 1)
    return found, sure


def _even(levels: Floats, pitches: Floats) -> Floats:
    """What these notes' levels would be if they were all played alike."""
    centred = pitches - np.median(pitches)
    lean = 0.0
    if len(levels) >= FOR_A_LEAN and np.ptp(pitches) >= LEAST_SEMITONES:
        first, second = np.triu_indices(min(len(levels), 400), 1)
        apart = centred[second] - centred[first]
        far = np.abs(apart) >= 2
        if far.any():
            # The median of all slopes between two notes: single loud or soft ones do not tilt it.
            lean = float(np.median((levels[second] - levels[first])[far] / apart[far]))
    return np.asarray(lean * centred + np.median(levels - lean * centred))


def _power(samples: Samples, start_s: float, end_s: float) -> float:
    first, last = max(round(start_s * HEARING_RATE), 0), max(round(end_s * HEARING_RATE), 1)
    piece = samples[first:last]
    return float((piece.astype(float) ** 2).mean()) if len(piece) else 0.0
