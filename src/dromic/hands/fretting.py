"""The fretting hand: what fingers and hand do from one grip to the next.

All lengths are along the neck in millimetres, between finger spots (`dromic.instrument.geometry.finger_spots`).
The time a move needs and the effort it costs apart from time are sums of terms, each an array by its key
(`dromic.hands.terms`). A single note is a grip of one note: the same formulas serve notes and chords. The fingers
of a change of chord move at the same time, so what counts is the slowest of them, and a little for each further
one. Between two single notes there is more to say (weak pairs, crossing, the first finger coming back); none of
that is counted for chords. Moves that cannot be made (a hammer-on to a lower fret) are not allowed.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dromic.arrays import Bools, Floats, Ints, Terms
from dromic.hands.comfort import Comfort
from dromic.hands.constants import FrettingHand, LettingGo, SameFret, Shifting
from dromic.hands.grips import Grip, GripArrays
from dromic.hands.possible_moves import PICKED, TransitionKind, can_be_reached, flies_on, keeps_held
from dromic.hands.posture import reach_effort, spread_on
from dromic.hands.style import PLAIN, Sound
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Mark

LIKE_SEMITONES = 2
SHIFTING = {Shifting.BY_PASSAGE: 1.0, Shifting.SELDOM: 2.5, Shifting.FREELY: 0.4}


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
        """Sum of the times."""
        return sum_of(self.times, self.shifted.shape)

    @property
    def effort(self) -> Floats:
        """Sum of the efforts that do not depend on time."""
        return sum_of(self.efforts, self.shifted.shape)

    @property
    def hurried_effort(self) -> Floats:
        """Sum of the efforts that grow with the hurry, at the most hurry there is."""
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
    found = {}
    for key, weight in weights.items():
        one, other = (int(digit) for digit in key.split("_")[1])
        table = np.zeros((5, 5))
        table[one, other] = table[other, one] = weight
        found[key] = table
    return found


@dataclass(frozen=True)
class _Before:
    """What a finger did before: whether it was down, over which strings, at which fret."""

    was: Bools
    first: Ints
    last: Ints
    fret: Ints


def _before(grips: GripArrays, finger: Ints) -> _Before:
    """Look a finger up in the grips before."""
    slots = [(own == finger) & (finger > 0) for own in grips.finger]
    if len(slots) == 1:
        return _Before(slots[0], grips.first[0], grips.last[0], grips.fret[0])

    def found(parts: tuple[Ints, ...]) -> Ints:
        chosen: Ints = np.select(slots, [np.broadcast_to(part, slots[0].shape) for part in parts], 0)
        return chosen

    return _Before(np.logical_or.reduce(slots), found(grips.first), found(grips.last), found(grips.fret))


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
        """How much of the hurried efforts counts in the time that the hand has: 1 at most."""
        found: Floats = np.minimum(self.comfort.shift_time_ms / gap_ms, 1.0)
        return found

    def all_moves(self, before: GripArrays, after: GripArrays, kind: TransitionKind = PICKED) -> FretMoves:
        """Times and kinds of all moves between two sets of grips, arrays of shape (A, B)."""
        return self.moves(before[:, None], after[None, :], kind)

    def moves(self, before: GripArrays, after: GripArrays, kind: TransitionKind = PICKED) -> FretMoves:
        """Do as `all_moves`, each grip only to its partner, arrays of one shape or of shapes that broadcast."""
        hand, legato = self.hand, kind.legato
        shift = after.position - before.position
        shifted: Bools = shift != 0
        was_down, is_down = (_any_down(grips) for grips in (before, after))
        times, rolled, jumped = self._fingers(before, after, shift, kind)
        pulls = kind.slur or legato is Mark.PULL
        lifted = was_down & ~is_down
        times["lift_ms"] = (0.0 if pulls or legato is Mark.TAP else hand.lift_ms) * lifted  # a tap leaves it down
        if pulls:
            times["pull_ms"] = times.get("pull_ms", 0.0) + hand.pull_ms * lifted
        times["shift_ms"] = hand.shift_ms * shifted
        times["shift_fitts_ms"] = self.shift_travel_ms[before.position, after.position]
        plain = before.single and after.single
        leaves = shifted | jumped if plain and hand.letting_go is LettingGo.HOLD else shifted
        if legato is not Mark.SLIDE and not kind.silent_between:
            times["hold_ms"] = hand.hold_ms * (leaves & was_down)
        if legato is Mark.SLIDE:
            times["slide_ms"] = np.array(hand.slide_ms)
        if legato is Mark.TAP:
            times["tap_ms"] = np.array(hand.tap_ms)
            times["to_neck_ms"] = np.array(hand.to_neck_ms * kind.to_neck)
        efforts: Terms = {}
        mm = self.shift_mm[before.position, after.position]
        hurried = self._of_the_hand(before, after, shift, shifted, mm, kind)
        allowed = (
            keeps_held(before, after)
            & can_be_reached(before, after, shift, kind)
            & flies_on(before, after, shifted)
        )
        if not before.single and not after.single:
            self._between_chords(before, after, efforts)
        if plain:
            self._between_single_notes(before, after, shifted, rolled, kind, times, efforts)
        return FretMoves(
            times, efforts, hurried, allowed, shifted, rolled, jumped, mm, np.broadcast_to(~was_down, shift.shape)
        )

    def _of_the_hand(
        self,
        before: GripArrays,
        after: GripArrays,
        shift: Ints,
        shifted: Bools,
        mm: Floats,
        kind: TransitionKind,
    ) -> Terms:
        """What moving the hand costs in a hurry, apart from its time; less where a finger glides."""
        comfort, camp = self.comfort, SHIFTING[self.hand.shifting]
        efforts: Terms = {}
        glides = np.zeros(shifted.shape, dtype=np.bool_)
        for slot, finger in enumerate(after.finger):
            one = _before(before, finger)
            strings = (one.first == after.first[slot]) & (one.last == after.last[slot])
            glides |= one.was & strings & (after.fret[slot] - one.fret == shift)
        efforts["shift"] = comfort.shift * (shifted * camp)
        way = np.sqrt(mm / 100.0) * camp
        guided = shifted & _several_fretted(after) & (_several_fretted(before) | ~_any_down(before) | glides)
        carried = shifted & ~guided & (mm <= comfort.take_mm) & kind.next_take
        efforts["shift_far"] = comfort.shift_far * (way * ~(guided | carried))
        efforts["shift_guided"] = comfort.shift_guided * (way * guided)
        efforts["shift_take"] = comfort.shift_take * (way * carried)
        efforts["shift_unguided"] = comfort.shift_unguided * ((shifted & ~glides) * camp)
        if before.single and after.single and kind.legato is not Mark.SLIDE:
            efforts["glided"] = comfort.glided * ((shifted & glides) * camp)
        return efforts

    def _between_chords(self, before: GripArrays, after: GripArrays, efforts: Terms) -> None:
        """Add what is counted between two chords of the same build, or nearly: shape and strings kept."""
        if len(before.string) != len(after.string):
            return
        tuning = np.array([*self.instrument.tuning, 0])
        one = [tuning[string] + fret for string, fret in zip(before.string, before.note_fret, strict=True)]
        two = [tuning[string] + fret for string, fret in zip(after.string, after.note_fret, strict=True)]
        shape = np.broadcast_shapes(before.position.shape, after.position.shape)
        alike: Bools = np.ones(shape, dtype=np.bool_)
        like: Bools = np.ones(shape, dtype=np.bool_)
        kept: Bools = np.ones(shape, dtype=np.bool_)
        same_strings: Bools = np.ones(shape, dtype=np.bool_)
        for slot in range(len(one)):
            wider = two[slot] - two[0] - one[slot] + one[0]
            alike &= wider == 0
            like &= (np.abs(wider) <= LIKE_SEMITONES) & before.struck[slot] & after.struck[slot]
            kept &= after.string[slot] - after.string[0] == before.string[slot] - before.string[0]
            kept &= after.note_finger[slot] == before.note_finger[slot]
            same_strings &= after.string[slot] == before.string[slot]
        alike &= like
        efforts["respaced"] = self.comfort.respaced * (like & ~alike & ~same_strings)
        efforts["regrip"] = self.comfort.regrip * (alike & ~kept)
        efforts["other_strings"] = self.comfort.other_strings * (
            alike & kept & (before.string[0] != after.string[0])
        )

    def _fingers(
        self, before: GripArrays, after: GripArrays, shift: Ints, kind: TransitionKind
    ) -> tuple[Terms, Bools, Bools]:
        """Times of the slowest finger, whether it rolls, and whether it jumps."""
        slots = [self._finger(before, after, slot, shift, kind) for slot in range(len(after.finger))]
        times, rolled, jumped, moving = slots[0]
        if len(slots) > 1:
            longest = sum_of(times, shift.shape)
            count = moving.astype(np.int64)
            for its_times, rolls, jumps, moves in slots[1:]:
                time_ms = sum_of(its_times, shift.shape)
                slower = moves & (time_ms > longest)
                times = {
                    key: np.where(slower, its_times.get(key, 0.0), times.get(key, 0.0))
                    for key in dict.fromkeys((*times, *its_times))
                }
                rolled, jumped = np.where(slower, rolls, rolled), np.where(slower, jumps, jumped)
                longest = np.maximum(longest, time_ms)
                count += moves
            times["extra_fingers_ms"] = self.hand.extra_fingers_ms * np.maximum(count - 1, 0)
        return times, rolled, jumped

    def _finger(
        self, before: GripArrays, after: GripArrays, slot: int, shift: Ints, kind: TransitionKind
    ) -> tuple[Terms, Bools, Bools, Bools]:
        """Times of one finger, and whether it rolls, jumps and moves at all."""
        hand = self.hand
        finger, first, last, fret = (part[slot] for part in (after.finger, after.first, after.last, after.fret))
        one = _before(before, finger)
        same_fret, same_strings = one.fret == fret, (one.first == first) & (one.last == last)
        covered = same_fret & (one.first <= first) & (last <= one.last)
        glides = same_strings & (fret - one.fret == shift)
        moves: Bools = (finger > 0) & ~(one.was & (covered | glides))
        alone = (one.first == one.last) & (first == last)
        rolls = moves & one.was & alone & same_fret & (np.abs(one.first - first) == 1)
        placed = moves & ~rolls
        jumps = placed & one.was & (shift == 0)
        times = self._put_down(before, after, placed, shift != 0, slot, kind)
        times["fourth_ms"] = hand.fourth_ms * (placed & (finger == 4))
        times["roll_ms"] = hand.roll_ms * rolls
        if self.roll_gain_ms:
            times["roll_gain_ms"] = self.roll_gain_ms * rolls
        times["jump_ms"] = hand.jump_ms * jumps
        times["jump_fitts_ms"] = self._jump_travel_ms(jumps, one, first, last, fret)
        if not after.single:
            times["barre_ms"] = hand.barre_ms * (placed & (last > first))
        if kind.plants_on:
            times["plant_ms"] = hand.plant_ms * (placed & np.isin(first, kind.plants_on))
        return times, rolls, jumps, moves

    def _put_down(
        self, before: GripArrays, after: GripArrays, placed: Bools, shifted: Bools, slot: int, kind: TransitionKind
    ) -> Terms:
        """Time of putting a finger down, hammering it on, or pulling off to it."""
        hand = self.hand
        if not kind.slur:
            keys = {Mark.HAMMER: "hammer_ms", Mark.PULL: "pull_ms"}
            key = keys.get(kind.legato, "place_ms") if kind.legato is not None else "place_ms"
            if key != "place_ms":
                return {key: getattr(hand, key) * placed}
            return {
                "place_ms": hand.place_ms * (placed & ~shifted),
                "landing_ms": hand.landing_ms * (placed & shifted),
            }
        same_string = before.string[0] == after.string[0]
        pulled = placed & same_string & (after.fret[slot] < before.fret[0])
        return {
            "pull_ms": hand.pull_ms * pulled,
            "hammer_ms": hand.hammer_ms * (placed & ~pulled),
            "nowhere_ms": hand.nowhere_ms * (placed & ~same_string),
        }

    def _octave_off_shape(self, before: GripArrays, after: GripArrays) -> Bools:
        """Whether an octave is played otherwise than two strings apart, with the upper note fretted."""
        tuning = np.array([*self.instrument.tuning, 0])
        one, two = (tuning[grips.string[0]] + grips.note_fret[0] for grips in (before, after))
        rises = two > one
        upper_open = np.where(rises, after.note_fret[0], before.note_fret[0]) == 0
        lower_open = np.where(rises, before.note_fret[0], after.note_fret[0]) == 0
        apart = np.abs(before.string[0] - after.string[0])
        tapped = _tapped(before) | _tapped(after)
        found: Bools = (np.abs(two - one) == 12) & ~lower_open & ~tapped & ((apart != 2) | upper_open)
        return found

    def _jump_travel_ms(self, jumps: Bools, one: _Before, first: Ints, last: Ints, fret: Ints) -> Floats:
        """Time that the way of a jump takes, along the neck and across the strings."""
        hand, spots, across = self.hand, self.instrument.spots, self.instrument.neck_y
        found = np.zeros(jumps.shape)
        if jumps.any():
            parts = (one.fret, one.first, one.last, fret, first, last)
            fret_a, first_a, last_a, fret_b, first_b, last_b = (
                np.broadcast_to(part, jumps.shape)[jumps] for part in parts
            )
            along = spots[fret_b] - spots[fret_a]
            aside = (across[first_b] + across[last_b] - across[first_a] - across[last_a]) / 2
            bits = np.log2(1.0 + np.hypot(along, aside) / hand.jump_target_mm)
            found[jumps] = hand.jump_fitts_ms * bits
        return found

    def _between_single_notes(
        self,
        before: GripArrays,
        after: GripArrays,
        shifted: Bools,
        rolled: Bools,
        kind: TransitionKind,
        times: Terms,
        efforts: Terms,
    ) -> None:
        """Add what is counted between two single notes only."""
        hand, comfort, spots = self.hand, self.comfort, self.instrument.spots
        finger_a, finger_b = before.finger[0], after.finger[0]
        fret_a, fret_b, string_a, string_b = before.fret[0], after.fret[0], before.string[0], after.string[0]
        rise, same_string = fret_b - fret_a, string_a == string_b
        other_finger = (finger_a > 0) & (finger_b > 0) & (finger_a != finger_b)
        at_home = other_finger & ~shifted
        side_by_side = other_finger & (rise == 0) & ~same_string
        times |= {key: table[finger_a, finger_b] for key, table in self.weak_ms.items()}
        times["cross_ms"] = hand.cross_ms * (at_home & ((finger_b - finger_a) * rise < 0))
        times["first_finger_return_ms"] = hand.first_finger_return_ms * (at_home & (finger_b == 1) & ~same_string)
        if hand.letting_go is LettingGo.LIFT and kind.legato is None:
            stays = (finger_a == finger_b) & (rise == 0)
            times["release_ms"] = hand.release_ms * ((finger_a > 0) & ~same_string & ~stays)
        efforts |= {key: table[finger_a, finger_b] for key, table in self.weak_effort.items()}
        efforts["squeezed"] = comfort.squeezed * side_by_side
        if kind.slur or kind.legato is Mark.HAMMER:
            efforts["from_nowhere"] = comfort.from_nowhere * (~same_string | kind.silent_between)
        strings_over = np.abs(string_a - string_b) - 1
        jumps = (finger_a == finger_b) & (finger_a > 0) & ~shifted & ((rise != 0) | (strings_over > 0))
        efforts["jump_along"] = comfort.jump_along * (jumps & same_string)
        efforts["jump_across"] = comfort.jump_across * (jumps & ~same_string)
        if kind.rings:
            same_finger = (finger_a == finger_b) & (finger_a > 0)
            efforts["cut_short"] = comfort.cut_short * (same_string | same_finger)
        efforts["octave"] = comfort.octave * self._octave_off_shape(before, after)
        if kind.legato is Mark.SLIDE:
            efforts["slide_weak"] = comfort.slide_weak * ((finger_b == 2) | (finger_b == 4))
        efforts["roll"] = comfort.roll * rolled
        if self.sound.damps:
            efforts["roll_gain"] = comfort.roll_gain * rolled
        efforts["cross"] = comfort.cross * (at_home & ((finger_b - finger_a) * rise < 0))
        against = {SameFret.EITHER: None, SameFret.ROLL: side_by_side, SameFret.SEPARATE: rolled}[hand.same_fret]
        if against is not None:
            efforts["against"] = comfort.against * against
        apart = np.zeros(at_home.shape)
        if at_home.any():
            parts = (fret_a, fret_b, finger_a, finger_b)
            one, two, low, high = (np.broadcast_to(part, at_home.shape)[at_home] for part in parts)
            upward = np.where(high > low, 1.0, -1.0)
            opened_mm = upward * ((spots[two] - spots[one]) - (self.spread[high] - self.spread[low]))
            apart[at_home] = reach_effort(opened_mm, comfort.apart, comfort)
        efforts["apart"] = apart
        wider = np.where(at_home, np.abs(rise) - np.abs(finger_b - finger_a), 0)
        # Frets grow narrower up the neck, and so does the stretch.
        width = 2.0 ** (-np.minimum(fret_a, fret_b) / 12.0)
        efforts["stretched_pair"] = comfort.stretched_pair * np.maximum(wider, 0) * width
        efforts["closed_pair"] = comfort.closed_pair * np.maximum(-wider, 0)


def _several_fretted(grips: GripArrays) -> Bools:
    """Whether two notes or more are fretted."""
    count = np.sum([(finger > 0).astype(np.int64) for finger in grips.note_finger], axis=0)
    several: Bools = count >= 2
    return several


def _tapped(grips: GripArrays) -> Bools:
    """Whether the other hand holds a single note."""
    found: Bools = (grips.note_finger[0] == 0) & (grips.note_fret[0] > 0)
    return found


def _any_down(grips: GripArrays) -> Bools:
    down: Bools = np.logical_or.reduce([finger > 0 for finger in grips.finger])
    return down


def finger_travels(before: Grip, after: Grip, tables: FrettingTables) -> dict[int, float]:
    """How far each finger travels that is down in the second grip, in mm, by finger.

    A finger that was not down hovered at ease over the middle of the first grip.

    Parameters
    ----------
    before, after : Grip
    tables : FrettingTables
    """
    guitar = tables.instrument
    spots, across = guitar.spots, guitar.neck_y
    down = {one.finger: one for one in before.fingers}
    middle = sum(guitar.index(string) for string, _, _ in before.sounding) / len(before.sounding)
    middle_mm = float(np.interp(middle, np.arange(len(across)), across))
    found = {}
    for one in after.fingers:
        was = down.get(one.finger)
        if was == one:
            found[one.finger] = 0.0
            continue
        if was is None:
            start = float(spots[before.position]) + float(tables.spread[one.finger]), middle_mm
        else:
            start = float(spots[was.fret]), _middle(across, guitar, was.thickest, was.thinnest)
        end = float(spots[one.fret]), _middle(across, guitar, one.thickest, one.thinnest)
        found[one.finger] = float(np.hypot(end[0] - start[0], end[1] - start[1]))
    return found


def _middle(across: Floats, guitar: Instrument, thickest: int, thinnest: int) -> float:
    return float(across[guitar.index(thickest)] + across[guitar.index(thinnest)]) / 2
