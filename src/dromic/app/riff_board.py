"""The riff board: the riff as it is typed, event by event on its strings, and the keys that enter it.

Strings hang as on the chart, the thick one on top. Lines of bars follow each other down the page; under every note
its length is drawn as a bar, so that rhythm can be seen before it is read.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QAbstractScrollArea, QWidget

from dromic.app.chart.painting import pen
from dromic.app.document import Change, Document
from dromic.app.entry import Entry
from dromic.app.theme import UI_FONT, Theme
from dromic.app.words import error_words
from dromic.errors import DromicError
from dromic.instrument.presets import instrument_for
from dromic.music import editing
from dromic.music.pitch import Pitch, pitch_name
from dromic.music.riff import NO_LOCKS, Event, Mark, Place, Riff, Stroke
from dromic.planner.plan import Plan, PlannedNote

GUTTER, TOP = 46.0, 8.0
STRING_GAP = 17.0
HEAD, FOOT = 34.0, 38.0
LEAST_WIDTH, QUARTER_WIDTH = 28.0, 66.0
PLATE = 20.0
SECOND_DIGIT_S = 0.9

_MARK_KEYS = {
    "m": Mark.PALM_MUTE,
    ">": Mark.ACCENT,
    "h": Mark.HAMMER,
    "p": Mark.PULL,
    "s": Mark.SLIDE,
    "x": Mark.DEAD,
    "v": Mark.VIBRATO,
    "l": Mark.LET_RING,
    "g": Mark.GRACE,
    "t": Mark.TIE,
    "k": Mark.RAKE,
    "z": Mark.STACCATO,
    "R": Mark.RELEASE,
}
_BASE_KEYS = {"1": 1, "2": 2, "4": 4, "8": 8, "6": 16, "3": 32}
KEYS = (
    ("0 to 24", "a fret on the string of the cursor"),
    (";", "run on: every fret goes on by itself; ' before a fret of two digits"),
    ("Shift+A to G", "a pitch; its place is planned"),
    ("arrows", "to another note, to another string"),
    ("r", "a rest"),
    ("/ and 1 2 4 8 6 3", "whole, half … sixteenth, 32nd"),
    (".  T", "dotted, triplet"),
    ("m > h p s b R", "palm mute, accent, hammer-on, pull-off, slide, bend, release"),
    ("x v l g t k z", "dead, vibrato, let ring, grace, tie, rake, staccato"),
    ("d u, Alt+1 to 4", "lock a down or up, a finger"),
    ("+ −", "a semitone up or down"),
    ("Space", "the same note once more"),
    ("Ins, Del, Backspace", "put in, silence, take out"),
    ("Shift+arrows", "select; Ctrl+C, Ctrl+X, Ctrl+V"),
)


@dataclass(frozen=True)
class Cell:
    """Where an event is drawn."""

    written: int
    event: Event
    x: float
    y: float
    width: float
    ends_bar: bool
    shows_length: bool


class RiffBoard(QAbstractScrollArea):
    """Shows and edits the document's riff.

    Signals
    -------
    told : str
        What could not be done, or what was.
    phrase_wanted, repeat_wanted : no argument
        A phrase name, or a number of times, is to be asked for.
    """

    told = pyqtSignal(str)
    moved = pyqtSignal()
    phrase_wanted = pyqtSignal()
    repeat_wanted = pyqtSignal()

    def __init__(self, document: Document, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("board")
        self.setAccessibleName("Riff board")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMinimumHeight(170)
        self._document, self._theme = document, theme
        self.entry = Entry(document)
        self.cells: tuple[Cell, ...] = ()
        self._height = 0.0
        self._planned: dict[int, tuple[PlannedNote, ...]] = {}
        self._typed = -1e9
        self._slash = False
        self.runs_on = False
        self._long = ""
        document.listen(self._heard)

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = theme
        self._repaint()

    # -- layout ---------------------------------------------------------------------------------------------

    @property
    def _riff(self) -> Riff | None:
        reading = self._document.reading
        return reading.riff if reading is not None else None

    @property
    def _strings(self) -> int:
        riff = self._riff
        return instrument_for(riff).strings if riff is not None else 6

    @property
    def _row_height(self) -> float:
        return HEAD + STRING_GAP * (self._strings - 1) + FOOT

    def _heard(self, change: Change) -> None:
        if change is Change.PLAN:
            self._planned = _planned_notes(self._document.plan)
            self._repaint()
        if change in (Change.TEXT, Change.RIFF, Change.FILE):
            if change is Change.FILE:
                self.entry.go(0)
                self.entry.string = self._strings
            self.entry.settle()
            self._arrange()

    def _arrange(self) -> None:
        port, bar = self.viewport(), self.verticalScrollBar()
        if port is None or bar is None:
            return
        self.cells = tuple(self._laid(port.width()))
        rows = max((cell.y for cell in self.cells), default=0.0) + self._row_height + TOP
        self._height = rows
        bar.setRange(0, max(0, round(rows - port.height())))
        bar.setPageStep(port.height())
        bar.setSingleStep(round(self._row_height / 3))
        self._repaint()

    def _laid(self, width: float) -> list[Cell]:
        """Lay bars into lines; a bar that does not fit begins a new one."""
        riff, found = self._riff, []
        if riff is None:
            return []
        x, y, written = GUTTER, TOP, 0
        for phrase in riff.phrases:
            for number, bar in enumerate(phrase.bars):
                widths = [_width(event) for event in bar.events]
                needed = sum(widths) + 12
                fresh = number == 0 and phrase is not riff.phrases[0] and phrase.name is not None
                if x > GUTTER and (x + needed > width - 30 or fresh):
                    x, y = GUTTER, y + self._row_height
                for place, (event, own) in enumerate(zip(bar.events, widths, strict=True)):
                    shows = not place or event.value != bar.events[place - 1].value or event.grace
                    found.append(Cell(written, event, x, y, own, place == len(bar.events) - 1, shows))
                    x += own
                    written += 1
                x += 12
        return found

    def _cell_of_cursor(self) -> QRectF:
        height = self._row_height - 8
        for cell in self.cells:
            if cell.written == self.entry.cursor:
                return QRectF(cell.x - 2, cell.y, cell.width, height)
        if not self.cells:
            return QRectF(GUTTER, TOP, LEAST_WIDTH, height)
        last = self.cells[-1]
        return QRectF(last.x + last.width + 10, last.y, LEAST_WIDTH, height)

    def _string_y(self, top: float, string: int) -> float:
        return top + HEAD + (self._strings - string) * STRING_GAP

    # -- painting -------------------------------------------------------------------------------------------

    def _repaint(self) -> None:
        port = self.viewport()
        if port is not None:
            port.update()

    @property
    def _scrolled(self) -> int:
        bar = self.verticalScrollBar()
        return bar.value() if bar is not None else 0

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Paint what shows."""
        port = self.viewport()
        if port is None:
            return
        painter = QPainter(port)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.translate(0, -self._scrolled)
        try:
            self._paint(painter, port.width(), port.height())
        finally:
            painter.end()

    def _paint(self, painter: QPainter, width: float, height: float) -> None:
        theme, low = self._theme, self._scrolled - self._row_height
        shown = [cell for cell in self.cells if low <= cell.y <= self._scrolled + height]
        chosen = set(self.entry.selected)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("chosen"))
        if self.entry.anchor is not None:
            for cell in shown:
                if cell.written in chosen:
                    painter.drawRect(QRectF(cell.x - 2, cell.y + 2, cell.width, self._row_height - 10))
        painter.drawRoundedRect(self._cell_of_cursor().adjusted(0, 2, 0, -2), 5, 5)
        for top in dict.fromkeys(cell.y for cell in shown):
            self._paint_strings(painter, top, width)
        for cell in shown:
            self._paint_cell(painter, cell)
        self._paint_cursor(painter)
        self._paint_phrases(painter, shown)

    def _font(self, painter: QPainter, size: int, *, bold: bool = False) -> None:
        font = QFont(UI_FONT)
        font.setPixelSize(size)
        if bold:
            font.setWeight(QFont.Weight.DemiBold)
        painter.setFont(font)

    def _paint_strings(self, painter: QPainter, top: float, width: float) -> None:
        riff, theme = self._riff, self._theme
        if riff is None:
            return
        instrument = instrument_for(riff)
        self._font(painter, 12)
        for string in range(1, instrument.strings + 1):
            y = self._string_y(top, string)
            painter.setPen(pen(theme.color("string", 150), 0.7 + 0.22 * string))
            painter.drawLine(QPointF(GUTTER - 6, y), QPointF(width - 14, y))
            painter.setPen(theme.color("quiet"))
            box = QRectF(0, y - 9, GUTTER - 12, 18)
            name = pitch_name(instrument.tuning[instrument.index(string)] + instrument.capo)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, name)

    def _paint_cell(self, painter: QPainter, cell: Cell) -> None:
        theme, event = self._theme, cell.event
        bottom = self._string_y(cell.y, 1)
        if cell.ends_bar:
            x = cell.x + cell.width + 4
            painter.setPen(pen(theme.color("string"), 1.2))
            painter.drawLine(QPointF(x, self._string_y(cell.y, self._strings)), QPointF(x, bottom))
        # The length as a bar: solid for notes, hollow for rests.
        length = QRectF(cell.x, bottom + 14, cell.width - 5, 5)
        painter.setPen(pen(theme.color("string"), 1.0))
        painter.setBrush(Qt.BrushStyle.NoBrush if event.rest else theme.color("string"))
        if not event.grace:
            painter.drawRoundedRect(length, 2.5, 2.5)
        self._font(painter, 11)
        painter.setPen(theme.color("quiet"))
        words = "grace" if event.grace else str(event.value) if cell.shows_length else ""
        painter.drawText(QRectF(cell.x - 2, bottom + 19, cell.width + 6, 14), 0, words)
        self._paint_marks(painter, cell)
        for note in event.notes:
            if isinstance(note.what, Place):
                self._paint_plate(painter, cell, self._string_y(cell.y, note.what.string), str(note.what.fret))
            else:
                self._paint_free(painter, cell, note.what)

    def _paint_free(self, painter: QPainter, cell: Cell, pitch: Pitch) -> None:
        """A pitch: where the plan puts it, dashed, or in the middle while there is no plan."""
        planned = next((one for one in self._planned.get(cell.written, ()) if one.pitch == pitch.midi), None)
        if planned is None:
            middle = (self._string_y(cell.y, 1) + self._string_y(cell.y, self._strings)) / 2
            self._paint_plate(painter, cell, middle, str(pitch), free=True)
            return
        y = self._string_y(cell.y, planned.string)
        self._paint_plate(painter, cell, y, str(planned.fret), free=True)
        self._font(painter, 11)
        painter.setPen(self._theme.color("quiet"))
        shift = 9 * len(cell.event.marks) + (16 if cell.event.locks != NO_LOCKS else 0)
        painter.drawText(QPointF(cell.x + 2 + shift, cell.y + HEAD - 13), str(pitch))

    def _paint_plate(self, painter: QPainter, cell: Cell, y: float, text: str, *, free: bool = False) -> None:
        theme, event = self._theme, cell.event
        tied = Mark.TIE in event.marks
        width = max(PLATE, 9.0 * len(text) + 6)
        box = QRectF(cell.x + 1, y - 8.5, width, 17)
        style = Qt.PenStyle.DashLine if free else Qt.PenStyle.SolidLine
        painter.setPen(pen(theme.color("calm"), 1.2, style))
        painter.setBrush(theme.color("faint" if Mark.PALM_MUTE in event.marks else "sheet"))
        painter.drawRoundedRect(box, 4, 4)
        self._font(painter, 13, bold=not tied)
        painter.setPen(theme.color("quiet" if tied else "ink"))
        shown = "x" if Mark.DEAD in event.marks else f"({text})" if tied else text
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, shown)

    def _paint_marks(self, painter: QPainter, cell: Cell) -> None:
        event = cell.event
        quiet = {Mark.TIE, Mark.DEAD, Mark.GRACE}
        words = "".join(mark for mark in Mark if mark in event.marks and mark not in quiet)
        self._font(painter, 12)
        painter.setPen(self._theme.color("ink"))
        painter.drawText(QPointF(cell.x + 2, cell.y + HEAD - 13), words)
        locks = [event.locks, *(note.locks for note in event.notes)]
        if any(one != NO_LOCKS for one in locks):
            painter.setPen(self._theme.color("accent"))
            shift = painter.fontMetrics().horizontalAdvance(words) + (4 if words else 0)
            painter.drawText(QPointF(cell.x + 2 + shift, cell.y + HEAD - 13), _lock_signs(event))

    def _paint_cursor(self, painter: QPainter) -> None:
        box = self._cell_of_cursor()
        y = self._string_y(box.top(), self.entry.string)
        color = self._theme.color("accent" if self.hasFocus() else "string")
        painter.setPen(pen(color, 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(QRectF(box.left() + 1, y - 10.5, max(PLATE + 4, 24), 21), 5, 5)

    def _paint_phrases(self, painter: QPainter, shown: list[Cell]) -> None:
        riff = self._riff
        if riff is None:
            return
        first, begins = 0, {}
        for phrase in riff.phrases:
            times = f" × {phrase.times}" if phrase.times > 1 else ""
            begins[first] = (phrase.name or "") + times
            first += sum(len(bar.events) for bar in phrase.bars)
        self._font(painter, 12)
        painter.setPen(self._theme.color("accent"))
        for cell in shown:
            if begins.get(cell.written):
                painter.drawText(QPointF(cell.x, cell.y + 11), begins[cell.written].strip())

    # -- mouse and keys -------------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Lay out again at the new size."""
        super().resizeEvent(event)
        self._arrange()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Put the cursor where the mouse is; with Shift, select up to there."""
        if event is None or not self.cells:
            return
        x, y = event.position().x(), event.position().y() + self._scrolled
        line = min(
            dict.fromkeys(cell.y for cell in self.cells), key=lambda top: abs(top + self._row_height / 2 - y)
        )
        own = [cell for cell in self.cells if cell.y == line]
        cell = min(own, key=lambda one: abs(one.x + one.width / 2 - x))
        beyond = cell.written == len(self.cells) - 1 and x > cell.x + cell.width + 8
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self.entry.move(cell.written + beyond - self.entry.cursor, select=shift)
        string = self._strings - round((y - line - HEAD) / STRING_GAP)
        self.entry.string = min(max(string, 1), self._strings)
        self._after_move()

    def _after_move(self) -> None:
        box = self._cell_of_cursor()
        bar, port = self.verticalScrollBar(), self.viewport()
        if bar is not None and port is not None:
            if box.top() < self._scrolled:
                bar.setValue(round(box.top() - TOP))
            elif box.bottom() > self._scrolled + port.height():
                bar.setValue(round(box.bottom() - port.height() + TOP))
        self.setAccessibleDescription(f"note {self.entry.cursor + 1}, string {self.entry.string}")
        self.moved.emit()
        self._repaint()

    def do(self, what: Callable[[], object]) -> None:
        """Do something to the riff; what cannot be done is told."""
        try:
            what()
        except DromicError as error:
            self.told.emit(error_words(error))
        self.entry.settle()
        self._arrange()
        self._after_move()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter the riff."""
        if event is None:
            return
        if self._move_key(event) or self._command_key(event) or self._typed_key(event):
            event.accept()
            return
        super().keyPressEvent(event)

    def _move_key(self, event: QKeyEvent) -> bool:
        entry, key = self.entry, Qt.Key(event.key())
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            return False
        select = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        along = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Home: -(10**6), Qt.Key.Key_End: 10**6}
        across = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if key in along:
            entry.move(along[key], select=select)
        elif key in across:
            self.do(lambda: entry.turn(across[key]))
        else:
            return False
        self._typed, self._slash = -1e9, False
        self._after_move()
        return True

    def _command_key(self, event: QKeyEvent) -> bool:
        entry, key = self.entry, Qt.Key(event.key())
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        alt = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        commands: dict[Qt.Key, Callable[[], object]] = {}
        if control:
            commands = {
                Qt.Key.Key_C: self._copy,
                Qt.Key.Key_X: self._cut,
                Qt.Key.Key_V: entry.paste,
                Qt.Key.Key_Up: lambda: entry.transpose(1),
                Qt.Key.Key_Down: lambda: entry.transpose(-1),
                Qt.Key.Key_D: entry.copy_phrase,
            }
        elif alt and Qt.Key.Key_1 <= key <= Qt.Key.Key_4:
            commands = {key: lambda: entry.finger(key - Qt.Key.Key_0)}
        elif not alt:
            commands = {
                Qt.Key.Key_Insert: entry.insert,
                Qt.Key.Key_Delete: entry.silence,
                Qt.Key.Key_Backspace: entry.remove,
                Qt.Key.Key_Space: self._once_more,
            }
        if key not in commands:
            return False
        self.do(commands[key])
        return True

    def _typed_key(self, event: QKeyEvent) -> bool:
        entry, text = self.entry, event.text()
        if event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier) or not text:
            return False
        slash, self._slash = self._slash, False
        if text.isdecimal() and text.isascii():
            if slash:
                if text in _BASE_KEYS:
                    self.do(lambda: entry.last(_BASE_KEYS[text]))
                return True
            self._digit(int(text))
            return True
        self._typed = -1e9
        if text == "/":
            self._slash = True
            return True
        plain: dict[str, Callable[[], object]] = {
            "r": entry.rest,
            ".": entry.dot,
            "T": entry.triplet,
            "b": entry.bend,
            "d": lambda: entry.stroke(Stroke.DOWN),
            "u": lambda: entry.stroke(Stroke.UP),
            "+": lambda: entry.nudge(1),
            "-": lambda: entry.nudge(-1),
            ";": self._run_on,
            "'": lambda: setattr(self, "_long", "'" if self.runs_on else ""),
            "[": self.phrase_wanted.emit,
            "*": self.repeat_wanted.emit,
        }
        if text in plain:
            self.do(plain[text])
        elif text in _MARK_KEYS:
            self.do(lambda: entry.mark(_MARK_KEYS[text]))
        elif text in "ABCDEFG":
            self.do(lambda: entry.pitch(text))
        else:
            return False
        return True

    def _run_on(self) -> None:
        self.runs_on = not self.runs_on
        self.told.emit(
            "Every fret goes on by itself; ' before one of two digits, ; to stop" if self.runs_on else "One by one"
        )

    def _ran(self, fret: int) -> None:
        """Put a fret and go on."""
        self.do(lambda: self.entry.fret(fret))
        self.entry.move(1)
        self._after_move()

    def _digit(self, digit: int) -> None:
        """A digit soon after another makes a fret of two digits, if there is such a fret."""
        entry, now = self.entry, time.monotonic()
        if self.runs_on:
            self._long += str(digit) if self._long else ""
            if len(self._long) == 3:
                number, self._long = int(self._long[1:]), ""
                self._ran(number)
            elif not self._long:
                self._ran(digit)
            return
        soon = now - self._typed < SECOND_DIGIT_S
        if soon and self._can_grow(digit):
            self.do(lambda: entry.grow(digit))
            self._typed = -1e9
        else:
            self.do(lambda: entry.fret(digit))
            self._typed = now

    def _can_grow(self, digit: int) -> bool:
        try:
            return self.entry.can_grow(digit)
        except DromicError:
            return False

    def _once_more(self) -> None:
        """Go on: a rest there, or the end, becomes the same note once more."""
        entry = self.entry
        events = entry.riff.written_events()
        after = events[entry.cursor + 1] if entry.cursor + 1 < len(events) else None
        if after is not None and not after.rest:
            entry.move(1)
            return
        last = next((event for event in reversed(events[: entry.cursor + 1]) if event.notes), None)
        new = Event(entry.value, last.notes if last is not None else ())
        if after is None:
            riff = editing.insert(entry.riff, min(entry.cursor + 1, entry.count), [new])
        else:
            riff = editing.change(entry.riff, entry.cursor + 1, lambda _event: new)
        entry.document.edit(riff, "entering notes")
        entry.go(entry.cursor + 1)

    def _copy(self) -> None:
        count = self.entry.copy()
        self.told.emit(f"{count} {'note' if count == 1 else 'notes'} copied")

    def _cut(self) -> None:
        self.entry.copy()
        self.entry.remove()


def _planned_notes(plan: Plan | None) -> dict[int, tuple[PlannedNote, ...]]:
    """Where a plan puts the notes of every written event, the first time it is played."""
    found: dict[int, tuple[PlannedNote, ...]] = {}
    for event in plan.events if plan is not None else ():
        found.setdefault(event.moment.written, event.notes)
    return found


def _width(event: Event) -> float:
    if event.grace:
        return LEAST_WIDTH
    text = max((len(str(note.what)) for note in event.notes if not isinstance(note.what, Place)), default=0)
    return max(LEAST_WIDTH, min(float(event.value.quarters), 2.5) * QUARTER_WIDTH, 9.0 * text + 16)


def _lock_signs(event: Event) -> str:
    locks = event.locks
    words = {Stroke.DOWN: "d", Stroke.UP: "u"}
    signs = f"!{words.get(locks.stroke, str(locks.stroke))}" if locks.stroke is not None else ""
    fingers = [locks.finger, *(note.locks.finger for note in event.notes)]
    signs += "".join(f"@{finger}" for finger in fingers if finger)
    return signs + (f"^{locks.position}" if locks.position is not None else "")
