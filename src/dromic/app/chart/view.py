"""The movement chart as a widget: scrolls, zooms, and lets notes be chosen by mouse and keys."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

from PyQt6.QtCore import QEvent, QPointF, QRect, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PyQt6.QtWidgets import QToolTip, QWhatsThis, QWidget

from dromic.app.chart import lanes, painting
from dromic.app.chart.frame import View
from dromic.app.chart.lanes import hint, label_hint
from dromic.app.chart.layout import default_zoom
from dromic.app.chart.painting import GUTTER, Scene
from dromic.app.chart.tiles import Tiles
from dromic.app.chart.zoomed import ZoomedChart
from dromic.app.theme import Theme
from dromic.listening.take import TakeNote
from dromic.planner.costs.model import Model
from dromic.planner.plan import Plan
from dromic.planner.told.reasons import model_of, what_words

ZOOM_STEP = 1.25
DRAG_LEAST = 12.0
EMPTY = "Write a riff on the first page, and its plan appears here."
_PLANNING = "Planning…"


class ChartView(ZoomedChart):
    """Shows a plan.

    Signals
    -------
    chosen : int
        Step of the note that was clicked or walked to.
    ranged : tuple of (int, int) or None
        First and last step of the range that is selected.
    play_wanted : no argument
        The plan is to be played, or to stop.
    offer_wanted : int
        An alternative is to be locked, by its number from 1.
    keep_wanted, unlock_wanted : no argument
        The chosen note is to be locked as it is, or its locks lifted.
    drill_wanted : no argument
        The selected range is to be drilled.
    """

    chosen = pyqtSignal(int)
    ranged = pyqtSignal(object)
    play_wanted = pyqtSignal()
    offer_wanted = pyqtSignal(int)
    keep_wanted = pyqtSignal()
    unlock_wanted = pyqtSignal()
    drill_wanted = pyqtSignal()

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.empty_words = EMPTY
        self.setObjectName("chart")
        self.setAccessibleName("Movement chart")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(330, 200)
        self.setWhatsThis("The movement chart: both hands on one time axis.")
        self._theme = theme
        self._model: Model | None = None
        self.planning = False
        self._choice: int | None = None
        self._range: tuple[int, int] | None = None
        self._anchor = 0
        self._pressed: QPointF | None = None
        self._tiles = Tiles(), Tiles(exact_loads=True)
        self._playhead: float | None = None
        self._progress: Sequence[float | None] = ()
        self._ahead = QTimer(self)
        self._ahead.setSingleShot(True)
        self._ahead.setInterval(0)
        self._ahead.timeout.connect(self._draw_ahead)

    @property
    def thick_on_top(self) -> bool:
        """Whether the thick string is on top, as it hangs for the player."""
        return self._view.thick_on_top

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = theme
        for tiles in self._tiles:
            tiles.clear()
        self._repaint()

    def set_planning(self, planning: bool) -> None:
        """Say, where no plan is shown, that one is on its way."""
        self.planning = planning
        self._repaint()

    def set_plan(self, plan: Plan | None) -> None:
        """Show another plan; the zoom stays while the riff does."""
        if plan is not None and self._plan is not None and plan.states is self._plan.states:
            # The same plan with the prices of other choices, which are not drawn.
            self._plan = plan
            return
        new_riff = plan is not None and (self._plan is None or not self._plan.riff.plays_like(plan.riff))
        self._plan, self._model = plan, None
        self._view = replace(self._view, tempo_ratio=1.0)
        if plan is not None and new_riff:
            self._zoom, self._fitted = default_zoom(plan), False
        if plan is None or new_riff:
            self._select(None)
        self._arrange()

    def set_choice(self, step: int | None) -> None:
        """Mark a note and bring it into sight."""
        self._choice = step
        if step is not None and self._plan is not None and step < len(self._plan.states):
            words = what_words(self._plan.task.steps[step], self._plan.states[step])
            self.setAccessibleDescription(f"{self._plan.task.steps[step].moment.place_words}: {words}")
            self._show(step)
        self._repaint()

    def set_playhead(self, quarters: float | None) -> None:
        """Show where the sound is, and keep it in sight; None for no sound."""
        self._playhead = quarters
        if quarters is not None and self._layout is not None:
            x, room = self._layout.x(quarters), self.viewport_width - GUTTER
            if not self._scrolled <= x <= self._scrolled + room - 60:
                self._scroll_to(x - room * 0.12)
        self._repaint()

    def set_progress(self, shares: Sequence[float | None]) -> None:
        """Fill the string field as far as each note is clean, by its best clean tempo over the wanted one."""
        self._progress = tuple(shares)
        self._repaint()

    def set_take(self, take: tuple[tuple[TakeNote, ...], ...]) -> None:
        """Show what was heard of each step, in place of the loads; empty for no take."""
        self._see(take=take)

    def set_view(self, size: float, **turned: bool) -> None:
        """Show it larger or smaller, and turned as the player wants it (fields of `View`)."""
        if size != self._size:
            self._size = size
            self._arrange()
        self._see(**turned)

    def set_tempo(self, tempo: float) -> None:
        """Show the loads that the plan would have at a tempo."""
        if self._plan is not None:
            self._see(tempo_ratio=tempo / self._plan.tempo)

    def _see(self, **changes: object) -> None:
        view = replace(self._view, **changes)  # type: ignore[arg-type]
        if view != self._view:
            self._view = view
            self._arrange()

    @property
    def view_settings(self) -> View:
        """How the chart is seen."""
        return self._view

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Paint what shows."""
        port = self.viewport()
        if port is None:
            return
        painter = QPainter(port)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        try:
            painter.scale(self._size, self._size)
            self._paint(painter, QRect(0, 0, self.viewport_width, math.ceil(port.height() / self._size)))
        finally:
            # A painter that is left open takes the whole window down with it.
            painter.end()

    def _paint(self, painter: QPainter, rect: QRect) -> None:
        if self._layout is None:
            painter.setPen(self._theme.color("quiet"))
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, _PLANNING if self.planning else self.empty_words)
            return
        left = self._scrolled
        scene = Scene(painter, self._theme, self._layout, left, left + rect.width() - GUTTER, self._choice)
        painter.save()
        painter.setClipRect(GUTTER, 0, rect.width() - GUTTER, rect.height())
        painter.translate(GUTTER - left, 0)
        painting.paint_progress(scene, self._progress)
        painting.paint_range(scene, self._range)
        painting.paint_choice(scene)
        right = min(left + rect.width() - GUTTER, self._layout.width)
        for tiles in self._tiles:
            tiles.paint(painter, self._layout, self._theme, left, right, self._ratio)
        self._ahead.start()
        lanes.ruler.paint_phrases(scene)
        painting.paint_playhead(scene, self._playhead)
        painter.restore()
        lanes.paint_gutter(scene, rect.height())

    @property
    def _ratio(self) -> float:
        """Device pixels for one of the chart's own."""
        return self.devicePixelRatioF() * self._size

    def _draw_ahead(self) -> None:
        if self._layout is None:
            return
        right = self._scrolled + self.viewport_width - GUTTER
        for tiles in self._tiles:
            if tiles.draw_ahead(self._layout, self._theme, self._scrolled, right, self._ratio):
                self._ahead.start()
                return

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Choose the note that was clicked; with Shift, select up to it."""
        if event is not None and event.button() is Qt.MouseButton.LeftButton:
            step = self.step_at(event.position())
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and step is not None:
                self._extend(step)
            else:
                self._select(None)
                self._choose(step)
            self._pressed = event.position()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Select from where the mouse was pressed; at the edges the chart moves on."""
        if event is None or self._pressed is None or not event.buttons() & Qt.MouseButton.LeftButton:
            return
        if abs(event.position().x() - self._pressed.x()) < DRAG_LEAST and self._range is None:
            return
        inside = min(max(event.position().x(), GUTTER * self._size), self.viewport_width * self._size - 1.0)
        step = self.step_at(QPointF(inside, event.position().y()))
        if step is not None:
            self._extend(step)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """The range stands."""
        self._pressed = None
        super().mouseReleaseEvent(event)

    @property
    def choice(self) -> int | None:
        """Step of the chosen note."""
        return self._choice

    @property
    def selection(self) -> tuple[int, int] | None:
        """First and last step of the range that is selected."""
        return self._range

    def _extend(self, step: int) -> None:
        """Select from where the selection began up to a step."""
        self._anchor = self._anchor if self._range is not None else (self._choice or 0)
        self._select((min(self._anchor, step), max(self._anchor, step)))
        self._choose(step)

    def select(self, first: int, last: int) -> None:
        """Select a range of steps."""
        self._select((first, last))

    def _select(self, chosen: tuple[int, int] | None) -> None:
        if chosen != self._range:
            self._range = chosen
            self.ranged.emit(chosen)
            self._repaint()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Walk from note to note; zoom."""
        if event is None or self._layout is None:
            return
        last = len(self._layout.columns) - 1
        at = self._choice if self._choice is not None else 0
        steps = {
            Qt.Key.Key_Right: min(at + 1, last),
            Qt.Key.Key_Left: max(at - 1, 0),
            Qt.Key.Key_Home: 0,
            Qt.Key.Key_End: last,
        }
        key = Qt.Key(event.key())
        if key in steps:
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self._extend(steps[key])
            else:
                self._select(None)
                self._choose(steps[key])
        elif Qt.Key.Key_1 <= key <= Qt.Key.Key_9 and not event.modifiers():
            self.offer_wanted.emit(key - Qt.Key.Key_0)
        elif key is Qt.Key.Key_Space:
            self.play_wanted.emit()
        elif key is Qt.Key.Key_D:
            self.drill_wanted.emit()
        elif key is Qt.Key.Key_K:
            self.keep_wanted.emit()
        elif key in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete):
            self.unlock_wanted.emit()
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.zoom_by(ZOOM_STEP)
        elif key is Qt.Key.Key_Minus:
            self.zoom_by(1 / ZOOM_STEP)
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Scroll along the time; with Ctrl, zoom around the pointer."""
        if event is None:
            return
        turn = event.angleDelta().y() or event.angleDelta().x()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom_by(ZOOM_STEP ** (turn / 120), event.position().x() / self._size)
        else:
            self._scroll_to(self._scrolled - turn)
        event.accept()

    def _choose(self, step: int | None) -> None:
        if step is not None:
            self.chosen.emit(step)

    def _tell_what_it_is(self, event: QHelpEvent) -> None:
        """Say what the part of the chart under the pointer is, and what stands there."""
        if self._layout is None:
            QWhatsThis.showText(event.globalPos(), self.empty_words, self)
            return
        place = QPointF(event.pos()) / self._size
        told = label_hint(self._layout, place.y())
        QWhatsThis.showText(event.globalPos(), f"{told}.", self)

    def viewportEvent(self, event: QEvent | None) -> bool:
        """Tell what a note is while the pointer rests on it."""
        if event is not None and event.type() is QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            QToolTip.showText(event.globalPos(), self.hint_at(QPointF(event.pos())), self)
            return True
        if event is not None and event.type() is QEvent.Type.WhatsThis and isinstance(event, QHelpEvent):
            self._tell_what_it_is(event)
            return True
        return super().viewportEvent(event)

    def hint_at(self, place: QPointF) -> str:
        """What is told at a place of the viewport."""
        if self._layout is None or self._plan is None or not self._layout.columns:
            return ""
        x, y = place.x() / self._size - GUTTER, place.y() / self._size
        if x < 0:
            return label_hint(self._layout, y)
        if self._model is None:
            self._model = model_of(self._plan)
        return hint(self._layout, self._model, x + self._scrolled, y)
