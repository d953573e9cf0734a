"""Where everything on the chart goes: pure arithmetic from a plan, without Qt.

Lengths are logical pixels; x runs with time from the first moment, y down the page. The string field shows
strings at their true relative spacing, the hand ribbon shows the neck in true millimetres, higher frets higher
up.
"""

from __future__ import annotations

import math
from bisect import bisect_left, bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from enum import IntEnum
from functools import cached_property

import numpy as np

from dromic.app.chart.columns import PLATE_OFFSET, PLATE_WIDTH, Column, Columns, heats
from dromic.app.chart.measures import measures_of
from dromic.arrays import Floats
from dromic.listening.take import TakeNote
from dromic.music.riff import Stroke
from dromic.planner.plan import Plan
from dromic.planner.told.plan_harmony import Harmony, harmony_of

MARGIN = 18.0
SPARE, LEAST_ROOM, LEAST_FIELD = 6.0, 150.0, 70.0
GAP = 24.0
COLUMN = 36.0
STROKES_BEFORE = 2
# Pixels from note to note from which on plates, or signs, can be read; narrower, the chart is an overview.
FULL_FROM, SIGNS_FROM = 23.0, 11.0
# What is written or drawn at a note needs so much room: plates, frets without one, signs, fingers, bars of three.
PLATE_ROOM, FRET_ROOM, TINY_ROOM, SIGN_ROOM, FINGER_ROOM, BARS_ROOM = 22.0, 16.0, 11.0, 15.0, 19.0, 22.0
GIVE_WAY = (("load", 250.0), ("hand", 210.0))
BAR_LABEL, LEAST_TICKS = 24.0, 7.0
BAR_STEPS = (1, 2, 5, 10, 20, 50, 100, 200, 500)
STROKE_MOST = 15.0
HAND_MARGIN_MM = 9.0
LEAST_NECK_MM = 130.0
MUTE_ROW, FINGER_ROW = 9.0, 18.0
# Room for the words at the edges of the string field.
EDGE_LABEL = 18.0


@dataclass(frozen=True)
class Band:
    """A horizontal band of the chart."""

    top: float
    bottom: float

    @property
    def height(self) -> float:
        """From top to bottom."""
        return self.bottom - self.top


@dataclass(frozen=True)
class View:
    """How the player wants to see it.

    Parameters
    ----------
    thick_on_top : bool
        As the strings hang; else as tablature has them.
    nut_below : bool
        Low frets at the bottom of the hand band; else on top, as a left-handed neck may be read.
    mutes, harmony : bool
        Whether the muting lane shows, and the harmony lane.
    tempo_ratio : float
        Tempo of the slider over the tempo of the plan.
    compact : bool
        A row of finger numbers instead of the hand band, as on paper.
    padlocks : bool
        Whether decisions of the player's are marked.
    take : tuple of tuple of TakeNote
        What was heard of each step, round after round; empty where no take is shown.
    """

    thick_on_top: bool = True
    nut_below: bool = True
    mutes: bool = False
    harmony: bool = False
    tempo_ratio: float = 1.0
    compact: bool = False
    padlocks: bool = True
    take: tuple[tuple[TakeNote, ...], ...] = ()


PLAIN_VIEW = View()


@dataclass(frozen=True)
class LaneSpace:
    """The room that a lane takes.

    Parameters
    ----------
    name : str
    share : float
        Of what lanes of fixed height leave; the one lane with neither has all the rest.
    fixed : callable or None
        Its height for a plan and a view, 0 where it does not show, None where its share holds.
    gap : float
        Between it and the lane above; a third of that on paper.
    """

    name: str
    share: float = 0.0
    fixed: Callable[[Plan, View], float | None] | None = None
    gap: float = 0.0

    def height(self, plan: Plan, view: View) -> float | None:
        """Its height where that does not depend on the others."""
        return None if self.fixed is None else self.fixed(plan, view)


@dataclass(frozen=True)
class Tick:
    """A line of the ruler; `label` is empty where there is no room for one."""

    x: float
    label: str
    bar: bool


def _least_gaps(xs: Floats) -> Floats:
    """The smaller of the gaps to both neighbours."""
    gaps = np.r_[math.inf, np.diff(xs), math.inf]
    found: Floats = np.minimum(gaps[:-1], gaps[1:])
    return found


class Detail(IntEnum):
    """How much of the notes can be read at a zoom."""

    OVERVIEW = 0
    SIGNS = 1
    FULL = 2


def default_zoom(plan: Plan) -> float:
    """Pixels a quarter note, so that nine tenths of the notes have a column of their own."""
    return float(np.clip(COLUMN / measures_of(plan).short_gap, 30.0, 600.0))


def _bands(plan: Plan, height: float, spaces: Sequence[LaneSpace], view: View) -> dict[str, Band]:
    """Give every lane its band, from top to bottom."""
    fixed = {space.name: space.height(plan, view) for space in spaces}
    # In a low window the lanes that others tell of too give way: the strip shows the loads, the neck the hand.
    for name, least in GIVE_WAY if not view.compact else ():
        if height < least and fixed.get(name, 0.0) is None:
            fixed[name] = 0.0
    gaps = {space.name: space.gap if fixed[space.name] != 0.0 else 0.0 for space in spaces}
    taken = sum(own for own in fixed.values() if own is not None) + sum(gaps.values())
    least = LEAST_ROOM if fixed.get("hand") is None else LEAST_FIELD
    room = max(height - taken - SPARE, least)
    shares = sum(space.share for space in spaces if fixed[space.name] is None)
    found: dict[str, Band] = {}
    top = 0.0
    for space in spaces:
        own = fixed[space.name]
        if own is None:
            own = room * (space.share or 1.0 - shares)
        top += gaps[space.name] / (3 if view.compact else 1)
        found[space.name] = Band(top, top + own)
        top += own
    return found


class ChartLayout:
    """Geometry of one plan at one zoom and height.

    Parameters
    ----------
    plan : Plan
    zoom : float
        Pixels a quarter note.
    height : float
    spaces : sequence of LaneSpace
        Of all lanes, from top to bottom.
    view : View
    """

    def __init__(
        self, plan: Plan, zoom: float, height: float, spaces: Sequence[LaneSpace], view: View = PLAIN_VIEW
    ) -> None:
        self.plan = plan
        self.zoom = zoom
        self.view = view
        self.thick_on_top = view.thick_on_top
        self.bands = _bands(plan, height, spaces, view)
        self.ruler, self.strokes, self.field = (self.bands[name] for name in ("ruler", "strokes", "strings"))
        self.mutes, self.hand, self.load = (self.bands[name] for name in ("mutes", "hand", "load"))
        self.measures = measures_of(plan)
        self._xs: Floats = MARGIN + self.measures.onsets * zoom
        # NumPy lets other threads in, and the window would wait for them: places are looked up in a list.
        self._places: list[float] = self._xs.tolist()
        self.columns = Columns(plan, self._places, view.tempo_ratio)
        self.width = self.x(self.measures.ends) + MARGIN
        self.largest_load = float(self.measures.loads.max(initial=0.0)) * view.tempo_ratio
        self._neck()

    @cached_property
    def harmony(self) -> Harmony:
        """Keys, chords and degrees of the plan."""
        return harmony_of(self.plan)

    @property
    def bottom(self) -> float:
        """Where the lowest lane ends."""
        return max(band.bottom for band in self.bands.values())

    @property
    def seam_x(self) -> float:
        """Where a loop goes back to its start."""
        return self.width - MARGIN

    @cached_property
    def detail(self) -> Detail:
        """How much can be read; on paper always all."""
        room = self.zoom * self.measures.short_gap
        if self.view.compact or room >= FULL_FROM:
            return Detail.FULL
        return Detail.SIGNS if room >= SIGNS_FROM else Detail.OVERVIEW

    @cached_property
    def rooms(self) -> list[float]:
        """How much room each column has to itself; grace notes have what is left beside their neighbours."""
        if self.view.compact:
            return [math.inf] * len(self.columns)
        xs, grace = self._xs, self.measures.grace
        rooms = np.full(len(xs), math.inf)
        rooms[~grace] = _least_gaps(xs[~grace])
        gaps = np.r_[math.inf, np.diff(xs), math.inf]
        beside = np.r_[0.0, np.minimum(rooms, PLATE_ROOM), 0.0]
        before, after = 2 * gaps[:-1] - beside[:-2], 2 * gaps[1:] - beside[2:]
        rooms[grace] = np.minimum(before, after)[grace]
        found: list[float] = rooms.tolist()
        return found

    def middle_x(self, column: Column) -> float:
        """Middle of what stands for a note: its plate, or where there is none its stroke."""
        return column.plate_x if self.fits(column, TINY_ROOM) else column.x + 4

    def fits(self, column: Column, width: float) -> bool:
        """Whether there is room for something so wide at a column."""
        return self.rooms[column.step] >= width

    def x(self, quarters: float) -> float:
        """Place of a time."""
        return MARGIN + quarters * self.zoom

    def _neck(self) -> None:
        low, high = self.measures.low_mm, max(self.measures.high_mm, 0.0)
        spare = max(LEAST_NECK_MM - (high - low), 0.0) / 2
        self.neck_low = max(low - HAND_MARGIN_MM - spare, -HAND_MARGIN_MM)
        self.neck_high = high + HAND_MARGIN_MM + spare

    def neck_y(self, mm: float) -> float:
        """Place on the neck, from the nut, in the hand band."""
        share = (mm - self.neck_low) / (self.neck_high - self.neck_low)
        if not self.view.nut_below:
            share = 1.0 - share
        return self.hand.bottom - share * self.hand.height

    def mute_y(self, string: int) -> float:
        """Row of a string in the muting lane, in the order of the string field."""
        place = self.plan.instrument.index(string)
        rows = self.plan.instrument.strings
        place = place if self.thick_on_top else rows - 1 - place
        return self.mutes.top + (place + 0.5) * MUTE_ROW

    def string_y(self, string: int) -> float:
        """Place of a string in the field."""
        return self.string_places[string - 1]

    @cached_property
    def string_places(self) -> tuple[float, ...]:
        """Places of all strings, from the first."""
        return tuple(self._place_of(string) for string in range(1, self.plan.instrument.strings + 1))

    def _place_of(self, string: int) -> float:
        across = self.plan.instrument.pick_y
        share = float(across[self.plan.instrument.index(string)] / across[-1]) if len(across) > 1 else 0.5
        if not self.thick_on_top:
            share = 1.0 - share
        edge = max(self.half_stroke + 6.0, EDGE_LABEL)
        return self.field.top + edge + share * (self.field.height - 2 * edge)

    @cached_property
    def string_gap(self) -> float:
        """Between neighbouring strings."""
        strings = self.plan.instrument.strings
        edge = STROKE_MOST + 6.0
        return (self.field.height - 2 * edge) / max(strings - 1, 1)

    @cached_property
    def half_stroke(self) -> float:
        """From the string to the end of a stroke, short of the middle between two strings."""
        return min(STROKE_MOST, self.string_gap * 0.42)

    def down(self, stroke: Stroke) -> float:
        """Direction of a stroke on the page: 1 for down the page, -1 for up."""
        toward_floor = 1.0 if stroke is Stroke.DOWN else -1.0
        return toward_floor if self.thick_on_top else -toward_floor

    def load_y(self, load: float) -> float:
        """Top of a load's bar, cut off where the strip ends."""
        return self.load.bottom - min(load / self.load_scale, 1.0) * self.load.height

    @cached_property
    def load_scale(self) -> float:
        """Load at the top of the strip."""
        return min(max(self.largest_load * 1.08, 1.25), 2.5)

    def columns_between(self, left: float, right: float) -> tuple[Column, ...]:
        """Columns that may show between two places, with one more on either side."""
        start = max(bisect_left(self._places, left - COLUMN) - 1, 0)
        end = min(bisect_right(self._places, right + COLUMN) + 1, len(self._places))
        return self.columns[start:end]

    @cached_property
    def frame(self) -> tuple[object, ...]:
        """What the drawing of every place depends on, the loads left out."""
        neck, plan = (self.neck_low, self.neck_high), self.plan
        ends = self.width, self.columns[0].x, heats(self.columns[0].loads) if plan.loop else None
        bands = tuple((name, band.top, band.bottom) for name, band in self.bands.items())
        view = replace(self.view, tempo_ratio=1.0)
        return self.zoom, view, neck, plan.instrument, plan.hand_mm, plan.task.swapped, *ends, *bands

    def drawn_between(self, left: float, right: float) -> tuple[object, ...]:
        """What the drawing between two places depends on beside the frame: what is equal is drawn the same.

        Of the loads only whether they are calm, warm or hot; what shows them exactly is `loads_between`.
        """
        near = self.columns_between(left, right)
        if not near:
            return (self.ticks(left, right),)
        # The pick's way comes from the strokes before, wherever they are, and leads on to the next one.
        first = self._strokes_away(near[0].step, -1, STROKES_BEFORE)
        last = self._strokes_away(near[-1].step, 1, 1)
        steps, states = self.plan.task.steps, self.plan.states
        parts = [
            (
                steps[one.step],
                states[one.step],
                heats(one.loads),
                one.event.stroke_kind,
                one.event.mutes,
                one.event.legato,
            )
            for one in self.columns[first : last + 1]
        ]
        room = [min(one, PLATE_ROOM) for one in self.rooms[first : last + 1]]
        # Chords and degrees are told from the whole riff.
        harmony = object() if self.view.harmony else None
        return first, self.ticks(left, right), parts, harmony, room

    def loads_between(self, left: float, right: float) -> tuple[object, ...]:
        """As `drawn_between`, with the loads as they are."""
        loads = (one.loads for one in self.columns_between(left, right))
        return self.drawn_between(left, right), self.load_scale, *loads

    def _strokes_away(self, at: int, way: int, strokes: int) -> int:
        """The column so many strokes from another."""
        while 0 <= at < len(self.columns) and strokes:
            at += way
            inside = 0 <= at < len(self.columns)
            strokes -= not inside or self.columns[at].event.stroke is not Stroke.NONE
        return min(max(at, 0), len(self.columns) - 1)

    def nearest(self, x: float) -> int:
        """Index of the column nearest to a place."""
        wanted = x - PLATE_OFFSET - PLATE_WIDTH / 2
        after = bisect_left(self._places, wanted)
        around = [index for index in (after - 1, after) if 0 <= index < len(self._xs)]
        return min(around, key=lambda index: abs(self._xs[index] - wanted))

    def sounding(self, quarters: float) -> int:
        """Index of the column that sounds at a time: the last one that has begun."""
        return max(bisect_right(self._places, self.x(quarters) + 1e-6) - 1, 0)

    def ticks(self, left: float, right: float) -> tuple[Tick, ...]:
        """Bar lines and beats between two places."""
        last = self.width - MARGIN + 0.5
        found = []
        bars = self.measures.bars
        # From the bar before the first that shows; bars may lie a little before their first note.
        first = max(bisect_left(bars, (left - MARGIN) / self.zoom, key=lambda bar: bar.start) - 2, 0)
        for bar in bars[first:]:
            start, wide, beat_wide = self.x(bar.start), bar.length * self.zoom, bar.beat * self.zoom
            if start > min(right, last):
                break
            if start + wide < left:
                continue
            # Bars are numbered as often as there is room: every one, every second, every fifth, tenth and so on.
            every = next((step for step in BAR_STEPS if step * wide >= BAR_LABEL), BAR_STEPS[-1])
            labelled = every == 1 or bar.number % every == 0 or bar is bars[0]
            if not labelled and wide < LEAST_TICKS:
                continue
            roomy = beat_wide >= 46
            for beat in range(bar.beats if beat_wide >= LEAST_TICKS else 1):
                x = start + beat * beat_wide
                if MARGIN - 0.5 <= x <= last:
                    label = (str(bar.number) if labelled else "") if beat == 0 else str(beat + 1) if roomy else ""
                    found.append(Tick(x, label if x < last - 1 else "", beat == 0))
        end = self.width - MARGIN
        if left <= end <= right and (not found or found[-1].x < end - 1):
            found.append(Tick(end, "", bar=True))
        return tuple(found)

    @property
    def phrases(self) -> list[tuple[float, str]]:
        """Where phrases begin, with their names and which time round it is, and where the tempo changes."""
        return [(self.x(at), words) for at, words in self.measures.phrases]
