"""The fretting hand: what fingers and hand do between two notes.

A state is a string (counted from the thickest), a fret, a finger (0 for an open string) and the hand's
position: the fret over which the first finger is at home. All lengths are along the neck in millimetres,
between finger spots (`dromic.instrument.geometry.finger_spots`).

The time a move needs is a sum of named terms, each an array of shape (states before, states after), in
milliseconds. Moves that cannot be made (a hammer-on to a lower fret) are marked as not allowed.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dromic.hands.profile import Comfort, FrettingHand, LettingGo, LittleFinger, LowFrets, SameFret
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Mark

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]

LOW_FRETS = 5


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

    def take(self, at: Ints) -> FretStates:
        """Return the states with these numbers, in that order."""
        return FretStates(self.string[at], self.fret[at], self.finger[at], self.position[at])

    @property
    def parts(self) -> tuple[Ints, Ints, Ints, Ints]:
        """String, fret, finger and position."""
        return self.string, self.fret, self.finger, self.position


def joined(some: Sequence[FretStates]) -> FretStates:
    """Return states one after the other."""
    return FretStates(*(np.concatenate(parts) for parts in zip(*(one.parts for one in some), strict=True)))


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
class TransitionKind:
    """How the fretting hand is asked to get from one note to the next.

    Parameters
    ----------
    legato : Mark or None
        Hammer-on, pull-off, slide or release by which the second note is reached.
    silent_between : bool
        Whether a rest or staccato lets the hand leave the first note early.
    plants : bool
        Whether a pull-off to a fretted note follows the second note.
    slur : bool
        Whether the second note is to be hammered on or pulled off, whichever the fingers can do.
    """

    legato: Mark | None = None
    silent_between: bool = False
    plants: bool = False
    slur: bool = False


PICKED = TransitionKind()


@dataclass(frozen=True)
class Posture:
    """Comfort of holding each state, named parts in effort, each of shape (states,)."""

    reach: Floats
    frame: Floats
    fourth: Floats
    bend: Floats
    high: Floats
    open_far: Floats
    barre: Floats
    damped: Floats
    vibrato: Floats
    against: Floats

    @property
    def total(self) -> Floats:
        """Sum of the parts."""
        single = self.reach + self.frame + self.fourth + self.bend + self.high + self.open_far
        return single + self.barre + self.damped + self.vibrato + self.against


def posture(
    states: FretStates,
    instrument: Instrument,
    hand: FrettingHand,
    comfort: Comfort,
    *,
    bend: bool = False,
    vibrato: bool = False,
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
    vibrato : bool
        Whether it has vibrato.
    """
    reach = reach_mm(states, instrument, hand)
    fretted = states.finger > 0
    off_frame = fretted & (states.fret - states.position != states.finger - 1)
    thinner = instrument.strings - 1 - states.string
    bends = np.array(bend_efforts(comfort)) * bend
    shakes = np.array(vibrato_efforts(comfort)) * vibrato
    return Posture(
        reach_effort(reach, comfort.reach, comfort),
        comfort.frame * off_frame + comfort.first_away * (off_frame & (states.finger == 1)),
        comfort.fourth * (states.finger == 4),
        bends[states.finger],
        comfort.high * np.maximum(states.fret + instrument.capo - comfort.high_from, 0) * thinner,
        comfort.open_far * np.where(fretted, 0.0, np.maximum(states.position - comfort.open_near, 0.0)),
        np.zeros(len(states)),
        np.zeros(len(states)),
        shakes[states.finger],
        _efforts(against_camp(states.fret + instrument.capo, states.finger, hand), comfort.against),
    )


def _efforts(where: Bools, effort: float) -> Floats:
    return np.where(where, effort, 0.0).astype(np.float64)


def bend_efforts(comfort: Comfort) -> tuple[float, ...]:
    """Efforts of a bend by finger, 0 first."""
    return (0.0, comfort.bend_1, comfort.bend_2, 0.0, comfort.bend_4)


def vibrato_efforts(comfort: Comfort) -> tuple[float, ...]:
    """Efforts of vibrato by finger, 0 first."""
    return (0.0, comfort.vibrato_1, 0.0, 0.0, comfort.vibrato_4)


def against_camp(frets: Ints, fingers: Ints, hand: FrettingHand) -> Bools:
    """Whether a finger is one that the player's camp does not use there; frets count from the nut."""
    low = (hand.low_frets is LowFrets.ONE_TWO_FOUR) & (frets <= LOW_FRETS) & (fingers == 3)
    found: Bools = low | ((hand.little_finger is LittleFinger.AVOIDED) & (fingers == 4))
    return found


@dataclass(frozen=True)
class FretMoves:
    """Time that each named part of a move takes, in ms, and what kind of move it is; arrays of one shape."""

    place: Floats
    lift: Floats
    fourth: Floats
    weak: Floats
    roll: Floats
    jump: Floats
    cross: Floats
    also: Floats
    plant: Floats
    shift: Floats
    hold: Floats
    slide: Floats
    late: Floats
    release: Floats
    allowed: Bools
    shifted: Bools
    rolled: Bools
    jumped: Bools
    shift_mm: Floats
    weak_pair: Floats
    apart: Floats
    squeezed: Floats
    against: Floats

    @property
    def discomfort(self) -> Floats:
        """Sum of the efforts that do not depend on time."""
        return sum_of(self.weak_pair, self.apart, self.squeezed, self.against)

    @property
    def time_ms(self) -> Floats:
        """Sum of the named times."""
        parts = (
            self.place,
            self.lift,
            self.fourth,
            self.weak,
            self.roll,
            self.jump,
            self.cross,
            self.also,
            self.plant,
            self.shift,
            self.hold,
            self.slide,
            self.late,
            self.release,
        )
        return sum_of(*parts)


def constant(value: float, shape: tuple[int, ...]) -> Floats:
    """Return an array of one value that takes no room; `sum_of` knows it."""
    return np.broadcast_to(np.float64(value), shape)


def sum_of(*parts: Floats) -> Floats:
    """Sum of arrays of one shape, those of one value added as a number.

    Examples
    --------
    >>> sum_of(np.array([1.0, 2.0]), constant(3.0, (2,)), constant(0.0, (2,))).tolist()
    [4.0, 5.0]
    """
    total = np.zeros(parts[0].shape)
    rest = 0.0
    for part in parts:
        if part.size and not any(part.strides):
            rest += float(part.flat[0])
        else:
            total += part
    if rest:
        total += rest
    return total


def _pair_table(p23: float, p24: float, p34: float) -> Floats:
    """Table by finger and finger, 0 for the open string."""
    table = np.zeros((5, 5))
    for (one, other), value in {(2, 3): p23, (2, 4): p24, (3, 4): p34}.items():
        table[one, other] = table[other, one] = value
    return table


class FrettingTables:
    """What the moves of one hand on one instrument are looked up in.

    Parameters
    ----------
    instrument : Instrument
    hand : FrettingHand
    comfort : Comfort
    high_gain : bool
        Whether a roll must not let two strings ring together.
    """

    def __init__(
        self, instrument: Instrument, hand: FrettingHand, comfort: Comfort, *, high_gain: bool = False
    ) -> None:
        self.instrument, self.hand, self.comfort = instrument, hand, comfort
        spots = instrument.spots
        self.shift_mm: Floats = np.abs(spots[:, None] - spots[None, :])
        self.shift_ms = np.where(
            self.shift_mm > 0,
            hand.shift_ms + hand.shift_fitts_ms * np.log2(1.0 + self.shift_mm / hand.shift_target_mm),
            0.0,
        )
        self.spread = np.array((0.0, *hand.spread_mm))
        self.weak_ms = _pair_table(0.0, hand.weak_24_ms, hand.weak_34_ms)
        self.weak_effort = _pair_table(comfort.weak_23, comfort.weak_24, comfort.weak_34)
        self.roll_ms = hand.roll_ms + (hand.roll_gain_ms if high_gain else 0.0)

    def all_moves(self, before: FretStates, after: FretStates, manner: TransitionKind = PICKED) -> FretMoves:
        """Times and kinds of all moves between two sets of states, arrays of shape (A, B)."""
        rows = FretStates(*(part[:, None] for part in before.parts))
        columns = FretStates(*(part[None, :] for part in after.parts))
        return self.paired_moves(rows, columns, manner)

    def paired_moves(self, before: FretStates, after: FretStates, manner: TransitionKind = PICKED) -> FretMoves:
        """Do as `all_moves`, each state only to its partner, arrays of shape (N,)."""
        legato, slur = manner.legato, manner.slur
        hand, comfort = self.hand, self.comfort
        string_a, fret_a, finger_a, home_a = before.parts
        string_b, fret_b, finger_b, home_b = after.parts
        same_string = string_a == string_b
        rise, shift_frets = fret_b - fret_a, home_b - home_a
        same_fret, shifted = rise == 0, shift_frets != 0
        fretted, held = finger_b > 0, finger_a > 0
        same_finger = (finger_a == finger_b) & fretted
        other_finger = held & fretted & ~same_finger
        near = same_finger & same_fret
        rolled = near & (np.abs(string_a - string_b) == 1)
        glides = same_finger & same_string & ((rise == shift_frets) | same_fret)
        newly_placed = fretted & ~(rolled | glides)
        jumped = same_finger & newly_placed

        stays_home = other_finger & ~shifted
        behind = (finger_b - finger_a) * rise < 0

        is_slide = legato is Mark.SLIDE
        fixed = {Mark.HAMMER: hand.hammer_ms, Mark.PULL: hand.pull_ms}.get(legato or Mark.TIE, hand.place_ms)
        put_down: Floats = np.array(fixed)
        allowed = _allowed(legato, same_string, rise, shift_frets, finger_a, finger_b)
        if slur:
            hammered = hand.hammer_ms + hand.nowhere_ms * ~same_string
            put_down = np.where(same_string & (rise < 0), hand.pull_ms, hammered)
            allowed = _slurs(same_string, rise, shift_frets, finger_a, finger_b)
        release_ring = float(hand.pull_ms if slur or legato is Mark.PULL else hand.lift_ms)
        hold_ms = 0.0 if is_slide or manner.silent_between else hand.hold_ms
        lifts = hand.letting_go is LettingGo.LIFT and legato is None
        released = held & ~same_string & ~near if lifts else None
        leaves = shifted | jumped if hand.letting_go is LettingGo.HOLD else shifted
        comes_back = newly_placed & (finger_b == 1) & (finger_a > 1) & ~same_string & ~shifted
        side_by_side = other_finger & same_fret & ~same_string
        against = {SameFret.EITHER: None, SameFret.ROLL: side_by_side, SameFret.SEPARATE: rolled}[hand.same_fret]
        nothing = constant(0.0, shifted.shape)
        plants = manner.plants and legato is not Mark.PULL
        return FretMoves(
            place=put_down * newly_placed,
            lift=np.where(held & ~fretted, release_ring, 0.0),
            fourth=hand.fourth_ms * (newly_placed & (finger_b == 4)),
            weak=self.weak_ms[finger_a, finger_b],
            roll=self.roll_ms * rolled,
            jump=self._jump_ms(jumped & ~shifted, before, after),
            cross=hand.cross_ms * (stays_home & behind),
            also=nothing,
            plant=hand.plant_ms * newly_placed if plants else nothing,
            shift=self.shift_ms[home_a, home_b],
            hold=hold_ms * (leaves & held) if hold_ms else nothing,
            slide=constant(hand.slide_ms if is_slide else 0.0, shifted.shape),
            late=hand.first_finger_return_ms * comes_back,
            release=nothing if released is None else hand.release_ms * released,
            allowed=allowed,
            shifted=shifted,
            rolled=rolled,
            jumped=jumped,
            shift_mm=self.shift_mm[home_a, home_b],
            weak_pair=self.weak_effort[finger_a, finger_b],
            apart=self._apart(stays_home, before, after),
            squeezed=comfort.squeezed * side_by_side,
            against=nothing if against is None else comfort.against * against,
        )

    def _jump_ms(self, jumped: Bools, before: FretStates, after: FretStates) -> Floats:
        """Time of jumps without a shift; in a shift the finger is lifted anyway, and travels with the hand."""
        hand, spots, across = self.hand, self.instrument.spots, self.instrument.neck_y
        string_a, fret_a, _, _ = _where(jumped, before)
        string_b, fret_b, _, _ = _where(jumped, after)
        way_mm = np.hypot(spots[fret_b] - spots[fret_a], across[string_b] - across[string_a])
        time_ms = hand.jump_fitts_ms * np.log2(1.0 + way_mm / hand.jump_target_mm)
        found = np.zeros(jumped.shape)
        found[jumped] = hand.jump_ms + time_ms
        return found

    def _apart(self, stays_home: Bools, before: FretStates, after: FretStates) -> Floats:
        """Effort of opening or closing two fingers while the hand stays where it is."""
        spots = self.instrument.spots
        _, fret_a, finger_a, _ = _where(stays_home, before)
        _, fret_b, finger_b, _ = _where(stays_home, after)
        upward = np.where(finger_b > finger_a, 1.0, -1.0)
        ease = self.spread[finger_b] - self.spread[finger_a]
        opened_mm = upward * ((spots[fret_b] - spots[fret_a]) - ease)
        found = np.zeros(stays_home.shape)
        found[stays_home] = reach_effort(opened_mm, self.comfort.apart, self.comfort)
        return found


def _where(chosen: Bools, states: FretStates) -> tuple[Ints, ...]:
    """Return the parts of the states of chosen moves."""
    return tuple(np.broadcast_to(part, chosen.shape)[chosen] for part in states.parts)


def _allowed(
    legato: Mark | None, same_string: Bools, rise: Ints, shift_frets: Ints, finger_a: Ints, finger_b: Ints
) -> Bools:
    """Return which moves the legato mark lets the fingers make."""
    allowed: Bools = np.ones(same_string.shape, dtype=np.bool_)
    if legato is Mark.HAMMER:
        allowed = same_string & (rise > 0) & (finger_b > finger_a)
    elif legato is Mark.PULL:
        allowed = same_string & (rise < 0) & (finger_b < finger_a) & (shift_frets == 0)
    elif legato is Mark.SLIDE:
        allowed = same_string & (rise != 0) & (rise == shift_frets) & (finger_b == finger_a) & (finger_b > 0)
    elif legato is Mark.RELEASE:
        allowed = same_string & (rise == 0) & (finger_b == finger_a) & (shift_frets == 0)
    return allowed


def _slurs(same_string: Bools, rise: Ints, shift_frets: Ints, finger_a: Ints, finger_b: Ints) -> Bools:
    """Return which moves can sound the second note without a stroke."""
    on: Bools = same_string & (rise > 0) & (finger_b > finger_a)
    off: Bools = same_string & (rise < 0) & (finger_b < finger_a) & (shift_frets == 0)
    nowhere: Bools = ~same_string & (finger_b > 0)
    return on | off | nowhere
