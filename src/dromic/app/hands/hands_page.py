"""The player's hands: sizes, speeds and style options, and what other answers would change."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QSignalBlocker, Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.app.document_jobs import DocumentJobs
from dromic.app.error_text import error_words
from dromic.app.hands.effects import Effect, effects, other_answers
from dromic.app.hands.learn_dialog import LearnDialog
from dromic.app.theme import Theme
from dromic.errors import DromicError, RiffError
from dromic.formats.hands_file import read_hands, write_hands
from dromic.hands.profile import (
    PROFILES,
    Hands,
    Measures,
    measures,
    with_measures,
)
from dromic.hands.style_options import StyleOption, option_value, style_options, with_option
from dromic.planner.plan_settings import OWN_HANDS

PAUSE_MS = 250
_SIZES = (
    ("span", "Span", "spread and stretch against medium hands", 75, 130),
    ("picking", "Picking takes", "time of every stroke against medium hands", 60, 220),
    ("fretting", "Fretting takes", "time of every finger and shift against medium hands", 60, 220),
)


class HandsPage(QWidget):
    """Reads and sets the document's hands.

    Signals
    -------
    told : str
    """

    message = pyqtSignal(str)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self.effects_jobs = DocumentJobs(document, effects, self)
        self.effects_jobs.began.connect(self._begin)
        self.effects_jobs.found.connect(self._take)
        self.effects_jobs.finished.connect(self._end)
        self.effects_jobs.cancelled.connect(self._end)
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(PAUSE_MS)
        self._pause.timeout.connect(self.ask)
        self.profile = QComboBox()
        self.profile.setAccessibleName("Profile")
        for name in (*PROFILES, OWN_HANDS):
            self.profile.addItem(name, name)
        self.sliders: dict[str, QSlider] = {}
        self.figures: dict[str, QLabel] = {}
        self.answers: dict[str, QComboBox] = {}
        self.effects: dict[str, QLabel] = {}
        self._lay_out()
        self.profile.currentIndexChanged.connect(self._profile_chosen)
        document.listen(self._heard)
        self.refresh()

    # -- parts ----------------------------------------------------------------------------------------------

    def _lay_out(self) -> None:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(4, 0, 12, 12)
        column.setSpacing(10)
        column.addLayout(self._top())
        column.addWidget(_named("Span and speed", "heading"))
        column.addLayout(self._sizes())
        column.addWidget(_named("Style options: where players disagree", "heading"))
        line = QHBoxLayout()
        line.addWidget(
            _named("Beside each: what the other answers would make of the riff that is open.", "quiet"), 1
        )
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.progress.setFixedWidth(160)
        self.progress.setAccessibleName("Planning with other answers")
        self.progress.hide()
        line.addWidget(self.progress)
        column.addLayout(line)
        column.addLayout(self._options())
        caution = (
            "A bigger stretch in the model does not make one in the hand. Widen and speed up slowly, warm up "
            "first, and stop at pain; numbness or tingling: see a doctor or a hand therapist."
        )
        column.addWidget(_named(caution, "caution"))
        column.addStretch(1)
        scroll = QScrollArea()
        scroll.setAccessibleName("Hands")
        scroll.setObjectName("bare")
        scroll.setWidgetResizable(True)
        scroll.setWidget(page)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.addWidget(scroll)

    def _top(self) -> QHBoxLayout:
        row = QHBoxLayout()
        label = QLabel("&Profile")
        label.setBuddy(self.profile)
        row.addWidget(label)
        row.addWidget(self.profile)
        self.summary = _named("", "quiet")
        row.addWidget(self.summary, 1)
        for title, do in (("Learn how I play…", self.learn), ("Load…", self.load), ("Save…", self.save)):
            button = QPushButton(title)
            button.clicked.connect(do)
            row.addWidget(button)
        return row

    def _sizes(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setColumnStretch(3, 1)
        for line, (name, title, words, low, high) in enumerate(_SIZES):
            slider = QSlider(Qt.Orientation.Horizontal)
            slider.setRange(low, high)
            slider.setFixedWidth(260)
            slider.setAccessibleName(f"{title}, per cent of medium hands")
            figure = QLabel()
            figure.setFixedWidth(52)
            grid.addWidget(QLabel(title), line, 0)
            grid.addWidget(slider, line, 1)
            grid.addWidget(figure, line, 2)
            grid.addWidget(_named(words, "quiet"), line, 3)
            self.sliders[name], self.figures[name] = slider, figure
            slider.valueChanged.connect(self._measured)
        return grid

    def _options(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setColumnStretch(2, 1)
        grid.setVerticalSpacing(9)
        for line, option in enumerate(style_options()):
            box = QComboBox()
            box.setAccessibleName(option.question)
            box.setToolTip(option.words)
            box.setMinimumWidth(250)
            for words in option.answers.values():
                box.addItem(words)
            effect = _named("", "quiet")
            effect.setWordWrap(True)
            grid.addWidget(QLabel(option.question), line, 0)
            grid.addWidget(box, line, 1)
            grid.addWidget(effect, line, 2)
            self.answers[option.name], self.effects[option.name] = box, effect
            box.currentIndexChanged.connect(lambda _index, one=option: self._answered(one))
        return grid

    # -- what is shown and set ------------------------------------------------------------------------------

    def set_theme(self, theme: Theme) -> None:
        """Nothing to do: all its colours are the style sheet's."""

    def activated(self) -> None:
        """Work out the effects, now that the page shows."""
        self.ask()
        self.profile.setFocus()

    def _heard(self, change: Change) -> None:
        if change in (Change.PLAN_SETTINGS, Change.FILE):
            self.refresh()
        if change in (Change.PLAN_SETTINGS, Change.RIFF, Change.FILE) and self.isVisible():
            self._pause.start()

    def refresh(self) -> None:
        """Show the document's hands."""
        plan_settings, hands = self._document.plan_settings, self._document.plan_settings.player
        widgets = (self.profile, *self.sliders.values(), *self.answers.values())
        blockers = [QSignalBlocker(widget) for widget in widgets]
        self.profile.setCurrentIndex(self.profile.findData(plan_settings.hands))
        own = measures(hands)
        for name, slider in self.sliders.items():
            slider.setValue(round(100 * getattr(own, name)))
            self.figures[name].setText(f"{slider.value()} %")
        for option in style_options():
            self.answers[option.name].setCurrentIndex(list(option.answers).index(option_value(hands, option)))
        widest = hands.fretting.spread_mm[-1] + hands.fretting.stretch_mm
        self.summary.setText(
            f"first to fourth finger {hands.fretting.spread_mm[-1]:.0f} mm at ease, {widest:.0f} at most"
        )
        del blockers

    def _profile_chosen(self) -> None:
        name = self.profile.currentData()
        plan_settings = self._document.plan_settings
        own = plan_settings.own
        if name == OWN_HANDS and own is None:
            own = replace(plan_settings.player, name=OWN_HANDS)
        self._document.set_plan_settings(replace(plan_settings, hands=name, own=own))

    def _take_hands(self, hands: Hands) -> None:
        self._document.set_plan_settings(replace(self._document.plan_settings, hands=OWN_HANDS, own=hands))

    def _measured(self) -> None:
        shares = {name: slider.value() / 100 for name, slider in self.sliders.items()}
        self._take_hands(with_measures(self._document.plan_settings.player, Measures(**shares)))

    def _answered(self, option: StyleOption) -> None:
        value = list(option.answers)[self.answers[option.name].currentIndex()]
        self._take_hands(with_option(self._document.plan_settings.player, option, value))

    # -- effects ----------------------------------------------------------------------------------------------

    def ask(self) -> None:
        """Work out what other answers would change, unless that is known."""
        self._pause.stop()
        self.effects_jobs.refresh()

    def left(self) -> None:
        """Another page shows."""

    def cancel(self) -> None:
        """Stop working out what the answers change."""
        self.effects_jobs.cancel()

    def stop(self) -> None:
        """Cancel, and wait until no thread is left."""
        self._pause.stop()
        self.effects_jobs.stop()

    def _begin(self) -> None:
        for label in self.effects.values():
            label.setText("")
        self.progress.setRange(0, len(other_answers(self._document.plan_settings.player)))
        self.progress.setValue(0)
        self.progress.show()

    def _take(self, effect: Effect) -> None:
        label = self.effects[effect.option.name]
        before = label.text() + "\n" if label.text() else ""
        label.setText(f"{before}{effect.option.answers[effect.value]}: {effect.words}")
        self.progress.setValue(self.progress.value() + 1)

    def _end(self, trouble: DromicError | None = None) -> None:
        self.progress.hide()
        if trouble:
            self.message.emit(error_words(trouble))

    # -- files ------------------------------------------------------------------------------------------------

    def learn(self) -> None:
        """Look for habits in what the player has locked."""
        if self._document.reading is None:
            self.message.emit("Write a riff first, and correct its plan where you play otherwise")
            return
        self.learn_dialog = LearnDialog(self._document, self)
        self.learn_dialog.open()

    def load(self) -> None:
        """Let the player choose a file of hands."""
        name, _ = QFileDialog.getOpenFileName(self, "Load hands", "", "Hands (*.json)")
        if name:
            self._with_file(lambda: self._take_hands(read_hands(Path(name))), f"Loaded {Path(name).name}")

    def save(self) -> None:
        """Save the hands as a file."""
        name, _ = QFileDialog.getSaveFileName(self, "Save hands", "hands.json", "Hands (*.json)")
        if name:
            path = Path(name).with_suffix(".json")
            self._with_file(lambda: write_hands(self._document.plan_settings.player, path), f"Saved as {path.name}")

    def _with_file(self, do: Callable[[], None], done: str) -> None:
        try:
            do()
        except RiffError as error:
            self.message.emit(error_words(error))
        else:
            self.message.emit(done)


def _named(words: str, name: str) -> QLabel:
    label = QLabel(words)
    label.setObjectName(name)
    label.setWordWrap(True)
    return label
