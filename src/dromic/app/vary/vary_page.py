"""The Vary view: the lick moved on, the five variations worth a week first, and all the rest on demand."""

from __future__ import annotations

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QListWidgetItem,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from dromic.app.chart.view import ChartView
from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.app.error_text import error_words
from dromic.app.jobs import Jobs
from dromic.app.shell.plain_list import PlainList
from dromic.app.shell.sliding_row import SlidingRow
from dromic.app.theme import Theme
from dromic.app.vary.cards import ROLE, CardDelegate
from dromic.app.vary.work import in_turn
from dromic.errors import DromicError
from dromic.planner.plan import Plan
from dromic.practice.vary.lick import WAY_WORDS
from dromic.practice.vary.variants import Variant, Varied

PAUSE_MS, MOST_TOLD = 400, 3
LIST_WIDTH = 500
_EMPTY = "Write a riff first; its variations appear here."


class VaryPage(QWidget):
    """Varies the document's plan while it shows.

    Signals
    -------
    message : str
    riff_wanted : Riff
        A variation is to be opened as a riff of its own.
    work_wanted : Riff
        One is to be practised with every session.
    """

    message = pyqtSignal(str)
    riff_wanted = pyqtSignal(object)
    work_wanted = pyqtSignal(object)

    def __init__(self, document: Document, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self._of: Plan | None = None
        self._by_player = ""
        self.varied: Varied | None = None
        self.jobs = Jobs(self)
        self.jobs.found.connect(self._take)
        self.jobs.finished.connect(self._end)
        self.jobs.cancelled.connect(self._cancelled)
        self.jobs.progressed.connect(lambda share: self.progress.setValue(round(100 * share)))
        self.heading = QLabel()
        self.heading.setObjectName("heading")
        self.progress = QProgressBar()
        self.progress.setRange(0, 100)
        self.progress.setTextVisible(False)
        self.progress.setFixedWidth(150)
        self.progress.setAccessibleName("Varying")
        self.ways = QComboBox()
        self.ways.addItem("All ways", "")
        for name, words in WAY_WORDS.items():
            self.ways.addItem(words, name)
        self.ways.setAccessibleName("Way of varying")
        self.ways.currentIndexChanged.connect(lambda _at: self._show())
        self.every = QCheckBox("Show &everything")
        self.every.setToolTip("All variations, and every key, capo and tuning that was tried, with its price")
        self.every.toggled.connect(lambda _on: self._show())
        self.list = PlainList()
        self.list.setAccessibleName("Variations")
        self.list.setObjectName("cards")
        self.list.setSpacing(1)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._delegate = CardDelegate(theme, self.list)
        self.list.setItemDelegate(self._delegate)
        self.list.currentRowChanged.connect(lambda _row: self._picked())
        self.list.itemActivated.connect(lambda _item: self.open_chosen())
        self.chart = ChartView(theme)
        self.chart.set_view(1.0, padlocks=False)
        self.chart.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.chart.setAccessibleName("Chart of the variation")
        self.chart.empty_words = "The variation that is chosen shows here."
        self.name = QLabel()
        self.name.setObjectName("strong")
        self.name.setWordWrap(True)
        self.ceilings, self.changes = QLabel(), QLabel()
        for label in (self.ceilings, self.changes):
            label.setObjectName("quiet")
            label.setWordWrap(True)
        self.notes = QLabel()
        self.notes.setObjectName("quiet")
        self.notes.setWordWrap(True)
        self.open = QPushButton("As a riff of its own (Enter)")
        self.open.clicked.connect(self.open_chosen)
        self.work = QPushButton("Into the sessions (W)")
        self.work.setToolTip("Practise it with every session from now on")
        self.work.clicked.connect(self.work_on_chosen)
        self._build()
        document.listen(self._heard)

    def _build(self) -> None:
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        top = QHBoxLayout()
        top.addWidget(self.heading, 1)
        top.addWidget(self.progress)
        top.addWidget(self.ways)
        top.addWidget(self.every)
        rows.addLayout(top)
        row = QHBoxLayout()
        row.setSpacing(12)
        self.list.setMinimumWidth(280)
        self.list.setMaximumWidth(LIST_WIDTH)
        left = QVBoxLayout()
        left.addWidget(self.list, 1)
        row.addLayout(left, 5)
        right = QVBoxLayout()
        right.setSpacing(6)
        right.addWidget(self.name)
        right.addWidget(self.chart, 1)
        right.addWidget(self.ceilings)
        right.addWidget(self.changes)
        buttons = QWidget()
        own = QHBoxLayout(buttons)
        own.setContentsMargins(0, 0, 0, 0)
        own.addWidget(self.open)
        own.addWidget(self.work)
        own.addStretch(1)
        right.addWidget(SlidingRow(buttons))
        notes = QScrollArea()
        notes.setObjectName("bare")
        notes.setWidgetResizable(True)
        notes.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        notes.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        notes.setMaximumSize(LIST_WIDTH, 104)
        self.notes.setAlignment(Qt.AlignmentFlag.AlignTop)
        notes.setWidget(self.notes)
        left.addWidget(notes)
        row.addLayout(right, 6)
        rows.addLayout(row, 1)

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._delegate.theme = theme
        self.chart.set_theme(theme)
        self.list.update()

    def activated(self) -> None:
        """The view shows."""
        self._ask()
        self.list.setFocus()

    def _heard(self, change: Change) -> None:
        if change is Change.PLAN and self.isVisible():
            self._ask(PAUSE_MS)

    def _ask(self, pause_ms: int = 0) -> None:
        """Vary the present plan, if that has not been done."""
        plan = self._document.plan
        if plan is None:
            self.jobs.cancel()
            self._of, self.varied = None, None
            self._show()
            return
        if self._of is not None and _asks_the_same(self._of, plan):
            self._show()
            return
        self._of, self.varied, self._by_player = plan, None, ""
        self.progress.setValue(0)
        self.jobs.ask(lambda watch: in_turn(plan, watch), pause_ms)
        self._show()

    def _take(self, varied: Varied) -> None:
        self.varied = varied
        self._show()

    def _end(self, trouble: DromicError | None) -> None:
        if trouble is not None:
            self.notes.setText(error_words(trouble))
            self._of = None
        self._show(told=trouble is None)

    def _cancelled(self) -> None:
        self._of = None
        self._show()

    @property
    def shown(self) -> tuple[Variant, ...]:
        """The variations that show."""
        varied = self.varied
        if varied is None:
            return ()
        by = self.ways.currentData() or None
        return varied.chosen(by, everything=self.every.isChecked())

    @property
    def chosen(self) -> Variant | None:
        """The one that is chosen."""
        shown, row = self.shown, self.list.currentRow()
        return shown[row] if 0 <= row < len(shown) else None

    def _show(self, *, told: bool = True) -> None:
        varied, shown = self.varied, self.shown
        self.progress.setVisible(self.jobs.working)
        blocker = QSignalBlocker(self.list)
        self.list.clear()
        for one in shown:
            item = QListWidgetItem(one.words)
            item.setData(ROLE, (varied, one))
            item.setToolTip(one.words)
            self.list.addItem(item)
        # What the player has picked stays so while more comes.
        again = next((row for row, one in enumerate(shown) if one.words == self._by_player), 0)
        if shown:
            self.list.setCurrentRow(again)
        del blocker
        self.heading.setText(self._heading())
        if told:
            self.notes.setText(self._notes())
        self._preview()

    def _heading(self) -> str:
        varied = self.varied
        if self._of is None and varied is None:
            return _EMPTY
        if varied is None:
            return "Varying the lick…"
        by = self.ways.currentData()
        count = len(varied.variants if not by else varied.of(by))
        if self.every.isChecked():
            return f"{WAY_WORDS[by] if by else 'All variations'}, and all that was tried: {len(self.shown)}"
        if by:
            return f"{WAY_WORDS[by]}: {len(self.shown)} of {count}"
        so_far = " so far" if self.jobs.working else ""
        return f"Worth a week{so_far}: {len(self.shown)} of {count} variations"

    def _notes(self) -> str:
        varied = self.varied
        if varied is None:
            return ""
        by = self.ways.currentData()
        own = [refusal for refusal in varied.refusals if not by or refusal.by == by]
        return "\n".join(f"{WAY_WORDS[one.by]}: {one.words}" for one in own)

    def _picked(self) -> None:
        chosen = self.chosen
        self._by_player = chosen.words if chosen is not None else ""
        self._preview()

    def _preview(self) -> None:
        one = self.chosen
        self.chart.set_plan(one.plan if one is not None else None)
        if one is not None:
            self.chart.fit_short()
        self.name.setText(one.words[:1].upper() + one.words[1:] if one is not None else "")
        self.ceilings.setText(ceiling_words(self.varied, one) if one is not None and self.varied else "")
        told = change_words(one) if one is not None else []
        first = "; ".join(told[:MOST_TOLD]) + (" …" if len(told) > MOST_TOLD else "")
        self.changes.setText(first[:1].upper() + first[1:])
        self.changes.setToolTip("\n".join(told))
        for button in (self.open, self.work):
            button.setEnabled(one is not None)

    def open_chosen(self) -> None:
        """Open the chosen variation as a riff of its own."""
        if self.chosen is not None:
            self.riff_wanted.emit(self.chosen.riff)

    def work_on_chosen(self) -> None:
        """Practise the chosen variation with every session."""
        if self.chosen is not None:
            self.work_wanted.emit(self.chosen.riff)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Open, or practise."""
        if event is not None and not event.modifiers() and event.key() == Qt.Key.Key_W:
            self.work_on_chosen()
            return
        super().keyPressEvent(event)

    def left(self) -> None:
        """Another page shows."""

    def cancel(self) -> None:
        """Stop varying."""
        self.jobs.cancel()

    def stop(self) -> None:
        """Stop, and wait until no thread is left."""
        self.jobs.stop()


def _asks_the_same(one: Plan, other: Plan) -> bool:
    """Whether two plans are varied alike: the same lick, played the same way by the same hands."""
    asked = [(plan.riff, plan.school, plan.hands, plan.objective, plan.sound) for plan in (one, other)]
    return asked[0] == asked[1] and one.states == other.states


def ceiling_words(varied: Varied, one: Variant) -> str:
    """Each hand's ceiling beside the lick's."""
    lick, own = varied.lick.ceilings, one.ceilings
    hands = (("picking alone", lick.pick, own.pick), ("fretting alone", lick.fret, own.fret))
    told = [
        f"{name} {after:.0f} (the lick {before:.0f})"
        for name, before, after in hands
        if before is not None and after is not None
    ]
    words = ", ".join(told)
    return words[:1].upper() + words[1:]


def change_words(one: Variant) -> list[str]:
    """What each note that is played otherwise changes, with its place."""
    steps = one.plan.task.steps
    return [f"{steps[change.step].moment.place_words}: {change.words}" for change in one.changes]
