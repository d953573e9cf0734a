"""Both hands in motion: played at any slowness, stopped, or stepped through note by note."""

from __future__ import annotations

from PyQt6.QtCore import QElapsedTimer, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QKeyEvent
from PyQt6.QtWidgets import QComboBox, QDialog, QHBoxLayout, QLabel, QPushButton, QSlider, QVBoxLayout, QWidget

from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.app.motion.poses import Motion
from dromic.app.motion.view import MotionView
from dromic.app.settings import Settings
from dromic.app.theme import Theme

FRAME_MS, SLOWEST, FASTEST, USUAL = 16, 2, 100, 25
PLAYER, TEACHER = "player", "teacher"


class MotionDialog(QDialog):
    """Shows the document's plan in motion; it stays beside the window, and follows what is chosen there."""

    def __init__(self, document: Document, theme: Theme, settings: Settings, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Both hands in motion")
        self._document, self._settings = document, settings
        self._motion: Motion | None = None
        self._at_s = 0.0
        self.view = MotionView(theme)
        self.view.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.where = QLabel()
        self.where.setObjectName("strong")
        self.button = QPushButton("Play")
        self.button.setToolTip("Play, or stop (Space)")
        self.button.clicked.connect(self.toggle)
        self.back, self.on = QPushButton("‹"), QPushButton("›")
        for button, words, by in ((self.back, "The note before (Left)", -1), (self.on, "The next note (Right)", 1)):
            button.setToolTip(words)
            button.setAccessibleName(words)
            button.clicked.connect(lambda _checked=False, by=by: self.step(by))
        self.speed = QSlider(Qt.Orientation.Horizontal)
        self.speed.setRange(SLOWEST, FASTEST)
        self.speed.setValue(USUAL)
        self.speed.setAccessibleName("Speed in per cent of the tempo")
        self.speed.setMaximumWidth(220)
        self.figure = QLabel()
        self.eyes = QComboBox()
        self.eyes.addItem("as you see it", PLAYER)
        self.eyes.addItem("as a teacher in front of you sees it", TEACHER)
        self.eyes.setAccessibleName("From whose eyes")
        self.eyes.currentIndexChanged.connect(self._turn)
        self._lay_out()
        self._clock = QElapsedTimer()
        self._timer = QTimer(self)
        self._timer.setInterval(FRAME_MS)
        self._timer.timeout.connect(self._tick)
        self.speed.valueChanged.connect(self._refresh)
        document.listen(self._heard)
        self.finished.connect(lambda _result: self._close())
        self._take_plan()
        self._turn()

    def _lay_out(self) -> None:
        row = QHBoxLayout()
        label = QLabel("S&peed")
        label.setBuddy(self.speed)
        for widget in (self.button, self.back, self.on, label, self.speed, self.figure):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.eyes)
        rows = QVBoxLayout(self)
        rows.addWidget(self.where)
        rows.addWidget(self.view, 1)
        rows.addLayout(row)
        hint = QLabel("Space plays, Left and Right go from note to note, + and − change the speed.")
        hint.setObjectName("quiet")
        rows.addWidget(hint)

    # -- what is shown --------------------------------------------------------------------------------------------

    @property
    def at_s(self) -> float:
        """The moment that shows, in seconds at the plan's tempo."""
        return self._at_s

    @property
    def playing(self) -> bool:
        """Whether time goes on."""
        return self._timer.isActive()

    def _take_plan(self) -> None:
        plan = self._document.plan
        self._motion = None if plan is None else Motion(plan)
        self.view.show_motion(self._motion)
        chosen = self._document.chosen
        if self._motion is not None and chosen is not None and chosen < len(self._motion.onsets_s):
            self._at_s = self._motion.onsets_s[chosen]
        else:
            self._at_s = 0.0
        self._refresh()

    def _turn(self) -> None:
        """Turn the picture: a teacher in front sees it from the other side, as a left-handed player's is."""
        teacher = self.eyes.currentData() == TEACHER
        mirrored = teacher != self._settings.left_handed
        self.view.set_view(thick_on_top=self._settings.thick_on_top, mirrored=mirrored)

    def _refresh(self) -> None:
        self.button.setText("Stop" if self.playing else "Play")
        self.button.setEnabled(self._motion is not None)
        motion = self._motion
        if motion is None:
            self.where.setText("")
            return
        pose = motion.pose(self._at_s)
        self.view.show_pose(pose)
        moment = motion.plan.task.steps[pose.step].moment
        words = moment.place_words
        self.where.setText(words[:1].upper() + words[1:])
        self.figure.setText(f"{self.speed.value()} %, {motion.plan.tempo * self.speed.value() / 100:.0f} a minute")

    # -- time -----------------------------------------------------------------------------------------------------

    def toggle(self) -> None:
        """Play, or stop."""
        if self.playing:
            self._timer.stop()
        elif self._motion is not None:
            if self._at_s >= self._motion.seconds - 1e-6:
                self._at_s = 0.0
            self._clock.start()
            self._timer.start()
        self._refresh()

    def step(self, by: int) -> None:
        """Go to another note, and stop there."""
        motion = self._motion
        if motion is None:
            return
        self._timer.stop()
        here = motion.step_at(self._at_s)
        between = self._at_s > motion.onsets_s[here] + 1e-6
        wanted = here if by < 0 and between else here + by
        self._at_s = motion.onsets_s[min(max(wanted, 0), len(motion.onsets_s) - 1)]
        self._document.choose(motion.step_at(self._at_s))
        self._refresh()

    def _tick(self) -> None:
        motion = self._motion
        if motion is None:
            return
        self._at_s += self._clock.restart() / 1000.0 * self.speed.value() / 100.0
        if self._at_s >= motion.seconds:
            self._at_s = motion.seconds
            self._timer.stop()
        self._refresh()

    def _heard(self, change: Change) -> None:
        if change is Change.PLAN and (self._motion is None or self._document.plan is not self._motion.plan):
            self._timer.stop()
            self._take_plan()
        if change is Change.CHOICE and not self.playing and self._motion is not None:
            chosen = self._document.chosen
            if chosen is not None and chosen != self._motion.step_at(self._at_s):
                self._at_s = self._motion.onsets_s[min(chosen, len(self._motion.onsets_s) - 1)]
                self._refresh()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Play and step by keys."""
        if event is None:
            return
        key = event.key()
        if key == Qt.Key.Key_Space:
            self.toggle()
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.step(1 if key == Qt.Key.Key_Right else -1)
        elif event.text() in ("+", "-"):
            self.speed.setValue(self.speed.value() + (5 if event.text() == "+" else -5))
        else:
            super().keyPressEvent(event)
            return
        event.accept()

    def _close(self) -> None:
        self._timer.stop()
        self._document.forget(self._heard)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Stop."""
        self._close()
        super().closeEvent(event)
