"""The Material view: scales, arpeggios, strings, rolls and walking lines to choose from, or what serves an aim."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from PyQt6.QtCore import QSignalBlocker, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QProgressBar,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from dromic.app.document import Document
from dromic.app.error_text import error_words
from dromic.app.jobs import Jobs, single
from dromic.app.practice.preview import PiecesView
from dromic.app.shell.plain_list import PlainList
from dromic.app.shell.sliding_row import SlidingRow
from dromic.app.theme import Theme
from dromic.errors import DromicError, RiffError
from dromic.music.chords import Chord, chord_on, parse_chord
from dromic.music.keys import Key, parse_key
from dromic.music.riff import Riff
from dromic.music.scales import FORMULAS
from dromic.music.tones import Tone
from dromic.planner.limits import ANY
from dromic.planner.request import Request
from dromic.planner.told.plan_harmony import key_of
from dromic.practice.material.catalogue import AIMS, Serving, material, serving
from dromic.practice.material.pieces import Asked, Family, Material

LIST_WIDTH, HIGHEST_POSITION = 420, 17
# What each family asks for, by the names of the boxes.
_ASKS = {
    Family.SCALES: ("key", "scale", "position"),
    Family.SEQUENCES: ("key", "scale", "position"),
    Family.ARPEGGIOS: ("chord", "position"),
    Family.CHORDS_OF_KEY: ("key", "scale", "position"),
    Family.FINGERS: ("position",),
    Family.STRING_PAIRS: ("position",),
    Family.STROKES: (),
    Family.ROLLS: ("position",),
    Family.WALKING: ("key", "changes"),
}


@dataclass(frozen=True)
class Listed:
    """All pieces of a family, and the instrument that they are for."""

    pieces: tuple[Material, ...]
    instrument: str


class MaterialPage(PiecesView):
    """Offers material for the instrument of the riff that is open.

    Signals
    -------
    message : str
    """

    message = pyqtSignal(str)

    def __init__(self, document: Document, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(theme, parent)
        self._document = document
        self.pieces: tuple[Material, ...] = ()
        self._known_key = ""
        self.jobs = Jobs(self)
        self.jobs.found.connect(self._take)
        self.jobs.finished.connect(self._end)
        self.jobs.progressed.connect(lambda share: self.progress.setValue(round(100 * share)))
        self.family = QComboBox()
        self.family.setAccessibleName("Material")
        for family in Family:
            self.family.addItem(family.value, family)
        self.key, self.chord, self.changes = QLineEdit("A minor"), QLineEdit("Am7"), QLineEdit()
        self.changes.setPlaceholderText("Dm7 G7 Cmaj7; empty for the key's usual ones")
        self.changes.setMinimumWidth(250)
        self.scale = QComboBox()
        for name in FORMULAS:
            self.scale.addItem(name, name)
        self.scale.setCurrentText("minor")
        self.position = QSpinBox()
        self.position.setRange(1, HIGHEST_POSITION)
        self.position.setValue(5)
        self.position.setPrefix("fret ")
        self.aim = QComboBox()
        self.aim.setAccessibleName("Aim")
        self.aim.addItem("no aim", "")
        for name, aim in AIMS.items():
            self.aim.addItem(aim.words, name)
        self.progress = QProgressBar()
        self.progress.setRange(0, 100)
        self.progress.setTextVisible(False)
        self.progress.setFixedWidth(130)
        self.progress.setAccessibleName("Searching")
        self.progress.hide()
        self.notice = QLabel()
        self.notice.setObjectName("quiet")
        self.notice.setWordWrap(True)
        self.list = PlainList()
        self.list.setAccessibleName("Pieces")
        self.list.setMaximumWidth(LIST_WIDTH)
        self._boxes: dict[str, tuple[QLabel, QWidget]] = {}
        self._build()
        self._connect()
        self._fit()

    def _build(self) -> None:
        choices = QWidget()
        row = QHBoxLayout(choices)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        row.addWidget(self.family)
        for name, words, box in (
            ("key", "Ke&y", self.key),
            ("scale", "S&cale", self.scale),
            ("chord", "C&hord", self.chord),
            ("position", "&Position", self.position),
            ("changes", "Cha&nges", self.changes),
        ):
            label = QLabel(words)
            label.setBuddy(box)
            box.setAccessibleName(words.replace("&", ""))
            self._boxes[name] = label, box
            row.addWidget(label)
            row.addWidget(box)
        label = QLabel("&Train")
        label.setBuddy(self.aim)
        row.addSpacing(10)
        row.addWidget(label)
        row.addWidget(self.aim)
        row.addWidget(self.progress)
        row.addStretch(1)
        self.key.setFixedWidth(120)
        self.chord.setFixedWidth(90)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        rows.addWidget(SlidingRow(choices))
        rows.addWidget(self.notice)
        lower = QHBoxLayout()
        lower.setSpacing(12)
        lower.addWidget(self.list, 2)
        lower.addWidget(self.preview, 3)
        rows.addLayout(lower, 1)

    def _connect(self) -> None:
        self.family.currentIndexChanged.connect(lambda _at: self._family_chosen())
        self.scale.currentIndexChanged.connect(lambda _at: self.refresh())
        self.position.valueChanged.connect(lambda _value: self.refresh())
        self.aim.currentIndexChanged.connect(lambda _at: self.refresh())
        for line in (self.key, self.chord, self.changes):
            line.editingFinished.connect(self.refresh)
        self.list.currentRowChanged.connect(lambda _row: self._show())
        self.list.itemActivated.connect(lambda _item: self.preview.open_it())

    def set_theme(self, theme: Theme) -> None:
        """Change colours."""
        self.preview.set_theme(theme)

    def activated(self) -> None:
        """The view shows: the riff's key is taken over when it is another."""
        reading = self._document.reading
        key = key_of(reading.riff).key if reading is not None else None
        if key is not None and str(key) != self._known_key:
            self._known_key = str(key)
            self.key.setText(str(key))
            self.scale.setCurrentText(key.mode)
            tonic = chord_on(key.scale.tones, 0, 4)
            self.chord.setText(str(tonic) if tonic is not None else "Am7")
        self.refresh()
        self.list.setFocus()

    def _family_chosen(self) -> None:
        blocker = QSignalBlocker(self.aim)
        self.aim.setCurrentIndex(0)
        del blocker
        self._fit()
        self.refresh()

    def _fit(self) -> None:
        """Show what the family asks for."""
        wanted = _ASKS[self.family.currentData()]
        for name, widgets in self._boxes.items():
            for widget in widgets:
                widget.setVisible(name in wanted)

    def _asked(self) -> Asked:
        """What is asked for.

        Raises
        ------
        RiffError
            For words that mean no key or chord.
        """
        reading = self._document.reading
        head = reading.riff if reading is not None else Riff(())
        key = parse_key(self.key.text()) or Key(Tone("A"), "minor")
        if self._shown("key") and parse_key(self.key.text()) is None:
            raise RiffError(
                f"'{self.key.text()}' is no key that is known; write one such as A minor, G or D dorian"
            )
        chord = parse_chord(self.chord.text())
        if chord is None:
            raise RiffError(f"'{self.chord.text()}' means no chord; write one such as Am7 or G7b9")
        changes = self._changes() if self._shown("changes") else ()
        scale = FORMULAS[self.scale.currentData()]
        return Asked(head, key, scale, chord, self.position.value(), changes)

    def _request(self) -> Request:
        """How pieces are planned: as the riff that is open, without prices and limits of the neck."""
        settings = self._document.plan_settings
        return replace(settings.request(), alternatives=0, tempo=None, loop=False, limits=ANY)

    def _shown(self, name: str) -> bool:
        return name in _ASKS[self.family.currentData()]

    def _changes(self) -> tuple[Chord, ...]:
        changes = []
        for word in self.changes.text().replace("|", " ").split():
            chord = parse_chord(word)
            if chord is None:
                raise RiffError(
                    f"'{word}' means no chord; write the changes as chord signs, for example Dm7 G7 Cmaj7"
                )
            changes.append(chord)
        return tuple(changes)

    def refresh(self) -> None:
        """List what is asked for."""
        try:
            asked = self._asked()
            aim = str(self.aim.currentData())
            if aim:
                request = self._request()
                self.notice.setText("Planning pieces to see which serve it best…")
                self.progress.setValue(0)
                self.progress.show()
                self.jobs.ask(lambda watch: iter([serving(aim, asked, request, watch)]))
                return
            self.progress.hide()
            family = self.family.currentData()
            self.jobs.ask(single(lambda: Listed(material(family, asked), asked.instrument.name)))
        except DromicError as error:
            self.jobs.cancel()
            self._end(error)

    def _take(self, found: Listed | tuple[Serving, ...]) -> None:
        if isinstance(found, Listed):
            self.notice.setText(f"{len(found.pieces)} pieces for {found.instrument}, planned like any riff")
            self._list(found.pieces, [piece.name for piece in found.pieces])
            return
        served = found
        names = [f"{one.material.name}: {100 * one.share:.0f} % of its movements" for one in served]
        self.notice.setText(f"To {self._aim_words()}: pieces of all families, those that train it most first")
        self._list([one.material for one in served], names)

    def _aim_words(self) -> str:
        words = self.aim.currentText()
        return words if words.startswith("work ") else f"train {words}"

    def _end(self, trouble: DromicError | None) -> None:
        self.progress.hide()
        if trouble is not None:
            self.notice.setText(error_words(trouble))
            self._list((), ())

    def _list(self, pieces: Sequence[Material], names: Sequence[str]) -> None:
        self.pieces = tuple(pieces)
        blocker = QSignalBlocker(self.list)
        self.list.clear()
        for name in names:
            self.list.addItem(name[:1].upper() + name[1:])
            item = self.list.item(self.list.count() - 1)
            if item is not None:
                item.setToolTip(name)
        if pieces:
            self.list.setCurrentRow(0)
        del blocker
        self._show()

    def _show(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self.pieces):
            one = self.pieces[row]
            name = one.name[:1].upper() + one.name[1:]
            self.preview.show_riff(one.riff, name, self._request())
        else:
            self.preview.show_riff(None)

    def left(self) -> None:
        """Another page shows."""

    def cancel(self) -> None:
        """Stop whatever is being worked out."""
        self.jobs.cancel()
        self.progress.hide()

    def stop(self) -> None:
        """Stop, and wait until no thread is left."""
        self.jobs.stop()
        self.preview.jobs.stop()
