"""The harmony lane, where the player wants it: chords where they begin, and every note's degree."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt

from dromic.app.chart.columns import Column
from dromic.app.chart.frame import View
from dromic.app.chart.lane import Lane
from dromic.app.chart.layout import GAP, LONG_SIGN, ChartLayout, LaneSpace
from dromic.app.chart.painting import LaneScene, Scene, gutter_label, pen
from dromic.app.chart.part import PLATE_ROOM
from dromic.planner.costs.model import Model
from dromic.planner.plan import Plan

CHORD_ROW, DEGREE_ROW, MOST_DEGREES = 18.0, 17.0, 3


def paint_harmony(scene: LaneScene) -> None:
    """Draw chords and degrees: chord tones on a plate, tones outside the key ringed."""
    part, painter, theme = scene.part, scene.painter, scene.theme
    band = part.bands["harmony"]
    if not band.height:
        return
    free = 0.0
    # A chord's sign may begin before what shows.
    for column in part.columns_from(part.left - LONG_SIGN):
        here = part.harmony_of(column)
        chord, before = here.chord, here.before
        begins = chord != before or not column.step
        if begins and column.x < free:
            continue
        if chord is not None and begins:
            painter.setFont(scene.font(13, bold=True))
            painter.setPen(theme.color("accent"))
            painter.drawText(QPointF(column.x - 2, band.top + 13), str(chord))
            free = column.x + painter.fontMetrics().horizontalAdvance(str(chord)) + 2
        elif chord is None and before is not None:
            painter.setPen(theme.color("quiet"))
            painter.drawText(QPointF(column.x - 2, band.top + 13), "N.C.")
    for column in scene.part.showing:
        if not part.fits(column, PLATE_ROOM):
            continue
        own = part.harmony_of(column).notes
        for row, note in enumerate(own[:MOST_DEGREES]):
            y = band.bottom - DEGREE_ROW / 2 - DEGREE_ROW * row
            degree = str(note.degree) if note.degree is not None else note.name
            box = QRectF(column.plate_x - 12, y - 8, 24, 16)
            if note.chord_tone is not None:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.color("ribbon"))
                painter.drawRoundedRect(box, 5, 5)
            if not note.in_key and note.degree is not None:
                painter.setPen(pen(theme.color("accent"), 1.2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(box, 5, 5)
            scene.text(column.plate_x, y, degree, "ink", 13, bold=note.chord_tone is not None)


def _hint(layout: ChartLayout, _model: Model, column: Column) -> str:
    harmony = layout.harmony
    lines = [note.words for note in harmony.notes_of(column.step)]
    shape = harmony.shape_at(column.step)
    if shape is not None:
        lines.append(shape.words)
    return "\n".join(lines)


def _height(plan: Plan, view: View) -> float:
    if not view.harmony:
        return 0.0
    notes = max((len(state.notes) for state in plan.states), default=1)
    return CHORD_ROW + DEGREE_ROW * min(notes, MOST_DEGREES)


def _paint_label(scene: Scene) -> None:
    band = scene.layout.bands["harmony"]
    if band.height:
        gutter_label(scene, band.bottom - DEGREE_ROW / 2, "degree", "quiet")


LANE = Lane(
    LaneSpace("harmony", fixed=_height, gap=GAP / 3),
    "Chords, and the degree of every note in the key: on a plate where it is a tone of the chord, ringed where the "
    "key does not hold it",
    paint_harmony,
    _hint,
    _paint_label,
)
