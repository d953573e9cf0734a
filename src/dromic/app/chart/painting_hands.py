"""Painting the lower half of the chart: the hand ribbon, the load strip and the labels on the left."""

from __future__ import annotations

from itertools import groupby, pairwise
from operator import itemgetter

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainterPath

from dromic.app.chart.layout import HAND_MARGIN_MM, ChartLayout, Column
from dromic.app.chart.painting import (
    Scene,
    paint_padlock,
    paint_path,
    paint_plates,
    paint_ruler,
    paint_strings,
    paint_strokes,
    pen,
)
from dromic.music.pitch import pitch_name
from dromic.planner.muting import LIFTING, PALM, SIDE_OF_THUMB, THUMB, TIP

GUTTER = 74
FINGER = 8.5
BAR_WIDTH = 6.0
MARKED_FRETS = (1, 3, 5, 7, 9, 12, 15, 17, 19, 21, 24)
LEAST_FRET_GAP = 15.0
LEAST_LEGEND = 11.0


def _edges(layout: ChartLayout, column: Column) -> tuple[float, float]:
    """Lower and upper edge of the hand at a note, in mm from the nut."""
    instrument, hand = layout.plan.instrument, layout.plan.hands.fretting
    home = float(instrument.spots[column.event.position or 1])
    held = [float(instrument.spots[note.fret]) for note in column.event.notes if note.fret]
    low, high = min((home, *held)), max((home + hand.spread_mm[-1], *held))
    return low - HAND_MARGIN_MM, high + HAND_MARGIN_MM


def paint_hand(scene: Scene) -> None:
    """Draw the band that follows the hand along the neck, with the fingers in it."""
    layout, painter = scene.layout, scene.painter
    for fret, y in _fret_lines(layout):
        painter.setPen(pen(scene.theme.color("faint"), 1.0))
        painter.drawLine(QPointF(scene.left, y), QPointF(min(scene.right, layout.width), y))
        del fret
    columns = scene.columns
    if not columns:
        return
    edges = [_edges(layout, column) for column in columns]
    upper = _edge_line(layout, columns, [high for _, high in edges])
    lower = _edge_line(layout, columns, [low for low, _ in edges])
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
    _paint_fingers(scene, columns)


def _edge_line(layout: ChartLayout, columns: tuple[Column, ...], edge: list[float]) -> QPainterPath:
    half = 11.0
    line = QPainterPath(QPointF(columns[0].plate_x - half - 4, layout.neck_y(edge[0])))
    for (one, before), (two, after) in pairwise(zip(columns, edge, strict=True)):
        x0, x1 = one.plate_x + half, max(two.plate_x - half, one.plate_x + half)
        y0, y1 = layout.neck_y(before), layout.neck_y(after)
        line.lineTo(QPointF(x0, y0))
        # The hand moves late in a long gap: it stays while the note sounds.
        x0 = max(x0, x1 - 60)
        line.lineTo(QPointF(x0, y0))
        middle = (x0 + x1) / 2
        line.cubicTo(QPointF(middle, y0), QPointF(middle, y1), QPointF(x1, y1))
    line.lineTo(QPointF(columns[-1].plate_x + half + 4, layout.neck_y(edge[-1])))
    return line


def _paint_fingers(scene: Scene, columns: tuple[Column, ...]) -> None:
    layout, painter, theme = scene.layout, scene.painter, scene.theme
    spots = layout.plan.instrument.spots
    for column in columns:
        down = sorted(
            {(note.fret, note.finger) for note in (*column.event.notes, *column.event.held) if note.finger}
        )
        if not down:
            middle = QPointF(column.plate_x, layout.hand.bottom - 4)
            painter.setPen(pen(theme.color("quiet"), 1.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(middle, 3.5, 3.5)
        locks = layout.plan.task.steps[column.step].locks
        if locks.position is not None:
            paint_padlock(scene, column.plate_x, layout.hand.bottom - 6)
        load = max(column.loads.fret, column.loads.sync)
        for fret, group in groupby(down, key=itemgetter(0)):
            fingers = [finger for _, finger in group]
            y = layout.neck_y(float(spots[fret]))
            for place, finger in enumerate(fingers):
                # Fingers on one fret stand side by side.
                x = column.plate_x + (place - (len(fingers) - 1) / 2) * 1.7 * FINGER
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QBrush(theme.load(load)))
                painter.drawEllipse(QPointF(x, y), FINGER, FINGER)
                scene.text(x, y - 0.5, str(finger), "sheet", 13, bold=True)
                if locks.finger is not None or _finger_locked(scene, column, finger):
                    paint_padlock(scene, x + FINGER + 3, y - FINGER + 1)


def _finger_locked(scene: Scene, column: Column, finger: int) -> bool:
    """Whether a finger of a chord is the player's decision."""
    step = scene.layout.plan.task.steps[column.step]
    return any(note.locks.finger == finger for note in step.notes)


def _fret_lines(layout: ChartLayout) -> list[tuple[int, float]]:
    """Frets whose finger spots get a line, with a label where there is room."""
    spots = layout.plan.instrument.spots
    found: list[tuple[int, float]] = []
    for fret in MARKED_FRETS:
        if fret < len(spots) and layout.neck_low <= spots[fret] <= layout.neck_high:
            y = layout.neck_y(float(spots[fret]))
            if not found or found[-1][1] - y >= LEAST_FRET_GAP:
                found.append((fret, y))
    return found


def paint_finger_row(scene: Scene) -> None:
    """Write the fingers in a row, as on paper: the number, or several one over the other for a chord."""
    layout = scene.layout
    middle = (layout.hand.top + layout.hand.bottom) / 2
    for column in scene.columns:
        fingers = [note.finger for note in column.event.notes]
        if len(fingers) == 1:
            scene.text(column.plate_x, middle, str(fingers[0]), "ink", 14, bold=True)
        else:
            words = "".join(str(finger) for finger in fingers)
            scene.text(column.plate_x, middle, words, "ink", 11, bold=True)


def paint_mutes(scene: Scene) -> None:
    """Draw the muting lane: what silences each string; filled where it rang until now, ringed for care."""
    layout, painter, theme = scene.layout, scene.painter, scene.theme
    if not layout.view.mutes:
        return
    for string in range(1, layout.plan.instrument.strings + 1):
        painter.setPen(pen(theme.color("faint"), 0.8))
        y = layout.mute_y(string)
        painter.drawLine(QPointF(scene.left, y), QPointF(min(scene.right, layout.width), y))
    for column in scene.columns:
        for mute in column.event.mutes:
            at = QPointF(column.plate_x, layout.mute_y(mute.string))
            color = theme.color("hot" if mute.doubtful else "calm" if mute.rang else "string")
            painter.setPen(pen(color, 1.5))
            painter.setBrush(color if mute.rang and not mute.doubtful else Qt.BrushStyle.NoBrush)
            _paint_mute(scene, at, mute.by, doubtful=mute.doubtful)


def _paint_mute(scene: Scene, at: QPointF, by: str, *, doubtful: bool) -> None:
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


def paint_loads(scene: Scene) -> None:
    """Draw the loads of the way to each note: pick full, fretting hand pale, both together hollow."""
    layout, painter, theme = scene.layout, scene.painter, scene.theme
    right = min(scene.right, layout.width)
    painter.setPen(pen(theme.color("faint"), 1.0))
    painter.drawLine(QPointF(scene.left, layout.load.bottom), QPointF(right, layout.load.bottom))
    for column in scene.columns:
        loads = column.loads
        for place, (value, kind) in enumerate(((loads.pick, 0), (loads.fret, 1), (loads.sync, 2))):
            if value > 0:
                x = column.plate_x + (place - 1.5) * (BAR_WIDTH + 1.5)
                _paint_bar(scene, x, value, kind)
    y = layout.load_y(1.0)
    painter.setPen(pen(theme.color("hot"), 1.2, Qt.PenStyle.DashLine))
    painter.drawLine(QPointF(scene.left, y), QPointF(right, y))


def _paint_bar(scene: Scene, x: float, load: float, kind: int) -> None:
    layout = scene.layout
    top = layout.load_y(load)
    paint_swatch(scene, QRectF(x, top, BAR_WIDTH, layout.load.bottom - top), scene.theme.load(load), kind)
    if load > layout.load_scale:
        scene.text(x + BAR_WIDTH / 2, layout.load.top - 6, f"{load:.1f}", "hot", 11, bold=True)


def paint_swatch(scene: Scene, box: QRectF, color: QColor, kind: int) -> None:
    """Fill a bar in the manner of its hand: 0 pick, 1 fretting hand, 2 both."""
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


def paint_lanes(scene: Scene) -> None:
    """Draw every lane of the chart."""
    paint_ruler(scene)
    paint_strokes(scene)
    paint_strings(scene)
    paint_path(scene)
    paint_plates(scene)
    paint_mutes(scene)
    paint_hand(scene)
    paint_loads(scene)


def paint_gutter(scene: Scene, height: float) -> None:
    """Draw the labels that stay while the chart scrolls."""
    layout, painter, theme = scene.layout, scene.painter, scene.theme
    painter.fillRect(QRectF(0, 0, GUTTER, height), theme.color("sheet"))
    _label(scene, (layout.strokes.top + layout.strokes.bottom) / 2, "stroke", "quiet")
    _paint_string_names(scene)
    if layout.view.mutes:
        _label(scene, (layout.mutes.top + layout.mutes.bottom) / 2 - 4, "muted", "quiet")
    _label(scene, layout.hand.top + 2, "hand, fret", "quiet")
    for fret, y in _fret_lines(layout):
        if y > layout.hand.top + 16:
            _label(scene, y, str(fret), "quiet")
    _label(scene, layout.load_y(1.0), "limit", "hot")
    names = ("pick", "fret", "both")
    step = min(15.0, (layout.load.bottom - layout.load_y(1.0) - 8) / 3)
    for place, name in enumerate(names if step >= LEAST_LEGEND else ()):
        y = layout.load_y(1.0) + step * (place + 1)
        _label(scene, y, name, "quiet", inset=14)
        paint_swatch(scene, QRectF(GUTTER - 19, y - 5, BAR_WIDTH, 10), theme.color("calm"), place)


def _paint_string_names(scene: Scene) -> None:
    layout = scene.layout
    instrument = layout.plan.instrument
    edges = ("ceiling", "floor") if layout.thick_on_top else ("floor", "ceiling")
    _label(scene, layout.field.top + 1, edges[0], "quiet")
    _label(scene, layout.field.bottom - 1, edges[1], "quiet")
    for string in range(1, instrument.strings + 1):
        name = pitch_name(instrument.tuning[instrument.index(string)] + instrument.capo)
        _label(scene, layout.string_y(string), name, "ink")


def _label(scene: Scene, y: float, words: str, color: str, inset: float = 0.0) -> None:
    scene.painter.setFont(scene.font(13))
    scene.painter.setPen(scene.theme.color(color))
    box = QRectF(0, y - 10, GUTTER - 8 - inset, 20)
    scene.painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
