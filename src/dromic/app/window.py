"""The main window: a slim stage rail, the header, the stages, menus and keys."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction, QActionGroup, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence
from PyQt6.QtWidgets import (
    QApplication,
    QButtonGroup,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenu,
    QMessageBox,
    QProgressBar,
    QPushButton,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from dromic import __version__
from dromic.app.chart.view import ZOOM_STEP
from dromic.app.compare_page import ComparePage
from dromic.app.document import STARTER, Change, Document, Wishes
from dromic.app.hands_page import HandsPage
from dromic.app.header import Header
from dromic.app.plan_page import PlanPage
from dromic.app.planning import Planner
from dromic.app.riff_page import RiffPage
from dromic.app.theme import DARK, LIGHT, Theme, palette, style_sheet
from dromic.app.words import error_words
from dromic.demo.library import DemoRiff
from dromic.errors import RiffError
from dromic.formats.files import RIFF_SUFFIX

RAIL_WIDTH = 92
STAGES = ("Riff", "Plan", "Compare", "Hands")
_FILTER = f"Riffs (*{RIFF_SUFFIX});;All files (*)"
_KEYS = (
    ("Ctrl+1 to Ctrl+4", "Riff, Plan, Compare, and the hands"),
    ("Left, Right, Home, End", "on the chart: walk from note to note"),
    ("1 to 9", "on the chart: lock the first to the ninth alternative of the note"),
    ("Space", "on the chart: play or stop"),
    ("K, Backspace", "on the chart: lock the note as it is, lift its locks"),
    ("Ctrl+Z, Ctrl+Shift+Z", "undo and redo everything"),
    ("+, −, Ctrl+0", "on the chart: zoom in, zoom out, fit"),
    ("Ctrl+wheel", "zoom around the pointer"),
    ("Shift+arrows", "on the chart: select a range"),
    ("F6, Shift+F6", "turn the strings over, turn the neck over"),
    ("F9", "the muting lane"),
    ("F7", "light or dark"),
    ("F8", "go to the error in the text"),
    ("Esc", "give up planning"),
    ("Ctrl+N, Ctrl+O, Ctrl+S", "new, open, save"),
)


class MainWindow(QMainWindow):
    """Everything around one document."""

    def __init__(self, riffs: Sequence[DemoRiff] = (), theme: Theme = LIGHT) -> None:
        super().__init__()
        self.document = Document()
        self.planner = Planner(self.document, self)
        self.riffs = tuple(riffs)
        self._theme = theme
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.header = Header(self.document)
        self.riff_page = RiffPage(self.document, theme, riffs)
        self.plan_page = PlanPage(self.document, theme)
        self.compare_page = ComparePage(self.document, theme)
        self.hands_page = HandsPage(self.document)
        self._stages = QStackedWidget()
        self._stages.addWidget(self.riff_page)
        self._stages.addWidget(self.plan_page)
        self._stages.addWidget(self.compare_page)
        self._stages.addWidget(self.hands_page)
        self._stage_buttons = QButtonGroup(self)
        self._build_page()
        self._build_status()
        self._build_menus()
        self.riff_page.wanted.connect(self._open_demo)
        self.plan_page.told.connect(self._say)
        self.riff_page.board.told.connect(self._say)
        self.riff_page.setup.told.connect(self._say)
        self.compare_page.told.connect(self._say)
        self.hands_page.told.connect(self._say)
        self.compare_page.adopted.connect(lambda: self.show_stage(STAGES.index("Plan")))
        self.planner.busy.connect(self._busy)
        self.planner.progressed.connect(lambda share: self._progress.setValue(round(100 * share)))
        self.planner.finished.connect(self._told)
        self.document.listen(self._heard)
        self.set_theme(theme)
        self.show_stage(0)

    # -- parts ------------------------------------------------------------------------------------------

    def _build_page(self) -> None:
        page = QWidget()
        page.setObjectName("page")
        row = QHBoxLayout(page)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self._rail())
        column = QVBoxLayout()
        column.setContentsMargins(16, 2, 14, 8)
        column.setSpacing(8)
        column.addWidget(self.header)
        column.addWidget(self._stages, 1)
        row.addLayout(column, 1)
        self.setCentralWidget(page)

    def _rail(self) -> QWidget:
        rail = QWidget()
        rail.setObjectName("rail")
        rail.setFixedWidth(RAIL_WIDTH)
        column = QVBoxLayout(rail)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        name = QLabel("dromic")
        name.setObjectName("name")
        name.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.addWidget(name)
        for index, title in enumerate(STAGES):
            button = QToolButton()
            button.setObjectName("stage")
            button.setText(title)
            button.setCheckable(True)
            button.setFixedWidth(RAIL_WIDTH)
            button.setToolTip(f"{title} (Ctrl+{index + 1})")
            self._stage_buttons.addButton(button, index)
            if title == "Hands":
                # Not a step of the work, so it stands apart.
                column.addStretch(1)
            column.addWidget(button)
        self._stage_buttons.idClicked.connect(self.show_stage)
        column.addSpacing(10)
        return rail

    def _build_status(self) -> None:
        bar = self.statusBar()
        self._progress = QProgressBar()
        self._progress.setFixedWidth(160)
        self._progress.setTextVisible(False)
        self._progress.setAccessibleName("Planning")
        self._cancel = QPushButton("Stop planning")
        self._cancel.clicked.connect(self.planner.cancel)
        if bar is not None:
            bar.addPermanentWidget(self._progress)
            bar.addPermanentWidget(self._cancel)
        self._busy(False)

    def _build_menus(self) -> None:
        file = self._menu("&File")
        self._action(file, "&New riff", "Ctrl+N", self.new)
        self._action(file, "&Open…", "Ctrl+O", self.ask_open)
        self._action(file, "&Save", "Ctrl+S", self.save)
        self._action(file, "Save &as…", "Ctrl+Shift+S", self.save_as)
        file.addSeparator()
        self._action(file, "&Quit", "Ctrl+Q", self.close)
        edit = self._menu("&Edit")
        self._undo = self._action(edit, "&Undo", "Ctrl+Z", self.document.undo)
        self._redo = self._action(edit, "&Redo", "Ctrl+Shift+Z", self.document.redo)
        self._redo.setShortcuts([QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")])
        edit.addSeparator()
        self._action(edit, "&Lock the note as it is", "Ctrl+K", self.plan_page.keep)
        self._action(edit, "Lif&t the note's locks", "Ctrl+Backspace", self.plan_page.lift)
        self._action(edit, "Lift &all locks", "Ctrl+Shift+Backspace", self.document.lift_all)
        edit.aboutToShow.connect(self._name_undo)
        view = self._menu("&View")
        group = QActionGroup(self)
        for index, title in enumerate(STAGES):
            action = self._action(
                view, title, f"Ctrl+{index + 1}", lambda _checked=False, at=index: self.show_stage(at)
            )
            group.addAction(action)
        view.addSeparator()
        chart = self.plan_page.chart
        self._action(view, "Zoom &in", "Ctrl++", lambda: chart.zoom_by(ZOOM_STEP))
        self._action(view, "Zoom &out", "Ctrl+-", lambda: chart.zoom_by(1 / ZOOM_STEP))
        self._action(view, "&Fit the whole riff", "Ctrl+0", chart.fit)
        self._action(view, "&Turn the strings over", "F6", chart.flip)
        self._action(view, "Turn the &neck over", "Shift+F6", chart.flip_neck)
        self._action(view, "&Muting lane", "F9", chart.toggle_mutes)
        view.addSeparator()
        self._action(view, "&Light or dark", "F7", self.toggle_theme)
        riff = self._menu("&Riff")
        self._action(riff, "Go to the &error", "F8", self._go_to_error)
        self._action(riff, "Give up &planning", "Esc", self.planner.cancel)
        self._action(riff, "Plan &again", "F5", self.planner.ask)
        about = self._menu("&Help")
        self._action(about, "&Keys", "F1", self._show_keys)
        self._action(about, "&About Dromic", "", self._show_about)

    def _menu(self, title: str) -> QMenu:
        bar = self.menuBar()
        menu = QMenu(title, self)
        if bar is not None:
            bar.addMenu(menu)
        return menu

    def _action(self, menu: QMenu, title: str, keys: str, do: Callable[..., object]) -> QAction:
        action = QAction(title, self)
        if keys:
            action.setShortcut(QKeySequence(keys))
        action.triggered.connect(do)
        menu.addAction(action)
        return action

    # -- stages and looks ---------------------------------------------------------------------------------

    @property
    def stage(self) -> int:
        """Index of the stage that shows."""
        return self._stages.currentIndex()

    def show_stage(self, index: int) -> None:
        """Show a stage and put the keys there."""
        self._stages.setCurrentIndex(index)
        button = self._stage_buttons.button(index)
        if button is not None:
            button.setChecked(True)
        came = (
            self.riff_page.board.setFocus,
            self.plan_page.chart.setFocus,
            self.compare_page.came,
            self.hands_page.came,
        )
        came[index]()

    @property
    def theme(self) -> Theme:
        """Colours in force."""
        return self._theme

    def set_theme(self, theme: Theme) -> None:
        """Change all colours."""
        self._theme = theme
        QApplication.setPalette(palette(theme))
        self.setStyleSheet(style_sheet(theme))
        self.riff_page.set_theme(theme)
        self.plan_page.set_theme(theme)
        self.compare_page.set_theme(theme)

    def toggle_theme(self) -> None:
        """From light to dark, or back."""
        self.set_theme(DARK if self._theme is LIGHT else LIGHT)

    # -- the document -------------------------------------------------------------------------------------

    def new(self) -> None:
        """Start a small riff of one's own."""
        if self._may_leave():
            self.document.start(STARTER)
            self.riff_page.show_listed(-1)
            self.show_stage(0)

    def _open_demo(self, demo: DemoRiff) -> None:
        if self._may_leave():
            self.open_demo(demo)
        else:
            self.riff_page.show_listed(self._listed())

    def open_demo(self, demo: DemoRiff) -> None:
        """Open one of the demo riffs with the school it is played in."""
        self.document.start(demo.text, wishes=Wishes(school=demo.school, hands=self.document.wishes.hands))
        self.riff_page.show_listed(self.riffs.index(demo))

    def _listed(self) -> int:
        texts = [demo.riff.title for demo in self.riffs]
        reading = self.document.reading
        title = reading.riff.title if reading is not None else ""
        return texts.index(title) if title in texts and self.document.path is None else -1

    def ask_open(self) -> None:
        """Let the player choose a file to open."""
        if not self._may_leave():
            return
        name, _ = QFileDialog.getOpenFileName(self, "Open a riff", "", _FILTER)
        if name:
            self.open_file(Path(name))

    def open_file(self, path: Path) -> None:
        """Open a file; when it cannot be read, say why and keep what is open."""
        try:
            self.document.open(path)
        except RiffError as error:
            self._tell("The file was not opened", error)
            return
        self.riff_page.show_listed(-1)

    def save(self) -> bool:
        """Save where the riff came from, or ask where."""
        return self._save(self.document.path) if self.document.path is not None else self.save_as()

    def save_as(self) -> bool:
        """Ask where to save."""
        reading = self.document.reading
        title = reading.riff.title if reading is not None else ""
        proposed = "-".join(title.lower().split()) or "riff"
        name, _ = QFileDialog.getSaveFileName(self, "Save the riff", proposed + RIFF_SUFFIX, _FILTER)
        if not name:
            return False
        path = Path(name)
        return self._save(path if path.suffix else path.with_suffix(RIFF_SUFFIX))

    def _save(self, path: Path | None) -> bool:
        if path is None:
            return False
        try:
            self.document.save(path)
        except RiffError as error:
            self._tell("The riff was not saved", error)
            return False
        self._say(f"Saved as {path.name}")
        return True

    def _may_leave(self) -> bool:
        if not self.document.changed:
            return True
        answer = self.ask_to_save()
        if answer is QMessageBox.StandardButton.Save:
            return self.save()
        return answer is QMessageBox.StandardButton.Discard

    def ask_to_save(self) -> QMessageBox.StandardButton:
        """Ask what is to become of the changes."""
        return QMessageBox.question(
            self,
            "Dromic",
            "This riff has changes that are not saved. Save them?",
            QMessageBox.StandardButton.Save
            | QMessageBox.StandardButton.Discard
            | QMessageBox.StandardButton.Cancel,
            QMessageBox.StandardButton.Save,
        )

    def _name_undo(self) -> None:
        """Say in the menu what undo and redo would do."""
        history = self.document.history
        for action, name, words in (
            (self._undo, "&Undo", history.undo_words),
            (self._redo, "&Redo", history.redo_words),
        ):
            action.setText(f"{name} {words}" if words else name)
            action.setEnabled(words is not None)

    # -- telling ------------------------------------------------------------------------------------------

    def _tell(self, title: str, error: RiffError) -> None:
        box = QMessageBox(QMessageBox.Icon.Warning, title, error_words(error), parent=self)
        box.setInformativeText("What you had open is still here.")
        box.open()

    def tell_defect(self, what: str, log: Path) -> None:
        """Say that the program has failed somewhere, and that nothing is lost."""
        box = QMessageBox(QMessageBox.Icon.Warning, "A defect in Dromic", f"Something failed: {what}.", parent=self)
        box.setInformativeText(
            f"Your riff is still here; save it now. What happened is written down in {log}. Further failures "
            "are only written down there."
        )
        box.open()

    def _say(self, words: str) -> None:
        bar = self.statusBar()
        if bar is not None:
            bar.showMessage(words, 6000)

    def _busy(self, working: bool) -> None:
        self._progress.setValue(0)
        self._progress.setVisible(working)
        self._cancel.setVisible(working)

    def _told(self, seconds: float) -> None:
        if self.document.error is None:
            self._say(f"Planned in {1000 * seconds:.0f} ms; no plan of the model costs less")

    def _heard(self, change: Change) -> None:
        if change in (Change.FILE, Change.TEXT, Change.RIFF, Change.WISHES):
            self._undo.setEnabled(self.document.history.undo_words is not None)
            self._redo.setEnabled(self.document.history.redo_words is not None)
        if change in (Change.FILE, Change.TEXT, Change.RIFF):
            reading = self.document.reading
            path = self.document.path
            name = path.name if path is not None else (reading.riff.title if reading is not None else "")
            self.setWindowTitle(f"{name or 'Untitled'}[*] – Dromic")
            self.setWindowModified(self.document.changed)

    def _go_to_error(self) -> None:
        self.show_stage(0)
        self.riff_page.go_to_error()

    def _show_keys(self) -> None:
        cell = "<tr><td style='padding-right:18px'><b>{}</b></td><td>{}</td></tr>"
        rows = "".join(cell.format(keys, what) for keys, what in _KEYS)
        self._inform("Keys", f"<table>{rows}</table>")

    def _show_about(self) -> None:
        self._inform(
            "About Dromic",
            f"<p><b>Dromic {__version__}</b></p>"
            "<p>Plans pick strokes together with fret positions and fingers, on a model of both hands, and says "
            "why. The model's speeds are chosen, not measured on you: take its tempo ceilings as a comparison "
            "between ways of playing, not as a promise.</p>"
            "<p>Stop at pain. Numbness or tingling: see a doctor or a hand therapist.</p>"
            "<p>GPL-3.0-or-later. Type: Cabin and Inconsolata (SIL Open Font License).</p>",
        )

    def _inform(self, title: str, words: str) -> None:
        box = QMessageBox(QMessageBox.Icon.NoIcon, title, words, parent=self)
        box.open()

    # -- Qt -----------------------------------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        """Take files."""
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """Open the file that was dropped."""
        data = event.mimeData() if event is not None else None
        files = [url.toLocalFile() for url in data.urls() if url.isLocalFile()] if data is not None else []
        if files and self._may_leave():
            self.open_file(Path(files[0]))

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Ask about changes; stop planning."""
        if event is None:
            return
        if not self._may_leave():
            event.ignore()
            return
        self.planner.stop()
        self.compare_page.comparer.stop()
        self.hands_page.stop()
        self.plan_page.transport.player.close()
        event.accept()

    def picture(self, path: Path) -> bool:
        """Save a picture of the window as it is."""
        QApplication.processEvents()
        return self.grab().save(str(path))
