"""A chart that scrolls and zooms: which part of a riff shows, and how large."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QAbstractScrollArea, QWidget

from dromic.app.chart.frame import MARGIN
from dromic.app.chart.lanes import chart_layout
from dromic.app.chart.layout import PLAIN_VIEW, ChartLayout, default_zoom
from dromic.app.chart.painting import GUTTER
from dromic.planner.plan import Plan

LEAST_ZOOM, MOST_ZOOM = 0.2, 1200.0
SHORT = 0.7


class ZoomedChart(QAbstractScrollArea):
    """Lays a plan out and shows a part of it; what it paints is its heir's.

    Signals
    -------
    moved : no argument
        Another part of the riff shows.
    """

    moved = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._plan: Plan | None = None
        self._layout: ChartLayout | None = None
        self._view = PLAIN_VIEW
        self._zoom, self._size, self._fitted = 120.0, 1.0, False

    @property
    def chart_layout(self) -> ChartLayout | None:
        """Geometry of what is shown."""
        return self._layout

    def zoom_by(self, factor: float, around: float | None = None) -> None:
        """Zoom, keeping a place of the viewport where it is."""
        if self._layout is None:
            return
        self._fitted = False
        around = self.viewport_width / 2 if around is None else around
        quarters = (around - GUTTER + self._scrolled - self._layout.x(0)) / self._zoom
        self._zoom = min(max(self._zoom * factor, LEAST_ZOOM), MOST_ZOOM)
        self._arrange()
        self._scroll_to(self._layout.x(0) + quarters * self._zoom - around + GUTTER)

    def fit(self) -> None:
        """Zoom so that the whole riff shows."""
        if self._layout is not None:
            margins = 2 * MARGIN
            self.zoom_by((self.viewport_width - GUTTER - margins) / (self._layout.width - margins))
            self._fitted = True

    def fit_short(self) -> None:
        """Zoom so that a short riff shows whole; a longer one as usual, from its start."""
        if self._layout is not None and self._plan is not None:
            usual = default_zoom(self._plan)
            self.fit()
            self._fitted = False
            if not SHORT * usual <= self._zoom <= usual:
                self.zoom_by(usual / self._zoom)
                self._scroll_to(0)

    @property
    def seen(self) -> tuple[float, float]:
        """From where to where the riff shows, in quarter notes."""
        layout = self._layout
        if layout is None:
            return 0.0, 0.0
        left, right = self._scrolled, self._scrolled + self.viewport_width - GUTTER
        start, end = ((x - layout.x(0)) / layout.zoom for x in (left, right))
        return max(start, 0.0), end

    def steps_seen(self) -> range:
        """The notes that show."""
        if self._layout is None:
            return range(0)
        near = self._layout.columns_between(self._scrolled, self._scrolled + self.viewport_width - GUTTER)
        return range(near[0].step, near[-1].step + 1) if near else range(0)

    def go_to(self, quarters: float) -> None:
        """Bring a time into the middle."""
        if self._layout is not None:
            self._scroll_to(self._layout.x(quarters) - (self.viewport_width - GUTTER) / 2)

    @property
    def viewport_width(self) -> int:
        """Width of what shows, the labels included, in the chart's own pixels."""
        port = self.viewport()
        return round(port.width() / self._size) if port is not None else 0

    @property
    def _scrolled(self) -> int:
        bar = self.horizontalScrollBar()
        return bar.value() if bar is not None else 0

    def _scroll_to(self, value: float) -> None:
        bar = self.horizontalScrollBar()
        if bar is not None:
            bar.setValue(round(value))

    def _repaint(self) -> None:
        port = self.viewport()
        if port is not None:
            port.update()

    def _arrange(self) -> None:
        port, bar = self.viewport(), self.horizontalScrollBar()
        if port is None or bar is None:
            return
        self._layout = None
        if self._plan is not None:
            height = port.height() / self._size - 12
            self._layout = chart_layout(self._plan, self._zoom, height, self._view)
            bar.setRange(0, max(0, round(self._layout.width - self.viewport_width + GUTTER)))
            bar.setPageStep(max(self.viewport_width - GUTTER, 1))
            bar.setSingleStep(40)
        else:
            bar.setRange(0, 0)
        self._repaint()
        self.moved.emit()

    def scrollContentsBy(self, dx: int, dy: int) -> None:
        """Tell that another part shows."""
        super().scrollContentsBy(dx, dy)
        self.moved.emit()

    def _show(self, step: int) -> None:
        if self._layout is None:
            return
        x, room = self._layout.columns[step].x, self.viewport_width - GUTTER
        if x < self._scrolled + 40:
            self._scroll_to(x - room * 0.25)
        elif x > self._scrolled + room - 70:
            self._scroll_to(x - room * 0.75)

    def step_at(self, place: QPointF) -> int | None:
        """Return the note nearest to a place of the viewport, or None left of the chart."""
        x = place.x() / self._size - GUTTER
        if self._layout is None or x < 0:
            return None
        return self._layout.columns[self._layout.nearest(x + self._scrolled)].step

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Lay out again at the new size."""
        super().resizeEvent(event)
        self._arrange()
        if self._fitted:
            self.fit()
