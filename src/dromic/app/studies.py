"""The views that make new riffs out of the one that is open: variations, material, coverage."""

from __future__ import annotations

from collections.abc import Callable

from dromic.app.coverage.page import CoveragePage
from dromic.app.document import Document
from dromic.app.log.keeper import LogKeeper
from dromic.app.material.page import MaterialPage
from dromic.app.practice.page import PracticePage
from dromic.app.riff.page import RiffPage
from dromic.app.shell.scrolling_page import ScrollingPage
from dromic.app.shell.views import Views
from dromic.app.theme import Theme
from dromic.app.vary.page import VaryPage
from dromic.music.riff import Riff


class Studies:
    """Variations, material and coverage of one window.

    Parameters
    ----------
    document : Document
    theme : Theme
    log : LogKeeper
    """

    def __init__(self, document: Document, theme: Theme, log: LogKeeper) -> None:
        self.vary = VaryPage(document, theme)
        self.material = MaterialPage(document, theme)
        self.coverage = CoveragePage(document, theme, log)
        self._all = (self.vary, self.material, self.coverage)

    def beside_riff(self, page: RiffPage) -> Views:
        """The views of the Riff stage."""
        return Views((("Write", page, page), ("Vary", ScrollingPage(self.vary), self.vary)))

    def beside_practice(self, page: PracticePage) -> Views:
        """The views of the Practice stage; they scroll where there is little room."""
        return Views(
            (
                ("Session", ScrollingPage(page), page),
                ("Material", ScrollingPage(self.material), self.material),
                ("Coverage", ScrollingPage(self.coverage), self.coverage),
            ),
            page.left,
        )

    def connect(
        self, say: Callable[[str], None], open_riff: Callable[[Riff], None], work_on: Callable[[Riff], None]
    ) -> None:
        """Tell the window what is said, what is to be opened, and what is to be practised."""
        for page in self._all:
            page.message.connect(say)
        for source in (self.vary, self.material.preview, self.coverage.preview):
            source.riff_wanted.connect(open_riff)
            source.work_wanted.connect(work_on)

    def cancel(self) -> None:
        """Stop whatever is being worked out."""
        for page in self._all:
            page.cancel()

    def stop(self) -> None:
        """Stop, and wait until no thread is left."""
        for page in self._all:
            page.stop()
