"""Learn from how I play: habits proposed in words, each taken or not; taking them is one step to undo."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from dromic.app.document import Document
from dromic.app.error_text import error_words
from dromic.app.hands.effects import effect_words
from dromic.app.jobs import Jobs, Watch
from dromic.errors import DromicError
from dromic.formats.files import RIFF_SUFFIX, read_riff
from dromic.formats.project import PROJECT_SUFFIX, read_project
from dromic.formats.rifftext.reader import read_riff_text
from dromic.hands.profile import OWN, Hands
from dromic.music.riff import Riff
from dromic.planner.plan_settings import OWN_HANDS
from dromic.planner.planning import plan_riff
from dromic.planner.play_learning import Proposal, proposals, with_weights
from dromic.planner.request import Request

WIDTH = 560
RIFFS = f"Projects and riff text (*{PROJECT_SUFFIX} *{RIFF_SUFFIX})"
EXPLAINED = (
    "Where you have locked a stroke, a place or a finger, you say how you play. From riffs that you have "
    "corrected, Dromic looks for habits behind your choices. Nothing changes before you take it, and Ctrl+Z gives "
    "it back."
)


@dataclass(frozen=True)
class Offer:
    """A proposal with what it would change in the riff that is open."""

    proposal: Proposal
    here: str


def offers(riffs: tuple[Riff, ...], here: Riff, request: Request, watch: Watch) -> Iterator[Offer]:
    """Proposals, each with what it alone would change in a riff.

    Parameters
    ----------
    riffs : tuple of Riff
    here : Riff
    request : Request
    watch : callable
        Called with the share of the work that is done; what it raises ends it.
    """
    request = replace(request, alternatives=0)
    for proposal in proposals(riffs, request, watch):
        try:
            now = plan_riff(here, request)
            other = plan_riff(here, replace(request, hands=with_weights(request.hands, proposal.weights)))
            words = effect_words(now, other)
        except DromicError as error:
            words = f"no plan: {error}"
        yield Offer(proposal, words)


def _riff_of(path: Path) -> Riff:
    """A riff with its player's locks, which riff text and projects keep."""
    if path.suffix == PROJECT_SUFFIX:
        return read_riff_text(read_project(path).text).riff
    return read_riff(path)


class LearnDialog(QDialog):
    """Proposes changes of the player's hands.

    Parameters
    ----------
    document : Document
        Its riff must be readable.
    """

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Learn from how I play")
        self.setMinimumWidth(WIDTH)
        self._document = document
        self._riffs: list[Riff] = [document.current_riff]
        self.offers: list[Offer] = []
        self.boxes: list[QCheckBox] = []
        self._told: list[QLabel] = []
        self.jobs = Jobs(self)
        self.jobs.progressed.connect(lambda share: self.progress.setValue(round(100 * share)))
        self.jobs.found.connect(self._take)
        self.jobs.finished.connect(self._end)
        column = QVBoxLayout(self)
        words = QLabel(EXPLAINED)
        words.setWordWrap(True)
        column.addWidget(words)
        self.files = QListWidget()
        self.files.setAccessibleName("Riffs to learn from")
        self.files.setMaximumHeight(110)
        self.files.addItem(QListWidgetItem(f"{document.current_riff.title or 'Untitled'} (open now)"))
        column.addWidget(self.files)
        row = QHBoxLayout()
        self.add, self.look = QPushButton("Add riffs…"), QPushButton("Look for habits")
        self.add.clicked.connect(self._ask_files)
        self.look.clicked.connect(self.ask)
        self.progress = QProgressBar()
        self.progress.setAccessibleName("Looking for habits")
        self.progress.setTextVisible(False)
        self.progress.hide()
        row.addWidget(self.add)
        row.addWidget(self.look)
        row.addWidget(self.progress, 1)
        row.addStretch(1)
        column.addLayout(row)
        self._found = QVBoxLayout()
        column.addLayout(self._found)
        self.state = QLabel()
        self.state.setObjectName("quiet")
        self.state.setWordWrap(True)
        column.addWidget(self.state)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        self.accept_button = QPushButton("Apply what is ticked")
        self.accept_button.setEnabled(False)
        self.accept_button.clicked.connect(self._accept)
        buttons.addButton(self.accept_button, QDialogButtonBox.ButtonRole.ActionRole)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)

    def _ask_files(self) -> None:
        names, _ = QFileDialog.getOpenFileNames(self, "Riffs to learn from", "", RIFFS)
        self.add_files([Path(name) for name in names])

    def add_files(self, paths: list[Path]) -> None:
        """Learn from the riffs of some files too; one that cannot be read is told."""
        for path in paths:
            try:
                self._riffs.append(_riff_of(path))
            except DromicError as error:
                self.state.setText(error_words(error))
            else:
                self.files.addItem(QListWidgetItem(path.name))

    def ask(self) -> None:
        """Look for habits."""
        self.offers.clear()
        for widget in (*self.boxes, *self._told):
            self._found.removeWidget(widget)
            widget.deleteLater()
        self.boxes.clear()
        self._told.clear()
        self.accept_button.setEnabled(False)
        self.look.setEnabled(False)
        self.progress.show()
        self.state.setText("")
        riffs, here = tuple(self._riffs), self._document.current_riff
        request = self._document.plan_settings.request()
        self.jobs.ask(lambda watch: offers(riffs, here, request, watch))

    def _take(self, offer: Offer) -> None:
        proposal = offer.proposal
        box = QCheckBox(f"{proposal.words[:1].upper()}{proposal.words[1:]}.")
        told = QLabel(
            f"{proposal.agreed} of {proposal.decided} notes that you play otherwise would come out as you play "
            f"them. The open riff: {offer.here}."
        )
        told.setObjectName("quiet")
        told.setWordWrap(True)
        told.setIndent(22)
        box.setChecked(True)
        box.toggled.connect(lambda _on: self.accept_button.setEnabled(any(one.isChecked() for one in self.boxes)))
        self._found.addWidget(box)
        self._found.addWidget(told)
        self.boxes.append(box)
        self._told.append(told)
        self.offers.append(offer)
        self.accept_button.setEnabled(True)

    def _end(self, trouble: DromicError | None) -> None:
        self.progress.hide()
        self.look.setEnabled(True)
        if trouble is not None:
            self.state.setText(error_words(trouble))
        elif not self.offers:
            self.state.setText(
                "No habit stands out. Correct more notes where you play otherwise (1 to 9 lock an alternative), in "
                "several riffs, and look again."
            )

    def _accept(self) -> None:
        settings = self._document.plan_settings
        hands: Hands = settings.player
        for offer, box in zip(self.offers, self.boxes, strict=True):
            if box.isChecked():
                hands = with_weights(hands, offer.proposal.weights)
        self._document.set_plan_settings(replace(settings, hands=OWN_HANDS, own=replace(hands, name=OWN)))
        self.accept()

    def done(self, result: int) -> None:
        """Close; what is under way is given up."""
        self.jobs.stop()
        super().done(result)
