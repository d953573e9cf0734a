"""The coverage tables drawn: how often each kind of movement comes, and what is needed and never comes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import log2

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from dromic.app.chart.painting import pen
from dromic.app.theme import UI_FONT, Theme
from dromic.practice.coverage.cells import AREAS, COLUMNS, FLIPS, ROWS, UP_THE_NECK, Cell, Table

CELL, GAP, TITLE, SIDE = 34.0, 3.0, 42.0, 74.0
FULL_FROM = 64
_STROKE_COLUMNS = ("to thinner", "to thicker")


@dataclass(frozen=True)
class Shown:
    """What the tables show.

    Parameters
    ----------
    counts : mapping of Cell to int
        How often each kind comes.
    needed : frozenset of Cell
        What is needed; those without a count are gaps. Empty where nothing is compared.
    areas : bool
        Whether it is known on which strings fingers move.
    """

    counts: Mapping[Cell, int]
    needed: frozenset[Cell] = frozenset()
    areas: bool = True

    @property
    def gaps(self) -> frozenset[Cell]:
        """What is needed and never comes; what is not known is no gap."""
        known = (cell for cell in self.needed if self.areas or cell.table is not Table.ONE_STRING)
        return frozenset(cell for cell in known if not self.counts.get(cell))


class CoverageTables(QWidget):
    """Draws the tables; cells are chosen by clicks, or by arrows and Space.

    Signals
    -------
    changed : no argument
        Other cells are chosen.
    """

    changed = pyqtSignal()

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self.shown = Shown({})
        self.chosen: frozenset[Cell] = frozenset()
        self._cursor = 0
        self._boxes = _laid_out()
        self._cells = tuple(self._boxes)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Coverage tables")
        right = max(box.right() for box in self._boxes.values())
        bottom = max(box.bottom() for box in self._boxes.values())
        self.setMinimumSize(round(right) + 8, round(bottom) + 30)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = theme
        self.update()

    def show_counts(self, shown: Shown) -> None:
        """Show other counts; what is chosen stays."""
        self.shown = shown
        self.setAccessibleDescription(
            f"{len([cell for cell in self._cells if shown.counts.get(cell)])} of {len(self._cells)} kinds of "
            f"movement, {len(shown.gaps)} gaps"
        )
        self.update()

    def clear(self) -> None:
        """Choose nothing."""
        self.chosen = frozenset()
        self.changed.emit()
        self.update()

    # -- painting -----------------------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Paint headings, cells and the cursor."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for table, (left, top) in _PLACES.items():
            self._paint_headings(painter, table, left, top)
        for cell, box in self._boxes.items():
            self._paint_cell(painter, cell, box)
        if self.hasFocus():
            painter.setPen(pen(self._theme.color("ink"), 1.4, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(self._boxes[self._cells[self._cursor]].adjusted(-2, -2, 2, 2), 6, 6)
        painter.end()

    def _font(self, painter: QPainter, size: int, *, bold: bool = False) -> None:
        font = QFont(UI_FONT)
        font.setPixelSize(size)
        if bold:
            font.setWeight(QFont.Weight.DemiBold)
        painter.setFont(font)

    def _paint_headings(self, painter: QPainter, table: Table, left: float, top: float) -> None:
        theme = self._theme
        painter.setPen(theme.color("ink"))
        self._font(painter, 14, bold=True)
        painter.drawText(QPointF(left, top - 26), _TITLES[table])
        painter.setPen(theme.color("quiet"))
        self._font(painter, 12)
        rows, columns = _rows_and_columns(table)
        for at, words in enumerate(columns):
            box = QRectF(left + SIDE + at * (CELL + GAP) - 8, top - 20, CELL + 16, 16)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, _short(words))
        for at, words in enumerate(rows):
            box = QRectF(left, top + at * (CELL + GAP), SIDE - 8, CELL)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, _short(words))
        if table in (Table.HAND_OVER_THINNER, Table.HAND_OVER_THICKER):
            corner = QRectF(left, top - 20, SIDE - 8, 16)
            painter.drawText(corner, Qt.AlignmentFlag.AlignRight, "from, to")
        if table is Table.STROKES:
            y = top + len(rows) * (CELL + GAP) + 4
            box = QRectF(left, y, SIDE - 8, CELL)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, "flip")
            for at, words in enumerate(("to up", "to down")):
                below = QRectF(left + SIDE + at * (CELL + GAP) - 8, y + CELL, CELL + 16, 15)
                painter.drawText(below, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_cell(self, painter: QPainter, cell: Cell, box: QRectF) -> None:
        theme, count = self._theme, self.shown.counts.get(cell, 0)
        unknown = cell.table is Table.ONE_STRING and not self.shown.areas
        gap, chosen = cell in self.shown.gaps, cell in self.chosen
        painter.setPen(pen(theme.color("faint"), 1.0))
        painter.setBrush(theme.color("sheet"))
        painter.drawRoundedRect(box, 5, 5)
        if count and not unknown:
            share = min(log2(1 + count) / log2(1 + FULL_FROM), 1.0)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.color("calm", 40 + round(150 * share)))
            painter.drawRoundedRect(box, 5, 5)
        if gap:
            painter.setPen(pen(theme.color("hot"), 2.0, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 5, 5)
        elif cell in self.shown.needed:
            painter.setPen(pen(theme.color("calm"), 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 5, 5)
        if chosen:
            painter.setPen(pen(theme.color("accent"), 3.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box, 5, 5)
        self._font(painter, 13, bold=gap)
        painter.setPen(theme.color("hot" if gap else "ink" if count else "quiet"))
        words = "?" if unknown else "none" if gap else _count(count)
        self._font(painter, 11 if gap else 13, bold=gap)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    # -- choosing -----------------------------------------------------------------------------------------------

    def cell_at(self, place: QPointF) -> Cell | None:
        """The cell at a place."""
        return next((cell for cell, box in self._boxes.items() if box.contains(place)), None)

    def box(self, cell: Cell) -> QRectF:
        """Where a cell is."""
        return self._boxes[cell]

    def toggle(self, cell: Cell) -> None:
        """Choose a cell, or let it go."""
        self.chosen = self.chosen ^ {cell}
        self._cursor = self._cells.index(cell)
        self.changed.emit()
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Choose the cell that was clicked."""
        cell = self.cell_at(event.position()) if event is not None else None
        if cell is not None:
            self.setFocus()
            self.toggle(cell)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Say what a cell is."""
        cell = self.cell_at(event.position()) if event is not None else None
        if event is not None and cell is not None:
            QToolTip.showText(event.globalPosition().toPoint(), self.words(cell), self)

    def words(self, cell: Cell) -> str:
        """A cell in words, with its count."""
        count = self.shown.counts.get(cell, 0)
        if cell.table is Table.ONE_STRING and not self.shown.areas:
            return f"{cell.words}: the log does not say on which strings"
        times = "never" if not count else "once" if count == 1 else f"{count} times"
        needed = ", and this riff needs it" if cell in self.shown.needed else ""
        return f"{cell.words}: {times}{needed}"

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Walk from cell to cell, and choose."""
        if event is None:
            return
        ways = {
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Down: (0, 1),
            Qt.Key.Key_Up: (0, -1),
        }
        key = Qt.Key(event.key())
        if key in ways:
            self._walk(*ways[key])
        elif key == Qt.Key.Key_Space:
            self.toggle(self._cells[self._cursor])
        else:
            super().keyPressEvent(event)

    def _walk(self, right: int, down: int) -> None:
        """To the nearest cell in a direction."""
        here = self._boxes[self._cells[self._cursor]].center()
        best: tuple[float, int] | None = None
        for number, cell in enumerate(self._cells):
            way = self._boxes[cell].center() - here
            onward = way.x() * right + way.y() * down
            aside = abs(way.x() * down) + abs(way.y() * right)
            if onward > 1:
                price = onward + 3 * aside
                if best is None or price < best[0]:
                    best = price, number
        if best is not None:
            self._cursor = best[1]
            self.setAccessibleDescription(self.words(self._cells[self._cursor]))
            self.update()


_TITLES = {
    Table.HAND_OVER_THINNER: "Finger to finger, to a thinner string",
    Table.HAND_OVER_THICKER: "Finger to finger, to a thicker string",
    Table.STROKES: "Strokes between strings",
    Table.ONE_STRING: "Finger to finger on one string",
    Table.SHIFTS: "Shifts, by frets",
}
_WIDE = SIDE + 4 * (CELL + GAP) + 34
_PLACES = {
    Table.HAND_OVER_THINNER: (0.0, TITLE),
    Table.HAND_OVER_THICKER: (_WIDE, TITLE),
    Table.STROKES: (2 * _WIDE, TITLE),
    Table.ONE_STRING: (0.0, TITLE + 6 * (CELL + GAP) + 28),
    Table.SHIFTS: (0.0, TITLE + 9 * (CELL + GAP) + 28 + TITLE + 8),
}


def _rows_and_columns(table: Table) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Rows and columns as they are drawn: long tables lie on their side."""
    if table in (Table.ONE_STRING, Table.SHIFTS):
        return COLUMNS[table], ROWS[table]
    return ROWS[table], COLUMNS[table]


def _laid_out() -> dict[Cell, QRectF]:
    """Where every cell is."""
    laid_out: dict[Cell, QRectF] = {}
    for table, (left, top) in _PLACES.items():
        turned = table in (Table.ONE_STRING, Table.SHIFTS)
        rows, columns = _rows_and_columns(table)
        for down, row in enumerate(rows):
            for right, column in enumerate(columns):
                cell = Cell(table, column, row) if turned else Cell(table, row, column)
                x, y = left + SIDE + right * (CELL + GAP), top + down * (CELL + GAP)
                laid_out[cell] = QRectF(x, y, CELL, CELL)
        if table is Table.STROKES:
            y = top + len(rows) * (CELL + GAP) + 4
            for at, cell in enumerate(FLIPS):
                laid_out[cell] = QRectF(left + SIDE + at * (CELL + GAP), y, CELL, CELL)
    return laid_out


def _short(words: str) -> str:
    """A heading that fits over a cell."""
    shorter = {
        "to thinner": "thinner",
        "to thicker": "thicker",
        UP_THE_NECK: "up",
        "down the neck": "down",
        **{area: area.split()[0] for area in AREAS},
    }
    if words in shorter:
        return shorter[words]
    return (
        words.replace(" frets or more", "+")
        .replace("5 or 6 frets", "5, 6")
        .replace(" frets", "")
        .replace(" fret", "")
    )


def _count(count: int) -> str:
    return "" if not count else str(count) if count < 1000 else f"{count / 1000:.1f}k"
