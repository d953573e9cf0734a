"""A row of controls that slides sideways where the window is too narrow for it."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, QSize, Qt
from PyQt6.QtGui import QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QApplication, QFrame, QScrollArea, QSizePolicy, QWidget

LEAST_WIDTH = 240


class SlidingRow(QScrollArea):
    """Shows a row whole where there is room; else by wheel, bar, or wherever the focus goes.

    Parameters
    ----------
    row : QWidget
        Hidden and shown as before, by itself.
    """

    def __init__(self, row: QWidget) -> None:
        super().__init__()
        self._row = row
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setWidgetResizable(True)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setObjectName("sliding")
        hidden = row.isHidden() and row.testAttribute(Qt.WidgetAttribute.WA_WState_ExplicitShowHide)
        self.setWidget(row)
        row.setAutoFillBackground(False)
        row.setVisible(not hidden)
        self._come_and_go(shown=not hidden)
        row.installEventFilter(self)
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.focusChanged.connect(self._follow)

    def sizeHint(self) -> QSize:
        """As high as the row, and its bar where there is one."""
        return QSize(self._row.sizeHint().width(), self._height())

    def minimumSizeHint(self) -> QSize:
        """Narrower than the row."""
        return QSize(min(self._row.minimumSizeHint().width(), LEAST_WIDTH), self._height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Make room for the bar when it comes."""
        super().resizeEvent(event)
        self.updateGeometry()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Slide sideways."""
        bar = self.horizontalScrollBar()
        if event is None or bar is None or not self._slides():
            super().wheelEvent(event)
            return
        bar.setValue(bar.value() - (event.angleDelta().y() or event.angleDelta().x()))
        event.accept()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Come and go with the row."""
        if event is not None and event.type() in (QEvent.Type.HideToParent, QEvent.Type.ShowToParent):
            self._come_and_go(shown=event.type() == QEvent.Type.ShowToParent)
        elif event is not None and event.type() == QEvent.Type.LayoutRequest:
            self.updateGeometry()
        return super().eventFilter(watched, event)

    def _come_and_go(self, *, shown: bool) -> None:
        if shown and self.parentWidget() is None:
            # Shown now it would be a window of its own; it comes with what it is put into.
            self.setAttribute(Qt.WidgetAttribute.WA_WState_ExplicitShowHide, on=False)
        else:
            self.setVisible(shown)

    def _slides(self) -> bool:
        return self._row.minimumSizeHint().width() > self.width()

    def _height(self) -> int:
        bar = self.horizontalScrollBar()
        extra = bar.sizeHint().height() + 2 if bar is not None and self._slides() else 0
        return self._row.minimumSizeHint().height() + extra

    def _follow(self, _old: QWidget | None, new: QWidget | None) -> None:
        if new is not None and self._row.isAncestorOf(new):
            self.ensureWidgetVisible(new, 24, 0)
