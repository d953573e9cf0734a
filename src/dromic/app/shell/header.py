"""The header: what is planned, for which tempo, where its ceiling is and what holds it back."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QVBoxLayout, QWidget

from dromic.app.document import Document
from dromic.app.shell.look import set_look
from dromic.music.pitch import pitch_name
from dromic.planner.plan import Plan
from dromic.reports.plan_text import number_words

LEAST_LIMIT_WIDTH, LIMIT_WIDTH, LIMIT_HEIGHT = 170, 330, 38
LEAST_HEIGHT = 48
LEAST_TITLE_WIDTH = 90


def held_back_words(plan: Plan) -> str:
    """What limits the tempo, in one line.

    The first of the limits stands for the others, which are counted.
    """
    if not plan.bottlenecks:
        return "nothing here has to move"
    more = len(plan.bottlenecks) - 1
    return plan.bottlenecks[0].text + (f", and {more} more like it" if more else "")


def instrument_words(plan: Plan) -> str:
    """The instrument and its tuning in a few words."""
    strings = " ".join(pitch_name(midi) for midi in plan.instrument.tuning)
    capo = f", capo {plan.instrument.capo}" if plan.instrument.capo else ""
    return f"{plan.instrument.name}, {strings}{capo}"


def _tempo(ceiling: float | None) -> str:
    return "–" if ceiling is None else f"{ceiling:.0f}"


def _below(ceiling: float | None, tempo: float) -> bool:
    return ceiling is not None and ceiling < tempo


class _Figure(QWidget):
    def __init__(self, name: str) -> None:
        super().__init__()
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(0)
        label = QLabel(name)
        label.setObjectName("quiet")
        self.value = QLabel("–")
        self.value.setObjectName("figure")
        self.value.setAccessibleName(name)
        rows.addWidget(label)
        rows.addWidget(self.value)

    def show_value(self, text: str, *, over: bool = False) -> None:
        self.value.setText(text)
        set_look(self.value, "over", on=over)


class Header(QWidget):
    """Follows the document."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document = document
        row = QHBoxLayout(self)
        row.setContentsMargins(4, 6, 4, 4)
        row.setSpacing(20)
        self.title, self.summary = QLabel(), QLabel()
        self.title.setObjectName("title")
        self.summary.setObjectName("quiet")
        for label in (self.title, self.summary):
            label.setMinimumWidth(LEAST_TITLE_WIDTH)
            label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        titles = QVBoxLayout()
        titles.setSpacing(0)
        titles.addWidget(self.title)
        titles.addWidget(self.summary)
        row.addLayout(titles, 1)
        self.target, self.ceiling = _Figure("target"), _Figure("ceiling")
        row.addWidget(self.target)
        self.pick, self.fret = _Figure("picking alone"), _Figure("fretting alone")
        self.ceiling.setToolTip("The tempo at which a movement of this plan fills all the time there is")
        self.pick.setToolTip("The ceiling, were the picking hand alone to play")
        self.fret.setToolTip("The ceiling, were the fretting hand alone to play")
        for figure in (self.ceiling, self.pick, self.fret):
            row.addWidget(figure)
        held = QVBoxLayout()
        held.setSpacing(2)
        name = self.held_name = QLabel("held back by")
        name.setObjectName("quiet")
        self.limit = QLabel("–")
        self.limit.setObjectName("limit")
        self.limit.setWordWrap(True)
        self.limit.setMinimumWidth(LEAST_LIMIT_WIDTH)
        self.limit.setMaximumWidth(LIMIT_WIDTH)
        self.limit.setMinimumHeight(LIMIT_HEIGHT)
        self.limit.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.limit.setAccessibleName("held back by")
        self.limit.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        held.addWidget(name)
        held.addWidget(self.limit, 1)
        row.addLayout(held, 1)
        document.listen(lambda _change: self.refresh())
        self.refresh()

    def minimumSizeHint(self) -> QSize:
        """Room for the figures; what else there is gives way in a low window."""
        return QSize(super().minimumSizeHint().width(), LEAST_HEIGHT)

    def set_low(self, low: bool) -> None:
        """Take one line less in a low window."""
        self.summary.setHidden(low)
        self.limit.setMinimumHeight(0 if low else LIMIT_HEIGHT)
        self.held_name.setHidden(low)

    def refresh(self) -> None:
        """Show what the document holds."""
        document, plan = self._document, self._document.plan
        riff = document.reading.riff if document.reading is not None else None
        self.title.setText((riff.title if riff is not None else "") or "Untitled")
        self.target.show_value(number_words(document.tempo))
        if plan is None:
            self.summary.setText("not planned yet")
            for figure in (self.ceiling, self.pick, self.fret):
                figure.show_value("–")
            self.limit.setText("–")
            return
        limits = document.plan_settings.limits
        self.summary.setText(f"{instrument_words(plan)}; {limits.words}" if limits else instrument_words(plan))
        self.ceiling.show_value(_tempo(plan.ceiling), over=_below(plan.ceiling, plan.tempo))
        self.pick.show_value(_tempo(plan.ceilings.pick), over=_below(plan.ceilings.pick, plan.tempo))
        self.fret.show_value(_tempo(plan.ceilings.fret), over=_below(plan.ceilings.fret, plan.tempo))
        self.limit.setText(held_back_words(plan))
        self.limit.setToolTip("\n".join(bottleneck.text for bottleneck in plan.bottlenecks[:20]))
