"""The ruler: bars and beats, phrases above them, and the seam of a loop."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt

from dromic.app.chart.columns import Column
from dromic.app.chart.frame import Detail
from dromic.app.chart.lane import Lane
from dromic.app.chart.layout import ChartLayout, LaneSpace
from dromic.app.chart.painting import LaneScene, Scene, pen
from dromic.planner.costs.model import Model

RULER_HEIGHT = 40.0


def paint_ruler(scene: LaneScene) -> None:
    """Draw bars and beats."""
    part, painter = scene.part, scene.painter
    bottom = part.bottom
    line = "faint" if part.detail is Detail.OVERVIEW else "string"
    for tick in part.ticks:
        top = part.ruler.top + 18 if tick.bar else part.ruler.bottom - 6
        painter.setPen(pen(scene.theme.color(line if tick.bar else "faint"), 1.0))
        painter.drawLine(QPointF(tick.x - 3, top), QPointF(tick.x - 3, bottom))
        painter.setFont(scene.font(13 if tick.bar else 12, bold=tick.bar))
        painter.setPen(scene.theme.color("ink" if tick.bar else "quiet"))
        if tick.label:
            painter.drawText(QPointF(tick.x + 2, part.ruler.bottom - 10), tick.label)
    _paint_seam(scene)


def _paint_seam(scene: LaneScene) -> None:
    """Mark where a loop goes back to its start; the seam's load stands at the first note."""
    part, painter = scene.part, scene.painter
    if part.start is None:
        return
    color = scene.theme.load(part.start.loads.largest)
    back = "back, other strokes" if part.swapped else "back to the start"
    for x, words, sign in ((part.seam_x, back, -1), (part.start.x - 8, "", 1)):
        if not scene.part.left - 150 <= x <= scene.part.right + 150:
            continue
        painter.setPen(pen(color, 1.6, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(x, part.ruler.top + 16), QPointF(x, part.bottom))
        painter.setPen(pen(color, 1.6))
        y = part.ruler.top + 18
        painter.drawLine(QPointF(x, y), QPointF(x + sign * 10, y))
        painter.drawLine(QPointF(x + sign * 10, y), QPointF(x + sign * 6, y - 3.5))
        painter.drawLine(QPointF(x + sign * 10, y), QPointF(x + sign * 6, y + 3.5))
        if words:
            painter.setFont(scene.font(12))
            painter.drawText(QRectF(x - 130, y - 18, 126, 14), Qt.AlignmentFlag.AlignRight, words)


def paint_phrases(scene: Scene) -> None:
    """Write the phrase names; the one that began out of sight stays at the left edge."""
    painter = scene.painter
    painter.setFont(scene.font(13))
    painter.setPen(scene.theme.color("accent"))
    metrics = painter.fontMetrics()
    phrases = scene.layout.phrases
    ends = [*(x for x, _ in phrases[1:]), scene.layout.width]
    for (x, name), end in zip(phrases, ends, strict=False):
        if x > scene.right or end < scene.left:
            continue
        width = metrics.horizontalAdvance(name)
        place = max(x - 3, min(scene.left + 4, end - width - 10))
        painter.drawText(QPointF(place, scene.layout.ruler.top + 13), name)


def _ruler_hint(layout: ChartLayout, _model: Model, column: Column) -> str:
    moment = column.event.moment
    phrase = layout.plan.riff.phrases[moment.phrase]
    named = f"phrase {phrase.name}" if phrase.name else ""
    times = f"time {moment.pass_number + 1} of {phrase.times}" if phrase.times > 1 else ""
    return "\n".join(filter(None, [f"metre {moment.meter}", ", ".join(filter(None, [named, times]))]))


LANE = Lane(
    LaneSpace("ruler", fixed=lambda _plan, _view: RULER_HEIGHT),
    "Bars and beats, with the names of phrases above them",
    paint_ruler,
    _ruler_hint,
)
