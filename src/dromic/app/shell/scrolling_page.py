"""A page that scrolls where the window is too small for it."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import QFrame, QScrollArea, QWidget

LEAST = QSize(300, 200)


class ScrollingPage(QScrollArea):
    """Shows a page whole where there is room, else with bars.

    Parameters
    ----------
    page : QWidget
    """

    def __init__(self, page: QWidget) -> None:
        super().__init__()
        self.setObjectName("bare")
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setWidgetResizable(True)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setWidget(page)

    def minimumSizeHint(self) -> QSize:
        """However large the page is, the window may be small."""
        return LEAST
