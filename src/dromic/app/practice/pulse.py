"""The beat to be seen: a dot for every beat of the bar, the one that sounds filled."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from dromic.app.theme import Theme

RADIUS, STEP = 13.0, 44.0
MOST_DOTS = 12


class Pulse(QWidget):
    """Beats of a bar in a row."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._beats, self._at, self._counted = 4, -1, False
        self.setAccessibleName("Beat")
        self.setFixedHeight(round(2 * RADIUS + 10))
        self.setMinimumWidth(round(STEP * 4))

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = theme
        self.update()

    def show_beat(self, beats: int, at: int, *, counted: bool = False) -> None:
        """Show which beat it is; -1 for none, hollow while it is counted in.

        Parameters
        ----------
        beats, at : int
        counted : bool
        """
        beats = min(max(beats, 1), MOST_DOTS)
        if (beats, at, counted) != (self._beats, self._at, self._counted):
            self._beats, self._at, self._counted = beats, at, counted
            self.setAccessibleDescription(f"beat {at + 1} of {beats}" if at >= 0 else "silent")
            self.setMinimumWidth(round(STEP * beats))
            self.update()

    def sizeHint(self) -> QSize:
        """Room for the dots."""
        return QSize(round(STEP * self._beats), round(2 * RADIUS + 10))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Paint the dots."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        try:
            for beat in range(self._beats):
                here = beat == self._at
                color = self._theme.color("hot" if here and not beat else "accent" if here else "string")
                radius = RADIUS if here or not beat else RADIUS - 4
                painter.setPen(QPen(color, 3.0 if here else 1.4))
                filled = here and not self._counted
                painter.setBrush(color if filled else Qt.BrushStyle.NoBrush)
                painter.drawEllipse(QPointF(RADIUS + 4 + beat * STEP, self.height() / 2), radius, radius)
        finally:
            painter.end()
