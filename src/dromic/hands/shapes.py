"""Chords: every way to hold notes that sound together.

Each fretted note has a finger. Higher frets take higher fingers; on one fret, thicker strings take the lower
finger, or one finger lies across as a barre, as long as nothing below the barre has to sound. Every finger must
reach its fret from the position, and all frets lie within the hand's span.

The thumb may come over the neck for the thickest string, where the player wants it; then no finger is laid across
more than two strings.

Strings inside a chord that do not sound have to be damped by the fingers, because the pick goes through them.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import groupby

from dromic.hands.constants import FrettingHand, ThumbOver
from dromic.hands.fingers import LITTLE, THUMB
from dromic.hands.grips import Fretted, Grip
from dromic.hands.posture import LONG_NECK_MM, spread_on
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Place

OFFSETS_OF_CHORDS = (-2, -1, 0, 1, 2)
MOST_SHAPES = 4000
MOST_STRINGS_OF_THUMB, MOST_LAID_WITH_THUMB = 6, 2


def find_shapes(
    choices: Sequence[Sequence[Place]],
    fingers: Sequence[int | None],
    instrument: Instrument,
    hand: FrettingHand,
    position: int | None = None,
    homes: Sequence[tuple[int, int]] = ((1, 1),),
    struck: int | None = None,
) -> list[Grip]:
    """Return every playable grip of notes that sound together.

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
    homes : sequence of (int, int)
        Positions of the hand while only open strings sound, and for how many notes they have.
    struck : int or None
        How many of the notes are sounded; the others are held on from before. None for all.
    """
    shapes: list[Grip] = []
    for places in _spread_over_strings(choices, instrument, hand):
        held = {one.string for one in places[struck:]} if struck else set()
        wanted = {place.string: finger for place, finger in zip(places, fingers, strict=True) if finger}
        for notes in fingerings(places, thumb_string(instrument, hand)):
            if any(wanted.get(string, finger) != finger for string, _, finger in notes):
                continue
            strikes = tuple(note for note in notes if note[0] not in held)
            rings = tuple(note for note in notes if note[0] in held)
            for home, flight in positions_of(notes, instrument, hand, homes):
                if position in (None, home):
                    shapes.append(Grip(strikes, home, rings, flight))
        if len(shapes) > MOST_SHAPES:
            break
    return shapes


def _spread_over_strings(
    choices: Sequence[Sequence[Place]], instrument: Instrument, hand: FrettingHand
) -> Iterator[tuple[Place, ...]]:
    """Every way to give each note a string of its own within the hand's span."""
    span = float(spread_on(instrument, hand)[LITTLE]) + hand.stretch_mm
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


def thumb_string(instrument: Instrument, hand: FrettingHand) -> int:
    """The string that the thumb takes over the neck; 0 where it does not come over."""
    narrow = instrument.strings <= MOST_STRINGS_OF_THUMB and instrument.scale_mm <= LONG_NECK_MM
    return instrument.strings if hand.thumb is ThumbOver.FOR_BASS and narrow else 0


def fingerings(places: tuple[Place, ...], thumb: int = 0) -> Iterator[tuple[Fretted, ...]]:
    """Every way to finger a set of places, thickest string first.

    Parameters
    ----------
    places : tuple of Place
        Each on a string of its own.
    thumb : int
        The string that the thumb may take; 0 for none.

    Yields
    ------
    tuple of (int, int, int)
        String, fret and finger of each.
    """
    yield from _fingered(places, len(places))
    bass = next((place for place in places if place.string == thumb and place.fret), None)
    if bass is not None:
        others = tuple(one for one in places if one != bass)
        yield from (((thumb, bass.fret, THUMB), *notes) for notes in _fingered(others, MOST_LAID_WITH_THUMB))


def _fingered(places: tuple[Place, ...], most: int) -> Iterator[tuple[Fretted, ...]]:
    """Every way to finger places by fingers 1 to 4, none laid across more than so many notes."""
    # Thick strings first: on one fret they take the lower fingers.
    strings = {-place.string: place.fret for place in places}
    fretted = sorted((fret, string) for string, fret in strings.items() if fret)
    frets = [[string for _, string in group] for _, group in groupby(fretted, key=lambda one: one[0])]
    values = sorted({fret for fret, _ in fretted})

    def segments(group: list[int], fret: int) -> Iterator[list[list[int]]]:
        """Every way to cut the strings of one fret into runs that one finger each can hold."""
        if not group:
            yield []
            return
        for length in range(min(len(group), most), 0, -1):
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
        yield tuple((-string, strings[string], fingers.get(string, 0)) for string in sorted(strings))


def _rising(count: int, lowest: int) -> Iterator[tuple[int, ...]]:
    """Every rising row of so many fingers."""
    if count == 0:
        yield ()
        return
    for finger in range(lowest, 5 - count + 1):
        for rest in _rising(count - 1, finger + 1):
            yield (finger, *rest)


def positions_of(
    notes: tuple[Fretted, ...], instrument: Instrument, hand: FrettingHand, homes: Sequence[tuple[int, int]]
) -> list[tuple[int, int]]:
    """Positions from which every finger of a shape reaches its fret, and the flight of a free hand.

    Parameters
    ----------
    notes : tuple of (int, int, int)
        String, fret and finger.
    instrument : Instrument
    hand : FrettingHand
    homes : sequence of (int, int)
        Positions and flights of a hand with no finger down.
    """
    fretted = [(fret, finger) for _, fret, finger in notes if finger]
    if not fretted:
        return list(homes)
    spread = spread_on(instrument, hand)
    common: set[int] | None = None
    for fret, finger in fretted:
        own = set()
        for offset in OFFSETS_OF_CHORDS:
            home = (fret if finger == THUMB else fret - finger + 1) - offset
            if not 1 <= home <= instrument.top_fret:
                continue
            reach = instrument.spots[fret] - instrument.spots[home] - spread[finger]
            if -hand.crowd_mm <= reach <= hand.stretch_mm:
                own.add(home)
        common = own if common is None else common & own
    return [(home, 0) for home in sorted(common or ())]
