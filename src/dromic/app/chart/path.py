"""The pick path as one line: through a string at each stroke, over those it clears, resting where it rests.

Pure arithmetic, without Qt. A piece is a list of points in the chart's coordinates; what it shows is its kind.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from math import asin, sin

from dromic.app.chart.columns import Column
from dromic.app.chart.part import Part
from dromic.memory import Memo, memo
from dromic.music.riff import Stroke

Point = tuple[float, float]
REST_SHORT = 3.0
LEAST_WAY = 8.0
COLUMN_LEAD = 30.0
MOST_MARKS = 20_000


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
        Steps of the columns.
    start, turn, end : Point
        It keeps the level of its start as far as the turn, and goes to its end in an S (see `ease`).
    bridges : tuple of Point
        Where it crosses strings that it must not sound.
    lifted : bool
        Whether those strings cost a lift; else the stroke ended above them.
    """

    before: int
    after: int
    start: Point
    turn: Point
    end: Point
    bridges: tuple[Point, ...]
    lifted: bool


def stroke_mark(part: Part, index: int) -> StrokeMark:
    """Return the stroke of a picked column, by its step."""
    return memo(_stroke_marks, part)(index)


def _stroke_marks(part: Part) -> Memo[StrokeMark]:
    return Memo(partial(_stroke_mark, part), MOST_MARKS)


def _stroke_mark(part: Part, index: int) -> StrokeMark:
    column = part.at(index)
    state = column.state
    way = part.down(column.event.stroke)
    rests = column.event.stroke_kind == "rest"
    reach = part.string_gap - REST_SHORT if rests else part.half_stroke
    lead = REST_SHORT if _waits_here(part, index) else part.half_stroke
    return StrokeMark(
        index,
        column.x,
        part.string_y(state.begins) - way * lead,
        part.string_y(state.ends) + way * reach,
        rests,
        state.stroke is state.escape,
    )


def _waits_here(part: Part, index: int) -> bool:
    """Whether the stroke before came to rest on this string and goes on through it."""
    column = part.at(index)
    before = index - 1
    while before >= part.first and part.at(before).event.stroke is Stroke.NONE:
        before -= 1
    if before < part.first:
        return False
    one = part.at(before).event
    onward = -1 if one.stroke is Stroke.DOWN else 1
    meets = column.state.begins == part.at(before).state.ends + onward
    carried_on = one.stroke is column.event.stroke and meets
    return one.stroke_kind == "rest" and carried_on


def way_between(part: Part, before: int, after: int) -> Way:
    """Return the way between two picked columns.

    Parameters
    ----------
    part : Part
    before, after : int
    """
    one, two = stroke_mark(part, before), stroke_mark(part, after)
    bend = max(two.x - COLUMN_LEAD, one.x + LEAST_WAY) if two.x - one.x > LEAST_WAY else one.x
    start, turn, end = (one.x, one.end), (bend if bend > one.x + 1.0 else one.x, one.end), (two.x, two.start)
    low, high = sorted((one.end, two.start))
    crossed = [y for y in part.string_places if low + 1.0 < y < high - 1.0]
    bridges = tuple(
        (turn[0] + (end[0] - turn[0]) * _share_at((y - turn[1]) / (end[1] - turn[1])), y) for y in crossed
    )
    return Way(before, after, start, turn, end, bridges, lifted=bool(bridges) and not one.above)


def ease(share: float) -> float:
    """How far across the pick is when it is so far along: it leaves slowly, and slowly comes to rest.

    Examples
    --------
    >>> ease(0.0), ease(0.5), ease(1.0)
    (0.0, 0.5, 1.0)
    """
    return share * share * (3 - 2 * share)


def _share_at(across: float) -> float:
    """How far along the pick is when it is so far across: `ease` the other way round, in closed form."""
    return 0.5 - sin(asin(1 - 2 * across) / 3)


def picked_columns(part: Part, columns: Sequence[Column]) -> list[int]:
    """Steps of the picked columns among some, with the nearest picked one on either side."""
    if not columns:
        return []
    first, last = columns[0].step, columns[-1].step
    while first > part.first and part.at(first).event.stroke is Stroke.NONE:
        first -= 1
    while last < part.last and part.at(last).event.stroke is Stroke.NONE:
        last += 1
    return [step for step in range(first, last + 1) if part.at(step).event.stroke in (Stroke.DOWN, Stroke.UP)]
