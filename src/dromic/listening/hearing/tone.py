"""How even the tone is across the strings: which ones sound brighter or duller than the others at their pitch."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.fft import rfft

from dromic.arrays import Samples
from dromic.listening.hearing.recording import HEARING_RATE

WINDOW = 1024
FROM_S = 0.006
LEAST_NOTES, LEAST_STRINGS = 4, 2


@dataclass(frozen=True)
class StringTone:
    """How much brighter a string sounds than the line through all of them.

    Parameters
    ----------
    string : int
    brighter : float
        In octaves of the middle of its spectrum; duller below zero.
    sure : float
        Standard error.
    notes : int
    """

    string: int
    brighter: float
    sure: float
    notes: int


def brightness(samples: Samples, onset_s: float) -> float:
    """The middle of a note's spectrum just after its attack, in octaves above 1 Hz."""
    first = round((onset_s + FROM_S) * HEARING_RATE)
    piece = samples[max(first, 0) : first + WINDOW]
    if len(piece) < WINDOW:
        return float("nan")
    power = np.abs(rfft(piece * np.hanning(WINDOW))) ** 2
    hertz = np.fft.rfftfreq(WINDOW, 1 / HEARING_RATE)
    heard = hertz > 40
    return float(np.average(np.log2(hertz[heard]), weights=power[heard] + 1e-15))


def tone_by_string(rows: list[tuple[int, float, float]]) -> tuple[StringTone, ...]:
    """How even the tone is.

    Parameters
    ----------
    rows : list of (int, float, float)
        String, pitch and brightness of every plainly picked note.
    """
    known = [row for row in rows if np.isfinite(row[2])]
    strings = sorted({string for string, _, _ in known})
    counts = {string: sum(row[0] == string for row in known) for string in strings}
    strings = [string for string in strings if counts[string] >= LEAST_NOTES]
    known = [row for row in known if row[0] in strings]
    if len(strings) < LEAST_STRINGS:
        return ()
    pitches, bright = (np.array([row[at] for row in known]) for at in (1, 2))
    # A higher pitch is brighter by itself; a line through all notes takes that out.
    lean, base = np.polyfit(pitches, bright, 1) if np.ptp(pitches) > 0 else (0.0, float(bright.mean()))
    rest = bright - lean * pitches - base
    tone = []
    for string in strings:
        own = rest[[row[0] == string for row in known]]
        spread = 1.4826 * float(np.median(np.abs(own - np.median(own))))
        tone.append(
            StringTone(
                string,
                round(float(np.median(own)), 3),
                round(max(1.25 * spread / np.sqrt(len(own)), 0.02), 3),
                len(own),
            )
        )
    return tuple(tone)
