"""The muting lane, where the player wants it: what silences each string."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt

from dromic.app.chart.columns import Column
from dromic.app.chart.frame import MUTE_ROW, Detail, View
from dromic.app.chart.lane import Lane
from dromic.app.chart.layout import GAP, ChartLayout, LaneSpace
from dromic.app.chart.painting import LaneScene, Scene, gutter_label, pen
from dromic.planner.costs.model import Model
from dromic.planner.plan import Plan, PlannedEvent
from dromic.planner.told.muting import LIFTING, PALM, SIDE_OF_THUMB, THUMB, TIP


def paint_mutes(scene: LaneScene) -> None:
    """Draw the muting lane: what silences each string; filled where it rang until now, ringed for care."""
    part, painter, theme = scene.part, scene.painter, scene.theme
    if not part.view.mutes:
        return
    for string in range(1, part.instrument.strings + 1):
        painter.setPen(pen(theme.color("faint"), 0.8))
        y = part.mute_y(string)
        painter.drawLine(QPointF(scene.part.left, y), QPointF(scene.end, y))
    for column in scene.part.showing if part.detail is not Detail.OVERVIEW else ():
        for mute in column.event.mutes:
            at = QPointF(column.plate_x, part.mute_y(mute.string))
            color = theme.color("hot" if mute.doubtful else "calm" if mute.rang else "string")
            painter.setPen(pen(color, 1.5))
            painter.setBrush(color if mute.rang and not mute.doubtful else Qt.BrushStyle.NoBrush)
            _paint_mute(scene, at, mute.by, doubtful=mute.doubtful)


def _paint_mute(scene: LaneScene, at: QPointF, by: str, *, doubtful: bool) -> None:
    """One sign: a block for the palm, a dot for a finger, a dash for what lies flat, a ring for care."""
    painter = scene.painter
    if doubtful:
        painter.drawEllipse(at, 3.6, 3.6)
    elif by in (PALM, THUMB, SIDE_OF_THUMB):
        painter.drawRect(QRectF(at.x() - 5, at.y() - 1.6, 10, 3.2))
    elif by in (TIP, LIFTING):
        painter.drawEllipse(at, 2.2, 2.2)
    else:
        painter.drawLine(QPointF(at.x() - 3.5, at.y()), QPointF(at.x() + 3.5, at.y()))


def _mute_hint(_layout: ChartLayout, _model: Model, column: Column) -> str:
    event: PlannedEvent = column.event
    lines = [
        f"string {mute.string}: {mute.by}" + (", with care: it rang until now" if mute.doubtful else "")
        for mute in event.mutes
    ]
    return "\n".join(lines) or "nothing has to be kept silent here"


def _height(plan: Plan, view: View) -> float:
    return MUTE_ROW * plan.instrument.strings if view.mutes else 0.0


def _paint_label(scene: Scene) -> None:
    band = scene.layout.mutes
    if band.height:
        gutter_label(scene, (band.top + band.bottom) / 2 - 4, "muted", "quiet")


LANE = Lane(
    LaneSpace("mutes", fixed=_height, gap=GAP / 2),
    "What keeps the other strings silent at each note",
    paint_mutes,
    _mute_hint,
    _paint_label,
    printed=False,
)
