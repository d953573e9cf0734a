"""Which school each phrase of the riff is played by; every change is planned at once."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QComboBox, QDialog, QDialogButtonBox, QFormLayout, QLabel, QVBoxLayout, QWidget

from dromic.app.document import Document
from dromic.app.error_text import error_words
from dromic.errors import DromicError
from dromic.music import phrases
from dromic.music.riff import Phrase
from dromic.schools.registry import SCHOOLS


def phrase_words(number: int, phrase: Phrase) -> str:
    """A phrase in words, its number from 0."""
    times = f", {phrase.times} times" if phrase.times > 1 else ""
    return f"{phrase.name or f'phrase {number + 1}'}{times}"


class PhraseSchoolsDialog(QDialog):
    """Lets every phrase have a school of its own.

    Parameters
    ----------
    document : Document
        Its riff must be readable.
    """

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Schools of phrases")
        self._document = document
        self.choices: list[QComboBox] = []
        column = QVBoxLayout(self)
        words = QLabel(
            "A phrase may be picked by a school of its own; the others follow the school above the chart."
        )
        words.setWordWrap(True)
        column.addWidget(words)
        form = QFormLayout()
        column.addLayout(form)
        reading = document.reading
        for number, phrase in enumerate(reading.riff.phrases if reading is not None else ()):
            box = QComboBox()
            box.addItem("as the riff", "")
            for school in SCHOOLS.values():
                box.addItem(school.title, school.name)
            box.setCurrentIndex(box.findData(phrase.school))
            box.setAccessibleName(f"School of {phrase_words(number, phrase)}")
            box.activated.connect(partial(self._choose, number))
            form.addRow(phrase_words(number, phrase), box)
            self.choices.append(box)
        self.message = QLabel()
        self.message.setObjectName("caution")
        self.message.setWordWrap(True)
        self.message.hide()
        column.addWidget(self.message)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.accept)
        column.addWidget(buttons)

    def _choose(self, number: int, _index: int) -> None:
        school = str(self.choices[number].currentData())
        try:
            riff = phrases.with_phrase_school(self._document.current_riff, number, school)
        except DromicError as error:
            self.message.setText(error_words(error))
            self.message.show()
            return
        self._document.edit(riff, "choosing a phrase's school")
