"""What a guided session shows: a tempo to be read from two metres, the moving chart, a pulse, what comes next."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from dromic.app.chart.view import ChartView
from dromic.app.practice.mix_bar import MixBar
from dromic.app.practice.pulse import Pulse
from dromic.app.practice.run import RAMPS, GuidedRun, block_words, seconds_words
from dromic.app.practice.strip import SessionStrip
from dromic.app.shell.sliding_row import SlidingRow
from dromic.app.theme import Theme
from dromic.practice.session.care import too_fast
from dromic.practice.session.session import Block

SIDE = 360


@dataclass(frozen=True)
class Moment:
    """Where a session is just now.

    Parameters
    ----------
    left_s : float
        Seconds that the block still has.
    paused : bool
    ramp_tempo : float or None
        How fast a ramp has become.
    """

    left_s: float
    paused: bool
    ramp_tempo: float | None = None


class GuidedScreen(QWidget):
    """Labels, chart and buttons of a guided session; whoever holds it says what they do."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.strip = SessionStrip(theme)
        self.strip.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.name, self.where, self.left = QLabel(), QLabel(), QLabel()
        self.tempo, self.under, self.told = QLabel(), QLabel(), QLabel()
        self.reason, self.criterion, self.next = QLabel(), QLabel(), QLabel()
        self.tempo.setAccessibleName("Tempo")
        self.pulse = Pulse(theme)
        self.chart = ChartView(theme)
        self.chart.set_view(1.0, padlocks=False)
        self.chart.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.done = QProgressBar()
        self.done.setRange(0, 1000)
        self.done.setTextVisible(False)
        self.done.setAccessibleName("How much of the block is over")
        self.clean = self._button("Clean  ↑", "The last repetition was clean (Up, or C)", "answer")
        self.not_clean = self._button("Not clean  ↓", "The last repetition was not clean (Down, or N)", "answer")
        self.pause = self._button("Pause  Space", "Stop and go on (Space)")
        self.skip = self._button("Skip  S", "Go to the next block (S)")
        self.other = self._button("Another way  W", "Practise this passage in another way (W)")
        self.end = self._button("End  Esc", "End the session here (Esc)")
        self.pain = self._button("It hurts  P", "Something hurts: end the session (P)")
        self.note = QLineEdit()
        self.note.setPlaceholderText("Note for the log (M), Enter puts it down; 1 to 5: how tight the hands feel")
        self.note.setAccessibleName("Note for the log")
        self.note.setMaxLength(300)
        self.mix_bar = MixBar()
        self._build()

    def _button(self, words: str, tip: str, name: str = "") -> QPushButton:
        button = QPushButton(words)
        button.setToolTip(tip)
        button.setObjectName(name)
        # The keys stay with the session, whatever was clicked.
        button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        return button

    def _build(self) -> None:
        for label, name in (
            (self.name, "heading"),
            (self.where, "quiet"),
            (self.left, "heading"),
            (self.tempo, "huge"),
            (self.under, "quiet"),
            (self.told, "strong"),
            (self.criterion, "quiet"),
            (self.next, "quiet"),
        ):
            label.setObjectName(name)
        for label in (self.reason, self.criterion, self.under, self.told, self.next, self.name, self.where):
            label.setWordWrap(True)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        rows.addWidget(self.strip)
        middle = QHBoxLayout()
        middle.setSpacing(16)
        middle.addWidget(self._side())
        middle.addWidget(self.chart, 1)
        rows.addLayout(middle, 1)
        rows.addWidget(self.done)
        keys = QWidget()
        row = QHBoxLayout(keys)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        for button in (self.clean, self.not_clean, self.pause, self.skip, self.other, self.end, self.pain):
            row.addWidget(button)
        row.addStretch(1)
        rows.addWidget(SlidingRow(keys))
        rows.addWidget(SlidingRow(self.mix_bar))
        foot = QHBoxLayout()
        foot.setSpacing(12)
        foot.addWidget(self.next, 3)
        foot.addWidget(self.note, 4)
        rows.addLayout(foot)

    def _side(self) -> QWidget:
        holder = QWidget()
        side = QVBoxLayout(holder)
        side.setContentsMargins(0, 0, 0, 0)
        side.setSpacing(4)
        head = QHBoxLayout()
        head.addWidget(self.name, 1)
        head.addWidget(self.left)
        side.addLayout(head)
        for widget in (self.where, self.tempo, self.pulse, self.under, self.told):
            side.addWidget(widget)
        side.addStretch(1)
        side.addWidget(self.reason)
        side.addWidget(self.criterion)
        holder.setFixedWidth(SIDE)
        holder.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        return holder

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        for part in (self.strip, self.chart, self.pulse):
            part.set_theme(theme)

    def show_run(self, run: GuidedRun, moment: Moment) -> None:
        """Show the block that is played, what is played of it, and what comes next."""
        block, drill = run.block, run.block.drill
        self.name.setText(block_words(block))
        self.where.setText(f"{run.source.riff.title} · {drill.where}" if drill is not None else "")
        self.reason.setText(block.reason)
        self.criterion.setText(" ".join((drill.criterion, *drill.remarks)) if drill is not None else "")
        for part in (self.pulse, self.left, self.chart):
            part.setVisible(drill is not None)
        for button in (self.clean, self.not_clean, self.other):
            button.setEnabled(drill is not None)
        self.pause.setText("Go on  Space" if moment.paused else "Pause  Space")
        self.told.setText(_told(run, paused=moment.paused))
        after = run.following
        self.next.setText(f"Next: {next_words(after)}" if after is not None else "This is the last block.")
        self.under.setText(_under(run))
        self.show_time(run, moment)

    def show_time(self, run: GuidedRun, moment: Moment) -> None:
        """Show the time that is left, and how fast it is."""
        share = 1.0 - moment.left_s / (60.0 * run.block.minutes)
        self.left.setText(seconds_words(moment.left_s))
        self.done.setValue(round(1000 * min(max(share, 0.0), 1.0)))
        self.strip.show_blocks(run.session.blocks, run.at, share)
        self.tempo.setText(_tempo(run, moment))


def _tempo(run: GuidedRun, moment: Moment) -> str:
    if run.block.drill is None:
        return seconds_words(moment.left_s)
    if run.prepared is None:
        return "…"
    if run.block.kind in RAMPS:
        return f"{moment.ramp_tempo or run.block.tempo_from:.0f}"
    return f"{run.rung.tempo:.0f}"


def _under(run: GuidedRun) -> str:
    """What there is to say of the tempo: what is known of it, the target, and the ceiling beside it."""
    if run.block.drill is None:
        return "hands down"
    plan = run.drill_plan
    if plan is None:
        return ""
    ceiling = f", ceiling {plan.ceiling:.0f}" if plan.ceiling is not None else ""
    if run.block.kind in RAMPS:
        return f"quarter notes a minute, growing to {run.block.tempo_to:.0f}{ceiling}"
    known, climb = "", run.climb
    if climb is not None and climb.climb.answers:
        known = f"; clean at {climb.climb.clean_tempo:.0f}, give or take {climb.climb.give_or_take:.0f}"
    return f"quarter notes a minute{known}. Target {run.source.tempo:.0f}{ceiling}"


def _told(run: GuidedRun, *, paused: bool) -> str:
    if run.block.drill is None:
        return ""
    if run.prepared is None:
        return "getting ready…"
    words = ["burst: one beat at the target"] if run.rung.burst else []
    if run.rung.density > 1:
        words.append(f"each string {run.rung.density} times")
    if paused:
        words.append("paused")
    plan = run.drill_plan
    fast = too_fast(plan, run.rung.tempo) if plan is not None else ""
    return "\n".join(filter(None, [", ".join(words), fast]))


def next_words(block: Block) -> str:
    """What comes next, in small print."""
    tempo = f", {block.tempo_from:.0f} to {block.tempo_to:.0f}" if block.drill is not None else ""
    where = f", {block.drill.where}" if block.drill is not None and block.kind not in ("whole", "ramp") else ""
    return f"{block_words(block)}{where}{tempo}, {block.minutes} min"
