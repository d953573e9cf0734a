"""Scales in position, with so many notes a string, and along one string; and sequences of them."""

from __future__ import annotations

from collections.abc import Sequence

from dromic.errors import RiffError
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Place
from dromic.music.scales import Scale, Step
from dromic.practice.material.pieces import (
    SIXTEENTH,
    TRIPLET,
    Asked,
    Family,
    Material,
    at_places,
    piece,
    there_and_back,
)

REACH = 4
SEQUENCES = {"threes": (0, 1, 2), "fours": (0, 1, 2, 3), "thirds": (0, 2), "sixths": (0, 5)}


def scales(asked: Asked) -> tuple[Material, ...]:
    """A scale in every layout.

    Raises
    ------
    RiffError
        Where none of them has room on the neck.
    """
    scale, instrument = asked.on_scale, asked.instrument
    scales = []
    layouts = [
        (f"in position {asked.position}", in_position(instrument, scale, asked.position)),
        (f"{_numbers(scale)} notes a string", notes_a_string(instrument, scale, asked.position)),
    ]
    layouts += [
        (f"along string {string}", along_string(instrument, scale, string))
        for string in range(instrument.strings, 0, -1)
    ]
    for words, places in layouts:
        if len(places) > scale.size // 2:
            name = f"{scale} {words}"
            scales.append(piece(asked, Family.SCALES, name, at_places(there_and_back(places)), key=_key(asked)))
    if not scales:
        raise RiffError(f"{scale} has no room on this neck; choose a lower position")
    return tuple(scales)


def sequences(asked: Asked) -> tuple[Material, ...]:
    """A scale in position and by strings, in threes, fours, thirds and sixths.

    Raises
    ------
    RiffError
    """
    scale, instrument = asked.on_scale, asked.instrument
    sequences = []
    for layout, places in (
        (f"in position {asked.position}", in_position(instrument, scale, asked.position)),
        (f"{_numbers(scale)} notes a string", notes_a_string(instrument, scale, asked.position)),
    ):
        for name, figure in SEQUENCES.items():
            run = sequence(places, figure)
            if len(run) > len(figure):
                value = TRIPLET if len(figure) == 3 else SIXTEENTH
                words = f"{scale} {layout} in {name}"
                sequences.append(piece(asked, Family.SEQUENCES, words, at_places(run, value), key=_key(asked)))
    if not sequences:
        raise RiffError(f"{scale} has no room for sequences at position {asked.position}; choose a lower one")
    return tuple(sequences)


def sequence(places: Sequence[Place], figure: Sequence[int]) -> list[Place]:
    """A figure on every note of a run, up and then down.

    Parameters
    ----------
    places : sequence of Place
        From low to high.
    figure : sequence of int
        Steps from the note that it is on.

    Examples
    --------
    >>> run = [Place(5, fret) for fret in (3, 5, 7, 8)]
    >>> [str(place) for place in sequence(run, (0, 2))]
    ['5:3', '5:7', '5:5', '5:8', '5:8', '5:5', '5:7', '5:3']
    """
    last = len(places) - max(figure)
    up = [places[at + step] for at in range(max(last, 0)) for step in figure]
    return [*up, *reversed(up)]


def in_position(instrument: Instrument, scale: Scale, position: int) -> list[Place]:
    """A scale across the strings under one hand, from the lowest tonic there to the highest note.

    Parameters
    ----------
    instrument : Instrument
    scale : Scale
    position : int
    """
    low, high = max(position - 1, 0), position + REACH
    found: list[Place] = []
    for midi in range(instrument.lowest, instrument.highest + 1):
        if not scale.holds(midi):
            continue
        ways = [place for place in instrument.places(midi) if low <= place.fret <= high]
        if found:
            ways = [place for place in ways if place.string <= found[-1].string]
        if ways:
            found.append(min(ways, key=lambda place: (_beyond(place.fret, position), -place.string)))
    tonics = [at for at, place in enumerate(found) if (instrument.pitch(place) - scale.tonic.pitch_class) % 12 == 0]
    return found[tonics[0] :] if tonics else []


def _beyond(fret: int, position: int) -> int:
    """Frets beyond the four under the hand."""
    return max(position - fret, fret - position - REACH + 1, 0)


def notes_a_string(instrument: Instrument, scale: Scale, position: int) -> list[Place]:
    """As many notes on each string: three of seven or more tones, two of fewer; from the tonic nearest a position.

    Parameters
    ----------
    instrument : Instrument
    scale : Scale
    position : int
    """
    count = _each(scale)
    thickest = instrument.strings
    tonics = [
        fret
        for fret in range(instrument.top_fret + 1)
        if (instrument.pitch(Place(thickest, fret)) - scale.tonic.pitch_class) % 12 == 0
    ]
    start = min(tonics, key=lambda fret: (abs(fret - position), fret))
    number = scale.step(instrument.pitch(Place(thickest, start))).number
    notes_a_string: list[Place] = []
    for string in range(thickest, 0, -1):
        for _ in range(count):
            midi = scale.midi(Step(number))
            fret = midi - instrument.pitch(Place(string, 0))
            if not 0 <= fret <= instrument.top_fret:
                return notes_a_string
            notes_a_string.append(Place(string, fret))
            number += 1
    return notes_a_string


def along_string(instrument: Instrument, scale: Scale, string: int) -> list[Place]:
    """A scale along one string, from its lowest tonic an octave up, or as far as the neck goes.

    Parameters
    ----------
    instrument : Instrument
    scale : Scale
    string : int
    """
    open_midi = instrument.pitch(Place(string, 0))
    start = (scale.tonic.pitch_class - open_midi) % 12
    last = min(start + 12, instrument.top_fret)
    return [Place(string, fret) for fret in range(start, last + 1) if scale.holds(open_midi + fret)]


def _each(scale: Scale) -> int:
    return 3 if scale.size >= 7 else 2


def _numbers(scale: Scale) -> str:
    return {2: "two", 3: "three"}[_each(scale)]


def _key(asked: Asked) -> str:
    return str(asked.key)
