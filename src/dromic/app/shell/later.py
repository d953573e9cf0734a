"""A page that is made when it is first needed, so that the window starts with what is seen."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol, cast

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from dromic.app.shell.scrolling_page import ScrollingPage
from dromic.app.theme import Theme


class Page(Protocol):
    """What a page has to have."""

    def activated(self) -> None:
        """The page shows."""

    def left(self) -> None:
        """Another page shows: what is played pauses."""

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""

    def cancel(self) -> None:
        """Stop whatever is being worked out."""

    def stop(self) -> None:
        """Stop, and wait until no thread is left."""


class Later(QWidget):
    """Holds the place of a page.

    Parameters
    ----------
    make : callable
        Makes the page, in the theme that it is given.
    theme : Theme
    scrolls : bool
        Whether the page scrolls where there is little room.
    """

    def __init__(self, make: Callable[[Theme], Page], theme: Theme, *, scrolls: bool = False) -> None:
        super().__init__()
        self._make, self._theme, self._scrolls = make, theme, scrolls
        self.made: Page | None = None
        self._rows = QVBoxLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)

    @property
    def page(self) -> Page:
        """The page; made now, if it was not needed before."""
        if self.made is None:
            self.made = self._make(self._theme)
            widget = cast("QWidget", self.made)
            shown = ScrollingPage(widget) if self._scrolls else widget
            self._rows.addWidget(shown)
            shown.show()
        return self.made

    def showEvent(self, event: QShowEvent | None) -> None:
        """Make the page before the keys look for something in it."""
        super().showEvent(event)
        _ = self.page

    def activated(self) -> None:
        """The page shows."""
        self.page.activated()

    def left(self) -> None:
        """Another page shows."""
        if self.made is not None:
            self.made.left()

    def cancel(self) -> None:
        """Stop whatever is being worked out."""
        if self.made is not None:
            self.made.cancel()

    def stop(self) -> None:
        """Stop, and wait until no thread is left."""
        if self.made is not None:
            self.made.stop()

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = theme
        if self.made is not None:
            self.made.set_theme(theme)
