"""Chord shapes for notes that are played one after the other: every way to hold the tones of a harmony span.

Each tone has a string of its own, but for a voice that moves by a step or two: it stays on its string, where one of
its tones *rests* and the others are *added* by a finger that comes down or goes over. So is a bass note for which a
finger goes over to the next string and comes back.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from dromic.hands.constants import FrettingHand
from dromic.hands.fingers import FINGERS, LITTLE, THUMB
from dromic.hands.grips import Fretted
from dromic.hands.posture import reach_mm, spread_on
from dromic.hands.shapes import fingerings, positions_of, thumb_string
from dromic.instrument.instrument import Instrument
from dromic.memory import cache
from dromic.music.riff import Place

MOST_TONES = 7
VOICE_STEP, VOICE_RANGE = 2, 4
"""Semitones by which a voice moves on its string, and within which it stays there."""
MOST_ADDED = 2
MOST_REMEMBERED = 256
Placing = tuple[Place, ...]


@dataclass(frozen=True)
class SpanShape:
    """A chord shape: notes at rest and notes added, the thickest string first, and the hand's position.

    The position is 0 where no finger is down.
    """

    notes: tuple[Fretted, ...]
    added: tuple[Fretted, ...]
    position: int


@cache(MOST_REMEMBERED)
def span_shapes(
    tones: tuple[int, ...], instrument: Instrument, hand: FrettingHand
) -> tuple[tuple[SpanShape, ...], ...]:
    """Every shape of some tones, those with the same places together.

    Parameters
    ----------
    tones : tuple of int
        Pitches, those first that rest where a string has several.
    instrument : Instrument
    hand : FrettingHand
    """
    if not 2 <= len(tones) <= MOST_TONES:
        return ()
    together = (tuple(_held(tones, placing, instrument, hand)) for placing in _placings(tones, instrument, hand))
    return tuple(shapes for shapes in together if shapes)


def _placings(tones: Sequence[int], instrument: Instrument, hand: FrettingHand) -> Iterator[Placing]:
    """Every way to place tones within the hand's span, voices that move by a step on one string."""
    span = float(spread_on(instrument, hand)[LITTLE]) + hand.stretch_mm
    spots = instrument.spots

    def extend(chosen: Placing) -> Iterator[Placing]:
        if len(chosen) == len(tones):
            yield chosen
            return
        for place in instrument.places(tones[len(chosen)]):
            frets = [one.fret for one in (*chosen, place) if one.fret]
            if frets and spots[max(frets)] - spots[min(frets)] > span:
                continue
            beside = [tone for tone, one in zip(tones, chosen, strict=False) if one.string == place.string]
            if any(abs(tone - tones[len(chosen)]) > VOICE_RANGE for tone in beside):
                continue
            yield from extend((*chosen, place))

    for placing in extend(()):
        voices = defaultdict(list)
        for tone, place in zip(tones, placing, strict=True):
            voices[place.string].append(tone)
        if len(tones) - len(voices) <= MOST_ADDED and all(map(_moves_by_steps, voices.values())):
            yield placing


def _moves_by_steps(tones: Sequence[int]) -> bool:
    """Whether the tones of a string are those of a voice that moves by steps."""
    return all(two - one <= VOICE_STEP for one, two in pairwise(sorted(tones)))


def _held(
    tones: Sequence[int], placing: Placing, instrument: Instrument, hand: FrettingHand
) -> Iterator[SpanShape]:
    """Every way to hold tones at some places."""
    # Of several notes on a string a finger stays on the first that is fretted, and is lifted for the open string.
    in_turn = sorted(placing, key=lambda place: not place.fret)
    resting: dict[int, Place] = {}
    added = [place for place in in_turn if resting.setdefault(place.string, place) is not place]
    found: dict[SpanShape, None] = {}
    basses = sorted(tones)[:2]
    leaving = [place for tone, place in zip(tones, placing, strict=True) if tone in basses and place not in added]
    for left in (None, *leaving):
        rest = tuple(place for place in resting.values() if place != left)
        if len(rest) < 2:
            continue
        if left is not None and (len(leaving) < 2 or len(added) == MOST_ADDED or not _side_by_side(*leaving)):
            continue
        more = added if left is None else [*added, left]
        over = next((place for place in leaving if place != left), None)
        for notes in fingerings(rest, thumb_string(instrument, hand)):
            found |= dict.fromkeys(_shapes(notes, more, left, over, instrument, hand))
    yield from found


def _side_by_side(one: Place, other: Place) -> bool:
    """Whether a finger goes over from one note to the other by going to the next string."""
    return abs(one.string - other.string) == 1 and one.fret == other.fret > 0


def _shapes(
    notes: tuple[Fretted, ...],
    added: Sequence[Place],
    left: Place | None,
    over: Place | None,
    instrument: Instrument,
    hand: FrettingHand,
) -> Iterator[SpanShape]:
    """A fingering from every position, with the finger for each added note that suits it best."""
    positions = [home for home, _ in positions_of(notes, instrument, hand, ((0, 0),))]
    for position in positions:
        more = []
        for place in added:
            from_note = over if place == left else None
            fingers = list(_fingers_for(place, notes, instrument, hand, position, from_note=from_note))
            if fingers:
                more.append((place.string, place.fret, min(fingers)[1]))
        if len(more) == len(added):
            yield SpanShape(notes, tuple(sorted(more, reverse=True)), position)


def _fingers_for(
    place: Place,
    notes: Sequence[Fretted],
    instrument: Instrument,
    hand: FrettingHand,
    position: int,
    *,
    from_note: Place | None,
) -> Iterator[tuple[tuple[bool, float], int]]:
    """Fingers that can take an added note: one that is free rather than one that leaves its note, the nearest."""
    if not place.fret:
        yield (False, 0.0), 0
        return
    for finger in FINGERS:
        others = [note for note in notes if note[2] not in (0, finger, THUMB)]
        same = [note for note in notes if note[2] == finger]
        ordered = all((fret - place.fret) * (own - finger) >= 0 for _, fret, own in others)
        if not ordered or any(note[0] == place.string for note in same):
            continue
        if from_note is not None and (from_note.string, from_note.fret) not in {note[:2] for note in same}:
            continue
        home = max(position, 1)
        if not position:
            home = max(place.fret - finger + 1, 1)
        reach = float(reach_mm(np.array(place.fret), np.array(finger), np.array(home), instrument, hand))
        if -hand.crowd_mm <= reach <= hand.stretch_mm:
            yield (bool(same), round(abs(reach), 6)), finger
