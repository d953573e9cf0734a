"""The setup bar: instrument, tuning, capo, metre, swing, gain and tempo, written into the riff's header."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from typing import Any

from PyQt6.QtCore import QSignalBlocker, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QDoubleSpinBox,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSpinBox,
    QWidget,
)

from dromic.app.document import Document
from dromic.app.document_changes import Change
from dromic.app.error_text import error_words
from dromic.errors import DromicError, RiffError
from dromic.formats.rifftext.header import FASTEST, SIZES, SLOWEST, read_meter, read_swing
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.instrument.presets import PRESETS, TUNING_NAMES, instrument_for
from dromic.music.riff import Gain

METERS = ("4/4", "3/4", "2/4", "2/2", "5/4", "6/8", "7/8", "9/8", "12/8")
SWINGS = {"straight": "off", "swing 2:1": "2:1", "swing 3:2": "3:2", "swung 16ths": "16 2:1"}
MOST_CAPO = 12
OWN_TUNING = "own tuning"


class SetupBar(QWidget):
    """Reads and sets the header of the document's riff.

    Signals
    -------
    told : str
        Why a change could not be made.
    """

    message = pyqtSignal(str)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document = document
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        self.instrument = self._choice(row, "", list(PRESETS), "Instrument")
        self.tuning = self._choice(row, "Tuning", [*TUNING_NAMES, OWN_TUNING])
        self.capo = self._number(row, "Capo", 0, MOST_CAPO)
        self.meter = self._choice(row, "", METERS, "Metre")
        self.swing = self._choice(row, "", list(SWINGS), "Swing")
        self.gain = self._choice(row, "Gain", tuple(Gain))
        self.tempo = self._number(row, "Tempo", int(SLOWEST), int(FASTEST))
        self.sizes = QPushButton("Dimensions…")
        self.sizes.setToolTip("Scale length and string spacing of an instrument of your own")
        self.sizes.clicked.connect(self.ask_sizes)
        row.addWidget(self.sizes)
        row.addStretch(1)
        self.instrument.activated.connect(lambda: self._set("instrument", self.instrument.currentText()))
        self.tuning.activated.connect(self._tuned)
        self.meter.activated.connect(lambda: self._set("meter", read_meter(self.meter.currentText())))
        self.swing.activated.connect(lambda: self._set("swing", read_swing(SWINGS[self.swing.currentText()])))
        self.gain.activated.connect(lambda: self._set("gain", self.gain.currentText()))
        self.capo.valueChanged.connect(lambda value: self._set("capo", value))
        self.tempo.valueChanged.connect(lambda value: self._set("tempo", float(value)))
        document.listen(self._heard)

    def _choice(self, row: QHBoxLayout, name: str, items: Iterable[str], hint: str = "") -> QComboBox:
        box = QComboBox()
        box.addItems(list(items))
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(5)
        box.setToolTip(hint)
        box.setAccessibleName(hint)
        self._label(row, name, box)
        return box

    def _number(self, row: QHBoxLayout, name: str, low: int, high: int) -> QSpinBox:
        box = QSpinBox()
        box.setRange(low, high)
        box.setKeyboardTracking(False)
        self._label(row, name, box)
        return box

    def _label(self, row: QHBoxLayout, name: str, widget: QWidget) -> None:
        if name:
            label = QLabel(name)
            label.setObjectName("quiet")
            row.addWidget(label)
            widget.setAccessibleName(name)
        row.addWidget(widget)

    def _heard(self, change: Change) -> None:
        if change in (Change.RIFF, Change.FILE):
            self.refresh()

    def refresh(self) -> None:
        """Show the riff's header."""
        reading = self._document.reading
        if reading is None:
            return
        riff = reading.riff
        widgets = (self.instrument, self.tuning, self.capo, self.meter, self.swing, self.gain, self.tempo)
        blockers = [QSignalBlocker(widget) for widget in widgets]
        self.instrument.setCurrentText(riff.instrument)
        named = riff.tuning or TUNING_NAMES[0]
        self.tuning.setCurrentText(named if named in TUNING_NAMES else OWN_TUNING)
        self.capo.setValue(riff.capo)
        _show(self.meter, str(riff.meter))
        words = "off" if riff.swing.straight else str(riff.swing)
        _show(self.swing, next((title for title, text in SWINGS.items() if text == words), words))
        self.gain.setCurrentText(riff.gain)
        self.tempo.setValue(round(riff.tempo))
        del blockers

    def ask_sizes(self) -> None:
        """Let the player give sizes of an instrument of their own."""
        reading = self._document.reading
        if reading is None:
            return
        instrument = instrument_for(reading.riff)
        sizes = {"scale": instrument.scale_mm, "nut": instrument.nut_mm, "bridge": instrument.bridge_mm}
        self.dialog = SizesDialog(sizes, self)
        self.dialog.accepted.connect(lambda: self._change(self.dialog.changes(), "changing the dimensions"))
        self.dialog.open()

    def _tuned(self) -> None:
        name = self.tuning.currentText()
        if name == OWN_TUNING:
            self.message.emit("Write a tuning of your own in the text, for example 'tuning: D2 A2 D3 G3 B3 D4'")
            self.refresh()
            return
        self._set("tuning", "" if name == TUNING_NAMES[0] else name)

    def _set(self, key: str, value: Any) -> None:
        self._change({key: value}, f"changing the {key}")

    def _change(self, changes: Mapping[str, Any], words: str) -> None:
        document = self._document

        def change() -> None:
            if document.reading is None or document.text_error is not None:
                raise RiffError("the text cannot be read just now; correct it first (F8 goes there)")
            text = write_riff_text(replace(document.reading.riff, **changes))
            # A riff that does not fit the new header is refused here, where the reason can be told.
            read_riff_text(text)
            document.set_text(text, words)

        self._try(change)

    def _try(self, do: Callable[[], None]) -> None:
        try:
            do()
        except DromicError as error:
            self.message.emit(error_words(error))
            self.refresh()


_SIZE_WORDS = {
    "scale": "Scale length, nut to bridge",
    "nut": "Thickest to thinnest string at the nut",
    "bridge": "Thickest to thinnest string at the bridge",
}


class SizesDialog(QDialog):
    """Scale length and string spacing in millimetres."""

    def __init__(self, sizes: Mapping[str, float], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Dimensions of the instrument")
        self._before = dict(sizes)
        self.boxes: dict[str, QDoubleSpinBox] = {}
        form = QFormLayout(self)
        for name, words in _SIZE_WORDS.items():
            box = QDoubleSpinBox()
            box.setRange(*SIZES[name])
            box.setDecimals(1)
            box.setSuffix(" mm")
            box.setValue(sizes[name])
            form.addRow(words, box)
            self.boxes[name] = box
        buttons = QDialogButtonBox.StandardButton
        row = QDialogButtonBox(buttons.Ok | buttons.Cancel)
        row.accepted.connect(self.accept)
        row.rejected.connect(self.reject)
        form.addRow(row)

    def changes(self) -> dict[str, float]:
        """Sizes that are not as before."""
        return {
            name: round(box.value(), 1)
            for name, box in self.boxes.items()
            if abs(box.value() - self._before[name]) > 0.04
        }


def _show(box: QComboBox, text: str) -> None:
    """Show a value, adding it to the list when it is none of those offered."""
    if box.findText(text) < 0:
        box.addItem(text)
    box.setCurrentText(text)
