"""The dialogs of a window about its riff, each loaded when it is first asked for."""

from __future__ import annotations

from abc import abstractmethod
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QMainWindow

from dromic.app.theme import DARK

if TYPE_CHECKING:
    from dromic.app.document import Document
    from dromic.app.settings import Store
    from dromic.app.shell.preferences import Preferences
    from dromic.app.theme import Theme


class WithDialogs(QMainWindow):
    """A window with dialogs; what they are about is the window's own."""

    document: Document
    store: Store
    preferences: Preferences

    @property
    @abstractmethod
    def theme(self) -> Theme:
        """Colours in force."""

    @abstractmethod
    def say(self, words: str) -> None:
        """Say something at the foot of the window."""

    def show_settings(self) -> None:
        """Show the settings."""
        from dromic.app.shell.settings_dialog import SettingsDialog

        self.settings_dialog = SettingsDialog(self.preferences, str(self.store.path), self)
        self.settings_dialog.open()

    def show_phrase_schools(self) -> None:
        """Show which school each phrase is played by."""
        from dromic.app.plan.phrase_schools_dialog import PhraseSchoolsDialog

        self.phrase_schools_dialog = PhraseSchoolsDialog(self.document, self)
        self.phrase_schools_dialog.open()

    def show_limits(self) -> None:
        """Show which part of the neck the plan may use."""
        from dromic.app.plan.limits_dialog import LimitsDialog

        self.limits_dialog = LimitsDialog(self.document, self)
        self.limits_dialog.open()

    def show_same_again(self) -> None:
        """Show what comes again and is not played as before."""
        from dromic.app.plan.same_again_dialog import SameAgainDialog

        self.same_again_dialog = SameAgainDialog(self.document, self)
        self.same_again_dialog.open()

    def show_manual(self) -> None:
        """Show the manual."""
        from dromic.app.shell.manual_dialog import ManualDialog

        self.manual_dialog = ManualDialog(self, dark=self.theme is DARK)
        self.manual_dialog.show()

    def show_motion(self) -> None:
        """Show both hands in motion."""
        from dromic.app.motion.dialog import MotionDialog

        self.motion_dialog = MotionDialog(self.document, self.theme, self.store.settings, self)
        self.motion_dialog.show()
        self.motion_dialog.view.setFocus()

    def show_kept(self) -> None:
        """Show notes and saved plans."""
        from dromic.app.shell.saved_plans_dialog import SavedPlansDialog

        self.kept_dialog = SavedPlansDialog(self.document, self)
        self.kept_dialog.message.connect(self.say)
        self.kept_dialog.open()
