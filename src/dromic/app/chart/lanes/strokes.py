"""The stroke row: bowing signs, plucking fingers, legato letters."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainterPath

from dromic.app.chart.columns import Column
from dromic.app.chart.frame import Detail
from dromic.app.chart.lane import Lane, reason_of
from dromic.app.chart.layout import ChartLayout, LaneSpace
from dromic.app.chart.painting import LaneScene, Scene, Sketch, gutter_label, paint_padlock, pen
from dromic.app.chart.part import ACCENT_ROOM, SIGN_ROOM
from dromic.music.riff import MARK_WORDS, Mark, Stroke, stroke_words
from dromic.planner.costs.model import Model
from dromic.planner.plan import PlannedEvent, StrokeKind

STROKES_HEIGHT = 34.0
SIGN_REACH = 32.0, 13.0


def paint_strokes(scene: LaneScene) -> None:
    """Draw the stroke row: bowing signs, plucking fingers, legato letters."""
    middle = (scene.part.strokes.top + scene.part.strokes.bottom) / 2
    for column in scene.part.showing:
        if scene.part.detail is not Detail.OVERVIEW and scene.part.fits(column, SIGN_ROOM):
            roomy = scene.part.fits(column, ACCENT_ROOM)
            paint_sign(scene, column.event, column.plate_x, middle, accent=roomy)
        if column.task_step.locks.stroke is not None:
            paint_padlock(scene, scene.part.middle_x(column), middle + 13)


def paint_sign(scene: LaneScene, event: PlannedEvent, x: float, y: float, *, accent: bool = True) -> None:
    """Draw one stroke's sign, and beside it the accent where there is room.

    Parameters
    ----------
    scene : LaneScene
    event : PlannedEvent
    x, y : float
    accent : bool
    """
    accent = accent and Mark.ACCENT in event.moment.event.marks
    scene.stamp(_draw_sign, x, y, SIGN_REACH, event.stroke, event.legato, event.strokes, accent)


def _draw_sign(
    sketch: Sketch,
    x: float,
    y: float,
    stroke: Stroke,
    legato: Mark | None,
    strokes: tuple[Stroke, ...],
    accent: bool,
) -> None:
    painter = sketch.painter
    if stroke is Stroke.NONE:
        sketch.text(x, y, str(legato or Mark.RELEASE), "quiet", 15)
        return
    if stroke not in (Stroke.DOWN, Stroke.UP):
        letters = {Stroke.DOWN: "d", Stroke.UP: "u"}
        text = "".join(letters.get(one, str(one)) for one in dict.fromkeys(strokes))
        sketch.text(x, y, text, "ink", 15, bold=True)
        return
    sign = QPainterPath()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if stroke is Stroke.DOWN:
        painter.setPen(pen(sketch.theme.color("ink"), 1.6))
        sign.moveTo(x - 6, y + 6)
        sign.lineTo(x - 6, y - 5)
        sign.lineTo(x + 6, y - 5)
        sign.lineTo(x + 6, y + 6)
        painter.drawPath(sign)
        painter.fillRect(QRectF(x - 6.5, y - 6.5, 13, 4.5), sketch.theme.color("ink"))
    else:
        painter.setPen(pen(sketch.theme.color("ink"), 1.8))
        sign.moveTo(x - 5.5, y - 6)
        sign.lineTo(x, y + 6)
        sign.lineTo(x + 5.5, y - 6)
        painter.drawPath(sign)
    if accent:
        painter.setPen(pen(sketch.theme.color("accent"), 1.6))
        painter.drawPolyline(QPointF(x + 9, y - 4), QPointF(x + 14, y - 1), QPointF(x + 9, y + 2))


def _stroke_hint(layout: ChartLayout, model: Model, column: Column) -> str:
    event = column.event
    here, state = layout.plan.task.steps[column.step], layout.plan.states[column.step]
    if event.stroke is Stroke.NONE:
        return f"{MARK_WORDS[event.legato] if event.legato is not None else 'slurred'}: not picked"
    pick = event.stroke in (Stroke.DOWN, Stroke.UP)
    lines = [f"{event.stroke} stroke" if pick else stroke_words(event.stroke)]
    if pick:
        lines.append("it ends above the strings" if state.stroke is state.escape else "it ends between the strings")
        lines += ["a rest stroke: it ends on the next string"] if event.stroke_kind is StrokeKind.REST else []
    lines += reason_of(layout, model, column).school
    if here.locks.stroke is not None:
        lines.append("locked by you")
    return "\n".join(lines)


def _paint_label(scene: Scene) -> None:
    band = scene.layout.strokes
    gutter_label(scene, (band.top + band.bottom) / 2, "stroke", "quiet")


LANE = Lane(
    LaneSpace("strokes", fixed=lambda _plan, _view: STROKES_HEIGHT),
    "What sounds each note: down and up strokes, plucking fingers, or a letter where it is slurred",
    paint_strokes,
    _stroke_hint,
    _paint_label,
)
