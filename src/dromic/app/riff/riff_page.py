"""The Riff stage: riffs to choose from, the text of one, and how it is written."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QSignalBlocker, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QListWidget,
    QPushButton,
    QSplitter,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.app.error_text import error_words
from dromic.app.riff.board import RiffBoard
from dromic.app.riff.editor import RiffEditor
from dromic.app.riff.harmony_panel import HarmonyPanel
from dromic.app.riff.key_guide import KeyGuide, Moment
from dromic.app.riff.neck_entry import NeckEntry
from dromic.app.riff.setup_bar import SetupBar
from dromic.app.shell.folding_side import FoldingSide
from dromic.app.shell.look import set_look
from dromic.app.shell.sliding_row import SlidingRow
from dromic.app.theme import Theme
from dromic.demo.library import DemoRiff
from dromic.music.phrases import MOST_TIMES
from dromic.music.riff import Mark, Place

LIST_WIDTH, LEAST_EDITOR = 150, 52
LEAST = QSize(360, 240)
# The list of demo riffs, and the neck, give way where the page is narrower or lower.
LIST_FROM, NECK_FROM, TEXT_FROM, STEPS_FROM = 760, 560, 330, 400


class _Welcome(QWidget):
    """The first steps, until they have been read."""

    read = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        words = QLabel(
            "<b>To a planned riff in a minute.</b> Type a fret on the board below, go to another string with the "
            "arrows, go on with Right or Space. Then press Ctrl+2: the plan is there. Click a note to read why "
            "it is played so, and press 1 to 9 to lock another way. Ctrl+3 compares schools, F1 lists all keys."
        )
        words.setObjectName("caution")
        words.setWordWrap(True)
        button = QPushButton("Got it")
        button.clicked.connect(self.read)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(words, 1)
        row.addWidget(button)


class RiffPage(QWidget):
    """Edits the document's text.

    Signals
    -------
    wanted : DemoRiff
        One of the listed riffs was chosen.
    """

    wanted = pyqtSignal(object)

    def __init__(
        self, document: Document, theme: Theme, riffs: Sequence[DemoRiff] = (), parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._document = document
        self._riffs = tuple(riffs)
        self.setup = SetupBar(document)
        row = QHBoxLayout()
        row.setSpacing(12)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        self._first_steps = False
        self.welcome = _Welcome()
        self.welcome.hide()
        rows.addWidget(self.welcome)
        rows.addWidget(SlidingRow(self.setup))
        rows.addLayout(row, 1)
        self.list = QListWidget()
        self.list.setAccessibleName("Demo riffs")
        self.list.setFixedWidth(LIST_WIDTH)
        for demo in self._riffs:
            self.list.addItem(demo.riff.title)
        self.list.currentRowChanged.connect(self._list_chosen)
        self.listed = QWidget()
        side = QVBoxLayout(self.listed)
        side.setContentsMargins(0, 0, 0, 0)
        caption = QLabel("Demo riffs")
        caption.setObjectName("section")
        side.addWidget(caption)
        side.addWidget(self.list, 1)
        row.addWidget(self.listed)
        self.editor = RiffEditor(theme)
        self.editor.setMinimumHeight(LEAST_EDITOR)
        self.board = RiffBoard(document, theme)
        self.message = QLabel()
        self.message.setObjectName("message")
        self.message.setWordWrap(True)
        self.message.setAccessibleName("What the text says")
        middle = QVBoxLayout()
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.board)
        split.addWidget(self.editor)
        split.setStretchFactor(0, 3)
        split.setStretchFactor(1, 1)
        split.setSizes([3000, 1000])
        split.setChildrenCollapsible(False)
        self.neck = NeckEntry(theme)
        self._neck_wanted = True
        middle.addWidget(split, 1)
        middle.addWidget(self.neck)
        middle.addWidget(self.message)
        row.addLayout(middle, 1)
        self.harmony = HarmonyPanel(document)
        self.guide = KeyGuide()
        self.side = QTabWidget()
        self.side.setObjectName("side")
        self.side.setAccessibleName("Keys and harmony")
        self.side.addTab(self.guide, "&Keys")
        self.side.addTab(self.harmony, "Har&mony")
        self.side.currentChanged.connect(lambda _at: self.harmony.refresh())
        self.folding = FoldingSide(self.side, "keys and harmony", least=230, widest=290, share=0.25, room=720)
        row.addWidget(self.folding)
        self.neck.placed.connect(lambda place: self.board.do(lambda: self._write(place)))
        self.neck.joined.connect(lambda place: self.board.do(lambda: self._join(place)))
        self.neck.dragged.connect(lambda place, fret, mark: self.board.do(lambda: self._slur(place, fret, mark)))
        self.neck.bent.connect(lambda place, mark: self.board.do(lambda: self._write_marked(place, mark)))
        self.board.moved.connect(self._follow_board)
        self.editor.focused.connect(lambda: self.guide.show_moment(Moment.TEXT))
        self.board.phrase_wanted.connect(self._ask_phrase)
        self.board.repeat_wanted.connect(self._ask_repeat)
        self.editor.cursorPositionChanged.connect(self._follow_text)
        self.editor.textChanged.connect(lambda: document.set_text(self.editor.toPlainText()))
        document.listen(self._heard)
        self._refresh_message()

    def activated(self) -> None:
        """The page shows: the keys are the board's."""
        self.harmony.refresh()
        self.board.setFocus()
        self._follow_board()

    def left(self) -> None:
        """Another page shows."""

    def cancel(self) -> None:
        """Nothing is worked out here that could be stopped."""

    def stop(self) -> None:
        """No thread works for this page."""

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self.editor.set_theme(theme)
        self.board.set_theme(theme)
        self.neck.set_theme(theme)

    # -- room -------------------------------------------------------------------------------------------------

    def want_first_steps(self, wanted: bool) -> None:
        """Show the first steps where there is room for them, or not."""
        self._first_steps = wanted
        self._fit()

    def want_neck(self, wanted: bool) -> None:
        """Show the neck where there is room for it, or never."""
        self._neck_wanted = wanted
        self._fit()

    def _fit(self) -> None:
        self.listed.setVisible(bool(self._riffs) and self.width() >= LIST_FROM)
        self.neck.setVisible(self._neck_wanted and self.height() >= NECK_FROM)
        self.folding.fit(self.width())
        low = self.height() < TEXT_FROM and self._document.text_error is None
        self.editor.setHidden(low and not self.editor.hasFocus())
        self.welcome.setHidden(not self._first_steps or self.height() < STEPS_FROM)

    def minimumSizeHint(self) -> QSize:
        """However much is on the page, the window may be small: then less of it shows."""
        return LEAST

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """In a small window the board comes first."""
        super().resizeEvent(event)
        self._fit()

    # -- the neck, and the keys that fit -----------------------------------------------------------------------

    def _write(self, place: Place) -> None:
        """Write a note at the cursor and go on."""
        self.board.entry.place(place)
        self.board.entry.move(1)

    def _join(self, place: Place) -> None:
        """Let a note join the one that was written last."""
        entry = self.board.entry
        goes_back = entry.cursor > 0 and (entry.here is None or entry.here.rest)
        if goes_back:
            entry.move(-1)
        entry.place(place, joins=True)
        if goes_back:
            entry.move(1)

    def _slur(self, place: Place, fret: int, mark: Mark) -> None:
        """Write a note, and another on its string that is slid to, hammered on or pulled off."""
        self._write(place)
        self._write_marked(Place(place.string, fret), mark)

    def _write_marked(self, place: Place, mark: Mark) -> None:
        """Write a note with a mark."""
        self.board.entry.place(place)
        self.board.entry.mark(mark)
        self.board.entry.move(1)

    def _follow_board(self) -> None:
        """Show on the neck what is under the cursor, and the keys that fit."""
        entry = self.board.entry
        if self._document.reading is None or self._document.text_error is not None:
            self.neck.show_places(None, ())
            return
        self.neck.show_places(entry.instrument, self.board.places)
        if not self.board.written:
            moment = Moment.EMPTY
        elif entry.anchor is not None and len(entry.selected) > 1:
            moment = Moment.SELECTION
        elif entry.here is None or entry.here.rest:
            moment = Moment.WRITING
        else:
            moment = Moment.NOTE
        self.guide.show_moment(moment)

    def _ask_phrase(self) -> None:
        name, wanted = QInputDialog.getText(self, "A phrase begins", "Name of the phrase that begins at this bar:")
        if wanted and name.strip():
            self.board.do(lambda: self.board.entry.begin_phrase(name.strip()[:40]))

    def _ask_repeat(self) -> None:
        times, wanted = QInputDialog.getInt(self, "Repeat", "How often is this phrase played?", 2, 1, MOST_TIMES)
        if wanted:
            self.board.do(lambda: self.board.entry.repeat(times))

    def _follow_text(self) -> None:
        """Select the event that the text's cursor is in, when it is the player who moves there."""
        document = self._document
        if not self.editor.hasFocus() or document.reading is None or document.text_error is not None:
            return
        line, column = self.editor.place
        for event_index, span in enumerate(document.reading.spans):
            if span.line == line and span.start <= column <= span.end:
                document.select(event_index)
                return

    def show_listed(self, index: int) -> None:
        """Mark one of the listed riffs as the one that is open; -1 for none."""
        blocker = QSignalBlocker(self.list)
        self.list.setCurrentRow(index)
        del blocker

    def go_to_error(self) -> None:
        """Put the cursor where the text cannot be read."""
        error = self._document.text_error
        self._fit()
        if error is not None and error.line is not None:
            self.editor.go_to(error.line, error.column or 1)

    def _list_chosen(self, index: int) -> None:
        if 0 <= index < len(self._riffs):
            self.wanted.emit(self._riffs[index])

    def _heard(self, change: Change) -> None:
        document = self._document
        if change in (Change.TEXT, Change.FILE) and self.editor.toPlainText() != document.text:
            blocker = QSignalBlocker(self.editor)
            self.editor.show_text(document.text)
            del blocker
        if change in (Change.TEXT, Change.PLAN, Change.CHOICE, Change.FILE):
            self.editor.mark_error(document.text_error)
            self._mark_chosen()
            self._refresh_message()

    def _mark_chosen(self) -> None:
        """Mark in the text what is selected."""
        reading, cursor = self._document.reading, self._document.cursor
        shown = reading is not None and self._document.text_error is None and cursor < len(reading.spans)
        self.editor.mark_chosen(reading.spans[cursor] if reading is not None and shown else None)

    def _refresh_message(self) -> None:
        document = self._document
        empty = document.text_error is None and document.reading is not None and not self.board.written
        if empty:
            self.message.setText("Nothing is written yet. The first note is planned as soon as it is there.")
        elif document.error is not None:
            self.message.setText(error_words(document.error))
        elif document.reading is not None:
            riff = document.reading.riff
            bars = sum(len(phrase.bars) for phrase in riff.phrases)
            notes = sum(not event.rest for event in riff.written_events())
            self.message.setText(
                f"{bars} {'bar' if bars == 1 else 'bars'}, {notes} {'note' if notes == 1 else 'notes'} written. "
                "Ctrl+2 shows the plan."
            )
        set_look(self.message, "good", on=empty or document.error is None)
