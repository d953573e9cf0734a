"""Today: the riffs in work, the minutes there are, the blocks with their reasons, and one key to start."""

from __future__ import annotations

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from dromic.app.chart.view import ChartView
from dromic.app.practice.cards import CardView
from dromic.app.practice.run import block_words
from dromic.app.practice.strip import SessionStrip
from dromic.app.practice.today import Today
from dromic.app.settings import Settings
from dromic.app.shell.look import set_look
from dromic.app.shell.sliding_row import SlidingRow
from dromic.app.theme import Theme
from dromic.planner.plan import Plan
from dromic.practice.passages.drill_climb import RULE_WORDS, Rule
from dromic.practice.session.care import cards_for
from dromic.practice.session.session import Block, Session
from dromic.practice.tempo.schedule import LONGEST, SHORTEST

FELT = ("not said", "1 loose", "2", "3", "4 tight", "5 very tight")
SIDE = 350


class TodayView(QWidget):
    """Shows a session before it is played.

    Signals
    -------
    start_wanted : no argument
    asked : no argument
        The session has to be laid out anew.
    chosen : int
        A block.
    other_wanted, dropped, own_wanted, elsewhere_wanted : no argument
        Something else in the chosen block's place; no block at all; its riff opened by itself; the same figure
        elsewhere.
    """

    start_wanted = pyqtSignal()
    asked = pyqtSignal()
    chosen = pyqtSignal(int)
    other_wanted = pyqtSignal()
    dropped = pyqtSignal()
    own_wanted = pyqtSignal()
    elsewhere_wanted = pyqtSignal()

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._session: Session | None = None
        self._at = 0
        self.what = QLabel()
        self.what.setObjectName("heading")
        self.what.setWordWrap(True)
        self.notice = QLabel()
        self.notice.setObjectName("message")
        self.notice.setWordWrap(True)
        self.notice.hide()
        self.start = QPushButton("Start")
        self.start.setObjectName("start")
        self.start.setToolTip("Begin the session (Enter)")
        self.start.clicked.connect(self.start_wanted)
        self.minutes = QSpinBox()
        self.minutes.setRange(SHORTEST, LONGEST)
        self.minutes.setSuffix(" min")
        self.minutes.setAccessibleName("Minutes")
        self.minutes.setKeyboardTracking(False)
        self.felt = self._choice("How tight the hands feel", FELT)
        self.rule = QComboBox()
        for rule in Rule:
            self.rule.addItem(RULE_WORDS[rule], rule.value)
        self.rule.setAccessibleName("How the next tempo is found")
        self.rule.setToolTip("How the next tempo of a drill is found")
        self.bursts = QCheckBox("&Bursts")
        self.bursts.setToolTip("Every fourth repetition is one beat at the target tempo")
        self.in_work = QPushButton("Riffs in work")
        self.in_work.setToolTip("Practise several riffs in one session")
        self.strip = SessionStrip(theme)
        self.strip.chosen.connect(self.chosen)
        self.chart = ChartView(theme)
        self.chart.set_view(1.0, padlocks=False)
        self.chart.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.chart.setAccessibleName("Chart of the block")
        self.name, self.where = QLabel(), QLabel()
        self.name.setObjectName("heading")
        self.where.setObjectName("quiet")
        self.other = self._button("Another way (W)", "Practise the same passage in another way", self.other_wanted)
        self.drop = self._button("Skip (S)", "Leave this block out; the rest stays", self.dropped)
        self.own = self._button("As a riff of its own", "Open the drill as a small riff", self.own_wanted)
        self.elsewhere = self._button(
            "Same figure elsewhere",
            "Where another riff asks for the same movement with less to do",
            self.elsewhere_wanted,
        )
        self.side = QVBoxLayout()
        self.side.setSpacing(8)
        self._build()
        self.minutes.valueChanged.connect(self.asked)
        self.felt.currentIndexChanged.connect(self.asked)

    def _choice(self, name: str, words: tuple[str, ...]) -> QComboBox:
        box = QComboBox()
        box.addItems(words)
        box.setAccessibleName(name)
        box.setToolTip(name)
        return box

    def _button(self, words: str, tip: str, signal: object) -> QPushButton:
        button = QPushButton(words)
        button.setToolTip(tip)
        button.clicked.connect(lambda: signal.emit())  # type: ignore[attr-defined]
        return button

    def _build(self) -> None:
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        top = QHBoxLayout()
        top.addWidget(self.what, 1)
        top.addWidget(self.start)
        rows.addLayout(top)
        rows.addWidget(self.notice)
        choices = QWidget()
        row = QHBoxLayout(choices)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        for words, box in (("&Minutes", self.minutes), ("&Hands feel", self.felt), ("Next &tempo", self.rule)):
            label = QLabel(words)
            label.setBuddy(box)
            row.addWidget(label)
            row.addWidget(box)
        row.addWidget(self.bursts)
        row.addWidget(self.in_work)
        row.addStretch(1)
        rows.addWidget(SlidingRow(choices))
        rows.addWidget(self.strip)
        lower = QHBoxLayout()
        lower.setSpacing(12)
        left = QVBoxLayout()
        left.setSpacing(4)
        left.addWidget(self.name)
        left.addWidget(self.where)
        left.addWidget(self.chart, 1)
        buttons = QWidget()
        own = QHBoxLayout(buttons)
        own.setContentsMargins(0, 0, 0, 0)
        for button in (self.other, self.drop, self.own, self.elsewhere):
            own.addWidget(button)
        own.addStretch(1)
        left.addWidget(SlidingRow(buttons))
        lower.addLayout(left, 1)
        holder = QWidget()
        holder.setLayout(self.side)
        scroll = QScrollArea()
        scroll.setObjectName("bare")
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFixedWidth(SIDE)
        scroll.setWidget(holder)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        lower.addWidget(scroll)
        rows.addLayout(lower, 1)

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = theme
        self.strip.set_theme(theme)
        self.chart.set_theme(theme)

    def take(self, settings: Settings) -> None:
        """Show what the settings say."""
        blockers = [QSignalBlocker(widget) for widget in (self.minutes, self.rule, self.bursts)]
        self.minutes.setValue(settings.minutes)
        self.rule.setCurrentIndex(self.rule.findData(settings.tempo_rule))
        self.bursts.setChecked(settings.bursts)
        del blockers

    @property
    def felt_value(self) -> int | None:
        """How tight the hands feel, if that has been said."""
        return self.felt.currentIndex() or None

    # -- what is shown ------------------------------------------------------------------------------------------

    def show_nothing(self, words: str) -> None:
        """There is no session; say why."""
        self._session = None
        self.what.setText(words)
        self.start.setEnabled(False)
        self.strip.show_blocks((), 0)
        self.chart.set_plan(None)
        self.name.clear()
        self.where.clear()
        self._empty_side()
        for button in (self.other, self.drop, self.own, self.elsewhere):
            button.setEnabled(False)

    def rest_now(self) -> None:
        """No session any more while something hurts."""
        self.what.setText("Rest the hands.")
        self.start.setEnabled(False)

    def say(self, words: str, *, good: bool = False) -> None:
        """Say something above the session; nothing to say hides it."""
        self.notice.setText(words)
        set_look(self.notice, "good", on=good)
        self.notice.setVisible(bool(words))

    def show_session(self, session: Session, today: Today, at: int) -> None:
        """Show a session and one of its blocks.

        Parameters
        ----------
        session : Session
        today : Today
        at : int
        """
        self._session, self._at = session, at
        self.what.setText(what_words(session))
        self.start.setEnabled(True)
        self.strip.show_blocks(session.blocks, at)
        block = session.blocks[at]
        self.name.setText(block_words(block))
        tempo = f", {block.tempo_from:.0f} to {block.tempo_to:.0f}" if block.drill is not None else ""
        dense = f", each string {block.density} times" if block.density > 1 else ""
        where = (
            f" · {block.drill.where}" if block.drill is not None and block.kind not in ("warm-up", "whole") else ""
        )
        title = f"{today.plans[block.riff_number].riff.title} · " if len(today.plans) > 1 else ""
        self.where.setText(f"{title}{block.minutes} minutes{tempo}{dense}{where}")
        for button in (self.other, self.own, self.elsewhere):
            button.setEnabled(block.drill is not None)
        self.drop.setEnabled(len(session.blocks) > 1)
        self._fill_side(session, today, block)

    def show_plan(self, plan: Plan | None) -> None:
        """Show the chart of the chosen block."""
        self.chart.set_plan(plan)
        if plan is not None:
            self.chart.fit_short()

    def _empty_side(self) -> None:
        while self.side.count():
            item = self.side.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.deleteLater()

    def _fill_side(self, session: Session, today: Today, block: Block) -> None:
        self._empty_side()
        self._label(f"<b>Why.</b> {block.reason}")
        if block.drill is not None:
            self._label(block.drill.criterion)
            for words in block.drill.remarks:
                self._label(words)
            for card in cards_for(today.plans[block.riff_number], block.drill, 2):
                self.side.addWidget(CardView(card, self._theme))
        for words in (*session.remarks, *today.cautions):
            self._label(words, "caution")
        self.side.addStretch(1)
        self._label(prospect_words(session), "quiet")

    def _label(self, words: str, name: str = "") -> None:
        label = QLabel(words)
        label.setObjectName(name)
        label.setWordWrap(True)
        label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.side.addWidget(label)


def what_words(session: Session) -> str:
    """What to do today, in one sentence.

    Parameters
    ----------
    session : Session
    """
    titles = " and ".join(prospect.title or "this riff" for prospect in session.prospects)
    first = next((block for block in session.blocks if block.drill is not None and block.kind != "warm-up"), None)
    where = f", then {first.drill.where}" if first is not None and first.drill is not None else ""
    return f"{session.minutes} minutes on {titles}: warm up{where}. Press Start."


def prospect_words(session: Session) -> str:
    """How the riffs are thought to come on, and by which assumptions."""
    told = [
        f"{riff.title or 'This riff'}: clean at about {riff.now:.0f} now, {riff.after:.0f} after this session."
        for riff in session.prospects
    ]
    return " ".join([*told, session.rates.words])
