"""Chord shapes: every way to hold notes that sound together.

A shape gives each fretted note a finger. Higher frets take higher fingers; on one fret, thicker strings take the
lower finger, or one finger lies across as a barre, as long as nothing below the barre has to sound. Every finger
must reach its fret from the position as it must for a single note.

A note that rings on, or a bend that is held while another string sounds, is part of the shape too: it is held and
not sounded, and the finger that holds it may not leave.

Strings inside the shape that do not sound have to be damped by the fingers, because the pick goes through them.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import groupby, pairwise

import numpy as np
from numpy.typing import NDArray

from dromic.hands.fretting import (
    FretStates,
    Posture,
    against_camp,
    bend_efforts,
    reach_effort,
    vibrato_efforts,
)
from dromic.hands.profile import Comfort, FrettingHand
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Place

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
    silent : tuple of int
        Strings of notes that are held on from before, ringing or bent, and not sounded again.
    """

    notes: tuple[tuple[int, int, int], ...]
    position: int
    silent: tuple[int, ...] = ()

    @cached_property
    def struck(self) -> tuple[tuple[int, int, int], ...]:
        """Notes that are sounded now."""
        return tuple(note for note in self.notes if note[0] not in self.silent)

    @property
    def low(self) -> int:
        """Thickest string that is sounded."""
        return self.struck[0][0]

    @property
    def high(self) -> int:
        """Thinnest string that is sounded."""
        return self.struck[-1][0]

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
        return self.high - self.low + 1 - len(self.struck)


@dataclass(frozen=True, eq=False)
class ShapeStates(FretStates):
    """Chord shapes as states: `string` is the thickest string, `fret` and `finger` those of the lowest finger."""

    shapes: tuple[Shape, ...] = ()

    @property
    def high(self) -> NDArray[np.int64]:
        """Thinnest string of each shape."""
        return np.array([shape.high for shape in self.shapes], dtype=np.int64)

    @property
    def sounded(self) -> FretStates:
        """The thickest note that is sounded of each shape, as states of single notes."""
        rows = [(*shape.struck[0], shape.position) for shape in self.shapes]
        return FretStates(*np.array(rows, dtype=np.int64).reshape(-1, 4).T)


def shape_states(shapes: Sequence[Shape]) -> ShapeStates:
    """Return shapes as states, those on thinner strings first."""
    ordered = sorted(shapes, key=lambda shape: (-shape.low, shape.notes, shape.position, shape.silent))
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
    struck: int | None = None,
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
    struck : int or None
        How many of the notes are sounded; the others are held on from before. None for all.
    """
    found: list[Shape] = []
    for places in _spread_over_strings(choices, instrument, hand):
        silent = tuple(sorted(instrument.index(one.string) for one in places[struck:])) if struck else ()
        wanted = {place: finger for place, finger in zip(places, fingers, strict=True) if finger}
        for notes in _fingered(places, instrument):
            if any(wanted.get(_place(note, instrument), note[2]) != note[2] for note in notes):
                continue
            for home in _positions(notes, instrument, hand, homes):
                if position in (None, home):
                    found.append(Shape(notes, home, silent))
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
    states: ShapeStates,
    instrument: Instrument,
    hand: FrettingHand,
    comfort: Comfort,
    *,
    bend: bool = False,
    vibrato: bool = False,
) -> Posture:
    """How comfortable each shape is to hold: the sum over its fingers, with barres and damped strings."""
    rows = [_held_effort(shape, instrument, hand, comfort, bend=bend, vibrato=vibrato) for shape in states.shapes]
    return Posture(*np.array(rows, dtype=np.float64).reshape(-1, 10).T)


def _held_effort(
    shape: Shape, instrument: Instrument, hand: FrettingHand, comfort: Comfort, *, bend: bool, vibrato: bool
) -> tuple[float, ...]:
    reach = frame = fourth = bent = high = far = shaken = against = 0.0
    spots = instrument.spots
    bends, shakes = bend_efforts(comfort), vibrato_efforts(comfort)
    sounding = {finger for _, _, finger in shape.struck}
    for one in shape.held:
        beyond = spots[one.fret] - spots[shape.position] - hand.spread_mm[one.finger - 1]
        reach += float(reach_effort(np.array(beyond), comfort.reach, comfort))
        own_fret = shape.position + one.finger - 1
        if one.fret != own_fret:
            frame += comfort.opened if one.fret > own_fret else comfort.frame
            frame += comfort.first_away * (one.finger == 1)
        fourth += comfort.fourth_too * (one.finger == 4)
        bent += bends[one.finger] * (bend and one.finger in sounding)
        shaken += shakes[one.finger] * (vibrato and one.finger in sounding)
        nut_fret, finger = np.array(one.fret + instrument.capo), np.array(one.finger)
        against += comfort.against * float(against_camp(nut_fret, finger, hand))
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
    return reach, frame, fourth, bent, high, far, barre, comfort.damped * shape.gaps, shaken, against
