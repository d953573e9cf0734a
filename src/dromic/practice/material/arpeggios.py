"""Arpeggios: shapes over two to six strings, inversions, tensions and substitutes; the chords of a key in order.

A shape has the chord's tones one after the other, as few of them on one string as possible and within the span of a
hand; of the shapes near a position the one with fewest second notes on a string is taken, then the narrowest.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import combinations

from dromic.errors import RiffError
from dromic.instrument.instrument import Instrument
from dromic.music.chords import Chord, chord_of, chord_on, parse_chord
from dromic.music.riff import Locks, Place, Stroke
from dromic.music.tones import Degree
from dromic.practice.material.pieces import (
    SIXTEENTH,
    TRIPLET,
    Asked,
    Family,
    Material,
    at_places,
    locked,
    piece,
    there_and_back,
)

WIDEST, NEAR = 5, 5
INVERSIONS = ("from the root", "first inversion", "second inversion", "third inversion")
PATTERNS = {
    "alternate": (Stroke.DOWN, Stroke.UP),
    "down, down, up": (Stroke.DOWN, Stroke.DOWN, Stroke.UP),
    "swept up and down": (Stroke.DOWN, Stroke.DOWN, Stroke.DOWN, Stroke.UP),
}
TENSIONS = ("9", "7b9", "7#9", "13", "7b13", "7#11")


def arpeggios(asked: Asked) -> tuple[Material, ...]:
    """A chord over two to six strings and in its inversions, with tensions, and what stands in for it.

    Raises
    ------
    RiffError
        Where no shape of it has room near the position.
    """
    chord, instrument = asked.chord, asked.instrument
    arpeggios: list[Material] = []
    for count in range(min(6, instrument.strings), 1, -1):
        strings = range(count if count < instrument.strings else instrument.strings, 0, -1)
        for inversion in range(len(chord.degrees)):
            places = shape(instrument, chord, list(strings), asked.position, inversion)
            if places:
                words = f"{chord} over {count} strings, {INVERSIONS[min(inversion, 3)]}"
                arpeggios.append(_arpeggio(asked, words, places))
    for words, other in (*_tensions(chord), *substitutes(chord)):
        places = shape(instrument, other, list(range(min(5, instrument.strings), 0, -1)), asked.position)
        if places:
            arpeggios.append(_arpeggio(asked, f"{words}: {other}", places))
    if not arpeggios:
        raise RiffError(f"no shape of {chord} has room near position {asked.position}; choose another position")
    return tuple(arpeggios)


def chords_of_key(asked: Asked) -> tuple[Material, ...]:
    """The triads of a key in order on three strings, under each picking pattern.

    Raises
    ------
    RiffError
        For a scale that has not seven tones, and so no chords of thirds.
    """
    scale, instrument = asked.on_scale, asked.instrument
    if scale.size != 7:
        raise RiffError(
            f"{scale} has {scale.size} tones, and chords are stacked on scales of seven; choose one of those"
        )
    chords = []
    for top in (1, 2, 3):
        strings = [string for string in range(top + 2, top - 1, -1) if string <= instrument.strings]
        if len(strings) < 3:
            continue
        shapes, position = [], asked.position
        for degree in range(7):
            chord = chord_on(scale.tones, degree)
            places = shape(instrument, chord, strings, position) if chord is not None else []
            if places:
                shapes.append(places)
                position = max(min(place.fret for place in places), 1)
        for name, pattern in PATTERNS.items():
            events = []
            for places in shapes:
                run = [*there_and_back(places)[:-1]][:4]
                events += [
                    locked(place, Locks(pattern[at % len(pattern)]), SIXTEENTH) for at, place in enumerate(run)
                ]
            if events:
                words = f"triads of {scale} on strings {strings[0]} to {strings[-1]}, {name}"
                chords.append(piece(asked, Family.CHORDS_OF_KEY, words, events, key=str(asked.key)))
    return tuple(chords)


def _arpeggio(asked: Asked, words: str, places: Sequence[Place]) -> Material:
    run = there_and_back(places)[:-1]
    value = TRIPLET if len(run) % 3 == 0 else SIXTEENTH
    return piece(asked, Family.ARPEGGIOS, words, at_places([*run, *run, run[0]], value), key="")


def _tensions(chord: Chord) -> Iterator[tuple[str, Chord]]:
    """A dominant with its tensions; a major or minor seventh with its ninth."""
    seventh = chord.degree_of(chord.root.pitch_class + 10)
    third = chord.degree_of(chord.root.pitch_class + 4)
    if seventh is not None and third is not None:
        for sign in TENSIONS:
            other = parse_chord(f"{chord.root}{sign}")
            if other is not None and other != chord:
                yield "with a tension", other


def substitutes(chord: Chord) -> Iterator[tuple[str, Chord]]:
    """What stands in for a chord: for a dominant that on the flat fifth; the chord from its third up.

    Parameters
    ----------
    chord : Chord

    Examples
    --------
    >>> [f"{words}: {other}" for words, other in substitutes(parse_chord("G7"))]
    ['tritone substitute: Db7', 'from its third: Bm7b5']
    """
    if chord.quality.sign == "7":
        other = parse_chord(f"{chord.root.above(Degree(5, -1))}7")
        if other is not None:
            yield "tritone substitute", other
    own = {degree.number: degree for degree in chord.degrees}
    if {3, 5, 7} <= own.keys():
        ninth = own.get(9, Degree(9))
        third = own[3]
        degrees = [Degree(1)]
        for at, number in enumerate((5, 7, 9), start=1):
            tone = own.get(number, ninth)
            plain = Degree(1 + 2 * at)
            degrees.append(Degree(plain.number, tone.semitones - third.semitones - plain.semitones))
        other = chord_of(chord.root.above(third), degrees)
        if other is not None:
            yield "from its third", other


def shape(
    instrument: Instrument, chord: Chord, strings: Sequence[int], position: int, inversion: int = 0
) -> list[Place]:
    """A shape of an arpeggio, from its lowest to its highest note; empty where there is none.

    Parameters
    ----------
    instrument : Instrument
    chord : Chord
    strings : sequence of int
        From the thickest; each has one note or two.
    position : int
        Fret near which it lies.
    inversion : int
        Which of its tones is lowest.
    """
    for low in (max(position - 2, 1), 0):
        high = position + NEAR if low else position + 2 * NEAR
        shape = _best_shape(instrument, chord, strings, (low, position, high), inversion)
        if shape:
            return shape
    return []


def _best_shape(
    instrument: Instrument, chord: Chord, strings: Sequence[int], region: tuple[int, int, int], inversion: int
) -> list[Place]:
    """The shape between two frets that suits the fret between them best."""
    low, position, high = region
    rises = sorted({degree.semitones % 12 for degree in chord.degrees})
    best: tuple[tuple[int, int, int], list[Place]] | None = None
    root = chord.root.pitch_class
    for lowest in range(low, min(high, instrument.top_fret) + 1):
        midi = instrument.pitch(Place(strings[0], lowest))
        rise = (midi - root) % 12
        if rise not in rises or rises.index(rise) != inversion % len(rises):
            continue
        for doubles in range(len(strings) + 1):
            if best is not None and doubles > best[0][0]:
                break
            for doubled in combinations(range(len(strings)), doubles):
                places = _placed(instrument, strings, doubled, midi, rises, root)
                if places is None or not all(low <= place.fret <= high for place in places):
                    continue
                frets = [place.fret for place in places if place.fret]
                span = max(frets, default=0) - min(frets, default=0)
                price = (doubles, span, abs(min(frets, default=0) - position))
                if span <= WIDEST and (best is None or price < best[0]):
                    best = price, places
    return best[1] if best is not None else []


def _placed(
    instrument: Instrument,
    strings: Sequence[int],
    doubled: Sequence[int],
    lowest: int,
    rises: Sequence[int],
    root: int,
) -> list[Place] | None:
    """Consecutive chord tones from a note on, two on the doubled strings; None where a string has no room."""
    midi = lowest
    placed = []
    for at, string in enumerate(strings):
        for _ in range(2 if at in doubled else 1):
            fret = midi - instrument.pitch(Place(string, 0))
            if not 0 <= fret <= instrument.top_fret:
                return None
            placed.append(Place(string, fret))
            midi = _next_tone(midi, rises, root)
    return placed


def _next_tone(midi: int, rises: Sequence[int], root: int) -> int:
    return next(higher for higher in range(midi + 1, midi + 13) if (higher - root) % 12 in rises)
