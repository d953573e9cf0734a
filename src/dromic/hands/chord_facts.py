"""What there is to see in the shape of a chord, each a fact of grips as arrays of shape (grips,)."""

from __future__ import annotations

import numpy as np

from dromic.arrays import Bools, Floats, Ints
from dromic.hands.fingers import THUMB
from dromic.hands.grips import GripArrays

FIRST_FRETS = 4
"""The frets on which a chord with open strings may begin with any finger."""


def bunched(grips: GripArrays, beside_laid: float) -> Floats:
    """How many fingers stand beside another where all are on one fret; beside one laid across counts more."""
    count = np.zeros(grips.position.shape)
    one_fret: Bools = np.ones(grips.position.shape, dtype=np.bool_)
    for slot in range(1, len(grips.finger)):
        both = (grips.finger[slot] > 0) & (grips.finger[slot] != THUMB) & (grips.finger[slot - 1] > 0)
        same = both & (grips.fret[slot] == grips.fret[slot - 1])
        one_fret &= same | ~both
        gap = np.minimum(
            np.abs(grips.first[slot] - grips.last[slot - 1]), np.abs(grips.first[slot - 1] - grips.last[slot])
        )
        laid = (grips.last[slot] > grips.first[slot]) | (grips.last[slot - 1] > grips.first[slot - 1])
        count += (same & (gap == 1)) * np.where(laid, beside_laid, 1.0)
    return count * one_fret


def sounding_under(grips: GripArrays, first: Ints, last: Ints) -> Ints:
    """How many notes sound on the strings that a finger covers."""
    sounding: Ints = np.sum([(first <= string) & (string <= last) for string in grips.string], axis=0)
    return sounding


def all_struck(grips: GripArrays) -> Bools:
    """Whether no note is held over from before."""
    slots = zip(grips.string, grips.struck, strict=True)
    all_struck: Bools = np.logical_and.reduce([struck | (string < 0) for string, struck in slots])
    return all_struck


def beside_open(grips: GripArrays, last: Ints) -> Bools:
    """Whether the string next to a finger, on the thinner side, sounds open."""
    beside_open: Bools = np.zeros(grips.position.shape, dtype=np.bool_)
    for string, fret, struck in zip(grips.string, grips.note_fret, grips.struck, strict=True):
        beside_open |= struck & (string == last + 1) & (fret == 0)
    return beside_open


def one_finger_down(grips: GripArrays) -> Bools:
    """Whether one finger holds all that is fretted, and nothing is held over from before."""
    down = sum((finger > 0).astype(np.int64) for finger in grips.finger)
    one_down: Bools = (down == 1) & all_struck(grips)
    return one_down


def all_by_one_finger(grips: GripArrays) -> Bools:
    """Whether one finger holds all that is struck, and nothing sounds beside it."""
    fretted = [(string < 0) | (finger > 0) for string, finger in zip(grips.string, grips.note_finger, strict=True)]
    by_one: Bools = one_finger_down(grips) & np.logical_and.reduce(fretted)
    return by_one


def not_first(grips: GripArrays, opens: Ints) -> Bools:
    """Whether another finger than the first begins a chord, but for those with open strings on the first frets.

    Two notes of one fret may have the third finger laid across them, or, with strings between, the second: it stays
    on its string as a guide, while the first and the third change places beside it.
    """
    fretted = [np.where(finger > 0, fret, 99) for finger, fret in zip(grips.finger, grips.fret, strict=True)]
    lowest = np.min(fretted, axis=0)
    level = np.max(
        [np.where(finger > 0, fret, 0) for finger, fret in zip(grips.finger, grips.fret, strict=True)], axis=0
    )
    notes = np.sum([(string >= 0).astype(np.int64) for string in grips.string], axis=0)
    guided = (notes == 2) & (grips.finger[0] == 2) & (level == lowest) & (grips.thinnest - grips.thickest > 1)
    barred = (notes == 2) & (grips.finger[0] == 3) & all_by_one_finger(grips)
    not_first: Bools = (
        (grips.finger[0] > 1)
        & (grips.fret[0] == lowest)
        & ((opens == 0) | (lowest > FIRST_FRETS))
        & ~(guided | barred)
    )
    return not_first
