"""What a part of the chart shows: all that its lanes are drawn from, and so all that their pictures depend on."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass
from functools import cached_property
from itertools import product

from dromic.app.chart.columns import Column
from dromic.app.chart.frame import Frame
from dromic.app.heat import HOT_FROM, WARM_FROM, heat
from dromic.memory import copy_with, memo
from dromic.music.chords import Chord
from dromic.music.harmony import NoteHarmony
from dromic.planner.plan import PlannedEvent
from dromic.planner.task.state import Loads

# What is written or drawn at a note needs so much room: plates, frets without one, signs, fingers, bars of three.
PLATE_ROOM, FRET_ROOM, TINY_ROOM, SIGN_ROOM, FINGER_ROOM, BARS_ROOM = 22.0, 16.0, 11.0, 15.0, 19.0, 22.0
ACCENT_ROOM = MOST_ROOM = 30.0
NO_LOADS = Loads()
OF_HEAT = 0.0, WARM_FROM, 2 * HOT_FROM
BY_HEAT = {heats: Loads(*(OF_HEAT[one] for one in heats)) for heats in product(range(len(OF_HEAT)), repeat=3)}


@dataclass(frozen=True)
class Tick:
    """A line of the ruler; `label` is empty where there is no room for one."""

    x: float
    label: str
    bar: bool


@dataclass(frozen=True)
class HarmonyAt:
    """The chord at a note, the one at the note before, and what the notes are."""

    chord: Chord | None
    before: Chord | None
    notes: tuple[NoteHarmony, ...]


@dataclass(frozen=True)
class Part(Frame):
    """The chart between two places; parts that are equal are drawn the same.

    Lanes are given this and nothing else: what one of them is to show has to be here.

    Parameters
    ----------
    left, right : float
    columns : tuple of Column
        Those that show and those that lines lead to and come from, in order of their steps without a gap. Their
        loads say whether they are calm, warm or hot, and are exact only where that was asked for.
    shown : range
        Steps of those that may show.
    rooms : tuple of float
        How much room each column has to itself, `MOST_ROOM` for all that is more.
    ticks : tuple of Tick
    start : Column or None
        The first column of all in a loop.
    load_scale : float
        Load at the top of the strip; 0 where loads are not exact.
    harmony : tuple of HarmonyAt
        Of each column; empty where it does not show.
    """

    left: float
    right: float
    columns: tuple[Column, ...]
    shown: range
    rooms: tuple[float, ...]
    ticks: tuple[Tick, ...]
    start: Column | None
    load_scale: float
    harmony: tuple[HarmonyAt, ...]

    @property
    def first(self) -> int:
        """Step of the first column."""
        return self.columns[0].step if self.columns else 0

    @property
    def last(self) -> int:
        """Step of the last column."""
        return self.first + len(self.columns) - 1

    def at(self, step: int) -> Column:
        """The column of a step."""
        return self.columns[step - self.first]

    @cached_property
    def showing(self) -> tuple[Column, ...]:
        """Columns that may show."""
        return self.columns[self.shown.start - self.first : self.shown.stop - self.first]

    def columns_from(self, left: float) -> tuple[Column, ...]:
        """Columns from a place on."""
        return self.columns[bisect_left(self.columns, left, key=lambda column: column.x) :]

    def harmony_of(self, column: Column) -> HarmonyAt:
        """The harmony of a column."""
        return self.harmony[column.step - self.first]

    def room(self, column: Column) -> float:
        """How much room a column has to itself."""
        return self.rooms[column.step - self.first]

    def fits(self, column: Column, width: float) -> bool:
        """Whether there is room for something so wide at a column, `MOST_ROOM` at most."""
        return self.room(column) >= width

    def middle_x(self, column: Column) -> float:
        """Middle of what stands for a note: its plate, or where there is none its stroke."""
        return column.plate_x if self.fits(column, TINY_ROOM) else column.x + 4

    def load_y(self, load: float) -> float:
        """Top of a load's bar, cut off where the strip ends."""
        return self.load.bottom - min(load / self.load_scale, 1.0) * self.load.height


def column_shown(column: Column, *, exact_loads: bool) -> Column:
    """A column for a part: its loads as they are, or only how hot they are, which few tempi change."""
    loads = column.loads if exact_loads else loads_of_heat(column.loads)
    return copy_with(column, event=memo(_without_loads, column.event), loads=loads)


def loads_of_heat(loads: Loads) -> Loads:
    """Loads that are as hot, and the same for all that are.

    Examples
    --------
    >>> loads_of_heat(Loads(0.1, 0.9, 0.7)) == loads_of_heat(Loads(0.3, 0.85, 0.0))
    True
    """
    return BY_HEAT[heat(loads.pick), heat(loads.fret), heat(loads.sync)]


def _without_loads(event: PlannedEvent) -> PlannedEvent:
    """An event without what changes at every tempo, and without other choices."""
    return copy_with(event, loads=NO_LOADS, offers=None)
