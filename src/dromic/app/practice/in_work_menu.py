"""The menu of the riffs in work: what is practised with every session, put on the list and taken off it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QMenu, QWidget

from dromic.app.document import Document
from dromic.app.error_text import error_words
from dromic.app.practice.in_work import InWork, RiffInWork
from dromic.errors import RiffError
from dromic.formats.project import Project
from dromic.formats.rifftext.writer import write_riff_text
from dromic.music.riff import Riff
from dromic.practice.movement import riff_hash


class InWorkMenu(QMenu):
    """Filled anew whenever it opens.

    Signals
    -------
    changed : no argument
        The list is another.
    message : str
    """

    changed = pyqtSignal()
    message = pyqtSignal(str)

    def __init__(self, document: Document, in_work: InWork, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document, self.in_work = document, in_work
        self.aboutToShow.connect(self.fill)

    @property
    def mine(self) -> str:
        """The riff that is open, by its name on the list."""
        reading = self._document.reading
        return riff_hash(reading.riff) if reading is not None else ""

    def others(self) -> tuple[RiffInWork, ...]:
        """The riffs on the list, without the one that is open."""
        return tuple(one for one in self.in_work.riffs() if one.name != self.mine)

    def fill(self) -> None:
        """List the riffs."""
        self.clear()
        listed = any(one.name == self.mine for one in self.in_work.riffs())
        if listed:
            self._entry("Take this riff off the list", partial(self._take_off, self.mine))
        else:
            self._entry("Put this riff on the list", self._put_on)
        self.addSeparator()
        others = self.others()
        for one in others:
            self._entry(f"Also today: {one.title} (click takes it off)", partial(self._take_off, one.name))
        if not others:
            none = self.addAction("no other riff is in work")
            if none is not None:
                none.setEnabled(False)

    def _entry(self, words: str, do: Callable[[], None]) -> None:
        action = self.addAction(words)
        if action is not None:
            action.triggered.connect(lambda _checked=False: do())

    def _put_on(self) -> None:
        def do() -> None:
            # A riff whose text cannot be read just now is refused.
            _ = self._document.current_riff
            self.in_work.add(replace(self._document.project, kept=(), notes=""))

        self._try(do, "It is practised with every session now")

    def put_on(self, riff: Riff) -> None:
        """Put a riff on the list, planned as the one that is open."""
        settings = replace(self._document.plan_settings, tempo=None)
        project = Project(write_riff_text(riff), settings)
        self._try(partial(self.in_work.add, project), f"{riff.title or 'It'} is practised with every session now")

    def _take_off(self, name: str) -> None:
        self._try(partial(self.in_work.remove, name), "It is off the list")

    def _try(self, do: Callable[[], None], words: str) -> None:
        try:
            do()
        except RiffError as error:
            self.message.emit(error_words(error))
            return
        self.message.emit(words)
        self.changed.emit()
