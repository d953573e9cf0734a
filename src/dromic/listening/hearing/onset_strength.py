"""Where something begins to sound: how much every frame of a take rises above the frames before it.

Magnitudes are gathered in bands of a semitone, compressed by a logarithm, and compared with the largest of three
neighbouring bands a little earlier, so that vibrato and bends do not count. Three window lengths are added: the
short one is exact in time, the long one finds soft notes among loud ones. It is worked out in blocks, so memory
grows with the length of the take by one number a frame.

References
----------
Böck and Widmer 2013, Maximum filter vibrato suppression for onset detection, DAFx.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray
from scipy.fft import rfft
from scipy.ndimage import maximum_filter1d, median_filter

from dromic.arrays import Floats, Samples
from dromic.listening.hearing.recording import HEARING_RATE, piece_of

HOP = 64
SHORTEST_WINDOW, LONGEST_WINDOW = 256, 2048
LEAST_PERIODS = 1.85
FRAMES_A_BLOCK = 2048
LOWEST_HZ, HIGHEST_HZ, BANDS_AN_OCTAVE = 40.0, 10_000.0, 12
COMPRESSION = 300.0
AROUND_S = 0.5
ABOVE_MEDIAN, LEAST_SHARE = 1.6, 0.035
APART_S = 0.014
TOP_SHARE = 0.9
FALL_WINDOW_S, FALL_ASIDE_S, FALLS_DB = 0.02, 0.012, 12.0
FALL_LATER = 0.36


@dataclass(frozen=True)
class Candidates:
    """Moments at which a note may begin.

    Parameters
    ----------
    times : ndarray, shape (candidates,)
        In seconds, to the nearest frame.
    strengths : ndarray, shape (candidates,)
        How much begins there; 1 is as much as at the clear attacks of this take.
    """

    times: Floats
    strengths: Floats


def window_sizes(lowest_hertz: float) -> tuple[int, ...]:
    """Window lengths for notes down to a pitch, in samples.

    A window that is shorter than two periods hears every period of the string as something new.

    Examples
    --------
    >>> window_sizes(196.0), window_sizes(82.4), window_sizes(41.2)
    ((256, 512, 1024), (512, 1024, 2048), (1024, 2048))
    """
    size = SHORTEST_WINDOW
    while size < LEAST_PERIODS * HEARING_RATE / lowest_hertz and size < LONGEST_WINDOW // 2:
        size *= 2
    return tuple(size << step for step in range(3) if size << step <= LONGEST_WINDOW)


def onset_strength(samples: Samples, lowest_hertz: float) -> Floats:
    """How much begins at every frame.

    Parameters
    ----------
    samples : ndarray of float32, shape (samples,)
        At `HEARING_RATE`.
    lowest_hertz : float
        Of the notes that can be expected.

    Returns
    -------
    ndarray, shape (frames,)
        Frame f speaks of the time ``f * HOP / HEARING_RATE``.
    """
    frames = len(samples) // HOP + 1
    sizes = window_sizes(lowest_hertz)
    scale = COMPRESSION / max(_loud(samples), 1e-9)
    total = np.zeros(frames)
    for size in sizes:
        bank = _bands(size)
        window = np.hanning(size + 1)[:-1].astype(np.float32)
        window /= window.sum() / 2
        lag = size // 4 // HOP
        for first in range(0, frames, FRAMES_A_BLOCK):
            count = min(FRAMES_A_BLOCK, frames - first)
            # The frame and the one it is compared with lie as far behind as before the time they speak of.
            begin = (first - lag // 2 - lag % 2) * HOP - size // 2
            piece = piece_of(samples, begin, begin + (count + lag - 1) * HOP + size)
            spectrum = np.abs(rfft(sliding_window_view(piece, size)[::HOP] * window))
            bands = np.log1p(scale * (spectrum.astype(np.float32) @ bank))
            rise = bands[lag:] - maximum_filter1d(bands[:-lag], 3, axis=1)
            total[first : first + count] += np.maximum(rise, 0.0).mean(1)
    return total / len(sizes)


def candidates(samples: Samples, lowest_hertz: float) -> Candidates:
    """Moments at which a note may begin: peaks above what is usual around them.

    Parameters
    ----------
    samples : ndarray of float32, shape (samples,)
    lowest_hertz : float
    """
    rise = onset_strength(samples, lowest_hertz)
    around = round(AROUND_S * HEARING_RATE / HOP) | 1
    usual = median_filter(rise, around, mode="nearest")
    above = rise - ABOVE_MEDIAN * usual
    apart = round(APART_S * HEARING_RATE / HOP)
    peaks = np.flatnonzero((rise == maximum_filter1d(rise, 2 * apart + 1)) & (above > 0))
    if not len(peaks):
        return Candidates(np.zeros(0), np.zeros(0))
    strengths = above[peaks]
    top = float(np.quantile(strengths[strengths > 0.3 * strengths.max()], 0.5))
    kept = (strengths > LEAST_SHARE * top) & ~_falls(samples, peaks * HOP, lowest_hertz)
    return Candidates(peaks[kept] * HOP / HEARING_RATE, strengths[kept] / top)


def _falls(samples: Samples, places: NDArray[np.int64], lowest_hertz: float) -> NDArray[np.bool_]:
    """Whether a note ends at these samples and none begins: what follows is far softer than what was before."""
    size = round(max(FALL_WINDOW_S, 1.2 / lowest_hertz) * HEARING_RATE)
    aside = round(FALL_ASIDE_S * HEARING_RATE)
    # A long window hears the end of a note long before it.
    later = max(aside, round(FALL_LATER * window_sizes(lowest_hertz)[-1]))

    def level(first: NDArray[np.int64]) -> Floats:
        pieces = (piece_of(samples, int(at), int(at) + size) for at in first)
        return np.array([float(np.dot(piece, piece)) / size for piece in pieces]) + 1e-12

    before, after = level(places - aside - size), level(places + later)
    return np.asarray(10 * np.log10(after / before) < -FALLS_DB)


def _loud(samples: Samples) -> float:
    """How loud the loud parts are; a single bang does not count."""
    size = HEARING_RATE // 20
    frames = samples[: max(len(samples) // size, 1) * size].reshape(-1, min(size, len(samples)))
    frames = np.maximum(frames.max(1), -frames.min(1))
    return float(np.quantile(frames, TOP_SHARE))


def _bands(size: int) -> Samples:
    """Triangles a semitone apart, as a matrix from bins to bands; bands that hold no bin are left out."""
    hertz = np.fft.rfftfreq(size, 1 / HEARING_RATE)
    count = int(np.log2(HIGHEST_HZ / LOWEST_HZ) * BANDS_AN_OCTAVE)
    centres = LOWEST_HZ * 2 ** (np.arange(count + 2) / BANDS_AN_OCTAVE)
    bins = np.unique(np.round(centres * size / HEARING_RATE).astype(int))
    bins = bins[bins < len(hertz)]
    bank = np.zeros((len(hertz), len(bins) - 2), np.float32)
    for band, (low, middle, high) in enumerate(zip(bins, bins[1:], bins[2:], strict=False)):
        bank[low : middle + 1, band] = np.linspace(0, 1, middle - low + 1)
        bank[middle : high + 1, band] = np.linspace(1, 0, high - middle + 1)
    return bank
