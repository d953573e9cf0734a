"""The Compare stage: all schools and the best plans side by side; one is adopted by a click."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QModelIndex, Qt, pyqtSignal
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

from dromic.app.compare.paint import PathStrip, Point, Scatter
from dromic.app.compare.rows import SCHOOL, WAYS, CompareRow, rows
from dromic.app.compare.table import FIRST_FIGURE, PATH_COLUMN, PathDelegate, PlanTable, Sorted
from dromic.app.document import Change, Document
from dromic.app.document_jobs import DocumentJobs
from dromic.app.error_text import error_words
from dromic.app.theme import Theme
from dromic.errors import DromicError
from dromic.planner.compare import in_one_style
from dromic.planner.locking import differing, with_plan
from dromic.planner.plan import Plan
from dromic.planner.plan_settings import PlanSettings
from dromic.schools.registry import SCHOOLS

PATH_WIDTH, NAME_WIDTH, ROW_HEIGHT = 112, 136, 42


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
        self.comparer = DocumentJobs(document, rows, self)
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
        header.resizeSection(PATH_COLUMN, PATH_WIDTH)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Fixed)
        header.resizeSection(0, NAME_WIDTH)
        header.setHighlightSections(False)

    def _lay_out(self) -> None:
        below = QHBoxLayout()
        strips = QVBoxLayout()
        strips.addWidget(self.now)
        strips.addWidget(self.chosen)
        below.addLayout(strips, 1)
        side = QVBoxLayout()
        side.addWidget(self.scatter, 1)
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
        rows.addLayout(below, 2)

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = self._paths.theme = theme
        self._refresh()

    def activated(self) -> None:
        """Compare, now that the page shows."""
        self.comparer.refresh()
        self.view.setFocus()

    def _heard(self, change: Change) -> None:
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
        points = [
            Point(at, row.title, row.plan.cost, row.plan.ceiling or 0.0)
            for at, row in enumerate(rows)
            if row.plan is not None
        ]
        self.scatter.show_points(points, number, theme)
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


def _with_school(settings: PlanSettings, name: str, compared: Plan) -> PlanSettings:
    """Settings with another school, and with the style that the schools were compared in."""
    settings = replace(settings, school=name)
    told = in_one_style(compared.riff, settings.request()).style
    return settings if told is compared.sound.style else replace(settings, style=compared.sound.style)
