"""The beat grid: how each beat is divided, which is where a swinging hand is at every moment.

A beat is divided into as many equal parts as its onsets need. Beats divided in two, four or eight share the
finest such division of their bar, because the hand keeps one swing through the bar; triplets and other
tuplets have their own. In compound metres the beat is dotted and has three parts or a multiple of three.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import groupby
from math import lcm
from operator import attrgetter

from dromic.memory import memo
from dromic.music.rhythm import Meter
from dromic.music.timeline import TimedEvent


@dataclass(frozen=True)
class GridPlace:
    """Where a moment lies in the grid.

    Parameters
    ----------
    part : int
        Which part of its beat, from 0.
    parts : int
        How many parts that beat has.
    """

    part: int
    parts: int

    @property
    def on_beat(self) -> bool:
        """Whether a beat starts here."""
        return self.part == 0


def grid_places(moments: Sequence[TimedEvent]) -> tuple[GridPlace, ...]:
    """Place every moment in its beat's grid.

    Parameters
    ----------
    moments : sequence of TimedEvent

    Returns
    -------
    tuple of GridPlace, one a moment
        A grace note has the place of the grid at or before it.
    """
    grid_places: list[GridPlace] = []
    before: TimedEvent | None = None
    for _, some in groupby(moments, key=attrgetter("bar")):
        inside = tuple(some)
        after_grace = before is not None and before.event.grace
        grid_places += memo(_places_in_bar, inside[0], inside, after_grace)
        before = inside[-1]
    return tuple(grid_places)


def _places_in_bar(first: TimedEvent, moments: Sequence[TimedEvent], after_grace: bool) -> tuple[GridPlace, ...]:
    """Places of the moments of one bar; a grace note before it may lead into it."""
    divisions: dict[tuple[int, int], int] = defaultdict(lambda: 1)
    finest: dict[int, int] = defaultdict(lambda: 1)
    known: dict[tuple[Fraction, Meter], tuple[int, Fraction]] = {}
    in_beats = []
    for moment in moments:
        place = moment.beat, moment.meter
        if place not in known:
            known[place] = divmod((moment.beat - 1) / moment.meter.beat, 1)
        in_beats.append(known[place])
    led_to = [after_grace, *(moment.event.grace for moment in moments)]
    for moment, after, (beat, inside) in zip(moments, led_to, in_beats, strict=False):
        if moment.event.grace or after:
            continue
        key = (moment.bar, beat)
        divisions[key] = lcm(divisions[key], inside.denominator)
    for (bar, _), division in divisions.items():
        if _binary(division):
            finest[bar] = max(finest[bar], division)
    places = []
    for moment, (beat, inside) in zip(moments, in_beats, strict=True):
        division = divisions[(moment.bar, beat)]
        parts = finest[moment.bar] if _binary(division) and not moment.meter.compound else division
        places.append(GridPlace(int(inside * parts), parts))
    return tuple(places)


def _binary(division: int) -> bool:
    return division & (division - 1) == 0
