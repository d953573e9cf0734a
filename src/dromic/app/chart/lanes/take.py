"""What was heard of a take, a bead for every note of every round: early above the line, late below it.

A bead is as large as its note is loud. What was missed is a cross on the line; a second attack is a second bead, a
smeared one a tail before it. Under the beads stands how notes end: a gap before the next, or ringing on under it.
"""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt

from dromic.app.chart.columns import Column
from dromic.app.chart.frame import Frame, View
from dromic.app.chart.lane import Lane
from dromic.app.chart.layout import GAP, ChartLayout, LaneSpace
from dromic.app.chart.painting import LaneScene, Scene, dashed_from, gutter_label, pen
from dromic.listening.take import End, State, TakeNote
from dromic.planner.costs.model import Model
from dromic.planner.plan import Plan

HEIGHT, ENDS_ROW = 118.0, 18.0
MOST_MS, HELP_MS = 40.0, 20.0
WARM_MS, HOT_MS = 10.0, 20.0
RADIUS, LEAST_RADIUS, MOST_RADIUS = 3.4, 2.0, 6.0
APART = 5.0
LEAST_GAP_MS = 25.0


def paint_take(scene: LaneScene) -> None:
    """Draw the line of the beat, the beads round it, and how notes end."""
    part, painter, theme = scene.part, scene.painter, scene.theme
    if not part.view.take:
        return
    right = scene.end
    for ms, style in (
        (-HELP_MS, Qt.PenStyle.DotLine),
        (HELP_MS, Qt.PenStyle.DotLine),
        (0.0, Qt.PenStyle.SolidLine),
    ):
        y = _y(part, ms)
        level = pen(theme.color("faint" if ms else "string"), 1.0, style)
        painter.setPen(level)
        painter.drawLine(QPointF(dashed_from(scene.part.left, level), y), QPointF(right, y))
    for column in scene.part.showing:
        if column.step < len(part.view.take):
            notes = part.view.take[column.step]
            for number, note in enumerate(notes):
                _paint_bead(scene, column.x + _aside(number, len(notes)), note)
            _paint_end(scene, column, notes)


def _aside(number: int, count: int) -> float:
    """Rounds stand side by side, the first on the left, as far as there is room."""
    step = min(APART, 22.0 / max(count, 1))
    return (number - (count - 1) / 2) * step


def _y(frame: Frame, ms: float) -> float:
    band = frame.bands["take"]
    bottom = band.bottom - ENDS_ROW
    middle, half = (band.top + bottom) / 2, (bottom - band.top) / 2 - 6
    return middle + max(-1.0, min(ms / MOST_MS, 1.0)) * half


def _paint_bead(scene: LaneScene, x: float, note: TakeNote) -> None:
    painter, theme, part = scene.painter, scene.theme, scene.part
    if note.state is State.MISSED:
        y = _y(part, 0.0)
        painter.setPen(pen(theme.color("hot"), 1.8))
        painter.drawLine(QPointF(x - 4, y - 4), QPointF(x + 4, y + 4))
        painter.drawLine(QPointF(x - 4, y + 4), QPointF(x + 4, y - 4))
        return
    off = abs(note.deviation_ms)
    color = theme.color("hot" if off >= HOT_MS else "warm" if off >= WARM_MS else "calm")
    size = RADIUS * 10 ** ((note.loudness_db or 0.0) / 30)
    size = min(max(size, LEAST_RADIUS), MOST_RADIUS)
    y = _y(part, note.deviation_ms)
    painter.setPen(pen(theme.color("sheet"), 0.8))
    painter.setBrush(color)
    painter.drawEllipse(QPointF(x, y), size, size)
    if note.state is State.DOUBLE:
        painter.drawEllipse(QPointF(x + size + 2.5, y), size * 0.7, size * 0.7)
    elif note.state is State.SMEARED:
        painter.setPen(pen(color, 2.0))
        painter.drawLine(QPointF(x - size - 7, y), QPointF(x - size, y))
    if off > MOST_MS:
        scene.text(x, y + (12 if note.deviation_ms > 0 else -12), f"{off:.0f}", "hot", 11)


def _paint_end(scene: LaneScene, column: Column, notes: tuple[TakeNote, ...]) -> None:
    """How most rounds end: two strokes with a hole between for a gap, a wave for ringing on."""
    painter, theme = scene.painter, scene.theme
    y = scene.part.bands["take"].bottom - ENDS_ROW / 2
    rings = sum(note.end is End.RINGS for note in notes)
    gaps = sum(note.end is End.GAP and (note.gap_ms or 0.0) > LEAST_GAP_MS for note in notes)
    x = column.x + 2
    if rings * 2 >= max(len(notes), 1):
        painter.setPen(pen(theme.color("warm"), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawArc(QRectF(x - 2, y - 4, 8, 8), 0, 180 * 16)
        painter.drawArc(QRectF(x + 6, y - 4, 8, 8), 180 * 16, 180 * 16)
    elif gaps * 2 >= max(len(notes), 1):
        painter.setPen(pen(theme.color("quiet"), 1.6))
        painter.drawLine(QPointF(x - 2, y), QPointF(x + 3, y))
        painter.drawLine(QPointF(x + 11, y), QPointF(x + 16, y))


def _take_hint(layout: ChartLayout, _model: Model, column: Column) -> str:
    take = layout.view.take
    if column.step >= len(take) or not take[column.step]:
        return "not heard in this take"
    return "\n".join(note_words(note) for note in take[column.step])


def note_words(note: TakeNote) -> str:
    """What was heard of one note, with its uncertainty, and what cannot be told.

    Examples
    --------
    >>> note_words(TakeNote(0, 3, 1.5, 12.4, onset_sure_ms=1.5))
    'round 1: 12 ms late (give or take 1.5), loudness cannot be told, end cannot be told'
    """
    head = f"round {note.round + 1}: "
    if note.state is State.MISSED:
        return f"{head}missed"
    off = note.deviation_ms
    near = abs(off) < 3.0
    parts = ["on the beat" if near else f"{abs(off):.0f} ms {'late' if off > 0 else 'early'}"]
    if not near and note.onset_sure_ms is not None:
        parts[0] += f" (give or take {note.onset_sure_ms:g})"
    if note.state is State.DOUBLE:
        parts.append("a double attack")
    elif note.state is State.SMEARED:
        parts.append("brushed before the stroke, or a finger down before it")
    if note.loudness_db is None:
        parts.append("loudness cannot be told")
    elif abs(note.loudness_db) >= 2.0:
        parts.append(
            f"{abs(note.loudness_db):.0f} dB {'louder' if note.loudness_db > 0 else 'softer'} than its like"
        )
    if note.end is None:
        parts.append("end cannot be told")
    elif note.end is End.RINGS:
        level = "" if note.ring_db is None else f", {abs(note.ring_db):.0f} dB down"
        parts.append(f"rings on under the next{level}")
    elif note.end is End.GAP and note.gap_ms is not None:
        parts.append(f"{note.gap_ms:.0f} ms of silence before the next")
    if note.cents is not None:
        parts.append(f"{note.cents:+.0f} cents off its goal (give or take {note.cents_sure or 0:.0f})")
    if note.spread_ms is not None:
        parts.append(f"raked over {note.spread_ms:.0f} ms")
    return head + ", ".join(parts)


def _height(_plan: Plan, view: View) -> float:
    return HEIGHT if view.take else 0.0


def _paint_labels(scene: Scene) -> None:
    layout = scene.layout
    if not layout.view.take:
        return
    gutter_label(scene, _y(layout, -HELP_MS), "20 early", "quiet")
    gutter_label(scene, _y(layout, 0.0), "on the beat", "ink")
    gutter_label(scene, _y(layout, HELP_MS), "20 ms late", "quiet")
    gutter_label(scene, layout.bands["take"].bottom - ENDS_ROW / 2, "ends", "quiet")


LANE = Lane(
    LaneSpace("take", fixed=_height, gap=GAP / 2),
    "The take: early above the line, late below it; large is loud; a cross was missed",
    paint_take,
    _take_hint,
    _paint_labels,
    printed=False,
)
