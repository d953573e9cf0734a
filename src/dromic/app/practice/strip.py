"""A session as a strip of blocks, as wide as they are long; the chosen one is marked."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from dromic.app.practice.run import block_words
from dromic.app.theme import Theme
from dromic.practice.session.session import Block

HEIGHT, GAP, NARROW = 62, 3.0, 44.0
LEAST_BLOCK = 54.0


class SessionStrip(QWidget):
    """Shows blocks; one can be chosen.

    Signals
    -------
    chosen : int
    """

    chosen = pyqtSignal(int)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._blocks: tuple[Block, ...] = ()
        self._at, self._done = 0, 0.0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setFixedHeight(HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Blocks of the session")

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = theme
        self.update()

    def show_blocks(self, blocks: tuple[Block, ...], at: int, done: float = 0.0) -> None:
        """Show blocks, the chosen one, and how much of it is over, from 0 to 1.

        Parameters
        ----------
        blocks : tuple of Block
        at : int
        done : float
        """
        self._blocks, self._at, self._done = blocks, at, done
        if blocks:
            block = blocks[min(at, len(blocks) - 1)]
            self.setAccessibleDescription(
                f"block {at + 1} of {len(blocks)}: {block_words(block)}, {block.minutes} minutes. {block.reason}"
            )
        self.update()

    def sizeHint(self) -> QSize:
        """As wide as there is room."""
        return QSize(600, HEIGHT)

    def _boxes(self) -> list[QRectF]:
        room = self.width() - GAP * (len(self._blocks) - 1) - 2
        # A short block has room for its words all the same, as long as there is any.
        least = min(LEAST_BLOCK, room / max(len(self._blocks), 1))
        total = sum(block.minutes for block in self._blocks) or 1
        spare = room - least * len(self._blocks)
        x, boxes = 1.0, []
        for block in self._blocks:
            width = least + spare * block.minutes / total
            boxes.append(QRectF(x, 1.0, width, HEIGHT - 2.0))
            x += width + GAP
        return boxes

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Paint the blocks."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        try:
            for number, (block, box) in enumerate(zip(self._blocks, self._boxes(), strict=True)):
                self._paint(painter, number, block, box)
        finally:
            painter.end()

    def _paint(self, painter: QPainter, number: int, block: Block, box: QRectF) -> None:
        theme, here = self._theme, number == self._at
        pause = block.drill is None
        painter.setPen(QPen(theme.color("accent" if here else "faint"), 2.0 if here else 1.0))
        painter.setBrush(theme.color("chosen" if here else "paper" if pause else "sheet"))
        painter.drawRoundedRect(box, 5, 5)
        if here and self._done > 0:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.color("accent"))
            painter.drawRect(QRectF(box.left() + 2, box.bottom() - 6, (box.width() - 4) * min(self._done, 1.0), 4))
        font = painter.font()
        font.setPixelSize(13)
        font.setBold(here)
        painter.setFont(font)
        narrow = box.width() < NARROW
        inside = box.adjusted(2 if narrow else 6, 4, -1 if narrow else -4, -8)
        metrics = QFontMetricsF(font)
        lines = [block_words(block), f"{block.tempo_from:.0f} → {block.tempo_to:.0f}" if not pause else ""]
        wide = metrics.horizontalAdvance(f"{block.minutes} min") <= inside.width()
        lines.append(f"{block.minutes} min" if wide else str(block.minutes))
        for row, (words, color) in enumerate(zip(lines, ("ink", "quiet", "quiet"), strict=True)):
            painter.setPen(theme.color(color))
            told = metrics.elidedText(words, Qt.TextElideMode.ElideRight, inside.width())
            # One letter and dots say nothing.
            if len(told) > 3 or told == words:
                painter.drawText(QPointF(inside.left(), inside.top() + 12 + 17 * row), told)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Choose the block that was clicked."""
        number = self._number_at(event.position()) if event is not None else None
        if number is not None:
            self.chosen.emit(number)

    def _number_at(self, place: QPointF) -> int | None:
        return next((number for number, box in enumerate(self._boxes()) if box.contains(place)), None)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Walk from block to block."""
        if event is None:
            return
        steps = {
            Qt.Key.Key_Right: self._at + 1,
            Qt.Key.Key_Left: self._at - 1,
            Qt.Key.Key_Home: 0,
            Qt.Key.Key_End: len(self._blocks) - 1,
        }
        wanted = steps.get(Qt.Key(event.key()))
        if wanted is None:
            super().keyPressEvent(event)
        elif 0 <= wanted < len(self._blocks):
            self.chosen.emit(wanted)

    def event(self, event: QEvent | None) -> bool:
        """Tell what a block is for while the pointer rests on it."""
        if isinstance(event, QHelpEvent) and event.type() is QEvent.Type.ToolTip:
            number = self._number_at(QPointF(event.pos()))
            if number is not None:
                block = self._blocks[number]
                QToolTip.showText(
                    event.globalPos(), f"{block_words(block)}, {block.minutes} minutes\n{block.reason}"
                )
                return True
        return super().event(event)
