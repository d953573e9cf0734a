"""The load strip: time needed over time there is, on the way to each note."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor

from dromic.app.chart.columns import Column
from dromic.app.chart.frame import View
from dromic.app.chart.lane import Lane, reason_of
from dromic.app.chart.layout import GAP, ChartLayout, LaneSpace
from dromic.app.chart.painting import GUTTER, LaneScene, Scene, Sketch, dashed_from, gutter_label, pen
from dromic.app.chart.part import BARS_ROOM
from dromic.hands.terms import LoadKind
from dromic.planner.costs.model import Model
from dromic.planner.plan import Plan

BAR_WIDTH = 6.0
LEAST_LEGEND = 11.0
LOAD_SHARE = 0.17
_HANDS = {LoadKind.PICK: "pick", LoadKind.FRET: "fretting hand", LoadKind.SYNC: "both hands at once"}


def paint_loads(scene: LaneScene) -> None:
    """Draw the loads of the way to each note: pick full, fretting hand pale, both together hollow."""
    part, painter, theme = scene.part, scene.painter, scene.theme
    if not part.load.height:
        return
    right = scene.end
    painter.setPen(pen(theme.color("faint"), 1.0))
    painter.drawLine(QPointF(scene.part.left, part.load.bottom), QPointF(right, part.load.bottom))
    for column in scene.part.showing:
        loads = column.loads
        if not part.fits(column, BARS_ROOM):
            _paint_largest(scene, column)
            continue
        for place, (value, kind) in enumerate(((loads.pick, 0), (loads.fret, 1), (loads.sync, 2))):
            if value > 0:
                x = column.plate_x + (place - 1.5) * (BAR_WIDTH + 1.5)
                _paint_bar(scene, x, value, kind)
    y = part.load_y(1.0)
    limit = pen(theme.color("hot"), 1.2, Qt.PenStyle.DashLine)
    painter.setPen(limit)
    painter.drawLine(QPointF(dashed_from(scene.part.left, limit), y), QPointF(right, y))


def _paint_largest(scene: LaneScene, column: Column) -> None:
    """One bar of the largest load, as wide as there is room."""
    load = column.loads.largest
    if load <= 0:
        return
    part, painter = scene.part, scene.painter
    top, wide = part.load_y(load), min(max(part.room(column) - 1.0, 1.0), BAR_WIDTH)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QBrush(scene.theme.load(load)))
    painter.drawRect(QRectF(part.middle_x(column) - wide / 2, top, wide, part.load.bottom - top))


def _paint_bar(scene: LaneScene, x: float, load: float, kind: int) -> None:
    part = scene.part
    top = part.load_y(load)
    paint_swatch(scene, QRectF(x, top, BAR_WIDTH, part.load.bottom - top), scene.theme.load(load), kind)
    if load > part.load_scale:
        scene.text(x + BAR_WIDTH / 2, part.load.top - 6, f"{load:.1f}", "hot", 11, bold=True)


def paint_swatch(scene: Sketch, box: QRectF, color: QColor, kind: int) -> None:
    """Fill a bar in the manner of its hand: 0 pick, 1 fretting hand, 2 both.

    Parameters
    ----------
    scene : Sketch
    box : QRectF
    color : QColor
    kind : int
    """
    painter = scene.painter
    painter.setPen(Qt.PenStyle.NoPen)
    if kind == 0:
        painter.setBrush(QBrush(color))
        painter.drawRect(box)
    elif kind == 1:
        pale = QColor(color)
        pale.setAlpha(95)
        painter.setBrush(QBrush(pale))
        painter.drawRect(box)
    else:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen(color, 1.6))
        painter.drawRect(box.adjusted(0.8, 0.8, -0.8, 0))


def _load_hint(layout: ChartLayout, model: Model, column: Column) -> str:
    reason, tempo_ratio = reason_of(layout, model, column), layout.view.tempo_ratio
    if not reason.hands:
        return "the first note: both hands start from rest"
    lines = []
    for hand in reason.hands:
        load = hand.load * tempo_ratio
        over = ": no time for it" if load > 1.0 else ""
        lines.append(
            f"{_HANDS[hand.kind]}: {hand.needed_ms:.0f} of {hand.gap_ms / tempo_ratio:.0f} ms, {load:.2f}{over}"
        )
    return "\n".join(lines)


def _paint_labels(scene: Scene) -> None:
    layout = scene.layout
    if not layout.load.height:
        return
    gutter_label(scene, layout.load_y(1.0), "limit", "hot")
    step = min(15.0, (layout.load.bottom - layout.load_y(1.0) - 8) / 3)
    for place, name in enumerate(("pick", "fret", "both") if step >= LEAST_LEGEND else ()):
        y = layout.load_y(1.0) + step * (place + 1)
        gutter_label(scene, y, name, "quiet", inset=14)
        paint_swatch(scene, QRectF(GUTTER - 19, y - 5, BAR_WIDTH, 10), scene.theme.color("calm"), place)


def _height(_plan: Plan, view: View) -> float | None:
    # Under a take it is not the plan's load that counts, but what came of it.
    return 0.0 if view.take else None


LANE = Lane(
    LaneSpace("load", share=LOAD_SHARE, fixed=_height, gap=GAP),
    "Time needed over time available; a bar above the line of 1 cannot be played at this tempo",
    paint_loads,
    _load_hint,
    _paint_labels,
    exact_loads=True,
)
