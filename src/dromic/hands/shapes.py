"""Chord shapes: every way to hold notes that are struck together, and what it takes to get from one to another.

A shape gives each fretted note a finger. Higher frets take higher fingers; on one fret, thicker strings take the
lower finger, or one finger lies across as a barre, as long as nothing below the barre has to sound. Every finger
must reach its fret from the position as it must for a single note.

Fingers move at the same time: a change of shape takes as long as its slowest finger, and a little longer for each
further finger that has to land with it. Strings inside the shape that do not sound have to be damped by the
fingers, because the pick goes through them.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import groupby, pairwise

import numpy as np
from numpy.typing import NDArray

from dromic.hands.fretting import FretMoves, FretStates, FrettingTables, Posture, reach_effort
from dromic.hands.profile import Comfort, FrettingHand
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Mark, Place

Floats = NDArray[np.float64]
OFFSETS_FROM_FRAME = (-2, -1, 0, 1, 2)
MOST_SHAPES = 4000


@dataclass(frozen=True)
class Held:
    """One finger down: the strings it covers (from the thickest, counted from the thickest) and its fret."""

    finger: int
    first: int
    last: int
    fret: int


@dataclass(frozen=True)
class Shape:
    """A way to hold a chord.

    Parameters
    ----------
    notes : tuple of (int, int, int)
        String (counted from the thickest), fret and finger of each note, thickest first.
    position : int
    """

    notes: tuple[tuple[int, int, int], ...]
    position: int

    @property
    def low(self) -> int:
        """Thickest string."""
        return self.notes[0][0]

    @property
    def high(self) -> int:
        """Thinnest string."""
        return self.notes[-1][0]

    @cached_property
    def held(self) -> tuple[Held, ...]:
        """Fingers that are down, lowest first."""
        found: dict[int, list[tuple[int, int]]] = {}
        for string, fret, finger in self.notes:
            if finger:
                found.setdefault(finger, []).append((string, fret))
        return tuple(
            Held(finger, strings[0][0], strings[-1][0], strings[0][1]) for finger, strings in sorted(found.items())
        )

    @property
    def gaps(self) -> int:
        """Strings inside the shape that must not sound."""
        return self.high - self.low + 1 - len(self.notes)


@dataclass(frozen=True, eq=False)
class ShapeStates(FretStates):
    """Chord shapes as states: `string` is the thickest string, `fret` and `finger` those of the lowest finger."""

    shapes: tuple[Shape, ...] = ()

    @property
    def high(self) -> NDArray[np.int64]:
        """Thinnest string of each shape."""
        return np.array([shape.high for shape in self.shapes], dtype=np.int64)


def shape_states(shapes: Sequence[Shape]) -> ShapeStates:
    """Return shapes as states, those on thinner strings first."""
    ordered = sorted(shapes, key=lambda shape: (-shape.low, shape.notes, shape.position))
    rows = []
    for shape in ordered:
        lowest = shape.held[0] if shape.held else Held(0, 0, 0, 0)
        rows.append((shape.low, lowest.fret, lowest.finger, shape.position))
    string, fret, finger, position = np.array(rows, dtype=np.int64).reshape(-1, 4).T
    return ShapeStates(string, fret, finger, position, tuple(ordered))


def single_shape(states: FretStates, index: int) -> Shape:
    """Return a single note as a shape of one note."""
    string, fret, finger, position = (int(part[index]) for part in states.parts)
    return Shape(((string, fret, finger),), position)


def as_shapes(states: FretStates) -> tuple[Shape, ...]:
    """Return any states as shapes."""
    if isinstance(states, ShapeStates):
        return states.shapes
    return tuple(single_shape(states, index) for index in range(len(states)))


def find_shapes(
    choices: Sequence[Sequence[Place]],
    fingers: Sequence[int | None],
    instrument: Instrument,
    hand: FrettingHand,
    position: int | None = None,
    homes: Sequence[int] = (1,),
) -> list[Shape]:
    """Return every playable shape.

    Parameters
    ----------
    choices : sequence of sequences of Place
        For each note, where it can be played.
    fingers : sequence of int or None
        For each note, the finger it is locked to.
    instrument : Instrument
    hand : FrettingHand
    position : int or None
        Locked position.
    homes : sequence of int
        Positions of the hand while only open strings sound.
    """
    found: list[Shape] = []
    for places in _spread_over_strings(choices, instrument, hand):
        wanted = {place: finger for place, finger in zip(places, fingers, strict=True) if finger}
        for notes in _fingered(places, instrument):
            if any(wanted.get(_place(note, instrument), note[2]) != note[2] for note in notes):
                continue
            for home in _positions(notes, instrument, hand, homes):
                if position in (None, home):
                    found.append(Shape(notes, home))
        if len(found) > MOST_SHAPES:
            break
    return found


def _place(note: tuple[int, int, int], instrument: Instrument) -> Place:
    return Place(instrument.strings - note[0], note[1])


def _spread_over_strings(
    choices: Sequence[Sequence[Place]], instrument: Instrument, hand: FrettingHand
) -> Iterator[tuple[Place, ...]]:
    """Every way to give each note a string of its own within the hand's span."""
    span = hand.spread_mm[-1] + hand.stretch_mm
    spots = instrument.spots

    def extend(chosen: tuple[Place, ...]) -> Iterator[tuple[Place, ...]]:
        if len(chosen) == len(choices):
            yield chosen
            return
        for place in choices[len(chosen)]:
            if any(place.string == other.string for other in chosen):
                continue
            frets = [one.fret for one in (*chosen, place) if one.fret]
            if frets and spots[max(frets)] - spots[min(frets)] > span:
                continue
            yield from extend((*chosen, place))

    yield from extend(())


def _fingered(places: tuple[Place, ...], instrument: Instrument) -> Iterator[tuple[tuple[int, int, int], ...]]:
    """Every way to finger a set of places."""
    strings = {instrument.index(place.string): place.fret for place in places}
    fretted = sorted((fret, string) for string, fret in strings.items() if fret)
    frets = [[string for _, string in group] for _, group in groupby(fretted, key=lambda one: one[0])]
    values = sorted({fret for fret, _ in fretted})

    def segments(group: list[int], fret: int) -> Iterator[list[list[int]]]:
        """Every way to cut the strings of one fret into runs that one finger each can hold."""
        if not group:
            yield []
            return
        for length in range(len(group), 0, -1):
            run = group[:length]
            below = [strings[one] for one in range(run[0], run[-1] + 1) if one in strings]
            if length == 1 or all(other >= fret for other in below):
                for rest in segments(group[length:], fret):
                    yield [run, *rest]

    def assign(level: int, lowest: int) -> Iterator[dict[int, int]]:
        """Every way to give the frets from `level` on fingers from `lowest` on."""
        if level == len(frets):
            yield {}
            return
        for cut in segments(frets[level], values[level]):
            for chosen in _rising(len(cut), lowest):
                own = {string: finger for run, finger in zip(cut, chosen, strict=True) for string in run}
                for rest in assign(level + 1, chosen[-1] + 1):
                    yield own | rest

    for fingers in assign(0, 1):
        yield tuple((string, strings[string], fingers.get(string, 0)) for string in sorted(strings))


def _rising(count: int, lowest: int) -> Iterator[tuple[int, ...]]:
    """Every rising row of so many fingers."""
    if count == 0:
        yield ()
        return
    for finger in range(lowest, 5 - count + 1):
        for rest in _rising(count - 1, finger + 1):
            yield (finger, *rest)


def _positions(
    notes: tuple[tuple[int, int, int], ...], instrument: Instrument, hand: FrettingHand, homes: Sequence[int]
) -> list[int]:
    """Positions from which every finger of a shape reaches its fret."""
    fretted = [(fret, finger) for _, fret, finger in notes if finger]
    if not fretted:
        return list(homes)
    common: set[int] | None = None
    for fret, finger in fretted:
        own = set()
        for offset in OFFSETS_FROM_FRAME:
            home = fret - finger + 1 - offset
            if not 1 <= home <= instrument.top_fret:
                continue
            reach = instrument.spots[fret] - instrument.spots[home] - hand.spread_mm[finger - 1]
            if -hand.crowd_mm <= reach <= hand.stretch_mm:
                own.add(home)
        common = own if common is None else common & own
    return sorted(common or ())


def shape_posture(
    states: ShapeStates, instrument: Instrument, hand: FrettingHand, comfort: Comfort, *, bend: bool
) -> Posture:
    """How comfortable each shape is to hold: the sum over its fingers, with barres and damped strings."""
    rows = [_held_effort(shape, instrument, hand, comfort, bend=bend) for shape in states.shapes]
    return Posture(*np.array(rows, dtype=np.float64).reshape(-1, 8).T)


def _held_effort(
    shape: Shape, instrument: Instrument, hand: FrettingHand, comfort: Comfort, *, bend: bool
) -> tuple[float, ...]:
    reach = frame = fourth = bent = high = far = 0.0
    spots = instrument.spots
    by_finger = (0.0, comfort.bend_1, comfort.bend_2, 0.0, comfort.bend_4)
    for one in shape.held:
        beyond = spots[one.fret] - spots[shape.position] - hand.spread_mm[one.finger - 1]
        reach += float(reach_effort(np.array(beyond), comfort.reach, comfort))
        own_fret = shape.position + one.finger - 1
        if one.fret != own_fret:
            frame += comfort.opened if one.fret > own_fret else comfort.frame
            frame += comfort.first_away * (one.finger == 1)
        fourth += comfort.fourth_too * (one.finger == 4)
        bent += by_finger[one.finger] * bend
        thinner = instrument.strings - 1 - one.first
        high += comfort.high * max(one.fret + instrument.capo - comfort.high_from, 0.0) * thinner
    for one, other in pairwise(shape.held):
        ease = hand.spread_mm[other.finger - 1] - hand.spread_mm[one.finger - 1]
        opened = np.array(spots[other.fret] - spots[one.fret] - ease)
        reach += float(reach_effort(opened, comfort.apart, comfort))
    if not shape.held:
        far = comfort.open_far * max(shape.position - comfort.open_near, 0.0)
    weights = (comfort.barre, *[comfort.barre_other] * 3)
    barre = sum(
        comfort.laid + weights[one.finger - 1] * (one.last - one.first)
        for one in shape.held
        if one.last > one.first
    )
    return reach, frame, fourth, bent, high, far, barre, comfort.damped * shape.gaps


def shape_moves(
    before: FretStates,
    after: FretStates,
    tables: FrettingTables,
    *,
    legato: Mark | None,
    silent_between: bool,
    plants: bool = False,
    slur: bool = False,
) -> FretMoves:
    """Times and kinds of all moves where one side or both are chords, arrays of shape (A, B)."""
    ones, twos = as_shapes(before), as_shapes(after)
    shape = (len(ones), len(twos))
    moves = tables.all_moves(before, after, legato=None, silent_between=silent_between)
    place, also, roll, jump = (np.zeros(shape) for _ in range(4))
    rolled, jumped, allowed = (np.zeros(shape, dtype=bool) for _ in range(3))
    lift = np.zeros(shape)
    hand = tables.hand
    for i, one in enumerate(ones):
        for j, two in enumerate(twos):
            way = _change(one, two, tables, legato)
            place[i, j], roll[i, j], jump[i, j] = way.place, way.roll, way.jump
            also[i, j] = hand.also_ms * max(way.moving - 1, 0)
            rolled[i, j], jumped[i, j] = way.roll > 0, way.jump > 0
            allowed[i, j] = not slur and _legato_allows(one, two, legato)
            if one.held and not two.held:
                lift[i, j] = hand.pull_ms if legato is Mark.PULL else hand.lift_ms
    is_slide = legato is Mark.SLIDE
    nothing = np.zeros(shape)
    return replace(
        moves,
        place=place,
        lift=lift,
        fourth=nothing,
        weak=nothing,
        roll=roll,
        jump=jump,
        cross=nothing,
        also=also,
        plant=np.where(place > 0, hand.plant_ms if plants and legato is not Mark.PULL else 0.0, 0.0),
        hold=nothing if is_slide else moves.hold,
        slide=np.full(shape, hand.slide_ms if is_slide else 0.0),
        allowed=allowed,
        rolled=rolled,
        jumped=jumped,
        weak_pair=nothing,
        apart=nothing,
        squeezed=nothing,
    )


@dataclass(frozen=True)
class _Change:
    """The slowest finger of a change of shape, by name, and how many fingers move."""

    place: float
    roll: float
    jump: float
    moving: int


def _change(one: Shape, two: Shape, tables: FrettingTables, legato: Mark | None) -> _Change:
    hand = tables.hand
    spots, across = tables.instrument.spots, tables.instrument.neck_y
    was = {held.finger: held for held in one.held}
    put = {Mark.HAMMER: hand.hammer_ms, Mark.PULL: hand.pull_ms}.get(legato or Mark.TIE, hand.place_ms)
    shift = two.position - one.position
    slowest = _Change(0.0, 0.0, 0.0, 0)
    longest, moving = -1.0, 0
    for held in two.held:
        before = was.get(held.finger)
        place = roll = jump = 0.0
        if (
            before is not None
            and before.fret == held.fret
            and before.first <= held.first <= held.last <= before.last
        ):
            continue
        single = held.first == held.last and before is not None and before.first == before.last
        near = single and before is not None and abs(before.first - held.first) == 1 and before.fret == held.fret
        glides = before is not None and (before.first, before.last) == (held.first, held.last)
        if before is not None and glides and held.fret - before.fret == shift:
            continue
        moving += 1
        if near:
            roll = tables.roll_ms
        else:
            place = put + (hand.fourth_ms if held.finger == 4 else 0.0)
            place += hand.barre_ms if held.last > held.first else 0.0
            if before is not None:
                along = (spots[held.fret] - spots[two.position]) - (spots[before.fret] - spots[one.position])
                aside = (across[held.first] + across[held.last] - across[before.first] - across[before.last]) / 2
                way = float(np.hypot(along, aside))
                jump = hand.jump_ms + hand.jump_fitts_ms * float(np.log2(1.0 + way / hand.jump_target_mm))
        if place + roll + jump > longest:
            longest = place + roll + jump
            slowest = _Change(place, roll, jump, 0)
    return replace(slowest, moving=moving)


def _stays_down(before: Held, held: Held) -> bool:
    """Whether a finger is already where it has to be; a barre may cover more than it has to."""
    return before.fret == held.fret and before.first <= held.first and held.last <= before.last


def _legato_allows(one: Shape, two: Shape, legato: Mark | None) -> bool:
    """Whether the mark lets the fingers get from one shape to the other without a stroke."""
    if legato is None:
        return True
    frets_one = {string: fret for string, fret, _ in one.notes}
    frets_two = {string: fret for string, fret, _ in two.notes}
    if frets_one.keys() != frets_two.keys():
        return False
    rises = [frets_two[string] - fret for string, fret in frets_one.items()]
    fingers = {string: finger for string, _, finger in one.notes}
    same = all(fingers[string] == finger for string, _, finger in two.notes)
    stays = one.position == two.position
    if legato is Mark.HAMMER:
        return min(rises) >= 0 < max(rises)
    if legato is Mark.PULL:
        return min(rises) < 0 >= max(rises) and stays
    if legato is Mark.SLIDE:
        moved = two.position - one.position
        return same and moved != 0 and all(rise == moved for rise in rises)
    return same and stays and not any(rises)
