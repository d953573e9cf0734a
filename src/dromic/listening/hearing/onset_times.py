"""Exactly when a note begins, once it is known about where it does and what sounds before and after it.

A picked note: the first moment at which the short-time energy of the upper part of the sound rises clearly above
all that it was during the last period of the string that rang before. A slurred note has no attack: there it is the
moment at which as much sounds of the new pitch as of the old one, each measured at those of its harmonics that the
other lacks.
"""

from __future__ import annotations

import numpy as np
from scipy.ndimage import maximum_filter1d, uniform_filter1d

from dromic.arrays import Floats, Samples
from dromic.listening.hearing.recording import HEARING_RATE, piece_of
from dromic.music.pitch import frequency

STEP = 8
BLOCK = STEP * 32_768
FRAME_S = 0.003
REACH_BACK_S, REACH_ON_S = 0.032, 0.028
PEAK_WITHIN_S = 0.008
RISE_SHARE = 0.25
FAR_PRICE = 0.02
SLUR_REACH_S, SLUR_WINDOW_S = 0.045, 0.024
SLUR_HARMONICS, SLUR_HIGHEST_HZ = 8, 3_500.0
APART_HZ = 45.0
SLUR_LEAST = 0.004
DEFAULT_PERIOD_S = 0.012


class Attacks:
    """The energy of a take in fine steps, ready to be searched for attacks.

    Parameters
    ----------
    samples : ndarray of float32, shape (samples,)
        At `HEARING_RATE`.
    """

    rate = HEARING_RATE

    def __init__(self, samples: Samples) -> None:
        parts = [_sharp_level(samples, first) for first in range(0, max(len(samples), 1), BLOCK)]
        self.level = np.concatenate(parts)
        self.floor = float(np.quantile(self.level, 0.02)) + 1e-7

    def highest(self, start_s: float, end_s: float) -> float:
        """The highest level between two times."""
        first = min(max(round(start_s * HEARING_RATE / STEP), 0), len(self.level) - 1)
        last = max(round(end_s * HEARING_RATE / STEP), first + 1)
        return float(self.level[first:last].max()) + self.floor

    def time_near(self, about_s: float, period_s: float) -> tuple[float, float]:
        """When a note begins that is picked at about some time.

        Parameters
        ----------
        about_s : float
        period_s : float
            Of the lowest note that rings before or after it.

        Returns
        -------
        (float, float)
            The time in seconds, and how many decibels the energy rises there.
        """
        step_s = STEP / HEARING_RATE
        period, peak = max(round(1.15 * period_s / step_s), 12), round(PEAK_WITHIN_S / step_s)
        centre = round(about_s / step_s)
        first, last = centre - round(REACH_BACK_S / step_s), centre + round(REACH_ON_S / step_s)
        low = first - period
        index = np.clip(np.arange(low, last + peak + 1), 0, len(self.level) - 1)
        level = self.level[index] + self.floor
        before = maximum_filter1d(level, period, origin=(period - 1) // 2)[period - 1 : -peak - 2]
        after = maximum_filter1d(level, peak, origin=-(peak // 2))[period : -peak - 1]
        rise = np.log(after / before[: len(after)])
        away = np.abs(np.arange(len(rise)) - (centre - first)) * step_s * 1000
        best = int((rise - FAR_PRICE * away).argmax())
        base, top = float(before[best]), float(after[best])
        wanted = base * (top / base) ** RISE_SHARE if top > base else base
        here = period + best
        run = level[here : here + peak + 1]
        above = np.flatnonzero(run >= wanted)
        over = int(above[0]) if len(above) else 0
        part = 0.0
        if over and run[over] > run[over - 1]:
            part = (run[over] - wanted) / (run[over] - run[over - 1])
        time = (first + best + over - part) * step_s + FRAME_S / 2
        return float(time), float(20 / np.log(10) * max(rise[best], 0.0))


def _sharp_level(samples: Samples, first: int) -> Samples:
    """The level of one block; of twice the difference, so that what is below a kilohertz hardly counts."""
    frame = round(FRAME_S * HEARING_RATE)
    last = min(first + BLOCK, len(samples))
    sharp = np.diff(piece_of(samples, first - frame - 1, last + frame + 1), n=2)
    power = uniform_filter1d(sharp * sharp, frame)[frame : frame + last - first : STEP]
    return np.asarray(np.sqrt(np.maximum(power, 0.0)), dtype=np.float32)


def slur_time(
    samples: Samples, about_s: float, old: float, new: float, *, glides: bool = False
) -> tuple[float, float]:
    """When the pitch steps from an old note to a new one.

    Parameters
    ----------
    samples : ndarray of float32, shape (samples,)
    about_s : float
    old, new : float
        MIDI numbers.
    glides : bool
        Whether the pitch slides: then it is the time at which it leaves the old one.

    Returns
    -------
    (float, float)
        The time in seconds, and how clear the step is: 0 not at all, 1 from nothing but the old to nothing but the
        new.
    """
    size = round(SLUR_WINDOW_S * HEARING_RATE)
    reach = round(SLUR_REACH_S * HEARING_RATE)
    centre = round(about_s * HEARING_RATE)
    index = np.arange(centre - reach - size // 2, centre + reach + size // 2 + 1)
    piece = np.where((index >= 0) & (index < len(samples)), samples[np.clip(index, 0, len(samples) - 1)], 0.0)
    starts = np.arange(0, len(piece) - size + 1, STEP)
    frames = np.lib.stride_tricks.sliding_window_view(piece, size)[::STEP] * np.hanning(size)
    shares = []
    for own, other in ((old, new), (new, old)):
        hertz = _own_harmonics(frequency(own), frequency(other))
        wave = np.exp(-2j * np.pi * hertz[:, None] * np.arange(size)[None, :] / HEARING_RATE)
        shares.append((np.abs(frames @ wave.T) ** 2).sum(1))
    before, after = shares
    if float(after.max()) < SLUR_LEAST * float(before.max()):
        return about_s, 0.0
    # Each against its own most, so that a softer note counts as much as a louder one.
    before, after = before / max(float(before.max()), 1e-12), after / max(float(after.max()), 1e-12)
    balance = (after - before) / np.maximum(after + before, 1e-9)
    steps = np.flatnonzero((balance[:-1] < 0) & (balance[1:] >= 0))
    if not len(steps):
        return about_s, 0.0
    width = max(round(0.015 * HEARING_RATE / STEP), 1)
    clear = [
        float(balance[at + 1 : at + 1 + width].mean() - balance[max(at - width, 0) : at + 1].mean()) / 2
        for at in steps
    ]
    away = np.abs(starts[steps] - reach) / HEARING_RATE
    best = int(np.argmax(np.array(clear) - away / SLUR_REACH_S / 4))
    at = int(steps[best])
    if glides:
        return (centre - reach + _left(before, at) * STEP) / HEARING_RATE, max(clear[best], 0.0)
    part = balance[at] / (balance[at] - balance[at + 1])
    return (centre - reach + (at + part) * STEP) / HEARING_RATE, max(clear[best], 0.0)


def _left(before: Floats, at: int) -> float:
    """Where, at the latest before a place, the power of the old pitch falls to a quarter of what it was."""
    held = float(np.quantile(before[: at + 1], 0.8))
    falls = np.flatnonzero((before[:at] >= 0.25 * held) & (before[1 : at + 1] < 0.25 * held))
    return float(falls[-1]) + 0.5 if len(falls) else float(at)


def _own_harmonics(own: float, other: float) -> Floats:
    """Harmonics of one note that are no harmonics of the other, in hertz."""
    mine = own * np.arange(1, SLUR_HARMONICS + 1)
    mine = mine[mine < SLUR_HIGHEST_HZ]
    theirs = other * np.arange(1, 2 * SLUR_HARMONICS + 1)
    apart = np.abs(mine[:, None] - theirs[None, :]).min(1)
    clear = mine[apart > APART_HZ]
    return np.asarray(clear if len(clear) else mine[[int(apart.argmax())]], dtype=float)
