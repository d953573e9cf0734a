"""The last repetitions as a table: a model, so that a long log costs nothing until it is scrolled to."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QObject, Qt

from dromic.practice.log.logbook import Clean, Rep, Source

COLUMNS = ("When", "What", "Tempo", "Clean", "Felt")
WHAT = COLUMNS.index("What")
MARKS = {Clean.CLEAN: "clean", Clean.NOT: "not clean", Clean.UNMARKED: "–"}


class RepTable(QAbstractTableModel):
    """Repetitions in rows, the newest first."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._reps: tuple[Rep, ...] = ()

    def show_reps(self, reps: tuple[Rep, ...]) -> None:
        """Show other repetitions."""
        self.beginResetModel()
        self._reps = reps
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        """How many there are."""
        return 0 if parent is not None and parent.isValid() else len(self._reps)

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        """Always the same."""
        return 0 if parent is not None and parent.isValid() else len(COLUMNS)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Words of a cell; the same when the pointer rests on it, for there may be no room for all of them."""
        if index.isValid() and role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            return cells(self._reps[index.row()])[index.column()]
        if index.isValid() and role == Qt.ItemDataRole.AccessibleTextRole:
            return cells(self._reps[index.row()])[index.column()] or "not said"
        return None

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Names of the columns."""
        if orientation is Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return COLUMNS[section]
        return None


def cells(rep: Rep) -> tuple[str, ...]:
    """A repetition in words, by column."""
    by_take = " (take)" if rep.source is Source.TAKE else ""
    dense = f" ×{rep.density}" if rep.density > 1 else ""
    said = f" – {rep.note}" if rep.note else ""
    return (
        f"{rep.when.astimezone():%d %b %H:%M}",
        f"{rep.kind}{dense}, {rep.title.partition(': ')[2] or rep.title}{said}",
        f"{rep.tempo:.0f}",
        MARKS[rep.clean] + by_take,
        "" if rep.felt is None else f"{rep.felt} of 5",
    )
