"""How comfortable a grip is to hold: terms of effort by key, whatever comes before and after.

For a single note a finger off its own fret costs `frame`, above or below; in a chord one above costs `opened`,
because the others pull against it. The little finger has its own weight in chords too.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from dromic.arrays import Bools, Floats, Ints, Terms
from dromic.hands.comfort import Comfort
from dromic.hands.constants import FrettingHand, LittleFinger, LowFrets
from dromic.hands.grips import GripArrays
from dromic.instrument.instrument import Instrument

LOW_FRETS = 5


def reach_mm(fret: Ints, finger: Ints, position: Ints, instrument: Instrument, hand: FrettingHand) -> Floats:
    """How far a finger is from where it lies at ease: positive opened, negative closed, 0 for an open string."""
    spread = np.array((0.0, *hand.spread_mm))
    ease = instrument.spots[position] + spread[finger]
    reach: Floats = np.where(finger > 0, instrument.spots[fret] - ease, 0.0)
    return reach


def reach_effort(reach: Floats, weight: float, comfort: Comfort) -> Floats:
    """Effort of opening or closing fingers by so many mm beyond their ease."""
    beyond = np.maximum(np.abs(reach) - comfort.reach_ease_mm, 0.0) / 20.0
    effort: Floats = weight * np.where(reach < 0, comfort.crowding, 1.0) * beyond**2
    return effort


def against_option(nut_fret: Ints, finger: Ints, hand: FrettingHand) -> Bools:
    """Whether a finger is one that the player's style options do not use there; frets count from the nut."""
    low = (hand.low_frets is LowFrets.ONE_TWO_FOUR) & (nut_fret <= LOW_FRETS) & (finger == 3)
    found: Bools = low | ((hand.little_finger is LittleFinger.AVOIDED) & (finger == 4))
    return found


def posture(
    grips: GripArrays,
    instrument: Instrument,
    hand: FrettingHand,
    comfort: Comfort,
    *,
    bend: bool = False,
    vibrato: bool = False,
) -> Terms:
    """Terms of effort of holding each grip, each of shape (grips,).

    Parameters
    ----------
    grips : GripArrays
    instrument : Instrument
    hand : FrettingHand
    comfort : Comfort
    bend, vibrato : bool
        Whether what is struck is bent, or has vibrato.
    """
    found: Terms = {}

    def add(key: str, amount: NDArray[Any]) -> None:
        found[key] = found[key] + amount if key in found else amount

    any_down: Bools = np.zeros(grips.position.shape, dtype=np.bool_)
    for slot, finger in enumerate(grips.finger):
        fret, first, last = grips.fret[slot], grips.first[slot], grips.last[slot]
        strikes = grips.strikes[slot]
        down, nut_fret = finger > 0, fret + instrument.capo
        any_down |= down
        add("reach", reach_effort(reach_mm(fret, finger, grips.position, instrument, hand), comfort.reach, comfort))
        own_fret = grips.position + finger - 1
        off = down & (fret != own_fret)
        opened = off & (fret > own_fret) & (not grips.single)
        add("frame", comfort.frame * (off & ~opened))
        add("first_away", comfort.first_away * (off & (finger == 1)))
        little = "fourth" if grips.single else "fourth_too"
        add(little, getattr(comfort, little) * (finger == 4))
        thinner = instrument.strings - 1 - first
        add("high", comfort.high * np.maximum(nut_fret - comfort.high_from, 0) * thinner * down)
        add("against", comfort.against * against_option(nut_fret, finger, hand))
        for key, which in (("bend_1", 1), ("bend_2", 2), ("bend_4", 4)) if bend else ():
            add(key, getattr(comfort, key) * (strikes & (finger == which)))
        for key, which in (("vibrato_1", 1), ("vibrato_4", 4)) if vibrato else ():
            add(key, getattr(comfort, key) * (strikes & (finger == which)))
        if not grips.single:
            add("opened", comfort.opened * opened)
            across = (last - first) * down
            add("laid", comfort.laid * (across > 0))
            add("barre", comfort.barre * across * (finger == 1))
            add("barre_other", comfort.barre_other * across * (finger > 1))
            if slot:
                add("apart", _apart(grips, slot, instrument, hand, comfort))
    add("open_far", comfort.open_far * np.where(any_down, 0.0, np.maximum(grips.position - comfort.open_near, 0.0)))
    if not grips.single:
        between = grips.thinnest - grips.thickest + 1 - sum(one.astype(np.int64) for one in grips.struck)
        add("damped", comfort.damped * between)
    return found


def _apart(grips: GripArrays, slot: int, instrument: Instrument, hand: FrettingHand, comfort: Comfort) -> Floats:
    """Effort of a finger being opened or closed against the one before it in the grip."""
    spots, spread = instrument.spots, np.array((0.0, *hand.spread_mm))
    one, two = grips.finger[slot - 1], grips.finger[slot]
    opened_mm = spots[grips.fret[slot]] - spots[grips.fret[slot - 1]] - (spread[two] - spread[one])
    return np.where(two > 0, reach_effort(opened_mm, comfort.apart, comfort), 0.0)
