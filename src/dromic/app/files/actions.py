"""The window's files: open, paste, save, export, each told where it fails, with nothing lost."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from threading import Event
from typing import TYPE_CHECKING, Protocol

from PyQt6.QtWidgets import QApplication, QFileDialog, QWidget

from dromic.app.chart.view import ChartView
from dromic.app.document import Document
from dromic.app.document_file import ChangedOnDiskError
from dromic.app.files.changed_dialog import ChangedDialog, Kept
from dromic.app.jobs import CancelledError, wait_for
from dromic.app.shell import message_boxes
from dromic.app.theme import Theme
from dromic.errors import DromicError, RiffError
from dromic.formats.files import RIFF_SUFFIX
from dromic.formats.project import PROJECT_SUFFIX
from dromic.formats.rifftext.writer import write_riff_text

if TYPE_CHECKING:
    from dromic.app.files.import_dialog import ImportDialog
    from dromic.formats.registry import OpenedFile

# Readers, writers, paper and the dialogs about them are loaded when they are first asked for.


@dataclass(frozen=True)
class Origin:
    """The score that the riff came from: its file, its bytes, and which part."""

    path: Path
    data: bytes
    part: int


class Host(Protocol):
    """What reading and writing files asks of the window it is done in."""

    @property
    def theme(self) -> Theme:
        """Colours in force."""

    def may_leave(self) -> bool:
        """Whether what is open may be left."""

    def opened(self, path: Path | None) -> None:
        """Something else is open now."""

    def saved(self, path: Path) -> None:
        """The riff has been saved."""

    def say(self, words: str) -> None:
        """Say something at the foot of the window."""


class Files:
    """Opens and writes a document.

    Parameters
    ----------
    window : QWidget
        Over which the dialogs stand.
    host : Host
    document : Document
    chart : ChartView
        Whose view is printed and drawn.
    """

    def __init__(self, window: QWidget, host: Host, document: Document, chart: ChartView) -> None:
        self._window, self._host = window, host
        self._document, self._chart = document, chart
        self.origin: Origin | None = None
        self.dialog: ImportDialog | None = None
        self.changed: ChangedDialog | None = None

    # -- in ---------------------------------------------------------------------------------------------------

    def ask_open(self) -> None:
        """Let the player choose a file to open."""
        from dromic.app.files.filters import OPEN_FILTER

        if not self._host.may_leave():
            return
        name, _ = QFileDialog.getOpenFileName(self._window, "Open", "", OPEN_FILTER)
        if name:
            self.open(Path(name))

    def open(self, path: Path) -> None:
        """Open a file of any kind; when it cannot be read, say why and keep what is open."""
        from dromic.formats.registry import RIFF, open_file

        window = self._window
        try:
            if path.suffix in (RIFF_SUFFIX, PROJECT_SUFFIX):
                self._document.open(path)
                self.origin = None
                self._host.opened(path)
                return
            opened = wait_for(window, f"Reading {path.name}…", lambda: open_file(path))
        except CancelledError:
            return
        except DromicError as error:
            message_boxes.tell(window, "The file was not opened", error)
            return
        if opened.kind == RIFF:
            self._take(opened, 0, write_riff_text(opened.source.read(0).riff), path)
            return
        self._ask(opened, path.name, path=path)

    def paste(self, text: str | None = None) -> None:
        """Make a riff of text: what was copied elsewhere, when none is given."""
        if text is None and not self._host.may_leave():
            return
        clipboard = QApplication.clipboard()
        if text is None:
            text = clipboard.text() if clipboard is not None else ""
        # The dialog says what cannot be understood, beside the text, where it can be mended.
        self._ask(None, "what was pasted", text=text)

    def _ask(
        self, opened: OpenedFile | None, title: str, *, path: Path | None = None, text: str | None = None
    ) -> None:
        from dromic.app.files.import_dialog import ImportDialog

        dialog = self.dialog = ImportDialog(opened, title, self._host.theme, text, self._window)
        dialog.accepted.connect(lambda: self._accepted(dialog, path))
        dialog.open()

    def _accepted(self, dialog: ImportDialog, path: Path | None) -> None:
        if dialog.imported is not None and dialog.opened is not None:
            self._take(dialog.opened, dialog.part, write_riff_text(dialog.imported.riff), path)

    def _take(self, opened: OpenedFile, part: int, text: str, path: Path | None) -> None:
        from dromic.formats.registry import MUSICXML

        self._document.start("" if path is None else text)
        if path is None:
            # What was pasted is nowhere else, so it counts as not saved.
            self._document.set_text(text, "pasting a riff")
        scored = opened.kind == MUSICXML and path is not None
        self.origin = Origin(path, opened.data, part) if scored and path is not None else None
        self._host.opened(path)

    # -- out --------------------------------------------------------------------------------------------------

    def save(self) -> bool:
        """Save where the riff came from, or ask where."""
        path = self._document.path
        return self.save_to(path) if path is not None else self.save_as()

    def save_as(self) -> bool:
        """Ask where to save."""
        from dromic.app.files.filters import PROJECTS, SAVE_FILTER

        name, chosen = QFileDialog.getSaveFileName(
            self._window, "Save the riff", self._proposed(RIFF_SUFFIX), SAVE_FILTER
        )
        if not name:
            return False
        path = Path(name)
        suffix = PROJECT_SUFFIX if chosen == PROJECTS else RIFF_SUFFIX
        return self.save_to(path if path.suffix else path.with_suffix(suffix))

    def _proposed(self, suffix: str) -> str:
        reading = self._document.reading
        title = reading.riff.title if reading is not None else ""
        plain = "".join(sign for sign in title.lower() if sign.isalnum() or sign in " -_")
        return ("-".join(plain.split()) or "riff") + suffix

    def save_to(self, path: Path) -> bool:
        """Save the riff's text."""
        window = self._window
        try:
            self._document.save(path)
        except ChangedOnDiskError:
            return self._save_over(path)
        except RiffError as error:
            message_boxes.tell(window, "The riff was not saved", error)
            return False
        self._host.saved(path)
        document = self._document
        if path.suffix != PROJECT_SUFFIX and (document.kept or document.notes):
            self._host.say(f"Saved the riff's text; notes and saved plans need a project (*{PROJECT_SUFFIX})")
        return True

    def _save_over(self, path: Path) -> bool:
        """Ask whose version of a file is to stay; whether nothing is left to be saved then."""
        dialog = self.changed = ChangedDialog(self._document, self._window)
        dialog.exec()
        if dialog.kept is Kept.MINE:
            self._document.keep_mine()
            return self.save_to(path)
        return self._settled(dialog.kept)

    def _settled(self, kept: Kept) -> bool:
        if kept is Kept.THEIRS:
            return self._take_theirs()
        return self.save_as() if kept is Kept.BOTH else False

    def _take_theirs(self) -> bool:
        try:
            self._document.take_theirs()
        except RiffError as error:
            message_boxes.tell(self._window, "The file was not read", error)
            return False
        self._host.say("Reloaded from the file; undo brings your version back")
        return True

    def changed_by_others(self) -> None:
        """Another program has changed the file: read it anew, or ask where there is something to lose."""
        if self.changed is not None and self.changed.isVisible():
            return
        if not self._document.changed:
            self._take_theirs()
            return
        dialog = self.changed = ChangedDialog(self._document, self._window)

        def decided() -> None:
            if dialog.kept is Kept.MINE:
                self._document.keep_mine()
            elif dialog.kept is not Kept.UNDECIDED:
                self._settled(dialog.kept)

        dialog.accepted.connect(decided)
        dialog.open()

    def export(self) -> None:
        """Write the riff as another kind of file, with strokes and fingers as they are planned."""
        from dromic.app.files.filters import EXPORTS

        name, chosen = QFileDialog.getSaveFileName(
            self._window, "Export with strokes and fingers", self._proposed(".musicxml"), ";;".join(EXPORTS)
        )
        if not name:
            return
        path = Path(name)
        self.export_to(path if path.suffix else path.with_suffix(EXPORTS.get(chosen, ".musicxml")))

    def export_to(self, path: Path) -> bool:
        """Write the plan, or the riff while there is none, as the kind that the name ends with."""
        return self._write(path, None)

    def preview(self) -> None:
        """Show the practice sheet as it will be printed."""
        from dromic.app.paper.preview import SheetPreview

        document, window = self._document, self._window
        plan = document.plan
        if plan is None:
            self._host.say("There is no plan to print yet")
            return
        preview = SheetPreview(plan, self._chart.thick_on_top, window)
        with suppress(CancelledError):
            preview.open()
            self.sheet_preview = preview

    def into_score(self) -> None:
        """Ask where to write the score the riff came from, with strokes and fingers added."""
        origin = self.origin
        if origin is None:
            self._host.say("The riff was not opened from a MusicXML score; export it as a new one")
            return
        proposed = origin.path.with_name(f"{origin.path.stem}-planned{origin.path.suffix}")
        kinds = "MusicXML (*.musicxml *.xml *.mxl)"
        name, _ = QFileDialog.getSaveFileName(self._window, "Write into the score", str(proposed), kinds)
        if name:
            path = Path(name)
            self.score_to(path if path.suffix else path.with_suffix(origin.path.suffix))

    def score_to(self, path: Path) -> bool:
        """Write the score the riff came from, with strokes and fingers added."""
        return self._write(path, self.origin)

    def _write(self, path: Path, origin: Origin | None) -> bool:
        document, window = self._document, self._window
        reading, plan = document.reading, document.plan
        if reading is None or document.text_error is not None:
            message_boxes.tell(
                window, "Nothing was written", RiffError("the riff's text cannot be read; correct it first (F8)")
            )
            return False
        fits = plan is not None and plan.riff.plays_like(reading.riff)
        if not fits:
            self._host.say("There is no plan of this riff yet, so it is written without strokes and fingers")
        source = (origin.data, origin.part) if origin is not None else None
        wanted = plan if fits else None
        theme, view = self._host.theme, self._chart.view_settings

        cancelled = Event()

        def still_wanted() -> bool:
            return not cancelled.is_set()

        def work() -> tuple[str, ...]:
            from dromic.app.paper.printing import save_paper
            from dromic.formats.registry import PAPER, write_file

            if path.suffix.lower() not in PAPER:
                return write_file(path, reading.riff, wanted, source, still_wanted)
            if wanted is None:
                raise RiffError("there is no plan to draw yet; wait for it, or correct what keeps it from coming")
            save_paper(wanted, path, theme, view, still_wanted)
            return ()

        try:
            remarks = wait_for(window, f"Writing {path.name}…", work)
        except CancelledError:
            cancelled.set()
            self._host.say(f"Cancelled; nothing is saved as {path.name}")
            return False
        except DromicError as error:
            message_boxes.tell(window, "The file was not written", error)
            return False
        if remarks:
            message_boxes.tell_remarks(window, path.name, remarks)
        self._host.say(f"Saved as {path.name}")
        return True
