"""The settings bar: school, aim, hands and tempo, each a change away from another plan."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QSignalBlocker, Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QSlider,
    QSpinBox,
    QWidget,
)

from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.formats.rifftext.header import FASTEST, SLOWEST
from dromic.hands.profile import PROFILES
from dromic.music.riff import Style
from dromic.planner.plan import Objective
from dromic.planner.plan_settings import OWN_HANDS
from dromic.schools.registry import SCHOOL_OF_STYLE, SCHOOLS

SLIDER_FROM, SLIDER_TO = 40, 300
LEAST_LETTERS = 5
# With room for fewer letters, what is chosen matters more than what it is called.
ROOMY_LETTERS = 100
_SHARES = {"&School": 5, "Ha&nds": 3, "&Aim": 4, "St&yle": 5}
_AIMS = {str(Objective.EFFORT): "Least effort", str(Objective.TEMPO): "Highest tempo"}


class PlanBar(QWidget):
    """Reads and sets how the document is planned."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self._labels: list[QLabel] = []
        row = QHBoxLayout(self)
        row.setContentsMargins(1, 0, 1, 0)
        row.setSpacing(4)
        self.school = self._choice(row, "&School", {name: school.title for name, school in SCHOOLS.items()})
        for index, school in enumerate(SCHOOLS.values()):
            self.school.setItemData(index, school.words, Qt.ItemDataRole.ToolTipRole)
        self.playing_style = self._choice(
            row, "St&yle", {"": "bluegrass (auto)", **{str(style): style.value for style in Style}}
        )
        self.playing_style.setToolTip(
            "What kind of music this is: it decides about open strings, shifts and damping"
        )
        self.aim = self._choice(row, "&Aim", _AIMS)
        self.hands = self._choice(row, "Ha&nds", {name: name for name in (*PROFILES, OWN_HANDS)})
        self.loop = self._check(row, "As l&oop", "Plan as a loop: the riff goes round, the seam included")
        self.identical = self._check(
            row, "Same re&peats", "Repeats identical: play every repeat of a phrase like the first"
        )
        row.addStretch(1)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(SLIDER_FROM, SLIDER_TO)
        self.slider.setMinimumWidth(16)
        self.slider.setAccessibleName("Tempo slider")
        self.tempo = QSpinBox()
        self.tempo.setRange(int(SLOWEST), int(FASTEST))
        self.tempo.setAccessibleName("Tempo, quarter notes a minute")
        label = QLabel("&Tempo")
        label.setBuddy(self.tempo)
        self.own = QPushButton("Riff tempo")
        self.own.setMinimumWidth(80)
        self.own.setToolTip("Plan at the tempo that the riff's own text gives")
        for widget in (label, self.slider, self.tempo, self.own):
            row.addWidget(widget)
        self.school.currentIndexChanged.connect(self._wished)
        self.playing_style.currentIndexChanged.connect(self._style_wished)
        self.aim.currentIndexChanged.connect(self._wished)
        self.hands.currentIndexChanged.connect(self._wished)
        self.slider.valueChanged.connect(self._tempo_wished)
        self.tempo.valueChanged.connect(self._tempo_wished)
        self.own.clicked.connect(lambda: document.set_plan_settings(replace(document.plan_settings, tempo=None)))
        document.listen(self._heard)
        self.refresh()

    def _check(self, row: QHBoxLayout, name: str, hint: str) -> QCheckBox:
        box = QCheckBox(name)
        box.setToolTip(hint)
        box.toggled.connect(self._wished)
        row.addWidget(box)
        return box

    def _choice(self, row: QHBoxLayout, name: str, items: dict[str, str]) -> QComboBox:
        box = QComboBox()
        for key, title in items.items():
            box.addItem(title, key)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(LEAST_LETTERS)
        box.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        box.setAccessibleName(name.replace("&", ""))
        if name not in ("&Aim", "St&yle"):
            # What aim and style are says itself.
            label = QLabel(name)
            label.setBuddy(box)
            row.addWidget(label)
            self._labels.append(label)
        row.addWidget(box, _SHARES[name])
        return box

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Leave out what can be done without where there is little room."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        narrow = self.width() < ROOMY_LETTERS * self.school.fontMetrics().horizontalAdvance("0")
        for widget in (*self._labels, self.slider):
            widget.setHidden(narrow)
        self.own.setHidden(narrow and not self.own.isEnabled())

    def _heard(self, change: Change) -> None:
        if change in (Change.PLAN_SETTINGS, Change.RIFF, Change.FILE, Change.PLAN):
            self.refresh()

    def refresh(self) -> None:
        """Show how the document is planned."""
        plan_settings, tempo = self._document.plan_settings, round(self._document.tempo)
        widgets = (
            self.school,
            self.playing_style,
            self.aim,
            self.hands,
            self.slider,
            self.tempo,
            self.loop,
            self.identical,
        )
        blockers = [QSignalBlocker(widget) for widget in widgets]
        self.school.setCurrentIndex(self.school.findData(plan_settings.school))
        self.playing_style.setItemText(0, self._told_style_words())
        self.playing_style.setCurrentIndex(self.playing_style.findData(str(plan_settings.style or "")))
        self.aim.setCurrentIndex(self.aim.findData(str(plan_settings.objective)))
        self.hands.setCurrentIndex(self.hands.findData(plan_settings.hands))
        self.loop.setChecked(plan_settings.loop)
        self.identical.setChecked(plan_settings.identical_repeats)
        self.slider.setValue(tempo)
        self.tempo.setValue(tempo)
        self.own.setEnabled(plan_settings.tempo is not None)
        self._fit()
        self.school.setToolTip(SCHOOLS[plan_settings.school].words)
        del blockers

    def _told_style_words(self) -> str:
        """The style that was taken where none is chosen here, and whether riff or hands say it."""
        plan = self._document.plan
        if plan is None or self._document.plan_settings.style is not None:
            return "auto"
        return f"{plan.sound.style} (chosen)" if plan.style_said else f"{plan.sound.style} (auto)"

    def _style_wished(self) -> None:
        """Take a style, and the school that it is mostly picked with."""
        name = self.playing_style.currentData()
        settings = replace(self._document.plan_settings, style=Style(name) if name else None)
        if settings.style is not None:
            settings = replace(settings, school=SCHOOL_OF_STYLE[settings.style])
        self._document.set_plan_settings(settings)

    def _wished(self) -> None:
        plan_settings, hands = self._document.plan_settings, self.hands.currentData()
        own = plan_settings.own
        if hands == OWN_HANDS and own is None:
            own = replace(plan_settings.player, name=OWN_HANDS)
        self._document.set_plan_settings(
            replace(
                plan_settings,
                school=self.school.currentData(),
                objective=Objective(self.aim.currentData()),
                hands=hands,
                own=own,
                loop=self.loop.isChecked(),
                identical_repeats=self.identical.isChecked(),
            )
        )

    def _tempo_wished(self, tempo: int) -> None:
        self._document.set_plan_settings(replace(self._document.plan_settings, tempo=float(tempo)))
