"""The key that notes are likely in, by key profiles.

How long each of the twelve tones sounds is correlated with a profile of how well each fits a major or a minor
key, on all tonics. Source: Krumhansl, Cognitive Foundations of Musical Pitch, 1990; profiles of Krumhansl and
Kessler, 1982. Modes are told apart afterwards, by the tones in which they differ from major and minor.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dromic.arrays import Floats
from dromic.music.keys import Key
from dromic.music.tones import plain_tone

# How well each tone fits, from the tonic up.
MAJOR_PROFILE = (6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88)
MINOR_PROFILE = (6.33, 2.68, 3.52, 5.38, 2.60, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17)
LEAST_NOTES, LEAST_TONES = 4, 3
SURE_MARGIN = 0.06
CLEARLY = 2.0
"""How much more one of two tones must sound than the other to tell modes apart."""
LAST_NOTE = 0.1
"""What a last note that is the tonic adds to a correlation: melodies mostly end on it."""


@dataclass(frozen=True)
class KeyGuess:
    """The likeliest key.

    Parameters
    ----------
    key : Key
    margin : float
        How much better it correlates than the best key with other tones.
    others : tuple of Key
        Those that come next, the likeliest first.
    """

    key: Key
    margin: float
    others: tuple[Key, ...]

    @property
    def sure(self) -> bool:
        """Whether another key is clearly less likely."""
        return self.margin >= SURE_MARGIN


def key_of_notes(midis: Sequence[int], lengths: Sequence[float]) -> KeyGuess | None:
    """Estimate the key of some notes; None for so few that every guess is as good.

    Parameters
    ----------
    midis : sequence of int
        In order of time.
    lengths : sequence of float
        How long each sounds.

    Examples
    --------
    >>> scale = [60, 62, 64, 65, 67, 69, 71, 72, 67, 64, 60]
    >>> str(key_of_notes(scale, [1.0] * len(scale)).key)
    'C major'
    >>> key_of_notes([60, 60, 67, 67], [1.0] * 4) is None
    True
    """
    if len(midis) < LEAST_NOTES:
        return None
    weights = np.asarray(lengths, dtype=np.float64)
    tones: Floats = np.bincount(np.asarray(midis) % 12, weights=weights, minlength=12).astype(np.float64)
    if np.count_nonzero(tones) < LEAST_TONES:
        return None
    scores: dict[tuple[int, bool], float] = {}
    for minor, profile in ((False, MAJOR_PROFILE), (True, MINOR_PROFILE)):
        for tonic in range(12):
            fits = float(np.corrcoef(tones, np.roll(profile, tonic))[0, 1])
            scores[tonic, minor] = fits + LAST_NOTE * (midis[-1] % 12 == tonic)
    ranked = sorted(scores, key=lambda one: (-scores[one], one))
    keys = [_in_mode(tonic, minor, tones) for tonic, minor in ranked[:4]]
    best = keys[0]
    rival = next((at for at, key in enumerate(keys) if key.scale.tones != best.scale.tones and at), len(keys) - 1)
    margin = scores[ranked[0]] - scores[ranked[rival]]
    return KeyGuess(best, margin, tuple(dict.fromkeys(key for key in keys[1:] if key != best)))


def _in_mode(tonic: int, minor: bool, tones: Floats) -> Key:
    """The mode of a tonic that the tones speak for, spelled with the fewer signs."""
    from_tonic = np.roll(tones, -tonic)

    def more(one: int, other: int) -> bool:
        return bool(from_tonic[one] > CLEARLY * from_tonic[other])

    if minor:
        # A raised sixth with a raised seventh is minor still, going up.
        mode = "phrygian" if more(1, 2) and not more(9, 8) else "dorian" if more(9, 8) and more(10, 11) else "minor"
    else:
        mode = "lydian" if more(6, 5) and not more(10, 11) else "mixolydian" if more(10, 11) else "major"
    both = [Key(plain_tone(tonic, flats=flats), mode) for flats in (True, False)]
    return min(both, key=lambda key: abs(key.fifths))
