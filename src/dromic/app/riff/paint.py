"""The riff board painted: strings, plates, lengths, marks and the cursor."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from math import ceil

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPixmap

from dromic.app.chart.painting import MOST_STAMPS, pen, picture_of, pixel_font
from dromic.app.riff.board_layout import GUTTER, HEAD, PLATE, BarPlace, BoardLayout, Cell
from dromic.app.theme import Theme
from dromic.hands.fingers import finger_sign
from dromic.instrument.presets import instrument_for
from dromic.memory import Memo, memo
from dromic.music.pitch import Pitch, pitch_name
from dromic.music.riff import NO_LOCKS, Bar, Event, Mark, Place, Riff, Stroke
from dromic.planner.plan import Plan, PlannedNote

# Pixels beside a bar that its plates and words may reach over.
SPARE = 48
MOST_PICTURES = 200


@dataclass(frozen=True)
class Cursor:
    """Where the next key will write, and what is selected."""

    event_index: int
    string: int
    awake: bool
    selected: frozenset[int]


@dataclass(frozen=True)
class PlateLook:
    """What the looks of a plate depend on: its words and width, whether the place is free, tied over, muted."""

    text: str
    width: float
    free: bool
    tied: bool
    muted: bool


@dataclass(frozen=True)
class BarLook:
    """All that a bar is drawn from.

    Parameters
    ----------
    bar : Bar
    planned : tuple of tuple of PlannedNote
        Where the plan puts the notes of each event.
    strings : int
    aside, below : float
        What the place of the bar has beyond whole pixels.
    theme : Theme
    ratio : float
        Device pixels for one of the board's own.
    """

    bar: Bar
    planned: tuple[tuple[PlannedNote, ...], ...]
    strings: int
    aside: float
    below: float
    theme: Theme
    ratio: float


class BoardPictures:
    """Pictures of bars and of the plates on them, each drawn once for as long as it would look the same."""

    def __init__(self) -> None:
        self.plates = Memo(plate_picture, MOST_STAMPS)
        self.bars = Memo(partial(bar_picture, self.plates), MOST_PICTURES)


@dataclass(frozen=True)
class BoardPainter:
    """Paints the lines of a sheet that show."""

    painter: QPainter
    sheet: BoardLayout
    theme: Theme
    planned: Mapping[int, tuple[PlannedNote, ...]]
    pictures: BoardPictures
    ratio: float = 1.0

    def paint(self, cursor: Cursor, width: float, low: float, high: float) -> None:
        """Paint what lies between two heights of the sheet.

        Parameters
        ----------
        cursor : Cursor
        width, low, high : float
        """
        sheet = self.sheet
        bars = sheet.between(low - sheet.row_height, high)
        shown = [cell for place in bars for cell in place.cells]
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(self.theme.color("chosen"))
        for cell in shown:
            if cell.event_index in cursor.selected:
                self.painter.drawRect(QRectF(cell.x - 2, cell.y + 2, cell.width, sheet.row_height - 10))
        self.painter.drawRoundedRect(QRectF(*sheet.box(cursor.event_index)).adjusted(0, 2, 0, -2), 5, 5)
        for top in dict.fromkeys(cell.y for cell in shown):
            self._paint_strings(top, width)
        for place in bars:
            self._paint_bar(place)
        self._paint_cursor(cursor)
        self._paint_phrases(shown)

    def _paint_bar(self, place: BarPlace) -> None:
        planned = tuple(self.planned.get(place.first + at, ()) for at in range(len(place.bar.events)))
        look = BarLook(place.bar, planned, self.sheet.strings, place.x % 1.0, place.y % 1.0, self.theme, self.ratio)
        self.painter.drawPixmap(QPointF(int(place.x) - SPARE, int(place.y)), self.pictures.bars(look))

    def _font(self, size: int, *, bold: bool = False) -> None:
        self.painter.setFont(pixel_font(size, bold=bold))

    def _paint_strings(self, top: float, width: float) -> None:
        riff, theme = self.sheet.riff, self.theme
        if riff is None:
            return
        instrument = instrument_for(riff)
        self._font(12)
        for string in range(1, instrument.strings + 1):
            y = self.sheet.string_y(top, string)
            self.painter.setPen(pen(theme.color("string", 150), 0.7 + 0.22 * string))
            self.painter.drawLine(QPointF(GUTTER - 6, y), QPointF(width - 14, y))
            self.painter.setPen(theme.color("quiet"))
            box = QRectF(0, y - 9, GUTTER - 12, 18)
            name = pitch_name(instrument.tuning[instrument.index(string)] + instrument.capo)
            self.painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, name)

    def _paint_cursor(self, cursor: Cursor) -> None:
        left, top, *_ = self.sheet.box(cursor.event_index)
        y = self.sheet.string_y(top, cursor.string)
        color = self.theme.color("accent" if cursor.awake else "string")
        self.painter.setPen(pen(color, 1.8))
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        self.painter.drawRoundedRect(QRectF(left + 1, y - 10.5, max(PLATE + 4, 24), 21), 5, 5)

    def _paint_phrases(self, shown: list[Cell]) -> None:
        riff = self.sheet.riff
        if riff is None:
            return
        begins = memo(_headings, riff)
        self._font(12)
        self.painter.setPen(self.theme.color("accent"))
        metrics = self.painter.fontMetrics()
        taken: dict[tuple[float, float], float] = {}
        for cell in shown:
            if begins.get(cell.event_index):
                words = begins[cell.event_index].strip()
                self.painter.drawText(QPointF(cell.x, cell.y + 11), words)
                taken[cell.x, cell.y] = metrics.horizontalAdvance(words) + 12.0
        self._font(12, bold=True)
        for cell in shown:
            if cell.event.chord is not None:
                words, shift = str(cell.event.chord), taken.get((cell.x, cell.y), 0.0)
                self.painter.drawText(QPointF(cell.x + 2 + shift, cell.y + 11), words)
                if cell.x == cell.bar_x or (cell.x, cell.y) in taken:
                    taken[cell.x, cell.y] = shift + metrics.horizontalAdvance(words) + 14.0
        self._font(12)
        self.painter.setPen(self.theme.color("quiet"))
        for cell in shown:
            if cell.comment:
                left = cell.bar_x + taken.get((cell.bar_x, cell.y), 0.0)
                room = QRectF(left, cell.y, cell.x + cell.width - left, 15)
                words = metrics.elidedText(cell.comment, Qt.TextElideMode.ElideRight, round(room.width()))
                self.painter.drawText(room, Qt.AlignmentFlag.AlignRight, words)


@dataclass(frozen=True)
class _BarPainter:
    """Paints the events of one bar."""

    painter: QPainter
    sheet: BoardLayout
    theme: Theme
    planned: Sequence[tuple[PlannedNote, ...]]
    plates: Memo[QPixmap]
    ratio: float

    def _font(self, size: int) -> None:
        self.painter.setFont(pixel_font(size))

    def paint(self, cell: Cell) -> None:
        theme, event = self.theme, cell.event
        bottom = self.sheet.string_y(cell.y, 1)
        if cell.ends_bar:
            x = cell.x + cell.width + 4
            self.painter.setPen(pen(theme.color("string"), 1.2))
            self.painter.drawLine(QPointF(x, self.sheet.string_y(cell.y, self.sheet.strings)), QPointF(x, bottom))
        # The length as a bar: solid for notes, hollow for rests.
        length = QRectF(cell.x, bottom + 14, cell.width - 5, 5)
        self.painter.setPen(pen(theme.color("string"), 1.0))
        self.painter.setBrush(Qt.BrushStyle.NoBrush if event.rest else theme.color("string"))
        if not event.grace:
            self.painter.drawRoundedRect(length, 2.5, 2.5)
        self._font(11)
        self.painter.setPen(theme.color("quiet"))
        words = "grace" if event.grace else str(event.value) if cell.shows_length else ""
        self.painter.drawText(QRectF(cell.x - 2, bottom + 19, cell.width + 6, 14), 0, words)
        self._paint_marks(cell)
        for note in event.notes:
            if isinstance(note.target, Place):
                self._paint_plate(cell, self.sheet.string_y(cell.y, note.target.string), str(note.target.fret))
            else:
                self._paint_free(cell, note.target)

    def _paint_free(self, cell: Cell, pitch: Pitch) -> None:
        """A pitch: where the plan puts it, dashed, or in the middle while there is no plan."""
        planned = next((one for one in self.planned[cell.event_index] if one.pitch == pitch.midi), None)
        if planned is None:
            middle = (self.sheet.string_y(cell.y, 1) + self.sheet.string_y(cell.y, self.sheet.strings)) / 2
            self._paint_plate(cell, middle, str(pitch), free=True)
            return
        y = self.sheet.string_y(cell.y, planned.string)
        self._paint_plate(cell, y, str(planned.fret), free=True)
        self._font(11)
        self.painter.setPen(self.theme.color("quiet"))
        shift = 9 * len(cell.event.marks) + (16 if cell.event.locks != NO_LOCKS else 0)
        self.painter.drawText(QPointF(cell.x + 2 + shift, cell.y + HEAD - 13), str(pitch))

    def _paint_plate(self, cell: Cell, y: float, text: str, *, free: bool = False) -> None:
        marks = cell.event.marks
        tied, muted, dead = (mark in marks for mark in (Mark.TIE, Mark.PALM_MUTE, Mark.DEAD))
        shown = "x" if dead else f"({text})" if tied else text
        width = max(PLATE, 9.0 * len(text) + 6)
        look = PlateLook(shown, width, free, tied, muted)
        ratio = self.ratio
        picture = self.plates(look, self.theme, ratio)
        left, top = (round(at * ratio) / ratio for at in (cell.x - 1, y - 10.5))
        self.painter.drawPixmap(QPointF(left, top), picture)

    def _paint_marks(self, cell: Cell) -> None:
        event = cell.event
        quiet = {Mark.TIE, Mark.DEAD, Mark.GRACE}
        words = "".join(mark for mark in Mark if mark in event.marks and mark not in quiet)
        self._font(12)
        self.painter.setPen(self.theme.color("ink"))
        self.painter.drawText(QPointF(cell.x + 2, cell.y + HEAD - 13), words)
        locks = [event.locks, *(note.locks for note in event.notes)]
        if any(lock != NO_LOCKS for lock in locks):
            self.painter.setPen(self.theme.color("accent"))
            shift = self.painter.fontMetrics().horizontalAdvance(words) + (4 if words else 0)
            self.painter.drawText(QPointF(cell.x + 2 + shift, cell.y + HEAD - 13), _lock_signs(event))


def bar_picture(plates: Memo[QPixmap], look: BarLook) -> QPixmap:
    """A bar as a picture, `SPARE` pixels wider than itself on either side."""
    place = BarPlace(look.bar, 0, SPARE + look.aside, look.below)
    sheet = BoardLayout(None, (place,), look.strings)

    def draw(painter: QPainter) -> None:
        inside = _BarPainter(painter, sheet, look.theme, look.planned, plates, look.ratio)
        for cell in place.cells:
            inside.paint(cell)

    return picture_of(ceil(place.width) + 2 * SPARE, sheet.row_height, look.ratio, draw)


def plate_picture(look: PlateLook, theme: Theme, ratio: float) -> QPixmap:
    """A plate as a picture.

    Parameters
    ----------
    look : PlateLook
    theme : Theme
    ratio : float
    """

    def draw(painter: QPainter) -> None:
        box = QRectF(2, 2, look.width, 17)
        style = Qt.PenStyle.DashLine if look.free else Qt.PenStyle.SolidLine
        painter.setPen(pen(theme.color("calm"), 1.2, style))
        painter.setBrush(theme.color("faint" if look.muted else "sheet"))
        painter.drawRoundedRect(box, 4, 4)
        painter.setFont(pixel_font(13, bold=not look.tied))
        painter.setPen(theme.color("quiet" if look.tied else "ink"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, look.text)

    return picture_of(look.width + 4, 21, ratio, draw)


def planned_notes(plan: Plan | None) -> dict[int, tuple[PlannedNote, ...]]:
    """Where a plan puts the notes of every written event, the first time it is played."""
    planned_notes: dict[int, tuple[PlannedNote, ...]] = {}
    for event in plan.events if plan is not None else ():
        planned_notes.setdefault(event.moment.event_index, event.notes)
    return planned_notes


def _headings(riff: Riff) -> dict[int, str]:
    """What is written over a bar, by its first event: the phrase that begins there, its metre, its tempo."""
    first, begins = 0, {}
    for phrase in riff.phrases:
        times = f" × {phrase.times}" if phrase.times > 1 else ""
        begins[first] = (phrase.name or "") + times
        for bar in phrase.bars:
            changes = [str(bar.meter) if bar.meter else "", f"tempo {bar.tempo:.4g}" if bar.tempo else ""]
            begins[first] = ", ".join(filter(None, [begins.get(first, ""), *changes]))
            first += len(bar.events)
    return begins


def _lock_signs(event: Event) -> str:
    locks = event.locks
    words = {Stroke.DOWN: "d", Stroke.UP: "u", Stroke.NONE: "h"}
    signs = f"!{words.get(locks.stroke, str(locks.stroke))}" if locks.stroke is not None else ""
    fingers = [locks.finger, *(note.locks.finger for note in event.notes)]
    signs += "".join(f"@{finger_sign(finger)}" for finger in fingers if finger)
    return signs + (f"^{locks.position}" if locks.position is not None else "")
