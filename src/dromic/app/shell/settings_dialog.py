"""The settings in one place; a change is in force, and kept, at once."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from dromic.app.settings import SIZES, TEXT_SIZES, Settings, preferences
from dromic.app.shell.preferences import Preferences
from dromic.schools.registry import SCHOOLS

_THEMES = (("light", "Light"), ("dark", "Dark"))
_STRINGS = ((True, "thick string on top, as they hang"), (False, "thin string on top, as on a page"))


class SettingsDialog(QDialog):
    """Shows and changes the settings."""

    def __init__(self, preferences: Preferences, where: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Settings")
        self._preferences = preferences
        self._rows = QFormLayout()
        self._rows.setHorizontalSpacing(18)
        self._rows.setVerticalSpacing(8)
        self.boxes: dict[str, QCheckBox] = {}
        self.choices: dict[str, QComboBox] = {}
        self._section("Looks")
        self._choice("theme", "Theme", _THEMES)
        self._choice("chart_size", "Chart and neck", [(size, f"{100 * size:.0f} %") for size in SIZES])
        self._choice("text_size", "Text", [(size, f"{100 * size:.0f} %") for size in TEXT_SIZES])
        self._section("What you see")
        self._choice("thick_on_top", "Strings", _STRINGS)
        self._box("left_handed", "Left-handed: the nut of the neck on the right")
        self._box("neck", "The neck with both hands, under the chart")
        self._box("mutes", "The muting lane")
        self._box("harmony", "The harmony lane: chords and degrees")
        self._section("Playing")
        self._box("around", "Loop")
        self._box("click", "Click on every beat")
        self._box("count_in", "Count-in of a bar")
        self._section("New riffs")
        self._choice("school", "School", [(name, school.title) for name, school in SCHOOLS.items()])
        self._section("On this computer")
        self.forget = QPushButton("Forget recent files")
        self.forget.clicked.connect(self._forget)
        self.welcome = QPushButton("Show the first steps again")
        self.welcome.clicked.connect(self._welcome)
        self.usual = QPushButton("Reset to defaults")
        self.usual.setToolTip("Your own hands and recent files stay")
        self.usual.clicked.connect(self._back)
        kept = QHBoxLayout()
        for button in (self.forget, self.welcome, self.usual):
            kept.addWidget(button)
        self._rows.addRow(kept)
        place = QLabel(f"in {where}")
        place.setObjectName("quiet")
        place.setWordWrap(True)
        self._rows.addRow(place)
        end = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        end.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addLayout(self._rows)
        column.addWidget(end)
        self._show()

    def _section(self, title: str) -> None:
        label = QLabel(title)
        label.setObjectName("section")
        self._rows.addRow(label)

    def _choice(self, name: str, title: str, options: Iterable[tuple[object, str]]) -> None:
        box = QComboBox()
        box.setAccessibleName(title)
        for value, words in options:
            box.addItem(words, value)
        box.currentIndexChanged.connect(lambda _index: self._preferences.prefer(**{name: box.currentData()}))
        self.choices[name] = box
        self._rows.addRow(title, box)

    def _box(self, name: str, title: str) -> None:
        box = QCheckBox(title)
        box.toggled.connect(lambda on: self._preferences.prefer(**{name: on}))
        self.boxes[name] = box
        self._rows.addRow("", box)

    def _show(self) -> None:
        """Show what is in force, without changing it."""
        settings = self._preferences.settings
        for name, box in self.boxes.items():
            box.blockSignals(True)
            box.setChecked(getattr(settings, name))
            box.blockSignals(False)
        for name, choice in self.choices.items():
            choice.blockSignals(True)
            choice.setCurrentIndex(choice.findData(getattr(settings, name)))
            choice.blockSignals(False)
        self.forget.setEnabled(bool(settings.recent))
        self.welcome.setEnabled(settings.welcomed or bool(settings.hints_read))

    def _forget(self) -> None:
        self._preferences.prefer(recent=())
        self._show()

    def _welcome(self) -> None:
        self._preferences.prefer(welcomed=False, hints_read=())
        self._show()

    def _back(self) -> None:
        usual = Settings()
        self._preferences.prefer(**{name: getattr(usual, name) for name in preferences()})
        self._show()
