"""Every way of fretting each step.

A fretted note can be taken by finger i with the hand up to two frets below or one above the position that
gives each finger its own fret, as far as stretch and crowding allow. While an open string sounds, the hand
is where the notes before may have had it, wherever and with whichever finger they are played.

Grips are ordered thinnest string first, then by fret, finger and position, so that ties always break the same way.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import lru_cache, partial

import numpy as np

from dromic.errors import NoPlanError
from dromic.hands.constants import FrettingHand
from dromic.hands.grips import Grip, Grips, ordered
from dromic.hands.possible_moves import MOST_FLIGHT
from dromic.hands.posture import reach_mm
from dromic.hands.shapes import OFFSETS_OF_CHORDS, find_shapes
from dromic.instrument.instrument import Instrument
from dromic.music.pitch import Pitch, pitch_name
from dromic.music.remembering import last_of
from dromic.music.riff import Mark, Note, Place
from dromic.planner.ringing import CannotRingError
from dromic.planner.step import Step
from dromic.planner.workings import Workings

Homes = tuple[tuple[int, int], ...]
LITTLE = 4
MOST_REMEMBERED = 20_000
OFFSETS_OF_FINGERS = {1: (-1, 0), 2: (-1, 0, 1), 3: (-1, 0, 1), 4: (-1, 0, 1, 2)}


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


@lru_cache(maxsize=8)
def finder_of(instrument: Instrument, hand: FrettingHand) -> GripFinder:
    """The finder of a hand on an instrument, with all that it has found so far."""
    return GripFinder(instrument, hand)


class GripFinder:
    """Finds every way to hold steps; equal steps share one object, so that work on them is shared too.

    Parameters
    ----------
    instrument : Instrument
    hand : FrettingHand
    """

    def __init__(self, instrument: Instrument, hand: FrettingHand) -> None:
        self._instrument, self._hand = instrument, hand
        self._fretted: dict[tuple[object, ...], list[Grip]] = {}
        self._whole: dict[tuple[object, ...], Grips] = {}
        self._shared: dict[tuple[Grip, ...], Grips] = {}
        self._reaches: dict[tuple[object, ...], tuple[frozenset[int], bool]] = {}
        self._known_places: dict[Place | Pitch, tuple[Place, ...]] = {}

    def all(
        self,
        steps: Sequence[Step],
        tied: Iterable[Sequence[int]] = (),
        workings: Workings | None = None,
    ) -> list[Grips]:
        """Return the grips of every step.

        Parameters
        ----------
        steps : sequence of Step
        tied : iterable of sequences of int
            Steps that are to be played the same way, which get the same grips.
        workings : Workings or None
            What was worked out of this riff before.

        Raises
        ------
        NoPlanError
            Naming a note that has no place, or locks that leave it none.
        CannotRingError
            Where a note that rings has to be let go.
        """
        if len(self._whole) + len(self._fretted) > MOST_REMEMBERED:
            for known in (self._fretted, self._whole, self._shared, self._reaches):
                known.clear()
        workings = workings or Workings()
        positions = self.homes(steps, workings)
        for some in tied:
            together = tuple(sorted({home for one in some for home in positions[one]}))
            for one in some:
                positions[one] = together

        def grips(number: int) -> Grips:
            homes = positions[number]
            return last_of(steps[number], "_grips", (self, homes), partial(self._at, steps, number, homes))

        return workings.each("grips", (steps, positions), grips, made_from=(self,))

    def whole(self, steps: Sequence[Step], number: int, homes: Homes) -> Grips | None:
        """All grips of a step, those of open strings with the hand at `homes`; None where there are none."""
        step = steps[number]
        choices = self._choices(steps, number)
        locked = step.locks.position
        if locked is not None:
            any_flight = tuple((locked, flight) for flight in range(1, MOST_FLIGHT + 1))
            homes = tuple(home for home in homes if home[0] == locked) or any_flight
        may_open = step.tapped or all(any(place.fret == 0 for place in places) for places in choices)
        key = (self._key(step), may_open and homes)
        found = self._whole.get(key)
        if found is None:
            if step.more or step.held:
                grips = _chords(step, choices, self._instrument, self._hand, homes)
            else:
                grips = [*self._fretted_grips(step, choices[0]), *_open(step, choices[0], homes)]
            if not grips:
                return None
            found = self._whole[key] = self._same(grips)
        return found

    def _fretted_grips(self, step: Step, places: tuple[Place, ...]) -> list[Grip]:
        key = self._key(step)
        found = self._fretted.get(key)
        if found is None:
            found = self._fretted[key] = _fretted(step, places, self._instrument, self._hand)
        return found

    @staticmethod
    def _key(step: Step) -> tuple[object, ...]:
        """What the grips of a step depend on, homes apart."""
        slurred = step.legato in (Mark.SLIDE, Mark.HAMMER)
        how = step.locks.finger, step.locks.position, step.tapped, step.trill, step.needs_finger, slurred
        notes = tuple((note.target, note.locks.finger) for note in step.notes)
        return notes, tuple((one.note.target, one.note.locks.finger) for one in step.held), how

    def _at(self, steps: Sequence[Step], number: int, homes: Homes) -> Grips:
        step = steps[number]
        found = self.whole(steps, number, homes)
        if found is not None:
            return found
        if any(not one.bend for one in step.held):
            raise CannotRingError(number)
        if step.more or step.held:
            raise NoPlanError(_no_chord_words(step), event_index=step.moment.event_index)
        words = _no_grip_words(step, self._choices(steps, number)[0])
        raise NoPlanError(words, event_index=step.moment.event_index)

    def _choices(self, steps: Sequence[Step], number: int) -> list[tuple[Place, ...]]:
        step = steps[number]
        places = [self._places(step, note) for note in step.notes]
        return places + [self._places(steps[one.step], one.note) for one in step.held]

    def _places(self, step: Step, note: Note) -> tuple[Place, ...]:
        found = self._known_places.get(note.target)
        if found is None:
            found = self._known_places[note.target] = places_of(step, note, self._instrument)
        return found

    def _same(self, grips: Sequence[Grip]) -> Grips:
        """The same object for the same grips."""
        made = ordered(grips, self._instrument.strings)
        return self._shared.setdefault(made.rows, made)

    def homes(self, steps: Sequence[Step], workings: Workings | None = None) -> list[Homes]:
        """Positions that the hand can have at each step while only open strings sound, and for how many notes.

        It is where a finger of the notes before may have had it, on whichever string they are played and whatever
        is locked: a decision about one note gives the hand no other way to go at the next.

        Parameters
        ----------
        steps : sequence of Step
        workings : Workings or None
            What was worked out of this riff before.
        """
        workings = workings or Workings()

        def reach(number: int) -> tuple[frozenset[int], bool]:
            return last_of(steps[number], "_reach", (self,), partial(self._reach, steps[number]))

        reaches = workings.each("reaches", (steps,), reach, made_from=(self,))
        ahead = next((homes for homes, _ in reaches if homes), frozenset((1,)))
        known = {homes: tuple((home, 1) for home in sorted(homes)) for homes, _ in ((ahead, False), *reaches)}
        found: list[Homes] = []
        free: Homes = known[ahead]
        for step, (homes, may_open) in zip(steps, reaches, strict=True):
            found.append(free)
            fresh, locked = known[homes], step.locks.position
            if locked is not None and locked not in homes and locked not in {home for home, _ in free}:
                fresh = tuple(sorted((*fresh, (locked, 1))))
            if may_open:
                stays = {(home, min(flight + 1, MOST_FLIGHT)) for home, flight in free}
                free = tuple(sorted(stays.union(fresh)))
            else:
                free = fresh
        return found

    def _reach(self, step: Step) -> tuple[frozenset[int], bool]:
        """Positions that a finger on a note of a step can give the hand, and whether all may be open strings."""
        pitches = tuple(self._instrument.pitch_of(note.target) for note in step.notes)
        key = pitches, step.tapped
        found = self._reaches.get(key)
        if found is None:
            places = [self._instrument.places(pitch) for pitch in pitches]
            frets = {place.fret for some in places for place in some if place.fret and not step.tapped}
            top = self._instrument.top_fret
            homes = {home for fret in frets for home in positions_over(fret) if 1 <= home <= top}
            may_open = step.tapped or all(any(place.fret == 0 for place in some) for some in places)
            found = self._reaches[key] = frozenset(homes), may_open
        return found


def positions_over(fret: int) -> range:
    """Positions from which any finger can take a fret, alone or in a chord."""
    return range(fret - LITTLE + 1 - max(OFFSETS_OF_CHORDS), fret - min(OFFSETS_OF_CHORDS) + 1)


def _chords(
    step: Step,
    choices: list[tuple[Place, ...]],
    instrument: Instrument,
    hand: FrettingHand,
    homes: Homes,
) -> list[Grip]:
    """Every way to hold several notes; those of open strings only with the hand at `homes`."""
    if len(choices) > instrument.strings:
        return []
    own = [note.locks.finger for note in step.notes] if step.more else [step.locks.finger]
    fingers = [*own, *(one.note.locks.finger for one in step.held)]
    struck = len(step.notes) if step.held else None
    found = find_shapes(choices, fingers, instrument, hand, step.locks.position, homes, struck)
    if step.trill:
        found = [grip for grip in found if not any(finger == LITTLE for _, _, finger in grip.notes)]
    if not step.needs_finger:
        return found
    return [grip for grip in found if all(finger for _, _, finger in grip.notes)]


def _no_chord_words(step: Step) -> str:
    if step.held:
        return (
            f"{step.words}: no hand can play this and hold the bend of {step.held[-1].note.target} at the same "
            "time; release the bend before, or move one of the two notes to another string"
        )
    locks = " with these locks" if step.locks.position or any(note.locks.finger for note in step.notes) else ""
    return (
        f"{step.words}: no hand can hold these notes together{locks}; move one of them by an octave or to "
        "another string, or write them one after another"
    )


def _fretted(step: Step, places: tuple[Place, ...], instrument: Instrument, hand: FrettingHand) -> list[Grip]:
    rows = [
        (place, finger, place.fret - finger + 1 - offset)
        for place in places
        if place.fret > 0
        for finger in (1, 2, 3, 4)
        for offset in OFFSETS_OF_FINGERS[finger]
        if 1 <= place.fret - finger + 1 - offset <= instrument.top_fret
        and step.locks.finger in (None, finger)
        and not step.tapped
        # A finger above it has to trill.
        and not (step.trill and finger == LITTLE)
        and step.locks.position in (None, place.fret - finger + 1 - offset)
    ]
    if not rows:
        return []
    frets, fingers, homes = (
        np.array(part, dtype=np.int64)
        for part in zip(*((one.fret, two, three) for one, two, three in rows), strict=True)
    )
    reach = reach_mm(frets, fingers, homes, instrument, hand)
    playable = (reach <= hand.stretch_mm) & (reach >= -hand.crowd_mm)
    return [
        Grip(((place.string, place.fret, finger),), home)
        for (place, finger, home), keep in zip(rows, playable, strict=True)
        if keep
    ]


def _open(step: Step, places: tuple[Place, ...], homes: Homes) -> list[Grip]:
    if step.tapped and step.locks.finger is None:
        # A finger of the picking hand is on the neck; the fretting hand is as free as at an open string.
        return [
            Grip(((place.string, place.fret, 0),), home, flight=flight)
            for place in places
            if place.fret > 0
            for home, flight in homes
        ]
    if step.locks.finger is not None or step.needs_finger:
        return []
    if step.legato in (Mark.SLIDE, Mark.HAMMER):
        return []
    return [
        Grip(((place.string, 0, 0),), home, flight=flight)
        for place in places
        if place.fret == 0
        for home, flight in homes
    ]


def _no_grip_words(step: Step, places: tuple[Place, ...]) -> str:
    locks = []
    if step.locks.finger is not None:
        locks.append(f"finger {step.locks.finger}")
    if step.locks.position is not None:
        locks.append(f"position {step.locks.position}")
    where = " or ".join(str(place) for place in places)
    if step.tapped:
        return (
            f"{step.words}: a tap is made by the picking hand on a fretted note, and takes no finger of the other; "
            "take out the finger, or write another fret"
        )
    if step.needs_finger and all(place.fret == 0 for place in places):
        cannot = "be bent" if step.bend else "have vibrato" if step.vibrato else "be slid into"
        return f"{step.words}: an open string cannot {cannot}; fret the note on another string"
    if locks:
        return (
            f"{step.words}: {where} cannot be played with {' in '.join(locks)}; take out a lock, or choose a "
            "position within reach of that finger"
        )
    return f"{step.words}: no finger of these hands reaches {where}; try hands with a wider span"
