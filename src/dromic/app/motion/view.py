"""Draws both hands at one moment: the neck with the fingers, and the picking hand's strings from close by."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from dromic.app.chart.lanes.hand import MARKED_FRETS
from dromic.app.chart.painting import pen, pixel_font
from dromic.app.motion.poses import FingerPose, Motion, PickPose, Pose
from dromic.app.theme import Theme
from dromic.hands.fingers import finger_sign
from dromic.music.riff import Stroke
from dromic.planner.plan import Plan

PICK_SHARE, EDGE, FOOT = 0.3, 34.0, 20.0
FINGER, PICK = 13.0, 28.0
RAISED = 14.0


class MotionView(QWidget):
    """Shows a moment of a plan."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._motion: Motion | None = None
        self._pose: Pose | None = None
        self._turned = (True, False)
        self.setAccessibleName("Both hands")
        self.setMinimumSize(480, 200)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:
        """Large enough to see the fingers."""
        return QSize(920, 320)

    def show_motion(self, motion: Motion | None) -> None:
        """Show another plan."""
        self._motion = motion
        self._pose = None if motion is None else motion.pose(0.0)
        self.update()

    def show_pose(self, pose: Pose) -> None:
        """Show another moment."""
        self._pose = pose
        motion = self._motion
        if motion is not None:
            moment = motion.plan.task.steps[pose.step].moment
            event = motion.plan.event_of_step(pose.step)
            places = ", ".join(f"string {note.string} fret {note.fret}" for note in event.notes)
            self.setAccessibleDescription(f"{moment.place_words}: {places}, {event.stroke}")
        self.update()

    def set_view(self, *, thick_on_top: bool, mirrored: bool) -> None:
        """Turn it as the player, or somebody in front of the player, sees it."""
        self._turned = thick_on_top, mirrored
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Draw both hands."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        try:
            painter.fillRect(self.rect(), self._theme.color("sheet"))
            if self._motion is None or self._pose is None:
                painter.setPen(self._theme.color("quiet"))
                painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "There is no plan yet.")
                return
            _Drawing(painter, self, self._theme, self._motion, self._turned).paint(self._pose)
        finally:
            painter.end()


class _Drawing:
    def __init__(
        self, painter: QPainter, view: QWidget, theme: Theme, motion: Motion, turned: tuple[bool, bool]
    ) -> None:
        self._painter, self._theme, self._motion = painter, theme, motion
        self._width, self._height = float(view.width()), float(view.height())
        self._thick_on_top, self._mirrored = turned
        self._plan: Plan = motion.plan
        self._strings = self._plan.instrument.strings
        spots = self._plan.instrument.spots
        frets = [note.fret for event in self._plan.events for note in event.notes if note.fret]
        homes = [state.position for state in self._plan.states]
        low, high = min([*frets, *homes, 1]), max([*frets, *(home + 3 for home in homes), 4])
        self._frets = max(min(low, *homes) - 2, 0), min(high + 1, self._plan.instrument.top_fret)
        self._mm = float(spots[self._frets[0]]), float(spots[self._frets[1]])

    # -- places ---------------------------------------------------------------------------------------------------

    def _side(self, x: float) -> float:
        return self._width - x if self._mirrored else x

    def _x(self, mm: float) -> float:
        room = self._width * (1 - PICK_SHARE) - 2 * EDGE
        return self._side(EDGE + (mm - self._mm[0]) / max(self._mm[1] - self._mm[0], 1.0) * room)

    def _y(self, string: float) -> float:
        place = string if self._thick_on_top else self._strings - 1 - string
        return EDGE + place * (self._height - EDGE - FOOT - 12) / max(self._strings - 1, 1)

    @property
    def _gap(self) -> float:
        return abs(self._y(1) - self._y(0)) if self._strings > 1 else 40.0

    # -- drawing --------------------------------------------------------------------------------------------------

    def paint(self, pose: Pose) -> None:
        """Draw a moment."""
        self._paint_hand(pose)
        self._paint_neck()
        self._paint_strings(pose)
        for finger in pose.fingers:
            self._paint_finger(finger)
        if pose.pick is not None:
            self._paint_pick(pose.pick)
        if pose.plucks is not None:
            self._paint_pluck(pose)

    def _write(self, at: QPointF, words: str, color: str, size: int) -> None:
        self._painter.setFont(pixel_font(size, bold=True))
        self._painter.setPen(self._theme.color(color))
        self._painter.drawText(QRectF(at.x() - 40, at.y() - 12, 80, 24), Qt.AlignmentFlag.AlignCenter, words)

    def _paint_hand(self, pose: Pose) -> None:
        edges = sorted((self._x(pose.home_mm - 12), self._x(pose.home_mm + self._plan.hand_mm + 12)))
        self._painter.setPen(Qt.PenStyle.NoPen)
        self._painter.setBrush(self._theme.color("ribbon"))
        box = QRectF(edges[0], 6, edges[1] - edges[0], self._height - FOOT - 10)
        self._painter.drawRoundedRect(box, 12, 12)

    def _paint_neck(self) -> None:
        painter, spots = self._painter, self._plan.instrument.spots
        top, bottom = sorted((self._y(0), self._y(self._strings - 1)))
        for fret in range(self._frets[0], self._frets[1] + 1):
            x = self._x(float(spots[fret]))
            nut = fret == 0
            painter.setPen(pen(self._theme.color("ink" if nut else "faint"), 5.0 if nut else 2.0))
            painter.drawLine(QPointF(x, top - 6), QPointF(x, bottom + 6))
            if fret in MARKED_FRETS and fret > self._frets[0]:
                middle = (self._x(float(spots[fret - 1])) + x) / 2
                self._write(QPointF(middle, self._height - FOOT / 2 - 2), str(fret), "quiet", 12)

    def _paint_strings(self, pose: Pose) -> None:
        painter = self._painter
        event = self._plan.event_of_step(pose.step)
        sounding = {self._plan.instrument.index(note.string) for note in event.notes}
        for string in range(self._strings):
            color = "calm" if string in sounding else "string"
            width = 1.2 + 2.4 * (self._strings - 1 - string) / max(self._strings - 1, 1)
            painter.setPen(pen(self._theme.color(color), width + (0.8 if string in sounding else 0.0)))
            painter.drawLine(QPointF(4, self._y(string)), QPointF(self._width - 4, self._y(string)))

    def _paint_finger(self, finger: FingerPose) -> None:
        """A finger: filled where it is down, larger and pale where it is in the air."""
        painter, theme = self._painter, self._theme
        raised = 1.0 - finger.down
        at = QPointF(self._x(finger.mm), self._y(finger.string) - raised * 6)
        size = FINGER + 3 * raised
        fill = QColor(theme.color("calm"))
        fill.setAlpha(40 + round(215 * finger.down))
        painter.setPen(pen(theme.color("accent" if finger.moves else "calm"), 1.8))
        painter.setBrush(fill)
        painter.drawEllipse(at, size, size)
        self._write(at, finger_sign(finger.finger), "sheet" if finger.down > 0.5 else "ink", 14)

    @property
    def _pick_x(self) -> float:
        return self._side(self._width * (1 - PICK_SHARE / 2))

    def _paint_pick(self, pick: PickPose) -> None:
        """The pick: beside its shadow the higher it is, its point on the strings where it strikes."""
        painter, theme = self._painter, self._theme
        x, y = self._pick_x, self._y(pick.string)
        lifted = pick.height * RAISED
        shadow = QColor(theme.color("ink"))
        shadow.setAlpha(round(30 + 50 * (1 - pick.height)))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(shadow)
        painter.drawEllipse(QPointF(x, y), 6 + lifted / 3, 3.5)
        side = -1.0 if self._mirrored else 1.0
        point = QPointF(x + side * lifted * 0.6, y - lifted)
        size = PICK * (1 + 0.25 * pick.height)
        shape = QPolygonF(
            [
                point,
                point + QPointF(side * size * 0.9, -size * 0.55),
                point + QPointF(side * size * 1.25, 0.0),
                point + QPointF(side * size * 0.9, size * 0.55),
            ]
        )
        painter.setPen(pen(theme.color("ink"), 1.4))
        painter.setBrush(theme.color("accent" if pick.strikes else "warm", 255 if pick.strikes else 170))
        painter.drawPolygon(shape)
        down = (pick.stroke is Stroke.DOWN) == self._thick_on_top
        arrow = self._pick_x - side * PICK * 1.6
        tip = y + (0.5 if down else -0.5) * self._gap
        painter.setPen(pen(theme.color("accent" if pick.strikes else "quiet"), 2.4))
        painter.drawLine(QPointF(arrow, y - (tip - y)), QPointF(arrow, tip))
        way = 1.0 if down else -1.0
        painter.drawPolyline(
            QPointF(arrow - 5, tip - 7 * way), QPointF(arrow, tip), QPointF(arrow + 5, tip - 7 * way)
        )
        words = str(pick.stroke) if pick.strikes else "in the air" if pick.height > 0.5 else ""
        at = self._side(self._width - EDGE - 18)
        self._write(QPointF(at, self._height - FOOT / 2 - 2), words, "ink", 13)

    def _paint_pluck(self, pose: Pose) -> None:
        event = self._plan.event_of_step(pose.step)
        for note, stroke in zip(event.notes, event.strokes, strict=False):
            x = self._side(self._width * (1 - PICK_SHARE * 0.75))
            at = QPointF(x, self._y(self._plan.instrument.index(note.string)))
            self._painter.setPen(pen(self._theme.color("accent"), 2.0))
            self._painter.setBrush(self._theme.color("sheet"))
            self._painter.drawEllipse(at, FINGER, FINGER)
            self._write(at, str(stroke)[:1], "ink", 14)
