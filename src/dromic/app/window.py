"""The main window: a slim stage rail, the header, the stages, menus and keys."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QFont, QResizeEvent
from PyQt6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from dromic.app.chart.view import ChartView
from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.app.document_window import DocumentWindow
from dromic.app.files.actions import Files
from dromic.app.files.watch import FileWatch
from dromic.app.hands.memory import HandsMemory
from dromic.app.log.keeper import LogKeeper
from dromic.app.plan.plan_page import PlanPage
from dromic.app.plan.worker import PlanWorker
from dromic.app.riff.riff_page import RiffPage
from dromic.app.settings import Settings, Store
from dromic.app.shell import message_boxes
from dromic.app.shell.focus_ring import FocusRing
from dromic.app.shell.header import Header
from dromic.app.shell.hints import HintBar
from dromic.app.shell.later import Later, Page
from dromic.app.shell.menus import Menus, MenuTargets
from dromic.app.shell.planning_status import PlanningStatus
from dromic.app.shell.preferences import Preferences
from dromic.app.shell.rail import StageRail
from dromic.app.shell.views import Views
from dromic.app.stages import STAGES, TITLES
from dromic.app.studies import RiffSource, Studies, StudyPage
from dromic.app.theme import DARK, LIGHT, UI_FONT, Theme, palette, style_sheet
from dromic.demo.library import DemoRiff
from dromic.hands.profile import Hands
from dromic.planner.plan_settings import OWN_HANDS
from dromic.practice.tempo.ladder import Range

if TYPE_CHECKING:
    from dromic.app.compare.compare_page import ComparePage
    from dromic.app.hands.hands_page import HandsPage
    from dromic.app.listen.listen_page import ListenPage
    from dromic.app.log.log_page import LogPage
    from dromic.app.practice.practice_page import PracticePage

KEEP_MS, LOW, HINT_FROM = 1500, 600, 700


class MainWindow(DocumentWindow):
    """Everything around one document."""

    def __init__(
        self,
        riffs: Sequence[DemoRiff] = (),
        theme: Theme = LIGHT,
        store: Store | None = None,
        log: LogKeeper | None = None,
    ) -> None:
        super().__init__()
        self.document = Document()
        self.store = store or Store()
        self.log = log or LogKeeper()
        self._keep = QTimer(self)
        self._keep.setSingleShot(True)
        self._keep.setInterval(KEEP_MS)
        self._keep.timeout.connect(self.keep_unsaved)
        self.planner = PlanWorker(self.document, self)
        self.riffs = tuple(riffs)
        self._theme = theme
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.header = Header(self.document)
        self.hints = HintBar()
        self.riff_page = RiffPage(self.document, theme, riffs)
        self.plan_page = PlanPage(self.document, theme)
        self._later = {
            stage.title: Later(partial(stage.make, self), theme, scrolls=stage.scrolls)
            for stage in STAGES
            if stage.make is not None
        }
        self.studies = Studies(self.document, theme, self.log, self._joined_study)
        self.riff_views = self.studies.beside_riff(self.riff_page)
        self.practice_views = self.studies.beside_practice(self._later["Practice"])
        self._stages = QStackedWidget()
        here: dict[str, Page] = {
            "Riff": self.riff_views,
            "Plan": self.plan_page,
            "Practice": self.practice_views,
        }
        self._pages = [here.get(title) or self._later[title] for title in TITLES]
        for page in self._pages:
            self._stages.addWidget(cast("QWidget", page))
        self.rail = StageRail()
        self.rail.chosen.connect(self.show_stage)
        self._build_page()
        self.ring = FocusRing(self, theme)
        bar = self.statusBar()
        assert bar is not None
        self.planning = PlanningStatus(bar, self.planner)
        self.files = Files(self, self, self.document, self.plan_page.chart)
        self.file_watch = FileWatch(self.document, self.files, self)
        self.preferences = Preferences(
            self.store,
            self.plan_page,
            self.riff_page,
            self.hints,
            self.remember,
            self.set_theme,
        )
        self.menus = Menus(
            self,
            MenuTargets(self, self.document, self.planner, self.files, self.plan_page, self.preferences),
        )
        self.riff_page.wanted.connect(self._open_demo)
        self.riff_page.welcome.read.connect(self._welcomed)
        self.hints.read.connect(self._hint_read)
        self.plan_page.drill_wanted.connect(self.drill)
        self.plan_page.riff_wanted.connect(self.open_drill)
        own = self.riff_page
        for part in (own.board, own.setup, own.harmony, self.plan_page):
            part.message.connect(self.say)
        self.planner.busy.connect(self.plan_page.chart.set_planning)
        self.planner.looked_at = self.plan_page.chart.steps_seen
        self.planner.finished.connect(self._told)
        self.document.listen(self._heard)
        self.own_hands = HandsMemory(
            self.document, self.store.settings.hands, lambda hands: self.remember(hands=hands)
        )
        self.set_theme(theme)
        self.show_stage(0)

    # -- parts ------------------------------------------------------------------------------------------

    def _build_page(self) -> None:
        page = QWidget()
        page.setObjectName("page")
        row = QHBoxLayout(page)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.rail)
        column = QVBoxLayout()
        column.setContentsMargins(16, 2, 14, 8)
        column.setSpacing(8)
        column.addWidget(self.header)
        column.addWidget(self.hints)
        column.addWidget(self._stages, 1)
        row.addLayout(column, 1)
        self.setCentralWidget(page)

    @property
    def compare_page(self) -> ComparePage:
        """The Compare stage; made when it is first needed, as are those below."""
        return cast("ComparePage", self._later["Compare"].page)

    @property
    def practice_page(self) -> PracticePage:
        """The session of the Practice stage."""
        return cast("PracticePage", self._later["Practice"].page)

    @property
    def listen_page(self) -> ListenPage:
        """The Listen stage."""
        return cast("ListenPage", self._later["Listen"].page)

    @property
    def log_page(self) -> LogPage:
        """The Log stage."""
        return cast("LogPage", self._later["Log"].page)

    @property
    def hands_page(self) -> HandsPage:
        """The Hands stage."""
        return cast("HandsPage", self._later["Hands"].page)

    def _joined_study(self, page: StudyPage, source: RiffSource) -> None:
        """A view that makes new riffs is there."""
        page.message.connect(self.say)
        source.riff_wanted.connect(self.open_variation)
        source.work_wanted.connect(lambda riff: self.practice_page.list.put_on(riff))

    # -- stages and looks ---------------------------------------------------------------------------------

    @property
    def stage(self) -> int:
        """Index of the stage that shows."""
        return self._stages.currentIndex()

    def show_stage(self, index: int) -> None:
        """Show a stage and put the keys there."""
        if index != self.stage:
            self._pages[self.stage].left()
        self.document.writing = index == TITLES.index("Riff")
        self._stages.setCurrentIndex(index)
        self.rail.show_stage(index)
        self.hints.show_stage(TITLES[index])
        self._pages[index].activated()

    def show_titled(self, title: str) -> None:
        """Show the stage of a title."""
        self.show_stage(TITLES.index(title))

    def turn(self, *charts: ChartView) -> None:
        """Have charts follow how the player wants charts."""
        self.preferences.turn(*charts)

    @property
    def settings(self) -> Settings:
        """The settings in force."""
        return self.store.settings

    def show_view(self, stage: int, view: int) -> None:
        """Show a view of a stage that has several."""
        page = self._pages[stage]
        if isinstance(page, Views):
            page.show_view(view)
        self.show_stage(stage)

    @property
    def theme(self) -> Theme:
        """Colours in force."""
        return self._theme

    def set_theme(self, theme: Theme) -> None:
        """Change all colours."""
        self._theme = theme
        QApplication.setPalette(palette(theme))
        size = self.store.settings.text_size
        QApplication.setFont(QFont(UI_FONT, round(11 * size)))
        self.setStyleSheet(style_sheet(theme, size))
        self.ring.set_theme(theme)
        for page in self._pages:
            page.set_theme(theme)

    def toggle_theme(self) -> None:
        """From light to dark, or back."""
        self.preferences.prefer(theme=(DARK if self._theme is LIGHT else LIGHT).name)

    def _hint_read(self, stage: str) -> None:
        """A hint has been read: the keys go back to the stage."""
        self.preferences.prefer(hints_read=(*self.store.settings.hints_read, stage))
        self._pages[self.stage].activated()

    def _welcomed(self) -> None:
        self.preferences.prefer(welcomed=True)
        self.riff_page.board.setFocus()

    def remember(self, **changes: object) -> None:
        """Change the settings; that they cannot be written is said once and keeps nobody from working."""
        self.say_trouble(self.store.change(**changes))

    def say_trouble(self, trouble: str) -> None:
        """Say what went wrong, if anything did."""
        if trouble:
            self.say(trouble)

    def drill(self, chosen: Range, stumbles_at: float | None = None) -> None:
        """Practise a range of the plan at once."""
        self.practice_views.show_view(0)
        self.practice_page.drill(chosen, stumbles_at)
        self.show_stage(TITLES.index("Practice"))

    def take_hands(self, hands: Hands) -> None:
        """Plan with other hands; undo goes back."""
        settings = self.document.plan_settings
        self.document.set_plan_settings(replace(settings, hands=OWN_HANDS, own=hands))

    def cancel(self) -> None:
        """Stop whatever is being worked out."""
        self.planner.cancel()
        for page in self._pages:
            page.cancel()

    def stop(self) -> None:
        """Stop whatever is being worked out, and wait until no thread is left."""
        self.planner.stop()
        for page in self._pages:
            page.stop()

    # -- telling ------------------------------------------------------------------------------------------

    def tell_defect(self, what: str, log: Path) -> None:
        """Say that the program has failed somewhere, and that nothing is lost."""
        message_boxes.tell_defect(self, what, log)

    def say(self, words: str) -> None:
        """Say something at the foot of the window."""
        bar = self.statusBar()
        if bar is not None:
            bar.showMessage(words, 6000)

    def _told(self, seconds: float) -> None:
        if self.document.error is None:
            self.say(f"Planned in {1000 * seconds:.0f} ms; best possible plan (by this model)")

    def _heard(self, change: Change) -> None:
        if change in (Change.FILE, Change.TEXT, Change.RIFF, Change.PLAN_SETTINGS, Change.KEPT):
            self.menus.can_undo()
        if change in (Change.FILE, Change.TEXT, Change.KEPT, Change.PLAN_SETTINGS):
            self._keep.start()
        if change in (Change.FILE, Change.TEXT, Change.RIFF, Change.KEPT, Change.PLAN_SETTINGS):
            reading = self.document.reading
            path = self.document.path
            name = path.name if path is not None else (reading.riff.title if reading is not None else "")
            self.setWindowTitle(f"{name or 'Untitled'}[*] – Dromic")
            self.setWindowModified(self.document.changed)

    def go_to_error(self) -> None:
        """Show where the text cannot be read."""
        self.show_view(0, 0)
        self.riff_page.go_to_error()

    def toggle_side(self) -> None:
        """Fold the panel beside the work, or bring it back."""
        for stage, page in ((TITLES.index("Riff"), self.riff_page), (TITLES.index("Plan"), self.plan_page)):
            if self.stage == stage:
                page.folding.toggle()

    def show_first_steps(self) -> None:
        """Show the first steps again."""
        self.preferences.prefer(welcomed=False, hints_read=())
        self.show_view(0, 0)

    def show_about(self) -> None:
        """Say what this is, and how far to trust it."""
        message_boxes.about(self)

    # -- Qt -----------------------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """In a low window the work comes before the figures' names."""
        super().resizeEvent(event)
        self.header.set_low(self.height() < LOW)
        self.hints.set_low(self.height() < HINT_FROM)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        """Take files and text."""
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and (data.hasUrls() or data.hasText()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """Open the file or the text that was dropped."""
        data = event.mimeData() if event is not None else None
        files = [url.toLocalFile() for url in data.urls() if url.isLocalFile()] if data is not None else []
        if files and self.may_leave():
            self.files.open(Path(files[0]))
        elif data is not None and not files and data.hasText() and self.may_leave():
            self.files.paste(data.text())

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Ask about changes; stop planning."""
        if event is None:
            return
        if not self.may_leave():
            event.ignore()
            return
        self._keep.stop()
        self.store.recovery.forget()
        self.stop()
        self.log.close()
        self.plan_page.transport.player.close()
        event.accept()
