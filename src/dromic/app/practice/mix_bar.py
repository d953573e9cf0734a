"""Volumes of instrument, metronome, count-in and drone, and what the metronome clicks."""

from __future__ import annotations

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QLabel, QSlider, QWidget

from dromic.app.settings import Settings
from dromic.listening.sound.extent import Metronome, Mix

PARTS = (("voice", "&Instrument"), ("click", "Clic&k"), ("count_in", "C&ount-in"), ("drone", "D&rone"))
SUBDIVISIONS = ((1, "1 a beat"), (2, "2 a beat"), (3, "3 a beat"), (4, "4 a beat"))
SWINGS = ((50, "even"), (60, "light swing"), (67, "swing"), (75, "hard swing"))


class MixBar(QWidget):
    """Sliders and choices.

    Signals
    -------
    changed : no argument
    """

    changed = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        row = QHBoxLayout(self)
        row.setContentsMargins(4, 0, 4, 0)
        row.setSpacing(8)
        self.sliders: dict[str, QSlider] = {}
        for name, words in PARTS:
            slider = QSlider(Qt.Orientation.Horizontal)
            slider.setRange(0, 150)
            slider.setPageStep(25)
            slider.setMinimumWidth(50)
            slider.setMaximumWidth(110)
            slider.setAccessibleName(f"Volume of the {words.replace('&', '').lower()}")
            slider.valueChanged.connect(self.changed)
            label = QLabel(words)
            label.setBuddy(slider)
            row.addWidget(label)
            row.addWidget(slider)
            self.sliders[name] = slider
        self.subdivision = self._choice("Clicks a beat", SUBDIVISIONS)
        self.swing = self._choice("Swing of the clicks", SWINGS)
        self.accents = QCheckBox("Accent on &one")
        self.accents.toggled.connect(self.changed)
        for widget in (self.subdivision, self.swing, self.accents):
            row.addWidget(widget)
        row.addStretch(1)
        self.subdivision.currentIndexChanged.connect(self._fit)
        self.take(Settings())

    def _choice(self, name: str, choices: tuple[tuple[int, str], ...]) -> QComboBox:
        box = QComboBox()
        for value, words in choices:
            box.addItem(words, value)
        box.setAccessibleName(name)
        box.setToolTip(name)
        box.currentIndexChanged.connect(self.changed)
        return box

    def _fit(self) -> None:
        self.swing.setEnabled(self.subdivision.currentData() in (2, 4))

    @property
    def mix(self) -> Mix:
        """The volumes as they are set."""
        return Mix(**{name: slider.value() / 100.0 for name, slider in self.sliders.items()})

    @property
    def metronome(self) -> Metronome:
        """What is clicked."""
        swing = self.swing.currentData() / 100.0 if self.swing.isEnabled() else 0.5
        return Metronome(self.subdivision.currentData(), self.accents.isChecked(), swing)

    def take(self, settings: Settings) -> None:
        """Show what the settings say."""
        widgets = (*self.sliders.values(), self.subdivision, self.swing, self.accents)
        blockers = [QSignalBlocker(widget) for widget in widgets]
        for name, slider in self.sliders.items():
            slider.setValue(getattr(settings, f"volume_{name}"))
        for box, value in ((self.subdivision, settings.clicks_a_beat), (self.swing, settings.click_swing)):
            box.setCurrentIndex(max(box.findData(value), 0))
        self.accents.setChecked(settings.click_accents)
        del blockers
        self._fit()

    @property
    def as_settings(self) -> dict[str, object]:
        """What is to be remembered."""
        return {
            **{f"volume_{name}": slider.value() for name, slider in self.sliders.items()},
            "clicks_a_beat": self.subdivision.currentData(),
            "click_swing": self.swing.currentData(),
            "click_accents": self.accents.isChecked(),
        }
