"""The neck strip: what both hands hold at the chosen note, as the player sees the neck, and where they go next."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFont, QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from dromic.app.chart.lanes.hand import MARKED_FRETS
from dromic.app.chart.neck import NeckLayout
from dromic.app.chart.painting import pen
from dromic.app.theme import UI_FONT, Theme
from dromic.hands.fingers import finger_sign, finger_words
from dromic.music.riff import Mark, Stroke
from dromic.planner.plan import Plan, PlannedEvent, PlannedNote

HEIGHT = 126
DOT = 9.0
_HINT = (
    "Filled: the fingers that are down now. Dashed: where the next note is. The arrow is the stroke. "
    "F10 shows or hides the neck, Shift+F6 turns it for left-handed players, F6 flips the string order"
)


class NeckView(QWidget):
    """Shows one step of a plan on the neck."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._plan: Plan | None = None
        self._step: int | None = None
        self._turned = (True, False)
        self._size = 1.0
        self.setAccessibleName("Neck")
        self.setToolTip(_HINT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Maximum)

    def minimumSizeHint(self) -> QSize:
        """Nothing: in a low window it goes."""
        return QSize(200, 0)

    def sizeHint(self) -> QSize:
        """As high as the chart's size asks."""
        return QSize(420, round(HEIGHT * self._size))

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = theme
        self.update()

    def set_view(self, *, thick_on_top: bool, left_handed: bool, size: float) -> None:
        """Turn it the way the player looks at it.

        Parameters
        ----------
        thick_on_top, left_handed : bool
        size : float
        """
        self._turned, self._size = (thick_on_top, left_handed), size
        self.updateGeometry()
        self.update()

    def show_step(self, plan: Plan | None, step: int | None) -> None:
        """Show a step."""
        self._plan, self._step = plan, step
        if plan is not None and step is not None and step < len(plan.states):
            event = plan.event_of_step(step)
            down = ", ".join(
                f"{_held_words(note)} on string {note.string} fret {note.fret}" for note in event.notes
            )
            self.setAccessibleDescription(down)
        self.update()

    @property
    def size_factor(self) -> float:
        """How large it is shown, 1 for plain."""
        return self._size

    @property
    def neck_layout(self) -> NeckLayout | None:
        """Geometry of what is shown."""
        if self._plan is None:
            return None
        thick, left = self._turned
        return NeckLayout(self._plan, self.width() / self._size, self.height() / self._size, thick, left)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Paint the strip."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        try:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self._theme.color("sheet"))
            painter.drawRoundedRect(QRectF(self.rect()), 5, 5)
            layout = self.neck_layout
            if layout is not None and self._plan is not None:
                painter.scale(self._size, self._size)
                _Painter(painter, layout, self._theme).paint(self._plan, self._step)
        finally:
            painter.end()


class _Painter:
    def __init__(self, painter: QPainter, layout: NeckLayout, theme: Theme) -> None:
        self._painter, self._layout, self._theme = painter, layout, theme

    def paint(self, plan: Plan, step: int | None) -> None:
        here = plan.event_of_step(step) if step is not None and step < len(plan.states) else None
        if here is not None:
            self._hand(plan, here)
        self._board(plan)
        if here is None or step is None:
            return
        after = step + 1 if step + 1 < len(plan.states) else 0 if plan.loop else None
        if after is not None:
            self._next(here, plan.event_of_step(after))
        self._fingers(here)
        self._stroke(plan, here)

    def _font(self, pixels: int, *, bold: bool = False) -> None:
        font = QFont(UI_FONT)
        font.setPixelSize(pixels)
        font.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
        self._painter.setFont(font)

    def _text(self, x: float, y: float, words: str, color: str, size: int, *, bold: bool = False) -> None:
        self._font(size, bold=bold)
        self._painter.setPen(self._theme.color(color))
        self._painter.drawText(QRectF(x - 40, y - 10, 80, 20), Qt.AlignmentFlag.AlignCenter, words)

    def _board(self, plan: Plan) -> None:
        layout, painter, count = self._layout, self._painter, plan.instrument.strings
        top, bottom = sorted((layout.string_y(1), layout.string_y(count)))
        low, high = layout.frets
        for fret in range(low, high + 1):
            x = layout.wire_x(fret)
            nut = fret == 0
            painter.setPen(pen(self._theme.color("ink" if nut else "faint"), 4.0 if nut else 1.6))
            painter.drawLine(QPointF(x, top), QPointF(x, bottom))
            if fret > low and fret in MARKED_FRETS:
                middle = (layout.wire_x(fret - 1) + x) / 2
                self._text(middle, layout.height - 10, str(fret), "quiet", 12)
        ends = layout.turned(8.0), layout.turned(layout.width - 8.0)
        for string in range(1, count + 1):
            y = layout.string_y(string)
            painter.setPen(pen(self._theme.color("string", 150), 0.9 + 1.7 * (string - 1) / max(count - 1, 1)))
            painter.drawLine(QPointF(ends[0], y), QPointF(ends[1], y))

    def _hand(self, plan: Plan, event: PlannedEvent) -> None:
        """Where the hand is, from the first finger to the fourth."""
        layout = self._layout
        spots, spread = plan.instrument.spots, plan.hand_mm
        home = float(spots[event.position or 1])
        held = [float(spots[note.fret]) for note in event.on_the_neck if note.fret]
        low, high = min((home, *held)) - 9.0, max((home + spread, *held)) + 9.0
        edges = sorted((layout.x(max(low, layout.mm(layout.frets[0]))), layout.x(high)))
        self._painter.setPen(Qt.PenStyle.NoPen)
        self._painter.setBrush(self._theme.color("ribbon"))
        box = QRectF(edges[0], 4, edges[1] - edges[0], layout.height - 24)
        self._painter.drawRoundedRect(box, 8, 8)

    def _fingers(self, event: PlannedEvent) -> None:
        painter, theme, layout = self._painter, self._theme, self._layout
        load = theme.load(max(event.loads.fret, event.loads.sync))
        down = [(note, False) for note in (*event.held, *event.ready)]
        for note, sounds in down + [(note, True) for note in event.notes]:
            spot = QPointF(layout.finger_x(note.fret), layout.string_y(note.string))
            if not note.finger:
                painter.setPen(pen(theme.color("ink"), 2.0))
                painter.setBrush(theme.color("sheet"))
                painter.drawEllipse(spot, 6, 6)
                if note.fret and sounds:
                    # A finger of the other hand.
                    self._text(spot.x(), spot.y() - 14, "T", "ink", 13, bold=True)
                continue
            painter.setPen(pen(load, 1.8))
            painter.setBrush(load if sounds else theme.color("sheet"))
            painter.drawEllipse(spot, DOT, DOT)
            self._text(
                spot.x(), spot.y() - 0.5, finger_sign(note.finger), "sheet" if sounds else "ink", 13, bold=True
            )

    def _next(self, here: PlannedEvent, after: PlannedEvent) -> None:
        """Where the next notes are, those that stay under the same fingers left out."""
        painter, layout = self._painter, self._layout
        now = {(note.string, note.fret) for note in here.notes}
        for note in after.notes:
            if (note.string, note.fret) in now:
                continue
            spot = QPointF(layout.finger_x(note.fret), layout.string_y(note.string))
            painter.setPen(pen(self._theme.color("quiet"), 1.5, Qt.PenStyle.DashLine))
            painter.setBrush(self._theme.color("sheet"))
            painter.drawEllipse(spot, DOT if note.finger else 6.0, DOT if note.finger else 6.0)
            if note.finger:
                self._text(spot.x(), spot.y() - 0.5, finger_sign(note.finger), "quiet", 13)

    def _stroke(self, plan: Plan, event: PlannedEvent) -> None:
        """The stroke through its strings, or what sounds the note instead."""
        layout, painter = self._layout, self._painter
        x, ys = layout.pick_x, sorted(layout.string_y(note.string) for note in event.notes)
        if event.stroke not in (Stroke.DOWN, Stroke.UP):
            words = str(event.legato or Mark.RELEASE) if event.stroke is Stroke.NONE else str(event.stroke)
            box = QRectF(x - 12, ys[0] - 11, 24, 22)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self._theme.color("sheet"))
            painter.drawRoundedRect(box, 5, 5)
            self._text(x, ys[0], words, "quiet" if event.stroke is Stroke.NONE else "ink", 16, bold=True)
            return
        down = (event.stroke is Stroke.DOWN) == layout.thick_on_top
        gap = abs(layout.string_y(1) - layout.string_y(2)) if plan.instrument.strings > 1 else 20.0
        start, end = (ys[0] - 0.7 * gap, ys[-1] + 0.8 * gap) if down else (ys[-1] + 0.7 * gap, ys[0] - 0.8 * gap)
        way = 1.0 if end > start else -1.0
        painter.setPen(pen(self._theme.load(max(event.loads.pick, event.loads.sync)), 3.0))
        painter.drawLine(QPointF(x, start), QPointF(x, end))
        painter.drawPolyline(QPointF(x - 5, end - 7 * way), QPointF(x, end), QPointF(x + 5, end - 7 * way))
        words = str(event.stroke) + (", rest" if event.stroke_kind == "rest" else "")
        at = layout.turned(layout.width - 38)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._theme.color("sheet"))
        middle = min(max((start + end) / 2, 12.0), layout.height - 12.0)
        painter.drawRect(QRectF(at - 32, middle - 10, 64, 20))
        self._text(at, middle, words, "ink", 13)


def _held_words(note: PlannedNote) -> str:
    """What holds a note."""
    if note.finger:
        return finger_words(note.finger)
    return "tapped" if note.fret else "open"
