"""The menu bar, and the list of keys made from it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtGui import QAction, QActionGroup, QKeySequence
from PyQt6.QtWidgets import QMenu

from dromic.app.chart.view import ZOOM_STEP
from dromic.app.riff.board import KEYS
from dromic.app.settings import SIZES
from dromic.app.shell.keys_dialog import KeysDialog, action_rows

if TYPE_CHECKING:
    from dromic.app.window import MainWindow

STAGES = ("Riff", "Plan", "Compare", "Hands")
_CHART_KEYS = (
    ("Left, Right, Home, End", "walk from note to note"),
    ("Shift+arrows, Shift+click", "select a range"),
    ("1 to 9", "lock the first to the ninth alternative of the note"),
    ("K, Backspace", "lock the note as planned, unlock it"),
    ("Space", "play or stop"),
    ("D", "drill the range, or around the note"),
    ("+, −", "zoom in, zoom out"),
    ("Ctrl+wheel", "zoom around the pointer"),
)


class Menus:
    """The menus of a window, and those of their entries that change.

    Parameters
    ----------
    window : MainWindow
        Its parts must be there already.
    """

    def __init__(self, window: MainWindow) -> None:
        self._window = window
        self._fill_file(self._menu("&File"))
        self._fill_edit(self._menu("&Edit"))
        self._fill_view(self._menu("&View"))
        riff = self._menu("&Riff")
        self._action(riff, "Go to the &error", "F8", window.go_to_error)
        self._action(riff, "Cancel &planning", "Esc", window.cancel)
        self._action(riff, "&Replan", "F5", window.planner.ask)
        self._action(riff, "Schools of &phrases…", "Ctrl+Shift+H", window.show_phrase_schools)
        self._action(riff, "&Notes and saved plans…", "Ctrl+J", window.show_kept)
        self._action(riff, "&Drill the range", "Ctrl+R", window.plan_page.drill_range)
        about = self._menu("&Help")
        self._action(about, "&Keys", "F1", self.show_keys)
        self._action(about, "&About Dromic", "", window.show_about)

    def _fill_file(self, file: QMenu) -> None:
        window = self._window
        self._action(file, "&New riff", "Ctrl+N", window.new)
        self._action(file, "&Open…", "Ctrl+O", window.files.ask_open)
        self.recent = QMenu("Open &recent", window)
        self.recent.aboutToShow.connect(self.fill_recent)
        file.addMenu(self.recent)
        self._action(file, "&Save", "Ctrl+S", window.files.save)
        self._action(file, "Save &as…", "Ctrl+Shift+S", window.files.save_as)
        file.addSeparator()
        self._action(file, "&Export with strokes and fingers…", "Ctrl+E", window.files.export)
        self._into_score = self._action(file, "Write &into the score it came from…", "", window.files.into_score)
        file.aboutToShow.connect(lambda: self._into_score.setEnabled(window.files.origin is not None))
        self._action(file, "Practice sheet: &print…", "Ctrl+P", window.files.preview)
        file.addSeparator()
        self._action(file, "Se&ttings…", "Ctrl+,", window.show_settings)
        file.addSeparator()
        self._action(file, "&Quit", "Ctrl+Q", window.close)

    def _fill_edit(self, edit: QMenu) -> None:
        document, page = self._window.document, self._window.plan_page
        self._undo = self._action(edit, "&Undo", "Ctrl+Z", document.undo)
        self._redo = self._action(edit, "&Redo", "Ctrl+Shift+Z", document.redo)
        self._redo.setShortcuts([QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")])
        edit.addSeparator()
        self._action(edit, "&Paste as a riff…", "Ctrl+Shift+V", lambda: self._window.files.paste())
        edit.addSeparator()
        self._action(edit, "&Lock as planned", "Ctrl+K", page.keep)
        self._action(edit, "Unlock no&te", "Ctrl+Backspace", page.unlock)
        self._action(edit, "Clear &all locks", "Ctrl+Shift+Backspace", document.clear_locks)
        edit.aboutToShow.connect(self._name_undo)

    def _fill_view(self, view: QMenu) -> None:
        window, chart = self._window, self._window.plan_page.chart
        group = QActionGroup(window)
        for index, title in enumerate(STAGES):
            action = self._action(
                view, title, f"Ctrl+{index + 1}", lambda _checked=False, at=index: window.show_stage(at)
            )
            group.addAction(action)
        view.addSeparator()
        self._action(view, "Zoom &in", "Ctrl++", lambda: chart.zoom_by(ZOOM_STEP))
        self._action(view, "Zoom &out", "Ctrl+-", lambda: chart.zoom_by(1 / ZOOM_STEP))
        self._action(view, "&Fit the whole riff", "Ctrl+0", chart.fit)
        for title, keys, name in (
            ("Flip string &order", "F6", "thick_on_top"),
            ("Left-&handed", "Shift+F6", "left_handed"),
            ("&Muting lane", "F9", "mutes"),
            ("The &neck", "F10", "neck"),
        ):
            self._action(view, title, keys, lambda _checked=False, one=name: window.preferences.toggle(one))
        self._action(view, "&Larger chart", "Ctrl+Shift++", lambda: self._size(1))
        self._action(view, "S&maller chart", "Ctrl+Shift+-", lambda: self._size(-1))
        view.addSeparator()
        self._action(view, "Switch t&heme", "F7", window.toggle_theme)

    def _size(self, by: int) -> None:
        """The next larger or smaller size of the chart."""
        preferences = self._window.preferences
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
        for path in self._window.recent_files():
            action = QAction(path.name, self._window)
            action.setToolTip(str(path))
            action.triggered.connect(lambda _checked=False, one=path: self._open(one))
            self.recent.addAction(action)
        self.recent.setEnabled(bool(self.recent.actions()))
        if not self.recent.actions():
            self.recent.addAction("nothing yet")

    def _open(self, path: Path) -> None:
        if self._window.may_leave():
            self._window.files.open(path)

    def can_undo(self) -> None:
        """Grey what cannot be undone or done again."""
        history = self._window.document.history
        self._undo.setEnabled(history.undo_words is not None)
        self._redo.setEnabled(history.redo_words is not None)

    def _name_undo(self) -> None:
        """Say in the menu what undo and redo would do."""
        history = self._window.document.history
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
        rows += [(keys, words, "on the chart") for keys, words in _CHART_KEYS]
        rows += [(keys, words, "on the riff board") for keys, words in KEYS]
        self.keys_dialog = KeysDialog(rows, self._window)
        self.keys_dialog.open()
