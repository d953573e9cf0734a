"""Where everything on the chart goes: pure arithmetic from a plan, without Qt.

Lengths are logical pixels; x runs with time from the first moment, y down the page. The string field shows
strings at their true relative spacing, the hand ribbon shows the neck in true millimetres, higher frets higher
up.
"""

from __future__ import annotations

import math
from bisect import bisect_left, bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass, fields, replace
from functools import cached_property
from typing import Any

import numpy as np

from dromic.app.chart.columns import PLATE_OFFSET, PLATE_WIDTH, Column, Columns
from dromic.app.chart.frame import MARGIN, Band, Detail, Frame, View
from dromic.app.chart.measures import Measures, measures_of
from dromic.app.chart.part import MOST_ROOM, PLATE_ROOM, HarmonyAt, Part, Tick, column_shown
from dromic.arrays import Floats
from dromic.music.riff import Stroke
from dromic.planner.plan import Plan
from dromic.planner.told.plan_harmony import Harmony, harmony_of

PLAIN_VIEW = View()
SPARE, LEAST_ROOM, LEAST_FIELD = 6.0, 150.0, 70.0
GAP = 24.0
COLUMN = 36.0
STROKES_BEFORE = 2
LONG_SIGN = 120.0
# Pixels from note to note from which on plates, or signs, can be read; narrower, the chart is an overview.
FULL_FROM, SIGNS_FROM = 23.0, 11.0
GIVE_WAY = (("load", 250.0), ("hand", 210.0))
BAR_LABEL, LEAST_TICKS = 24.0, 7.0
BAR_STEPS = (1, 2, 5, 10, 20, 50, 100, 200, 500)
HAND_MARGIN_MM = 9.0
LEAST_NECK_MM = 130.0
FINGER_ROW = 18.0


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


def _least_gaps(xs: Floats) -> Floats:
    """The smaller of the gaps to both neighbours."""
    gaps = np.r_[math.inf, np.diff(xs), math.inf]
    least_gaps: Floats = np.minimum(gaps[:-1], gaps[1:])
    return least_gaps


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
    bands: dict[str, Band] = {}
    top = 0.0
    for space in spaces:
        own = fixed[space.name]
        if own is None:
            own = room * (space.share or 1.0 - shares)
        top += gaps[space.name] / (3 if view.compact else 1)
        bands[space.name] = Band(top, top + own)
        top += own
    return bands


def _neck(measures: Measures) -> tuple[float, float]:
    """What shows of the neck, in mm from the nut."""
    low, high = measures.low_mm, max(measures.high_mm, 0.0)
    spare = max(LEAST_NECK_MM - (high - low), 0.0) / 2
    return max(low - HAND_MARGIN_MM - spare, -HAND_MARGIN_MM), high + HAND_MARGIN_MM + spare


def _detail(room: float, view: View) -> Detail:
    """How much can be read where notes have so much room; on paper always all."""
    if view.compact or room >= FULL_FROM:
        return Detail.FULL
    return Detail.SIGNS if room >= SIGNS_FROM else Detail.OVERVIEW


class ChartLayout(Frame):
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
        measures = measures_of(plan)
        super().__init__(
            zoom=zoom,
            view=view,
            bands=_bands(plan, height, spaces, view),
            instrument=plan.instrument,
            hand_mm=plan.hand_mm,
            neck=_neck(measures),
            width=2 * MARGIN + measures.ends * zoom,
            detail=_detail(zoom * measures.short_gap, view),
            loop=plan.loop,
            swapped=plan.task.swapped,
        )
        self.plan, self.measures = plan, measures
        self._xs: Floats = MARGIN + measures.onsets * zoom
        # NumPy lets other threads in, and the window would wait for them: places are looked up in a list.
        self._places: list[float] = self._xs.tolist()
        self.columns = Columns(plan, self._places, view.tempo_ratio)
        self._warmth: dict[int, Column] = {}
        self._exact: dict[int, Column] = {}
        self.largest_load = float(measures.loads.max(initial=0.0)) * view.tempo_ratio

    # Two layouts are the same where they are one object: their parts say what is drawn the same.
    __eq__ = object.__eq__
    __hash__ = object.__hash__

    @cached_property
    def harmony(self) -> Harmony:
        """Keys, chords and degrees of the plan."""
        return harmony_of(self.plan)

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

    def part(self, left: float, right: float, *, exact_loads: bool = False) -> Part:
        """What the chart shows between two places.

        Parameters
        ----------
        left, right : float
        exact_loads : bool
            Whether loads are told as they are, and not only how hot they are.
        """
        near = self.columns_between(left, right)
        first = last = 0
        columns: tuple[Column, ...] = ()
        if near:
            # The pick's way comes from the strokes before, wherever they are, and leads on to the next one.
            first = self._strokes_away(near[0].step, -1, STROKES_BEFORE)
            last = self._strokes_away(near[-1].step, 1, 1)
            if self.view.harmony:
                # A chord's sign may begin before what shows.
                first = min(first, self.columns_between(left - LONG_SIGN, right)[0].step)
            columns = self.columns[first : last + 1]
        start = column_shown(self.columns[0], exact_loads=False) if self.loop else None
        return Part(
            **self._frame,
            left=left,
            right=right,
            columns=tuple([self._shown(column, exact_loads=exact_loads) for column in columns]),
            shown=range(near[0].step, near[-1].step + 1) if near else range(0),
            rooms=tuple([min(room, MOST_ROOM) for room in self.rooms[first : first + len(columns)]]),
            ticks=self.ticks(left, right),
            start=start,
            load_scale=self.load_scale if exact_loads else 0.0,
            harmony=tuple([self._harmony_at(column.step) for column in columns]) if self.view.harmony else (),
        )

    def _shown(self, column: Column, *, exact_loads: bool) -> Column:
        """See `column_shown`; parts beside each other have columns in common."""
        known = self._exact if exact_loads else self._warmth
        shown = known.get(column.step)
        if shown is None:
            shown = known[column.step] = column_shown(column, exact_loads=exact_loads)
        return shown

    @cached_property
    def _frame(self) -> dict[str, Any]:
        frame = {one.name: getattr(self, one.name) for one in fields(Frame)}
        return frame | {"view": replace(self.view, tempo_ratio=1.0)}

    def _harmony_at(self, step: int) -> HarmonyAt:
        chords = self.harmony.chords
        return HarmonyAt(chords[step], chords[step - 1] if step else None, self.harmony.notes_of(step))

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
        ticks = []
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
                    ticks.append(Tick(x, label if x < last - 1 else "", beat == 0))
        end = self.width - MARGIN
        if left <= end <= right and (not ticks or ticks[-1].x < end - 1):
            ticks.append(Tick(end, "", bar=True))
        return tuple(ticks)

    @property
    def phrases(self) -> list[tuple[float, str]]:
        """Where phrases begin, with their names and which time round it is, and where the tempo changes."""
        return [(self.x(at), words) for at, words in self.measures.phrases]
