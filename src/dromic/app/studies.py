"""The views that make new riffs out of the one that is open: variations, material, coverage."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Protocol, cast

from PyQt6.QtCore import pyqtBoundSignal

from dromic.app.document import Document
from dromic.app.log.keeper import LogKeeper
from dromic.app.riff.riff_page import RiffPage
from dromic.app.shell.later import Later
from dromic.app.shell.views import Views
from dromic.app.theme import Theme

if TYPE_CHECKING:
    from dromic.app.coverage.coverage_page import CoveragePage
    from dromic.app.material.material_page import MaterialPage
    from dromic.app.vary.vary_page import VaryPage


class StudyPage(Protocol):
    """A view that says something."""

    @property
    def message(self) -> pyqtBoundSignal:
        """What it says."""


class RiffSource(Protocol):
    """What riffs come from: to be opened, or to be practised."""

    @property
    def riff_wanted(self) -> pyqtBoundSignal:
        """A riff to open."""

    @property
    def work_wanted(self) -> pyqtBoundSignal:
        """A riff to practise."""


Joined = Callable[[StudyPage, RiffSource], None]


class Studies:
    """Variations, material and coverage of one window, each made when it first shows.

    Parameters
    ----------
    document : Document
    theme : Theme
    log : LogKeeper
    joined : callable
        Told of each view when it is made, and of where its riffs come from.
    """

    def __init__(self, document: Document, theme: Theme, log: LogKeeper, joined: Joined) -> None:
        self._document, self._log, self._joined = document, log, joined
        self._vary = Later(self._make_vary, theme, scrolls=True)
        self._material = Later(self._make_material, theme, scrolls=True)
        self._coverage = Later(self._make_coverage, theme, scrolls=True)

    def _make_vary(self, theme: Theme) -> VaryPage:
        from dromic.app.vary.vary_page import VaryPage

        page = VaryPage(self._document, theme)
        self._joined(page, page)
        return page

    def _make_material(self, theme: Theme) -> MaterialPage:
        from dromic.app.material.material_page import MaterialPage

        page = MaterialPage(self._document, theme)
        self._joined(page, page.preview)
        return page

    def _make_coverage(self, theme: Theme) -> CoveragePage:
        from dromic.app.coverage.coverage_page import CoveragePage

        page = CoveragePage(self._document, theme, self._log)
        self._joined(page, page.preview)
        return page

    @property
    def vary(self) -> VaryPage:
        """Variations of the riff."""
        return cast("VaryPage", self._vary.page)

    @property
    def material(self) -> MaterialPage:
        """Scales, arpeggios and chords to practise."""
        return cast("MaterialPage", self._material.page)

    @property
    def coverage(self) -> CoveragePage:
        """What has been practised, and what has not."""
        return cast("CoveragePage", self._coverage.page)

    def beside_riff(self, page: RiffPage) -> Views:
        """The views of the Riff stage."""
        return Views((("Write", page, page), ("Vary", self._vary, self._vary)))

    def beside_practice(self, page: Later) -> Views:
        """The views of the Practice stage."""
        return Views(
            (
                ("Session", page, page),
                ("Material", self._material, self._material),
                ("Coverage", self._coverage, self._coverage),
            )
        )
