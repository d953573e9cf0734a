"""The hand ribbon: the fretting hand along the neck in true distances; on paper a row of fingers."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QBrush, QPainterPath

from dromic.app.chart.columns import Column
from dromic.app.chart.frame import Detail, Frame, View
from dromic.app.chart.lane import Lane, hand_of, reason_of, time_words
from dromic.app.chart.layout import FINGER_ROW, GAP, HAND_MARGIN_MM, ChartLayout, LaneSpace
from dromic.app.chart.painting import LaneScene, Scene, Sketch, gutter_label, paint_padlock, pen
from dromic.app.chart.part import FINGER_ROOM, Part
from dromic.hands.fingers import finger_sign
from dromic.hands.terms import LoadKind
from dromic.music.riff import Mark
from dromic.planner.costs.model import Model
from dromic.planner.plan import Plan

FINGER = 8.5
FINGER_REACH = FINGER + 1.0, FINGER + 1.0
MARKED_FRETS = (1, 3, 5, 7, 9, 12, 15, 17, 19, 21, 24)
LEAST_FRET_GAP = 15.0
HAND_SHARE = 0.31


def _edges(part: Part, column: Column) -> tuple[float, float]:
    """Lower and upper edge of the hand at a note, in mm from the nut."""
    instrument = part.instrument
    home = float(instrument.spots[column.event.position or 1])
    held = [float(instrument.spots[note.fret]) for note in column.event.notes if note.finger]
    low, high = min((home, *held)), max((home + part.hand_mm, *held))
    return low - HAND_MARGIN_MM, high + HAND_MARGIN_MM


def paint_hand(scene: LaneScene) -> None:
    """Draw the band that follows the hand along the neck, with the fingers in it."""
    part, painter = scene.part, scene.painter
    for fret, y in _fret_lines(part):
        painter.setPen(pen(scene.theme.color("faint"), 1.0))
        painter.drawLine(QPointF(scene.part.left, y), QPointF(scene.end, y))
        del fret
    columns = scene.part.showing
    if not columns:
        return
    edges = [_edges(part, column) for column in columns]
    upper = _edge_line(part, columns, [high for _, high in edges])
    lower = _edge_line(part, columns, [low for low, _ in edges])
    band = QPainterPath(upper)
    band.connectPath(lower.toReversed())
    band.closeSubpath()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(scene.theme.color("ribbon"))
    painter.drawPath(band)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(pen(scene.theme.color("calm", 140), 1.2))
    painter.drawPath(upper)
    painter.drawPath(lower)
    if part.detail is not Detail.OVERVIEW:
        _paint_fingers(scene, columns)


def _edge_line(part: Part, columns: tuple[Column, ...], edge: list[float]) -> QPainterPath:
    half = {Detail.FULL: 11.0, Detail.SIGNS: 4.0, Detail.OVERVIEW: 1.0}[part.detail]
    line = QPainterPath(QPointF(columns[0].plate_x - half - 4, part.neck_y(edge[0])))
    for (one, before), (two, after) in pairwise(zip(columns, edge, strict=True)):
        x0, x1 = one.plate_x + half, max(two.plate_x - half, one.plate_x + half)
        y0, y1 = part.neck_y(before), part.neck_y(after)
        line.lineTo(QPointF(x0, y0))
        # The hand moves late in a long gap: it stays while the note sounds.
        x0 = max(x0, x1 - 60)
        line.lineTo(QPointF(x0, y0))
        middle = (x0 + x1) / 2
        line.cubicTo(QPointF(middle, y0), QPointF(middle, y1), QPointF(x1, y1))
    line.lineTo(QPointF(columns[-1].plate_x + half + 4, part.neck_y(edge[-1])))
    return line


def _paint_fingers(scene: LaneScene, columns: tuple[Column, ...]) -> None:
    part, painter, theme = scene.part, scene.painter, scene.theme
    spots = part.instrument.spots
    for column in columns:
        down = sorted(
            {
                (note.fret, note.finger)
                for note in (*column.event.notes, *column.event.held, *column.event.ready)
                if note.finger
            }
        )
        numbered = part.fits(column, FINGER_ROOM)
        if not down and numbered:
            middle = QPointF(column.plate_x, part.hand.bottom - 4)
            painter.setPen(pen(theme.color("quiet"), 1.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(middle, 3.5, 3.5)
        locks = column.task_step.locks
        if locks.position is not None:
            paint_padlock(scene, column.plate_x, part.hand.bottom - 6)
        load = max(column.loads.fret, column.loads.sync)
        places = [(part.neck_y(float(spots[fret])), finger) for fret, finger in down]
        for y, _ in places if not numbered else ():
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QBrush(theme.load(load)))
            painter.drawEllipse(QPointF(part.middle_x(column), y), 2.8, 2.8)
        for group in _near(places) if numbered else ():
            for place, (y, finger) in enumerate(group):
                # Fingers that would lie over each other stand side by side.
                x = column.plate_x + (place - (len(group) - 1) / 2) * 1.9 * FINGER
                scene.stamp(_draw_finger, x, y, FINGER_REACH, finger, load)
                if locks.finger is not None or _finger_locked(column, finger):
                    paint_padlock(scene, x + FINGER + 3, y - FINGER + 1)


def _draw_finger(sketch: Sketch, x: float, y: float, finger: int, load: float) -> None:
    sketch.painter.setPen(Qt.PenStyle.NoPen)
    sketch.painter.setBrush(QBrush(sketch.theme.load(load)))
    sketch.painter.drawEllipse(QPointF(x, y), FINGER, FINGER)
    sketch.text(x, y - 0.5, finger_sign(finger), "sheet", 13, bold=True)


def _near(places: Sequence[tuple[float, int]]) -> list[list[tuple[float, int]]]:
    """Fingers whose circles would touch, together."""
    near: list[list[tuple[float, int]]] = []
    for place in sorted(places):
        if near and place[0] - near[-1][-1][0] < 2 * FINGER:
            near[-1].append(place)
        else:
            near.append([place])
    return near


def _finger_locked(column: Column, finger: int) -> bool:
    """Whether a finger of a chord is the player's decision."""
    step = column.task_step
    return any(note.locks.finger == finger for note in step.notes)


def _fret_lines(frame: Frame) -> list[tuple[int, float]]:
    """Frets whose finger spots get a line, with a label where there is room."""
    spots, (low, high) = frame.instrument.spots, frame.neck
    fret_lines: list[tuple[int, float]] = []
    for fret in MARKED_FRETS:
        if fret < len(spots) and low <= spots[fret] <= high:
            y = frame.neck_y(float(spots[fret]))
            if not fret_lines or fret_lines[-1][1] - y >= LEAST_FRET_GAP:
                fret_lines.append((fret, y))
    return fret_lines


def paint_finger_row(scene: LaneScene) -> None:
    """Write the fingers in a row, as on paper: the number, or several one over the other for a chord."""
    part = scene.part
    middle = (part.hand.top + part.hand.bottom) / 2
    for column in scene.part.showing:
        if column.event.legato is Mark.TAP:
            continue
        fingers = [note.finger for note in column.event.notes]
        if len(fingers) == 1:
            scene.text(column.plate_x, middle, str(fingers[0]), "ink", 14, bold=True)
        else:
            words = "".join(str(finger) for finger in fingers)
            scene.text(column.plate_x, middle, words, "ink", 11, bold=True)


def _hand_hint(layout: ChartLayout, model: Model, column: Column) -> str:
    event = column.event
    fret = hand_of(reason_of(layout, model, column), LoadKind.FRET)
    fingers = sorted({(note.finger, note.fret) for note in event.on_the_neck if note.finger})
    down = ", ".join(f"finger {finger} at fret {fret_number}" for finger, fret_number in fingers)
    lines = [f"hand at fret {event.position}" if event.position else "", down or "no finger is down"]
    lines += [fret.words, time_words(fret)] if fret is not None else []
    return "\n".join(filter(None, lines))


def _paint(scene: LaneScene) -> None:
    if scene.part.view.compact:
        paint_finger_row(scene)
    elif scene.part.hand.height:
        paint_hand(scene)


def _height(_plan: Plan, view: View) -> float | None:
    return FINGER_ROW if view.compact else None


def _paint_labels(scene: Scene) -> None:
    layout = scene.layout
    if not layout.hand.height:
        return
    gutter_label(scene, layout.hand.top + 2, "hand, fret", "quiet")
    for fret, y in _fret_lines(layout):
        if y > layout.hand.top + 16:
            gutter_label(scene, y, str(fret), "quiet")


LANE = Lane(
    LaneSpace("hand", share=HAND_SHARE, fixed=_height, gap=GAP),
    "The fretting hand along the neck, in true distances: its band, and the fingers that are down",
    _paint,
    _hand_hint,
    _paint_labels,
)
