"""The chart in tiles: each is drawn once and kept, so that scrolling only moves pictures.

Tiles beyond the edges are drawn while nothing else is to be done, so that they are there when they are needed.
"""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from weakref import ref

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPixmap

from dromic.app.chart.lanes import paint_lanes
from dromic.app.chart.layout import ChartLayout
from dromic.app.chart.painting import Scene
from dromic.app.theme import Theme

TILE = 160
MOST_TILES = 64
TILES_AHEAD = 4


@dataclass
class _Tile:
    """A picture, the layout that it was last seen to belong to, and what it shows in which frame."""

    picture: QPixmap
    layout: ref[ChartLayout]
    frame: tuple[object, ...]
    shows: tuple[object, ...]


def _ends(number: int) -> tuple[float, float]:
    return number * TILE, (number + 1) * TILE


class Tiles:
    """Keeps what does not change while the chart scrolls and notes are chosen."""

    def __init__(self) -> None:
        self._kept: OrderedDict[int, _Tile] = OrderedDict()

    def clear(self) -> None:
        """Forget everything: colours have changed."""
        self._kept.clear()

    def paint(
        self, painter: QPainter, layout: ChartLayout, theme: Theme, left: float, right: float, ratio: float
    ) -> None:
        """Paint the part of the chart between two places, tile by tile."""
        for number in range(int(left // TILE), int(right // TILE) + 1):
            painter.drawPixmap(QPointF(number * TILE, 0), self._tile(layout, theme, number, ratio))

    def _tile(self, layout: ChartLayout, theme: Theme, number: int, ratio: float) -> QPixmap:
        tile = self._kept.get(number)
        if tile is not None and tile.picture.devicePixelRatio() == ratio:
            self._kept.move_to_end(number)
            if tile.layout() is layout:
                return tile.picture
            if tile.frame == layout.frame and tile.shows == layout.drawn_between(*_ends(number)):
                # After another plan most of the chart is as it was.
                tile.layout = ref(layout)
                return tile.picture
        picture = _drawn(layout, theme, number, ratio)
        shows = layout.drawn_between(*_ends(number))
        self._kept[number] = _Tile(picture, ref(layout), layout.frame, shows)
        self._kept.move_to_end(number)
        while len(self._kept) > MOST_TILES:
            self._kept.popitem(last=False)
        return picture

    def draw_ahead(self, layout: ChartLayout, theme: Theme, left: float, right: float, ratio: float) -> bool:
        """Draw one tile that scrolling will need soon; returns whether there may be more to draw."""
        first, last = int(left // TILE), int(right // TILE)
        for ahead in range(1, TILES_AHEAD + 1):
            for number in (last + ahead, first - ahead):
                known = self._kept.get(number)
                if 0 <= number * TILE < layout.width and (known is None or known.layout() is not layout):
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
