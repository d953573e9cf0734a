"""The neck on the Riff stage: a click writes the note that lies there, drags are slides, slurs and bends."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPixmap
from PyQt6.QtWidgets import QSizePolicy, QWidget

from dromic.app.chart.painting import pen, picture_of, pixel_font
from dromic.app.theme import Theme
from dromic.instrument.instrument import Instrument
from dromic.music.pitch import pitch_name
from dromic.music.riff import Mark, Place

HEIGHT, NUT, EDGE, FOOT = 112, 34.0, 13.0, 16.0
DOT = 8.0
MARKED = (3, 5, 7, 9, 12, 15, 17, 19, 21, 24)
_HINT = (
    "Click a place to write its note and go on; with Shift it joins the note before as a chord. Drag along a "
    "string to slide, with Ctrl to hammer on or pull off; drag across one string for a half-step bend, across two "
    "for a whole step. F10 shows or hides the neck"
)


@dataclass(frozen=True)
class NeckGeometry:
    """Where strings and frets lie.

    Parameters
    ----------
    instrument : Instrument
    width, height : float
    thick_on_top, left_handed : bool
    """

    instrument: Instrument
    width: float
    height: float
    thick_on_top: bool = True
    left_handed: bool = False

    def _turned(self, x: float) -> float:
        return self.width - x if self.left_handed else x

    def wire_x(self, fret: int) -> float:
        """Place of a fret's wire; 0 is the nut."""
        spots = self.instrument.spots
        share = float((spots[fret] - spots[0]) / (spots[-1] - spots[0]))
        return self._turned(NUT + share * (self.width - NUT - EDGE))

    def spot(self, place: Place) -> QPointF:
        """Where a place is: before its wire, an open string behind the nut."""
        if place.fret == 0:
            x = self._turned(NUT / 2)
        else:
            x = (self.wire_x(place.fret - 1) + self.wire_x(place.fret)) / 2
        return QPointF(x, self.string_y(place.string))

    def string_y(self, string: int) -> float:
        """Place of a string."""
        count = self.instrument.strings
        row = count - string if self.thick_on_top else string - 1
        return EDGE + row * (self.height - EDGE - FOOT) / max(count - 1, 1)

    def place_at(self, at: QPointF) -> Place | None:
        """The place nearest to a point; None beside the neck."""
        if not 0 <= at.x() <= self.width or not 0 <= at.y() <= self.height - FOOT + 8:
            return None
        frets, strings = range(self.instrument.top_fret + 1), range(1, self.instrument.strings + 1)
        string = min(strings, key=lambda one: abs(self.string_y(one) - at.y()))
        fret = min(frets, key=lambda one: abs(self.spot(Place(string, one)).x() - at.x()))
        return Place(string, fret)


def _ctrl(event: QMouseEvent) -> bool:
    return bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)


class NeckEntry(QWidget):
    """Takes notes by the mouse.

    Signals
    -------
    placed : Place
        A note is to be written, and the cursor goes on.
    joined : Place
        A note is to join the one before.
    dragged : (Place, int, Mark)
        A note is to be written, and another on its string, slid to, hammered on or pulled off.
    bent : (Place, Mark)
        A note is to be written that is bent.
    """

    placed = pyqtSignal(object)
    joined = pyqtSignal(object)
    dragged = pyqtSignal(object, int, object)
    bent = pyqtSignal(object, object)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._instrument: Instrument | None = None
        self._shown: tuple[Place, ...] = ()
        self._turned = (True, False)
        self._under: Place | None = None
        self._pressed: Place | None = None
        self._drawn: tuple[object, QPixmap] | None = None
        self.setAccessibleName("Neck to write on")
        self.setToolTip(_HINT)
        self.setWhatsThis(_HINT)
        self.setMouseTracking(True)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Maximum)

    def sizeHint(self) -> QSize:
        """As wide as there is room."""
        return QSize(420, HEIGHT)

    def minimumSizeHint(self) -> QSize:
        """Narrow where it has to be."""
        return QSize(200, 0)

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = theme
        self.update()

    def set_view(self, *, thick_on_top: bool, left_handed: bool) -> None:
        """Turn it the way the player looks at it."""
        self._turned = thick_on_top, left_handed
        self.update()

    def show_places(self, instrument: Instrument | None, places: tuple[Place, ...]) -> None:
        """Show where the note under the cursor lies."""
        if (instrument, places) != (self._instrument, self._shown):
            self._instrument, self._shown = instrument, places
            self.update()

    @property
    def geometry_now(self) -> NeckGeometry | None:
        """Where everything is."""
        if self._instrument is None:
            return None
        return NeckGeometry(self._instrument, float(self.width()), float(self.height()), *self._turned)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Draw the neck, the note under the cursor, and the place under the pointer."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        try:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self._theme.color("sheet"))
            painter.drawRoundedRect(QRectF(self.rect()), 5, 5)
            layout = self.geometry_now
            if layout is not None:
                painter.drawPixmap(0, 0, self._board(layout))
                self._paint_places(painter, layout)
        finally:
            painter.end()

    def _board(self, layout: NeckGeometry) -> QPixmap:
        """A picture of the neck, drawn once for as long as it stays as it is."""
        ratio = self.devicePixelRatioF()
        key = layout, self._theme, ratio
        if self._drawn is None or self._drawn[0] != key:
            picture = picture_of(
                self.width(), self.height(), ratio, lambda painter: self._paint_board(painter, layout)
            )
            self._drawn = key, picture
        return self._drawn[1]

    def _paint_board(self, painter: QPainter, layout: NeckGeometry) -> None:
        instrument = layout.instrument
        top, bottom = EDGE, layout.height - FOOT
        painter.setFont(pixel_font(12))
        for fret in range(instrument.top_fret + 1):
            x = layout.wire_x(fret)
            painter.setPen(pen(self._theme.color("ink" if fret == 0 else "faint"), 4.0 if fret == 0 else 1.5))
            painter.drawLine(QPointF(x, top), QPointF(x, bottom))
            if fret in MARKED:
                middle = layout.spot(Place(1, fret)).x()
                painter.setPen(self._theme.color("quiet"))
                box = QRectF(middle - 20, layout.height - FOOT + 1, 40, FOOT)
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(fret))
        for string in range(1, instrument.strings + 1):
            width = 0.9 + 1.7 * (string - 1) / max(instrument.strings - 1, 1)
            painter.setPen(pen(self._theme.color("string", 150), width))
            y = layout.string_y(string)
            painter.drawLine(QPointF(EDGE / 2, y), QPointF(layout.width - EDGE / 2, y))

    def _paint_places(self, painter: QPainter, layout: NeckGeometry) -> None:
        for place in self._shown:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self._theme.color("calm"))
            painter.drawEllipse(layout.spot(place), DOT, DOT)
            self._write(painter, layout.spot(place), str(place.fret), "sheet")
        under = self._under
        if under is None:
            return
        if self._pressed is not None and self._pressed.string == under.string and self._pressed != under:
            painter.setPen(pen(self._theme.color("accent"), 2.0, Qt.PenStyle.DashLine))
            painter.drawLine(layout.spot(self._pressed), layout.spot(under))
        painter.setPen(pen(self._theme.color("accent"), 1.8))
        painter.setBrush(self._theme.color("sheet"))
        painter.drawEllipse(layout.spot(under), DOT + 3, DOT + 3)
        midi = layout.instrument.pitch(under)
        self._write(painter, layout.spot(under), pitch_name(midi), "ink")

    def _write(self, painter: QPainter, at: QPointF, words: str, color: str) -> None:
        painter.setFont(pixel_font(11, bold=True))
        painter.setPen(self._theme.color(color))
        painter.drawText(QRectF(at.x() - 16, at.y() - 9, 32, 18), Qt.AlignmentFlag.AlignCenter, words)

    # -- mouse --------------------------------------------------------------------------------------------------

    def _place_at(self, event: QMouseEvent) -> Place | None:
        layout = self.geometry_now
        return None if layout is None else layout.place_at(event.position())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """A note begins here."""
        if event is not None and event.button() is Qt.MouseButton.LeftButton:
            self._pressed = self._place_at(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Show which note lies under the pointer; while it is dragged, on the string where it began."""
        if event is None:
            return
        under = self._place_at(event)
        if self._pressed is not None and under is not None:
            under = Place(self._pressed.string, under.fret)
        if under != self._under:
            self._under = under
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Write the note, or what the drag makes of it."""
        if event is None or self._pressed is None or event.button() is not Qt.MouseButton.LeftButton:
            return
        pressed, let_go = self._pressed, self._place_at(event)
        self._pressed = None
        if let_go is None:
            return
        along, across = let_go.fret - pressed.fret, abs(let_go.string - pressed.string)
        if along and not across and ((pressed.fret and let_go.fret) or _ctrl(event)):
            hammered = Mark.HAMMER if along > 0 else Mark.PULL
            self.dragged.emit(pressed, let_go.fret, hammered if _ctrl(event) else Mark.SLIDE)
        elif pressed.fret and across and not along:
            self.bent.emit(pressed, Mark.BEND_HALF if across == 1 else Mark.BEND_WHOLE)
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.joined.emit(pressed)
        else:
            self.placed.emit(pressed)
        self.update()

    def leaveEvent(self, event: object) -> None:
        """Nothing is under the pointer any more."""
        self._under = None
        self.update()
