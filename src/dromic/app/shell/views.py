"""Several views of one stage, one behind the other, with a button for each."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QStackedWidget, QToolButton, QVBoxLayout, QWidget

from dromic.app.shell.later import Page
from dromic.app.theme import Theme

KEYS = {"Vary": "Ctrl+U", "Material": "Ctrl+M", "Coverage": "Ctrl+G"}


class Views(QWidget):
    """Shows one of several views.

    Parameters
    ----------
    views : sequence of (str, QWidget, Page)
        Names, what to put in, and the view in it.
    """

    def __init__(self, views: Sequence[tuple[str, QWidget, Page]]) -> None:
        super().__init__()
        self._views = [view for _, _, view in views]
        self.buttons = QButtonGroup(self)
        self._stack = QStackedWidget()
        row = QHBoxLayout()
        row.setSpacing(4)
        for number, (name, widget, _) in enumerate(views):
            button = QToolButton()
            button.setObjectName("view")
            button.setText(name)
            button.setCheckable(True)
            button.setCursor(Qt.CursorShape.PointingHandCursor)
            key = KEYS.get(name)
            button.setToolTip(f"{name} ({key})" if key else name)
            self.buttons.addButton(button, number)
            row.addWidget(button)
            self._stack.addWidget(widget)
        row.addStretch(1)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(4)
        rows.addLayout(row)
        rows.addWidget(self._stack, 1)
        self.buttons.idClicked.connect(self.show_view)
        self._mark(0)

    @property
    def at(self) -> int:
        """Number of the view that shows."""
        return self._stack.currentIndex()

    def show_view(self, number: int) -> None:
        """Show a view and put the keys there."""
        if number != self.at:
            self.left()
        self._stack.setCurrentIndex(number)
        self._mark(number)
        self._views[number].activated()

    def _mark(self, number: int) -> None:
        button = self.buttons.button(number)
        if button is not None:
            button.setChecked(True)

    def activated(self) -> None:
        """The stage shows."""
        self._views[self.at].activated()

    def left(self) -> None:
        """Another stage shows."""
        self._views[self.at].left()

    def cancel(self) -> None:
        """Stop whatever is being worked out."""
        for view in self._views:
            view.cancel()

    def stop(self) -> None:
        """Stop, and wait until no thread is left."""
        for view in self._views:
            view.stop()

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        for view in self._views:
            view.set_theme(theme)
