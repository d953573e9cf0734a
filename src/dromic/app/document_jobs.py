"""Work about the document's riff that is done once for each riff and settings: comparing, effects of hands."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PyQt6.QtCore import QObject

from dromic.app.document import Document
from dromic.app.jobs import Jobs, Watch
from dromic.music.riff import Riff
from dromic.planner.plan_settings import PlanSettings

DocumentWork = Callable[[Riff, PlanSettings, Watch], Iterator[object]]


class DocumentJobs(Jobs):
    """Works something out about a document when asked, unless that has been done or is under way.

    Parameters
    ----------
    document : Document
    work : callable
        Takes a riff, how it is planned and a `watch`, and yields results.
    """

    def __init__(self, document: Document, work: DocumentWork, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._document, self._work = document, work
        self._asked: tuple[Riff, PlanSettings] | None = None
        self.cancelled.connect(self._forget)

    def refresh(self) -> None:
        """Work it out for the document as it is now."""
        reading, settings = self._document.reading, self._document.plan_settings
        if reading is None or self._asked == (reading.riff, settings):
            return
        riff = reading.riff
        self._asked = riff, settings
        self.ask(lambda watch: self._work(riff, settings, watch))

    def _forget(self) -> None:
        self._asked = None
