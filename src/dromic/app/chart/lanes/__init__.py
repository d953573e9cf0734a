"""The lanes of the chart, from top to bottom. Adding one is a module of its own and a name in this list."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from dromic.app.chart.frame import View
from dromic.app.chart.lane import Lane, place_hint
from dromic.app.chart.lanes import chords, hand, harmony, loads, mutes, ruler, strings, strokes, take
from dromic.app.chart.layout import PLAIN_VIEW, ChartLayout
from dromic.app.chart.painting import GUTTER, LaneScene, Scene
from dromic.app.theme import Theme
from dromic.planner.costs.model import Model
from dromic.planner.plan import Plan

LANES: tuple[Lane, ...] = (
    ruler.LANE,
    harmony.LANE,
    strokes.LANE,
    strings.LANE,
    mutes.LANE,
    chords.LANE,
    hand.LANE,
    loads.LANE,
    take.LANE,
)


def chart_layout(plan: Plan, zoom: float, height: float, view: View = PLAIN_VIEW) -> ChartLayout:
    """Return where everything goes.

    Parameters
    ----------
    plan : Plan
    zoom : float
        Pixels a quarter note.
    height : float
    view : View
    """
    return ChartLayout(plan, zoom, height, tuple(lane.space for lane in LANES), view)


def paint_lanes(scene: LaneScene, lanes: Sequence[Lane]) -> None:
    """Draw some lanes; on paper those that are printed."""
    for lane in lanes:
        if lane.printed or not scene.part.view.compact:
            lane.paint(scene)


def paint_all_lanes(painter: QPainter, theme: Theme, layout: ChartLayout, left: float, right: float) -> None:
    """Draw every lane between two places, as on paper.

    Parameters
    ----------
    painter : QPainter
    theme : Theme
    layout : ChartLayout
    left, right : float
    """
    for lane in LANES:
        paint_lanes(LaneScene(painter, theme, layout.part(left, right, exact_loads=lane.exact_loads)), [lane])


def paint_gutter(scene: Scene, height: float) -> None:
    """Draw the labels that stay while the chart scrolls."""
    scene.painter.fillRect(QRectF(0, 0, GUTTER, height), scene.theme.color("sheet"))
    for lane in LANES:
        if lane.paint_labels is not None:
            lane.paint_labels(scene)


def lane_at(layout: ChartLayout, y: float) -> Lane:
    """Which lane of the chart a height lies in; the room between two belongs to the nearer one."""
    shown = [lane for lane in LANES if layout.bands[lane.name].height]
    for lane, following in pairwise(shown):
        if y < (layout.bands[lane.name].bottom + layout.bands[following.name].top) / 2:
            return lane
    return shown[-1]


def label_hint(layout: ChartLayout, y: float) -> str:
    """What a label on the left stands for."""
    return lane_at(layout, y).words


def hint(layout: ChartLayout, model: Model, x: float, y: float) -> str:
    """Say what stands at a place of the chart.

    Parameters
    ----------
    layout : ChartLayout
    model : Model
        The plan's own (see `dromic.planner.told.reasons.model_of`).
    x, y : float
        In the chart's coordinates.
    """
    return place_hint(lane_at(layout, y), layout, model, x)
