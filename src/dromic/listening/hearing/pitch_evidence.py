"""Which pitches begin to sound at a moment: combs of harmonics on what is there after it and was not before.

The evidence of a pitch is the mean level at its harmonics less the mean level half way between them, so that a
pitch an octave below what sounds gets half of it at most. It is a share of the best pitch's evidence, from 0 to 1.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.fft import rfft

from dromic.arrays import Floats, Samples
from dromic.listening.hearing.recording import HEARING_RATE, peak_of, piece_of
from dromic.music.pitch import frequency

LOWEST_PITCH, HIGHEST_PITCH = 23, 100
PITCHES = np.arange(LOWEST_PITCH, HIGHEST_PITCH + 1)
HARMONICS = 12
HIGHEST_HZ = 6_000.0
SHORT_WINDOW, LONG_WINDOW = 1024, 2048
LONG_BELOW_HZ = 75.0
PADDED = 4096
ASIDE_S = 0.004
COMPRESSION = 1_000.0
NEW_SHARE = 0.6
CANDIDATES_A_BLOCK = 256


def pitch_evidence(samples: Samples, times: Floats, lowest_hertz: float) -> Floats:
    """Evidence of every pitch at every moment.

    Parameters
    ----------
    samples : ndarray of float32, shape (samples,)
        At `HEARING_RATE`.
    times : ndarray, shape (moments,)
        In seconds.
    lowest_hertz : float
        Of the notes that can be expected: low ones need a longer window.

    Returns
    -------
    ndarray, shape (moments, pitches)
        Columns as `PITCHES`; the best pitch of every row has 1.
    """
    size = LONG_WINDOW if lowest_hertz < LONG_BELOW_HZ else SHORT_WINDOW
    window = np.hanning(size + 1)[:-1].astype(np.float32)
    aside = round(ASIDE_S * HEARING_RATE)
    scale = COMPRESSION / (max(peak_of(samples), 1e-9) * size / 2)
    found = []
    starts = np.round(times * HEARING_RATE).astype(int)
    for first in range(0, len(starts), CANDIDATES_A_BLOCK):
        at = starts[first : first + CANDIDATES_A_BLOCK]
        after = _spectra(samples, at + aside, window)
        before = _spectra(samples, at - aside - size, window)
        new = np.log1p(scale * np.maximum(after - before, 0.0))
        there = np.log1p(scale * after)
        found.append(NEW_SHARE * _share(_contrast(new)) + (1 - NEW_SHARE) * _share(_contrast(there)))
    return np.concatenate(found) if found else np.zeros((0, len(PITCHES)))


def _spectra(samples: Samples, starts: NDArray[np.int64], window: Samples) -> Floats:
    pieces = np.stack([piece_of(samples, int(at), int(at) + len(window)) for at in starts])
    return np.asarray(np.abs(rfft(pieces * window, PADDED)))


def evidence_of(evidence: Floats, pitches: tuple[float, ...]) -> Floats:
    """Evidence of a note or chord at every moment.

    In a chord one pitch can hide the others, so its best one counts for half.

    Parameters
    ----------
    evidence : ndarray, shape (moments, pitches)
    pitches : tuple of float
        MIDI numbers; those off the semitones count as the nearer one.
    """
    columns = [int(np.clip(round(pitch), LOWEST_PITCH, HIGHEST_PITCH)) - LOWEST_PITCH for pitch in pitches]
    own = evidence[:, columns]
    return np.asarray((own.mean(1) + own.max(1)) / 2)


def _contrast(levels: Floats) -> Floats:
    """Level at harmonics less level between them, shape (moments, pitches)."""
    on, between, weights = _COMBS
    near = np.maximum(np.maximum(levels[:, on - 1], levels[:, on]), levels[:, on + 1])
    # The deepest place near the middle counts, so that another note's harmonic there does no harm.
    return np.asarray(((near - levels[:, between]) * weights).sum(2))


def _share(contrast: Floats) -> Floats:
    best = np.maximum(contrast.max(1, keepdims=True), 1e-9)
    return np.asarray(np.clip(contrast / best, 0.0, 1.0))


def _combs() -> tuple[np.ndarray, np.ndarray, Floats]:
    hertz = np.array([frequency(int(pitch)) for pitch in PITCHES])[:, None]
    number = np.arange(1, HARMONICS + 1)[None, :]
    weights = np.where(hertz * (number + 0.5) < HIGHEST_HZ, 1 / np.sqrt(number), 0.0)
    weights /= weights.sum(1, keepdims=True)
    bins = PADDED / HEARING_RATE
    on = np.clip(np.round(hertz * number * bins).astype(int), 1, PADDED // 2 - 2)
    between = np.clip(np.round(hertz * (number + 0.5) * bins).astype(int), 1, PADDED // 2 - 2)
    return on, between, weights


_COMBS = _combs()
