"""The Compare stage: all schools and the best plans side by side; one is adopted by a click."""

from __future__ import annotations

import html
from collections.abc import Sequence
from dataclasses import replace
from functools import partial

from PyQt6.QtCore import QModelIndex, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QResizeEvent, QShortcut
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QProgressBar,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from dromic.app.compare.in_turn import InTurn
from dromic.app.compare.paint import PathStrip, Point, Scatter
from dromic.app.compare.rows import SCHOOL, WAYS, CompareRow, rows
from dromic.app.compare.table import FIRST_FIGURE, PATH_COLUMN, PathDelegate, PlanTable, Sorted
from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.app.document_jobs import DocumentJobs
from dromic.app.error_text import error_words
from dromic.app.theme import Theme
from dromic.errors import DromicError
from dromic.planner.compare import SchoolPlans, in_one_style
from dromic.planner.locking import differing, with_plan
from dromic.planner.plan import Plan
from dromic.planner.plan_settings import PlanSettings
from dromic.planner.told.school_profile import asks, worst_spots
from dromic.schools.registry import SCHOOLS

PATH_WIDTH, NAME_WIDTH, ROW_HEIGHT = 112, 150, 42
WIDEST_PATH, COLUMNS_SPARE = 620, 60
LEAST_SPREAD = 0.05
LEAST = QSize(360, 240)


class ComparePage(QWidget):
    """Compares when it shows, and when the riff or the settings change while it does.

    Signals
    -------
    told : str
        What was adopted, or why it could not be.
    adopted : no argument
    """

    message = pyqtSignal(str)
    adopted = pyqtSignal()

    def __init__(self, document: Document, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document, self._theme = document, theme
        self.comparer = DocumentJobs(document, partial(rows, SchoolPlans()), self)
        self.table = PlanTable()
        self._sorted = Sorted(self.table)
        self._paths = PathDelegate(theme)
        self.view = QTableView()
        self.view.setModel(self._sorted)
        self.view.setItemDelegateForColumn(PATH_COLUMN, self._paths)
        self.view.setAccessibleName("Plans")
        self.view.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.view.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.view.setSortingEnabled(True)
        self.view.setShowGrid(False)
        self.view.setAlternatingRowColors(True)
        self.view.sortByColumn(FIRST_FIGURE, Qt.SortOrder.DescendingOrder)
        self.view.doubleClicked.connect(lambda _index: self.adopt())
        self._size_columns()
        self.scatter = Scatter(theme)
        self.now, self.chosen = PathStrip(theme), PathStrip(theme)
        self.state = QLabel()
        self.state.setObjectName("quiet")
        self.progress = QProgressBar()
        self.progress.setRange(0, len(SCHOOLS) + WAYS)
        self.progress.setTextVisible(False)
        self.progress.setFixedWidth(160)
        self.progress.setAccessibleName("Comparing")
        self.progress.hide()
        self.button = QPushButton("Adopt this plan")
        self.button.setToolTip("Take the school, or lock what this plan does differently (Enter)")
        self.button.setEnabled(False)
        self.button.clicked.connect(self.adopt)
        self.detail = QLabel()
        self.detail.setWordWrap(True)
        self.detail.setTextFormat(Qt.TextFormat.RichText)
        self.detail.setAccessibleName("What the selected plan asks")
        self.in_turn = InTurn(self)
        self.in_turn.changed.connect(self._refresh)
        self.in_turn.message.connect(self.message)
        self.turns = QPushButton("Play both in turn")
        self.turns.setToolTip("Hear the plan now and the selected one, one after the other (Space)")
        self.turns.clicked.connect(self.play_in_turn)
        shortcut = QShortcut(QKeySequence(Qt.Key.Key_Space), self.view)
        shortcut.setContext(Qt.ShortcutContext.WidgetShortcut)
        shortcut.activated.connect(self.play_in_turn)
        enter = QShortcut(QKeySequence(Qt.Key.Key_Return), self.view)
        enter.setContext(Qt.ShortcutContext.WidgetShortcut)
        enter.activated.connect(self.adopt)
        self._lay_out()
        selection = self.view.selectionModel()
        if selection is not None:
            selection.currentRowChanged.connect(lambda _one, _two: self._refresh())
        self.scatter.picked.connect(self._pick)
        self.comparer.began.connect(self._begin)
        self.comparer.found.connect(self._add)
        self.comparer.finished.connect(self._end)
        self.comparer.cancelled.connect(self._end)
        document.listen(self._heard)

    def _size_columns(self) -> None:
        header, rows = self.view.horizontalHeader(), self.view.verticalHeader()
        if header is None or rows is None:
            return
        rows.setDefaultSectionSize(ROW_HEIGHT)
        rows.hide()
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(PATH_COLUMN, QHeaderView.ResizeMode.Fixed)
        # In a wide window the pictures take the room that is left.
        others = sum(header.sectionSizeHint(column) for column in range(FIRST_FIGURE, header.count()))
        left = self.view.width() - NAME_WIDTH - others - COLUMNS_SPARE
        header.resizeSection(PATH_COLUMN, max(PATH_WIDTH, min(left, WIDEST_PATH)))
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Fixed)
        header.resizeSection(0, NAME_WIDTH)
        header.setHighlightSections(False)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Give the pictures the room that is left."""
        super().resizeEvent(event)
        self._size_columns()

    def _lay_out(self) -> None:
        below = QHBoxLayout()
        strips = QVBoxLayout()
        strips.addWidget(self.now)
        strips.addWidget(self.chosen)
        below.addLayout(strips, 1)
        side = QVBoxLayout()
        side.addWidget(self.scatter, 1)
        side.addWidget(self.turns)
        side.addWidget(self.button)
        below.addLayout(side)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        top = QHBoxLayout()
        top.addWidget(self.state, 1)
        top.addWidget(self.progress)
        rows.addLayout(top)
        rows.addWidget(self.view, 3)
        rows.addWidget(self.detail)
        rows.addLayout(below, 2)

    def minimumSizeHint(self) -> QSize:
        """However much is compared, the window may be small."""
        return LEAST

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = self._paths.theme = theme
        self._refresh()

    def activated(self) -> None:
        """Compare, now that the page shows."""
        self.comparer.refresh()
        self.view.setFocus()

    def _heard(self, change: Change) -> None:
        if change in (Change.RIFF, Change.PLAN_SETTINGS, Change.FILE) and self.in_turn.sounding is not None:
            self.in_turn.stop()
        if change in (Change.RIFF, Change.PLAN_SETTINGS, Change.FILE) and self.isVisible():
            self.comparer.refresh()
        if change is Change.PLAN:
            self._refresh()

    def _begin(self) -> None:
        self.table.clear()
        self._refresh()

    def _add(self, row: CompareRow) -> None:
        self.table.add(row)
        self._refresh()

    def _end(self, trouble: DromicError | None = None) -> None:
        """Select the best other way when the player has not chosen one."""
        if self.selected is None:
            for place in range(len(self.table.rows)):
                row = self.table.rows[self._sorted.mapToSource(self._sorted.index(place, 0)).row()]
                if row.plan is not None and row.name != self._document.plan_settings.school:
                    self.view.selectRow(place)
                    break
        self._refresh()
        if trouble:
            self.message.emit(error_words(trouble))

    def _pick(self, row: int) -> None:
        self.view.selectRow(self._sorted.mapFromSource(self.table.index(row, 0)).row())

    @property
    def selected(self) -> CompareRow | None:
        """The row that is selected."""
        index: QModelIndex = self.view.currentIndex()
        if not index.isValid():
            return None
        return self.table.rows[self._sorted.mapToSource(index).row()]

    def _refresh(self) -> None:
        rows, theme = self.table.rows, self._theme
        selected, plan = self.selected, self._document.plan
        working = self.comparer.working
        refused = sum(row.plan is None for row in rows)
        words = f"{len(rows)} plans" + (f", {refused} of them without a plan" if refused else "")
        self.state.setText(words + (", comparing on; Esc stops it" if working else "; click a column to sort"))
        self.progress.setVisible(working)
        self.progress.setValue(len(rows))
        number = rows.index(selected) if selected in rows else -1
        planned = [(at, row.label, row.plan) for at, row in enumerate(rows) if row.plan is not None]
        # Where the fretting hand holds all of them back, only the picking hand tells them apart.
        hidden = _spread([plan.ceiling for _, _, plan in planned]) < LEAST_SPREAD
        points = [
            Point(at, label, plan.cost, (plan.ceilings.pick if hidden else plan.ceiling) or 0.0)
            for at, label, plan in planned
        ]
        self.scatter.show_points(points, number, theme, "ceiling of the picking hand" if hidden else "ceiling")
        other = selected.plan if selected is not None else None
        fits = plan is not None and other is not None and len(plan.states) == len(other.states)
        marked = differing(plan, other) if fits and plan is not None and other is not None else ()
        self.now.show_plan(plan, f"Now: {plan.school.title if plan is not None else 'no plan'}", marked, theme)
        caption = "Select a plan above"
        if selected is not None:
            told = selected.refusal or f"{len(marked)} notes played another way"
            caption = f"{selected.title}: {told}" + (f"; {selected.words}" if selected.words else "")
        self.chosen.show_plan(other, caption, marked, theme)
        self.button.setEnabled(other is not None)
        self.detail.setText(_detail(selected, hidden=hidden and len(planned) > 1))
        sounding = self.in_turn.sounding
        self.turns.setEnabled(sounding is not None or (plan is not None and other is not None))
        which = "now" if sounding is plan else "selected"
        self.turns.setText("Play both in turn" if sounding is None else f"Stop (plays: {which})")

    def play_in_turn(self) -> None:
        """Play the plan now and the selected one in turn, or stop."""
        plan, row = self._document.plan, self.selected
        if self.in_turn.sounding is not None:
            self.in_turn.stop()
        elif plan is not None and row is not None and row.plan is not None:
            self.in_turn.play(plan, row.plan)

    def left(self) -> None:
        """Another page shows: what is played stops."""
        self.in_turn.stop()

    def cancel(self) -> None:
        """Stop planning for the table."""
        self.comparer.cancel()

    def stop(self) -> None:
        """Stop, and wait until no thread is left."""
        self.in_turn.close()
        self.comparer.stop()

    def adopt(self) -> None:
        """Take the selected plan: its school, or what it does differently as locks."""
        row, plan = self.selected, self._document.plan
        if row is None or row.plan is None:
            return
        try:
            if row.kind == SCHOOL:
                self._document.set_plan_settings(_with_school(self._document.plan_settings, row.name, row.plan))
            elif plan is not None:
                self._document.edit(with_plan(plan, row.plan), f"adopting {row.title}")
        except DromicError as error:
            self.message.emit(error_words(error))
            return
        self.message.emit(f"Adopted: {row.title}")
        self.adopted.emit()


def _spread(ceilings: Sequence[float | None]) -> float:
    """How far ceilings lie apart, as a share of the largest."""
    known = [ceiling for ceiling in ceilings if ceiling is not None]
    return 1.0 if len(known) < 2 else (max(known) - min(known)) / max(known)


def _detail(row: CompareRow | None, *, hidden: bool) -> str:
    """What the selected row asks of the player, and where it holds back."""
    if row is None:
        return ""
    if row.plan is None:
        return html.escape(f"{row.title}: {row.refusal}")
    spots = "; ".join(spot.words for spot in worst_spots(row.plan))
    parts = [
        row.plan.rules.words if row.kind == SCHOOL else f"{row.words[:1].upper()}{row.words[1:]}.",
        asks(row.plan),
    ]
    if row.other_use:
        parts.insert(0, f"It is made {row.other_use}.")
    if spots:
        parts.append(f"Ceilings: {spots}.")
    if hidden:
        parts.append(
            "The fretting hand holds all of them back at one tempo, so the picture compares the picking hand."
        )
    return f"<b>{html.escape(row.title)}.</b> {html.escape(' '.join(parts))}"


def _with_school(settings: PlanSettings, name: str, compared: Plan) -> PlanSettings:
    """Settings with another school, and with the style that the schools were compared in."""
    settings = replace(settings, school=name)
    told = in_one_style(compared.riff, settings.request()).style
    return settings if told is compared.sound.style else replace(settings, style=compared.sound.style)
