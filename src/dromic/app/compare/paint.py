"""Small pictures for comparing: pick paths of whole plans, and effort against ceiling."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QFont, QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from dromic.app.chart.painting import pen
from dromic.app.theme import UI_FONT, Theme
from dromic.planner.plan import Plan

REACH, LEAST_FRETS = 8.0, 9


def paint_path(painter: QPainter, box: QRectF, plan: Plan, theme: Theme, marked: Collection[int] = ()) -> None:
    """Paint the pick's path of a plan into a box, the thick string on top.

    Parameters
    ----------
    painter : QPainter
    box : QRectF
    plan : Plan
    theme : Theme
    marked : collection of int
        Steps to mark.
    """
    strings = plan.instrument.strings
    gap = box.height() / max(strings - 1, 1)
    times = [float(step.moment.played) for step in plan.task.steps]
    last = max(times[-1] - times[0], 1e-6)

    def y(string: int) -> float:
        return box.top() + (strings - string) * gap

    painter.setPen(pen(theme.color("faint"), 0.7))
    for string in range(1, strings + 1):
        painter.drawLine(QPointF(box.left(), y(string)), QPointF(box.right(), y(string)))
    points = QPolygonF()
    dots = []
    for number, (time, state) in enumerate(zip(times, plan.states, strict=True)):
        x = box.left() + (time - times[0]) / last * box.width()
        half = min(gap * 0.42, 5.0)
        way = {"down": half, "up": -half}.get(str(state.stroke), 0.0) if state.sounded else 0.0
        points.append(QPointF(x, y(state.begins) - way))
        points.append(QPointF(x, y(state.ends) + way))
        if number in marked:
            dots.append(QPointF(x, y(state.string)))
    painter.setPen(pen(theme.color("calm"), 1.3))
    painter.drawPolyline(points)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.color("accent"))
    for dot in dots:
        painter.drawEllipse(dot, 3.4, 3.4)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def paint_neck(painter: QPainter, box: QRectF, plan: Plan, theme: Theme) -> None:
    """Paint where on the neck a plan is played: the hand's places as a band, the notes in it.

    Parameters
    ----------
    painter : QPainter
    box : QRectF
    plan : Plan
    theme : Theme
    """
    instrument = plan.instrument
    spots, strings = instrument.spots, instrument.strings
    highest = max([note.fret for event in plan.events for note in event.notes] + [LEAST_FRETS])
    last = min(highest + 1, instrument.top_fret)

    def x(mm: float) -> float:
        return box.left() + (mm - float(spots[0])) / float(spots[last] - spots[0]) * box.width()

    gap = box.height() / max(strings - 1, 1)
    low = min(state.position for state in plan.states)
    high = max(state.position for state in plan.states)
    start, end = x(float(spots[low - 1])), min(x(float(spots[high]) + plan.hand_mm), box.right())
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.color("ribbon"))
    painter.drawRoundedRect(QRectF(start, box.top() - 2, end - start, box.height() + 4), 3, 3)
    painter.setPen(pen(theme.color("faint"), 0.7))
    for string in range(strings):
        painter.drawLine(
            QPointF(box.left(), box.top() + string * gap), QPointF(box.right(), box.top() + string * gap)
        )
    painter.setPen(pen(theme.color("ink"), 2.0))
    painter.drawLine(box.topLeft(), box.bottomLeft())
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.color("calm"))
    places = {(note.string, note.fret) for event in plan.events for note in event.notes}
    for string, fret in places:
        at = (x(float(spots[fret - 1])) + x(float(spots[fret]))) / 2 if fret else box.left() + 1.5
        painter.drawEllipse(QPointF(at, box.top() + (strings - string) * gap), 2.0, 2.0)
    painter.setBrush(Qt.BrushStyle.NoBrush)


class PathStrip(QWidget):
    """The pick path of one plan with a caption, notes marked."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._plan: Plan | None = None
        self._caption, self._marked = "", frozenset[int]()
        self.setMinimumHeight(84)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def show_plan(self, plan: Plan | None, caption: str, marked: Collection[int], theme: Theme) -> None:
        """Show another plan.

        Parameters
        ----------
        plan : Plan or None
        caption : str
        marked : collection of int
        theme : Theme
        """
        self._plan, self._caption, self._marked, self._theme = plan, caption, frozenset(marked), theme
        self.setAccessibleName(caption)
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Paint caption and path."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        font = QFont(UI_FONT)
        font.setPixelSize(13)
        painter.setFont(font)
        painter.setPen(self._theme.color("quiet"))
        painter.drawText(QPointF(2, 13), self._caption)
        if self._plan is not None:
            box = QRectF(8, 26, self.width() - 16.0, self.height() - 36.0)
            paint_path(painter, box, self._plan, self._theme, self._marked)
        painter.end()


@dataclass(frozen=True)
class Point:
    """A plan in the scatter: its row, and where it lies."""

    row: int
    title: str
    effort: float
    ceiling: float


class Scatter(QWidget):
    """Effort against ceiling: good plans lie to the left and up.

    Signals
    -------
    picked : int
        CompareRow of the plan that was clicked.
    """

    picked = pyqtSignal(int)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._points: tuple[Point, ...] = ()
        self._chosen, self._across = -1, "ceiling"
        self.setMinimumSize(250, 190)
        self.setMouseTracking(True)
        self.setAccessibleName("Effort against ceiling")

    def show_points(self, points: Sequence[Point], chosen: int, theme: Theme, across: str = "ceiling") -> None:
        """Show other plans, and say which ceiling is meant.

        Parameters
        ----------
        points : sequence of Point
        chosen : int
        theme : Theme
        across : str
        """
        self._points, self._chosen, self._theme, self._across = tuple(points), chosen, theme, across
        self.update()

    def _box(self) -> QRectF:
        return QRectF(46, 24, self.width() - 62.0, self.height() - 64.0)

    def _place(self, point: Point) -> QPointF:
        box = self._box()
        efforts, ceilings = [one.effort for one in self._points], [one.ceiling for one in self._points]

        def share(value: float, some: list[float]) -> float:
            low, high = min(some), max(some)
            return 0.5 if high - low < 1e-9 else 0.06 + 0.88 * (value - low) / (high - low)

        return QPointF(
            box.left() + share(point.effort, efforts) * box.width(),
            box.bottom() - share(point.ceiling, ceilings) * box.height(),
        )

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Paint axes and points."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box, theme = self._box(), self._theme
        font = QFont(UI_FONT)
        font.setPixelSize(12)
        painter.setFont(font)
        painter.setPen(pen(theme.color("faint"), 1.0))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        painter.drawLine(box.bottomLeft(), box.topLeft())
        painter.setPen(theme.color("quiet"))
        painter.drawText(QPointF(box.left(), self.height() - 8), "effort: less is easier")
        painter.drawText(QPointF(4, 10), self._across)
        if self._points:
            self._paint_ends(painter, box)
        for point in self._points:
            at = self._place(point)
            chosen = point.row == self._chosen
            painter.setPen(pen(theme.color("ink" if chosen else "sheet"), 1.6))
            painter.setBrush(theme.color("accent" if chosen else "calm"))
            painter.drawEllipse(at, 6.0 if chosen else 4.6, 6.0 if chosen else 4.6)
        painter.end()

    def _paint_ends(self, painter: QPainter, box: QRectF) -> None:
        efforts, ceilings = [point.effort for point in self._points], [point.ceiling for point in self._points]
        right = Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(0, box.top() - 2, 42, 16), right, f"{max(ceilings):.0f}")
        painter.drawText(QRectF(0, box.bottom() - 15, 42, 16), right, f"{min(ceilings):.0f}")
        painter.drawText(QPointF(box.left(), box.bottom() + 15), f"{min(efforts):.2f}")
        painter.drawText(QRectF(box.right() - 60, box.bottom() + 3, 60, 16), right, f"{max(efforts):.2f}")

    def _nearest(self, place: QPointF) -> Point | None:
        near = [(point, (self._place(point) - place).manhattanLength()) for point in self._points]
        near = [one for one in near if one[1] <= 2 * REACH]
        return min(near, key=lambda one: one[1])[0] if near else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Choose the plan that was clicked."""
        point = self._nearest(event.position()) if event is not None else None
        if point is not None:
            self.picked.emit(point.row)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Say which plan a point is."""
        point = self._nearest(event.position()) if event is not None else None
        if event is not None and point is not None:
            words = f"{point.title}\n{self._across} {point.ceiling:.0f}, effort {point.effort:.2f}"
            QToolTip.showText(event.globalPosition().toPoint(), words, self)
