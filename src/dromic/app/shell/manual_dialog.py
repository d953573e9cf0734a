"""The manual in the program: pages by task, searched as one types."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QImage, QTextCursor, QTextDocument
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QSplitter,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from dromic.manual.pages import Page, matching, picture


class _Page(QTextBrowser):
    """Shows a page with its pictures, which there are in both themes."""

    def __init__(self, *, dark: bool) -> None:
        super().__init__()
        self._dark = dark

    def loadResource(self, kind: int, name: QUrl) -> object:
        """A picture, in the theme of the window where it is drawn in both."""
        if kind != QTextDocument.ResourceType.ImageResource.value:
            return super().loadResource(kind, name)
        return QImage.fromData(picture(name.path(), dark=self._dark))


class ManualDialog(QDialog):
    """Shows the pages beside the window, which stays in use.

    Parameters
    ----------
    parent : QWidget or None
    dark : bool
        Whether the window is dark.
    """

    def __init__(self, parent: QWidget | None = None, *, dark: bool = False) -> None:
        super().__init__(parent)
        self.setWindowTitle("Manual")
        self.resize(860, 640)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search: what you want to do, or a key")
        self.search.setAccessibleName("Search the manual")
        self.list = QListWidget()
        self.list.setAccessibleName("Pages")
        self.page = _Page(dark=dark)
        self.page.setAccessibleName("Page")
        self.page.setOpenExternalLinks(False)
        self._pages: tuple[Page, ...] = ()
        split = QSplitter()
        split.addWidget(self.list)
        split.addWidget(self.page)
        split.setSizes([220, 640])
        split.setStretchFactor(1, 1)
        rows = QVBoxLayout(self)
        top = QHBoxLayout()
        top.addWidget(self.search)
        rows.addLayout(top)
        rows.addWidget(split, 1)
        self.search.textChanged.connect(self._find)
        self.list.currentRowChanged.connect(self._show)
        self._find("")

    def _find(self, words: str) -> None:
        """List the pages that have the words, and show the first."""
        self._pages = matching(words)
        self.list.clear()
        self.list.addItems([page.title for page in self._pages])
        if self._pages:
            self.list.setCurrentRow(0)
        else:
            self.page.setMarkdown(f"No page has all of: {words}")

    def _show(self, row: int) -> None:
        if not 0 <= row < len(self._pages):
            return
        self.page.setMarkdown(self._pages[row].text)
        self.page.moveCursor(QTextCursor.MoveOperation.Start)
        words = self.search.text().split()
        if words:
            self.page.find(words[0], QTextDocument.FindFlag(0))
        self.page.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
