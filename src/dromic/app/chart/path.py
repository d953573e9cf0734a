"""The pick path as one line: through a string at each stroke, over those it clears, resting where it rests.

Pure arithmetic, without Qt. A piece is a list of points in the chart's coordinates; what it shows is its kind.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from dromic.app.chart.layout import ChartLayout, Column
from dromic.music.riff import Stroke

Point = tuple[float, float]
REST_SHORT = 3.0
LEAST_WAY = 8.0
COLUMN_LEAD = 30.0
CURVE_STEPS = 24


@dataclass(frozen=True)
class StrokeMark:
    """A stroke through a string: from one side to the other; `rests` when it ends on the next string."""

    column: int
    x: float
    start: float
    end: float
    rests: bool
    above: bool


@dataclass(frozen=True)
class Way:
    """The pick's way from the end of one stroke to the start of the next.

    Parameters
    ----------
    before, after : int
        Indices of the columns.
    points : tuple of Point
        A smooth line.
    bridges : tuple of Point
        Where it crosses strings that it must not sound.
    lifted : bool
        Whether those strings cost a lift; else the stroke ended above them.
    """

    before: int
    after: int
    points: tuple[Point, ...]
    bridges: tuple[Point, ...]
    lifted: bool


def stroke_mark(layout: ChartLayout, index: int) -> StrokeMark:
    """Return the stroke of a picked column."""
    column = layout.columns[index]
    state = layout.plan.states[column.step]
    way = layout.down(column.event.stroke)
    rests = column.event.stroke_kind == "rest"
    reach = layout.string_gap - REST_SHORT if rests else layout.half_stroke
    lead = REST_SHORT if _waits_here(layout, index) else layout.half_stroke
    return StrokeMark(
        index,
        column.x,
        layout.string_y(state.begins) - way * lead,
        layout.string_y(state.ends) + way * reach,
        rests,
        state.stroke is state.escape,
    )


def _waits_here(layout: ChartLayout, index: int) -> bool:
    """Whether the stroke before came to rest on this string and goes on through it."""
    column = layout.columns[index]
    before = index - 1
    while before >= 0 and layout.columns[before].event.stroke is Stroke.NONE:
        before -= 1
    if before < 0:
        return False
    one = layout.columns[before].event
    onward = -1 if one.stroke is Stroke.DOWN else 1
    states = layout.plan.states
    meets = states[column.step].begins == states[layout.columns[before].step].ends + onward
    carried_on = one.stroke is column.event.stroke and meets
    return one.stroke_kind == "rest" and carried_on


def way_between(layout: ChartLayout, before: int, after: int) -> Way:
    """Return the way between two picked columns."""
    one, two = stroke_mark(layout, before), stroke_mark(layout, after)
    bend = max(two.x - COLUMN_LEAD, one.x + LEAST_WAY) if two.x - one.x > LEAST_WAY else one.x
    points = _curve((one.x, one.end), (two.x, two.start), bend)
    low, high = sorted((one.end, two.start))
    crossed = [
        y
        for string in range(1, layout.plan.instrument.strings + 1)
        if low + 1.0 < (y := layout.string_y(string)) < high - 1.0
    ]
    bridges = tuple((_x_at(points, y), y) for y in crossed)
    return Way(before, after, points, bridges, lifted=bool(bridges) and not one.above)


def _curve(start: Point, end: Point, bend: float) -> tuple[Point, ...]:
    """Return points along the level of the start, then in an S to the end."""
    points = [start]
    if bend > start[0] + 1.0:
        points.append((bend, start[1]))
    x0, y0 = points[-1]
    x1, y1 = end
    for step in range(1, CURVE_STEPS + 1):
        t = step / CURVE_STEPS
        smooth = t * t * (3 - 2 * t)
        points.append((x0 + (x1 - x0) * t, y0 + (y1 - y0) * smooth))
    return tuple(points)


def _x_at(points: Sequence[Point], y: float) -> float:
    for (x0, y0), (x1, y1) in pairwise(points):
        if y0 != y1 and min(y0, y1) <= y <= max(y0, y1):
            return x0 + (x1 - x0) * (y - y0) / (y1 - y0)
    return points[-1][0]


def picked_columns(layout: ChartLayout, columns: Sequence[Column]) -> list[int]:
    """Indices of the picked columns among some, with the nearest picked one on either side."""
    if not columns:
        return []
    everything = layout.columns
    first, last = columns[0].step, columns[-1].step
    while first > 0 and everything[first].event.stroke is Stroke.NONE:
        first -= 1
    while last + 1 < len(everything) and everything[last].event.stroke is Stroke.NONE:
        last += 1
    return [index for index in range(first, last + 1) if everything[index].event.stroke in (Stroke.DOWN, Stroke.UP)]
