"""What a move of the fretting hand costs apart from time: of the hand, from chord to chord, from note to note."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product, zip_longest

import numpy as np

from dromic.arrays import Bools, Floats, Ints, Terms
from dromic.hands.chord_facts import all_by_one_finger
from dromic.hands.constants import SameFret
from dromic.hands.finger_moves import NotePassage, any_down, finger_before
from dromic.hands.fretting_tables import FrettingTables
from dromic.hands.grips import GripArrays
from dromic.hands.possible_moves import TransitionKind
from dromic.hands.posture import reach_effort
from dromic.music.pitch import OCTAVE
from dromic.music.riff import Mark


def hand_efforts(
    tables: FrettingTables,
    before: GripArrays,
    after: GripArrays,
    shift: Ints,
    shifted: Bools,
    mm: Floats,
    kind: TransitionKind,
) -> Terms:
    """What moving the hand costs in a hurry, apart from its time; less where a finger glides.

    Parameters
    ----------
    tables : FrettingTables
    before, after : GripArrays
    shift : ndarray of int
        Frets that the position moves.
    shifted : ndarray of bool
        Whether it moves.
    mm : ndarray, millimetres
        The way of the hand.
    kind : TransitionKind

    Returns
    -------
    dict of str to ndarray
        Each of the shape of `shift`.
    """
    comfort, camp = tables.comfort, tables.hand.shifting_times
    efforts: Terms = {}
    glides = np.zeros(shifted.shape, dtype=np.bool_)
    for slot, finger in enumerate(after.finger):
        one = finger_before(before, finger)
        strings = (one.first == after.first[slot]) & (one.last == after.last[slot])
        glides |= one.was & strings & (after.fret[slot] - one.fret == shift)
    efforts["shift"] = comfort.shift * (shifted * camp)
    way = np.sqrt(mm / comfort.way_unit_mm) * camp
    formed = shifted & (before.shape > 0) & (after.shape > 0)
    guided = shifted & ~formed & _several_fretted(after) & (_several_fretted(before) | ~any_down(before) | glides)
    carried = shifted & ~(formed | guided) & (mm <= comfort.take_mm) & kind.next_take
    efforts["shift_far"] = comfort.shift_far * (way * ~(formed | guided | carried))
    along = guided & glides & _several_fretted(before)
    efforts["shift_guided"] = comfort.shift_guided * (way * (guided & ~along))
    efforts["shift_along"] = comfort.shift_along * (way * along)
    if kind.mirrored:
        efforts["shift_mirrored"] = comfort.shift_mirrored * (shifted * camp)
    efforts["shift_formed"] = comfort.shift_formed * (way * formed)
    efforts["shift_take"] = comfort.shift_take * (way * carried)
    efforts["shift_unguided"] = comfort.shift_unguided * ((shifted & ~glides) * camp)
    if before.single and after.single and kind.legato is not Mark.SLIDE:
        efforts["glided"] = comfort.glided * ((shifted & glides) * camp)
    return efforts


def chord_efforts(tables: FrettingTables, before: GripArrays, after: GripArrays) -> Terms:
    """What is counted between two chords of the same build, or nearly: shape and strings kept.

    Parameters
    ----------
    tables : FrettingTables
    before, after : GripArrays
    """
    comfort = tables.comfort
    one, two = _chord_slots(tables, before), _chord_slots(tables, after)
    shape = np.broadcast_shapes(before.position.shape, after.position.shape)
    alike: Bools = np.ones(shape, dtype=np.bool_)
    like: Bools = np.ones(shape, dtype=np.bool_)
    kept: Bools = np.ones(shape, dtype=np.bool_)
    same_strings: Bools = np.ones(shape, dtype=np.bool_)
    laid = all_by_one_finger(before) & all_by_one_finger(after)
    open_root = _on_neighbours(one) & _on_neighbours(two) & ((one[0].finger == 0) != (two[0].finger == 0))
    for was, now in zip_longest(one, two, fillvalue=NO_NOTE):
        both, neither = was.there & now.there, ~(was.there | now.there)
        wider = now.pitch - two[0].pitch - was.pitch + one[0].pitch
        alike &= neither | (wider == 0)
        like &= neither | (both & (np.abs(wider) <= comfort.like_semitones) & was.struck & now.struck)
        kept &= neither | (now.string - two[0].string == was.string - one[0].string)
        kept &= neither | (now.finger == was.finger) | laid | open_root
        same_strings &= neither | (now.string == was.string)
    alike &= like
    return {
        "refingered": comfort.refingered * _refingered(one, two),
        "respaced": comfort.respaced * (like & ~alike & ~same_strings & ~_stays(one, two)),
        "regrip": comfort.regrip * (alike & ~kept),
        "other_strings": comfort.other_strings * (alike & kept & ~laid & (before.string[0] != after.string[0])),
    }


def _just_two(slots: Sequence[_Slot]) -> Bools:
    """Whether there are two notes and no more."""
    two: Bools = slots[1].there
    for slot in slots[2:]:
        two = two & ~slot.there
    return two


def _on_neighbours(slots: Sequence[_Slot]) -> Bools:
    """Whether there are two notes, on strings side by side."""
    neighbours: Bools = _just_two(slots) & (slots[1].string - slots[0].string == 1)
    return neighbours


def _refingered(before: Sequence[_Slot], after: Sequence[_Slot]) -> Ints:
    """How many fretted notes stay where they are under another finger while at most one note of a chord changes."""
    pairs = [
        (was.there & now.there & (was.string == now.string) & (was.pitch == now.pitch), was.finger != now.finger)
        for was, now in product(before, after)
    ]
    staying = _count([stays for stays, _ in pairs])
    notes = [_count([slot.there for slot in slots]) for slots in (before, after)]
    changed = _count([stays & other for stays, other in pairs])
    refingered: Ints = np.where(staying >= np.maximum(*notes) - 1, changed, 0)
    return refingered


def _count(some: Sequence[Bools]) -> Ints:
    """How many hold, element by element."""
    count: Ints = np.sum(np.broadcast_arrays(*(one.astype(np.int64) for one in some)), axis=0)
    return count


def _stays(before: Sequence[_Slot], after: Sequence[_Slot]) -> Bools:
    """Whether one of two notes stays on its string and under its finger, while the other changes."""
    pairs = (
        was.there & now.there & (was.string == now.string) & (was.pitch == now.pitch) & (was.finger == now.finger)
        for was, now in product(before[:2], after[:2])
    )
    stays: Bools = np.logical_or.reduce(np.broadcast_arrays(*pairs)) & _just_two(before) & _just_two(after)
    return stays


@dataclass(frozen=True)
class _Slot:
    """One note of each grip: whether there is one, whether it is struck, its string, finger and pitch."""

    there: Bools
    struck: Bools
    string: Ints
    finger: Ints
    pitch: Ints


_ZERO = np.zeros((), dtype=np.int64)
NO_NOTE = _Slot(np.zeros((), dtype=np.bool_), np.zeros((), dtype=np.bool_), _ZERO, _ZERO, _ZERO)


def _chord_slots(tables: FrettingTables, grips: GripArrays) -> list[_Slot]:
    tuning = np.array([*tables.instrument.tuning, 0])
    slots = zip(grips.string, grips.note_fret, grips.note_finger, grips.struck, strict=True)
    found = [
        _Slot(string >= 0, struck, string, finger, tuning[string] + fret) for string, fret, finger, struck in slots
    ]
    return [*found, *[NO_NOTE] * (2 - len(found))]


def note_efforts(
    tables: FrettingTables,
    before: GripArrays,
    after: GripArrays,
    shifted: Bools,
    rolled: Bools,
    kind: TransitionKind,
) -> Terms:
    """What is counted between two single notes only.

    Parameters
    ----------
    tables : FrettingTables
    before, after : GripArrays
        Of one note each.
    shifted, rolled : ndarray of bool
        Whether the hand moves, and whether a finger rolls.
    kind : TransitionKind

    Returns
    -------
    dict of str to ndarray
        Each of a shape that broadcasts to that of `shifted`.
    """
    passage = NotePassage(tables, before, after, shifted)
    return (
        {key: table[before.finger[0], after.finger[0]] for key, table in tables.weak_effort.items()}
        | _by_the_music(passage, kind)
        | _by_one_finger(passage, rolled)
        | _by_two_fingers(passage)
    )


def _by_the_music(passage: NotePassage, kind: TransitionKind) -> Terms:
    """Legato from nowhere, broken chords, octaves, slides."""
    comfort, finger = passage.tables.comfort, passage.after.finger[0]
    efforts: Terms = {}
    if kind.slur or kind.legato is Mark.HAMMER:
        efforts["from_nowhere"] = comfort.from_nowhere * (~passage.same_string | kind.silent_between)
    if kind.let_ring:
        efforts["cut_off"] = comfort.cut_off * ((passage.same_string | passage.same_finger) & ~passage.stays)
    if not (kind.let_ring or kind.next_take or kind.slur) and kind.legato is None:
        efforts["moved"] = comfort.moved * _moved(passage)
    efforts["octave"] = comfort.octave * _octave_off_shape(passage.tables, passage.before, passage.after)
    if kind.legato is Mark.SLIDE:
        efforts["slide_weak"] = comfort.slide_weak * ((finger == 2) | (finger == 4))
    return efforts


def _moved(passage: NotePassage) -> Bools:
    """Whether a pitch that is struck again is played in another place or by another finger."""
    tuning = np.array([*passage.tables.instrument.tuning, 0])
    one, two = (tuning[grips.string[0]] + grips.note_fret[0] for grips in (passage.before, passage.after))
    tapped = _tapped(passage.before) | _tapped(passage.after)
    again = passage.stays & (passage.before.finger[0] == passage.after.finger[0])
    moved: Bools = (one == two) & ~again & ~tapped
    return moved


def _by_one_finger(passage: NotePassage, rolled: Bools) -> Terms:
    """The same finger jumping or rolled."""
    comfort, same_string = passage.tables.comfort, passage.same_string
    strings_over = np.abs(passage.before.string[0] - passage.after.string[0]) - 1
    jumps = passage.same_finger & ~passage.shifted & ((passage.rise != 0) | (strings_over > 0))
    efforts = {
        "jump_along": comfort.jump_along * (jumps & same_string),
        "jump_across": comfort.jump_across * (jumps & ~same_string),
        "roll": comfort.roll * rolled,
    }
    if passage.tables.sound.damps:
        efforts["roll_gain"] = comfort.roll_gain * rolled
    if passage.tables.hand.same_fret is SameFret.SEPARATE:
        efforts["against"] = comfort.against * rolled
    return efforts


def _by_two_fingers(passage: NotePassage) -> Terms:
    """Two fingers crossing, on one fret, or farther apart or closer than they lie."""
    tables, comfort, at_home = passage.tables, passage.tables.comfort, passage.at_home
    side_by_side = passage.other_finger & (passage.rise == 0) & ~passage.same_string
    efforts: Terms = {
        "squeezed": comfort.squeezed * side_by_side,
        "cross": comfort.cross * passage.crossing,
    }
    if tables.hand.same_fret is SameFret.ROLL:
        efforts["against"] = comfort.against * side_by_side
    fret_a, fret_b, finger_a, finger_b = passage.frets_and_fingers
    apart, spots = np.zeros(at_home.shape), tables.instrument.spots
    if at_home.any():
        one, two, low, high = (np.broadcast_to(part, at_home.shape)[at_home] for part in passage.frets_and_fingers)
        upward = np.where(high > low, 1.0, -1.0)
        opened_mm = upward * ((spots[two] - spots[one]) - (tables.spread[high] - tables.spread[low]))
        apart[at_home] = reach_effort(opened_mm, comfort.apart, comfort)
    efforts["apart"] = apart
    wider = np.where(at_home, np.abs(passage.rise) - np.abs(finger_b - finger_a), 0)
    # Frets grow narrower up the neck, and so does the stretch.
    width = 2.0 ** (-np.minimum(fret_a, fret_b) / OCTAVE)
    efforts["stretched_pair"] = comfort.stretched_pair * np.maximum(wider, 0) * width
    efforts["closed_pair"] = comfort.closed_pair * np.maximum(-wider, 0)
    return efforts


def _octave_off_shape(tables: FrettingTables, before: GripArrays, after: GripArrays) -> Bools:
    """Whether an octave is played otherwise than two strings apart, with the upper note fretted."""
    tuning = np.array([*tables.instrument.tuning, 0])
    one, two = (tuning[grips.string[0]] + grips.note_fret[0] for grips in (before, after))
    rises = two > one
    upper_open = np.where(rises, after.note_fret[0], before.note_fret[0]) == 0
    lower_open = np.where(rises, before.note_fret[0], after.note_fret[0]) == 0
    apart = np.abs(before.string[0] - after.string[0])
    tapped = _tapped(before) | _tapped(after)
    octave_off_shape: Bools = (np.abs(two - one) == OCTAVE) & ~lower_open & ~tapped & ((apart != 2) | upper_open)
    return octave_off_shape


def _several_fretted(grips: GripArrays) -> Bools:
    """Whether two notes or more are fretted."""
    count = np.sum([(finger > 0).astype(np.int64) for finger in grips.note_finger], axis=0)
    several: Bools = count >= 2
    return several


def _tapped(grips: GripArrays) -> Bools:
    """Whether the other hand holds a single note."""
    tapped: Bools = (grips.note_finger[0] == 0) & (grips.note_fret[0] > 0)
    return tapped
