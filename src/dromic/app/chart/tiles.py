"""The chart in tiles: each is drawn once and kept, so that scrolling only moves pictures.

Tiles beyond the edges are drawn while nothing else is to be done, so that they are there when they are needed.
"""

from __future__ import annotations

from collections import OrderedDict

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPixmap

from dromic.app.chart.lanes import paint_lanes
from dromic.app.chart.layout import ChartLayout
from dromic.app.chart.painting import Scene
from dromic.app.theme import Theme

TILE = 160
MOST_TILES = 64
TILES_AHEAD = 4


class Tiles:
    """Keeps what does not change while the chart scrolls and notes are chosen."""

    def __init__(self) -> None:
        self._kept: OrderedDict[int, QPixmap] = OrderedDict()

    def clear(self) -> None:
        """Forget everything: layout or colours have changed."""
        self._kept.clear()

    def paint(
        self, painter: QPainter, layout: ChartLayout, theme: Theme, left: float, right: float, ratio: float
    ) -> None:
        """Paint the part of the chart between two places, tile by tile."""
        for number in range(int(left // TILE), int(right // TILE) + 1):
            painter.drawPixmap(QPointF(number * TILE, 0), self._tile(layout, theme, number, ratio))

    def _tile(self, layout: ChartLayout, theme: Theme, number: int, ratio: float) -> QPixmap:
        tile = self._kept.get(number)
        if tile is None or tile.devicePixelRatio() != ratio:
            tile = self._kept[number] = _drawn(layout, theme, number, ratio)
            while len(self._kept) > MOST_TILES:
                self._kept.popitem(last=False)
        else:
            self._kept.move_to_end(number)
        return tile

    def draw_ahead(self, layout: ChartLayout, theme: Theme, left: float, right: float, ratio: float) -> bool:
        """Draw one tile that scrolling will need soon; returns whether there may be more to draw."""
        first, last = int(left // TILE), int(right // TILE)
        for ahead in range(1, TILES_AHEAD + 1):
            for number in (last + ahead, first - ahead):
                if 0 <= number * TILE < layout.width and number not in self._kept:
                    self._tile(layout, theme, number, ratio)
                    return True
        return False


def _drawn(layout: ChartLayout, theme: Theme, number: int, ratio: float) -> QPixmap:
    height = layout.bottom + 8
    tile = QPixmap(round(TILE * ratio), round(height * ratio))
    tile.setDevicePixelRatio(ratio)
    tile.fill(Qt.GlobalColor.transparent)
    painter = QPainter(tile)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    left = number * TILE
    painter.translate(-left, 0)
    scene = Scene(painter, layout, theme, left, left + TILE, None)
    try:
        paint_lanes(scene)
    finally:
        painter.end()
    return tile
