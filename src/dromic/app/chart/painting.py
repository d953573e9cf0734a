"""Painting the upper half of the chart: ruler, strokes, strings, pick path and plates."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QFont, QPainter, QPainterPath, QPen

from dromic.app.chart.layout import PLATE_HEIGHT, PLATE_WIDTH, ChartLayout, Column
from dromic.app.chart.path import StrokeMark, Way, picked_columns, stroke_mark, way_between
from dromic.app.theme import HOT_FROM, UI_FONT, Theme
from dromic.music.riff import Mark, Stroke
from dromic.planner.plan import PlannedEvent, PlannedNote

BRIDGE = 5.0
LINE_CAP = Qt.PenCapStyle.RoundCap


@dataclass(frozen=True)
class Scene:
    """What a paint needs: a painter in the chart's coordinates, and the part that shows."""

    painter: QPainter
    layout: ChartLayout
    theme: Theme
    left: float
    right: float
    chosen: int | None

    @cached_property
    def columns(self) -> tuple[Column, ...]:
        """Columns that show."""
        return self.layout.columns_between(self.left, self.right)

    def font(self, pixels: int, *, bold: bool = False) -> QFont:
        """Return the window's font at a size."""
        font = QFont(UI_FONT)
        font.setPixelSize(pixels)
        if bold:
            font.setWeight(QFont.Weight.DemiBold)
        return font

    def text(self, x: float, y: float, words: str, color: str, size: int, *, bold: bool = False) -> None:
        """Write centred on a point."""
        self.painter.setFont(self.font(size, bold=bold))
        self.painter.setPen(self.theme.color(color))
        self.painter.drawText(QRectF(x - 60, y - 12, 120, 24), Qt.AlignmentFlag.AlignCenter, words)


def pen(color: QColor, width: float, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> QPen:
    """Return a pen with round ends."""
    return QPen(color, width, style, LINE_CAP, Qt.PenJoinStyle.RoundJoin)


def paint_choice(scene: Scene) -> None:
    """Mark the chosen note's column over all bands."""
    if scene.chosen is None or scene.chosen >= len(scene.layout.columns):
        return
    column = scene.layout.columns[scene.chosen]
    box = QRectF(column.x - 6, scene.layout.strokes.top, PLATE_WIDTH + 16, scene.layout.load.bottom)
    box.setBottom(scene.layout.load.bottom + 3)
    scene.painter.setPen(Qt.PenStyle.NoPen)
    scene.painter.setBrush(scene.theme.color("chosen"))
    scene.painter.drawRoundedRect(box, 6, 6)


def paint_range(scene: Scene, chosen: tuple[int, int] | None) -> None:
    """Mark the selected range along the ruler and over all bands."""
    if chosen is None or chosen[1] >= len(scene.layout.columns):
        return
    first, last = (scene.layout.columns[step] for step in chosen)
    box = QRectF(first.x - 6, scene.layout.ruler.bottom - 5, last.x - first.x + PLATE_WIDTH + 16, 0)
    box.setBottom(scene.layout.load.bottom + 3)
    scene.painter.setPen(Qt.PenStyle.NoPen)
    scene.painter.setBrush(scene.theme.color("chosen", 110))
    scene.painter.drawRect(box)
    scene.painter.setBrush(scene.theme.color("accent"))
    scene.painter.drawRect(QRectF(box.left(), box.top(), box.width(), 3))


def paint_playhead(scene: Scene, quarters: float | None) -> None:
    """Draw where the sound is."""
    if quarters is None or quarters < 0:
        return
    x = scene.layout.x(quarters)
    scene.painter.setPen(pen(scene.theme.color("accent"), 1.8))
    scene.painter.drawLine(QPointF(x, scene.layout.ruler.bottom - 6), QPointF(x, scene.layout.load.bottom + 3))


def paint_ruler(scene: Scene) -> None:
    """Draw bars and beats."""
    layout, painter = scene.layout, scene.painter
    bottom = layout.load.bottom
    for tick in layout.ticks(scene.left, scene.right):
        top = layout.ruler.top + 18 if tick.bar else layout.ruler.bottom - 6
        painter.setPen(pen(scene.theme.color("string" if tick.bar else "faint"), 1.0))
        painter.drawLine(QPointF(tick.x - 3, top), QPointF(tick.x - 3, bottom))
        painter.setFont(scene.font(13 if tick.bar else 12, bold=tick.bar))
        painter.setPen(scene.theme.color("ink" if tick.bar else "quiet"))
        if tick.label:
            painter.drawText(QPointF(tick.x + 2, layout.ruler.bottom - 10), tick.label)
    _paint_seam(scene)


def _paint_seam(scene: Scene) -> None:
    """Mark where a loop goes back to its start; the seam's load stands at the first note."""
    layout, painter = scene.layout, scene.painter
    if not layout.plan.loop:
        return
    color = scene.theme.load(layout.columns[0].loads.largest)
    for x, words, sign in ((layout.seam_x, "back to the start", -1), (layout.columns[0].x - 8, "", 1)):
        if not scene.left - 150 <= x <= scene.right + 150:
            continue
        painter.setPen(pen(color, 1.6, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(x, layout.ruler.top + 16), QPointF(x, layout.load.bottom))
        painter.setPen(pen(color, 1.6))
        y = layout.ruler.top + 18
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


def paint_strokes(scene: Scene) -> None:
    """Draw the stroke row: bowing signs, plucking fingers, legato letters."""
    middle = (scene.layout.strokes.top + scene.layout.strokes.bottom) / 2
    for column in scene.columns:
        paint_sign(scene, column.event, column.plate_x, middle)
        if scene.layout.plan.task.steps[column.step].locks.stroke is not None:
            paint_padlock(scene, column.plate_x, middle + 13)


def paint_padlock(scene: Scene, x: float, y: float) -> None:
    """Draw the sign of a decision of the player's."""
    painter, color = scene.painter, scene.theme.color("accent")
    painter.setPen(pen(color, 1.3))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawArc(QRectF(x - 2.4, y - 5.2, 4.8, 6.4), 0, 180 * 16)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(color)
    painter.drawRoundedRect(QRectF(x - 3.8, y - 2.0, 7.6, 5.4), 1.2, 1.2)


def paint_sign(scene: Scene, event: PlannedEvent, x: float, y: float) -> None:
    """Draw one stroke's sign."""
    painter = scene.painter
    if event.stroke is Stroke.NONE:
        scene.text(x, y, str(event.legato or Mark.RELEASE), "quiet", 15)
        return
    if event.stroke not in (Stroke.DOWN, Stroke.UP):
        letters = {Stroke.DOWN: "d", Stroke.UP: "u"}
        text = "".join(letters.get(stroke, str(stroke)) for stroke in dict.fromkeys(event.strokes))
        scene.text(x, y, text, "ink", 15, bold=True)
        return
    sign = QPainterPath()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if event.stroke is Stroke.DOWN:
        painter.setPen(pen(scene.theme.color("ink"), 1.6))
        sign.moveTo(x - 6, y + 6)
        sign.lineTo(x - 6, y - 5)
        sign.lineTo(x + 6, y - 5)
        sign.lineTo(x + 6, y + 6)
        painter.drawPath(sign)
        painter.fillRect(QRectF(x - 6.5, y - 6.5, 13, 4.5), scene.theme.color("ink"))
    else:
        painter.setPen(pen(scene.theme.color("ink"), 1.8))
        sign.moveTo(x - 5.5, y - 6)
        sign.lineTo(x, y + 6)
        sign.lineTo(x + 5.5, y - 6)
        painter.drawPath(sign)
    if Mark.ACCENT in event.moment.event.marks:
        painter.setPen(pen(scene.theme.color("accent"), 1.6))
        painter.drawPolyline(QPointF(x + 9, y - 4), QPointF(x + 14, y - 1), QPointF(x + 9, y + 2))


def paint_strings(scene: Scene) -> None:
    """Draw the strings, thicker where they are."""
    layout = scene.layout
    count = layout.plan.instrument.strings
    for string in range(1, count + 1):
        width = 0.9 + 1.7 * (string - 1) / max(count - 1, 1)
        scene.painter.setPen(QPen(scene.theme.color("string", 150), width))
        y = layout.string_y(string)
        scene.painter.drawLine(QPointF(scene.left, y), QPointF(min(scene.right, layout.width), y))


def paint_path(scene: Scene) -> None:
    """Draw the pick path: strokes, the ways between them, bridges and rests."""
    layout = scene.layout
    picked = picked_columns(layout, scene.columns)
    for before, after in pairwise(picked):
        _paint_way(scene, way_between(layout, before, after))
    for index in picked:
        _paint_stroke(scene, stroke_mark(layout, index))


def _pick_load(scene: Scene, index: int) -> float:
    loads = scene.layout.columns[index].loads
    return max(loads.pick, loads.sync)


def _paint_way(scene: Scene, way: Way) -> None:
    color = scene.theme.load(_pick_load(scene, way.after))
    painter = scene.painter
    line = QPainterPath(QPointF(*way.points[0]))
    for point in way.points[1:]:
        line.lineTo(QPointF(*point))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if not way.bridges:
        painter.setPen(pen(color, 1.9))
        painter.drawPath(line)
        return
    style = Qt.PenStyle.SolidLine if way.lifted else Qt.PenStyle.DotLine
    painter.setPen(pen(color, 2.4 if way.lifted else 1.7, style))
    painter.drawPath(line)
    for x, y in way.bridges:
        around = QRectF(x - BRIDGE, y - BRIDGE, 2 * BRIDGE, 2 * BRIDGE)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(scene.theme.color("sheet"))
        painter.drawRect(around.adjusted(0, -0.5, 0, 0.5))
        painter.setPen(pen(color, 2.4 if way.lifted else 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawArc(around, -90 * 16, 180 * 16)


def _paint_stroke(scene: Scene, mark: StrokeMark) -> None:
    painter = scene.painter
    color = scene.theme.load(_pick_load(scene, mark.column))
    painter.setPen(pen(color, 2.6))
    painter.drawLine(QPointF(mark.x, mark.start), QPointF(mark.x, mark.end))
    way = 1.0 if mark.end > mark.start else -1.0
    tip = mark.end - (4.0 * way if mark.rests else 0.0)
    painter.drawPolyline(
        QPointF(mark.x - 3.6, tip - 5 * way), QPointF(mark.x, tip), QPointF(mark.x + 3.6, tip - 5 * way)
    )
    if mark.rests:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QBrush(color))
        painter.drawEllipse(QPointF(mark.x, mark.end), 3.8, 3.8)


def paint_plates(scene: Scene) -> None:
    """Draw the fret numbers, and slurs where a note is not picked."""
    columns = scene.layout.columns
    for column in scene.columns:
        if column.event.legato is not None and column.step:
            _paint_slur(scene, columns[column.step - 1], column)
    for column in scene.columns:
        _paint_plate(scene, column)


def _paint_plate(scene: Scene, column: Column) -> None:
    event = column.event
    for note in event.held:
        _paint_held(scene, column, note)
    for note in event.notes:
        _paint_note(scene, column, note)


def _paint_held(scene: Scene, column: Column, note: PlannedNote) -> None:
    """A note from before that sounds on: a small ring on its string."""
    y = scene.layout.string_y(note.string)
    scene.painter.setPen(pen(scene.theme.color("calm"), 1.6))
    scene.painter.setBrush(scene.theme.color("sheet"))
    scene.painter.drawEllipse(QPointF(column.plate_x, y), 4.0, 4.0)


def _paint_note(scene: Scene, column: Column, note: PlannedNote) -> None:
    painter, theme, event = scene.painter, scene.theme, column.event
    y = scene.layout.string_y(note.string)
    plate = QRectF(column.plate_x - PLATE_WIDTH / 2, y - PLATE_HEIGHT / 2, PLATE_WIDTH, PLATE_HEIGHT)
    load = column.loads.largest
    marks = event.moment.event.marks
    muted = Mark.PALM_MUTE in marks
    painter.setPen(pen(theme.load(load), 2.4 if load > HOT_FROM else 1.3))
    painter.setBrush(theme.color("faint" if muted else "sheet"))
    painter.drawRoundedRect(plate, 4, 4)
    text = "x" if Mark.DEAD in marks else str(note.fret)
    painter.setPen(theme.color("ink"))
    painter.setFont(scene.font(14, bold=True))
    painter.drawText(plate.adjusted(0, -0.5, 0, -0.5), Qt.AlignmentFlag.AlignCenter, text)


def _paint_slur(scene: Scene, before: Column, column: Column) -> None:
    highest = min(scene.layout.string_y(note.string) for note in column.event.notes)
    y = highest - PLATE_HEIGHT / 2 - 1
    x0, x1 = before.plate_x + 3, column.plate_x - 3
    lift = min(9.0, 3 + (x1 - x0) * 0.12)
    slur = QPainterPath(QPointF(x0, y))
    slur.cubicTo(QPointF(x0 + 6, y - lift), QPointF(x1 - 6, y - lift), QPointF(x1, y))
    scene.painter.setPen(pen(scene.theme.color("ink"), 1.5))
    scene.painter.setBrush(Qt.BrushStyle.NoBrush)
    scene.painter.drawPath(slur)
