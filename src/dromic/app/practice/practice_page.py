"""The Practice stage: today's session, and guided through it."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QStackedWidget, QWidget

from dromic.app.chart.view import ChartView
from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.app.error_text import error_words
from dromic.app.jobs import Jobs, single
from dromic.app.log.keeper import LogKeeper
from dromic.app.practice.guided import GuidedView
from dromic.app.practice.in_work import InWork
from dromic.app.practice.in_work_menu import InWorkMenu
from dromic.app.practice.today import Asked, Prepared, Today, lay_out, lay_out_drill, prepare
from dromic.app.practice.today_view import TodayView
from dromic.app.practice.todays_session import Found, SessionChange, TodaysSession
from dromic.app.settings import Settings
from dromic.app.theme import Theme
from dromic.demo.library import DemoRiff
from dromic.errors import DromicError
from dromic.planner.planning import plan_riff
from dromic.practice.log.logbook import Rep
from dromic.practice.passages.drill_climb import Rule
from dromic.practice.passages.excerpt import request_like
from dromic.practice.session.care import PAIN
from dromic.practice.tempo.ladder import Range

PAUSE_MS = 150
_EMPTY = "Write a riff on the first page; what to practise of it appears here."


class PracticePage(QStackedWidget):
    """Lays sessions out and plays them.

    Signals
    -------
    message : str
    riff_wanted : Riff
        A drill is to be opened as a riff of its own.
    logged : no argument
        Something new stands in the log.
    preferred : dict
        Settings that have been changed.
    """

    message = pyqtSignal(str)
    riff_wanted = pyqtSignal(object)
    logged = pyqtSignal()
    preferred = pyqtSignal(object)

    def __init__(
        self,
        document: Document,
        theme: Theme,
        log: LogKeeper,
        riffs: Sequence[DemoRiff] = (),
        in_work: InWork | None = None,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._document, self._log, self._riffs = document, log, tuple(riffs)
        self.session = TodaysSession()
        self._stale, self._starts, self._hurt = True, False, False
        self.today_view, self.guided = TodayView(theme), GuidedView(theme)
        self.list = InWorkMenu(document, in_work or InWork(), self.today_view.in_work)
        self.addWidget(self.today_view)
        self.addWidget(self.guided)
        self.layouts, self.previews, self.readying, self.searching = (Jobs(self) for _ in range(4))
        self.layouts.found.connect(self._laid_out)
        self.layouts.finished.connect(self._not_laid_out)
        self.previews.found.connect(self.today_view.show_plan)
        self.readying.found.connect(self._ready)
        self.readying.finished.connect(self._not_ready)
        self.searching.found.connect(self._found)
        self.searching.finished.connect(self._not_found)
        self._connect()
        self.session.listen(self._session_changed)
        document.listen(self._heard)

    def _connect(self) -> None:
        view, guided = self.today_view, self.guided
        view.asked.connect(self._ask_again)
        view.start_wanted.connect(self.start)
        view.chosen.connect(self.session.choose)
        view.other_wanted.connect(self.other_way)
        view.dropped.connect(self.session.drop)
        view.own_wanted.connect(self._own)
        view.elsewhere_wanted.connect(self.search_elsewhere)
        view.rule.currentIndexChanged.connect(self._prefer)
        view.bursts.toggled.connect(self._prefer)
        view.minutes.valueChanged.connect(self._prefer)
        view.in_work.setMenu(self.list)
        self.list.changed.connect(self._ask_again)
        self.list.message.connect(self.message)
        guided.prepare_wanted.connect(self._prepare)
        guided.other_wanted.connect(self.other_way)
        guided.smaller_wanted.connect(self.session.smaller)
        guided.logged.connect(self._write)
        guided.over.connect(self._over)
        guided.message.connect(self.message)
        guided.face.mix_bar.changed.connect(self._prefer)

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self.today_view.set_theme(theme)
        self.guided.set_theme(theme)

    def take(self, settings: Settings) -> None:
        """Bring the settings here."""
        self.today_view.take(settings)
        self.guided.face.mix_bar.take(settings)

    def _prefer(self) -> None:
        view = self.today_view
        self.preferred.emit(
            {
                "minutes": view.minutes.value(),
                "tempo_rule": view.rule.currentData(),
                "bursts": view.bursts.isChecked(),
                **self.guided.face.mix_bar.as_settings,
            }
        )

    @property
    def charts(self) -> tuple[ChartView, ...]:
        """The charts of both views."""
        return self.today_view.chart, self.guided.face.chart

    @property
    def guiding(self) -> bool:
        """Whether a session is being played."""
        return self.currentWidget() is self.guided

    def activated(self) -> None:
        """The page shows."""
        if self.guiding:
            self.guided.setFocus()
            return
        self._stale, self._hurt = self._stale or self._hurt, False
        if self._stale:
            self._ask()
        self.today_view.start.setFocus()

    def left(self) -> None:
        """Another page shows: a session that is played pauses."""
        if self.guiding:
            self.guided.hold()

    # -- laying out -----------------------------------------------------------------------------------------

    def _heard(self, change: Change) -> None:
        if change in (Change.PLAN, Change.FILE, Change.KEPT) and not self.guiding:
            self._stale = True
            if self.isVisible():
                self._ask(PAUSE_MS)

    def _ask_again(self) -> None:
        self._stale = True
        self._ask(PAUSE_MS)

    def _ask(self, pause_ms: int = 0) -> None:
        """Lay the session out anew."""
        plan = self._document.plan
        if plan is None:
            self.session.take(None)
            self.today_view.show_nothing(_EMPTY)
            return
        self._say_state()
        others = tuple(one.project for one in self.list.others())
        view = self.today_view
        saved = self._document.kept[-1] if self._document.kept else None
        asked = Asked(plan, others, view.minutes.value(), view.felt_value, saved)
        self._stale = False
        self.layouts.ask(lambda watch: lay_out(asked, self._log, watch), pause_ms)

    def _say_state(self) -> None:
        """What has to be said of the plan, else of the log."""
        error = self._document.error
        if error is not None:
            self.today_view.say(f"{error_words(error)} The session is of the last plan that worked.")
        else:
            self.today_view.say(self._log.label, good=True)

    def drill(self, chosen: Range, stumbles_at: float | None = None) -> None:
        """Practise a range of the plan that is open, at once; round a tempo, where one is given."""
        plan, log = self._document.plan, self._log
        if plan is None:
            return
        if self.guiding:
            self.guided.end()
        self._stale, self._starts = False, True
        self.layouts.ask(single(lambda: lay_out_drill(plan, chosen, log, stumbles_at)))

    def _laid_out(self, today: Today) -> None:
        self.session.take(today)
        if self._starts:
            self._starts = False
            self.start()
            return
        trouble = today.trouble or self._log.news()
        if trouble:
            self.today_view.say(trouble)
        if self._hurt:
            self.today_view.rest_now()

    def _not_laid_out(self, trouble: DromicError | None) -> None:
        if trouble is not None:
            self.session.take(None)
            self.today_view.show_nothing("There is no session for this riff.")
            self.today_view.say(error_words(trouble))

    def _session_changed(self, change: SessionChange) -> None:
        if change is SessionChange.PLAYED_BLOCK:
            self.guided.block_changed()
            return
        today, block, source = self.session.today, self.session.block, self.session.source
        if self._starts or self.session.run is not None or today is None or block is None or source is None:
            return
        self.today_view.show_session(today.session, today, self.session.at)
        drill = block.drill
        if drill is None:
            self.previews.cancel()
            self.today_view.show_plan(None)
            return
        self.previews.ask(lambda watch: iter([plan_riff(drill.riff, request_like(source), watch=watch)]))

    # -- changing the session -------------------------------------------------------------------------------

    def other_way(self) -> None:
        """Practise the block's passage in the next other way that suits it."""
        try:
            self.session.other_way()
        except DromicError as error:
            self.message.emit(str(error))

    def _own(self) -> None:
        block = self.session.block
        if block is not None and block.drill is not None:
            self.riff_wanted.emit(block.drill.riff)

    def search_elsewhere(self) -> None:
        """Look for the same figure in other riffs."""
        search = self.session.search(self._riffs)
        if search is not None:
            self.message.emit("Searching your riffs and the demo's…")
            self.searching.ask(search)

    def _found(self, found: Found) -> None:
        words = self.session.take_found(found)
        if words:
            self.message.emit(words)

    def _not_found(self, trouble: DromicError | None) -> None:
        if trouble is not None:
            self.message.emit(error_words(trouble))

    # -- playing --------------------------------------------------------------------------------------------

    def start(self) -> None:
        """Begin the session."""
        run = self.session.start(self.today_view.felt_value)
        if run is None:
            return
        self.today_view.say(self._log.label, good=True)
        self.setCurrentWidget(self.guided)
        self.guided.begin(run)

    def _prepare(self) -> None:
        run, today = self.session.run, self.session.today
        if run is None or today is None:
            return
        block, source, history = run.block, run.source, today.history
        rule, bursts = Rule(self.today_view.rule.currentData()), self.today_view.bursts.isChecked()
        self.readying.ask(lambda watch: prepare(block, source, history, rule, bursts, watch))

    def _ready(self, prepared: Prepared) -> None:
        run = self.session.run
        if run is not None and run.block is prepared.block:
            run.ready(prepared)
            self.guided.ready()

    def _not_ready(self, trouble: DromicError | None) -> None:
        if trouble is not None:
            self.guided.refused(error_words(trouble))

    def _write(self, rep: Rep) -> None:
        trouble = self._log.write(rep)
        if trouble:
            self.message.emit(trouble)
        else:
            self.logged.emit()

    def _over(self, words: str) -> None:
        self.readying.cancel()
        self._hurt = words == PAIN
        self.session.run = None
        self.setCurrentWidget(self.today_view)
        self._ask_again()
        self.today_view.say(words)
        self.today_view.start.setFocus()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Start, skip, another way."""
        if event is None or self.guiding:
            super().keyPressEvent(event)
            return
        keys = {
            Qt.Key.Key_Return: self.start,
            Qt.Key.Key_Enter: self.start,
            Qt.Key.Key_S: self.session.drop,
            Qt.Key.Key_W: self.other_way,
        }
        do = keys.get(Qt.Key(event.key()))
        if do is not None and not event.modifiers():
            do()
        else:
            super().keyPressEvent(event)

    def cancel(self) -> None:
        """Stop whatever is being worked out; end a session that is being played."""
        if self.guiding and self.isVisible():
            self.guided.end()
        for jobs in (self.layouts, self.previews, self.searching):
            jobs.cancel()

    def stop(self) -> None:
        """Be silent, and wait until no thread is left."""
        self.guided.stop()
        for jobs in (self.layouts, self.previews, self.readying, self.searching):
            jobs.stop()
