"""The text of the riff: coloured quietly, with the error marked where it is."""

from __future__ import annotations

import re

from PyQt6.QtCore import QEvent, pyqtSignal
from PyQt6.QtGui import (
    QFocusEvent,
    QKeyEvent,
    QKeySequence,
    QSyntaxHighlighter,
    QTextCharFormat,
    QTextCursor,
    QTextDocument,
)
from PyQt6.QtWidgets import QPlainTextEdit, QTextEdit, QWidget

from dromic.app.theme import Theme
from dromic.errors import RiffError
from dromic.formats.rifftext.reading import Span

_COMMENT = re.compile(r"(?<!\S)#.*$")
_HEADER = re.compile(r"^\s*[A-Za-z][A-Za-z_-]*\s*:")
_STRUCTURE = re.compile(r"\||\[[^\]]*\]|\bx\d+\b")
_LOCKS = re.compile(r"!.|[@^]\d+")


class _Highlighter(QSyntaxHighlighter):
    def __init__(self, document: QTextDocument | None, theme: Theme) -> None:
        super().__init__(document)
        self.theme = theme

    def highlightBlock(self, text: str | None) -> None:
        line = text or ""
        self._paint(line, _HEADER, "quiet")
        if not _HEADER.match(line):
            self._paint(line, _STRUCTURE, "accent")
            self._paint(line, _LOCKS, "calm")
        self._paint(line, _COMMENT, "quiet")

    def _paint(self, line: str, pattern: re.Pattern[str], color: str) -> None:
        for match in pattern.finditer(line):
            style = QTextCharFormat()
            style.setForeground(self.theme.color(color))
            self.setFormat(match.start(), match.end() - match.start(), style)


def _same(one: list[str], two: list[str]) -> int:
    """How many lines at the start are the same."""
    pairs = enumerate(zip(one, two, strict=False))
    return next((at for at, (a, b) in pairs if a != b), min(len(one), len(two)))


class RiffEditor(QPlainTextEdit):
    """Edits riff text.

    Signals
    -------
    focused : no argument
        The keys are the text's.
    """

    focused = pyqtSignal()

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("Riff text")
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.WidgetWidth)
        self.setTabChangesFocus(True)
        # The document undoes everything, text too.
        self.setUndoRedoEnabled(False)
        self._theme = theme
        self._highlighter = _Highlighter(self.document(), theme)
        self._error: RiffError | None = None
        self._chosen: Span | None = None

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = self._highlighter.theme = theme
        self._highlighter.rehighlight()
        self._mark()

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        """The keys are the text's."""
        super().focusInEvent(event)
        self.focused.emit()

    def show_text(self, text: str) -> None:
        """Take other text, the cursor and what shows staying where they are as far as they can."""
        place, bar = self.textCursor().position(), self.verticalScrollBar()
        scrolled = bar.value() if bar is not None else 0
        old, new = self.toPlainText().split("\n"), text.split("\n")
        same = _same(old, new)
        behind = _same(old[same:][::-1], new[same:][::-1])
        # Only lines that differ are replaced: laying out and colouring the others takes its time.
        if same and same < min(len(old), len(new)):
            self._replace(same, len(old) - behind, new[same : len(new) - behind])
        if self.toPlainText() != text:
            self.setPlainText(text)
        cursor = self.textCursor()
        cursor.setPosition(min(place, len(text)))
        self.setTextCursor(cursor)
        if bar is not None:
            bar.setValue(scrolled)

    def _replace(self, first: int, end: int, lines: list[str]) -> None:
        """Put lines in the place of some, of which there is one at least, as there is before them."""
        document = self.document()
        if document is None or end <= first or not lines:
            return
        cursor = QTextCursor(document.findBlockByNumber(first))
        last = document.findBlockByNumber(end - 1)
        cursor.setPosition(last.position() + last.length() - 1, QTextCursor.MoveMode.KeepAnchor)
        cursor.insertText("\n".join(lines))

    def event(self, event: QEvent | None) -> bool:
        """Leave undo and redo to the window."""
        if event is not None and event.type() is QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            standard = QKeySequence.StandardKey
            if event.matches(standard.Undo) or event.matches(standard.Redo):
                event.ignore()
                return False
        return super().event(event)

    @property
    def place(self) -> tuple[int, int]:
        """Line and column of the cursor, both counted from 1."""
        cursor = self.textCursor()
        return cursor.blockNumber() + 1, cursor.positionInBlock() + 1

    def mark_error(self, error: RiffError | None) -> None:
        """Mark the line and the place of an error."""
        self._error = error
        self._mark()

    def mark_chosen(self, span: Span | None) -> None:
        """Mark the note that is chosen on the chart."""
        self._chosen = span
        self._mark()

    def _mark(self) -> None:
        marks = []
        error, span = self._error, self._chosen
        if span is not None:
            marks.append(self._selection(span.line, span.start, span.end, "chosen", wavy=False))
        if error is not None and error.line is not None:
            column = error.column or 1
            marks.append(self._selection(error.line, column, None, "error_sheet", wavy=True))
        self.setExtraSelections(marks)

    def _selection(
        self, line: int, start: int, end: int | None, color: str, *, wavy: bool
    ) -> QTextEdit.ExtraSelection:
        selection = QTextEdit.ExtraSelection()
        document = self.document()
        block = document.findBlockByNumber(line - 1) if document is not None else self.textCursor().block()
        if not block.isValid() and document is not None:
            block = document.lastBlock()
        text = block.text()
        cursor = QTextCursor(block)
        start = min(start - 1, max(len(text) - 1, 0))
        if end is None:
            word = re.compile(r"\S*").match(text, start)
            end = max(word.end() if word else start, start + 1) + 1
        cursor.setPosition(block.position() + start)
        cursor.setPosition(block.position() + min(end - 1, len(text)), QTextCursor.MoveMode.KeepAnchor)
        style = QTextCharFormat()
        style.setBackground(self._theme.color(color))
        if wavy:
            style.setUnderlineStyle(QTextCharFormat.UnderlineStyle.WaveUnderline)
            style.setUnderlineColor(self._theme.color("hot"))
        selection.cursor, selection.format = cursor, style
        return selection

    def go_to(self, line: int, column: int) -> None:
        """Put the cursor at a place, both counted from 1."""
        document = self.document()
        if document is None:
            return
        block = document.findBlockByNumber(line - 1)
        cursor = QTextCursor(block if block.isValid() else document.lastBlock())
        cursor.movePosition(
            QTextCursor.MoveOperation.Right,
            QTextCursor.MoveMode.MoveAnchor,
            min(column - 1, len(cursor.block().text())),
        )
        self.setTextCursor(cursor)
        self.setFocus()
