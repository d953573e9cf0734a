"""The reasons panel: why the chosen note is played as it is, and what else could be done."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from dromic.app.document_changes import PriceState
from dromic.app.error_text import error_words
from dromic.app.heat import HOT_FROM
from dromic.app.jobs import Jobs, single
from dromic.app.theme import Theme
from dromic.errors import DromicError
from dromic.hands.picking import PICK
from dromic.hands.terms import spot_words
from dromic.music.riff import stroke_words
from dromic.planner.costs.model import Model
from dromic.planner.plan import Mute, Plan
from dromic.planner.task.step import Step
from dromic.planner.told.plan_harmony import Harmony, harmony_of
from dromic.planner.told.reasons import HandReason, Reason, ToldTerm, model_of, reason_for, stretch_words
from dromic.planner.told.why import Why, why
from dromic.planner.ways import Alternative

PANEL_LEAST, PANEL_WIDTH = 236, 330
KEYED = 9
_HAND_TITLES = {"pick": "Picking hand", "fret": "Fretting hand", "sync": "Both hands at once"}
_SMALLEST_EFFORT = 0.005
PRICES_MS = 120
PRICES_WORDS = {
    PriceState.COMING: "The other ways are being priced…",
    PriceState.CANCELLED: "The alternatives were not priced, as it was cancelled; F5 prices them.",
}


class LoadMeter(QWidget):
    """A thin bar of a load against the limit of 1."""

    def __init__(self, load: float, theme: Theme) -> None:
        super().__init__()
        self._load, self._theme = load, theme
        self.setFixedHeight(9)
        self.setAccessibleName(f"load {load:.2f} of 1")

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Paint the bar, and the limit as a tick."""
        painter = QPainter(self)
        width = self.width() - 2.0
        scale = max(self._load, 1.25)
        painter.fillRect(QRectF(0, 2, width, 5), self._theme.color("faint"))
        painter.fillRect(QRectF(0, 2, width * self._load / scale, 5), self._theme.load(self._load))
        painter.fillRect(QRectF(width / scale - 1, 0, 2, 9), self._theme.color("ink"))


class _Offer(QPushButton):
    """An alternative that a click locks: what it is, what it costs, the ceiling it leaves."""

    def __init__(self, number: int, other: Alternative) -> None:
        super().__init__()
        self.setObjectName("offer")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        key = f"{number}" if number <= KEYED else ""
        price = f"{other.price:+.2f}"
        ceiling = "–" if other.ceiling is None else f"{other.ceiling:.0f}"
        row = QHBoxLayout(self)
        row.setContentsMargins(6, 3, 6, 3)
        row.setSpacing(6)
        for text, name, width in ((key, "key", 16), (_capital(other.words), "plain", 0)):
            label = QLabel(text)
            label.setObjectName(name)
            label.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            if width:
                label.setFixedWidth(width)
                label.setAlignment(Qt.AlignmentFlag.AlignCenter)
            row.addWidget(label, 0 if width else 1)
        for text, width in ((price, 48), (ceiling, 34)):
            label = QLabel(text)
            label.setObjectName("plain")
            label.setFixedWidth(width)
            label.setAlignment(Qt.AlignmentFlag.AlignRight)
            label.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            row.addWidget(label)
        self.setMinimumHeight(27)
        self.setAccessibleName(f"Lock {other.words}: effort {price}, ceiling {ceiling}")
        self.setToolTip("Lock this; the rest of the plan follows" + (f" (key {key})" if key else ""))


class ReasonsPanel(QScrollArea):
    """Shows the reasons of one step of a plan.

    Signals
    -------
    wanted : Alternative
        Another way of playing the note is to be locked.
    kept, lifted : no argument
        The note is to be locked as it is, or its locks lifted.
    """

    wanted = pyqtSignal(object)
    kept = pyqtSignal()
    unlocked = pyqtSignal()

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("bare")
        self.setAccessibleName("Reasons")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._theme = theme
        self._plan: Plan | None = None
        self._model: Model | None = None
        self._harmony: Harmony | None = None
        self._step: int | None = None
        self._prices = PriceState.KNOWN
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.timeout.connect(self._lay_out)
        self._pricing = Jobs(self)
        self._pricing.finished.connect(self._priced)
        self._trouble: DromicError | None = None
        self._lay_out()

    def stop(self) -> None:
        """Wait until no thread prices anything."""
        self._pricing.stop()

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self._theme = theme
        self.show_step(self._plan, self._step, self._prices)

    def show_step(self, plan: Plan | None, step: int | None, prices: PriceState = PriceState.KNOWN) -> None:
        """Show why a step is played as it is, and what else could be done.

        The page is laid out when all else has been painted, and once for several changes at a time; prices that are
        on their way are waited for a little.

        Parameters
        ----------
        plan : Plan or None
        step : int or None
        prices : PriceState
        """
        self._plan, self._step, self._prices = plan, step, prices
        self._pricing.cancel()
        self._trouble = None
        if plan is not None and step is not None and self.prices is not prices:
            event = plan.event_of_step(step)
            self._pricing.ask(single(lambda: event.alternatives))
        self._later.start(PRICES_MS if prices is PriceState.COMING else 0)

    @property
    def prices(self) -> PriceState:
        """Whether the prices of the note that shows are known."""
        if self._plan is None or self._step is None or self._prices is not PriceState.KNOWN:
            return self._prices
        return PriceState.KNOWN if self._plan.event_of_step(self._step).offers_at_once else PriceState.COMING

    def _priced(self, trouble: DromicError | None) -> None:
        self._trouble = trouble
        self._later.start(0)

    def _lay_out(self) -> None:
        plan, step = self._plan, self._step
        if plan is not None:
            self._model, self._harmony = model_of(plan), harmony_of(plan)
        page = QWidget()
        self._rows = QVBoxLayout(page)
        self._rows.setContentsMargins(4, 0, 10, 8)
        self._rows.setSpacing(3)
        if plan is None or step is None or self._model is None:
            self._line("Click a note on the chart, or walk there with the arrow keys.", "quiet")
        else:
            self._fill(plan, step, self._model)
        self._rows.addStretch(1)
        self.setWidget(page)

    def _fill(self, plan: Plan, step: int, model: Model) -> None:
        reason = reason_for(plan, step, model)
        event = plan.event_of_step(step)
        self._line(_capital(reason.where), "heading")
        self._line(_capital(reason.what), "quiet")
        compared = why(plan, step, model) if event.offers_at_once else None
        if compared is not None:
            self._line(compared.words, "plain")
        self._locks(plan, step)
        caution = stretch_words(plan, step, model)
        if caution:
            self._line(caution, "caution")
        if not reason.hands:
            self._line("The first note: both hands start from rest, so there is no movement to weigh.", "plain")
        for hand in reason.hands:
            self._hand(hand)
        if reason.school:
            self._line(plan.school.title, "section")
            for words in dict.fromkeys(reason.school):
                self._line(_capital(words), "plain")
        self._others(self.offers())
        self._efforts(reason, compared)
        self._music(plan, step)
        self._spots(spot_words(event.spots))
        self._mutes(event.mutes)

    def _hand(self, hand: HandReason) -> None:
        self._pair(_HAND_TITLES[hand.kind], f"{hand.needed_ms:.0f} of {hand.gap_ms:.0f} ms", "section")
        self._rows.addWidget(LoadMeter(hand.load, self._theme))
        over = hand.load > HOT_FROM
        self._line(_capital(hand.words) + (", and there is no time for it" if over else ""), "plain")
        for term in hand.terms:
            self._pair(f"    {term.words}", f"{term.amount:.0f} ms", "quiet")

    def _efforts(self, reason: Reason, compared: Why | None) -> None:
        """What the note adds; first of all what the next best choice would not."""
        news = {} if compared is None else {**compared.spared, **compared.paid}
        told = [term for term in reason.efforts if term.amount >= _SMALLEST_EFFORT]
        told.sort(key=lambda term: term.words not in news)
        if not told:
            return
        self._pair("What it adds to the plan's effort", f"{reason.cost:.2f}", "section")
        for term in told:
            self._term(term)

    def _term(self, term: ToldTerm) -> None:
        self._pair(f"    {term.words}", f"{term.amount:.2f}", "quiet")

    def offers(self) -> tuple[Alternative, ...]:
        """What can be locked for the note that shows."""
        if self._plan is None or self._step is None:
            return ()
        event = self._plan.event_of_step(self._step)
        return event.alternatives if event.offers_at_once else ()

    def _locks(self, plan: Plan, step: int) -> None:
        """What the player has decided for the note, with a way to unlock or lock it."""
        words = lock_words(plan.task.steps[step])
        row = QHBoxLayout()
        label = QLabel(f"Locked: {words}" if words else "Nothing locked here")
        label.setObjectName("locked" if words else "quiet")
        label.setWordWrap(True)
        row.addWidget(label, 1)
        button = QPushButton("Unlock" if words else "Lock as planned")
        button.setToolTip("Unlock this note (Backspace)" if words else "Lock this note as it is planned (K)")
        button.clicked.connect(self.unlocked if words else self.kept)
        row.addWidget(button)
        self._rows.addLayout(row)

    def _others(self, others: tuple[Alternative, ...]) -> None:
        if not others:
            if self.prices is not PriceState.KNOWN:
                words = PRICES_WORDS[self.prices] if self._trouble is None else error_words(self._trouble)
                self._line("Alternatives", "section")
                self._line(words, "quiet")
            return
        self._pair("Alternatives", "effort   ceiling", "section")
        for number, other in enumerate(others, start=1):
            offer = _Offer(number, other)
            offer.clicked.connect(lambda _checked=False, one=other: self.wanted.emit(one))
            self._rows.addWidget(offer)

    def _music(self, plan: Plan, step: int) -> None:
        """What the note is in its key and over its chord, and the shape of the neck it is taken from."""
        harmony = self._harmony
        if harmony is None:
            return
        self._line("In the music", "section")
        for note in harmony.notes_of(step):
            self._line(_capital(note.words), "plain")
        shape = harmony.shape_at(step)
        if shape is not None:
            self._line(_capital(shape.words), "quiet")

    def _spots(self, spots: tuple[str, ...]) -> None:
        if spots:
            self._line("What trips hands up here", "section")
            self._line(_capital("; ".join(spots)), "plain")

    def _mutes(self, mutes: tuple[Mute, ...]) -> None:
        if not mutes:
            return
        self._line("What must stay silent", "section")
        by: dict[str, list[int]] = {}
        for mute in mutes:
            care = ", with care: it rang until now" if mute.doubtful else ""
            by.setdefault(mute.by + care, []).append(mute.string)
        for words, strings in by.items():
            noun = "string" if len(strings) == 1 else "strings"
            listed = " and ".join(filter(None, [", ".join(map(str, strings[:-1])), str(strings[-1])]))
            self._line(f"{_capital(noun)} {listed}: {words}", "plain")

    def _line(self, words: str, name: str) -> None:
        label = QLabel(words)
        label.setObjectName(name)
        label.setWordWrap(True)
        self._rows.addWidget(label)

    def _pair(self, words: str, figure: str, name: str) -> None:
        row = QHBoxLayout()
        row.setSpacing(8)
        left, right = QLabel(words), QLabel(figure)
        left.setWordWrap(True)
        left.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        right.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom)
        for label in (left, right):
            label.setObjectName(name)
        row.addWidget(left, 1)
        row.addWidget(right)
        self._rows.addLayout(row)


def lock_words(step: Step) -> str:
    """What the player has decided for a step, in a few words."""
    locks = step.locks
    words = []
    if locks.stroke is not None:
        words.append(f"{locks.stroke} stroke" if locks.stroke in PICK else stroke_words(locks.stroke))
    fingers = sorted({note.locks.finger for note in step.notes if note.locks.finger} | {locks.finger or 0} - {0})
    if fingers:
        words.append(f"finger {' '.join(str(finger) for finger in fingers)}")
    if locks.position is not None:
        words.append(f"hand at fret {locks.position}")
    return ", ".join(words)


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:]
