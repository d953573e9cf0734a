"""The keys and signs that fit the moment: what the board or the text can do where the cursor is."""

from __future__ import annotations

from enum import Enum, auto

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

Lines = tuple[tuple[str, str], ...]


class Moment(Enum):
    """What is being done."""

    EMPTY = auto()
    WRITING = auto()
    NOTE = auto()
    SELECTION = auto()
    TEXT = auto()


_MOVE: Lines = (
    ("arrows", "to another note, to another string"),
    ("Ctrl+Z", "undo; Ctrl+Shift+Z does it again"),
    ("F1", "every key, to be searched"),
)
_WRITE: Lines = (
    ("0 to 24", "a fret on the string of the cursor"),
    ("Shift+A to G", "a pitch; its place is planned"),
    ("r", "a rest"),
    ("/ and 1 2 4 8 6 3", "whole, half … sixteenth, 32nd"),
    (".  T", "dotted, triplet"),
    ("Space", "the same note once more"),
    (";", "run on: every fret goes on by itself"),
)
KEYS = (
    ("0 to 24", "a fret on the string of the cursor"),
    (";", "run on: every fret goes on by itself; ' before a fret of two digits"),
    ("Shift+A to G", "a pitch; its place is planned"),
    ("arrows", "to another note, to another string"),
    ("r", "a rest"),
    ("/ and 1 2 4 8 6 3", "whole, half … sixteenth, 32nd"),
    (".  T, q and 2 to 9", "dotted, triplet, another tuplet (q5: five)"),
    ("m > h p s b R", "palm mute, accent, hammer-on, pull-off, slide, bend, release"),
    ("x v l g t k z", "dead, vibrato, let ring, grace, tie, rake, staccato"),
    ("i o w n a H", "slide in, slide off, trill, natural and pinch harmonic, tap"),
    ("d u, Alt+1 to 4, Alt+T", "lock a down or up, a finger, the thumb over the neck"),
    ("+ −", "a semitone up or down"),
    ("Space", "the same note once more"),
    ("Ins, Del, Backspace", "put in, silence, take out"),
    ("Shift+arrows", "select; Ctrl+C, Ctrl+X, Ctrl+V"),
)
"""Every key of the board, for the list of all keys."""
GUIDE: dict[Moment, tuple[tuple[str, Lines], ...]] = {
    Moment.EMPTY: (
        ("Write the first note", (("0 to 24", "a fret, where the cursor is"), *_WRITE[1:4])),
        ("or", (("click", "a place on the neck below"), ("Ctrl+Shift+V", "paste a tab, ABC or text"))),
        ("", _MOVE[:1]),
    ),
    Moment.WRITING: (("Go on writing", _WRITE), ("", _MOVE)),
    Moment.NOTE: (
        (
            "This note",
            (
                ("m > x", "palm mute, accent, dead"),
                ("h p s b R", "hammer-on, pull-off, slide, bend, release"),
                ("v l z", "vibrato, let ring, staccato"),
                ("g t", "grace note, tie"),
                ("i o k w n a H", "slide in, off, rake, trill, harmonics, tap"),
            ),
        ),
        ("Decide for the plan", (("d u", "a down, an up"), ("Alt+1 to 4", "a finger"), ("Alt+T", "the thumb"))),
        ("Change it", (("+ −", "a semitone up or down"), ("Ins, Del", "put a note in, silence it"), *_WRITE[3:5])),
        ("", _MOVE),
    ),
    Moment.SELECTION: (
        (
            "The selection",
            (
                ("Ctrl+C, X, V", "copy, cut, paste"),
                ("m > h p …", "a mark on all of it"),
                ("+ −", "a semitone up or down"),
                ("Del", "silence it"),
                ("Shift+arrows", "select more or less"),
            ),
        ),
        ("", _MOVE),
    ),
    Moment.TEXT: (
        (
            "Notes",
            (
                ("5:7", "string 5, fret 7"),
                ("C#4", "a pitch; its place is planned"),
                ("(6:6 5:8)", "struck together"),
                ("r", "a rest"),
                ("/8  /8.  /8t", "eighths from here on, dotted, triplet"),
            ),
        ),
        (
            "After a note",
            (
                (".m .> .x", "palm mute, accent, dead"),
                (".h .p .s", "hammer-on, pull-off, slide"),
                (".b1 .b2 .r", "bend half, whole; release"),
                (".g .t .v .l", "grace, tie, vibrato, let ring"),
                ("!d !u @3 ^5", "lock down, up, finger 3, position 5"),
                ("!m !h", "lock plucked by the middle finger, or slurred"),
            ),
        ),
        (
            "Form",
            (
                ("|  [verse]  x3", "bar line, phrase, three times"),
                ("{Am7} {tempo 90}", "a chord, another tempo"),
                ("tempo: 120", "header lines come first"),
                ("F8", "to what cannot be read"),
            ),
        ),
    ),
}


class KeyGuide(QScrollArea):
    """Shows the lines of one moment at a time."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("bare")
        self.setAccessibleName("Keys that fit the moment")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.moment: Moment | None = None
        self.show_moment(Moment.EMPTY)

    def show_moment(self, moment: Moment) -> None:
        """Show what fits."""
        if moment is self.moment:
            return
        self.moment = moment
        page = QWidget()
        rows = QVBoxLayout(page)
        rows.setContentsMargins(4, 4, 6, 6)
        rows.setSpacing(3)
        for title, lines in GUIDE[moment]:
            if title:
                heading = QLabel(title)
                heading.setObjectName("section")
                rows.addWidget(heading)
            else:
                rows.addSpacing(8)
            for sign, words in lines:
                rows.addLayout(_line(sign, words))
        rows.addStretch(1)
        self.setWidget(page)


def _line(sign: str, words: str) -> QHBoxLayout:
    row = QHBoxLayout()
    left, right = QLabel(sign), QLabel(words)
    left.setObjectName("sign")
    left.setTextFormat(Qt.TextFormat.PlainText)
    # As wide as the signs of its neighbours, however large the text is.
    left.setMinimumWidth(left.fontMetrics().averageCharWidth() * (14 if len(sign) < 13 else 18))
    right.setWordWrap(True)
    row.addWidget(left, 0, Qt.AlignmentFlag.AlignTop)
    row.addWidget(right, 1)
    return row
