"""A window about one document: what becomes of the riff that is open when another is to be."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import QMessageBox

from dromic.app.dialogs import WithDialogs
from dromic.app.files.actions import Files
from dromic.app.recovery import RecoveredDocument
from dromic.app.riff.riff_page import RiffPage
from dromic.app.settings import Settings
from dromic.app.shell import message_boxes
from dromic.app.shell.recovery_dialog import RecoveryDialog
from dromic.app.shell.views import Views
from dromic.demo.library import DemoRiff
from dromic.formats.rifftext.writer import write_riff_text
from dromic.music.phrases import empty_like
from dromic.music.riff import Riff
from dromic.planner.plan_settings import PlanSettings


class DocumentWindow(WithDialogs):
    """Opens riffs, keeps what is not saved, and asks before anything is lost; what it shows is the window's own."""

    riffs: Sequence[DemoRiff]
    files: Files
    riff_page: RiffPage
    riff_views: Views

    @abstractmethod
    def show_titled(self, title: str) -> None:
        """Show the stage of a title."""

    @abstractmethod
    def say_trouble(self, trouble: str) -> None:
        """Say what went wrong, if anything did."""

    def new(self) -> None:
        """Start an empty riff of one's own."""
        if self.may_leave():
            old = self.document.plan_settings
            school = self.store.settings.school
            plan_settings = PlanSettings(school, old.objective, old.hands, own=old.own)
            self.files.origin = None
            reading = self.document.reading
            last = reading.riff if reading is not None else Riff(())
            self.document.start(write_riff_text(empty_like(last)), plan_settings=plan_settings)
            self.riff_page.show_listed(-1)
            self.show_titled("Riff")

    def open_drill(self, riff: Riff) -> None:
        """Open a range as a riff of its own, going round; it is not saved yet."""
        if self.may_leave():
            self.files.origin = None
            self.document.start("", plan_settings=replace(self.document.plan_settings, tempo=None, loop=True))
            self.document.edit(riff, "taking out a drill")
            self.riff_page.show_listed(-1)

    def open_variation(self, riff: Riff) -> None:
        """Open a variation or a piece of material; it shows on the Plan stage."""
        self.open_drill(riff)
        self.riff_views.show_view(0)
        self.show_titled("Plan")

    def _open_demo(self, demo: DemoRiff) -> None:
        if self.may_leave():
            self.open_demo(demo)
        else:
            self.riff_page.show_listed(self._listed())

    def open_demo(self, demo: DemoRiff) -> None:
        """Open one of the demo riffs with the school it is played in."""
        old = self.document.plan_settings
        self.files.origin = None
        self.document.start(demo.text, plan_settings=PlanSettings(school=demo.school, hands=old.hands, own=old.own))
        self.riff_page.show_listed(self.riffs.index(demo))

    def _listed(self) -> int:
        texts = [demo.riff.title for demo in self.riffs]
        reading = self.document.reading
        title = reading.riff.title if reading is not None else ""
        return texts.index(title) if title in texts and self.document.path is None else -1

    def open_file(self, path: Path) -> None:
        """Open a file; when it cannot be read, say why and keep what is open."""
        self.files.open(path)

    def opened(self, path: Path | None) -> None:
        """Something else is open now, from a file or from elsewhere."""
        self.riff_page.show_listed(-1)
        if path is not None:
            self.say_trouble(self.store.edit(lambda settings: settings.with_recent(path)))

    def saved(self, path: Path) -> None:
        """The riff has been saved."""
        self.say(f"Saved as {path.name}")
        self.say_trouble(self.store.edit(lambda settings: settings.with_recent(path)))
        self.keep_unsaved()

    def recent_files(self) -> list[Path]:
        """The files that were open lately; those that are gone are forgotten."""
        for name in self.store.settings.recent:
            if not Path(name).exists():
                self.say_trouble(self.store.edit(partial(Settings.without_recent, name=name)))
        return [Path(name) for name in self.store.settings.recent]

    def keep_unsaved(self) -> None:
        """Write down what is not saved, where the next start finds it should the program be cut off."""
        document = self.document
        project = document.project if document.changed else None
        self.say_trouble(self.store.keep(project, document.path, document.on_disk))

    def recover(self, *, asked: bool = False) -> None:
        """Offer the riffs that earlier windows left unsaved."""
        left = self.store.recovery.left()
        if left:
            dialog = RecoveryDialog(left, self.store.recovery, self)
            dialog.wanted.connect(self._recovered)
            dialog.open()
        elif asked:
            self.say("Nothing was left unsaved")

    def _recovered(self, kept: RecoveredDocument) -> None:
        if not self.may_leave():
            return
        self.files.origin = None
        self.document.recover(kept.project, kept.path, kept.known)
        self.riff_page.show_listed(-1)
        self.say_trouble(self.store.take_up(kept))

    def may_leave(self) -> bool:
        """Whether what is open may be left; asks about changes."""
        if not self.document.changed:
            return True
        answer = self.ask_to_save()
        if answer is QMessageBox.StandardButton.Save:
            return self.files.save()
        return answer is QMessageBox.StandardButton.Discard

    def ask_to_save(self) -> QMessageBox.StandardButton:
        """Ask what is to become of the changes."""
        return message_boxes.ask_to_save(self)

    @property
    def demo_titles(self) -> list[str]:
        """Titles of the demo riffs."""
        return [demo.riff.title for demo in self.riffs]

    def open_listed(self, index: int) -> None:
        """Open a demo riff."""
        self._open_demo(self.riffs[index])
