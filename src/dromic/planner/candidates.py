"""Every way of fretting each step.

A fretted note can be taken by finger i with the hand up to two frets below or one above the position that
gives each finger its own fret, as far as stretch and crowding allow. While an open string sounds, the hand
is where it was or where it goes next.

States are ordered thinnest string first, then by finger and position, so that ties always break the same way.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from dromic.errors import NoPlanError
from dromic.hands.fretting import FretStates, reach_mm
from dromic.hands.profile import FrettingHand
from dromic.hands.shapes import Shape, find_shapes, shape_states
from dromic.instrument.instrument import Instrument
from dromic.music.pitch import pitch_name
from dromic.music.riff import Mark, Note, Place
from dromic.planner.ringing import CannotRingError
from dromic.planner.steps import Step

OFFSETS_FROM_FRAME = (-1, 0, 1, 2)

Row = tuple[int, int, int, int]
SharedStates = dict[tuple[object, ...], FretStates]


def places_of(step: Step, note: Note, instrument: Instrument) -> tuple[Place, ...]:
    """Return the places where a note of a step can be played.

    Raises
    ------
    NoPlanError
        When there is none on this instrument.
    """
    if isinstance(note.target, Place):
        place = note.target
        if place.string <= instrument.strings and place.fret <= instrument.top_fret:
            return (place,)
        raise NoPlanError(
            f"{step.words}: {instrument.name} has {instrument.strings} strings and {instrument.top_fret} frets "
            "to play on; choose another instrument or another place",
            event_index=step.moment.event_index,
        )
    midi = note.target.midi
    places = instrument.places(midi)
    if not places:
        raise NoPlanError(
            f"{step.words}: {pitch_name(midi)} cannot be played on {instrument.name} in this tuning, which "
            f"reaches from {pitch_name(instrument.lowest)} to {pitch_name(instrument.highest)}; "
            "move the note by an octave or choose another instrument",
            event_index=step.moment.event_index,
        )
    return places


def candidate_states(
    steps: Iterable[Step],
    instrument: Instrument,
    hand: FrettingHand,
    alike: Iterable[Sequence[int]] = (),
    shared: SharedStates | None = None,
) -> list[FretStates]:
    """Return all states of every step.

    Parameters
    ----------
    steps : iterable of Step
    instrument : Instrument
    hand : FrettingHand
    alike : iterable of sequences of int
        Steps that are to be played alike, which get the same states.
    shared : dict or None
        States made for the same hand and instrument before, to be used again; new ones are added.

    Returns
    -------
    list of FretStates
        Equal steps share one object, so that work on them can be shared too.

    Raises
    ------
    NoPlanError
        Naming a note that has no place, or locks that leave it none.
    """
    steps = list(steps)
    places = [[places_of(step, note, instrument) for note in step.notes] for step in steps]
    known: dict[tuple[object, ...], list[Row]] = {}
    shapes: dict[int, list[Shape]] = {}
    fretted = []
    for number, (step, choices) in enumerate(zip(steps, places, strict=True)):
        if step.more or step.held:
            choices += [places_of(steps[one.step], one.note, instrument) for one in step.held]
            shapes[number] = _shapes(step, choices, instrument, hand, (1,))
            if not shapes[number] and any(not one.bend for one in step.held):
                raise CannotRingError(number)
            fretted.append([(one.low, 1, 1, one.position) for one in shapes[number] if one.held])
            continue
        way = (choices[0], step.locks.finger, step.locks.position)
        if way not in known:
            known[way] = _fretted(step, choices[0], instrument, hand)
        fretted.append(known[way])
    positions = _open_positions(steps, fretted)
    for some in alike:
        together = tuple(sorted({home for one in some for home in positions[one]}))
        for one in some:
            positions[one] = together
    shared = {} if shared is None else shared
    by_way: dict[tuple[object, ...], FretStates] = {}
    found = []
    for number, (step, choices) in enumerate(zip(steps, places, strict=True)):
        if number in shapes:
            found.append(_chord_states(step, choices, shapes[number], positions[number], instrument, hand, shared))
            continue
        may_open = any(place.fret == 0 for place in choices[0])
        whole_way = (
            choices[0],
            step.locks,
            may_open and (positions[number], step.legato, step.bend, step.vibrato),
        )
        if whole_way in by_way:
            found.append(by_way[whole_way])
            continue
        opened = _open(step, choices[0], instrument, positions[number])
        key = tuple(sorted((*fretted[number], *opened), key=_order))
        if not key:
            raise NoPlanError(_no_state_words(step, choices[0]), event_index=step.moment.event_index)
        if key not in shared:
            shared[key] = FretStates(*np.array(key, dtype=np.int64).T)
        by_way[whole_way] = shared[key]
        found.append(shared[key])
    return found


def _shapes(
    step: Step,
    choices: list[tuple[Place, ...]],
    instrument: Instrument,
    hand: FrettingHand,
    homes: tuple[int, ...],
) -> list[Shape]:
    own = [note.locks.finger for note in step.notes] if step.more else [step.locks.finger]
    fingers = [*own, *(one.note.locks.finger for one in step.held)]
    struck = len(step.notes) if step.held else None
    found = find_shapes(choices, fingers, instrument, hand, step.locks.position, homes, struck)
    if not (step.bend or step.vibrato):
        return found
    return [shape for shape in found if all(finger for _, _, finger in shape.struck)]


def _chord_states(
    step: Step,
    choices: list[tuple[Place, ...]],
    shapes: list[Shape],
    homes: tuple[int, ...],
    instrument: Instrument,
    hand: FrettingHand,
    shared: SharedStates,
) -> FretStates:
    """Return the shapes of a chord; those of open strings only are held anywhere the hand may be."""
    if any(not shape.held for shape in shapes):
        shapes = _shapes(step, choices, instrument, hand, homes)
    if not shapes:
        if step.held:
            raise NoPlanError(
                f"{step.words}: no hand can play this and hold the bend of {step.held[-1].note.target} at the same "
                "time; release the bend before, or move one of the two notes to another string",
                event_index=step.moment.event_index,
            )
        locks = " with these locks" if step.locks.position or any(note.locks.finger for note in step.notes) else ""
        raise NoPlanError(
            f"{step.words}: no hand can hold these notes together{locks}; move one of them by an octave or to "
            "another string, or write them one after another",
            event_index=step.moment.event_index,
        )
    key = tuple(shapes)
    if key not in shared:
        shared[key] = shape_states(shapes)
    return shared[key]


def _order(row: Row) -> tuple[int, int, int, int]:
    string, fret, finger, position = row
    return (-string, fret, finger, position)


def _fretted(step: Step, places: tuple[Place, ...], instrument: Instrument, hand: FrettingHand) -> list[Row]:
    rows = [
        (instrument.index(place.string), place.fret, finger, place.fret - finger + 1 - offset)
        for place in places
        if place.fret > 0
        for finger in (1, 2, 3, 4)
        for offset in OFFSETS_FROM_FRAME
        if place.fret - finger + 1 - offset >= 1
        and step.locks.finger in (None, finger)
        and step.locks.position in (None, place.fret - finger + 1 - offset)
    ]
    rows = [row for row in rows if row[3] <= instrument.top_fret]
    if not rows:
        return []
    states = FretStates(*np.array(rows, dtype=np.int64).T)
    reach = reach_mm(states, instrument, hand)
    playable = (reach <= hand.stretch_mm) & (reach >= -hand.crowd_mm)
    return [row for row, keep in zip(rows, playable, strict=True) if keep]


def _open(step: Step, places: tuple[Place, ...], instrument: Instrument, homes: tuple[int, ...]) -> list[Row]:
    if step.locks.finger is not None or step.bend or step.vibrato:
        return []
    if step.legato in (Mark.SLIDE, Mark.HAMMER):
        return []
    if step.locks.position is not None:
        homes = (step.locks.position,)
    return [(instrument.index(place.string), 0, 0, home) for place in places if place.fret == 0 for home in homes]


def _open_positions(steps: list[Step], fretted: list[list[Row]]) -> list[tuple[int, ...]]:
    """Return positions that the hand can have at each step if it plays an open string there."""
    own = [
        {row[3] for row in rows} | ({step.locks.position} if step.locks.position else set())
        for step, rows in zip(steps, fretted, strict=True)
    ]
    before: list[set[int]] = []
    last: set[int] = set()
    for homes in own:
        before.append(last)
        last = homes or last
    after: list[set[int]] = []
    following: set[int] = set()
    for homes in reversed(own):
        after.append(following)
        following = homes or following
    after.reverse()
    return [tuple(sorted(one | two | three)) or (1,) for one, two, three in zip(before, own, after, strict=True)]


def _no_state_words(step: Step, places: tuple[Place, ...]) -> str:
    locks = []
    if step.locks.finger is not None:
        locks.append(f"finger {step.locks.finger}")
    if step.locks.position is not None:
        locks.append(f"position {step.locks.position}")
    where = " or ".join(str(place) for place in places)
    if (step.bend or step.vibrato) and all(place.fret == 0 for place in places):
        cannot = "be bent" if step.bend else "have vibrato"
        return f"{step.words}: an open string cannot {cannot}; fret the note on another string"
    if locks:
        return (
            f"{step.words}: {where} cannot be played with {' in '.join(locks)}; take out a lock, or choose a "
            "position within reach of that finger"
        )
    return f"{step.words}: no finger of these hands reaches {where}; try hands with a wider span"
