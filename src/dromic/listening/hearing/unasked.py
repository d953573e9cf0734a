"""Strings that sound unasked: an open string that nobody played and no hand keeps still."""

from __future__ import annotations

import numpy as np
from scipy.fft import rfft

from dromic.arrays import Floats, Samples
from dromic.listening.hearing.harmonics import own_harmonics, tracks
from dromic.listening.hearing.recording import HEARING_RATE
from dromic.listening.take import UnaskedString

WINDOW = 2048
LEAST_HARMONICS = 3
SOUNDS_DB, STEADY_DB = -20.0, 9.0
AFTER_S = 0.05


def unasked_at(
    samples: Samples,
    onset_s: float,
    next_s: float,
    sounding: tuple[float, ...],
    open_pitches: tuple[tuple[int, int], ...],
) -> list[UnaskedString]:
    """Open strings that sound under a note, and are not of what is played.

    Parameters
    ----------
    samples : ndarray of float32, shape (samples,)
    onset_s, next_s : float
        Of the note and the next.
    sounding : tuple of float
        MIDI numbers of the note, and of those just before it that may still be heard.
    open_pitches : tuple of (int, int)
        String and MIDI number of the open strings.
    """
    half = WINDOW / 2 / HEARING_RATE
    if not sounding or next_s - onset_s < 2 * half + AFTER_S:
        return []
    strings = [(string, pitch) for string, pitch in open_pitches if pitch not in sounding]
    sets = [(string, own_harmonics(pitch, sounding, WINDOW)) for string, pitch in strings]
    sets = [(string, hertz) for string, hertz in sets if len(hertz) >= LEAST_HARMONICS]
    if not sets:
        return []
    asked = own_harmonics(sounding[0], (), WINDOW)
    start, end = onset_s + AFTER_S + half * 0.5, next_s - half
    found = tracks(samples, start, max(end, start), (asked, *(hertz for _, hertz in sets)), WINDOW)
    loud = float(np.median(found[0].levels))
    heard = []
    for (string, hertz), track in zip(sets, found[1:], strict=True):
        level = 20 * np.log10(max(float(np.median(track.levels)), 1e-7) / max(loud, 1e-7))
        if level > SOUNDS_DB and _comb(samples, (start + max(end, start)) / 2, hertz):
            heard.append(UnaskedString(round(float(onset_s), 4), string, round(float(level), 1)))
    # Strings a fifth or an octave apart share harmonics: what sounds is the loudest, the others are its shadow.
    return [max(heard, key=lambda one: one.level_db)] if heard else []


def _comb(samples: Samples, middle_s: float, hertz: Floats) -> bool:
    """Whether most of a string's harmonics stand out from what lies beside them: one alone is chance."""
    first = round(middle_s * HEARING_RATE) - WINDOW // 2
    piece = samples[max(first, 0) : first + WINDOW]
    if len(piece) < WINDOW:
        return False
    spectrum = np.abs(rfft(piece * np.hanning(WINDOW), 4 * WINDOW))
    bins = np.round(hertz[:6] * 4 * WINDOW / HEARING_RATE).astype(int)
    stands = [
        20 * np.log10(spectrum[at - 3 : at + 4].max() / max(float(np.median(spectrum[at - 40 : at + 41])), 1e-9))
        > STEADY_DB
        for at in bins
        if at > 41
    ]
    return len(stands) >= LEAST_HARMONICS and sum(stands) > 0.7 * len(stands)
