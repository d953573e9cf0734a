"""The Practice stage: today's session, and guided through it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QStackedWidget, QWidget

from dromic.app.chart.view import ChartView
from dromic.app.document import Change, Document
from dromic.app.error_text import error_words
from dromic.app.jobs import Jobs, Watch, single
from dromic.app.log.keeper import LogKeeper
from dromic.app.practice.guided import GuidedView
from dromic.app.practice.in_work import InWork
from dromic.app.practice.in_work_menu import InWorkMenu
from dromic.app.practice.run import GuidedRun
from dromic.app.practice.today import Asked, Prepared, Today, lay_out, lay_out_drill, prepare
from dromic.app.practice.today_view import TodayView
from dromic.app.settings import Settings
from dromic.app.theme import Theme
from dromic.demo.library import DemoRiff
from dromic.errors import DromicError
from dromic.hands.profile import hands_named
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.practice.log.logbook import Rep
from dromic.practice.movement import riff_hash
from dromic.practice.passages.drill_climb import Rule
from dromic.practice.passages.elsewhere import Elsewhere, same_figure
from dromic.practice.passages.excerpt import request_like
from dromic.practice.session.care import PAIN
from dromic.practice.session.session import Block, other_ways, with_block, without_block
from dromic.practice.session.smaller import smaller_block
from dromic.practice.tempo.ladder import Range
from dromic.schools.registry import school_named

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
        self._today: Today | None = None
        self._at = 0
        self._stale, self._starts, self._hurt = True, False, False
        self._ways: tuple[int, list[Block]] | None = None
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
        document.listen(self._heard)

    def _connect(self) -> None:
        view, guided = self.today_view, self.guided
        view.asked.connect(self._ask_again)
        view.start_wanted.connect(self.start)
        view.chosen.connect(self.choose)
        view.other_wanted.connect(self.other_way)
        view.dropped.connect(self.drop)
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
        guided.smaller_wanted.connect(self._smaller)
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
            self._today = None
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
        self._today, self._at, self._ways = today, 0, None
        if self._starts:
            self._starts = False
            self.start()
            return
        trouble = today.trouble or self._log.news()
        if trouble:
            self.today_view.say(trouble)
        first = next(
            (at for at, block in enumerate(today.session.blocks) if block.kind not in ("warm-up", "break")), 0
        )
        self.choose(first)
        if self._hurt:
            self.today_view.rest_now()

    def _not_laid_out(self, trouble: DromicError | None) -> None:
        if trouble is not None:
            self._today = None
            self.today_view.show_nothing("There is no session for this riff.")
            self.today_view.say(error_words(trouble))

    def choose(self, at: int) -> None:
        """Show a block of the session."""
        today = self._today
        if today is None or not 0 <= at < len(today.session.blocks):
            return
        if at != self._at:
            self._ways = None
        self._at = at
        self.today_view.show_session(today.session, today, at)
        block = today.session.blocks[at]
        drill, source = block.drill, today.plans[block.riff_number]
        if drill is None:
            self.previews.cancel()
            self.today_view.show_plan(None)
            return
        self.previews.ask(lambda watch: iter([plan_riff(drill.riff, request_like(source), watch=watch)]))

    # -- changing the session -------------------------------------------------------------------------------

    def drop(self) -> None:
        """Leave the chosen block out."""
        today = self._today
        if today is not None and len(today.session.blocks) > 1:
            self._today = replace(today, session=without_block(today.session, self._at))
            self._ways = None
            self.choose(min(self._at, len(self._today.session.blocks) - 1))

    def other_way(self) -> None:
        """Practise the block's passage in the next other way that suits it."""
        today = self._today
        if today is None:
            return
        run = self.guided.run
        at = run.at if run is not None else self._at
        block = run.block if run is not None else today.session.blocks[at]
        if block.drill is None:
            return
        source = (run.plans if run is not None else today.plans)[block.riff_number]
        if self._ways is None or self._ways[0] != at:
            other = today.other if not block.riff_number else None
            self._ways = at, [*other_ways(source, block, today.history, other), block]
        ways = self._ways[1]
        if len(ways) < 2:
            self.message.emit("There is no other way to practise this passage")
            return
        ways.append(ways.pop(0))
        self._put(at, ways[-1])

    def _put(self, at: int, block: Block) -> None:
        """Another block in a place, in the session that is shown or played."""
        today = self._today
        run = self.guided.run
        if run is not None:
            run.replace_block(block)
            self.guided.block_changed()
        elif today is not None:
            self._today = replace(today, session=with_block(today.session, at, block))
            self.choose(at)

    def _smaller(self) -> None:
        run = self.guided.run
        if run is not None:
            self._put(run.at, smaller_block(run.source, run.block))

    def _own(self) -> None:
        today = self._today
        drill = today.session.blocks[self._at].drill if today is not None else None
        if drill is not None:
            self.riff_wanted.emit(drill.riff)

    def search_elsewhere(self) -> None:
        """Look for the same figure in other riffs."""
        today = self._today
        block = today.session.blocks[self._at] if today is not None else None
        if today is None or block is None or block.drill is None:
            return
        drill, source, at = block.drill, today.plans[block.riff_number], self._at
        known = {riff_hash(plan.riff): plan for plan in today.plans}
        riffs = self._riffs

        def search(watch: Watch) -> Iterator[tuple[int, Block, tuple[Elsewhere, ...]]]:
            library = list(known.values())
            for number, demo in enumerate(riffs):
                watch(number / len(riffs))
                if riff_hash(demo.riff) not in known:
                    request = Request(hands_named("medium"), school_named(demo.school))
                    library.append(plan_riff(demo.riff, request, watch=watch))
            yield at, block, same_figure(drill, source, library)

        self.message.emit("Searching your riffs and the demo's…")
        self.searching.ask(search)

    def _found(self, answer: tuple[int, Block, tuple[Elsewhere, ...]]) -> None:
        (at, block, found), today = answer, self._today
        if today is None or at >= len(today.session.blocks) or today.session.blocks[at] is not block:
            # The session is another by now.
            return
        if not found:
            self.message.emit("No riff here has this figure with less to do")
            return
        best = found[0]
        plans = (*today.plans, best.plan)
        self._today = replace(today, plans=plans)
        made = replace(
            block,
            kind="spot",
            drill=best.drill,
            reason=best.drill.why,
            riff_number=len(plans) - 1,
            climb=None,
            tempo_from=round(0.6 * min(best.drill.ceiling, best.plan.tempo)),
            tempo_to=round(min(best.drill.ceiling, best.plan.tempo)),
        )
        back = other_ways(today.plans[block.riff_number], block, today.history)
        self._put(at, made)
        self._ways = at, [block, *back, made]
        self.message.emit(f"In {best.plan.riff.title or 'another riff'}, {best.drill.where}; W goes back")

    def _not_found(self, trouble: DromicError | None) -> None:
        if trouble is not None:
            self.message.emit(error_words(trouble))

    # -- playing --------------------------------------------------------------------------------------------

    def start(self) -> None:
        """Begin the session."""
        today = self._today
        if today is None:
            return
        self.today_view.say(self._log.label, good=True)
        self.setCurrentWidget(self.guided)
        self._ways = None
        run = GuidedRun(today.session, today.plans)
        felt = self.today_view.felt_value
        if felt is not None:
            run.feels(felt)
        self.guided.begin(run)

    def _prepare(self) -> None:
        run, today = self.guided.run, self._today
        if run is None or today is None:
            return
        block, source, history = run.block, run.source, today.history
        rule, bursts = Rule(self.today_view.rule.currentData()), self.today_view.bursts.isChecked()
        self.readying.ask(lambda watch: prepare(block, source, history, rule, bursts, watch))

    def _ready(self, prepared: Prepared) -> None:
        run = self.guided.run
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
            Qt.Key.Key_S: self.drop,
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
