"""A level meter: how loud the input is, and whether it has clipped."""

from __future__ import annotations

import math

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from dromic.app.theme import Theme

LOWEST_DB, GOOD_DB, NEAR_DB = -60.0, -30.0, -6.0
FALL = 0.8


class LevelMeter(QWidget):
    """Shows the peak level of the last moment, falling slowly."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._level, self._clipped = 0.0, False
        self.setAccessibleName("Input level")
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        """A narrow strip."""
        return QSize(190, 26)

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = theme
        self.update()

    def show_level(self, peak: float, clipped: bool) -> None:
        """Show a new level, from 0 to 1."""
        self._level = max(peak, self._level * FALL)
        self._clipped = clipped
        self.setAccessibleDescription(self.words)
        self.update()

    def clear(self) -> None:
        """Nothing is recorded."""
        self._level, self._clipped = 0.0, False
        self.update()

    @property
    def words(self) -> str:
        """The level in words."""
        if self._clipped:
            return "clips: turn the input down"
        if self._decibels < GOOD_DB:
            return "quiet"
        return "good" if self._decibels < NEAR_DB else "close to clipping"

    @property
    def _decibels(self) -> float:
        return 20 * math.log10(max(self._level, 1e-4))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Paint bar and words."""
        painter = QPainter(self)
        try:
            bar = QRectF(0, 3, self.width(), 8)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self._theme.color("faint"))
            painter.drawRoundedRect(bar, 3, 3)
            share = min(max(1 - self._decibels / LOWEST_DB, 0.0), 1.0)
            color = "hot" if self._clipped else "warm" if self._decibels >= NEAR_DB else "calm"
            painter.setBrush(self._theme.color(color))
            painter.drawRoundedRect(QRectF(0, 3, self.width() * share, 8), 3, 3)
            painter.setPen(self._theme.color("hot" if self._clipped else "quiet"))
            font = painter.font()
            font.setPixelSize(12)
            painter.setFont(font)
            painter.drawText(QRectF(0, 12, self.width(), 14), Qt.AlignmentFlag.AlignLeft, self.words)
        finally:
            painter.end()
