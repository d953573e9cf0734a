"""The stage rail at the left edge: one button a stage, in the order of the work."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QLabel, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from dromic.app.shell.menus import STAGES

WIDTH = 92


class StageRail(QWidget):
    """Shows which stage is open, and opens others.

    Signals
    -------
    chosen : int
    """

    chosen = pyqtSignal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("rail")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setMinimumWidth(WIDTH)
        self.setSizePolicy(QSizePolicy.Policy.Minimum, QSizePolicy.Policy.Preferred)
        self._buttons = QButtonGroup(self)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        name = QLabel("dromic")
        name.setObjectName("name")
        name.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.addWidget(name)
        for index, title in enumerate(STAGES):
            button = QToolButton()
            button.setObjectName("stage")
            button.setText(title)
            button.setCheckable(True)
            button.setMinimumWidth(WIDTH)
            button.setSizePolicy(QSizePolicy.Policy.Minimum, QSizePolicy.Policy.Fixed)
            button.setToolTip(f"{title} (Ctrl+{index + 1})")
            self._buttons.addButton(button, index)
            if title == "Hands":
                # Not a step of the work, so it stands apart.
                column.addStretch(1)
            column.addWidget(button)
        self._buttons.idClicked.connect(self.chosen)
        column.addSpacing(10)

    def show_stage(self, index: int) -> None:
        """Mark a stage as the open one."""
        button = self._buttons.button(index)
        if button is not None:
            button.setChecked(True)
