"""The chart in tiles: each is drawn once and kept, so that scrolling only moves pictures.

Tiles beyond the edges are drawn while nothing else is to be done, so that they are there when they are needed.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import floor
from weakref import ref

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter, QPixmap

from dromic.app.chart.lanes import LANES, paint_lanes
from dromic.app.chart.layout import ChartLayout
from dromic.app.chart.painting import MOST_STAMPS, LaneScene, picture_of, stamped
from dromic.app.chart.part import Part
from dromic.app.theme import Theme
from dromic.memory import Memo

TILE = 160
MOST_TILES = 64
TILES_AHEAD = 4
# What is written over the highest loads.
LOAD_SPARE = 18.0


@dataclass
class _Tile:
    """A part of a picture, the layout that it was last seen to belong to, and the part of the chart that it shows.

    That is worked out when there is time: without it the tile is not known again in another layout.
    """

    picture: QPixmap
    place: int
    layout: ref[ChartLayout]
    shows: Part | None = None


def _ends(number: int) -> tuple[float, float]:
    return number * TILE, (number + 1) * TILE


def _runs(numbers: Sequence[int]) -> Iterator[tuple[int, int]]:
    """Runs of numbers that follow each other: the first, and how many.

    Examples
    --------
    >>> list(_runs([3, 4, 5, 8]))
    [(3, 3), (8, 1)]
    """
    first = 0
    for at in range(1, len(numbers) + 1):
        if at == len(numbers) or numbers[at] != numbers[at - 1] + 1:
            yield numbers[first], at - first
            first = at


class Tiles:
    """Keeps what does not change while the chart scrolls and notes are chosen.

    Parameters
    ----------
    exact_loads : bool
        Whether these are the tiles of the lanes that show how large loads are, or of all others. Another tempo
        changes the former at once; of the latter only those with a load that was calm and is warm, and so on.
    """

    def __init__(self, *, exact_loads: bool = False) -> None:
        self._kept: OrderedDict[int, _Tile] = OrderedDict()
        self._exact = exact_loads
        self._stamps = Memo(stamped, MOST_STAMPS)
        self._lanes = tuple(lane for lane in LANES if lane.exact_loads is exact_loads)

    def clear(self) -> None:
        """Forget everything: colours have changed."""
        self._kept.clear()

    def _height(self, layout: ChartLayout) -> tuple[float, float]:
        """From where to where tiles reach."""
        bottom = layout.bottom + 8
        return (float(floor(layout.load.top - LOAD_SPARE)), bottom) if self._exact else (0.0, bottom)

    def paint(
        self, painter: QPainter, layout: ChartLayout, theme: Theme, left: float, right: float, ratio: float
    ) -> None:
        """Paint the part of the chart between two places, tile by tile.

        Parameters
        ----------
        painter : QPainter
        layout : ChartLayout
        theme : Theme
        left, right, ratio : float
        """
        if self._exact and not layout.load.height:
            return
        top, _ = self._height(layout)
        numbers = range(int(left // TILE), int(right // TILE) + 1)
        self._make(layout, theme, [one for one in numbers if not self._holds(layout, one, ratio)], ratio)
        for number in numbers:
            tile = self._kept[number]
            wide = round(TILE * ratio)
            part = QRectF(tile.place * wide, 0, wide, tile.picture.height())
            painter.drawPixmap(QPointF(number * TILE, top), tile.picture, part)

    def _shows(self, layout: ChartLayout, number: int) -> Part:
        return layout.part(*_ends(number), exact_loads=self._exact)

    def _holds(self, layout: ChartLayout, number: int, ratio: float) -> bool:
        """Whether a tile is there and shows what it should."""
        tile = self._kept.get(number)
        if tile is None or tile.picture.devicePixelRatio() != ratio:
            return False
        self._kept.move_to_end(number)
        if tile.layout() is layout:
            return True
        if tile.shows is None or tile.shows != self._shows(layout, number):
            return False
        # After another plan most of the chart is as it was.
        tile.layout = ref(layout)
        return True

    def _make(self, layout: ChartLayout, theme: Theme, numbers: Sequence[int], ratio: float) -> None:
        """Draw tiles, those side by side in one go: what lies at an edge belongs to both."""
        for first, count in _runs(numbers):
            strip = self._drawn(layout, theme, first, count, ratio)
            for place in range(count):
                self._kept[first + place] = _Tile(strip, place, ref(layout))
                self._kept.move_to_end(first + place)
        while len(self._kept) > max(MOST_TILES, len(numbers)):
            self._kept.popitem(last=False)

    def draw_ahead(self, layout: ChartLayout, theme: Theme, left: float, right: float, ratio: float) -> bool:
        """Draw one tile that scrolling will need soon; returns whether there may be more to draw.

        Parameters
        ----------
        layout : ChartLayout
        theme : Theme
        left, right, ratio : float
        """
        if self._exact and not layout.load.height:
            return False
        first, last = int(left // TILE), int(right // TILE)
        for number in range(first, last + 1):
            tile = self._kept.get(number)
            if tile is not None and tile.shows is None and tile.layout() is layout:
                tile.shows = self._shows(layout, number)
                return True
        for ahead in range(1, TILES_AHEAD + 1):
            for number in (last + ahead, first - ahead):
                known = self._kept.get(number)
                if 0 <= number * TILE < layout.width and (known is None or known.layout() is not layout):
                    if not self._holds(layout, number, ratio):
                        self._make(layout, theme, [number], ratio)
                    return True
        return False

    def _drawn(self, layout: ChartLayout, theme: Theme, first: int, count: int, ratio: float) -> QPixmap:
        top, bottom = self._height(layout)
        left, wide = first * TILE, count * TILE

        def draw(painter: QPainter) -> None:
            painter.translate(-left, -top)
            part = layout.part(left, left + wide, exact_loads=self._exact)
            paint_lanes(LaneScene(painter, theme, part, self._stamps, ratio), self._lanes)

        return picture_of(wide, bottom - top, ratio, draw)
