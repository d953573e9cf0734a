"""Pictures of the log: clean tempo over time, minutes by kind, what was predicted against what came."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, timedelta

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFont, QPainter, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from dromic.app.chart.painting import pen
from dromic.app.theme import UI_FONT, Theme
from dromic.practice.log.logbook import Source
from dromic.practice.log.progress import Calibration, DayOf
from dromic.practice.passages.drill import BOTH_HANDS, KINDS, ONE_HAND, WHOLE_RIFF

LEFT, BOTTOM, TOP, RIGHT = 40.0, 22.0, 26.0, 10.0
SHOWN_DAYS = 84
COLORS = {BOTH_HANDS: "calm", ONE_HAND: "warm", WHOLE_RIFF: "string"}


class Plot(QWidget):
    """A frame with a caption; what is in it is painted by those that inherit it."""

    caption = ""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self.setAccessibleName(self.caption)
        self.setMinimumSize(200, 150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = theme
        self.update()

    @property
    def box(self) -> QRectF:
        """Where it is painted."""
        return QRectF(LEFT, TOP, self.width() - LEFT - RIGHT, self.height() - TOP - BOTTOM)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Paint caption and content."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        try:
            font = QFont(UI_FONT)
            font.setPixelSize(13)
            font.setBold(True)
            painter.setFont(font)
            painter.setPen(self._theme.color("ink"))
            painter.drawText(QPointF(2, 14), self.caption)
            font.setBold(False)
            painter.setFont(font)
            self._paint(painter, self.box)
        finally:
            painter.end()

    def _paint(self, painter: QPainter, box: QRectF) -> None:
        raise NotImplementedError

    def _nothing(self, painter: QPainter, box: QRectF, words: str) -> None:
        painter.setPen(self._theme.color("quiet"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)

    def _rule(
        self, painter: QPainter, box: QRectF, y: float, words: str, color: str, *, dashed: bool = False
    ) -> None:
        style = Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine
        painter.setPen(pen(self._theme.color(color), 1.2, style))
        painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
        painter.setPen(self._theme.color("quiet" if color == "faint" else color))
        where = QRectF(0, y - 9, LEFT - 5, 18)
        painter.drawText(where, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)

    def _dates(self, painter: QPainter, box: QRectF, first: date, last: date) -> None:
        painter.setPen(self._theme.color("quiet"))
        under = QRectF(box.left(), box.bottom() + 3, box.width(), 18)
        painter.drawText(under, Qt.AlignmentFlag.AlignLeft, day_words(first))
        if last > first:
            painter.drawText(under, Qt.AlignmentFlag.AlignRight, day_words(last))


class TempoPlot(Plot):
    """Clean tempo day by day with its uncertainty, against ceiling and target."""

    caption = "Clean tempo, quarter notes a minute"

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(theme, parent)
        self._days: tuple[DayOf, ...] = ()
        self._ceiling: float | None = None
        self._target: float | None = None

    def show_days(self, days: Sequence[DayOf], ceiling: float | None, target: float | None) -> None:
        """Show other days.

        Parameters
        ----------
        days : sequence of DayOf
        ceiling : float or None
        target : float or None
            Quarter notes a minute.
        """
        self._days, self._ceiling, self._target = tuple(days), ceiling, target
        if days:
            self.setAccessibleDescription(
                f"from {days[0].tempo:.0f} on {day_words(days[0].day)} to {days[-1].tempo:.0f} on "
                f"{day_words(days[-1].day)}"
            )
        self.update()

    def _paint(self, painter: QPainter, box: QRectF) -> None:
        if not self._days:
            self._nothing(painter, box, "Choose a riff that has been practised.")
            return
        lines = [line for line in (self._ceiling, self._target) if line is not None]
        low = min([day.low for day in self._days] + lines) * 0.92
        high = max([day.high for day in self._days] + lines) * 1.06
        first, last = min(day.day for day in self._days), max(day.day for day in self._days)
        days = max((last - first).days, 1)

        def x(day: date) -> float:
            return box.left() + box.width() * (day - first).days / days

        def y(tempo: float) -> float:
            return box.bottom() - box.height() * (tempo - low) / (high - low)

        step = next(step for step in (5, 10, 20, 40, 80, 160, 320) if (high - low) / step <= 6)
        for tempo in range(int(low // step + 1) * step, int(high) + 1, step):
            if all(abs(y(tempo) - y(line)) > 13 for line in lines):
                self._rule(painter, box, y(tempo), str(tempo), "faint")
        for tempo_, words, color in ((self._ceiling, "ceiling", "hot"), (self._target, "target", "accent")):
            if tempo_ is not None:
                self._rule(painter, box, y(tempo_), "", color, dashed=True)
                # Side by side, for the two may lie close.
                told = f"{words} {tempo_:.0f}"
                wide = painter.fontMetrics().horizontalAdvance(told)
                at = box.left() + 4 if words == "ceiling" else box.left() + 110
                painter.fillRect(QRectF(at - 2, y(tempo_) - 8, wide + 4, 16), self._theme.color("paper"))
                painter.drawText(QPointF(at, y(tempo_) + 5), told)
        for source, color in ((Source.SELF, "calm"), (Source.TAKE, "warm")):
            own = [day for day in self._days if day.source is source]
            if not own:
                continue
            above = [QPointF(x(day.day), y(day.high)) for day in own]
            below = [QPointF(x(day.day), y(day.low)) for day in reversed(own)]
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self._theme.color(color, 60))
            painter.drawPolygon(QPolygonF([*above, *below]))
            middle = [QPointF(x(day.day), y(day.tempo)) for day in own]
            painter.setPen(pen(self._theme.color(color), 2.2))
            painter.setBrush(self._theme.color(color))
            painter.drawPolyline(QPolygonF(middle))
            for point in middle:
                painter.drawEllipse(point, 2.4, 2.4)
        self._dates(painter, box, first, last)


class MinutesPlot(Plot):
    """Minutes of every day, by kind of drill."""

    caption = "Minutes a day"

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(theme, parent)
        self._minutes: dict[date, dict[str, float]] = {}

    def show_minutes(self, minutes: Mapping[date, Mapping[str, float]]) -> None:
        """Show other minutes."""
        self._minutes = {day: dict(kinds) for day, kinds in minutes.items()}
        total = sum(sum(kinds.values()) for kinds in minutes.values())
        self.setAccessibleDescription(f"{total:.0f} minutes on {len(minutes)} days")
        self.update()

    def _paint(self, painter: QPainter, box: QRectF) -> None:
        if not self._minutes:
            self._nothing(painter, box, "Nothing has been practised yet.")
            return
        last = max(self._minutes)
        first = max(min(self._minutes), last - timedelta(days=SHOWN_DAYS - 1))
        count = (last - first).days + 1
        most = max(sum(kinds.values()) for day, kinds in self._minutes.items() if day >= first) or 1.0
        step = next((step for step in (1, 2, 5, 10, 20, 30, 60, 120) if most / step <= 5), 240)
        for minutes in range(step, int(most) + 1, step):
            y = box.bottom() - box.height() * minutes / (most * 1.05)
            self._rule(painter, box, y, str(minutes), "faint")
        wide = box.width() / count
        painter.setPen(Qt.PenStyle.NoPen)
        for day, kinds in self._minutes.items():
            if day < first:
                continue
            x, y = box.left() + wide * (day - first).days, box.bottom()
            for group, color in COLORS.items():
                # A log from elsewhere may have kinds of its own.
                played = sum(own for kind, own in kinds.items() if KINDS.get(kind, BOTH_HANDS) == group)
                high = box.height() * played / (most * 1.05)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(self._theme.color(color))
                painter.drawRect(QRectF(x + 0.5, y - high, max(wide - 1.5, 1.0), high))
                y -= high
        self._legend(painter, box)
        self._dates(painter, box, first, last)

    def _legend(self, painter: QPainter, box: QRectF) -> None:
        x = box.right()
        metrics = painter.fontMetrics()
        taken = metrics.horizontalAdvance(self.caption) + 40
        needed = sum(metrics.horizontalAdvance(words) + 24 for words in COLORS)
        if box.right() - needed < taken:
            return
        for words, color in reversed(COLORS.items()):
            x -= metrics.horizontalAdvance(words)
            painter.setPen(self._theme.color("quiet"))
            painter.drawText(QPointF(x, 14), words)
            x -= 14
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self._theme.color(color))
            painter.drawRect(QRectF(x, 5, 9, 9))
            x -= 10


class CalibrationPlot(Plot):
    """How often repetitions were clean against how likely that was thought; on the line, predictions hold."""

    caption = "Clean: predicted and come true"

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(theme, parent)
        self._groups: tuple[Calibration, ...] = ()

    def show_groups(self, groups: Sequence[Calibration]) -> None:
        """Show other groups."""
        self._groups = tuple(groups)
        told = "; ".join(f"{group.predicted:.0%} predicted, {group.came:.0%} came" for group in groups)
        self.setAccessibleDescription(told)
        self.update()

    def _paint(self, painter: QPainter, box: QRectF) -> None:
        if not self._groups:
            self._nothing(
                painter, box, "Mark repetitions clean or not, and this shows how well they were foreseen."
            )
            return

        def at(predicted: float, came: float) -> QPointF:
            return QPointF(box.left() + box.width() * predicted, box.bottom() - box.height() * came)

        for share in (0.0, 0.5, 1.0):
            self._rule(painter, box, at(0, share).y(), f"{share:.0%}", "faint")
        painter.setPen(pen(self._theme.color("string"), 1.2, Qt.PenStyle.DashLine))
        painter.drawLine(at(0, 0), at(1, 1))
        most = max(group.count for group in self._groups)
        for one in self._groups:
            size = 3.0 + 7.0 * (one.count / most) ** 0.5
            painter.setPen(pen(self._theme.color("calm"), 1.4))
            painter.setBrush(self._theme.color("calm", 110))
            painter.drawEllipse(at(one.predicted, one.came), size, size)
        painter.setPen(self._theme.color("quiet"))
        under = QRectF(box.left(), box.bottom() + 3, box.width(), 18)
        painter.drawText(under, Qt.AlignmentFlag.AlignLeft, "unlikely")
        painter.drawText(under, Qt.AlignmentFlag.AlignRight, "likely")


def day_words(day: date) -> str:
    """A day in a few letters.

    Examples
    --------
    >>> day_words(date(2026, 3, 5))
    '5 Mar 2026'
    """
    return f"{day.day} {day:%b %Y}"
