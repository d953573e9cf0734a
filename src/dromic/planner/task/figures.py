"""Figures that come back, moved or not: broken octaves, sixths, sweep shapes, sequences, pedals.

Takes of a figure follow on one another, with the same rhythm and contour and nearly the same intervals. Players
carry it as it is: what stays is its *pattern*, the strings of its notes counted from that of its first. A take
whose pattern is not that of the take before costs effort. Figures are found in the music alone, whatever is locked.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise

import numpy as np

from dromic.instrument.instrument import Instrument
from dromic.memory import Stages, cache, memo
from dromic.planner.task.drone_lines import DroneLine
from dromic.planner.task.scale_runs import THREES, Sound, scale_runs
from dromic.planner.task.state import State
from dromic.planner.task.step import Step

LENGTHS = range(2, 9)
LEAST_LEAP_SEMITONES = 3
ALIKE_SEMITONES = 2
ALIKE_OVER_PEDAL = 5
LEAST_TAKES_OF_PAIRS = 3
LEAST_WIDTH_SEMITONES = 7
MOST_SPAN_FRETS = 5
MOST_PATTERNS = 8
MOST_TRIED = 4096
SAME_GAP = 1e-9

Pattern = tuple[tuple[int, ...], ...]
"""For each note or chord of a figure its strings, the thickest first; in a pattern counted from the first."""


class FigureKind(StrEnum):
    """What comes back: a figure, moved or not; a scale run, three notes a string; a tune over drones.

    The values are the keys of the terms that another pattern of strings costs. Runs and tunes go on to other
    strings in the same pattern as a matter of course.
    """

    MOVED = "figure"
    RUN = "run"
    TUNE = "tune"


@dataclass(frozen=True)
class Figure:
    """A figure and its takes.

    Parameters
    ----------
    first, length, takes : int
        Its first step, how many steps a take has, and how many takes there are.
    placings : tuple of Pattern
        Strings on which a take can be played, by patterns in which two takes in a row can be; none where no hand
        can carry it, which then costs nothing.
    kind : FigureKind
    """

    first: int
    length: int
    takes: int
    placings: tuple[Pattern, ...]
    kind: FigureKind = FigureKind.MOVED

    def change(self, before: Pattern, now: Pattern) -> str:
        """Key of the term that two takes in a row count, empty where the second is played like the first."""
        return change_of(self.placings, before, now, self.kind) if self.placings else ""

    @property
    def steps(self) -> range:
        """Its steps."""
        return range(self.first, self.first + self.length * self.takes)


def change_of(placings: tuple[Pattern, ...], before: Pattern, now: Pattern, kind: FigureKind) -> str:
    """Key of the term that two takes in a row count, empty where the second is played like the first.

    Parameters
    ----------
    placings : tuple of Pattern
        Strings on which a take of the figure can be played.
    before, now : Pattern
        Strings of both takes.
    kind : FigureKind
    """
    known = before in placings and now in placings
    if not known or counted_from_first(before) != counted_from_first(now):
        return kind
    return "figure_strings" if before != now and kind is FigureKind.MOVED else ""


@dataclass(frozen=True)
class _Sound(Sound):
    """What of a step makes figures alike: when it begins, its pitches from the lowest, and what is done with it.

    Those in a harmony span are held as a chord, and belong to no figure.
    """

    on_beat: bool
    kind: tuple[object, ...]
    in_span: bool


def figures_of(
    steps: Sequence[Step],
    instrument: Instrument,
    drones: tuple[DroneLine, ...] = (),
    *,
    loop: bool = False,
    high_gain: bool = False,
    stages: Stages | None = None,
) -> tuple[Figure, ...]:
    """Find the figures of a riff.

    Parameters
    ----------
    steps : sequence of Step
    instrument : Instrument
    drones : tuple of DroneLine
        Tunes over drones, which are figures too: the tune keeps its string.
    loop : bool
        Whether the riff goes round; a take at either end then has no take before.
    high_gain : bool
        Whether scale runs are figures too, of three notes on each string.
    stages : Stages or None
        What was made of this riff before.

    Returns
    -------
    tuple of Figure
        In order, none overlapping another: those that cover most first, of these such as begin on a beat, of these
        the shortest.
    """
    sounds = tuple((stages or Stages()).map(_sound, steps, common=(instrument,)))
    return memo(_figures, instrument, sounds, drones, loop, high_gain)


def _figures(
    instrument: Instrument, sounds: Sequence[_Sound], drones: tuple[DroneLine, ...], loop: bool, high_gain: bool
) -> tuple[Figure, ...]:
    found = []
    for length in LENGTHS:
        least = LEAST_TAKES_OF_PAIRS if length == LENGTHS[0] else 2
        runs = _runs(_takes_alike(sounds, length), length)
        found += [(first, length, takes) for first, takes in runs if takes >= least]
    found.sort(key=lambda one: (-one[1] * one[2], not sounds[one[0]].on_beat, one[1], one[0]))
    ends = (0, len(sounds) - 1) if loop else ()
    taken = [one.in_span or number in ends for number, one in enumerate(sounds)]
    chosen = []
    tunes = [(line.first, line.length, line.takes, FigureKind.TUNE) for line in drones]
    for first, length, takes, kind in [*tunes, *((*one, FigureKind.MOVED) for one in found)]:
        first, takes = _free_part(taken, first, length, takes)
        if takes < 2:
            continue
        taken[first : first + length * takes] = [True] * (length * takes)
        chosen.append(Figure(first, length, takes, _placings(sounds, first, length, takes, instrument), kind))
    if high_gain:
        chosen += [
            Figure(
                run.first, THREES, run.takes, tuple(((string,),) * THREES for string in run.strings), FigureKind.RUN
            )
            for run in scale_runs(sounds, taken, instrument)
        ]
    return tuple(sorted(chosen, key=lambda one: one.first))


def _sound(step: Step, instrument: Instrument) -> _Sound:
    pitches = sorted(instrument.pitch_of(note.target) for note in step.notes)
    kind = step.legato, len(pitches)
    return _Sound(step.moment.onset, tuple(pitches), step.place.on_beat, kind, step.span is not None)


def _takes_alike(sounds: Sequence[_Sound], length: int) -> list[bool]:
    """For each step whether `_alike` holds from there on; where it plainly does not this is seen at once."""
    count = len(sounds) - 2 * length + 1
    if count <= 0:
        return []
    lowest = np.array([sound.pitches[0] for sound in sounds])
    notes = np.array([len(sound.pitches) for sound in sounds])
    gaps, rises = np.diff(np.array([float(sound.onset) for sound in sounds])), np.sign(np.diff(lowest))
    places = np.arange(count)
    for offset in range(length):
        one, two = places + offset, places + offset + length
        near = notes[one] == notes[two]
        if offset:
            from_first = (lowest[one] - lowest[one - offset]) - (lowest[two] - lowest[two - offset])
            near &= (np.abs(from_first) <= ALIKE_OVER_PEDAL) & (rises[one - 1] == rises[two - 1])
            near &= np.abs(gaps[one - 1] - gaps[two - 1]) < SAME_GAP
        places = places[near]
    # A take goes up and down, its way on to the next one counted.
    ways = [np.append(0, np.cumsum(rises == way)) for way in (1, -1)]
    turns = [way[places + length] > way[places] for way in ways]
    places = places[turns[0] & turns[1]]
    if len(places) and (notes == 1).all():
        takes = lowest[places[:, None] + np.arange(2 * length)]
        one, two = takes[:, :length], takes[:, length:]
        moved = np.abs((one - one[:, :1]) - (two - two[:, :1])).max(axis=1) <= ALIKE_SEMITONES
        wide = one.max(axis=1) - one.min(axis=1) >= LEAST_WIDTH_SEMITONES
        places = places[(one == two).any(axis=1) | (moved & wide)]
    takes_alike = [False] * count
    for place in places.tolist():
        takes_alike[place] = _alike(sounds, place, length)
    return takes_alike


def _alike(sounds: Sequence[_Sound], first: int, length: int) -> bool:
    """Whether the steps from `first` are a take, and the steps behind them another take of the same figure."""
    one, two = sounds[first : first + length], sounds[first + length : first + 2 * length]
    most = ALIKE_OVER_PEDAL if _pedal(one, two) else ALIKE_SEMITONES
    for number, (a, b) in enumerate(zip(one, two, strict=True)):
        if a.kind[1:] != b.kind[1:] or (number and a.kind != b.kind):
            return False
        from_first = (
            (p - one[0].pitches[0], q - two[0].pitches[0]) for p, q in zip(a.pitches, b.pitches, strict=True)
        )
        if any(abs(p - q) > most for p, q in from_first):
            return False
    if any(
        a2.onset - a1.onset != b2.onset - b1.onset or _rises(a1, a2) != _rises(b1, b2)
        for (a1, a2), (b1, b2) in zip(pairwise(one), pairwise(two), strict=True)
    ):
        return False
    turns = {_rises(a, b) for a, b in pairwise((*one, two[0]))}
    return {1, -1} <= turns and (_pedal(one, two) or _moved_whole(one, two))


def _pedal(one: Sequence[_Sound], two: Sequence[_Sound]) -> bool:
    """Whether a note stays where it is from take to take, so do all where the take is repeated.

    A chord over a bass that alternates does not: its bass goes where it lies best.
    """
    stays = [a.pitches == b.pitches for a, b in zip(one, two, strict=True)]
    under_chord = any(len(each.pitches) > 1 for each in one) and any(len(each.pitches) == 1 for each in one)
    return all(stays) or (any(stays) and not (len(one) == LENGTHS[0] and under_chord))


def _moved_whole(one: Sequence[_Sound], two: Sequence[_Sound]) -> bool:
    """Whether a take is a wide shape or a broken chord moved, not a scale in sequence, which stays in its box."""
    first, second = ({pitch for each in take for pitch in each.pitches} for take in (one, two))
    wide = max(first) - min(first) >= LEAST_WIDTH_SEMITONES
    ways = (pairwise(each.pitches[0] for each in take) for take in (one, two))
    leaps = all(abs(b - a) >= LEAST_LEAP_SEMITONES for way in ways for a, b in way if a != b)
    return wide and (leaps or 2 * len(first & second) <= len(first))


def _rises(one: _Sound, two: _Sound) -> int:
    """1 where the lowest note goes up, -1 down, 0 neither."""
    return (two.pitches[0] > one.pitches[0]) - (two.pitches[0] < one.pitches[0])


def _runs(alike: Sequence[bool], length: int) -> Iterator[tuple[int, int]]:
    """Where takes follow on takes: the first step of a run that cannot begin earlier, and how many takes it has."""
    for first, begins in enumerate(alike):
        if not begins or (first >= length and alike[first - length]):
            continue
        at = first
        while at < len(alike) and alike[at]:
            at += length
        yield first, (at - first) // length + 1


def _free_part(taken: Sequence[bool], first: int, length: int, takes: int) -> tuple[int, int]:
    """The longest run of whole takes of which no step is taken."""
    best, begun = (first, 0), 0
    for take in range(takes + 1):
        at = first + take * length
        if take == takes or any(taken[at : at + length]):
            if take - begun > best[1]:
                best = first + begun * length, take - begun
            begun = take + 1
    return best


# -- patterns -----------------------------------------------------------------------------------------------


def _placings(
    sounds: Sequence[_Sound], first: int, length: int, takes: int, instrument: Instrument
) -> tuple[Pattern, ...]:
    """Strings for a take, in the commonest patterns by which two takes in a row lie within reach."""
    by_take = []
    for take in range(takes):
        at = first + take * length
        by_take.append(_placings_of(tuple(sound.pitches for sound in sounds[at : at + length]), instrument))
    relative = [{counted_from_first(placing) for placing in some} for some in by_take]
    counted = Counter(pattern for one, two in pairwise(relative) for pattern in one & two)
    in_order = sorted(counted, key=lambda pattern: (-counted[pattern], _width(pattern), pattern))
    kept = set(in_order[:MOST_PATTERNS])
    return tuple(sorted({one for some in by_take for one in some if counted_from_first(one) in kept}))


@cache(16384)
def counted_from_first(placing: Pattern) -> Pattern:
    """The pattern of some strings.

    Examples
    --------
    >>> counted_from_first(((5,), (3,)))
    ((0,), (-2,))
    """
    start = placing[0][0]
    return tuple(tuple(string - start for string in some) for some in placing)


def _width(pattern: Pattern) -> int:
    strings = [string for some in pattern for string in some]
    return max(strings) - min(strings)


@cache(512)
def _placings_of(pitches: tuple[tuple[int, ...], ...], instrument: Instrument) -> frozenset[Pattern]:
    """Strings for one take."""
    found: set[Pattern] = set()
    tried = 0

    def place(at: int, strings: tuple[tuple[int, ...], ...], low: int, high: int) -> None:
        nonlocal tried
        if at == len(pitches):
            found.add(strings)
            return
        for some, least, most in _held(pitches[at], instrument, low, high):
            tried += 1
            if tried > MOST_TRIED:
                return
            place(at + 1, (*strings, some), least, most)

    place(0, (), 99, 0)
    return frozenset(found)


def _held(
    pitches: tuple[int, ...], instrument: Instrument, low: int, high: int
) -> Iterator[tuple[tuple[int, ...], int, int]]:
    """Ways to hold notes together: their strings from the thickest, and the frets used with those used before."""
    if not pitches:
        yield (), low, high
        return
    *others, highest = pitches
    for some, least, most in _held(tuple(others), instrument, low, high):
        for place in instrument.places(highest):
            below = min(least, place.fret) if place.fret else least
            above = max(most, place.fret)
            if above - below <= MOST_SPAN_FRETS and place.string not in some:
                yield tuple(sorted((*some, place.string), reverse=True)), below, above


# -- what is played -----------------------------------------------------------------------------------------


def strings_of(states: Sequence[State]) -> Pattern:
    """The strings on which steps are played."""
    return tuple(tuple(note[0] for note in state.notes) for state in states)


def changes(figures: Sequence[Figure], states: Sequence[State]) -> dict[int, str]:
    """Find the takes that are not played as the take before: keys of their terms, by first step.

    Parameters
    ----------
    figures : sequence of Figure
    states : sequence of State
        Of all steps.
    """
    changes = {}
    for figure in figures:
        starts = range(figure.first, figure.steps.stop, figure.length)
        played = [strings_of(states[at : at + figure.length]) for at in starts]
        for start, (before, now) in zip(starts[1:], pairwise(played), strict=True):
            key = figure.change(before, now)
            if key:
                changes[start] = key
    return changes
