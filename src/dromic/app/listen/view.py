"""How the Listen stage looks: takes on top, the finding, the chart with the take, figures and progress below."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from dromic.app.chart.view import ChartView
from dromic.app.listen.hearing import HeardTake
from dromic.app.listen.meter import LevelMeter
from dromic.app.log.paint import TempoPlot
from dromic.app.theme import Theme
from dromic.listening.take import TakeNote
from dromic.planner.plan import Plan
from dromic.practice.log.progress import DayOf

if TYPE_CHECKING:
    from dromic.listening.hearing.review import Review
    from dromic.listening.hearing.spots import Spot

_WELCOME = (
    "Record yourself playing the riff, or open a recording of it: alone or to a click, once or as a loop. "
    "Start, tempo and rounds are found by themselves."
)
_NO_PLAN = "Write a riff on the first page; takes of it are listened to here."
PLOT_WIDTH, LEAST_CHART = 400, 380


class ListenView(QWidget):
    """The widgets of the stage; what they do is decided by the page.

    Signals
    -------
    keys_wanted : QKeyEvent
    """

    keys_wanted = pyqtSignal(object)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.record = _button("Record", "Record a take, and stop it again (R)")
        self.open = _button("Open a take…", "Open a WAV or FLAC file of this riff (O)")
        self.ramp = _button("Ramp test", "Record to clicks that grow faster, to find where you stumble (T)")
        self.example = _button(
            "Example take", "Let the simulated player play this plan, to see what a report is (E)"
        )
        self.meter = LevelMeter(theme)
        self.progress = QProgressBar()
        self.progress.setRange(0, 100)
        self.progress.setFixedWidth(140)
        self.progress.setAccessibleName("Listening")
        self.state = QLabel()
        self.state.setObjectName("quiet")
        self.state.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.top = QLabel(_WELCOME)
        self.top.setObjectName("finding")
        self.top.setWordWrap(True)
        self.spot = QLabel()
        self.spot.setWordWrap(True)
        self.next_spot = _button("Next spot", "Go to the next worst spot (N; P goes back)")
        self.compare = _button(
            "Plan, you, plan", "Hear this passage at half speed: the plan, you, the plan (Space)"
        )
        self.drill = _button("Drill it", "Practise this passage (D)")
        self.to_log = _button("Into the log", "Put every whole round of this take into the practice log (L)")
        self.throw = _button("Throw away…", "Throw this take away for good")
        self.chart = ChartView(theme)
        self.chart.setAccessibleName("Chart with the take below it")
        # The page scrolls rather than that the beads do not show.
        self.chart.setMinimumHeight(LEAST_CHART)
        self.figures = QLabel()
        self.figures.setWordWrap(True)
        self.figures.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.figures.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.plot = TempoPlot(theme)
        self._build()
        self.show_nothing("")

    def _build(self) -> None:
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        takes = QHBoxLayout()
        for widget in (self.record, self.open, self.ramp, self.example, self.meter, self.progress):
            takes.addWidget(widget)
        takes.addWidget(self.state, 1)
        rows.addLayout(takes)
        card = QFrame()
        card.setObjectName("card")
        inside = QVBoxLayout(card)
        inside.setContentsMargins(12, 8, 12, 8)
        inside.addWidget(self.top)
        line = QHBoxLayout()
        line.addWidget(self.spot, 1)
        for widget in (self.next_spot, self.compare, self.drill, self.to_log, self.throw):
            line.addWidget(widget)
        inside.addLayout(line)
        rows.addWidget(card)
        rows.addWidget(self.chart, 1)
        lower = QHBoxLayout()
        lower.setSpacing(12)
        area = QScrollArea()
        area.setObjectName("bare")
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidgetResizable(True)
        area.setWidget(self.figures)
        area.setAccessibleName("Figures of the take")
        area.setFixedHeight(150)
        lower.addWidget(area, 1)
        self.plot.setFixedSize(PLOT_WIDTH, 150)
        lower.addWidget(self.plot)
        self._lower = QWidget()
        self._lower.setLayout(lower)
        lower.setContentsMargins(0, 0, 0, 0)
        rows.addWidget(self._lower)

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        for part in (self.chart, self.meter, self.plot):
            part.set_theme(theme)

    # -- what shows ---------------------------------------------------------------------------------------------

    def show_plan(self, plan: Plan | None) -> None:
        """Show the plan that is to be played."""
        self.chart.set_plan(plan)

    def say(self, words: str) -> None:
        """Say what goes on."""
        self.state.setText(words)
        self.state.setToolTip(words)

    def show_progress(self, share: float) -> None:
        """How much of a take has been listened to."""
        self.progress.setValue(round(100 * share))

    def show_nothing(self, words: str) -> None:
        """No take shows; say why."""
        self.chart.set_take(())
        self.top.setText(words or _WELCOME)
        self.spot.setText("")
        self.figures.setText("")

    def show_review(
        self, review: Review, take: tuple[tuple[TakeNote, ...], ...], name: str, *, example: bool
    ) -> None:
        """Show what was heard.

        Parameters
        ----------
        review : Review
        take : tuple of tuple of TakeNote
        name : str
        example : bool
        """
        self.chart.set_take(take)
        top = review.top
        self.top.setText(f"{top[:1].upper()}{top[1:]}.")
        self.spot.setText("" if review.spots else "No single spot stands out either.")
        lines = [f"{line[:1].upper()}{line[1:]}." for line in (*review.heard.remarks, *review.lines)]
        self.figures.setText("<br>".join(lines))
        self.say(f"{'Example, played by the simulated player' if example else name}")

    def show_spot(self, spot: Spot, number: int, count: int) -> None:
        """Show one of the spots.

        Parameters
        ----------
        spot : Spot
        number, count : int
        """
        self.spot.setText(f"Spot {number + 1} of {count}: {spot.text}")

    def show_history(self, days: Sequence[DayOf], ceiling: float | None, target: float | None) -> None:
        """Show how the riff went, by marks and by takes.

        Parameters
        ----------
        days : sequence of DayOf
        ceiling : float or None
        target : float or None
            Quarter notes a minute.
        """
        self.plot.show_days(days, ceiling, target)

    def show_state(
        self,
        *,
        has_plan: bool,
        recording: bool,
        unwritten: bool,
        working: bool,
        heard: HeardTake | None,
        playing: bool,
        example: bool,
        own: bool,
    ) -> None:
        """Offer what can be done now.

        Parameters
        ----------
        has_plan, recording, unwritten, working : bool
        heard : HeardTake or None
        playing, example, own : bool
        """
        self.record.setText("Stop" if recording else "Write the take" if unwritten else "Record")
        self.record.setEnabled(has_plan and not working)
        self.open.setEnabled(has_plan and not recording and not working)
        self.example.setEnabled(has_plan and not recording and not working)
        self.ramp.setEnabled(has_plan and not recording and not working)
        self.meter.setVisible(recording)
        self.progress.setVisible(working)
        self.compare.setText("Stop" if playing else "Plan, you, plan")
        shown = heard is not None and not recording
        for button in (self.compare, self.drill, self.throw, self.to_log, self.next_spot):
            button.setVisible(shown)
        self.spot.setVisible(shown)
        self.next_spot.setEnabled(heard is not None and len(heard.review.spots) > 1)
        self.to_log.setEnabled(not example)
        self.throw.setVisible(shown and own)
        self._lower.setVisible(shown)
        if not has_plan or self.top.text() == _NO_PLAN:
            self.top.setText(_WELCOME if has_plan else _NO_PLAN)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Keys go to the page."""
        if event is not None:
            event.ignore()
            self.keys_wanted.emit(event)


def _button(words: str, hint: str) -> QPushButton:
    button = QPushButton(words)
    button.setToolTip(hint)
    return button
