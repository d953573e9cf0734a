"""The menu bar, and the list of keys made from it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

from PyQt6.QtGui import QAction, QActionGroup, QKeySequence
from PyQt6.QtWidgets import QMainWindow, QMenu, QWhatsThis

from dromic.app.chart.view import ZOOM_STEP
from dromic.app.document import Document
from dromic.app.files.actions import Files
from dromic.app.plan.plan_page import PlanPage
from dromic.app.plan.worker import PlanWorker
from dromic.app.riff.key_guide import KEYS
from dromic.app.settings import SIZES
from dromic.app.shell.keys_dialog import KeysDialog, action_rows
from dromic.app.shell.preferences import Preferences
from dromic.app.shell.rail import LAST_KEY
from dromic.app.shell.views import KEYS as VIEW_KEYS
from dromic.app.stages import STAGES, TITLES

_VIEW_PLACES = ((TITLES.index("Riff"), 1), (TITLES.index("Practice"), 1), (TITLES.index("Practice"), 2))
_STUDY_KEYS = (
    ("Enter, W", "open the variation or the piece by itself; practise it with every session"),
    ("arrows, Space", "walk through the coverage tables; choose a kind of movement"),
)


class Commands(Protocol):
    """What the menus ask of the window itself."""

    def new(self) -> None:
        """Start a riff of one's own."""

    def close(self) -> bool:
        """Close the window."""

    def cancel(self) -> None:
        """Stop whatever is being worked out."""

    def may_leave(self) -> bool:
        """Whether what is open may be left."""

    def recent_files(self) -> list[Path]:
        """The files that were open lately."""

    def recover(self, *, asked: bool = False) -> None:
        """Offer what was left unsaved; say so where nothing was and somebody asks."""

    def show_stage(self, index: int) -> None:
        """Show a stage."""

    def show_view(self, stage: int, view: int) -> None:
        """Show a view of a stage that has several."""

    def toggle_theme(self) -> None:
        """From light to dark, or back."""

    def go_to_error(self) -> None:
        """Show where the text cannot be read."""

    def show_settings(self) -> None:
        """Show the settings."""

    def show_phrase_schools(self) -> None:
        """Show which school each phrase is played by."""

    def show_limits(self) -> None:
        """Show which part of the neck the plan may use."""

    @property
    def demo_titles(self) -> list[str]:
        """Titles of the demo riffs."""

    def open_listed(self, index: int) -> None:
        """Open a demo riff."""

    def toggle_side(self) -> None:
        """Fold the panel beside the work, or bring it back."""

    def show_first_steps(self) -> None:
        """Show the first steps again."""

    def show_manual(self) -> None:
        """Show the manual."""

    def show_motion(self) -> None:
        """Show both hands in motion."""

    def show_same_again(self) -> None:
        """Show what comes again and is not played as before."""

    def show_kept(self) -> None:
        """Show notes and saved plans."""

    def show_about(self) -> None:
        """Say what this is."""


@dataclass(frozen=True)
class MenuTargets:
    """The parts of a window whose work stands in the menus."""

    commands: Commands
    document: Document
    planner: PlanWorker
    files: Files
    plan_page: PlanPage
    preferences: Preferences


class Menus:
    """The menus of a window, and those of their entries that change.

    Parameters
    ----------
    window : QMainWindow
        The one whose menu bar is filled.
    targets : MenuTargets
    """

    def __init__(self, window: QMainWindow, targets: MenuTargets) -> None:
        self._window = window
        self._targets = targets
        commands = targets.commands
        self._fill_file(self._menu("&File"))
        self._fill_edit(self._menu("&Edit"))
        self._fill_view(self._menu("&View"))
        riff = self._menu("&Riff")
        self._action(riff, "Go to the &error", "F8", commands.go_to_error)
        self._action(riff, "Cancel &planning", "Esc", commands.cancel)
        self._action(riff, "&Replan", "F5", targets.planner.ask)
        self._action(riff, "Schools of &phrases…", "Ctrl+Shift+H", commands.show_phrase_schools)
        self._action(riff, "&Limits of the plan…", "Ctrl+L", commands.show_limits)
        self._action(riff, "Played othe&rwise when it comes again…", "Ctrl+Shift+J", commands.show_same_again)
        self._action(riff, "&Notes and saved plans…", "Ctrl+J", commands.show_kept)
        self._action(riff, "&Drill the range", "Ctrl+R", targets.plan_page.drill_range)
        self._action(riff, "Range as a riff of its &own", "Ctrl+Shift+R", targets.plan_page.take_out)
        about = self._menu("&Help")
        self._action(about, "&Manual", "Ctrl+F1", commands.show_manual)
        self._action(about, "&Keys", "F1", self.show_keys)
        self._action(about, "&What is this?", "Shift+F1", QWhatsThis.enterWhatsThisMode)
        self._action(about, "&First steps", "", commands.show_first_steps)
        self._action(about, "&About Dromic", "", commands.show_about)

    def _fill_file(self, file: QMenu) -> None:
        commands, files = self._targets.commands, self._targets.files
        self._action(file, "&New riff", "Ctrl+N", commands.new)
        self._action(file, "&Open…", "Ctrl+O", files.ask_open)
        self.recent = QMenu("Open &recent", self._window)
        self.recent.aboutToShow.connect(self.fill_recent)
        file.addMenu(self.recent)
        demo = QMenu("&Demo riffs", self._window)
        for at, title in enumerate(commands.demo_titles):
            self._action(demo, title, "", lambda _checked=False, one=at: commands.open_listed(one))
        file.addMenu(demo)
        self._action(file, "&Unsaved riffs…", "", lambda: commands.recover(asked=True))
        self._action(file, "&Save", "Ctrl+S", files.save)
        self._action(file, "Save &as…", "Ctrl+Shift+S", files.save_as)
        file.addSeparator()
        self._action(file, "&Export with strokes and fingers…", "Ctrl+E", files.export)
        self._into_score = self._action(file, "Write &into the score it came from…", "", files.into_score)
        file.aboutToShow.connect(lambda: self._into_score.setEnabled(files.origin is not None))
        self._action(file, "Practice sheet: &print…", "Ctrl+P", files.preview)
        file.addSeparator()
        self._action(file, "Se&ttings…", "Ctrl+,", commands.show_settings)
        file.addSeparator()
        self._action(file, "&Quit", "Ctrl+Q", commands.close)

    def _fill_edit(self, edit: QMenu) -> None:
        document, page = self._targets.document, self._targets.plan_page
        self._undo = self._action(edit, "&Undo", "Ctrl+Z", document.undo)
        self._redo = self._action(edit, "&Redo", "Ctrl+Shift+Z", document.redo)
        self._redo.setShortcuts([QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")])
        edit.addSeparator()
        self._action(edit, "&Paste as a riff…", "Ctrl+Shift+V", lambda: self._targets.files.paste())
        edit.addSeparator()
        self._action(edit, "&Lock as planned", "Ctrl+K", page.keep)
        self._action(edit, "Unlock no&te", "Ctrl+Backspace", page.unlock)
        self._action(edit, "Clear &all locks", "Ctrl+Shift+Backspace", document.clear_locks)
        edit.aboutToShow.connect(self._name_undo)

    def _fill_view(self, view: QMenu) -> None:
        commands, chart = self._targets.commands, self._targets.plan_page.chart
        preferences = self._targets.preferences
        group = QActionGroup(self._window)
        for index, title in enumerate(TITLES):
            keys = f"Ctrl+{index + 1}" if index < LAST_KEY else ""
            action = self._action(view, title, keys, lambda _checked=False, at=index: commands.show_stage(at))
            group.addAction(action)
        view.addSeparator()
        for (title, keys), place in zip(VIEW_KEYS.items(), _VIEW_PLACES, strict=True):
            self._action(view, title, keys, lambda _checked=False, at=place: commands.show_view(*at))
        view.addSeparator()
        self._action(view, "Zoom &in", "Ctrl++", lambda: chart.zoom_by(ZOOM_STEP))
        self._action(view, "Zoom &out", "Ctrl+-", lambda: chart.zoom_by(1 / ZOOM_STEP))
        self._action(view, "&Fit the whole riff", "Ctrl+0", chart.fit)
        for title, keys, name in (
            ("Flip string &order", "F6", "thick_on_top"),
            ("Left-&handed", "Shift+F6", "left_handed"),
            ("&Muting lane", "F9", "mutes"),
            ("Harmon&y lane", "Shift+F9", "harmony"),
            ("The &neck", "F10", "neck"),
        ):
            self._action(view, title, keys, lambda _checked=False, one=name: preferences.toggle(one))
        self._action(view, "Side &panel", "F4", commands.toggle_side)
        self._action(view, "&Both hands in motion…", "Shift+F10", commands.show_motion)
        self._action(view, "&Larger chart", "Ctrl+Shift++", lambda: self._size(1))
        self._action(view, "S&maller chart", "Ctrl+Shift+-", lambda: self._size(-1))
        view.addSeparator()
        self._action(view, "Switch t&heme", "F7", commands.toggle_theme)

    def _size(self, by: int) -> None:
        """The next larger or smaller size of the chart."""
        preferences = self._targets.preferences
        at = SIZES.index(preferences.settings.chart_size) + by
        if 0 <= at < len(SIZES):
            preferences.prefer(chart_size=SIZES[at])

    def _menu(self, title: str) -> QMenu:
        bar = self._window.menuBar()
        menu = QMenu(title, self._window)
        if bar is not None:
            bar.addMenu(menu)
        return menu

    def _action(self, menu: QMenu, title: str, keys: str, do: Callable[..., object]) -> QAction:
        action = QAction(title, self._window)
        if keys:
            action.setShortcut(QKeySequence(keys))
        action.triggered.connect(do)
        menu.addAction(action)
        return action

    def fill_recent(self) -> None:
        """List the files that were open lately."""
        self.recent.clear()
        for path in self._targets.commands.recent_files():
            action = QAction(path.name, self._window)
            action.setToolTip(str(path))
            action.triggered.connect(lambda _checked=False, one=path: self._open(one))
            self.recent.addAction(action)
        self.recent.setEnabled(bool(self.recent.actions()))
        if not self.recent.actions():
            self.recent.addAction("nothing yet")

    def _open(self, path: Path) -> None:
        if self._targets.commands.may_leave():
            self._targets.files.open(path)

    def can_undo(self) -> None:
        """Grey what cannot be undone or done again."""
        history = self._targets.document.history
        self._undo.setEnabled(history.undo_words is not None)
        self._redo.setEnabled(history.redo_words is not None)

    def _name_undo(self) -> None:
        """Say in the menu what undo and redo would do."""
        history = self._targets.document.history
        for action, name, words in (
            (self._undo, "&Undo", history.undo_words),
            (self._redo, "&Redo", history.redo_words),
        ):
            action.setText(f"{name} {words}" if words else name)
        self.can_undo()

    def show_keys(self) -> None:
        """Show every key, searchable."""
        rows: list[tuple[str, str, str]] = []
        bar = self._window.menuBar()
        for menu_action in bar.actions() if bar is not None else []:
            menu = menu_action.menu()
            if menu is not None:
                rows += action_rows(menu.actions(), f"{menu_action.text().replace('&', '')} menu")
        rows += [(keys, words, "on the riff board") for keys, words in KEYS]
        rows += [(keys, words, stage.where) for stage in STAGES for keys, words in stage.keys]
        rows += [(keys, words, "in Vary, Material and Coverage") for keys, words in _STUDY_KEYS]
        self.keys_dialog = KeysDialog(rows, self._window)
        self.keys_dialog.open()
