"""How comfortable a grip is to hold: terms of effort by key, whatever comes before and after.

For a single note a finger off its own fret costs `frame`, above or below; in a chord one above costs `opened`,
because the others pull against it. The little finger has its own weight in chords too.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property
from itertools import chain
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dromic.arrays import Bools, Floats, Ints, Terms
from dromic.hands.chord_facts import (
    beside_open,
    bunched,
    not_first,
    one_finger_down,
    sounding_under,
)
from dromic.hands.comfort import Comfort
from dromic.hands.constants import FrettingHand, LittleFinger, LowFrets, OpenStrings
from dromic.hands.fingers import THUMB
from dromic.hands.grips import GripArrays
from dromic.hands.style import PLAIN, Sound
from dromic.instrument.instrument import Instrument

LOW_FRETS = 5
PEDAL_STRINGS_FROM = 5
GUITAR_SCALE_MM = 660.0
LONG_NECK_MM = 750.0
NONE: frozenset[int] = frozenset()


@dataclass(frozen=True)
class Inflections:
    """What the fingers do with notes beside holding them, each the pitches of the struck notes it is done with.

    `slight` bends are those of a quarter tone; `touched` notes are natural harmonics, which are not pressed.
    """

    bend: frozenset[int] = NONE
    slight: frozenset[int] = NONE
    vibrato: frozenset[int] = NONE
    trill: frozenset[int] = NONE
    wide_trill: frozenset[int] = NONE
    touched: frozenset[int] = NONE
    slid_in: frozenset[int] = NONE


PLAINLY = Inflections()


def spread_on(instrument: Instrument, hand: FrettingHand) -> Floats:
    """Where fingers 0 to 5 lie at ease, from the first, in mm: on a long neck the hand lies more open.

    Shape (6,), by finger.
    """
    wider = max(instrument.scale_mm / GUITAR_SCALE_MM, 1.0) ** hand.opens_on_long_necks
    spread: Floats = np.array((0.0, *hand.spread_mm, hand.thumb_mm)) * wider
    return spread


def reach_mm(fret: Ints, finger: Ints, position: Ints, instrument: Instrument, hand: FrettingHand) -> Floats:
    """How far a finger is from where it lies at ease: positive opened, negative closed, 0 for an open string.

    Of the shape of `fret`.

    Parameters
    ----------
    fret, finger, position : ndarray of int
    instrument : Instrument
    hand : FrettingHand
    """
    ease = instrument.spots[position] + spread_on(instrument, hand)[finger]
    reach: Floats = np.where(finger > 0, instrument.spots[fret] - ease, 0.0)
    return reach


def reach_effort(reach: Floats, weight: float, comfort: Comfort) -> Floats:
    """Effort of opening or closing fingers by so many mm beyond their ease; of the shape of `reach`.

    Parameters
    ----------
    reach : ndarray
    weight : float
    comfort : Comfort
    """
    beyond = np.maximum(np.abs(reach) - comfort.reach_ease_mm, 0.0) / comfort.reach_unit_mm
    effort: Floats = weight * np.where(reach < 0, comfort.crowding, 1.0) * beyond**2
    return effort


def against_option(nut_fret: Ints, finger: Ints, hand: FrettingHand) -> Bools:
    """Whether a finger is one that the player's style options do not use there; frets count from the nut.

    Of the shape of `finger`.

    Parameters
    ----------
    nut_fret, finger : ndarray of int
    hand : FrettingHand
    """
    low = (hand.low_frets is LowFrets.ONE_TWO_FOUR) & (nut_fret <= LOW_FRETS) & (finger == 3)
    against_option: Bools = low | ((hand.little_finger is LittleFinger.AVOIDED) & (finger == 4))
    return against_option


@dataclass(frozen=True)
class _Holding:
    """Grips that are held, and by whom, how and in what style; what several groups of terms ask of them."""

    grips: GripArrays
    instrument: Instrument
    hand: FrettingHand
    comfort: Comfort
    how: Inflections
    pedal: bool
    sound: Sound

    @cached_property
    def alone(self) -> Bools:
        """Whether one finger holds all that sounds."""
        return one_finger_down(self.grips)

    @cached_property
    def any_down(self) -> Bools:
        """Whether any finger is down."""
        down: Bools = np.logical_or.reduce([finger > 0 for finger in self.grips.finger])
        return down

    @cached_property
    def opens(self) -> tuple[Ints, Ints]:
        """See `_open_strings`."""
        return _open_strings(self.grips, self.instrument)


@dataclass(frozen=True)
class _Finger:
    """One finger of each grip: where it is, and what frets count from the nut; arrays of shape (grips,)."""

    slot: int
    finger: Ints
    fret: Ints
    first: Ints
    last: Ints
    nut_fret: Ints

    @property
    def down(self) -> Bools:
        """Whether it is down."""
        down: Bools = self.finger > 0
        return down

    @property
    def across(self) -> Ints:
        """Over how many further strings it lies."""
        across: Ints = (self.last - self.first) * self.down
        return across


Amounts = Iterator[tuple[str, NDArray[Any]]]


def posture(
    grips: GripArrays,
    instrument: Instrument,
    hand: FrettingHand,
    comfort: Comfort,
    *,
    how: Inflections = PLAINLY,
    pedal: bool = False,
    sound: Sound = PLAIN,
) -> Terms:
    """Terms of effort of holding each grip, each of shape (grips,).

    Parameters
    ----------
    grips : GripArrays
    instrument : Instrument
    hand : FrettingHand
    comfort : Comfort
    how : Inflections
    pedal : bool
        Whether it is struck again close by.
    sound : Sound
    """
    held = _Holding(grips, instrument, hand, comfort, how, pedal, sound)
    return _summed(held, OF_FINGERS, OF_GRIPS)


def _summed(
    held: _Holding,
    of_fingers: Iterable[Callable[[_Holding, _Finger], Amounts]],
    of_grips: Iterable[Callable[[_Holding], Amounts]],
) -> Terms:
    """The terms of several groups, each key summed over the fingers."""
    grips, capo = held.grips, held.instrument.capo
    terms: Terms = {}
    amounts = []
    for slot, finger in enumerate(grips.finger):
        fret = grips.fret[slot]
        one = _Finger(slot, finger, fret, grips.first[slot], grips.last[slot], fret + capo)
        amounts += [group(held, one) for group in of_fingers]
    amounts += [group(held) for group in of_grips]
    for key, amount in chain.from_iterable(amounts):
        terms[key] = terms[key] + amount if key in terms else amount
    return terms


def struck_alone(
    grips: GripArrays,
    instrument: Instrument,
    hand: FrettingHand,
    comfort: Comfort,
    *,
    how: Inflections = PLAINLY,
    sound: Sound = PLAIN,
) -> Terms:
    """Terms of what is done with the notes struck of a chord shape that is held already; as `posture`.

    Parameters
    ----------
    grips : GripArrays
    instrument : Instrument
    hand : FrettingHand
    comfort : Comfort
    how : Inflections
    sound : Sound
    """
    held = _Holding(grips, instrument, hand, comfort, how, False, sound)
    return _summed(held, (_inflecting,), (_damping,))


def _in_position(held: _Holding, one: _Finger) -> Amounts:
    """A finger in its position: how far it reaches, and whether the fret is its own."""
    grips, comfort = held.grips, held.comfort
    reach = reach_mm(one.fret, one.finger, grips.position, held.instrument, held.hand)
    yield "reach", reach_effort(reach, comfort.reach, comfort)
    own_fret = grips.position + one.finger - 1
    off = one.down & (one.fret != own_fret) & (one.finger != THUMB)
    opened = off & (one.fret > own_fret) & (not grips.single)
    frame = "frame" if grips.single else "frame_too"
    yield frame, getattr(comfort, frame) * (off & ~opened)
    yield "first_away", comfort.first_away * (off & (one.finger == 1))
    little = "fourth" if grips.single else "fourth_too"
    yield little, getattr(comfort, little) * (one.finger == 4)
    if not grips.single:
        yield "opened", comfort.opened * opened
        yield "thumb_over", comfort.thumb_over * (one.finger == THUMB)


def _along_the_neck(held: _Holding, one: _Finger) -> Amounts:
    """Where on the neck the style is at home, by the first finger slot alone."""
    if one.slot:
        return
    grips, comfort, sound, instrument = held.grips, held.comfort, held.sound, held.instrument
    down, nut_fret = one.down, one.nut_fret
    pressed = down & ~_sounds(grips, one.finger, held.how.touched, instrument) if held.how.touched else down
    yield "pressing", comfort.pressing * pressed
    by_the_nut, long_neck = sound.by_the_nut, instrument.scale_mm > LONG_NECK_MM
    yield "up_the_neck", comfort.up_the_neck * nut_fret * down * (by_the_nut and not long_neck)
    yield "up_long_neck", comfort.up_long_neck * nut_fret * down * (by_the_nut and long_neck)
    yield "past_open", comfort.past_open * _past_open(grips, instrument) * by_the_nut
    yield "up_closed", comfort.up_closed * nut_fret * down * (not by_the_nut)
    yield "down_closed", comfort.down_closed * np.maximum(LOW_FRETS - nut_fret, 0) * down * sound.mid_neck
    off_nut = (grips.position > 1) & (grips.position < LOW_FRETS) & down & (nut_fret < LOW_FRETS)
    yield "off_nut", comfort.off_nut * off_nut * (by_the_nut and grips.single and not long_neck)
    yield "off_nut_long", comfort.off_nut_long * off_nut * (long_neck and grips.single)


def _high_or_against(held: _Holding, one: _Finger) -> Amounts:
    """Far up a thick string, and what the player's style options do not want."""
    comfort = held.comfort
    thinner = held.instrument.strings - 1 - one.first
    yield "high", comfort.high * np.maximum(one.nut_fret - comfort.high_from, 0) * thinner * one.down
    yield "against", comfort.against * against_option(one.nut_fret, one.finger, held.hand)


def _inflecting(held: _Holding, one: _Finger) -> Amounts:
    """Bends, vibrato, trills and slides by weaker fingers."""
    for keys, share, pitches in _inflected(held.how, held.comfort):
        sounds = _sounds(held.grips, one.finger, pitches, held.instrument)
        for key, which in keys.items():
            yield key, share * getattr(held.comfort, key) * ((one.finger == which) & sounds)


def _laid_across(held: _Holding, one: _Finger) -> Amounts:
    """A finger of a chord laid across strings."""
    if held.grips.single:
        return
    comfort, across, alone = held.comfort, one.across, held.alone
    silent = across + 1 - sounding_under(held.grips, one.first, one.last)
    yield "laid", comfort.laid * (across > 0)
    yield "laid_over", comfort.laid_over * (across > 0) * silent
    yield "laid_by_open", comfort.laid_by_open * ((across > 0) & beside_open(held.grips, one.last))
    yield "barre", comfort.barre * across * (one.finger == 1)
    yield "barre_other", comfort.barre_other * across * (one.finger > 1) * ~(alone & (one.finger == 3))
    yield "barre_alone", comfort.barre_alone * across * (alone & (one.finger == 3))


def _from_finger_to_finger(held: _Holding, one: _Finger) -> Amounts:
    """A finger of a chord against the one before it."""
    if one.slot and not held.grips.single:
        yield "apart", _apart(held.grips, one.slot, held.instrument, held.hand, held.comfort)


def _with_open_strings(held: _Holding) -> Amounts:
    """Open strings: far from the hand, in closed chords and styles, with high gain, against the player's wish."""
    grips, comfort, sound = held.grips, held.comfort, held.sound
    opens, opens_high = held.opens
    ringing = opens if grips.single and not held.pedal else opens_high
    away = np.clip(grips.position - comfort.open_near, 0.0, comfort.open_range)
    yield "open_far", comfort.open_far * (opens if sound.by_the_nut or sound.closed else opens_high) * away
    if not grips.single:
        in_closed = sound.closed or sound.open_is_loud
        yield "open_in_chord", comfort.open_in_chord * opens * held.any_down * in_closed
    yield "open_closed", comfort.open_closed * opens * sound.closed
    if sound.open_strings is OpenStrings.AVOIDED:
        yield "against", comfort.against * opens
    yield "open_gain", comfort.open_gain * ringing * sound.open_is_loud


def _of_chords(held: _Holding) -> Amounts:
    """The shape of a chord as a whole."""
    if held.grips.single:
        return
    grips, comfort = held.grips, held.comfort
    yield "bunched", comfort.bunched * bunched(grips, comfort.bunched_laid)
    yield from _damping(held)
    yield "idle_open", comfort.idle_open * _idle_open(grips, held.instrument)
    yield "not_first", comfort.not_first * not_first(grips, held.opens[0])


def _damping(held: _Holding) -> Amounts:
    """Strings between those struck."""
    grips, comfort = held.grips, held.comfort
    between = grips.thinnest - grips.thickest + 1 - sum(one.astype(np.int64) for one in grips.struck)
    yield "damped", comfort.damped * between
    yield "damped_gain", comfort.damped_gain * between * held.sound.damps


OF_FINGERS = (
    _in_position,
    _along_the_neck,
    _high_or_against,
    _inflecting,
    _laid_across,
    _from_finger_to_finger,
)
OF_GRIPS = (_with_open_strings, _of_chords)


_BENT = {"bend_1": 1, "bend_2": 2, "bend_4": 4}
_SHAKEN = {"vibrato_1": 1, "vibrato_4": 4}
_TRILLED = {"trill_2": 2, "trill_3": 3}
_SLID = {"slide_in_2": 2, "slide_in_4": 4}


def _inflected(how: Inflections, comfort: Comfort) -> Iterator[tuple[dict[str, int], float, frozenset[int]]]:
    """Keys by finger, share of their weight, and pitches of each kind that there is."""
    kinds = (
        (_BENT, 1.0, how.bend),
        (_BENT, comfort.slight_bend, how.slight),
        (_SHAKEN, 1.0, how.vibrato),
        (_TRILLED, 1.0, how.trill),
        ({**_TRILLED, "trill_wide": 3}, 1.0, how.wide_trill),
        (_SLID, 1.0, how.slid_in),
    )
    for kind in kinds:
        if kind[2]:
            yield kind


def _open_strings(grips: GripArrays, instrument: Instrument) -> tuple[Ints, Ints]:
    """How many open strings are struck, and how many of them are no low pedal strings."""
    opens = np.zeros(grips.position.shape, dtype=np.int64)
    high = np.zeros(grips.position.shape, dtype=np.int64)
    for string, fret, struck in zip(grips.string, grips.note_fret, grips.struck, strict=True):
        is_open = struck & (string >= 0) & (fret == 0)
        opens += is_open
        high += is_open & (string > instrument.strings - PEDAL_STRINGS_FROM)
    return opens, high


def _sounds(grips: GripArrays, finger: Ints, pitches: frozenset[int], instrument: Instrument) -> Bools:
    """Whether a finger holds a note struck that has one of some pitches."""
    tuning = np.array([*instrument.tuning, 0]) + instrument.capo
    sounds: Bools = np.zeros(grips.position.shape, dtype=np.bool_)
    for string, fret, own, struck in zip(
        grips.string, grips.note_fret, grips.note_finger, grips.struck, strict=True
    ):
        sounds |= struck & (own == finger) & np.isin(tuning[string] + fret, list(pitches))
    return sounds


def _past_open(grips: GripArrays, instrument: Instrument) -> Bools:
    """Whether a single note is fretted no higher than the open string that sounds it lies."""
    if not grips.single:
        return np.zeros(grips.position.shape, dtype=np.bool_)
    tuning = np.array(instrument.tuning)
    pitch = tuning[grips.string[0]] + grips.note_fret[0]
    low = (grips.note_fret[0] > 0) & (grips.note_fret[0] <= LOW_FRETS)
    past_open: Bools = np.isin(pitch, tuning) & low & (grips.note_finger[0] > 0)
    return past_open


def _idle_open(grips: GripArrays, instrument: Instrument) -> Ints:
    """How many notes of a chord with open strings are fretted by the nut though an idle open string sounds them."""
    count = np.zeros(grips.position.shape, dtype=np.int64)
    opened = np.zeros(grips.position.shape, dtype=np.bool_)
    tuning = np.array([*instrument.tuning, 0])
    for string, fret, finger in zip(grips.string, grips.note_fret, grips.note_finger, strict=True):
        opened |= (string >= 0) & (fret == 0)
        low = (string >= 0) & (finger > 0) & (fret <= LOW_FRETS)
        idle = [
            (tuning[string] + fret == pitch) & np.logical_and.reduce([other != number for other in grips.string])
            for number, pitch in enumerate(instrument.tuning)
        ]
        count += low & np.logical_or.reduce(idle)
    return count * opened


def _apart(grips: GripArrays, slot: int, instrument: Instrument, hand: FrettingHand, comfort: Comfort) -> Floats:
    """Effort of a finger opened or closed against the one before it in the grip, along and across the neck."""
    spots, strings, spread = instrument.spots, instrument.neck_y, spread_on(instrument, hand)
    one, two = grips.finger[slot - 1], grips.finger[slot]
    along = spots[grips.fret[slot]] - spots[grips.fret[slot - 1]] - (spread[two] - spread[one])
    thicker = strings[np.minimum(grips.last[slot], grips.last[slot - 1])]
    thinner = strings[np.maximum(grips.first[slot], grips.first[slot - 1])]
    across = np.maximum(thinner - thicker - hand.across_mm * (two - one), 0.0)
    opened_mm = np.where(along < 0, -1.0, 1.0) * np.hypot(along, across)
    return np.where((two > 0) & (two != THUMB), reach_effort(opened_mm, comfort.apart, comfort), 0.0)
