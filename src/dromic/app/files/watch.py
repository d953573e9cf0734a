"""Watches the file that is open, and says when another program has changed it."""

from __future__ import annotations

from PyQt6.QtCore import QFileSystemWatcher, QObject, QTimer

from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.app.files.actions import Files

SETTLED_MS = 300


class FileWatch(QObject):
    """Looks at the file after each change on the disk, when it has settled.

    Parameters
    ----------
    document : Document
    files : Files
        Who asks the player.
    parent : QObject
    """

    def __init__(self, document: Document, files: Files, parent: QObject) -> None:
        super().__init__(parent)
        self._document, self._files = document, files
        self._watcher = QFileSystemWatcher(self)
        self._settled = QTimer(self)
        self._settled.setSingleShot(True)
        self._settled.setInterval(SETTLED_MS)
        self._settled.timeout.connect(self.look)
        self._watcher.fileChanged.connect(lambda _path: self._settled.start())
        document.listen(self._heard)

    def _heard(self, change: Change) -> None:
        if change is Change.FILE:
            self._follow()

    def _follow(self) -> None:
        """Watch the file that is open; one that was replaced has to be named anew."""
        path = self._document.path
        wanted = [] if path is None else [str(path)]
        watched = self._watcher.files()
        if watched != wanted:
            if watched:
                self._watcher.removePaths(watched)
            if wanted:
                self._watcher.addPaths(wanted)

    def look(self) -> None:
        """See whether somebody else has written, and have the player asked."""
        self._follow()
        if self._document.changed_on_disk:
            self._files.changed_by_others()
