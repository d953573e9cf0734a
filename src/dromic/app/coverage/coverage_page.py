"""The Coverage view: what the hands have been asked to do and what not, and drills that fill the gaps."""

from __future__ import annotations

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from dromic.app.coverage.measured import Measured, measure, one_drill, pieces_for
from dromic.app.coverage.tables import CoverageTables, Shown
from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.app.error_text import error_words
from dromic.app.jobs import Jobs, single
from dromic.app.log.keeper import LogKeeper
from dromic.app.practice.preview import PiecesView
from dromic.app.shell.plain_list import PlainList
from dromic.app.shell.sliding_row import SlidingRow
from dromic.app.theme import Theme
from dromic.errors import DromicError
from dromic.music.riff import Riff
from dromic.planner.plan import Plan
from dromic.planner.request import Request
from dromic.practice.coverage.cells import Cell
from dromic.practice.coverage.compound import Compound
from dromic.practice.coverage.coverage import Coverage, coverage_of
from dromic.practice.material.drills_for import Candidate, DrillsFor
from dromic.practice.passages.excerpt import request_like

RIFF, WEEK, LOG, DRILL = range(4)
_SOURCES = (
    ("This riff", "How often each kind of movement comes in this riff"),
    ("The last seven days, for this riff", "What the log's last seven days hold of what this riff needs"),
    ("The whole log, for this riff", "What the log holds of what this riff needs"),
    ("The chosen drill, for this riff", "What the drill on the right has of what this riff needs"),
)
_EMPTY = "Write a riff first; what it asks of the hands appears here."


class CoveragePage(PiecesView):
    """Measures the document's plan and the log while it shows.

    Signals
    -------
    message : str
    """

    message = pyqtSignal(str)

    def __init__(self, document: Document, theme: Theme, log: LogKeeper, parent: QWidget | None = None) -> None:
        super().__init__(theme, parent)
        self._document, self._log = document, log
        self.measured: Measured | None = None
        self._drills: list[tuple[str, Riff, Request]] = []
        self.measuring, self.making = Jobs(self), Jobs(self)
        self.measuring.found.connect(self._take)
        self.measuring.finished.connect(self._not_measured)
        self.making.found.connect(self._made)
        self.making.finished.connect(self._end)
        self.making.cancelled.connect(lambda: self.progress.hide())
        self.making.progressed.connect(lambda share: self.progress.setValue(round(100 * share)))
        self.source = QComboBox()
        self.source.setAccessibleName("What is shown")
        for words, tip in _SOURCES:
            self.source.addItem(words)
            self.source.setItemData(self.source.count() - 1, tip, Qt.ItemDataRole.ToolTipRole)
        self.source.currentIndexChanged.connect(lambda _at: self._show())
        self.told = QLabel()
        self.told.setObjectName("quiet")
        self.told.setWordWrap(True)
        self.tables = CoverageTables(theme)
        self.tables.changed.connect(self._say_chosen)
        self.one = QPushButton("&One drill for the gaps")
        self.one.clicked.connect(self.make_one)
        self.clear = QPushButton("Choose &none")
        self.clear.clicked.connect(self.tables.clear)
        self.fewest = QPushButton("&Fewest pieces for this riff")
        self.fewest.setToolTip("The fewest pieces of material that have every movement this riff needs")
        self.fewest.clicked.connect(self.make_fewest)
        self.minutes = QSpinBox()
        self.minutes.setRange(5, 60)
        self.minutes.setSingleStep(5)
        self.minutes.setValue(15)
        self.minutes.setSuffix(" min")
        self.minutes.setAccessibleName("Minutes for pieces")
        self.minutes.setToolTip("How long there is, where not all of it fits; a piece takes five minutes")
        self.progress = QProgressBar()
        self.progress.setRange(0, 100)
        self.progress.setTextVisible(False)
        self.progress.setFixedWidth(110)
        self.progress.hide()
        # Beside the tables, once there is something: until then they have all the room.
        self.made = QWidget()
        self.notice = QLabel()
        self.notice.setObjectName("quiet")
        self.notice.setWordWrap(True)
        self.list = PlainList()
        self.list.setAccessibleName("Drills")
        self.list.setMaximumHeight(112)
        self.list.currentRowChanged.connect(lambda _row: self._preview())
        self.list.itemActivated.connect(lambda _item: self.preview.open_it())
        self.preview.planned.connect(self._drill_planned)
        self._of_drill = Coverage({})
        self._build()
        self._list([])
        document.listen(self._heard)

    def _build(self) -> None:
        choices = QWidget()
        row = QHBoxLayout(choices)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        for widget in (self.source, self.one, self.clear, self.fewest, self.minutes, self.progress):
            row.addWidget(widget)
        row.addStretch(1)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        rows.addWidget(SlidingRow(choices))
        rows.addWidget(self.told)
        lower = QHBoxLayout()
        lower.setSpacing(14)
        scroll = QScrollArea()
        scroll.setObjectName("bare")
        scroll.setWidget(self.tables)
        scroll.setMinimumWidth(300)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        lower.addWidget(scroll, 3)
        right = QVBoxLayout(self.made)
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(6)
        right.addWidget(self.notice)
        right.addWidget(self.list)
        right.addWidget(self.preview, 1)
        lower.addWidget(self.made, 2)
        rows.addLayout(lower, 1)

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self.tables.set_theme(theme)
        self.preview.set_theme(theme)

    def activated(self) -> None:
        """The view shows."""
        self._ask()
        self.tables.setFocus()

    def _heard(self, change: Change) -> None:
        if change is Change.PLAN and self.isVisible():
            self._ask()

    def _ask(self) -> None:
        plan, log = self._document.plan, self._log
        if plan is None:
            self.measured = None
            self.told.setText(_EMPTY)
            self.tables.show_counts(Shown({}))
            return
        self.measuring.ask(single(lambda: measure(plan, log)))

    def _take(self, measured: Measured) -> None:
        old = self.measured
        self.measured = measured
        if old is None or old.plan.riff != measured.plan.riff:
            self._list([])
            self._notify("")
        self._show()

    def _not_measured(self, trouble: DromicError | None) -> None:
        if trouble is not None:
            self.told.setText(error_words(trouble))

    def _show(self) -> None:
        measured = self.measured
        if measured is None:
            return
        source = self.source.currentIndex()
        needed = frozenset(cell for cell, weight in measured.needs.items() if weight > 0)
        if source == RIFF:
            self.tables.show_counts(Shown(measured.riff.counts))
        else:
            found = {WEEK: measured.week, LOG: measured.log, DRILL: self._of_drill}[source]
            self.tables.show_counts(Shown(found.counts, needed, areas=found.areas))
        self._say_chosen()

    def _drill_planned(self, plan: Plan) -> None:
        self._of_drill = coverage_of(plan)
        if self.source.currentIndex() == DRILL:
            self._show()

    def _say_chosen(self) -> None:
        measured = self.measured
        if measured is None:
            return
        chosen, gaps = self.tables.chosen, self.tables.shown.gaps
        if measured.trouble:
            told = f"The log cannot be read: {measured.trouble}"
        elif self.source.currentIndex() == RIFF:
            told = (
                f"{len(measured.riff.cells)} kinds of movement in this riff. Click cells to make a drill of them."
            )
        else:
            told = (
                f"{len(gaps)} of {len(self.tables.shown.needed)} kinds of movement that this riff needs are not in "
                "there (dashed)."
            )
        if chosen:
            told += f" {len(chosen)} chosen."
        self.told.setText(told)
        self.one.setText(
            "&One drill for the chosen"
            if chosen
            else "&One drill for the gaps"
            if gaps
            else "&One drill for all of it"
        )
        self.clear.setEnabled(bool(chosen))

    # -- drills -------------------------------------------------------------------------------------------------

    def wanted(self) -> frozenset[Cell]:
        """What one drill is made for: what is chosen, else the gaps, else all that the riff needs."""
        measured = self.measured
        if measured is None:
            return frozenset()
        return self.tables.chosen or self.tables.shown.gaps or measured.riff.cells

    def make_one(self) -> None:
        """One drill for what is wanted."""
        measured = self.measured
        if measured is not None:
            wanted, plan = self.wanted(), measured.plan
            self._begin("Making one drill…")
            self.making.ask(single(lambda: one_drill(wanted, plan)))

    def make_fewest(self) -> None:
        """The fewest pieces of material that cover what the riff needs."""
        measured, minutes = self.measured, float(self.minutes.value())
        if measured is not None:
            self._begin("Planning pieces to see what they cover…")
            self.making.ask(lambda watch: iter([pieces_for(measured, minutes, watch)]))

    def _begin(self, words: str) -> None:
        self._notify(words)
        self.progress.setValue(0)
        self.progress.show()

    def _made(self, made: Compound | DrillsFor) -> None:
        measured = self.measured
        if measured is None:
            return
        request = request_like(measured.plan)
        if isinstance(made, Compound):
            notes = len(made.touches)
            short = "no shorter round has them all" if made.shortest else "a shorter round may exist"
            told = f"{notes} notes round; {short}."
            if made.missing:
                told += f" Left out, as one position does not have them: {_listed(made.missing)}."
            self._notify(told)
            self._list([(f"One drill, {notes} notes round", made.riff, request)])
            return
        count = len(made.fewest)
        told = f"{count} {'pieces have' if count > 1 else 'piece has'} every movement that this riff needs"
        if made.cover.missing:
            told += f", but for {_listed(made.cover.missing)}, which none of them has"
        share = made.in_minutes.covered / max(made.in_minutes.all_needed, 1e-9)
        next_best = made.in_minutes.greedy / max(made.in_minutes.all_needed, 1e-9)
        told += f". In {made.minutes:.0f} minutes, {100 * share:.0f} % of the need: those marked with a dot"
        told += f" (the best next one, again and again: {100 * next_best:.0f} %)."
        self._notify(told)

        def name(candidate: Candidate) -> str:
            return ("• " if candidate in made.best else "") + candidate.material.name

        every = [*made.fewest, *(one for one in made.best if one not in made.fewest)]
        self._list([(name(candidate), candidate.material.riff, request) for candidate in every])

    def _end(self, trouble: DromicError | None) -> None:
        self.progress.hide()
        if trouble is not None:
            self._notify(error_words(trouble))
            self._list([])

    def _list(self, drills: list[tuple[str, Riff, Request]]) -> None:
        self._drills = drills
        self.list.setVisible(bool(drills))
        self.preview.setVisible(bool(drills))
        self.made.setVisible(bool(drills) or bool(self.notice.text()))
        blocker = QSignalBlocker(self.list)
        self.list.clear()
        for name, _, _ in drills:
            self.list.addItem(name)
        if drills:
            self.list.setCurrentRow(0)
        del blocker
        self._preview()

    def _notify(self, words: str) -> None:
        """Say something about what was made, or was not."""
        self.notice.setText(words)
        self.made.setVisible(bool(words) or bool(self._drills))

    def _preview(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self._drills):
            name, riff, request = self._drills[row]
            self.preview.show_riff(riff, name.removeprefix("• "), request)
        else:
            self._of_drill = Coverage({})
            self.preview.show_riff(None)

    def left(self) -> None:
        """Another page shows."""

    def cancel(self) -> None:
        """Stop whatever is being worked out."""
        self.making.cancel()
        self.measuring.cancel()

    def stop(self) -> None:
        """Stop, and wait until no thread is left."""
        for jobs in (self.measuring, self.making, self.preview.jobs):
            jobs.stop()


def _listed(cells: frozenset[Cell], most: int = 4) -> str:
    words = [cell.words for cell in sorted(cells)]
    more = len(words) - most
    return ", ".join(words[:most]) + (f" and {more} more" if more > 0 else "")
