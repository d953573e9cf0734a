"""How long the fingers take from one grip to the next, and how far each travels."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dromic.arrays import Bools, Floats, Ints, Terms
from dromic.hands.constants import LettingGo
from dromic.hands.fretting_tables import FrettingTables, sum_of
from dromic.hands.grips import Grip, GripArrays
from dromic.hands.possible_moves import TransitionKind
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Mark


@dataclass(frozen=True)
class FingerBefore:
    """What a finger did before: whether it was down, over which strings, at which fret."""

    was: Bools
    first: Ints
    last: Ints
    fret: Ints


def finger_before(grips: GripArrays, finger: Ints) -> FingerBefore:
    """Look a finger up in the grips before."""
    slots = [(own == finger) & (finger > 0) for own in grips.finger]
    if len(slots) == 1:
        return FingerBefore(slots[0], grips.first[0], grips.last[0], grips.fret[0])

    def found(parts: tuple[Ints, ...]) -> Ints:
        chosen: Ints = np.select(slots, [np.broadcast_to(part, slots[0].shape) for part in parts], 0)
        return chosen

    return FingerBefore(np.logical_or.reduce(slots), found(grips.first), found(grips.last), found(grips.fret))


def finger_times(
    tables: FrettingTables, before: GripArrays, after: GripArrays, shift: Ints, kind: TransitionKind
) -> tuple[Terms, Bools, Bools]:
    """Times of the slowest finger, whether it rolls, and whether it jumps.

    Parameters
    ----------
    tables : FrettingTables
    before, after : GripArrays
    shift : ndarray of int
    kind : TransitionKind
    """
    slots = [_finger(tables, before, after, slot, shift, kind) for slot in range(len(after.finger))]
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
        times["extra_fingers_ms"] = tables.hand.extra_fingers_ms * np.maximum(count - 1, 0)
    return times, rolled, jumped


def _finger(
    tables: FrettingTables, before: GripArrays, after: GripArrays, slot: int, shift: Ints, kind: TransitionKind
) -> tuple[Terms, Bools, Bools, Bools]:
    """Times of one finger, and whether it rolls, jumps and moves at all."""
    hand = tables.hand
    finger, first, last, fret = (part[slot] for part in (after.finger, after.first, after.last, after.fret))
    one = finger_before(before, finger)
    same_fret, same_strings = one.fret == fret, (one.first == first) & (one.last == last)
    covered = same_fret & (one.first <= first) & (last <= one.last)
    glides = same_strings & (fret - one.fret == shift)
    moves: Bools = (finger > 0) & ~(one.was & (covered | glides))
    alone = (one.first == one.last) & (first == last)
    rolls = moves & one.was & alone & same_fret & (np.abs(one.first - first) == 1)
    placed = moves & ~rolls
    jumps = placed & one.was & (shift == 0)
    times = _put_down(tables, before, after, placed, shift != 0, slot, kind)
    times["fourth_ms"] = hand.fourth_ms * (placed & (finger == 4))
    times["roll_ms"] = hand.roll_ms * rolls
    if tables.roll_gain_ms:
        times["roll_gain_ms"] = tables.roll_gain_ms * rolls
    times["jump_ms"] = hand.jump_ms * jumps
    times["jump_fitts_ms"] = _jump_travel_ms(tables, jumps, one, first, last, fret)
    if not after.single:
        times["barre_ms"] = hand.barre_ms * (placed & (last > first))
    if kind.plants_on:
        times["plant_ms"] = hand.plant_ms * (placed & np.isin(first, kind.plants_on))
    return times, rolls, jumps, moves


def fingers_added(before: GripArrays, after: GripArrays) -> Ints:
    """How many fingers are put down that hold a note struck, and were not there before."""
    added = np.zeros(np.broadcast_shapes(before.position.shape, after.position.shape), dtype=np.int64)
    for slot, finger in enumerate(after.finger):
        one = finger_before(before, finger)
        there = (one.fret == after.fret[slot]) & (one.first <= after.first[slot]) & (after.last[slot] <= one.last)
        added += after.strikes[slot] & ~(one.was & there)
    return added


def _put_down(
    tables: FrettingTables,
    before: GripArrays,
    after: GripArrays,
    placed: Bools,
    shifted: Bools,
    slot: int,
    kind: TransitionKind,
) -> Terms:
    """Time of putting a finger down, hammering it on, or pulling off to it."""
    hand = tables.hand
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


def _jump_travel_ms(
    tables: FrettingTables, jumps: Bools, one: FingerBefore, first: Ints, last: Ints, fret: Ints
) -> Floats:
    """Time that the way of a jump takes, along the neck and across the strings."""
    hand, spots, across = tables.hand, tables.instrument.spots, tables.instrument.neck_y
    jump_travel_ms = np.zeros(jumps.shape)
    if jumps.any():
        parts = (one.fret, one.first, one.last, fret, first, last)
        fret_a, first_a, last_a, fret_b, first_b, last_b = (
            np.broadcast_to(part, jumps.shape)[jumps] for part in parts
        )
        along = spots[fret_b] - spots[fret_a]
        aside = (across[first_b] + across[last_b] - across[first_a] - across[last_a]) / 2
        bits = np.log2(1.0 + np.hypot(along, aside) / hand.jump_target_mm)
        jump_travel_ms[jumps] = hand.jump_fitts_ms * bits
    return jump_travel_ms


def any_down(grips: GripArrays) -> Bools:
    """Whether any finger is down; shape (grips,)."""
    down: Bools = np.logical_or.reduce([finger > 0 for finger in grips.finger])
    return down


@dataclass(frozen=True)
class NotePassage:
    """From one single note to the next; arrays of a shape that broadcasts to that of `shifted`."""

    tables: FrettingTables
    before: GripArrays
    after: GripArrays
    shifted: Bools

    @property
    def frets_and_fingers(self) -> tuple[Ints, Ints, Ints, Ints]:
        """Both frets, then both fingers."""
        return self.before.fret[0], self.after.fret[0], self.before.finger[0], self.after.finger[0]

    @cached_property
    def rise(self) -> Ints:
        """Frets upward."""
        rise: Ints = self.after.fret[0] - self.before.fret[0]
        return rise

    @cached_property
    def same_string(self) -> Bools:
        """Whether both are on one string."""
        same: Bools = self.before.string[0] == self.after.string[0]
        return same

    @cached_property
    def same_finger(self) -> Bools:
        """Whether one finger takes both."""
        same: Bools = (self.before.finger[0] == self.after.finger[0]) & (self.before.finger[0] > 0)
        return same

    @cached_property
    def stays(self) -> Bools:
        """Whether the same note is struck again where it is."""
        stays: Bools = self.same_string & (self.rise == 0)
        return stays

    @cached_property
    def other_finger(self) -> Bools:
        """Whether two fingers take them."""
        one, two = self.before.finger[0], self.after.finger[0]
        other: Bools = (one > 0) & (two > 0) & (one != two)
        return other

    @cached_property
    def at_home(self) -> Bools:
        """Whether two fingers take them in one position."""
        at_home: Bools = self.other_finger & ~self.shifted
        return at_home

    @cached_property
    def crossing(self) -> Bools:
        """Whether a higher finger takes the lower fret."""
        crossing: Bools = self.at_home & ((self.after.finger[0] - self.before.finger[0]) * self.rise < 0)
        return crossing


def note_times(passage: NotePassage, kind: TransitionKind) -> Terms:
    """Times that are counted between two single notes only, in ms.

    Each of a shape that broadcasts to that of `passage.shifted`.
    """
    hand, before, after = passage.tables.hand, passage.before, passage.after
    times = {key: table[before.finger[0], after.finger[0]] for key, table in passage.tables.weak_ms.items()}
    times["cross_ms"] = hand.cross_ms * passage.crossing
    returns = passage.at_home & (after.finger[0] == 1) & ~passage.same_string
    times["first_finger_return_ms"] = hand.first_finger_return_ms * returns
    if hand.letting_go is LettingGo.LIFT and kind.legato is None:
        stays = (before.finger[0] == after.finger[0]) & (passage.rise == 0)
        times["release_ms"] = hand.release_ms * ((before.finger[0] > 0) & ~passage.same_string & ~stays)
    return times


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
    down = {finger.finger: finger for finger in before.fingers}
    middle = sum(guitar.index(string) for string, _, _ in before.sounding) / len(before.sounding)
    middle_mm = float(np.interp(middle, np.arange(len(across)), across))
    finger_travels = {}
    for one in after.fingers:
        was = down.get(one.finger)
        if was == one:
            finger_travels[one.finger] = 0.0
            continue
        if was is None:
            start = float(spots[before.position]) + float(tables.spread[one.finger]), middle_mm
        else:
            start = float(spots[was.fret]), _middle(across, guitar, was.thickest, was.thinnest)
        end = float(spots[one.fret]), _middle(across, guitar, one.thickest, one.thinnest)
        finger_travels[one.finger] = float(np.hypot(end[0] - start[0], end[1] - start[1]))
    return finger_travels


def _middle(across: Floats, guitar: Instrument, thickest: int, thinnest: int) -> float:
    return float(across[guitar.index(thickest)] + across[guitar.index(thinnest)]) / 2
