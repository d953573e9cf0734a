"""The whole riff in one strip: loads, the pick's path, phrases, locks, spots, and the part that shows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QHelpEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from dromic.app.chart.painting import pen, pixel_font
from dromic.app.theme import Theme
from dromic.arrays import Floats
from dromic.planner.plan import Plan

HEIGHT, NAMES, HEAT, EDGE = 46, 13, 8, 3.0
LEAST_FRAME, LEAST_NAME, MARK_REACH = 8.0, 26.0, 6.0


@dataclass(frozen=True)
class RiffSeenWhole:
    """What of a plan the strip shows, by time in quarter notes.

    Parameters
    ----------
    start, end : float
        Of the whole riff.
    onsets, loads, strings : ndarray, shape (notes,)
        When each note begins, the largest load on the way to it, and its string from the thickest, 0.
    most_strings : int
    phrases : sequence of (float, str)
        Where phrases begin, and their names.
    locks, spots : sequence of float
        Notes with a decision of the player's, and those that hold the plan back.
    """

    start: float
    end: float
    onsets: Floats
    loads: Floats
    strings: Floats
    most_strings: int
    phrases: Sequence[tuple[float, str]]
    locks: Sequence[float]
    spots: Sequence[float]

    @staticmethod
    def of(plan: Plan) -> RiffSeenWhole:
        """What there is of a plan."""
        steps, instrument = plan.task.steps, plan.instrument
        onsets = [float(step.moment.played) for step in steps]
        places = {(0, 0)}
        phrases: list[tuple[float, str]] = []
        for index, step in enumerate(steps):
            place = step.moment.phrase, step.moment.pass_number
            if index == 0 or place not in places:
                places.add(place)
                name = plan.riff.phrases[step.moment.phrase].name or ""
                phrases.append((onsets[index], name))
        hold = {limit.end for limit in plan.limits}
        return RiffSeenWhole(
            0.0,
            float(plan.events[-1].moment.ends),
            np.array(onsets),
            np.array([plan.event_of_step(step).loads.largest for step in range(len(steps))]),
            np.array([instrument.index(state.string) for state in plan.states], dtype=np.float64),
            instrument.strings,
            phrases,
            [
                at
                for at, step in zip(onsets, steps, strict=True)
                if step.locks.stroke or step.locks.finger or step.locks.position
            ],
            [at for at, step in zip(onsets, steps, strict=True) if step.moment.index in hold],
        )


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
        self._whole = None if plan is None else RiffSeenWhole.of(plan)
        self._forget()

    def set_view(self, tempo_ratio: float, *, thick_on_top: bool) -> None:
        """Show loads as they would be at another tempo, and the strings as the chart has them."""
        if (tempo_ratio, thick_on_top) != (self._tempo_ratio, self._thick_on_top):
            self._tempo_ratio, self._thick_on_top = tempo_ratio, thick_on_top
            self._forget()

    def set_seen(self, start: float, end: float) -> None:
        """Say which part the chart shows."""
        self._seen = start, end
        plan = self._plan
        if plan is not None:
            bars = [event.moment.bar for event in plan.events if start <= float(event.moment.played) <= end]
            last = plan.events[-1].moment.bar
            shows = f"bars {bars[0]} to {bars[-1]} of {last} show" if bars else f"{last} bars"
            self.setAccessibleDescription(shows)
        self.update()

    def _forget(self) -> None:
        self._picture = None
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
            painter.drawPixmap(0, 0, self._picture)
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
            self._paint_heat(painter, whole)
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

    def _paint_heat(self, painter: QPainter, whole: RiffSeenWhole) -> None:
        """The largest load of what lies in each pixel, from note to note."""
        wide = max(int(self.width() - 2 * EDGE), 1)
        span = max(whole.end - whole.start, 1e-9)
        first = np.clip(((whole.onsets - whole.start) / span * wide).astype(int), 0, wide - 1)
        heat = np.zeros(wide)
        np.maximum.at(heat, first, whole.loads * self._tempo_ratio)
        # A note lasts until the next one: what lies between has its load too.
        has = np.zeros(wide, dtype=bool)
        has[first] = True
        latest = np.maximum.accumulate(np.where(has, np.arange(wide), 0))
        heat = np.where(has, heat, heat[latest])
        painter.setPen(Qt.PenStyle.NoPen)
        top = HEIGHT - HEAT - 2
        changes = np.flatnonzero(np.r_[True, np.abs(np.diff(heat)) > 1e-9, True])
        for start, stop in pairwise(changes.tolist()):
            load = float(heat[start])
            color = QColor(self._theme.load(load))
            # Harder is also higher, so that it does not hang on the colour.
            color.setAlpha(70 + round(185 * min(load, 1.0)))
            high = HEAT * (0.35 + 0.65 * min(load, 1.0))
            painter.fillRect(QRectF(EDGE + start, top + HEAT - high, stop - start, high), color)

    def _paint_path(self, painter: QPainter, whole: RiffSeenWhole) -> None:
        top, bottom = NAMES + 3.0, HEIGHT - HEAT - 6.0
        places = whole.strings / max(whole.most_strings - 1, 1)
        places = places if self._thick_on_top else 1.0 - places
        points = [
            QPointF(self.place_of(float(at)), top + float(place) * (bottom - top))
            for at, place in zip(whole.onsets, places, strict=True)
        ]
        wide = max(int(self.width()), 1)
        if len(points) > 3 * wide:
            points = points[:: len(points) // (2 * wide)]
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
            moments = [one.moment for one in self._plan.events if float(one.moment.played) <= at + 1e-9]
            bar = moments[-1].bar if moments else 1
            QToolTip.showText(event.globalPos(), f"bar {bar}; click to go there", self)
            return True
        return super().event(event)
