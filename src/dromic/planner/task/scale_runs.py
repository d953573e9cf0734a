"""Scale runs, which players with high gain take three notes to a string, so that every string is played alike."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction

from dromic.instrument.instrument import Instrument

THREES = 3
LEAST_TAKES = 2
MOST_STEP_SEMITONES = 4
MOST_SPAN_SEMITONES = 4


@dataclass(frozen=True)
class Sound:
    """When something is struck, and its pitches."""

    onset: Fraction
    pitches: tuple[int, ...]


@dataclass(frozen=True)
class ScaleRun:
    """A run up or down: its first step, how many threes it has, and the strings on which a three can be played."""

    first: int
    takes: int
    strings: tuple[int, ...]


def scale_runs(sounds: Sequence[Sound], taken: Sequence[bool], instrument: Instrument) -> Iterator[ScaleRun]:
    """Find scales that go one way in even notes, in steps that are not taken.

    Parameters
    ----------
    sounds : sequence of Sound
        Of all steps.
    taken : sequence of bool
        Which steps belong to something else.
    instrument : Instrument

    Yields
    ------
    ScaleRun
        None of a scale of five notes, whose threes are too wide for one string.
    """
    first = 0
    while first < len(sounds):
        last = first
        while last + 1 < len(sounds) and not (taken[first] or taken[last + 1]):
            if not _goes_on(sounds[first], sounds[first + 1], sounds[last], sounds[last + 1]):
                break
            last += 1
        takes = (last - first + 1) // THREES
        threes = [sounds[first + take * THREES : first + (take + 1) * THREES] for take in range(takes)]
        narrow = all(abs(some[0].pitches[0] - some[-1].pitches[0]) <= MOST_SPAN_SEMITONES for some in threes)
        strings = {string for some in threes for string in _strings_of(some, instrument)}
        if takes >= LEAST_TAKES and narrow and strings:
            yield ScaleRun(first, takes, tuple(sorted(strings)))
        first = max(last, first + 1)


def _goes_on(first: Sound, second: Sound, one: Sound, two: Sound) -> bool:
    """Whether two single notes go on, by a step of a scale and in rhythm, as a run begins."""
    if len(one.pitches) != 1 or len(two.pitches) != 1:
        return False
    way, rise = second.pitches[0] - first.pitches[0], two.pitches[0] - one.pitches[0]
    even = two.onset - one.onset == second.onset - first.onset
    return 0 < abs(rise) <= MOST_STEP_SEMITONES and rise * way > 0 and even


def _strings_of(some: Sequence[Sound], instrument: Instrument) -> set[int]:
    """Strings on which all notes of a three can be played."""
    return set.intersection(*({place.string for place in instrument.places(one.pitches[0])} for one in some))
