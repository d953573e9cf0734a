"""The stage rail at the left edge: one button a stage, in the order of the work."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QLabel,
    QScrollArea,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from dromic.app.stages import STAGES

WIDTH, LEAST_HEIGHT = 92, 120
LAST_KEY = 9


class StageRail(QScrollArea):
    """Shows which stage is open, and opens others; scrolls where the window is too low for all of them.

    Signals
    -------
    chosen : int
    """

    chosen = pyqtSignal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("railroom")
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Preferred)
        self._buttons = QButtonGroup(self)
        rail = QWidget()
        rail.setObjectName("rail")
        rail.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(rail)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        name = QLabel("dromic")
        name.setObjectName("name")
        name.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.addWidget(name)
        for index, stage in enumerate(STAGES):
            button = QToolButton()
            button.setObjectName("stage")
            button.setText(stage.title)
            button.setCheckable(True)
            button.setMinimumWidth(WIDTH)
            button.setSizePolicy(QSizePolicy.Policy.Minimum, QSizePolicy.Policy.Fixed)
            button.setToolTip(f"{stage.title} (Ctrl+{index + 1})" if index < LAST_KEY else stage.title)
            self._buttons.addButton(button, index)
            if stage.apart:
                column.addStretch(1)
            column.addWidget(button)
        self._buttons.idClicked.connect(self.chosen)
        column.addSpacing(10)
        self.setWidget(rail)
        self.setWidgetResizable(True)

    def sizeHint(self) -> QSize:
        """As wide as its widest name, at any size of the text."""
        rail = self.widget()
        return QSize(WIDTH if rail is None else max(rail.sizeHint().width(), WIDTH), LEAST_HEIGHT)

    def minimumSizeHint(self) -> QSize:
        """As wide; in a low window its end is scrolled to."""
        return self.sizeHint()

    def show_stage(self, index: int) -> None:
        """Mark a stage as the open one."""
        button = self._buttons.button(index)
        if button is not None:
            button.setChecked(True)
            self.ensureWidgetVisible(button, 0, 0)
