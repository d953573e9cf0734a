"""The drill bar: a range of the plan, round and round, up a ladder of tempi."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QSpinBox, QVBoxLayout

from dromic.app.document import Change, Document
from dromic.app.error_text import error_words
from dromic.app.sound import Player, Wanted
from dromic.errors import RiffError
from dromic.listening.extent import Extent
from dromic.music.riff import Riff
from dromic.planner.plan import Plan
from dromic.practice.excerpt import excerpt
from dromic.practice.ladder import Ladder, Range, ladder_for, place_words, range_ceiling, round_of

SLOWEST, FASTEST = 20, 400
_CARE = "Clean before fast: go down a rung when it comes apart, and stop at pain."


class DrillBar(QFrame):
    """Drills a range.

    Signals
    -------
    told : str
    riff_wanted : Riff
        The range is to be opened as a riff of its own.
    closed : no argument
    """

    message = pyqtSignal(str)
    riff_wanted = pyqtSignal(object)
    closed = pyqtSignal()

    def __init__(self, document: Document, player: Player) -> None:
        super().__init__()
        self.setObjectName("drill")
        self._document, self._player = document, player
        self._range: Range | None = None
        self._rungs: tuple[int, ...] = ()
        self._rung = 0
        self._changing = False
        self.title = QLabel()
        self.title.setObjectName("strong")
        self.figures = QLabel()
        self.figures.setObjectName("quiet")
        self.rungs = QLabel()
        self.rungs.setTextFormat(Qt.TextFormat.RichText)
        self.start_at = self._spin("Lowest tempo", SLOWEST, FASTEST)
        self.goal = self._spin("Tempo to reach", SLOWEST, FASTEST)
        self.step = self._spin("Step from rung to rung", 1, 60)
        self.rounds = self._spin("Rounds on each rung", 1, 50)
        self.button = QPushButton("Start")
        self.button.setToolTip("Play it as a loop, and go up after so many rounds")
        self.down, self.up = QPushButton("Down a rung"), QPushButton("Up a rung")
        self.own = QPushButton("As a riff of its own")
        self.own.setToolTip("Take the range out as a small riff, everything decided as it is planned here")
        self.close_button = QPushButton("Close")
        self._build()
        self.button.clicked.connect(self.toggle)
        self.down.clicked.connect(lambda: self._climb(-1))
        self.up.clicked.connect(lambda: self._climb(1))
        self.own.clicked.connect(self._take_out)
        self.close_button.clicked.connect(self.leave)
        player.went_round.connect(self._went_round)
        player.stopped.connect(self._stopped)
        document.listen(self._heard)
        self.hide()

    def _spin(self, name: str, low: int, high: int) -> QSpinBox:
        box = QSpinBox()
        box.setRange(low, high)
        box.setAccessibleName(name)
        box.setToolTip(name)
        box.setFixedWidth(66)
        box.valueChanged.connect(self._refresh)
        return box

    def _build(self) -> None:
        rows = QVBoxLayout(self)
        rows.setContentsMargins(12, 6, 12, 6)
        rows.setSpacing(4)
        top, bottom = QHBoxLayout(), QHBoxLayout()
        for row in (top, bottom):
            row.setSpacing(8)
            rows.addLayout(row)
        top.addWidget(self.title)
        top.addWidget(self.figures, 1)
        top.addWidget(self.own)
        top.addWidget(self.close_button)
        bottom.addWidget(self.button)
        for name, box in (("from", self.start_at), ("to", self.goal), ("by", self.step), ("rounds", self.rounds)):
            label = QLabel(name)
            label.setObjectName("quiet")
            bottom.addWidget(label)
            bottom.addWidget(box)
        bottom.addWidget(self.rungs, 1)
        bottom.addWidget(self.down)
        bottom.addWidget(self.up)

    # -- what is drilled --------------------------------------------------------------------------------------

    @property
    def range(self) -> Range | None:
        """What is drilled."""
        return self._range

    @property
    def climbing(self) -> bool:
        """Whether the ladder is being climbed."""
        return bool(self._rungs)

    def drill(self, chosen: Range) -> None:
        """Show a range with the ladder that suits it."""
        plan = self._document.plan
        if plan is None:
            return
        self._halt()
        self._range = chosen
        ladder = ladder_for(plan, chosen, self._document.tempo)
        for box, value in (
            (self.start_at, ladder.start),
            (self.goal, ladder.goal),
            (self.step, ladder.step),
            (self.rounds, ladder.rounds),
        ):
            box.blockSignals(True)
            box.setValue(value)
            box.blockSignals(False)
        self._refresh()
        self.show()
        self.button.setFocus()

    def leave(self) -> None:
        """Stop, and go away."""
        self._halt()
        self._range = None
        self.hide()
        self.closed.emit()

    def _take_out(self) -> None:
        plan = self._document.plan
        if plan is not None and self._range is not None:
            riff: Riff = excerpt(plan, self._range)
            self._halt()
            self.riff_wanted.emit(riff)

    @property
    def ladder(self) -> Ladder:
        """The ladder as it is set."""
        return Ladder(self.start_at.value(), self.goal.value(), self.step.value(), self.rounds.value())

    # -- climbing ---------------------------------------------------------------------------------------------

    def toggle(self) -> None:
        """Start at the lowest rung, or stop."""
        if self.climbing:
            self._halt()
            return
        try:
            self._rungs, self._rung = self.ladder.rungs(), 0
        except RiffError as error:
            self.message.emit(error_words(error))
            return
        self._play()

    def _play(self) -> None:
        plan = self._document.plan
        if plan is None or self._range is None:
            return
        self._changing = True
        self._player.play(Wanted(plan, self._extent(plan, self._range), loop=True))
        self._changing = False
        self._refresh()

    def _extent(self, plan: Plan, chosen: Range) -> Extent:
        start, end = round_of(plan, chosen)
        first, last = (float(plan.task.steps[step].moment.played) for step in (chosen.first, chosen.last))
        tempo = float(self._rungs[self._rung])
        return Extent(float(start), float(end), tempo, click=True, count_in=True, only=(first, last))

    def _climb(self, rungs: int) -> None:
        if self.climbing:
            self._rung = min(max(self._rung + rungs, 0), len(self._rungs) - 1)
            self._play()

    def _went_round(self, rounds: int) -> None:
        if not self.climbing:
            return
        if rounds < self.rounds.value():
            self._refresh(rounds)
        elif self._rung + 1 < len(self._rungs):
            self._climb(1)
        else:
            tempo = self._rungs[-1]
            self._halt()
            self.message.emit(f"Climbed to {tempo}. Rest the hands, then try it in the whole riff")

    def _halt(self) -> None:
        if self.climbing:
            self._rungs = ()
            self._player.stop()
            self._refresh()

    def _stopped(self) -> None:
        if self.climbing and not self._changing:
            self._rungs = ()
            self._refresh()

    def _heard(self, change: Change) -> None:
        if change in (Change.RIFF, Change.FILE) and self._range is not None:
            self.leave()
        elif change is Change.PLAN and self._range is not None:
            self._refresh()

    # -- telling ----------------------------------------------------------------------------------------------

    def _refresh(self, rounds: int = 0) -> None:
        plan, chosen = self._document.plan, self._range
        if plan is None or chosen is None or chosen.last >= len(plan.states):
            return
        count = chosen.last - chosen.first + 1
        ceiling = range_ceiling(plan, chosen)
        limit = f", ceiling {ceiling:.0f}" if ceiling is not None else ""
        self.title.setText(f"Drill: {place_words(plan, chosen)}")
        self.figures.setText(f"{count} {'note' if count == 1 else 'notes'}{limit}. {_CARE}")
        self.button.setText("Stop" if self.climbing else "Start")
        for box in (self.start_at, self.goal, self.step):
            box.setEnabled(not self.climbing)
        self.down.setEnabled(self.climbing and self._rung > 0)
        self.up.setEnabled(self.climbing and self._rung + 1 < len(self._rungs))
        self.rungs.setText(self._rung_words(rounds))

    def _rung_words(self, rounds: int) -> str:
        if self.climbing:
            now = self._rungs[self._rung]
            return (
                f"<b>{now}</b> a minute, rung {self._rung + 1} of {len(self._rungs)}, "
                f"round {rounds + 1} of {self.rounds.value()}"
            )
        try:
            rungs = self.ladder.rungs()
        except RiffError as error:
            return error_words(error)
        told = [str(rung) for rung in rungs]
        return " · ".join(told if len(told) <= 12 else [*told[:6], "…", *told[-4:]])
