"""One line a stage on what can be done there, until the player has read it."""

from __future__ import annotations

from collections.abc import Collection

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from dromic.app.stages import STAGES

HINTS = {stage.title: stage.hint for stage in STAGES if stage.hint}


class HintBar(QWidget):
    """Shows the hint of a stage.

    Signals
    -------
    read : str
        The hint of this stage has been read.
    """

    read = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._stage, self._read, self._low = "", frozenset[str](), False
        self.words = QLabel()
        self.words.setObjectName("caution")
        self.words.setWordWrap(True)
        self.button = QPushButton("Got it")
        self.button.setToolTip("Do not show this again; Help > First steps brings all hints back")
        self.button.clicked.connect(lambda: self.read.emit(self._stage))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.words, 1)
        row.addWidget(self.button)
        self.hide()

    def show_stage(self, stage: str) -> None:
        """Show the hint of a stage, unless it has been read."""
        self._stage = stage
        self._refresh()

    def set_read(self, read: Collection[str]) -> None:
        """Say which hints have been read."""
        self._read = frozenset(read)
        self._refresh()

    def set_low(self, low: bool) -> None:
        """Leave it out in a low window."""
        self._low = low
        self._refresh()

    def _refresh(self) -> None:
        words = HINTS.get(self._stage, "")
        self.words.setText(words)
        self.setHidden(not words or self._stage in self._read or self._low)
