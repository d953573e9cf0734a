"""The transport: play and stop, loop, click, count-in, and the speed to play at."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QLabel, QPushButton, QSlider, QWidget

from dromic.app.chart.view import ChartView
from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.app.sound import Player, Wanted
from dromic.listening.sound.extent import Extent, whole
from dromic.planner.plan import Plan

SLOWEST, FASTEST = 25, 130


class Transport(QWidget):
    """Plays the document's plan, or the range that is selected on the chart.

    Signals
    -------
    told : str
    """

    message = pyqtSignal(str)

    def __init__(self, document: Document, chart: ChartView, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document, self._chart = document, chart
        self.player = Player(self)
        row = QHBoxLayout(self)
        row.setContentsMargins(4, 0, 4, 0)
        row.setSpacing(10)
        self.button = QPushButton("Play")
        self.button.setMinimumWidth(84)
        self.button.setToolTip("Play the riff, or the range that is selected (Space on the chart)")
        self.drill = QPushButton("Drill")
        self.drill.setToolTip("Practise the selected range, or the notes around the chosen one (D)")
        self.loop = QCheckBox("&Loop")
        self.click, self.count_in = QCheckBox("&Click"), QCheckBox("Count-i&n")
        self.speed = QSlider(Qt.Orientation.Horizontal)
        self.speed.setRange(SLOWEST, FASTEST)
        self.speed.setValue(100)
        self.speed.setMinimumWidth(70)
        self.speed.setMaximumWidth(150)
        self.speed.setAccessibleName("Speed in per cent of the target")
        self.figure = QLabel()
        self.figure.setMinimumWidth(150)
        self.state = QLabel()
        self.state.setObjectName("quiet")
        label = QLabel("S&peed")
        label.setBuddy(self.speed)
        for widget in (
            self.button,
            self.drill,
            self.loop,
            self.click,
            self.count_in,
            label,
            self.speed,
            self.figure,
        ):
            row.addWidget(widget)
        row.addWidget(self.state, 1)
        self.button.clicked.connect(self.toggle)
        self.speed.valueChanged.connect(self._refresh)
        self.player.started.connect(self._refresh)
        self.player.stopped.connect(self._stopped)
        self.player.moved.connect(chart.set_playhead)
        self.player.message.connect(self.message)
        chart.play_wanted.connect(self.toggle)
        chart.ranged.connect(lambda _range: self._refresh())
        document.listen(self._heard)
        self._refresh()

    @property
    def tempo(self) -> float:
        """Tempo to play at."""
        return self._document.tempo * self.speed.value() / 100.0

    def _heard(self, change: Change) -> None:
        if change in (Change.RIFF, Change.FILE, Change.PLAN) and self.player.playing:
            self.player.stop()
        self._refresh()

    def _refresh(self) -> None:
        playing = self.player.playing
        self.button.setText("Stop" if playing else "Play")
        for button in (self.button, self.drill):
            button.setEnabled(self._document.plan is not None)
        self.figure.setText(f"{self.speed.value()} %, {self.tempo:.0f} a minute")
        chosen = self._chart.selection
        self.state.setText("the whole riff" if chosen is None else f"{chosen[1] - chosen[0] + 1} notes selected")

    def _stopped(self) -> None:
        self._chart.set_playhead(None)
        self._refresh()

    def extent(self, plan: Plan) -> Extent:
        """What is to be played."""
        found = whole(plan, self.tempo)
        chosen = self._chart.selection
        start, end = found.start, found.end
        if chosen is not None and chosen[1] < len(plan.states):
            start = float(plan.task.steps[chosen[0]].moment.played)
            moment = plan.task.steps[chosen[1]].moment
            end = float(moment.ends)
        return Extent(start, end, self.tempo, self.click.isChecked(), self.count_in.isChecked())

    def toggle(self) -> None:
        """Play, or stop."""
        plan = self._document.plan
        if self.player.playing:
            self.player.stop()
        elif plan is not None:
            self.player.play(Wanted(plan, self.extent(plan), self.loop.isChecked()))
        self._refresh()
