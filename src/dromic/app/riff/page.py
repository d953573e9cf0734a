"""The Riff stage: riffs to choose from, the text of one, and how it is written."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QListWidget,
    QPushButton,
    QScrollArea,
    QSplitter,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from dromic.app.document import Change, Document
from dromic.app.error_text import error_words
from dromic.app.riff.board import KEYS, RiffBoard
from dromic.app.riff.editor import RiffEditor
from dromic.app.riff.harmony_panel import HarmonyPanel
from dromic.app.riff.setup_bar import SetupBar
from dromic.app.shell.sliding_row import SlidingRow
from dromic.app.theme import TEXT_FONT, Theme
from dromic.demo.library import DemoRiff
from dromic.music.editing import MOST_TIMES

LIST_WIDTH, HELP_WIDTH, LEAST_EDITOR = 150, 300, 52

_HELP = (
    ("Notes", (("5:7", "string 5, fret 7; string 1 is the thinnest"), ("C#4", "a pitch; its place is planned"))),
    ("", (("r", "a rest"), ("(6:6 5:8)", "struck together"))),
    (
        "How long",
        (("/8", "eighths from here on"), ("/8.", "dotted"), ("/8t", "triplet"), ("/16q5", "5 in 4")),
    ),
    (
        "How played, after a dot",
        (
            ("5:7.m", "palm mute"),
            (".>", "accent"),
            (".h .p .s", "hammer-on, pull-off, slide into it"),
            (".b1 .b2 .bq .r", "bend half, whole, a quarter tone; release"),
            (".g .t .x", "grace note, tie, dead note"),
            (".v .l .k .z", "vibrato, let ring, rake, staccato"),
            (".i .o", "slide in from nowhere, slide off"),
            (".w1 .w2", "trill with the note a half, a whole step above"),
            (".n .a .T", "natural harmonic (1:12.n), pinch harmonic, tap"),
        ),
    ),
    (
        "What you decide yourself",
        (
            ("5:7!d", "a down; !u an up; !t together"),
            ("@3", "fretting finger 3"),
            ("^5", "the hand at fret 5"),
        ),
    ),
    (
        "Form",
        (
            ("|", "bar line"),
            ("| {3/4} {tempo 90}", "another metre, another tempo from this bar on"),
            ("{Am7} 5:7", "a chord begins here; {N.C.} none"),
            ("[verse]", "a phrase begins"),
            ("x3", "play it three times"),
            ("# …", "a comment"),
        ),
    ),
    (
        "Lines before the first bar",
        (
            ("title, key, section", "free words"),
            ("instrument", "guitar-6 to -8, bass-4 to -6"),
            ("tuning", "drop, half-step-down, or D2 A2 …"),
            ("tempo, meter", "quarter notes a minute; 6/8"),
            ("swing: 2:1", "long to short"),
            ("pickup: 1/8", "a short first bar"),
            ("capo, gain", "2; clean, crunch or high"),
            ("scale, nut, bridge", "lengths in mm, where they are your own"),
        ),
    ),
)


class _Help(QScrollArea):
    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("bare")
        self.setAccessibleName("How a riff is written")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        page = QWidget()
        rows = QVBoxLayout(page)
        rows.setContentsMargins(8, 0, 10, 6)
        rows.setSpacing(2)
        heading = QLabel("Keys on the board")
        heading.setObjectName("heading")
        rows.addWidget(heading)
        for sign, words in KEYS:
            rows.addLayout(self._line(sign, words))
        heading = QLabel("The same riff as text")
        heading.setObjectName("heading")
        rows.addSpacing(10)
        rows.addWidget(heading)
        for title, lines in _HELP:
            if title:
                label = QLabel(title)
                label.setObjectName("section")
                rows.addWidget(label)
            for sign, words in lines:
                rows.addLayout(self._line(sign, words))
        rows.addStretch(1)
        self.setWidget(page)

    def _line(self, sign: str, words: str) -> QHBoxLayout:
        row = QHBoxLayout()
        left, right = QLabel(sign), QLabel(words)
        left.setStyleSheet(f'font-family: "{TEXT_FONT}"; font-size: 15px;')
        left.setTextFormat(Qt.TextFormat.PlainText)
        left.setFixedWidth(112 if len(sign) < 14 else 148)
        right.setWordWrap(True)
        row.addWidget(left, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(right, 1)
        return row


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
        side = QVBoxLayout()
        caption = QLabel("Demo riffs")
        caption.setObjectName("section")
        side.addWidget(caption)
        side.addWidget(self.list, 1)
        row.addLayout(side)
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
        split.setStretchFactor(1, 2)
        split.setChildrenCollapsible(False)
        middle.addWidget(split, 1)
        middle.addWidget(self.message)
        row.addLayout(middle, 1)
        self.harmony = HarmonyPanel(document)
        self.side = QTabWidget()
        self.side.setObjectName("side")
        self.side.setFixedWidth(HELP_WIDTH)
        self.side.addTab(_Help(), "&Keys")
        self.side.addTab(self.harmony, "Har&mony")
        self.side.currentChanged.connect(lambda _at: self.harmony.refresh())
        row.addWidget(self.side)
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

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self.editor.set_theme(theme)
        self.board.set_theme(theme)

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
        if document.error is not None:
            self.message.setText(error_words(document.error))
        elif document.reading is not None:
            riff = document.reading.riff
            bars = sum(len(phrase.bars) for phrase in riff.phrases)
            notes = sum(not event.rest for event in riff.written_events())
            self.message.setText(
                f"{bars} {'bar' if bars == 1 else 'bars'}, {notes} {'note' if notes == 1 else 'notes'} written. "
                "Ctrl+2 shows the plan."
            )
        self.message.setProperty("good", "false" if document.error is not None else "true")
        style = self.message.style()
        if style is not None:
            style.unpolish(self.message)
            style.polish(self.message)
