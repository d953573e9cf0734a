"""A plucked string: harmonics of an ideal string plucked at one place, each dying away at its own rate.

The amplitude of harmonic h of a string plucked at the share p of its length is proportional to ``sin(h pi p) /
h^2``; higher ones die away sooner. A palm on the strings takes the life out of all of them, a fretting finger
that hammers or pulls excites them less, and a bend or a slide moves their frequency. Sound is in arrays of
float64 between about -1 and 1, time in seconds, pitch in hertz.

References
----------
Fletcher and Rossing, The Physics of Musical Instruments: the plucked string.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dromic.arrays import Floats

RATE = 44_100
MOST_HARMONICS = 26
PLUCKED_AT = 0.15
TRILLS_A_SECOND = 6.0
ATTACK_S, RELEASE_S = 0.0015, 0.008
PICK_NOISE_S = 0.012


@dataclass(frozen=True)
class Touch:
    """How a note is sounded.

    Parameters
    ----------
    life_s : float
        Time in which the lowest harmonic falls to a third, at 110 Hz; higher notes die sooner.
    dullness : float
        How much sooner higher harmonics die.
    loud : float
    pick_noise : float
        Loudness of the pick's click.
    dead : bool
        Whether there is a thud and no pitch.
    vibrato : float
        Swing of the pitch, in semitones.
    trill : int
        Semitones up to the note that it alternates with; 0 for none.
    plucked_at : float
        Where it is plucked, as a share of the string from the bridge: nearer is brighter.
    attack_s : float
        How long the string takes to be let go: a fingertip is slower than a pick.
    """

    life_s: float = 1.9
    dullness: float = 0.012
    loud: float = 1.0
    pick_noise: float = 0.05
    dead: bool = False
    vibrato: float = 0.0
    trill: int = 0
    plucked_at: float = PLUCKED_AT
    attack_s: float = ATTACK_S


OPEN_TOUCH = Touch()
# The palm lies by the bridge, and the pick with it.
PALM_TOUCH = Touch(life_s=0.16, dullness=0.05, loud=1.15, pick_noise=0.08, plucked_at=0.09)
SLUR_TOUCH = Touch(loud=0.72, pick_noise=0.0, plucked_at=0.3)
PLUCK_TOUCH = Touch(dullness=0.02, loud=0.95, pick_noise=0.004, plucked_at=0.24, attack_s=0.004)
DEAD_TOUCH = Touch(dead=True, loud=0.9)
# Heavy strings, long and low: they live longer, and their high harmonics die at once.
BASS_PICK_TOUCH = Touch(life_s=2.4, dullness=0.022, loud=1.05, pick_noise=0.035, plucked_at=0.12)
BASS_PLUCK_TOUCH = Touch(life_s=2.4, dullness=0.035, loud=1.05, pick_noise=0.004, plucked_at=0.2, attack_s=0.005)


def tone(hertz: Floats, touch: Touch, seed: int = 0) -> Floats:
    """Sound a string.

    Parameters
    ----------
    hertz : ndarray, shape (samples,)
        Pitch at every sample; its length is the note's.
    touch : Touch
    seed : int
        Makes the pick's noise, the same every time.

    Returns
    -------
    ndarray, shape (samples,)

    Examples
    --------
    >>> sound = tone(np.full(RATE // 2, 110.0), OPEN_TOUCH)
    >>> bool(np.abs(sound[:2000]).max() > np.abs(sound[-2000:]).max())
    True
    """
    count = len(hertz)
    if not count:
        return np.zeros(0)
    time = np.arange(count) / RATE
    chance = np.random.default_rng(seed)
    noise = chance.standard_normal(count) * np.exp(-time / (PICK_NOISE_S / 3))
    if touch.dead:
        thud = np.cumsum(chance.standard_normal(count)) * np.exp(-time / 0.018)
        sound = 0.5 * thud / max(float(np.abs(thud).max()), 1e-9)
    else:
        if touch.vibrato:
            hertz = hertz * 2 ** (touch.vibrato / 12 * np.sin(2 * np.pi * 5.5 * time) * np.clip(time / 0.25, 0, 1))
        if touch.trill:
            hertz = np.where((time * TRILLS_A_SECOND) % 1.0 < 0.5, hertz, hertz * 2 ** (touch.trill / 12))
        sound = _harmonics(hertz, time, touch)
    sound = touch.loud * (sound + touch.pick_noise * noise)
    edge = min(round(touch.attack_s * RATE), count)
    sound[:edge] *= np.linspace(0.0, 1.0, edge)
    edge = min(round(RELEASE_S * RATE), count)
    sound[-edge:] *= np.linspace(1.0, 0.0, edge)
    return sound


def _harmonics(hertz: Floats, time: Floats, touch: Touch) -> Floats:
    phase = 2 * np.pi * np.cumsum(hertz) / RATE
    lowest, highest = float(hertz.mean()), float(hertz.max())
    life = touch.life_s * (110.0 / lowest) ** 0.45
    number = min(MOST_HARMONICS, int(0.45 * RATE / highest))
    sound = np.zeros(len(hertz))
    for harmonic in range(1, number + 1):
        strength = np.sin(harmonic * np.pi * touch.plucked_at) / harmonic**1.35
        sound += strength * np.exp(-time / life * (1 + touch.dullness * harmonic**2)) * np.sin(harmonic * phase)
    return 0.42 * sound
