"""The cells of the coverage tables: kinds of movement, read from the names of movements.

*Hand-over*: which finger follows which across a change of strings, toward the thin side or the thick one.
*Fingers on one string*: which follows which, on low, middle or high strings. *Strokes*: a flip on one string, and
inside, outside, sweep and skip between strings, each way. *Shifts*: by how many frets, up or down the neck.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

THINNER, THICKER = "to thinner", "to thicker"
DOWN_UP, UP_DOWN = "down, up", "up, down"
UP_THE_NECK, DOWN_THE_NECK = "up the neck", "down the neck"
FINGERS = ("1", "2", "3", "4")
AREAS = ("low strings", "middle strings", "high strings")
FLIP, INSIDE, OUTSIDE, SWEEP, SKIP, REPEATED = "flip", "inside", "outside", "sweep", "skip", "repeated"
DISTANCES = ("1 fret", "2 frets", "3 frets", "4 frets", "5 or 6 frets", "7 frets or more")
_KEY = re.compile(r"(.)(.)([+-]\d+)\.(\(\d+\)|\d)(\(\d+\)|\d)(?:[+-]\d+)?\.(-?\d+)")


class Table(StrEnum):
    """A table of movements."""

    HAND_OVER_THINNER = "hand-over to a thinner string"
    HAND_OVER_THICKER = "hand-over to a thicker string"
    ONE_STRING = "fingers on one string"
    STROKES = "strokes"
    SHIFTS = "shifts"


@dataclass(frozen=True, order=True)
class Cell:
    """One kind of movement: a cell of a table."""

    table: Table
    row: str
    column: str

    @property
    def words(self) -> str:
        """The kind of movement in words.

        Examples
        --------
        >>> Cell(Table.HAND_OVER_THINNER, "3", "1").words, Cell(Table.STROKES, INSIDE, THICKER).words
        ('finger 3 to 1 on a thinner string', 'inside change to a thicker string')
        """
        if self.table in (Table.HAND_OVER_THINNER, Table.HAND_OVER_THICKER):
            side = "thinner" if self.table is Table.HAND_OVER_THINNER else "thicker"
            return f"finger {self.row} to {self.column} on a {side} string"
        if self.table is Table.ONE_STRING:
            return f"finger {self.row.replace('-', ' to ')} on {self.column}"
        if self.table is Table.SHIFTS:
            return f"shift of {self.row} {self.column}"
        if self.row == FLIP:
            return f"{self.column} on one string"
        if self.row == REPEATED:
            return "repeated stroke" if self.column == THINNER else "repeated stroke over to another string"
        noun = {SWEEP: "sweep", SKIP: "skip"}.get(self.row, f"{self.row} change")
        return f"{noun} {self.column.replace('to ', 'to a ')} string"


ROWS: dict[Table, tuple[str, ...]] = {
    Table.HAND_OVER_THINNER: FINGERS,
    Table.HAND_OVER_THICKER: FINGERS,
    Table.ONE_STRING: tuple(f"{one}-{two}" for one in FINGERS for two in FINGERS if one != two),
    Table.STROKES: (INSIDE, OUTSIDE, SWEEP, SKIP),
    Table.SHIFTS: DISTANCES,
}
COLUMNS: dict[Table, tuple[str, ...]] = {
    Table.HAND_OVER_THINNER: FINGERS,
    Table.HAND_OVER_THICKER: FINGERS,
    Table.ONE_STRING: AREAS,
    Table.STROKES: (THINNER, THICKER),
    Table.SHIFTS: (UP_THE_NECK, DOWN_THE_NECK),
}
FLIPS = (Cell(Table.STROKES, FLIP, DOWN_UP), Cell(Table.STROKES, FLIP, UP_DOWN))


def cells_of_table(table: Table) -> tuple[Cell, ...]:
    """Every cell of a table, row by row; flips, which go by strokes and not by strings, first."""
    own = tuple(Cell(table, row, column) for row in ROWS[table] for column in COLUMNS[table])
    return (*FLIPS, *own) if table is Table.STROKES else own


@lru_cache(maxsize=20_000)
def cells_of(key: str, area: str = "") -> tuple[Cell, ...]:
    """The kinds of movement that a movement is.

    Parameters
    ----------
    key : str
        As `dromic.practice.movement.movement_key` makes it.
    area : str
        One of `AREAS`; empty where it is not known, and then the fingers of one string are not told.

    Examples
    --------
    >>> [cell.words for cell in cells_of("du+1.13+2.0@1/4")]
    ['finger 1 to 3 on a thinner string', 'outside change to a thinner string']
    >>> [cell.words for cell in cells_of("ud+0.42-2.0@1/4", "low strings")]
    ['finger 4 to 2 on low strings', 'up, down on one string']
    """
    match = _KEY.match(key)
    if match is None:
        return ()
    first, second, strings, finger, other, shift = match.groups()
    by = int(strings)
    cells: list[Cell] = []
    if finger in FINGERS and other in FINGERS:
        if by:
            table = Table.HAND_OVER_THINNER if by > 0 else Table.HAND_OVER_THICKER
            cells.append(Cell(table, finger, other))
        elif finger != other and area:
            cells.append(Cell(Table.ONE_STRING, f"{finger}-{other}", area))
    stroke = _stroke_cell(first, second, by)
    if stroke is not None:
        cells.append(stroke)
    frets = abs(int(shift))
    if frets:
        row = DISTANCES[min(frets, 4) - 1] if frets <= 4 else DISTANCES[4 if frets <= 6 else 5]
        cells.append(Cell(Table.SHIFTS, row, UP_THE_NECK if int(shift) > 0 else DOWN_THE_NECK))
    return tuple(cells)


def _stroke_cell(first: str, second: str, by: int) -> Cell | None:
    """How the pick gets from one stroke to the next; None where it is not the pick that sounds both."""
    if not {first, second} <= {"d", "u"}:
        return None
    way = THINNER if by > 0 else THICKER
    if not by:
        if first == second:
            return Cell(Table.STROKES, REPEATED, THINNER)
        return Cell(Table.STROKES, FLIP, DOWN_UP if first == "d" else UP_DOWN)
    if abs(by) > 1:
        return Cell(Table.STROKES, SKIP, way)
    if first == second:
        onward = (first == "d") == (by > 0)
        return Cell(Table.STROKES, SWEEP if onward else REPEATED, way if onward else THICKER)
    # A down leaves toward the thin side: the up on the next thinner string comes from beyond it.
    return Cell(Table.STROKES, OUTSIDE if (first == "d") == (by > 0) else INSIDE, way)


def area_of(string: int, strings: int) -> str:
    """Which area a string belongs to: a third of them each.

    Examples
    --------
    >>> area_of(6, 6), area_of(3, 6), area_of(1, 6), area_of(2, 4)
    ('low strings', 'middle strings', 'high strings', 'middle strings')
    """
    share = (strings - string + 0.5) / strings
    return AREAS[min(int(share * 3), 2)]
