"""The fretting hand: what fingers and hand do between two notes.

A state is a string (counted from the thickest), a fret, a finger (0 for an open string) and the hand's
position: the fret over which the first finger is at home. All lengths are along the neck in millimetres,
between finger spots (`dromic.instrument.geometry.finger_spots`).

The time a move needs is a sum of named terms, each an array of shape (states before, states after), in
milliseconds. Moves that cannot be made (a hammer-on to a lower fret) are marked as not allowed.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dromic.hands.profile import Comfort, FrettingHand
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Mark

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class FretStates:
    """Ways of fretting one note, each an array of shape (states,).

    Compared by identity, so that tables can be remembered by the states they were made for.
    """

    string: Ints
    fret: Ints
    finger: Ints
    position: Ints

    def __len__(self) -> int:
        return len(self.string)

    def pick(self, index: int) -> FretStates:
        """Return one state, as arrays of length 1."""
        at = slice(index, index + 1)
        return FretStates(self.string[at], self.fret[at], self.finger[at], self.position[at])

    def where(self, keep: Bools) -> FretStates:
        """Return the states that are kept."""
        return FretStates(self.string[keep], self.fret[keep], self.finger[keep], self.position[keep])


def reach_mm(states: FretStates, instrument: Instrument, hand: FrettingHand) -> Floats:
    """How far each finger is from where it lies at ease: positive opened, negative closed.

    Returns
    -------
    ndarray, shape (states,), millimetres
        0 for open strings.
    """
    spread = np.array((0.0, *hand.spread_mm))
    ease = instrument.spots[states.position] + spread[states.finger]
    reach: Floats = np.where(states.finger > 0, instrument.spots[states.fret] - ease, 0.0)
    return reach


def reach_effort(reach: Floats, weight: float, comfort: Comfort) -> Floats:
    """Effort of opening or closing fingers by so many mm beyond their ease."""
    beyond = np.maximum(np.abs(reach) - comfort.reach_ease_mm, 0.0) / 20.0
    effort: Floats = weight * np.where(reach < 0, comfort.crowding, 1.0) * beyond**2
    return effort


@dataclass(frozen=True)
class Posture:
    """Comfort of holding each state, named parts in effort, each of shape (states,)."""

    reach: Floats
    frame: Floats
    fourth: Floats
    bend: Floats
    high: Floats
    open_far: Floats

    @property
    def total(self) -> Floats:
        """Sum of the parts."""
        return self.reach + self.frame + self.fourth + self.bend + self.high + self.open_far


def posture(
    states: FretStates, instrument: Instrument, hand: FrettingHand, comfort: Comfort, *, bend: bool
) -> Posture:
    """How comfortable it is to hold each state.

    Parameters
    ----------
    states : FretStates
    instrument : Instrument
    hand : FrettingHand
    comfort : Comfort
    bend : bool
        Whether the note is bent.
    """
    reach = reach_mm(states, instrument, hand)
    fretted = states.finger > 0
    off_frame = fretted & (states.fret - states.position != states.finger - 1)
    thinner = instrument.strings - 1 - states.string
    by_finger = np.array((0.0, comfort.bend_1, comfort.bend_2, 0.0, comfort.bend_4))
    return Posture(
        reach_effort(reach, comfort.reach, comfort),
        comfort.frame * off_frame + comfort.first_away * (off_frame & (states.finger == 1)),
        comfort.fourth * (states.finger == 4),
        by_finger[states.finger] if bend else np.zeros(len(states)),
        comfort.high * np.maximum(states.fret + instrument.capo - comfort.high_from, 0) * thinner,
        comfort.open_far * np.where(fretted, 0.0, np.maximum(states.position - comfort.open_near, 0.0)),
    )


@dataclass(frozen=True)
class FretMoves:
    """Time that each named part of a move takes, in ms, and what kind of move it is; all (A, B)."""

    place: Floats
    lift: Floats
    fourth: Floats
    weak: Floats
    roll: Floats
    jump: Floats
    cross: Floats
    shift: Floats
    hold: Floats
    slide: Floats
    allowed: Bools
    shifted: Bools
    rolled: Bools
    jumped: Bools
    shift_mm: Floats
    weak_pair: Floats
    apart: Floats
    squeezed: Floats

    @property
    def discomfort(self) -> Floats:
        """Sum of the efforts that do not depend on time."""
        return self.weak_pair + self.apart + self.squeezed

    @property
    def time_ms(self) -> Floats:
        """Sum of the named times."""
        return (
            self.place
            + self.lift
            + self.fourth
            + self.weak
            + self.roll
            + self.jump
            + self.cross
            + self.shift
            + self.hold
            + self.slide
        )


def _weak_pairs(w23: float, w24: float, w34: float) -> Floats:
    table = np.zeros((5, 5))
    for (one, other), value in {(2, 3): w23, (2, 4): w24, (3, 4): w34}.items():
        table[one, other] = table[other, one] = value
    return table


def fret_moves(
    before: FretStates,
    after: FretStates,
    instrument: Instrument,
    hand: FrettingHand,
    comfort: Comfort,
    *,
    legato: Mark | None,
    silent_between: bool,
    high_gain: bool,
) -> FretMoves:
    """Times and kinds of all moves between two sets of states.

    Parameters
    ----------
    before, after : FretStates
    instrument : Instrument
    hand : FrettingHand
    comfort : Comfort
    legato : Mark or None
        Hammer-on, pull-off, slide or release by which the second note is reached.
    silent_between : bool
        Whether a rest lets the hand leave the first note early.
    high_gain : bool
        Whether a roll must not let two strings ring together.

    Returns
    -------
    FretMoves
    """
    string_a, string_b = before.string[:, None], after.string[None, :]
    fret_a, fret_b = before.fret[:, None], after.fret[None, :]
    finger_a, finger_b = before.finger[:, None], after.finger[None, :]
    home_a, home_b = before.position[:, None], after.position[None, :]
    spots, across = instrument.spots, instrument.neck_y

    same_string, same_fret = string_a == string_b, fret_a == fret_b
    same_finger = (finger_a == finger_b) & (finger_b > 0)
    fretted = finger_b > 0
    other_finger = (finger_a > 0) & fretted & ~same_finger
    stays = same_finger & same_string & same_fret
    rolled = same_finger & same_fret & (np.abs(string_a - string_b) == 1)

    along = (spots[fret_b] - spots[home_b]) - (spots[fret_a] - spots[home_a])
    aside = across[string_b] - across[string_a]
    inside_hand_mm = np.hypot(along, aside)
    guided = same_finger & same_string & (fret_b - fret_a == home_b - home_a)
    jumped = same_finger & ~stays & ~rolled & ~guided

    shifted = home_a != home_b
    shift_mm = np.abs(spots[home_b] - spots[home_a])
    must_hold = shifted & (finger_a > 0) & (not silent_between)

    spread = np.array((0.0, *hand.spread_mm))
    upward = np.where(finger_b > finger_a, 1.0, -1.0)
    opened_mm = upward * ((spots[fret_b] - spots[fret_a]) - (spread[finger_b] - spread[finger_a]))

    behind = (finger_b - finger_a) * (fret_b - fret_a) < 0
    cross = other_finger & ~shifted & behind

    is_slide = legato is Mark.SLIDE
    put_down = {Mark.HAMMER: hand.hammer_ms, Mark.PULL: hand.pull_ms}.get(legato or Mark.TIE, hand.place_ms)
    newly_placed = fretted & ~stays & ~rolled & ~guided
    weak_ms = _weak_pairs(0.0, hand.weak_24_ms, hand.weak_34_ms)
    weak_effort = _weak_pairs(comfort.weak_23, comfort.weak_24, comfort.weak_34)
    roll_ms = hand.roll_ms + (hand.roll_gain_ms if high_gain else 0.0)
    lifted = ~fretted & (finger_a > 0)

    return FretMoves(
        place=np.where(newly_placed, put_down, 0.0),
        lift=np.where(lifted, hand.pull_ms if legato is Mark.PULL else hand.lift_ms, 0.0),
        fourth=hand.fourth_ms * (newly_placed & (finger_b == 4)),
        weak=np.where(other_finger, weak_ms[finger_a, finger_b], 0.0),
        roll=roll_ms * rolled,
        jump=np.where(
            jumped,
            hand.jump_ms + hand.jump_fitts_ms * np.log2(1.0 + inside_hand_mm / hand.jump_target_mm),
            0.0,
        ),
        cross=hand.cross_ms * cross,
        shift=np.where(
            shifted, hand.shift_ms + hand.shift_fitts_ms * np.log2(1.0 + shift_mm / hand.shift_target_mm), 0.0
        ),
        hold=hand.hold_ms * (must_hold & (not is_slide)),
        slide=hand.slide_ms * np.broadcast_to(np.array(is_slide), shifted.shape),
        allowed=_allowed(legato, same_string, fret_a, fret_b, finger_a, finger_b, home_a, home_b),
        shifted=shifted,
        rolled=rolled,
        jumped=jumped,
        shift_mm=np.where(shifted, shift_mm, 0.0),
        weak_pair=np.where(other_finger, weak_effort[finger_a, finger_b], 0.0),
        apart=np.where(other_finger & ~shifted, reach_effort(opened_mm, comfort.apart, comfort), 0.0),
        squeezed=np.where(other_finger & same_fret & ~same_string, comfort.squeezed, 0.0),
    )


def _allowed(
    legato: Mark | None,
    same_string: Bools,
    fret_a: Ints,
    fret_b: Ints,
    finger_a: Ints,
    finger_b: Ints,
    home_a: Ints,
    home_b: Ints,
) -> Bools:
    """Return which moves the legato mark lets the fingers make."""
    allowed: Bools = np.ones(np.broadcast_shapes(fret_a.shape, fret_b.shape), dtype=np.bool_)
    if legato is Mark.HAMMER:
        allowed = same_string & (fret_b > fret_a) & (finger_b > finger_a)
    elif legato is Mark.PULL:
        allowed = same_string & (fret_b < fret_a) & (finger_b < finger_a) & (home_a == home_b)
    elif legato is Mark.SLIDE:
        moves_along = (fret_b != fret_a) & (fret_b - fret_a == home_b - home_a)
        allowed = same_string & moves_along & (finger_b == finger_a) & (finger_b > 0)
    elif legato is Mark.RELEASE:
        allowed = same_string & (fret_b == fret_a) & (finger_b == finger_a) & (home_a == home_b)
    return allowed
