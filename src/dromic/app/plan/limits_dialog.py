"""Limits for the plan: a region of the neck, a span, strings; every change is planned at once."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QSignalBlocker
from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from dromic.app.document import Document
from dromic.app.error_text import error_words
from dromic.instrument.presets import instrument_for
from dromic.planner.limits import ANY, HIGHEST_FRET, Limits

WIDEST_SPAN = 8


class LimitsDialog(QDialog):
    """Asks which part of the neck a plan may use.

    Parameters
    ----------
    document : Document
        Its riff must be readable.
    """

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Limits of the plan")
        self._document = document
        reading = document.reading
        instrument = None if reading is None else instrument_for(reading.riff)
        self._top = HIGHEST_FRET if instrument is None else instrument.top_fret
        column = QVBoxLayout(self)
        words = QLabel("The best plan is looked for among those that keep within these limits.")
        words.setWordWrap(True)
        column.addWidget(words)
        form = QFormLayout()
        column.addLayout(form)
        self.low, self.high = self._number(0, self._top, "Lowest fret"), self._number(0, self._top, "Highest fret")
        form.addRow("Between frets", _beside(self.low, QLabel("and"), self.high))
        self.span = self._number(0, WIDEST_SPAN, "Frets in a position")
        self.span.setSpecialValueText("any")
        form.addRow("Frets in a position", self.span)
        self.strings = [self._check(str(number), f"String {number}") for number in range(1, self._strings() + 1)]
        form.addRow("On the strings", _beside(*self.strings))
        self.open_strings = self._check("Open strings", "Open strings")
        self.per_fret = self._check("One finger a fret", "One finger a fret")
        form.addRow("", self.open_strings)
        form.addRow("", self.per_fret)
        self.state = QLabel()
        self.state.setObjectName("quiet")
        self.state.setWordWrap(True)
        self.state.setMinimumWidth(380)
        column.addWidget(self.state)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        self.none = QPushButton("No limits")
        buttons.addButton(self.none, QDialogButtonBox.ButtonRole.ResetRole)
        self.none.clicked.connect(lambda: self._take(ANY))
        buttons.rejected.connect(self.accept)
        column.addWidget(buttons)
        self._show()
        document.listen(self._heard)

    def _strings(self) -> int:
        reading = self._document.reading
        return 6 if reading is None else instrument_for(reading.riff).strings

    def _number(self, low: int, high: int, name: str) -> QSpinBox:
        box = QSpinBox()
        box.setRange(low, high)
        box.setAccessibleName(name)
        box.valueChanged.connect(self._wished)
        return box

    def _check(self, text: str, name: str) -> QCheckBox:
        box = QCheckBox(text)
        box.setAccessibleName(name)
        box.toggled.connect(self._wished)
        return box

    def _heard(self, _change: object) -> None:
        if self.isVisible():
            self._show()

    def _show(self) -> None:
        limits = self._document.plan_settings.limits
        widgets: tuple[QWidget, ...] = (
            self.low,
            self.high,
            self.span,
            self.open_strings,
            self.per_fret,
            *self.strings,
        )
        blockers = [QSignalBlocker(widget) for widget in widgets]
        self.low.setValue(limits.low)
        self.high.setValue(min(limits.high, self._top))
        self.span.setValue(limits.span or 0)
        self.open_strings.setChecked(limits.open_strings)
        self.per_fret.setChecked(limits.finger_per_fret)
        for number, box in enumerate(self.strings, start=1):
            box.setChecked(limits.strings is None or number in limits.strings)
        self.none.setEnabled(bool(limits))
        trouble = self._document.refusal
        words = f"In force: {limits.words}." if limits else "No limits."
        self.state.setText(error_words(trouble) if limits and trouble is not None else words)
        del blockers

    def _wished(self) -> None:
        strings = frozenset(number for number, box in enumerate(self.strings, start=1) if box.isChecked())
        high = self.high.value()
        limits = Limits(
            low=min(self.low.value(), high),
            high=HIGHEST_FRET if high == self._top else high,
            span=self.span.value() or None,
            open_strings=self.open_strings.isChecked(),
            strings=None if len(strings) in (0, len(self.strings)) else strings,
            finger_per_fret=self.per_fret.isChecked(),
        )
        self._take(limits)

    def _take(self, limits: Limits) -> None:
        self._document.set_plan_settings(replace(self._document.plan_settings, limits=limits))
        self._show()


def _beside(*widgets: QWidget) -> QWidget:
    whole = QWidget()
    row = QHBoxLayout(whole)
    row.setContentsMargins(0, 0, 0, 0)
    for widget in widgets:
        row.addWidget(widget)
    row.addStretch(1)
    return whole
