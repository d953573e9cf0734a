"""Set-up cards: a small drawing of our own with one sentence beside it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QBrush, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QSizePolicy, QVBoxLayout, QWidget

from dromic.app.theme import Theme
from dromic.practice.session.care import Card

WIDTH, HEIGHT = 84, 56


class Pen:
    """A painter in the colours of a theme, for drawings of `WIDTH` by `HEIGHT`."""

    def __init__(self, painter: QPainter, theme: Theme) -> None:
        self._painter, self._theme = painter, theme

    def line(self, color: str, width: float, *points: tuple[float, float]) -> None:
        """A broken line."""
        self._painter.setBrush(Qt.BrushStyle.NoBrush)
        self._painter.setPen(
            QPen(
                self._theme.color(color),
                width,
                Qt.PenStyle.SolidLine,
                Qt.PenCapStyle.RoundCap,
                Qt.PenJoinStyle.RoundJoin,
            )
        )
        self._painter.drawPolyline(*(QPointF(*point) for point in points))

    def curve(self, color: str, width: float, *points: tuple[float, float]) -> None:
        """A smooth line: a start, then two handles and an end each time."""
        path = QPainterPath(QPointF(*points[0]))
        for at in range(1, len(points) - 2, 3):
            path.cubicTo(*(QPointF(*point) for point in points[at : at + 3]))
        self._painter.setBrush(Qt.BrushStyle.NoBrush)
        self._painter.setPen(QPen(self._theme.color(color), width))
        self._painter.drawPath(path)

    def blob(self, color: str, x: float, y: float, wide: float, high: float) -> None:
        """A filled oval round a middle.

        Parameters
        ----------
        color : str
        x, y, wide, high : float
        """
        self._painter.setPen(Qt.PenStyle.NoPen)
        self._painter.setBrush(QBrush(self._theme.color(color)))
        self._painter.drawEllipse(QRectF(x - wide / 2, y - high / 2, wide, high))

    def shape(self, color: str, *points: tuple[float, float]) -> None:
        """A filled shape."""
        path = QPainterPath(QPointF(*points[0]))
        for point in points[1:]:
            path.lineTo(QPointF(*point))
        self._painter.setPen(Qt.PenStyle.NoPen)
        self._painter.setBrush(QBrush(self._theme.color(color)))
        self._painter.drawPath(path)

    def strings(self, count: int = 4, left: float = 4, right: float = 80) -> None:
        """Strings from side to side.

        Parameters
        ----------
        count : int
        left, right : float
        """
        for number in range(count):
            y = 14 + number * 28 / (count - 1)
            self.line("string", 1.0, (left, y), (right, y))

    def arrow(self, color: str, start: tuple[float, float], end: tuple[float, float]) -> None:
        """An arrow to the right or left.

        Parameters
        ----------
        color : str
        start, end : (float, float)
        """
        way = 1 if end[0] > start[0] else -1
        self.line(color, 1.8, start, end)
        self.line(color, 1.8, (end[0] - 5 * way, end[1] - 4), end, (end[0] - 5 * way, end[1] + 4))


def _palm(pen: Pen) -> None:
    pen.strings()
    pen.line("ink", 3.0, (62, 8), (62, 48))
    pen.blob("warm", 66, 28, 22, 40)
    pen.shape("calm", (34, 24), (44, 26), (36, 33))


def _depth(pen: Pen) -> None:
    for x in (22, 60):
        pen.blob("string", x, 40, 10, 10)
    pen.shape("calm", (30, 6), (54, 6), (42, 44))
    pen.line("accent", 1.6, (8, 36), (76, 36))


def _arm(pen: Pen) -> None:
    pen.strings()
    pen.line("warm", 11.0, (80, 2), (48, 30))
    pen.blob("warm", 44, 33, 17, 14)
    pen.arrow("accent", (34, 48), (12, 48))


def _stretch(pen: Pen) -> None:
    for x in (12, 30, 47, 63, 78):
        pen.line("string", 1.2, (x, 8), (x, 34))
    for x, tip in ((20, 20), (36, 15), (52, 15), (70, 20)):
        pen.line("warm", 6.0, (44, 52), (x, tip))
    pen.arrow("accent", (40, 6), (70, 6))
    pen.arrow("accent", (40, 6), (14, 6))


def _shift(pen: Pen) -> None:
    for x in range(8, 82, 14):
        pen.line("string", 1.2, (x, 10), (x, 36))
    pen.line("ink", 2.0, (4, 36), (80, 36))
    pen.blob("warm", 22, 45, 22, 11)
    pen.arrow("accent", (38, 46), (72, 46))


def _gain(pen: Pen) -> None:
    pen.curve("calm", 2.0, (4, 18), (14, 2), (24, 2), (34, 18), (44, 34), (54, 34), (64, 18))
    pen.line("hot", 2.0, (20, 46), (28, 36), (36, 36), (46, 52), (54, 52), (64, 36), (72, 36), (80, 46))


def _bass(pen: Pen) -> None:
    pen.strings()
    pen.blob("warm", 20, 42, 22, 10)
    pen.line("warm", 6.0, (52, 4), (46, 14), (44, 22))
    pen.line("warm", 6.0, (66, 4), (60, 16), (58, 30))


def _grip(pen: Pen) -> None:
    pen.line("warm", 13.0, (8, 42), (46, 38))
    pen.shape("calm", (36, 20), (58, 30), (62, 52))
    pen.blob("warm", 34, 24, 40, 17)


def _seat(pen: Pen) -> None:
    pen.blob("warm", 40, 9, 12, 12)
    pen.line("warm", 6.0, (40, 18), (40, 36), (58, 36), (58, 52))
    pen.line("ink", 2.4, (28, 12), (28, 38), (52, 38))
    pen.line("accent", 1.6, (50, 20), (34, 20))


def _damper(pen: Pen) -> None:
    pen.strings()
    pen.line("ink", 3.0, (10, 8), (10, 48))
    pen.shape("accent", (18, 6), (28, 6), (28, 50), (18, 50))
    pen.line("warm", 6.0, (64, 52), (58, 24))


DRAWINGS: dict[str, Callable[[Pen], None]] = {
    "palm": _palm,
    "depth": _depth,
    "arm": _arm,
    "stretch": _stretch,
    "shift": _shift,
    "gain": _gain,
    "bass": _bass,
    "grip": _grip,
    "seat": _seat,
    "damper": _damper,
}


class Drawing(QWidget):
    """The drawing of a card."""

    def __init__(self, key: str, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._key, self._theme = key, theme
        self.setFixedSize(WIDTH, HEIGHT)

    def sizeHint(self) -> QSize:
        """As large as it is drawn."""
        return QSize(WIDTH, HEIGHT)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        try:
            DRAWINGS[self._key](Pen(painter, self._theme))
        finally:
            painter.end()


class CardView(QFrame):
    """A card: drawing, title and sentence."""

    def __init__(self, card: Card, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        self.setAccessibleName(f"{card.title}: {card.words}")
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 6, 8, 6)
        row.setSpacing(10)
        row.addWidget(Drawing(card.key, theme))
        words = QVBoxLayout()
        words.setSpacing(1)
        title = QLabel(card.title)
        title.setObjectName("strong")
        sentence = QLabel(card.words)
        sentence.setWordWrap(True)
        sentence.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        words.addWidget(title)
        words.addWidget(sentence)
        words.addStretch(1)
        row.addLayout(words, 1)
