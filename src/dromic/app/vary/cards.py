"""Variations in a list: what each is, its pick path, and what it changes."""

from __future__ import annotations

from PyQt6.QtCore import QModelIndex, QRectF, QSize, Qt
from PyQt6.QtGui import QFont, QPainter
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from dromic.app.chart.painting import pen
from dromic.app.compare.paint import paint_path
from dromic.app.theme import UI_FONT, Theme
from dromic.practice.vary.lick import WAY_WORDS
from dromic.practice.vary.variants import Variant, Varied

HEIGHT, PATH_WIDTH, PATH_SHARE = 92, 138, 0.28
ROLE = Qt.ItemDataRole.UserRole


class CardDelegate(QStyledItemDelegate):
    """Paints a variation.

    Parameters
    ----------
    theme : Theme
    parent : QWidget or None
    """

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = theme

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        """As high as three lines."""
        return QSize(120, HEIGHT)

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """Paint words, figures and path."""
        found = index.data(ROLE)
        if painter is None or found is None:
            return
        varied, variant = found
        theme = self.theme
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(option.rect).adjusted(3, 3, -3, -3)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.setPen(pen(theme.color("accent" if chosen else "faint"), 1.6 if chosen else 1.0))
        painter.setBrush(theme.color("chosen" if chosen else "sheet"))
        painter.drawRoundedRect(box, 6, 6)
        wide = min(PATH_WIDTH, round(box.width() * PATH_SHARE))
        room = box.adjusted(10, 6, -wide - 22, -6)
        self._text(painter, room, 0, WAY_WORDS[variant.by].lower(), "quiet", 12)
        self._text(painter, room, 17, variant.words[:1].upper() + variant.words[1:], "ink", 15, bold=True)
        for line, words in enumerate(figures(varied, variant)):
            self._text(painter, room, 40 + 17 * line, words, "ink" if not line else "quiet", 13)
        path = QRectF(box.right() - wide - 10, box.top() + 14, wide, box.height() - 28)
        paint_path(painter, path, variant.plan, theme)
        painter.restore()

    def _text(
        self, painter: QPainter, room: QRectF, top: float, words: str, color: str, size: int, *, bold: bool = False
    ) -> None:
        font = QFont(UI_FONT)
        font.setPixelSize(size)
        if bold:
            font.setWeight(QFont.Weight.DemiBold)
        painter.setFont(font)
        painter.setPen(self.theme.color(color))
        shown = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(room.width()))
        painter.drawText(QRectF(room.left(), room.top() + top, room.width(), size + 6), 0, shown)


def figures(varied: Varied, variant: Variant) -> tuple[str, str]:
    """Two lines of figures: the ceiling and the effort against the lick's; what is new and what changes."""
    lick = varied.lick
    effort = round(100 * (variant.effort / max(lick.cost, 1e-9) - 1))
    more = f"effort {effort:+d} %" if effort else "effort the same"
    ceiling, own = variant.ceilings.both, lick.ceiling
    tempo = (
        f"ceiling {ceiling:.0f}, the lick's {own:.0f}" if ceiling is not None and own is not None else "no ceiling"
    )
    new = len(variant.new_movements)
    changed = [
        f"{count} {noun}{'s' if count > 1 else ''}"
        for count, noun in ((variant.changed_fingers, "finger"), (variant.changed_strokes, "stroke"))
        if count
    ]
    told = f"{new} new {'movement' if new == 1 else 'movements'}"
    return f"{tempo} · {more}", told + (f" · {', '.join(changed)} changed" if changed else "")
