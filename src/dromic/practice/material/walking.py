"""Walking lines over changes, by rules that are said.

On the first beat of a bar the root; on the second and third a tone of the chord, or of its scale on the way to one;
on the fourth a tone that leads to the next root: a semitone beside it, a scale's step beside it, or its fifth. No
note twice in a row. Of the lines that keep the rules the one with the smallest leaps is found exactly, by the
shortest path through a layer a beat.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dromic.errors import RiffError
from dromic.instrument.instrument import Instrument
from dromic.music.chords import Chord, chord_on
from dromic.music.riff import Event, Note
from dromic.practice.material.pieces import QUARTER, Asked, Family, Material, piece

BEATS = 4
MOST_CHORDS, REGISTER = 64, 26
PASSING, CHROMATIC, FIFTH, TURNING, LOW = 1.5, 0.5, 1.0, 4.0, 0.01
LEAST_ROUND = 12


@dataclass(frozen=True)
class Walked:
    """A note of a line, and what it costs to choose it, in semitones of leap."""

    midi: int
    price: float = 0.0


def walking_lines(asked: Asked) -> tuple[Material, ...]:
    """Lines over the changes that are asked for, from three registers.

    Raises
    ------
    RiffError
        Without chords, or for more than are walked over.
    """
    changes = asked.changes or _usual_changes(asked)
    if len(changes) > MOST_CHORDS:
        raise RiffError(f"{len(changes)} chords are more than are walked over; at most {MOST_CHORDS}")
    found: list[tuple[str, list[int]]] = []
    for words, low in (("low", 0), ("middle", 5), ("high", 12)):
        line = walk(asked.instrument, changes, asked.instrument.lowest + low)
        if line is None or any(line == one for _, one in found):
            continue
        found.append((words, line))
    pieces = []
    for words, line in found:
        events = []
        for at, midi in enumerate(line):
            pitch = asked.key.scale.spelled(midi)
            sign = changes[at // BEATS] if at % BEATS == 0 and at // BEATS < len(changes) else None
            events.append(Event(QUARTER, (Note(pitch),), chord=sign))
        name = f"walking over {' '.join(map(str, changes[:8]))}{' …' if len(changes) > 8 else ''}, {words}"
        pieces.append(piece(asked, Family.WALKING, name, events, key=str(asked.key)))
    return tuple(pieces)


def _usual_changes(asked: Asked) -> tuple[Chord, ...]:
    """Two, five, one and six of the key."""
    scale = asked.key.scale
    chords = [chord_on(scale.tones, degree, 4) for degree in (1, 4, 0, 5)]
    return tuple(chord for chord in chords if chord is not None)


def walk(instrument: Instrument, changes: Sequence[Chord], low: int) -> list[int] | None:
    """The line with the smallest leaps, the first root once more at its end; None where no line keeps the rules.

    Parameters
    ----------
    instrument : Instrument
    changes : sequence of Chord
        A bar each.
    low : int
        MIDI number that it does not go below; it stays within two octaves and a tone above.
    """
    layers = layers_of(instrument, changes, low)
    # What a note costs depends on the two before it, so a way is known by its last two notes.
    sums: dict[tuple[int, ...], tuple[float, list[int]]] = {
        (one.midi,): (LOW * (one.midi - low), [one.midi]) for one in layers[0]
    }
    for layer in layers[1:]:
        found: dict[tuple[int, ...], tuple[float, list[int]]] = {}
        for last, (price, line) in sums.items():
            for one in layer:
                if one.midi == line[-1]:
                    continue
                way = (price + one.price + _leap(line[-2:], one.midi), [*line, one.midi])
                ends = (last[-1], one.midi)
                if ends not in found or (round(way[0], 6), way[1]) < (round(found[ends][0], 6), found[ends][1]):
                    found[ends] = way
        sums = found
    return min(sums.values(), key=lambda way: (round(way[0], 6), way[1]))[1] if sums else None


def layers_of(instrument: Instrument, changes: Sequence[Chord], low: int) -> list[list[Walked]]:
    """What may stand on each beat.

    Parameters
    ----------
    instrument : Instrument
    changes : sequence of Chord
    low : int
    """
    high = min(low + REGISTER, instrument.highest)
    layers: list[list[Walked]] = []
    for at, chord in enumerate(changes):
        onward = changes[(at + 1) % len(changes)]
        inside = _of(low, high, _inside(chord))
        layers += [_of(low, high, {_bass(chord): 0.0}), inside, inside, _of(low, high, _leading(chord, onward))]
    return [*layers, _of(low, high, {_bass(changes[0]): 0.0})]


def price_of(line: Sequence[int], layers: Sequence[Sequence[Walked]]) -> float:
    """What a line costs: its leaps, and the notes that are no chord tones.

    Parameters
    ----------
    line : sequence of int
    layers : sequence of sequence of Walked
        As `layers_of` gives them.
    """
    low = min(one.midi for layer in layers for one in layer)
    prices = [{one.midi: one.price for one in layer} for layer in layers]
    total = LOW * (line[0] - low)
    for at in range(1, len(line)):
        total += prices[at][line[at]] + _leap(line[max(at - 2, 0) : at], line[at])
    return total


def _leap(before: Sequence[int], midi: int) -> float:
    """How far it is; more than an octave never, and back to the note before last is no way to walk."""
    leap = abs(midi - before[-1])
    turning = TURNING if len(before) > 1 and midi == before[-2] else 0.0
    return leap + turning + (100.0 if leap > LEAST_ROUND else 0.0)


def _bass(chord: Chord) -> int:
    return (chord.bass or chord.root).pitch_class


def _inside(chord: Chord) -> dict[int, float]:
    """Tones of the chord; steps between them at a price."""
    root = chord.root.pitch_class
    own = {(root + degree.semitones) % 12: 0.0 for degree in chord.degrees}
    minor = any(str(degree) == "b3" for degree in chord.degrees)
    seventh = next((degree.semitones for degree in chord.degrees if degree.number == 7), 10 if minor else 11)
    steps = (0, 2, 3 if minor else 4, 5, 7, 9, seventh)
    return {(root + step) % 12: PASSING for step in steps} | own


def _leading(chord: Chord, onward: Chord) -> dict[int, float]:
    """Tones that lead to the next root."""
    target = _bass(onward)
    beside = {(target + 1) % 12: CHROMATIC, (target - 1) % 12: CHROMATIC, (target + 7) % 12: FIFTH}
    own = {tone: price for tone, price in _inside(chord).items() if (tone - target) % 12 in (2, 10)}
    return beside | own


def _of(low: int, high: int, tones: dict[int, float]) -> list[Walked]:
    return [Walked(midi, tones[midi % 12]) for midi in range(low, high + 1) if midi % 12 in tones]
