"""The table of plans side by side: one row a way of playing, a small pick path in each, sorted by any column."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QSortFilterProxyModel, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QStyledItemDelegate, QStyleOptionViewItem

from dromic.app.compare.paint import paint_neck, paint_path
from dromic.app.compare.rows import WAY, CompareRow
from dromic.app.theme import Theme
from dromic.planner.plan import Plan
from dromic.planner.told.school_profile import worst_spots
from dromic.planner.told.totals import TOTALS, Total

SORT_ROLE = Qt.ItemDataRole.UserRole + 1
ROW_ROLE = Qt.ItemDataRole.UserRole + 2


@dataclass(frozen=True)
class TableColumn:
    """A column: its title, what it shows, and a hint."""

    title: str
    value: Callable[[Plan], float]
    hint: str
    places: int = 0


def _of_total(total: Total) -> TableColumn:
    return TableColumn(total.column, lambda plan: plan.totals[total.key], total.words)


COLUMNS = (
    TableColumn("ceiling", lambda plan: plan.ceiling or 0.0, "tempo at which the largest load is 1"),
    TableColumn("picking", lambda plan: plan.ceilings.pick or 0.0, "ceiling of the picking hand alone"),
    TableColumn("fretting", lambda plan: plan.ceilings.fret or 0.0, "ceiling of the fretting hand alone"),
    TableColumn("effort", lambda plan: plan.cost, "what the plan costs in all", 2),
    *(_of_total(total) for total in TOTALS.values() if total.column),
)
PATH_COLUMN = 1
FIRST_FIGURE = 2
# Columns that have a worst spot, and whose it is.
_SPOTS = {FIRST_FIGURE: "together", FIRST_FIGURE + 1: "picking", FIRST_FIGURE + 2: "fretting"}


class PlanTable(QAbstractTableModel):
    """Rows of a comparison."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[CompareRow] = []

    def clear(self) -> None:
        """Take all rows away."""
        self.beginResetModel()
        self.rows = []
        self.endResetModel()

    def add(self, row: CompareRow) -> None:
        """Add a row at the end."""
        at = len(self.rows)
        self.beginInsertRows(QModelIndex(), at, at)
        self.rows.append(row)
        self.endInsertRows()

    def rowCount(self, _parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008 - Qt's own default
        """Number of rows."""
        return len(self.rows)

    def columnCount(self, _parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008 - Qt's own default
        """Number of columns."""
        return FIRST_FIGURE + len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        """Titles and hints of the columns."""
        if orientation is not Qt.Orientation.Horizontal:
            return None
        column = COLUMNS[section - FIRST_FIGURE] if section >= FIRST_FIGURE else None
        if role == Qt.ItemDataRole.DisplayRole:
            return column.title if column is not None else ("plan", "path, or neck")[section]
        if role == Qt.ItemDataRole.ToolTipRole and column is not None:
            return column.hint
        return None

    def data(self, index: QModelIndex, role: int = 0) -> Any:
        """What a cell shows, and what it is sorted by."""
        row = self.rows[index.row()]
        if role == ROW_ROLE:
            return row
        if index.column() < FIRST_FIGURE:
            return self._words(row, index.column(), role)
        column = COLUMNS[index.column() - FIRST_FIGURE]
        value = None if row.plan is None else float(column.value(row.plan))
        if role == SORT_ROLE:
            return -1e9 if value is None else value
        if role == Qt.ItemDataRole.DisplayRole:
            return "–" if value is None else f"{value:.{column.places}f}"
        if role == Qt.ItemDataRole.ToolTipRole and row.plan is not None and index.column() in _SPOTS:
            spots = {spot.who: spot for spot in worst_spots(row.plan)}
            spot = spots.get(_SPOTS[index.column()])
            return None if spot is None else f"held back by {spot.where}"
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        return None

    def _words(self, row: CompareRow, column: int, role: int) -> Any:
        if column == PATH_COLUMN and role == Qt.ItemDataRole.AccessibleTextRole:
            return f"picture of {row.label}"
        if column == PATH_COLUMN:
            return row.title if role == SORT_ROLE else None
        if role in (Qt.ItemDataRole.DisplayRole, SORT_ROLE):
            return row.label
        if role == Qt.ItemDataRole.ToolTipRole:
            return row.refusal or row.words or (row.plan.rules.words if row.plan is not None else None)
        return None


class Sorted(QSortFilterProxyModel):
    """Sorts by the numbers behind the figures."""

    def __init__(self, table: PlanTable) -> None:
        super().__init__()
        self.setSourceModel(table)
        self.setSortRole(SORT_ROLE)
        self.setDynamicSortFilter(True)

    def lessThan(self, left: QModelIndex, right: QModelIndex) -> bool:
        """What is made for something else comes last, whichever way it is sorted."""
        one, two = left.data(ROW_ROLE), right.data(ROW_ROLE)
        if isinstance(one, CompareRow) and isinstance(two, CompareRow):
            last, other = (bool(row.other_use) or row.plan is None for row in (one, two))
            if last is not other:
                return last is (self.sortOrder() is Qt.SortOrder.DescendingOrder)
        return super().lessThan(left, right)


class PathDelegate(QStyledItemDelegate):
    """Paints the small pick path of a row."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """Paint a cell."""
        super().paint(painter, option, index)
        row = index.data(ROW_ROLE)
        if painter is not None and isinstance(row, CompareRow) and row.plan is not None:
            painter.save()
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            box = option.rect.adjusted(6, 7, -6, -6).toRectF()
            # Ways across the neck differ in where the hand is.
            (paint_neck if row.kind == WAY else paint_path)(painter, box, row.plan, self.theme)
            painter.restore()
