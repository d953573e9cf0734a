"""The riff board: the riff as it is typed, event by event on its strings, and the keys that enter it.

Strings hang as on the chart, the thick one on top. Lines of bars follow each other down the page; under every note
its length is drawn as a bar, so that rhythm can be seen before it is read.
"""

from __future__ import annotations

import time
from collections.abc import Callable

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QAbstractScrollArea, QWidget

from dromic.app.chart.painting import pixel_font
from dromic.app.document import Document
from dromic.app.document_changes import Cause, Change
from dromic.app.error_text import error_words
from dromic.app.riff.board_layout import HEAD, STRING_GAP, TOP, BoardLayout, Cell, lay_out
from dromic.app.riff.entry import Entry
from dromic.app.riff.paint import BoardPainter, BoardPictures, Cursor, planned_notes
from dromic.app.theme import Theme
from dromic.errors import DromicError
from dromic.hands.fingers import FINGERS_BY_SIGN
from dromic.music import editing
from dromic.music.riff import Event, Mark, Place, Stroke
from dromic.planner.plan import PlannedNote

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
    "o": Mark.SLIDE_OFF,
    "R": Mark.RELEASE,
    "i": Mark.SLIDE_IN,
    "n": Mark.HARMONIC,
    "a": Mark.PINCH,
    "H": Mark.TAP,
}
_FINGER_KEYS = {Qt.Key(ord(sign)): finger for sign, finger in FINGERS_BY_SIGN.items()}
_BASE_KEYS = {"1": 1, "2": 2, "4": 4, "8": 8, "6": 16, "3": 32}
INVITATION = (
    ("Type a fret, 0 to 24, where the cursor is", 17, "ink"),
    ("or click a place on the neck, or paste a tab (Ctrl+Shift+V)", 14, "quiet"),
    ("Up and Down go to another string, Right goes on, Ctrl+2 shows the plan", 14, "quiet"),
)


class RiffBoard(QAbstractScrollArea):
    """Shows and edits the document's riff.

    Signals
    -------
    told : str
        What could not be done, or what was.
    phrase_wanted, repeat_wanted : no argument
        A phrase name, or a number of times, is to be asked for.
    moved : no argument
        The cursor stands elsewhere, or what is under it has changed.
    """

    message = pyqtSignal(str)
    phrase_wanted = pyqtSignal()
    repeat_wanted = pyqtSignal()
    moved = pyqtSignal()

    def __init__(self, document: Document, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("board")
        self.setAccessibleName("Riff board")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMinimumHeight(140)
        self._document, self._theme = document, theme
        self.entry = Entry(document)
        self._sheet = BoardLayout()
        self._laid_for = -1
        self._pictures = BoardPictures()
        self._planned: dict[int, tuple[PlannedNote, ...]] = {}
        self._typed, self._before = -1e9, ""
        self.runs_on = False
        self._long = ""
        document.listen(self._heard)

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = theme
        self._repaint()

    # -- layout ---------------------------------------------------------------------------------------------

    @property
    def sheet(self) -> BoardLayout:
        """The layout of the riff as it is; made when it is asked for, for nobody sees a board that is hidden."""
        reading, port = self._document.reading, self.viewport()
        riff, width = reading.riff if reading is not None else None, port.width() if port is not None else 0
        # One change is told several times, and a long riff takes its time.
        if riff is not self._sheet.riff or width != self._laid_for:
            self._sheet, self._laid_for = lay_out(riff, width), width
        return self._sheet

    @property
    def cells(self) -> tuple[Cell, ...]:
        """Where the events stand."""
        return self.sheet.cells

    @property
    def written(self) -> bool:
        """Whether there is any note."""
        reading = self._document.reading
        return reading is not None and any(
            not event.rest for phrase in reading.riff.phrases for bar in phrase.bars for event in bar.events
        )

    @property
    def places(self) -> tuple[Place, ...]:
        """Where the notes under the cursor lie: as they are written, or else as they are planned."""
        if self._document.reading is None or self._document.text_error is not None:
            return ()
        here = self.entry.here
        if here is None or here.rest:
            return ()
        written = tuple(note.target for note in here.notes if isinstance(note.target, Place))
        if len(written) == len(here.notes):
            return written
        return tuple(note.place for note in self._planned.get(self.entry.cursor, ()))

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        """The keys are the board's again."""
        super().focusInEvent(event)
        self.moved.emit()

    def _heard(self, change: Change) -> None:
        if change is Change.PLAN:
            self._planned = planned_notes(self._document.plan)
            if not self.hasFocus():
                self._to_string_of_note()
            self._repaint()
        if change in (Change.TEXT, Change.RIFF, Change.FILE):
            self.entry.settle()
            self._arrange()
            if change is Change.FILE and self._document.cause is Cause.OPENED:
                self.entry.go(0)
                self.entry.string = self.sheet.strings
                self._tell_place()
        if change is Change.CHOICE:
            if not self.hasFocus():
                self._to_string_of_note()
            self._show_cursor()

    def _to_string_of_note(self) -> None:
        """Follow a note that was chosen elsewhere; with its own keys the cursor keeps to its string."""
        notes = self._planned.get(self.entry.cursor)
        if notes:
            self.entry.string = notes[0].string

    def _arrange(self) -> None:
        port, bar = self.viewport(), self.verticalScrollBar()
        if port is None or bar is None:
            return
        if not self.isVisible():
            return
        bar.setRange(0, max(0, round(self.sheet.height - port.height())))
        bar.setPageStep(port.height())
        bar.setSingleStep(round(self.sheet.row_height / 3))
        self._repaint()

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
        entry = self.entry
        selected = frozenset(entry.selected if entry.anchor is not None else ())
        cursor = Cursor(entry.cursor, entry.string, self.hasFocus(), selected)
        try:
            ratio = self.devicePixelRatioF()
            shown = BoardPainter(painter, self.sheet, self._theme, self._planned, self._pictures, ratio)
            shown.paint(cursor, port.width(), self._scrolled, self._scrolled + port.height())
            if not self.written and self._document.text_error is None:
                self._invite(painter, port.width())
        finally:
            painter.end()

    def _invite(self, painter: QPainter, wide: int) -> None:
        """Say on an empty board how to begin."""
        top = self.sheet.height + self._scrolled
        for row, (words, size, color) in enumerate(INVITATION):
            painter.setFont(pixel_font(size, bold=not row))
            painter.setPen(self._theme.color(color))
            box = QRectF(0, top + row * 26, wide, 26)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    # -- mouse and keys -------------------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent | None) -> None:
        """Catch up with what changed meanwhile."""
        super().showEvent(event)
        self._arrange()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Lay out again at the new size."""
        super().resizeEvent(event)
        self._arrange()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Put the cursor where the mouse is; with Shift, select up to there."""
        bars = self.sheet.bars
        if event is None or not bars:
            return
        x, y = event.position().x(), event.position().y() + self._scrolled
        line = min(dict.fromkeys(bar.y for bar in bars), key=lambda top: abs(top + self.sheet.row_height / 2 - y))
        own = [cell for bar in self.sheet.between(line, line) for cell in bar.cells]
        cell = min(own, key=lambda one: abs(one.x + one.width / 2 - x))
        beyond = cell == bars[-1].cells[-1] and x > cell.x + cell.width + 8
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self.entry.move(cell.event_index + beyond - self.entry.cursor, select=shift)
        string = self.sheet.strings - round((y - line - HEAD) / STRING_GAP)
        self.entry.string = min(max(string, 1), self.sheet.strings)
        self._show_cursor()

    def _show_cursor(self) -> None:
        _, top, _, height = self.sheet.box(self.entry.cursor)
        bar, port = self.verticalScrollBar(), self.viewport()
        if bar is not None and port is not None:
            if top < self._scrolled:
                bar.setValue(round(top - TOP))
            elif top + height > self._scrolled + port.height():
                bar.setValue(round(top + height - port.height() + TOP))
        self._tell_place()
        self._repaint()
        self.moved.emit()

    def _tell_place(self) -> None:
        """Say where the cursor is to whoever cannot see it."""
        self.setAccessibleDescription(f"note {self.entry.cursor + 1}, string {self.entry.string}")

    def do(self, what: Callable[[], object]) -> None:
        """Do something to the riff; what cannot be done is told."""
        try:
            what()
        except DromicError as error:
            self.message.emit(error_words(error))
        self.entry.settle()
        self._arrange()
        self._show_cursor()

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
        self._typed, self._before = -1e9, ""
        self._show_cursor()
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
        elif alt and key in _FINGER_KEYS:
            commands = {key: lambda: entry.finger(_FINGER_KEYS[key])}
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
        before, self._before = self._before, ""
        if text.isdecimal() and text.isascii():
            if before == "/" and text in _BASE_KEYS:
                self.do(lambda: entry.last(_BASE_KEYS[text]))
            elif before == "q":
                self.do(lambda: entry.tuplet(int(text)))
            if before:
                return True
            self._digit(int(text))
            return True
        self._typed = -1e9
        if text in ("/", "q"):
            # The digit that follows is a duration or a tuplet.
            self._before = text
            return True
        plain: dict[str, Callable[[], object]] = {
            "r": entry.rest,
            ".": entry.dot,
            "T": entry.triplet,
            "b": entry.bend,
            "w": entry.trill,
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
        self.message.emit(
            "Every fret goes on by itself; ' before one of two digits, ; to stop" if self.runs_on else "One by one"
        )

    def _ran(self, fret: int) -> None:
        """Put a fret and go on."""
        self.do(lambda: self.entry.fret(fret))
        self.entry.move(1)
        self._show_cursor()

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
        self.message.emit(f"{count} {'note' if count == 1 else 'notes'} copied")

    def _cut(self) -> None:
        self.entry.copy()
        self.entry.remove()
