"""Every way of fretting each step.

A fretted note can be taken by finger i with the hand up to two frets below or one above the position that
gives each finger its own fret, as far as stretch and crowding allow. While an open string sounds, the hand
is where the notes before may have had it, wherever and with whichever finger they are played.

Grips are ordered thinnest string first, then by fret, finger and position, so that ties always break the same way.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

import numpy as np

from dromic.errors import NoPlanError
from dromic.hands.constants import FrettingHand
from dromic.hands.fingers import FINGERS, LITTLE, THUMB, finger_words
from dromic.hands.grips import Grip, Grips, ordered
from dromic.hands.possible_moves import MOST_FLIGHT
from dromic.hands.posture import reach_mm
from dromic.hands.shapes import OFFSETS_OF_CHORDS, find_shapes, thumb_string
from dromic.instrument.instrument import Instrument
from dromic.memory import Memo, Stages, cache
from dromic.music.pitch import Pitch, pitch_name
from dromic.music.riff import Mark, Note, Place
from dromic.planner.costs.fret_costs import FretCosts
from dromic.planner.costs.shape_grips import Homes, Wanted, on_shapes, reached_on, spans_of
from dromic.planner.limits import ANY, Limits
from dromic.planner.task.step import Step

Reach = tuple[frozenset[int], bool]
MOST_REMEMBERED = 20_000
OFFSETS_OF_FINGERS = {1: (-1, 0), 2: (-1, 0, 1), 3: (-1, 0, 1), 4: (-1, 0, 1, 2)}


def places_of(step: Step, note: Note, instrument: Instrument) -> tuple[Place, ...]:
    """Return the places where a note of a step can be played.

    Parameters
    ----------
    step : Step
    note : Note
    instrument : Instrument

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


@cache(8)
def finder_of(fretting: FretCosts) -> GripFinder:
    """The finder of a hand on an instrument, with all that it has found so far."""
    return GripFinder(fretting)


class GripFinder:
    """Finds every way to hold steps; equal steps share one object, so that work on them is shared too.

    Parameters
    ----------
    fretting : FretCosts
        Which say what shapes of a harmony span are weighed.
    """

    def __init__(self, fretting: FretCosts) -> None:
        self._fretting = fretting
        instrument, self._hand = fretting.instrument, fretting.hands.fretting
        self._instrument = instrument
        self._fretted = Memo(self._find_fretted, MOST_REMEMBERED)
        self._whole = Memo(self._find, MOST_REMEMBERED)
        self._on_shapes = Memo(self._find_on_shapes, MOST_REMEMBERED)
        self._held = Memo(self._find_held, MOST_REMEMBERED)
        self._shared: Memo[Grips] = Memo(lambda rows: Grips(rows, instrument.strings), MOST_REMEMBERED)
        self._reaches = Memo(self._find_reach, MOST_REMEMBERED)
        self._homes = Memo(_homes_after, MOST_REMEMBERED)
        self._known_places: dict[Place | Pitch, tuple[Place, ...]] = {}

    def all(
        self,
        steps: Sequence[Step],
        tied: Iterable[Sequence[int]] = (),
        stages: Stages | None = None,
        limits: Limits = ANY,
    ) -> list[Grips]:
        """Return the grips of every step.

        Parameters
        ----------
        steps : sequence of Step
        tied : iterable of sequences of int
            Steps that are to be played the same way, which get the same grips.
        stages : Stages or None
            What was made of this riff before.
        limits : Limits
            Within which a chord shape has to be, or it is not held.

        Raises
        ------
        NoPlanError
            Naming a note that has no place, or locks that leave it none.
        """
        stages = stages or Stages()
        positions = self.homes(steps, stages)
        for some in tied:
            together = tuple(sorted({home for one in some for home in positions[one]}))
            for one in some:
                positions[one] = together
        held = [False] * len(steps)
        for span in spans_of(steps):
            own = tuple(steps[at] for at in span), tuple(positions[at] for at in span)
            if self._held(*own, limits):
                held[span.start : span.stop] = [True] * len(span)
        by_step = stages.map(grips_of, steps, positions, held, common=(self,))
        grips = [one for one in by_step if one is not None]
        if len(grips) < len(by_step):
            raise self._no_grip(steps, by_step.index(None))
        return grips

    def _no_grip(self, steps: Sequence[Step], number: int) -> Exception:
        """What is wrong with a step that has no grip."""
        step = steps[number]
        words = _no_chord_words(step)
        if THUMB in (step.locks.finger, *(note.locks.finger for note in step.notes)):
            words = _no_thumb_words(step, thumb_string(self._instrument, self._hand))
        elif not (step.more or step.held):
            words = _no_grip_words(step, self._places(step, step.note))
        return NoPlanError(words, event_index=step.moment.event_index)

    def _find_held(self, steps: tuple[Step, ...], homes: tuple[Homes, ...], limits: Limits) -> bool:
        """Whether one chord shape can be held for all steps of a span, as they are locked and marked."""
        grips: list[Grips] = []
        for step, own in zip(steps, homes, strict=True):
            found = self.whole(step, own, held=True)
            if found is None:
                return False
            grips.append(found)
        allowed = [limits.allow(some) for some in grips]
        shapes = set.intersection(
            *(
                {row.shape for row, may in zip(some.rows, allow, strict=True) if may}
                for some, allow in zip(grips, allowed, strict=True)
            )
        )
        for step, before, after in zip(steps[1:], grips, grips[1:], strict=False):
            if step.legato is not None and shapes:
                shapes &= reached_on(before, after, step.legato)
        return bool(shapes)

    def whole(self, step: Step, homes: Homes, *, held: bool = False) -> Grips | None:
        """All grips of a step; None where there are none.

        Parameters
        ----------
        step : Step
        homes : Homes
            Positions of the hand while no finger is down.
        held : bool
            Whether the chord shape of its harmony span is held.
        """
        position = step.locks.position
        if position is not None:
            any_flight = tuple((position, flight) for flight in range(1, MOST_FLIGHT + 1))
            homes = tuple(home for home in homes if home[0] == position) or any_flight
        wanted = self._wanted(step)
        if held and step.span is not None:
            return self._on_shapes(wanted, step.span.tones, homes)
        return self._whole(wanted, homes if wanted.may_open else ())

    def _find_on_shapes(self, wanted: Wanted, tones: tuple[int, ...], homes: Homes) -> Grips | None:
        grips = list(on_shapes(wanted, self._fretting.span_shapes(tones), homes))
        return self._shared(ordered(grips, self._instrument.strings).rows) if grips else None

    def _wanted(self, step: Step) -> Wanted:
        notes = (*step.notes, *(one.note for one in step.held))
        fingers = [note.locks.finger for note in notes]
        if not step.more:
            fingers[0] = step.locks.finger
        return Wanted(
            tuple(self._places(step, note) for note in notes),
            tuple(fingers),
            len(step.notes),
            step.locks.position,
            step.tapped,
            step.trill,
            step.needs_finger,
            step.legato in (Mark.SLIDE, Mark.HAMMER),
        )

    def _find(self, wanted: Wanted, homes: Homes) -> Grips | None:
        if len(wanted.places) > 1:
            grips = _chords(wanted, self._instrument, self._hand, homes)
        else:
            grips = [*self._fretted(wanted), *_open(wanted, homes)]
        if not grips:
            return None
        # The same object for the same grips.
        return self._shared(ordered(grips, self._instrument.strings).rows)

    def _find_fretted(self, wanted: Wanted) -> list[Grip]:
        return _fretted(wanted, self._instrument, self._hand)

    def _places(self, step: Step, note: Note) -> tuple[Place, ...]:
        places = self._known_places.get(note.target)
        if places is None:
            places = self._known_places[note.target] = places_of(step, note, self._instrument)
        return places

    def homes(self, steps: Sequence[Step], stages: Stages | None = None) -> list[Homes]:
        """Positions that the hand can have at each step while only open strings sound, and for how many notes.

        It is where a finger of the notes before may have had it, on whichever string they are played and whatever
        is locked: a decision about one note gives the hand no other way to go at the next.

        Parameters
        ----------
        steps : sequence of Step
        stages : Stages or None
            What was made of this riff before.
        """
        reaches = (stages or Stages()).map(reach_of, steps, common=(self,))
        # Before the first note the hand is where the first note that takes a finger may have it.
        first = next((at for at, (_, may_open) in enumerate(reaches) if not may_open), len(reaches))
        ahead = frozenset().union(*(homes for homes, _ in reaches[: first + 1])) or frozenset((1,))
        if first == len(reaches):
            # Where no finger is needed at all, the hand may rest by the nut.
            ahead |= {1}
        by_step: list[Homes] = []
        free = self._homes((), ahead)
        for step, (homes, may_open) in zip(steps, reaches, strict=True):
            by_step.append(free)
            locked = step.locks.position
            if locked is not None and locked not in homes and locked not in {home for home, _ in free}:
                homes |= {locked}
            free = self._homes(free if may_open else (), homes)
        return by_step

    def reach(self, step: Step) -> Reach:
        """Positions that a finger on a note of a step can give the hand, and whether all may be open strings."""
        pitches = tuple(self._instrument.pitch_of(note.target) for note in step.notes)
        return self._reaches(pitches, step.tapped, bool(step.more or step.held or step.span))

    def _find_reach(self, pitches: tuple[int, ...], tapped: bool, together: bool) -> Reach:
        places = [self._instrument.places(pitch) for pitch in pitches]
        frets = {place.fret for some in places for place in some if place.fret and not tapped}
        homes = {home for fret in frets for home in self.positions_over(fret, together=together)}
        return frozenset(homes), tapped or all(any(place.fret == 0 for place in some) for some in places)

    def positions_over(self, fret: int, *, together: bool) -> Iterator[int]:
        """Positions from which some finger takes a fret, alone or together with others."""
        rows = [
            (finger, fret - finger + 1 - offset)
            for finger, alone in OFFSETS_OF_FINGERS.items()
            for offset in (OFFSETS_OF_CHORDS if together else alone)
            if 1 <= fret - finger + 1 - offset <= self._instrument.top_fret
        ]
        fingers, homes = (np.array(part, dtype=np.int64) for part in zip(*rows, strict=True))
        reach = reach_mm(np.full(len(homes), fret), fingers, homes, self._instrument, self._hand)
        within = (-self._hand.crowd_mm <= reach) & (reach <= self._hand.stretch_mm)
        yield from homes[within].tolist()


def _homes_after(free: Homes, homes: frozenset[int]) -> Homes:
    """Positions where a hand stays that was free, for one note more, and those that fingers give it anew."""
    stays = {(home, min(flight + 1, MOST_FLIGHT)) for home, flight in free}
    return tuple(sorted(stays | {(home, 1) for home in homes}))


def grips_of(step: Step, homes: Homes, held: bool, finder: GripFinder) -> Grips | None:
    """See `GripFinder.whole`."""
    return finder.whole(step, homes, held=held)


def reach_of(step: Step, finder: GripFinder) -> Reach:
    """See `GripFinder.reach`."""
    return finder.reach(step)


def _chords(wanted: Wanted, instrument: Instrument, hand: FrettingHand, homes: Homes) -> list[Grip]:
    """Every way to hold several notes; those of open strings only with the hand at `homes`."""
    count = len(wanted.places)
    if count > instrument.strings:
        return []
    struck = wanted.struck if wanted.struck < count else None
    chords = find_shapes(wanted.places, wanted.fingers, instrument, hand, wanted.position, homes, struck)
    if wanted.trill:
        chords = [grip for grip in chords if not any(finger == LITTLE for _, _, finger in grip.notes)]
    if not wanted.needs_finger:
        return chords
    return [grip for grip in chords if all(finger for _, _, finger in grip.notes)]


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


def _no_thumb_words(step: Step, string: int) -> str:
    """Why the thumb cannot take a note that it is locked to."""
    if not string:
        return (
            f"{step.words}: it is locked to the thumb, which does not come over this neck; say in Hands that it "
            "does for the bass of chords (on necks of up to six strings), or take out the lock"
        )
    return (
        f"{step.words}: the thumb over the neck takes only the bass of a chord, on string {string}, within "
        "reach of what the fingers hold; take out the lock, or move the note"
    )


def _fretted(wanted: Wanted, instrument: Instrument, hand: FrettingHand) -> list[Grip]:
    (locked,), (places,) = wanted.fingers, wanted.places
    rows = [
        (place, finger, place.fret - finger + 1 - offset)
        for place in places
        if place.fret > 0
        for finger in FINGERS
        for offset in OFFSETS_OF_FINGERS[finger]
        if 1 <= place.fret - finger + 1 - offset <= instrument.top_fret
        and locked in (None, finger)
        and not wanted.tapped
        # A finger above it has to trill.
        and not (wanted.trill and finger == LITTLE)
        and wanted.position in (None, place.fret - finger + 1 - offset)
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


def _open(wanted: Wanted, homes: Homes) -> list[Grip]:
    (locked,), (places,) = wanted.fingers, wanted.places
    if wanted.tapped and locked is None:
        # A finger of the picking hand is on the neck; the fretting hand is as free as at an open string.
        return [
            Grip(((place.string, place.fret, 0),), home, flight=flight)
            for place in places
            if place.fret > 0
            for home, flight in homes
        ]
    if locked is not None or wanted.needs_finger or wanted.slurred:
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
        locks.append(finger_words(step.locks.finger))
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
