"""A ring around what has the keys, the same around everything, so that it is never lost from sight."""

from __future__ import annotations

from PyQt6 import sip
from PyQt6.QtCore import QEvent, QObject, QPoint, QRect, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLineEdit,
    QScrollBar,
    QWidget,
)

from dromic.app.chart.painting import pen
from dromic.app.theme import Theme

ROOM = 3
# These show it by themselves, strongly.
SEEN = ("start",)
_RINGED = (QAbstractButton, QAbstractSlider, QAbstractSpinBox, QComboBox, QLineEdit)
_FOLLOWED = (
    QEvent.Type.Move,
    QEvent.Type.Resize,
    QEvent.Type.Show,
    QEvent.Type.Hide,
    QEvent.Type.EnabledChange,
)


class FocusRing(QWidget):
    """Lies over a window and is drawn around the widget in it that has the keys.

    Large views, which show it themselves, have none.

    Parameters
    ----------
    window : QWidget
    theme : Theme
    """

    def __init__(self, window: QWidget, theme: Theme) -> None:
        super().__init__(window)
        self._window, self._theme = window, theme
        self._followed: list[QWidget] = []
        self._around: QWidget | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.hide()
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.focusChanged.connect(self._turn)

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = theme
        self.update()

    def _turn(self, _old: QWidget | None, now: QWidget | None) -> None:
        """Something else has the keys."""
        if sip.isdeleted(self):
            return
        for widget in self._followed:
            # What had the keys may be gone by now, with all that it lay in.
            if not sip.isdeleted(widget):
                widget.removeEventFilter(self)
        self._followed, self._around = [], None
        ringed = isinstance(now, _RINGED) and not isinstance(now, QScrollBar) and now.objectName() not in SEEN
        if now is not None and ringed and now.window() is self._window:
            self._around = now
            at: QWidget | None = now
            while at is not None and at is not self._window:
                at.installEventFilter(self)
                self._followed.append(at)
                at = at.parentWidget()
        self._place()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Go with what it is around."""
        if event is not None and event.type() in _FOLLOWED and not sip.isdeleted(self):
            self._place()
        return super().eventFilter(watched, event)

    def _place(self) -> None:
        around = self._around
        if around is not None and sip.isdeleted(around):
            around = self._around = None
        if around is None or not around.isVisible() or around.visibleRegion().isEmpty():
            self.hide()
            return
        seen = around.visibleRegion().boundingRect()
        corner = around.mapTo(self._window, QPoint(0, 0))
        self.setGeometry(QRect(seen.translated(corner)).adjusted(-ROOM, -ROOM, ROOM, ROOM))
        self.raise_()
        self.show()
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Draw the ring."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(pen(self._theme.color("accent"), 2.0))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 5, 5)
        painter.end()
