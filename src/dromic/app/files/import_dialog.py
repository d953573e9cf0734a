"""What is in a file or on a page: its parts, how the chosen one was understood, and what was not."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QProgressBar,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from dromic.app.document import Document
from dromic.app.error_text import error_words
from dromic.app.jobs import Jobs, single
from dromic.app.riff.board import RiffBoard
from dromic.app.riff.editor import RiffEditor
from dromic.app.theme import TEXT_FONT, Theme
from dromic.errors import DromicError, RiffError
from dromic.formats.reading.raw import Imported, counted
from dromic.formats.registry import TAB, OpenedFile, open_text, read_part
from dromic.formats.rifftext.writer import write_riff_text

MANY = 8
PAUSE_MS = 150
# Reading that is done sooner is not worth a word.
SHOWN_AFTER_MS = 300


@dataclass(frozen=True)
class _Read:
    """A part that was read: the riff it makes with its text, or why it makes none."""

    opened: OpenedFile
    part: int
    outcome: tuple[Imported, str] | RiffError


def _read(opened: OpenedFile, part: int) -> _Read:
    try:
        imported = read_part(opened, part)
        return _Read(opened, part, (imported, write_riff_text(imported.riff)))
    except RiffError as error:
        return _Read(opened, part, error)


def _read_text(text: str) -> _Read:
    opened = open_text(text)
    return _read(opened, opened.source.likely)


class ImportDialog(QDialog):
    """Lets a part be chosen, and shows the riff it makes.

    Parameters
    ----------
    opened : OpenedFile or None
        None for text, which is read here.
    title : str
        Name of the file, or what it is.
    theme : Theme
    text : str or None
        Text that was pasted, which can be mended here; None for a file.
    """

    def __init__(
        self,
        opened: OpenedFile | None,
        title: str,
        theme: Theme,
        text: str | None = None,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Open {title}" if text is None else "Paste as a riff")
        self.resize(980, 620)
        self.opened, self.part = opened, 0
        self._pasted = text is not None
        self.imported: Imported | None = None
        self._reader = Jobs(self, threads=4)
        self._reader.found.connect(self._take)
        self._reader.finished.connect(self._end)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search")
        self.search.setAccessibleName("Search parts")
        self.search.setClearButtonEnabled(True)
        self.list = QListWidget()
        self.list.setAccessibleName("Parts")
        self.page = QPlainTextEdit(text or "")
        self.page.setAccessibleName("Pasted text")
        self.page.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.page.setStyleSheet(f'font-family: "{TEXT_FONT}"; font-size: 15px;')
        self.preview = RiffEditor(theme)
        self.preview.setReadOnly(True)
        self.preview.setAccessibleName("How it is understood")
        self._shown = Document()
        self.board = RiffBoard(self._shown, theme)
        self.board.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.board.setAccessibleName("How it is understood, on the strings")
        self.heading = QLabel()
        self.heading.setObjectName("strong")
        self.progress = QProgressBar()
        self.progress.setRange(0, 0)
        self.progress.setTextVisible(False)
        self.progress.setVisible(False)
        self._patience = QTimer(self)
        self._patience.setSingleShot(True)
        self._patience.setInterval(SHOWN_AFTER_MS)
        self._patience.timeout.connect(self._show_waiting)
        self.remarks = QLabel()
        self.remarks.setWordWrap(True)
        self.remarks.setTextFormat(Qt.TextFormat.PlainText)
        self.open_button = QPushButton("Open")
        self.open_button.setDefault(True)
        self._build()
        self.search.textChanged.connect(self._filter)
        self.list.currentRowChanged.connect(self._chosen)
        self.page.textChanged.connect(lambda: self._read_again(PAUSE_MS))
        self.finished.connect(self._reader.cancel)
        if opened is None:
            self._fill()
            self._read_again()
        else:
            self._fill(opened.source.likely)
            self._chosen(opened.source.likely)

    @property
    def reading(self) -> bool:
        """Whether a riff is on its way."""
        return self._reader.working

    def _build(self) -> None:
        split = QSplitter(Qt.Orientation.Horizontal)
        self._left, right = QWidget(), QWidget()
        side, middle = QVBoxLayout(self._left), QVBoxLayout(right)
        for box in (side, middle):
            box.setContentsMargins(0 if box is side else 8, 0, 0, 0)
        if self._pasted:
            caption = QLabel("The text; correct it here, and the riff follows")
            caption.setObjectName("section")
            side.addWidget(caption)
            side.addWidget(self.page, 1)
        else:
            caption = QLabel("What is in it")
            caption.setObjectName("section")
            side.addWidget(caption)
            side.addWidget(self.search)
        side.addWidget(self.list, 0 if self._pasted else 1)
        middle.addWidget(self.heading)
        middle.addWidget(self.progress)
        views = QSplitter(Qt.Orientation.Vertical)
        views.addWidget(self.board)
        views.addWidget(self.preview)
        views.setSizes([300, 160])
        views.setChildrenCollapsible(False)
        middle.addWidget(views, 1)
        self._caption = QLabel("What to look at")
        self._caption.setObjectName("section")
        middle.addWidget(self._caption)
        middle.addWidget(self.remarks)
        self._views, self._nothing = views, QWidget()
        middle.addWidget(self._nothing, 1)
        self._show_views(False)
        split.addWidget(self._left)
        split.addWidget(right)
        split.setSizes([500, 480] if self._pasted else [300, 680])
        split.setChildrenCollapsible(False)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        buttons.addButton(self.open_button, QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        row = QHBoxLayout()
        row.addWidget(split)
        column.addLayout(row, 1)
        column.addWidget(buttons)

    def _fill(self, chosen: int = -1) -> None:
        self.list.blockSignals(True)
        self.list.clear()
        parts = self.opened.source.parts if self.opened is not None else ()
        for part in parts:
            item = QListWidgetItem(part.name or "untitled")
            item.setToolTip(part.words)
            if part.words:
                item.setText(f"{part.name or 'untitled'}  ({part.words})")
            self.list.addItem(item)
        self.list.setVisible(len(parts) > 1)
        self._left.setVisible(self._pasted or len(parts) > 1)
        self.search.setVisible(len(parts) > MANY)
        self.list.setCurrentRow(chosen)
        self.list.blockSignals(False)

    def _filter(self, text: str) -> None:
        words = text.lower().split()
        for row in range(self.list.count()):
            item = self.list.item(row)
            if item is not None:
                item.setHidden(not all(word in item.text().lower() for word in words))

    def _wait(self) -> None:
        self.imported = None
        self.open_button.setEnabled(False)
        if not self._patience.isActive():
            self._patience.start()

    def _show_waiting(self) -> None:
        self.heading.setText("Reading…")
        self.progress.setVisible(True)
        self.remarks.clear()
        self._caption.setVisible(False)

    def _show_views(self, shown: bool) -> None:
        """Show the riff, or leave its place empty."""
        self._views.setVisible(shown)
        self._caption.setVisible(shown)
        self._nothing.setVisible(not shown)

    def _read_again(self, pause_ms: int = 0) -> None:
        """The pasted text has changed."""
        text = self.page.toPlainText()
        self._wait()
        self._reader.ask(single(lambda: _read_text(text)), pause_ms)

    def _chosen(self, row: int) -> None:
        opened = self.opened
        if opened is None or row < 0:
            return
        self._wait()
        self._reader.ask(single(lambda: _read(opened, row)))

    def _end(self, trouble: DromicError | None) -> None:
        self._patience.stop()
        self.progress.setVisible(False)
        if trouble is not None:
            self.opened = None
            self._fill()
            self._show_error(trouble)

    def _take(self, read: _Read) -> None:
        self._patience.stop()
        self.progress.setVisible(False)
        if read.opened is not self.opened:
            self.opened = read.opened
            self._fill(read.part)
        self.part = read.part
        if isinstance(read.outcome, RiffError):
            self._show_error(read.outcome)
        else:
            self._show(read.opened.kind, *read.outcome)

    def _show(self, kind: str, imported: Imported, text: str) -> None:
        self.imported = imported
        riff = imported.riff
        bars = sum(len(phrase.bars) for phrase in riff.phrases)
        notes = sum(not event.rest for event in riff.written_events())
        self.heading.setText(
            f"{riff.title or 'untitled'}: {counted(bars, 'bar')}, {counted(notes, 'note')} ({kind})"
        )
        self.preview.show_text(text)
        self._shown.start(text)
        self._show_views(True)
        remarks = "\n".join(f"• {remark[:1].upper()}{remark[1:]}." for remark in imported.remarks)
        rhythm = "\nYou can correct the rhythm on the riff board." if kind == TAB and remarks else ""
        self.remarks.setText((remarks or "Everything in it was understood.") + rhythm)
        self.open_button.setEnabled(True)

    def _show_error(self, error: DromicError) -> None:
        self.imported = None
        self.heading.setText("No riff")
        self.preview.show_text("")
        self._shown.start("")
        self._show_views(False)
        words = error_words(error)
        self.remarks.setText(words[:1].upper() + words[1:])
        self.open_button.setEnabled(False)
