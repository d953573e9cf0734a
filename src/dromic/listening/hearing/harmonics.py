"""How loud single pitches are over time in a take: the level of those of their harmonics that no other note has."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from scipy.fft import rfft

from dromic.arrays import Floats, Samples
from dromic.listening.hearing.recording import HEARING_RATE
from dromic.music.pitch import frequency

SHORT_WINDOW, LONG_WINDOW = 1024, 2048
LONG_BELOW_HZ = 75.0
STEP = 165
HARMONICS, HIGHEST_HZ = 10, 5_000.0
APART_BINS = 2.6
OTHER_HARMONICS = 24


@dataclass(frozen=True)
class Track:
    """The level of one pitch over time.

    Parameters
    ----------
    times : ndarray, shape (frames,)
        Middles of the frames, in seconds.
    levels : ndarray, shape (frames,)
        Root of the power at its own harmonics.
    """

    times: Floats
    levels: Floats

    def between(self, start_s: float, end_s: float) -> Floats:
        """Levels of the frames between two times; shape (frames,)."""
        return self.levels[(self.times >= start_s) & (self.times <= end_s)]


def own_harmonics(pitch: float, others: tuple[float, ...], window: int) -> Floats:
    """Harmonics of a pitch, in hertz, that can be told from those of other pitches with a window.

    Shape (harmonics,).

    Parameters
    ----------
    pitch : float
    others : tuple of float
    window : int

    Examples
    --------
    An octave above has every harmonic in common with the note below it, which keeps its odd ones.

    >>> len(own_harmonics(57, (45,), 2048)), own_harmonics(57, (69,), 2048)[:2]
    (0, array([220., 660.]))
    """
    hertz = frequency(pitch) * np.arange(1, HARMONICS + 1)
    hertz = hertz[hertz < HIGHEST_HZ]
    if not others:
        return np.asarray(hertz, dtype=float)
    theirs = np.concatenate([frequency(other) * np.arange(1, OTHER_HARMONICS + 1) for other in others])
    apart = np.abs(hertz[:, None] - theirs[None, :]).min(1)
    return np.asarray(hertz[apart > APART_BINS * HEARING_RATE / window], dtype=float)


def window_for(pitches: tuple[float, ...]) -> int:
    """A window long enough for the lowest of some pitches."""
    return LONG_WINDOW if pitches and frequency(min(pitches)) < LONG_BELOW_HZ else SHORT_WINDOW


def tracks(
    samples: Samples, start_s: float, end_s: float, harmonics: tuple[Floats, ...], window: int
) -> list[Track]:
    """Levels of several pitches over a stretch of a take.

    Parameters
    ----------
    samples : ndarray of float32, shape (samples,)
    start_s, end_s : float
        Middles of the first and the last frame.
    harmonics : tuple of ndarray
        Of each pitch, in hertz, as `own_harmonics` gives them.
    window : int
    """
    first = round(start_s * HEARING_RATE) - window // 2
    count = max((round(end_s * HEARING_RATE) - window // 2 - first) // STEP + 1, 1)
    index = first + np.arange((count - 1) * STEP + window)
    inside = (index >= 0) & (index < len(samples))
    piece = np.where(inside, samples[np.clip(index, 0, len(samples) - 1)], np.float32(0.0))
    shape = np.hanning(window).astype(np.float32)
    spectrum = np.abs(rfft(sliding_window_view(piece, window)[::STEP] * shape))
    times = (first + window // 2 + np.arange(len(spectrum)) * STEP) / HEARING_RATE
    tracks = []
    for hertz in harmonics:
        bins = np.clip(np.round(hertz * window / HEARING_RATE).astype(int), 1, window // 2 - 1)
        near = np.maximum(np.maximum(spectrum[:, bins - 1], spectrum[:, bins]), spectrum[:, bins + 1])
        tracks.append(Track(times, np.sqrt((near.astype(float) ** 2).sum(1)) * 4 / window))
    return tracks
