"""The lane of chords that are held: a bracket over the notes of each, with its sign."""

from __future__ import annotations

from PyQt6.QtCore import QPointF

from dromic.app.chart.columns import Column
from dromic.app.chart.frame import View
from dromic.app.chart.lane import Lane
from dromic.app.chart.layout import GAP, LONG_SIGN, ChartLayout, LaneSpace
from dromic.app.chart.painting import LaneScene, Scene, gutter_label, pen
from dromic.planner.costs.model import Model
from dromic.planner.plan import Plan

ROW, LINE, TICK, PAST_NOTE = 19.0, 4.0, 5.0, 27.0


def paint_chords(scene: LaneScene) -> None:
    """Draw the brackets, each note its own piece, and the signs where they begin."""
    part, painter, theme = scene.part, scene.painter, scene.theme
    band = part.bands["chords"]
    if not band.height:
        return
    y = band.top + LINE
    columns = part.columns
    for at, column in enumerate(columns):
        span = column.event.span
        if span is None:
            continue
        painter.setPen(pen(theme.color("accent", 190), 1.6))
        following = columns[at + 1] if at + 1 < len(columns) else None
        if column.event.moment.index == span.first:
            painter.drawLine(QPointF(column.x, y), QPointF(column.x, y + TICK))
        end = column.x + PAST_NOTE
        if column.event.moment.index == span.last:
            end = end if following is None else min(end, following.x - 4)
            painter.drawLine(QPointF(end, y), QPointF(end, y + TICK))
        elif following is not None:
            end = following.x
        painter.drawLine(QPointF(column.x, y), QPointF(end, y))
    free = 0.0
    for column in part.columns_from(part.left - LONG_SIGN):
        span = column.event.span
        if span is None or column.event.moment.index != span.first or column.x < free or not span.chord:
            continue
        painter.setFont(scene.font(12, bold=True))
        painter.setPen(theme.color("accent"))
        painter.drawText(QPointF(column.x + 4, band.bottom - 1), span.chord)
        free = column.x + painter.fontMetrics().horizontalAdvance(span.chord) + 8


def _hint(_layout: ChartLayout, _model: Model, column: Column) -> str:
    return column.event.span.words if column.event.span is not None else "no chord is held here"


def _height(plan: Plan, _view: View) -> float:
    return ROW if plan.task.spans else 0.0


def _paint_label(scene: Scene) -> None:
    band = scene.layout.bands["chords"]
    if band.height:
        gutter_label(scene, band.top + ROW / 2, "chord", "quiet")


LANE = Lane(
    LaneSpace("chords", fixed=_height, gap=GAP / 3),
    "Chords that are held: the fingers stay on the shape as long as the bracket lasts",
    paint_chords,
    _hint,
    _paint_label,
)
