"""What the fretting hand's moves are looked up in, and how many moves together are held."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dromic.arrays import Bools, Floats, Terms
from dromic.hands.comfort import Comfort
from dromic.hands.constants import FrettingHand
from dromic.hands.posture import spread_on
from dromic.hands.style import PLAIN, Sound
from dromic.instrument.instrument import Instrument


@dataclass(frozen=True)
class FretMoves:
    """Moves of the fretting hand: terms by key, and what kind of move each is; arrays of one shape.

    Parameters
    ----------
    times : dict of str to ndarray, milliseconds
    efforts : dict of str to ndarray
        Those that do not depend on time.
    hurried : dict of str to ndarray
        Those that count as much as there is hurry; see `FrettingTables.hurry`.
    allowed, shifted, rolled, jumped : ndarray of bool
    shift_mm : ndarray, millimetres
    flown : ndarray of bool
        Whether no finger was down before, so that the hand was free to move earlier.
    """

    times: Terms
    efforts: Terms
    hurried: Terms
    allowed: Bools
    shifted: Bools
    rolled: Bools
    jumped: Bools
    shift_mm: Floats
    flown: Bools

    @property
    def time_ms(self) -> Floats:
        """Sum of the times; of the moves' shape."""
        return sum_of(self.times, self.shifted.shape)

    @property
    def effort(self) -> Floats:
        """Sum of the efforts that do not depend on time; of the moves' shape."""
        return sum_of(self.efforts, self.shifted.shape)

    @property
    def hurried_effort(self) -> Floats:
        """Sum of the efforts that grow with the hurry, at the most hurry there is; of the moves' shape."""
        return sum_of(self.hurried, self.shifted.shape)


def sum_of(terms: Terms, shape: tuple[int, ...]) -> Floats:
    """Sum of terms, each of a shape that broadcasts.

    Examples
    --------
    >>> sum_of({"place_ms": np.array([40.0, 0.0]), "slide_ms": np.array(20.0)}, (2,)).tolist()
    [60.0, 20.0]
    """
    total = np.zeros(shape)
    for term in terms.values():
        total += term
    return total


def _pair_tables(**weights: float) -> Terms:
    """A table by finger and finger, 0 for the open string, of each weak pair; ``weak_34_ms`` is that of 3 and 4."""
    pair_tables = {}
    for key, weight in weights.items():
        one, other = (int(digit) for digit in key.split("_")[1])
        table = np.zeros((5, 5))
        table[one, other] = table[other, one] = weight
        pair_tables[key] = table
    return pair_tables


class FrettingTables:
    """What the moves of one hand on one instrument are looked up in.

    Parameters
    ----------
    instrument : Instrument
    hand : FrettingHand
    comfort : Comfort
    sound : Sound
    """

    def __init__(
        self, instrument: Instrument, hand: FrettingHand, comfort: Comfort, *, sound: Sound = PLAIN
    ) -> None:
        self.instrument, self.hand, self.comfort = instrument, hand, comfort
        spots = instrument.spots
        self.shift_mm: Floats = np.abs(spots[:, None] - spots[None, :])
        self.shift_travel_ms = hand.shift_fitts_ms * np.log2(1.0 + self.shift_mm / hand.shift_target_mm)
        self.spread = spread_on(instrument, hand)
        self.weak_ms = _pair_tables(weak_34_ms=hand.weak_34_ms, weak_24_ms=hand.weak_24_ms)
        self.weak_effort = _pair_tables(weak_34=comfort.weak_34, weak_24=comfort.weak_24, weak_23=comfort.weak_23)
        self.sound = sound
        self.roll_gain_ms = hand.roll_gain_ms if sound.damps else 0.0

    def hurry(self, gap_ms: Floats) -> Floats:
        """How much of the hurried efforts counts in the time that the hand has: 1 at most.

        Of the shape of `gap_ms`, which is in ms.
        """
        hurry: Floats = np.minimum(self.comfort.shift_time_ms / gap_ms, 1.0)
        return hurry
