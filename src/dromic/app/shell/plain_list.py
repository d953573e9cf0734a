"""A list that leaves letters to the page that it is on, where they are keys."""

from __future__ import annotations

from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QListWidget


class PlainList(QListWidget):
    """Walks by arrows and opens by Enter; whatever is typed goes to its page."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Pass letters on."""
        if event is not None and event.text().isalpha() and not event.modifiers():
            event.ignore()
            return
        super().keyPressEvent(event)
