"""The harmony of the riff: its key, its chords, where on the neck it lies, and whether the old check holds."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QScrollArea, QVBoxLayout, QWidget

from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.app.error_text import error_words
from dromic.errors import DromicError, RiffError
from dromic.music.chords import parse_sign
from dromic.music.editing import set_sign
from dromic.music.keys import parse_key
from dromic.planner.plan import Plan
from dromic.planner.told.plan_harmony import Harmony, harmony_of

MOST_TOLD = 12


class HarmonyPanel(QScrollArea):
    """Shows the harmony of the document's plan, and writes key and chords.

    Signals
    -------
    message : str
    """

    message = pyqtSignal(str)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self._told_of: Plan | None = None
        self.harmony: Harmony | None = None
        self.setObjectName("bare")
        self.setAccessibleName("Harmony")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.key = QLineEdit()
        self.key.setAccessibleName("Key")
        self.key.setPlaceholderText("A minor, G, D dorian")
        self.key.editingFinished.connect(self._set_key)
        self.take_key = QPushButton()
        self.take_key.clicked.connect(self._take_guess)
        self.chord = QLineEdit()
        self.chord.setAccessibleName("Chord from the selected note on")
        self.chord.setPlaceholderText("Am7, G7b9, D/F#, N.C.")
        self.chord.returnPressed.connect(self._set_chord)
        self.set_chord = QPushButton("Set")
        self.set_chord.setToolTip("The chord begins at the selected note; empty takes it away")
        self.set_chord.clicked.connect(self._set_chord)
        self.key_words, self.chord_words, self.shapes, self.downs = (QLabel() for _ in range(4))
        self._build()
        document.listen(self._heard)
        self.refresh()

    def _build(self) -> None:
        page = QWidget()
        rows = QVBoxLayout(page)
        rows.setContentsMargins(8, 0, 10, 6)
        rows.setSpacing(4)
        for title, widgets in (
            ("Key", (self._row(self.key, self.take_key), self.key_words)),
            ("Chord from the selected note on", (self._row(self.chord, self.set_chord), self.chord_words)),
            ("Where it lies on the neck", (self.shapes,)),
            ("Chord tones on the beat get downs", (self.downs,)),
        ):
            label = QLabel(title)
            label.setObjectName("section")
            rows.addWidget(label)
            for widget in widgets:
                rows.addWidget(widget)
        for words in (self.key_words, self.chord_words, self.shapes, self.downs):
            words.setWordWrap(True)
            words.setTextFormat(Qt.TextFormat.PlainText)
        rows.addStretch(1)
        self.setWidget(page)

    def _row(self, *widgets: QWidget) -> QWidget:
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        for number, widget in enumerate(widgets):
            row.addWidget(widget, 0 if number else 1)
        return holder

    def _heard(self, change: Change) -> None:
        if change in (Change.PLAN, Change.CHOICE, Change.TEXT, Change.FILE) and self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Show what is known now."""
        document, plan = self._document, self._document.plan
        riff = document.reading.riff if document.reading is not None else None
        if plan is not self._told_of or self.harmony is None:
            self._told_of, self.harmony = plan, harmony_of(plan) if plan is not None else None
        harmony = self.harmony
        if not self.key.hasFocus():
            self.key.setText(riff.key if riff is not None else "")
        if not self.chord.hasFocus():
            events = riff.written_events() if riff is not None else ()
            here = events[document.cursor].chord if document.cursor < len(events) else None
            self.chord.setText(str(here) if here is not None else "")
        self.take_key.hide()
        if harmony is None or plan is None:
            for words in (self.key_words, self.chord_words, self.shapes, self.downs):
                words.setText("Once there is a plan, it is told here.")
            return
        self.key_words.setText(harmony.key.words)
        if harmony.key.key is not None and not harmony.key.written:
            self.take_key.setText(f"Write {harmony.key.key}")
            self.take_key.show()
        self.chord_words.setText(_chord_words(plan, harmony))
        self.shapes.setText(_shape_words(plan, harmony))
        self.downs.setText(_down_words(plan, harmony))

    # -- writing ------------------------------------------------------------------------------------------------

    def _take_guess(self) -> None:
        harmony = self.harmony
        if harmony is not None and harmony.key.key is not None:
            self._write_key(str(harmony.key.key))

    def _set_key(self) -> None:
        words = self.key.text().strip()
        reading = self._document.reading
        if reading is None or words == reading.riff.key:
            return
        if words and parse_key(words) is None:
            self.message.emit(f"'{words}' is no key that is known; write one such as A minor, G or D dorian")
            return
        self._write_key(words)

    def _write_key(self, words: str) -> None:
        try:
            self._document.edit(replace(self._document.current_riff, key=words), "changing the key")
        except DromicError as error:
            self.message.emit(error_words(error))

    def _set_chord(self) -> None:
        words = self.chord.text().strip()
        sign = parse_sign(words) if words else None
        if words and sign is None:
            self.message.emit(f"'{words}' means no chord; write one such as Am7, G7b9, D/F#, or N.C. for none")
            return
        try:
            riff = self._document.current_riff
            if self._document.cursor >= len(riff.written_events()):
                raise RiffError("select a note first; the chord begins there")
            self._document.edit(set_sign(riff, self._document.cursor, sign), "setting a chord")
        except DromicError as error:
            self.message.emit(error_words(error))


def _chord_words(plan: Plan, harmony: Harmony) -> str:
    """The chords with their places, each time one begins."""
    found: list[str] = []
    before = None
    for step, chord in enumerate(harmony.chords):
        if chord != before and chord is not None:
            found.append(f"{chord}  {plan.task.steps[step].moment.place_words}")
        before = chord
    if not found:
        return "No chords are written. Select a note, and set the chord that begins there."
    more = len(found) - MOST_TOLD
    return "\n".join([*found[:MOST_TOLD], *([f"and {more} more"] if more > 0 else [])])


def _shape_words(plan: Plan, harmony: Harmony) -> str:
    lines = []
    for shape in dict.fromkeys(one.words for one in harmony.shapes):
        first = next(one for one in harmony.shapes if one.words == shape)
        where = plan.task.steps[first.first].moment.place_words
        lines.append(f"From {where}: {shape}")
    if not lines:
        return "Write a key or chords; then the shapes that it is taken from are told."
    more = len(lines) - MOST_TOLD
    return "\n".join([*lines[:MOST_TOLD], *([f"and {more} more"] if more > 0 else [])])


def _down_words(plan: Plan, harmony: Harmony) -> str:
    """Where the old check holds, and where not."""
    downs = harmony.downs
    if not downs.told:
        return "It is checked where chords are written."
    count = len(downs.holds) + len(downs.fails)
    if not count:
        return "No chord tone falls on a beat and is picked."
    down_words = f"{len(downs.holds)} of {count} do."
    if downs.fails:
        places = [plan.task.steps[step].moment.place_words for step in downs.fails[:MOST_TOLD]]
        more = len(downs.fails) - len(places)
        down_words += f" An up instead: {', '.join(places)}{f' and {more} more' if more > 0 else ''}."
    return down_words
