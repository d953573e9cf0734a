"""The whole riff in one strip: loads, the pick's path, phrases, locks, spots, and the part that shows."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QHelpEvent,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from dromic.app.chart.measures import BarMeasure, measures_of
from dromic.app.chart.painting import pen, pixel_font
from dromic.app.chart.seen_whole import RiffSeenWhole, seen_whole
from dromic.app.heat import heat
from dromic.app.theme import HEATS, Theme
from dromic.planner.plan import Plan

HEIGHT, NAMES, HEAT, EDGE = 46, 13, 8, 3.0
LEAST_FRAME, LEAST_NAME, MARK_REACH = 8.0, 26.0, 6.0


def _bar_at(bars: Sequence[BarMeasure], quarters: float) -> BarMeasure:
    """The bar that a time lies in."""
    return bars[max(bisect_right(bars, quarters + 1e-9, key=lambda bar: bar.start) - 1, 0)]


class OverviewStrip(QWidget):
    """Shows the whole riff, however long, and goes where it is clicked.

    Signals
    -------
    went : float
        A time in quarter notes to bring into the middle.
    spot_wanted : float
        The time of a spot that holds the tempo back, whose mark was clicked.
    """

    went = pyqtSignal(float)
    spot_wanted = pyqtSignal(float)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("Overview of the riff")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(HEIGHT)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setWhatsThis(
            "The whole riff at once. The line is the pick on its way over the strings, the row below it the loads: "
            "the darker or warmer, the harder. Marks above are your locks, those below hold the tempo back. The "
            "frame is what the chart shows; click or drag to go elsewhere."
        )
        self._theme = theme
        self._plan: Plan | None = None
        self._whole: RiffSeenWhole | None = None
        self._seen = (0.0, 0.0)
        self._tempo_ratio = 1.0
        self._thick_on_top = True
        self._picture: QPixmap | None = None
        self._heat: QImage | None = None
        self._stale = False
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(0)
        self._later.timeout.connect(self._forget)

    def sizeHint(self) -> QSize:
        """As wide as there is room."""
        return QSize(300, HEIGHT)

    @property
    def seen(self) -> tuple[float, float]:
        """From where to where the chart shows the riff, in quarter notes."""
        return self._seen

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = theme
        self._forget()

    def set_plan(self, plan: Plan | None) -> None:
        """Show another plan."""
        if plan is not None and self._plan is not None and plan.states is self._plan.states:
            self._plan = plan
            return
        self._plan, self._tempo_ratio = plan, 1.0
        before, self._whole = self._whole, None if plan is None else seen_whole(plan)
        if before is None or self._whole is None:
            self._forget()
        else:
            self._stale, self._heat = True, None
            self.update()

    def set_view(self, tempo_ratio: float, *, thick_on_top: bool) -> None:
        """Show loads as they would be at another tempo, and the strings as the chart has them."""
        if thick_on_top != self._thick_on_top:
            self._thick_on_top = thick_on_top
            self._forget()
        if tempo_ratio != self._tempo_ratio:
            self._tempo_ratio, self._heat = tempo_ratio, None
            self.update()

    def set_seen(self, start: float, end: float) -> None:
        """Say which part the chart shows."""
        self._seen = start, end
        plan = self._plan
        if plan is not None:
            bars = measures_of(plan).bars
            first, last = (_bar_at(bars, at) for at in (start, end))
            self.setAccessibleDescription(f"bars {first.number} to {last.number} of {bars[-1].number} show")
        self.update()

    def _forget(self) -> None:
        self._picture = self._heat = None
        self._stale = False
        self.update()

    # -- places ---------------------------------------------------------------------------------------------------

    def place_of(self, quarters: float) -> float:
        """Place of a time."""
        whole = self._whole
        if whole is None or whole.end <= whole.start:
            return EDGE
        return EDGE + (quarters - whole.start) / (whole.end - whole.start) * (self.width() - 2 * EDGE)

    def time_at(self, x: float) -> float:
        """Time at a place."""
        whole = self._whole
        if whole is None:
            return 0.0
        share = (x - EDGE) / max(self.width() - 2 * EDGE, 1.0)
        return whole.start + min(max(share, 0.0), 1.0) * (whole.end - whole.start)

    # -- painting -------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the strip, and the frame around what shows."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        try:
            if self._whole is None:
                painter.fillRect(self.rect(), self._theme.color("sheet"))
                return
            if self._picture is None or self._picture.devicePixelRatio() != self.devicePixelRatioF():
                self._picture = self._drawn(self._whole)
            elif self._stale:
                # What was shown before shows on until the chart has been painted.
                self._later.start()
            painter.drawPixmap(0, 0, self._picture)
            if self._heat is None:
                self._heat = self._heat_drawn(self._whole)
            painter.drawImage(QPointF(EDGE, HEIGHT - HEAT - 2), self._heat)
            self._paint_frame(painter)
        finally:
            painter.end()

    def _drawn(self, whole: RiffSeenWhole) -> QPixmap:
        ratio = self.devicePixelRatioF()
        picture = QPixmap(round(self.width() * ratio), round(HEIGHT * ratio))
        picture.setDevicePixelRatio(ratio)
        picture.fill(self._theme.color("sheet"))
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        try:
            self._paint_phrases(painter, whole)
            self._paint_path(painter, whole)
            self._paint_marks(painter, whole)
        finally:
            painter.end()
        return picture

    def _paint_phrases(self, painter: QPainter, whole: RiffSeenWhole) -> None:
        painter.setFont(pixel_font(11))
        metrics = painter.fontMetrics()
        ends = [*(at for at, _ in whole.phrases[1:]), whole.end]
        free = 0.0
        for (at, name), end in zip(whole.phrases, ends, strict=True):
            x, room = self.place_of(at), self.place_of(end) - max(self.place_of(at), free)
            if at > whole.start:
                painter.setPen(pen(self._theme.color("string"), 1.0))
                painter.drawLine(QPointF(x, 2), QPointF(x, HEIGHT - 2))
            if name and room >= LEAST_NAME:
                words = metrics.elidedText(name, Qt.TextElideMode.ElideRight, int(room - 6))
                painter.setPen(self._theme.color("accent"))
                painter.drawText(QPointF(max(x, free) + 3, NAMES - 2), words)
                free = max(x, free) + 3 + metrics.horizontalAdvance(words)

    def _heat_drawn(self, whole: RiffSeenWhole) -> QImage:
        """The largest load of what lies in each pixel, from note to note: one picture, made in one go."""
        wide = max(int(self.width() - 2 * EDGE), 1)
        span = max(whole.end - whole.start, 1e-9)
        first = np.clip(((whole.onsets - whole.start) / span * wide).astype(int), 0, wide - 1)
        loads = np.zeros(wide)
        np.maximum.at(loads, first, whole.loads * self._tempo_ratio)
        # A note lasts until the next one: what lies between has its load too.
        has = np.zeros(wide, dtype=bool)
        has[first] = True
        latest = np.maximum.accumulate(np.where(has, np.arange(wide), 0))
        loads = np.where(has, loads, loads[latest])
        colors = [self._theme.color(name) for name in HEATS]
        shades = np.array([(color.red(), color.green(), color.blue()) for color in colors])
        of = np.array([heat(load) for load in loads.tolist()])
        # Harder is also higher and fuller, so that it does not hang on the colour.
        share = np.minimum(loads, 1.0)
        high, alpha = HEAT * (0.35 + 0.65 * share), 70 + np.round(185 * share)
        covered = np.clip(high - np.arange(HEAT - 1, -1, -1)[:, None], 0.0, 1.0)
        pixels = np.empty((HEAT, wide, 4), dtype=np.uint8)
        pixels[..., :3] = shades[of]
        pixels[..., 3] = alpha * covered
        data = pixels.tobytes()
        return QImage(data, wide, HEAT, 4 * wide, QImage.Format.Format_RGBA8888).copy()

    def _paint_path(self, painter: QPainter, whole: RiffSeenWhole) -> None:
        top, bottom = NAMES + 3.0, HEIGHT - HEAT - 6.0
        places = whole.strings / max(whole.most_strings - 1, 1)
        places = places if self._thick_on_top else 1.0 - places
        every = max(len(places) // (2 * max(int(self.width()), 1)), 1)
        points = [
            QPointF(self.place_of(at), top + place * (bottom - top))
            for at, place in zip(whole.onsets[::every].tolist(), places[::every].tolist(), strict=True)
        ]
        painter.setPen(pen(self._theme.color("calm", 190), 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF(points))

    def _paint_marks(self, painter: QPainter, whole: RiffSeenWhole) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._theme.color("accent"))
        for at in whole.locks:
            x = self.place_of(at)
            painter.drawPolygon(QPolygonF([QPointF(x - 3, NAMES), QPointF(x + 3, NAMES), QPointF(x, NAMES + 5)]))
        painter.setBrush(self._theme.color("hot"))
        for at in whole.spots:
            x, y = self.place_of(at), HEIGHT - 0.5
            painter.drawPolygon(QPolygonF([QPointF(x - 3.5, y), QPointF(x + 3.5, y), QPointF(x, y - 6)]))

    def _paint_frame(self, painter: QPainter) -> None:
        left, right = self.place_of(self._seen[0]), self.place_of(self._seen[1])
        if right - left < LEAST_FRAME:
            middle = (left + right) / 2
            left, right = middle - LEAST_FRAME / 2, middle + LEAST_FRAME / 2
        left, right = max(left, 1.0), min(right, self.width() - 1.0)
        painter.setPen(pen(self._theme.color("accent"), 1.6))
        painter.setBrush(self._theme.color("chosen", 60))
        painter.drawRoundedRect(QRectF(left, 1.5, right - left, HEIGHT - 3), 4, 4)

    # -- Qt ---------------------------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Draw anew at the new width."""
        super().resizeEvent(event)
        self._forget()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Go where it is clicked."""
        whole = self._whole
        if event is None or event.button() is not Qt.MouseButton.LeftButton or whole is None:
            return
        x, y = event.position().x(), event.position().y()
        self.went.emit(self.time_at(x))
        near = [at for at in whole.spots if abs(self.place_of(at) - x) <= MARK_REACH]
        if near and y >= HEIGHT - HEAT - 4:
            self.spot_wanted.emit(min(near, key=lambda at: abs(self.place_of(at) - x)))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Go on while it is dragged."""
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton and self._whole is not None:
            self.went.emit(self.time_at(event.position().x()))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Move on by a part of what shows."""
        if event is None or self._whole is None:
            return
        turned = event.angleDelta().y() or event.angleDelta().x()
        start, end = self._seen
        self.went.emit((start + end) / 2 - turned / 120 * (end - start) / 4)
        event.accept()

    def event(self, event: QEvent | None) -> bool:
        """Tell which bar lies under the pointer."""
        if isinstance(event, QHelpEvent) and event.type() is QEvent.Type.ToolTip and self._plan is not None:
            at = self.time_at(event.pos().x())
            bar = _bar_at(measures_of(self._plan).bars, at)
            QToolTip.showText(event.globalPos(), f"bar {bar.number}; click to go there", self)
            return True
        return super().event(event)
