"""The string field: strings at their true spacing, the pick's path through and over them, fret numbers."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPainterPath, QPen

from dromic.app.chart.columns import PLATE_HEIGHT, PLATE_WIDTH, Column
from dromic.app.chart.frame import Detail
from dromic.app.chart.lane import Lane, hand_of, reason_of, time_words
from dromic.app.chart.layout import ChartLayout, LaneSpace
from dromic.app.chart.painting import LaneScene, Scene, Sketch, gutter_label, pen
from dromic.app.chart.part import FRET_ROOM, PLATE_ROOM, TINY_ROOM
from dromic.app.chart.path import StrokeMark, Way, picked_columns, stroke_mark, way_between
from dromic.app.heat import HOT_FROM
from dromic.hands.terms import LoadKind, spot_words
from dromic.music.pitch import pitch_name
from dromic.music.riff import MARK_WORDS, Mark
from dromic.planner.costs.model import Model
from dromic.planner.plan import PlannedNote
from dromic.planner.told.reasons import what_words

LABEL_HEIGHT = 12.0
BRIDGE = 5.0
PLATE_REACH = PLATE_WIDTH / 2 + 3.5, PLATE_HEIGHT / 2 + 3.0


def paint_strings(scene: LaneScene) -> None:
    """Draw the strings, thicker where they are."""
    part = scene.part
    count = part.instrument.strings
    for string in range(1, count + 1):
        width = 0.9 + 1.7 * (string - 1) / max(count - 1, 1)
        scene.painter.setPen(QPen(scene.theme.color("string", 150), width))
        y = part.string_y(string)
        scene.painter.drawLine(QPointF(scene.part.left, y), QPointF(scene.end, y))


def paint_path(scene: LaneScene) -> None:
    """Draw the pick path: strokes, the ways between them, bridges and rests."""
    part = scene.part
    picked = picked_columns(part, scene.part.showing)
    if part.detail is Detail.OVERVIEW:
        _paint_line(scene, picked)
        return
    for before, after in pairwise(picked):
        _paint_way(scene, way_between(part, before, after))
    for index in picked:
        _paint_stroke(scene, stroke_mark(part, index))


def _paint_line(scene: LaneScene, picked: Sequence[int]) -> None:
    """The pick's path as one line from string to string, warmer where it is hard."""
    part, painter = scene.part, scene.painter
    for before, after in pairwise(picked):
        one, two = part.at(before), part.at(after)
        start, end = part.string_y(one.state.ends), part.string_y(two.state.begins)
        painter.setPen(pen(scene.theme.load(_pick_load(scene, after)), 1.4))
        painter.drawPolyline(QPointF(one.x, start), QPointF(two.x, start), QPointF(two.x, end))


def _pick_load(scene: LaneScene, index: int) -> float:
    loads = scene.part.at(index).loads
    return max(loads.pick, loads.sync)


def _paint_way(scene: LaneScene, way: Way) -> None:
    color = scene.theme.load(_pick_load(scene, way.after))
    painter = scene.painter
    (x, y), (end_x, end_y) = way.turn, way.end
    line = QPainterPath(QPointF(*way.start))
    line.lineTo(QPointF(x, y))
    third = (end_x - x) / 3
    # The one cubic that eases out of the level and into the other.
    line.cubicTo(QPointF(x + third, y), QPointF(end_x - third, end_y), QPointF(end_x, end_y))
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


def _paint_stroke(scene: LaneScene, mark: StrokeMark) -> None:
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


def paint_plates(scene: LaneScene) -> None:
    """Draw the fret numbers, and slurs where a note is not picked."""
    part = scene.part
    if scene.part.detail is Detail.OVERVIEW:
        return
    for column in scene.part.showing:
        if column.event.legato not in (None, Mark.TAP) and column.step:
            _paint_slur(scene, part.at(column.step - 1), column)
    for column in scene.part.showing:
        _paint_plate(scene, column)


def _paint_plate(scene: LaneScene, column: Column) -> None:
    event = column.event
    for note in event.held:
        _paint_held(scene, column, note)
    for note in event.notes:
        _paint_note(scene, column, note)


def _paint_held(scene: LaneScene, column: Column, note: PlannedNote) -> None:
    """A note from before that sounds on: a small ring on its string."""
    y = scene.part.string_y(note.string)
    scene.painter.setPen(pen(scene.theme.color("calm"), 1.6))
    scene.painter.setBrush(scene.theme.color("sheet"))
    scene.painter.drawEllipse(QPointF(column.plate_x, y), 4.0, 4.0)


def _paint_note(scene: LaneScene, column: Column, note: PlannedNote) -> None:
    event = column.event
    y = scene.part.string_y(note.string)
    marks = event.moment.event.marks
    muted, load = Mark.PALM_MUTE in marks, column.loads.largest
    text = "x" if Mark.DEAD in marks else f"<{note.fret}>" if Mark.HARMONIC in marks else str(note.fret)
    if not scene.part.fits(column, PLATE_ROOM):
        _paint_fret(scene, column, y, text)
        return
    scene.stamp(_draw_plate, column.plate_x, y, PLATE_REACH, text, load, muted)


def _draw_plate(sketch: Sketch, x: float, y: float, text: str, load: float, muted: bool) -> None:
    painter, theme = sketch.painter, sketch.theme
    plate = QRectF(x - PLATE_WIDTH / 2, y - PLATE_HEIGHT / 2, PLATE_WIDTH, PLATE_HEIGHT)
    painter.setPen(pen(theme.load(load), 2.4 if load > HOT_FROM else 1.3))
    painter.setBrush(theme.color("faint" if muted else "sheet"))
    painter.drawRoundedRect(plate, 4, 4)
    painter.setPen(theme.color("ink"))
    painter.setFont(sketch.font(14 if len(text) < 4 else 11, bold=True))
    painter.drawText(plate.adjusted(0, -0.5, 0, -0.5), Qt.AlignmentFlag.AlignCenter, text)


def _paint_fret(scene: LaneScene, column: Column, y: float, text: str) -> None:
    """A fret number where there is no room for a plate: without one, smaller, or only a dot."""
    part, painter, theme = scene.part, scene.painter, scene.theme
    size = 12 if part.fits(column, FRET_ROOM) else 10 if part.fits(column, TINY_ROOM) else 0
    painter.setPen(Qt.PenStyle.NoPen)
    if not size or (len(text) > 1 and size == 10 and not part.fits(column, FRET_ROOM - 2)):
        painter.setBrush(theme.load(column.loads.largest))
        painter.drawEllipse(QPointF(column.x + 4, y), 2.4, 2.4)
        return
    wide = size * 0.62 * len(text) + 2
    painter.setBrush(theme.color("sheet"))
    painter.drawRect(QRectF(column.plate_x - wide / 2, y - 6, wide, 12))
    scene.text(column.plate_x, y - 0.5, text, "ink", size, bold=True)


def _paint_slur(scene: LaneScene, before: Column, column: Column) -> None:
    highest = min(scene.part.string_y(note.string) for note in column.event.notes)
    y = highest - PLATE_HEIGHT / 2 - 1
    x0, x1 = before.plate_x + 3, column.plate_x - 3
    lift = min(9.0, 3 + (x1 - x0) * 0.12)
    slur = QPainterPath(QPointF(x0, y))
    slur.cubicTo(QPointF(x0 + 6, y - lift), QPointF(x1 - 6, y - lift), QPointF(x1, y))
    scene.painter.setPen(pen(scene.theme.color("ink"), 1.5))
    scene.painter.setBrush(Qt.BrushStyle.NoBrush)
    scene.painter.drawPath(slur)


def _string_hint(layout: ChartLayout, _model: Model, column: Column) -> str:
    plan, event = layout.plan, column.event
    marks = ", ".join(MARK_WORDS[mark] for mark in sorted(event.moment.event.marks))
    spots = "; ".join(spot_words(event.spots))
    told = what_words(plan.task.steps[column.step], plan.states[column.step])
    return "\n".join(filter(None, [told, marks, spots and f"hand-sync spot: {spots}"]))


def _way_hint(layout: ChartLayout, model: Model, column: Column) -> str:
    pick = hand_of(reason_of(layout, model, column), LoadKind.PICK)
    where = f"on the way to {column.event.moment.place_words}"
    if pick is None:
        return f"{where}\nthe pick rests: the note is not picked"
    return f"{where}\n{pick.words}\n{time_words(pick)}"


def _paint_string_names(scene: Scene) -> None:
    layout = scene.layout
    instrument = layout.plan.instrument
    edges = ("up", "down") if layout.thick_on_top else ("down", "up")
    gutter_label(scene, layout.field.top + 1, edges[0], "quiet")
    gutter_label(scene, layout.field.bottom - 1, edges[1], "quiet")
    # Where the strings lie close, only the outer ones have room for their names.
    tight = abs(layout.string_y(1) - layout.string_y(instrument.strings)) < LABEL_HEIGHT * (instrument.strings - 1)
    for string in range(1, instrument.strings + 1):
        if tight and string not in (1, instrument.strings):
            continue
        name = pitch_name(instrument.tuning[instrument.index(string)] + instrument.capo)
        gutter_label(scene, layout.string_y(string), name, "ink")


def _paint(scene: LaneScene) -> None:
    paint_strings(scene)
    paint_path(scene)
    paint_plates(scene)


LANE = Lane(
    LaneSpace("strings"),
    "The strings as they are spaced, and the pick's way through and over them",
    _paint,
    _string_hint,
    _paint_string_names,
    on_the_way=_way_hint,
)
