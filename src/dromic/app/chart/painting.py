"""What all lanes of the chart paint with, and what lies over all of them: choice, range, playhead."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import ceil

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QPainter, QPen, QPixmap

from dromic.app.chart.columns import PLATE_WIDTH
from dromic.app.chart.frame import MARGIN
from dromic.app.chart.layout import ChartLayout
from dromic.app.chart.part import Part
from dromic.app.theme import UI_FONT, Theme
from dromic.memory import Memo

GUTTER = 74
MOST_STAMPS = 2_000
LEAST_CHOICE = 10.0
LINE_CAP = Qt.PenCapStyle.RoundCap


def picture_of(wide: float, high: float, ratio: float, draw: Callable[[QPainter], None]) -> QPixmap:
    """Draw a picture with nothing behind it.

    Parameters
    ----------
    wide, high : float
    ratio : float
        Device pixels for one of these.
    draw : callable
        Draws it, from its upper left corner.
    """
    picture = QPixmap(ceil(wide * ratio), ceil(high * ratio))
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    try:
        draw(painter)
    finally:
        # A painter that is left open takes the whole window down with it.
        painter.end()
    return picture


@dataclass(frozen=True)
class Sketch:
    """What something small is drawn with, wherever it stands."""

    painter: QPainter
    theme: Theme

    def font(self, pixels: int, *, bold: bool = False) -> QFont:
        """Return the window's font at a size; it is shared, so copy it before changing it."""
        return pixel_font(pixels, bold=bold)

    def text(self, x: float, y: float, words: str, color: str, size: int, *, bold: bool = False) -> None:
        """Write centred on a point.

        Parameters
        ----------
        x, y : float
        words, color : str
        size : int
        bold : bool
        """
        self.painter.setFont(self.font(size, bold=bold))
        self.painter.setPen(self.theme.color(color))
        self.painter.drawText(QRectF(x - 60, y - 12, 120, 24), Qt.AlignmentFlag.AlignCenter, words)


Draw = Callable[..., None]
"""Draws a plate or sign of a `Sketch` around a point, from its arguments alone: sketch, x, y, looks."""


def stamped(draw: Draw, room: tuple[float, float], theme: Theme, ratio: float, *looks: Hashable) -> QPixmap:
    """A plate or sign as a picture.

    Parameters
    ----------
    draw : callable
        Of a module.
    room : (float, float)
        How far it reaches to each side, and up and down.
    theme : Theme
    ratio : float
        Device pixels for one of the picture's own.
    looks
        What else it is drawn from.
    """
    wide, high = room
    return picture_of(2 * wide, 2 * high, ratio, lambda painter: draw(Sketch(painter, theme), wide, high, *looks))


@dataclass(frozen=True)
class LaneScene(Sketch):
    """What a lane is drawn with, and all that it shows.

    Parameters
    ----------
    part : Part
    stamps : Memo or None
        Where plates and signs are kept; None to draw each by itself, as on paper.
    ratio : float
        Device pixels for one of the chart's own, which stamps are made for.
    """

    part: Part
    stamps: Memo[QPixmap] | None = None
    ratio: float = 1.0

    @property
    def end(self) -> float:
        """Where lines along the whole chart end, in this part."""
        return min(self.part.right, self.part.width)

    def stamp(self, draw: Draw, x: float, y: float, room: tuple[float, float], *looks: Hashable) -> None:
        """Put down a plate or sign that looks the same wherever it stands.

        Parameters
        ----------
        draw : callable
            See `stamped`.
        x, y : float
            Where its middle stands.
        room : (float, float)
            How far it reaches to each side, and up and down.
        looks
            What it is drawn from.
        """
        if self.stamps is None:
            draw(self, x, y, *looks)
            return
        (wide, high), ratio = room, self.ratio
        picture = self.stamps(draw, room, self.theme, ratio, *looks)
        # On whole pixels it is as sharp as it was drawn.
        at = QPointF(round((x - wide) * ratio) / ratio, round((y - high) * ratio) / ratio)
        self.painter.drawPixmap(at, picture)


@dataclass(frozen=True)
class Scene(Sketch):
    """What is drawn over the lanes, or beside them, with the whole layout.

    Parameters
    ----------
    layout : ChartLayout
    left, right : float
        The part that shows.
    chosen : int or None
        Step of the chosen note.
    """

    layout: ChartLayout
    left: float
    right: float
    chosen: int | None


@lru_cache(maxsize=64)
def pixel_font(pixels: int, *, bold: bool = False) -> QFont:
    """The window's font at a size; it is shared, so copy it before changing it."""
    font = QFont(UI_FONT)
    font.setPixelSize(pixels)
    if bold:
        font.setWeight(QFont.Weight.DemiBold)
    return font


def dashed_from(left: float, line: QPen) -> float:
    """Where a line has to begin so that its dashes go on in those of pictures that are drawn apart from it."""
    period = sum(line.dashPattern()) * line.widthF()
    return left // period * period if period else left


def pen(color: QColor, width: float, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> QPen:
    """Return a pen with round ends; it is shared, so copy it before changing it.

    Parameters
    ----------
    color : QColor
    width : float
    style : Qt.PenStyle
    """
    return _pen(color.rgba(), round(width, 2), style)


@lru_cache(maxsize=1024)
def _pen(rgba: int, width: float, style: Qt.PenStyle) -> QPen:
    return QPen(QColor.fromRgba(rgba), width, style, LINE_CAP, Qt.PenJoinStyle.RoundJoin)


def paint_choice(scene: Scene) -> None:
    """Mark the chosen note's column over all bands."""
    if scene.chosen is None or scene.chosen >= len(scene.layout.columns):
        return
    column = scene.layout.columns[scene.chosen]
    wide = min(PLATE_WIDTH + 16, max(scene.layout.rooms[column.step] + 4, LEAST_CHOICE))
    box = QRectF(column.x - wide / 6, scene.layout.strokes.top, wide, scene.layout.bottom)
    box.setBottom(scene.layout.bottom + 3)
    scene.painter.setPen(Qt.PenStyle.NoPen)
    scene.painter.setBrush(scene.theme.color("chosen"))
    scene.painter.drawRoundedRect(box, 6, 6)


def paint_range(scene: Scene, chosen: tuple[int, int] | None) -> None:
    """Mark the selected range along the ruler and over all bands."""
    if chosen is None or chosen[1] >= len(scene.layout.columns):
        return
    first, last = (scene.layout.columns[step] for step in chosen)
    box = QRectF(first.x - 6, scene.layout.ruler.bottom - 5, last.x - first.x + PLATE_WIDTH + 16, 0)
    box.setBottom(scene.layout.bottom + 3)
    scene.painter.setPen(Qt.PenStyle.NoPen)
    scene.painter.setBrush(scene.theme.color("chosen", 110))
    scene.painter.drawRect(box)
    scene.painter.setBrush(scene.theme.color("accent"))
    scene.painter.drawRect(QRectF(box.left(), box.top(), box.width(), 3))


def paint_progress(scene: Scene, shares: Sequence[float | None]) -> None:
    """Fill the string field from below, note by note: full where the way to it is clean at the wanted tempo."""
    columns, field = scene.layout.columns, scene.layout.field
    if len(shares) != len(columns):
        return
    painter = scene.painter
    ends = [*(column.x for column in columns[1:]), scene.layout.width - MARGIN]
    painter.setPen(Qt.PenStyle.NoPen)
    for column, end, share in zip(columns, ends, shares, strict=True):
        if share is None or end < scene.left or column.x > scene.right:
            continue
        high = field.height * min(share, 1.0)
        box = QRectF(column.x - 4, field.bottom - high, end - column.x, high)
        done = share >= 1.0
        painter.setBrush(scene.theme.color("calm" if done else "warm", 70 if done else 45))
        painter.drawRect(box)
        painter.setBrush(scene.theme.color("calm" if done else "warm"))
        painter.drawRect(QRectF(box.left(), box.top() - 1, box.width(), 2))


def paint_playhead(scene: Scene, quarters: float | None) -> None:
    """Draw where the sound is."""
    if quarters is None or quarters < 0:
        return
    x = scene.layout.x(quarters)
    scene.painter.setPen(pen(scene.theme.color("accent"), 1.8))
    scene.painter.drawLine(QPointF(x, scene.layout.ruler.bottom - 6), QPointF(x, scene.layout.bottom + 3))


def paint_padlock(scene: LaneScene, x: float, y: float) -> None:
    """Draw the sign of a decision of the player's.

    Parameters
    ----------
    scene : LaneScene
    x, y : float
    """
    if not scene.part.view.padlocks:
        return
    painter, color = scene.painter, scene.theme.color("accent")
    painter.setPen(pen(color, 1.3))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawArc(QRectF(x - 2.4, y - 5.2, 4.8, 6.4), 0, 180 * 16)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(color)
    painter.drawRoundedRect(QRectF(x - 3.8, y - 2.0, 7.6, 5.4), 1.2, 1.2)


def gutter_label(scene: Scene, y: float, words: str, color: str, inset: float = 0.0) -> None:
    """Write a label on the left of the chart.

    Parameters
    ----------
    scene : Scene
    y : float
    words, color : str
    inset : float
    """
    scene.painter.setFont(scene.font(13))
    scene.painter.setPen(scene.theme.color(color))
    box = QRectF(0, y - 10, GUTTER - 8 - inset, 20)
    scene.painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
