"""Text tablature, the notes of a bar and what the rows above and below the strings say of them."""

from __future__ import annotations

import re
from bisect import bisect_left, bisect_right
from dataclasses import dataclass, field
from fractions import Fraction

from dromic.formats.tab.page import SIGN, Row
from dromic.formats.tab.signs import Sign
from dromic.formats.tab.writer import GRACE, TIED
from dromic.music.rhythm import Meter, NoteValue, parse_value
from dromic.music.riff import HARMONIC_RISE, Mark, Stroke, without_rivals

_LETTERS = {"w": "1", "h": "2", "q": "4", "e": "8", "s": "16", "t": "32"}
# A row of counts may stand so many columns beside its notes.
COUNT_ASIDE = 3


@dataclass
class Slot:
    """Notes that stand in one column of a bar."""

    column: int
    width: int
    notes: list[tuple[int, Sign]] = field(default_factory=list)
    stroke: Stroke | None = None
    finger: int | None = None
    rhythm: str = ""
    beat: Fraction | None = None
    marks: set[Mark] = field(default_factory=set)


@dataclass(frozen=True)
class Noted:
    """Slots that have notes, and their columns, in order."""

    slots: list[Slot]
    columns: list[int]

    def near(self, column: int, reach: int) -> list[Slot]:
        """Those at most so many columns away."""
        return self.slots[bisect_left(self.columns, column - reach) : bisect_right(self.columns, column + reach)]


def with_notes(slots: list[Slot]) -> Noted:
    """Slots with notes, to be looked up by their columns."""
    found = [slot for slot in slots if slot.notes]
    return Noted(found, [slot.column for slot in found])


def may_join(one: Slot, other: Slot) -> bool:
    """Whether notes one column aside may be one chord: one of the two is, and no string has two notes."""
    strings = [string for string, _ in (*one.notes, *other.notes)]
    return max(len(one.notes), len(other.notes)) > 1 and len(set(strings)) == len(strings)


def say(slots: list[Slot], row: Row, at: int, width: int) -> bool:
    """Give notes the signs that stand over them, one column off at most; whether some stand over none.

    Parameters
    ----------
    slots : list of Slot
    row : Row
    at, width : int
    """
    lost, noted = False, with_notes(slots)
    for match in SIGN.finditer(row.text, at, at + width + 1):
        near = noted.near(match.start() - at, 1)
        if not near or match.lastgroup is None:
            lost = True
            continue
        mark, place = _OF_SIGNS[match.lastgroup], match.start() - at
        slot = min(near, key=lambda one: (abs(one.column - place), not _may_have(one, mark)))
        if mark is Mark.HARMONIC and not all(sign.fret in HARMONIC_RISE for _, sign in slot.notes):
            mark = Mark.PINCH
        slot.marks.add(mark)
    return lost


def _may_have(slot: Slot, mark: Mark) -> bool:
    """Whether the notes can have a mark beside those that they have."""
    return all(mark in without_rivals({*sign.marks, mark}) for _, sign in slot.notes)


_OF_SIGNS = {
    "pinch": Mark.PINCH,
    "natural": Mark.HARMONIC,
    "tap": Mark.TAP,
    "accent": Mark.ACCENT,
    "vibrato": Mark.VIBRATO,
    "short": Mark.STACCATO,
}


def count(slots: list[Slot], beats: list[tuple[int, Fraction]]) -> None:
    """Give notes the beats that are counted in their columns; the whole row may stand some columns aside."""
    noted, places = with_notes(slots), [place for place, _ in beats]
    for shift in sorted(range(-COUNT_ASIDE, COUNT_ASIDE + 1), key=abs):
        reach = 0 if shift else 1
        near = [
            beats[bisect_left(places, place + shift - reach) : bisect_right(places, place + shift + reach)]
            for place in noted.columns
        ]
        if all(near):
            for slot, found in zip(noted.slots, near, strict=True):
                slot.beat = found[0][1]
            return


def in_turn(slots: list[Slot], row: str, meter: Meter) -> None:
    """Give the notes of a bar the lengths of a row in turn, where those do not stand over them but fill the bar.

    Parameters
    ----------
    slots : list of Slot
    row : str
    meter : Meter
    """
    words = row.split()
    values = [value_in(word.lstrip(GRACE + TIED)) for word in words]
    if all(slot.rhythm for slot in slots) or len(words) != len(slots):
        return
    if sum((value.quarters for value in values if value is not None), Fraction(0)) == meter.bar:
        for slot, word in zip(slots, words, strict=True):
            slot.rhythm = word


def words_of(match: re.Match[str], kind: str) -> list[tuple[int, str]]:
    """A token of a row with its column; strokes and fingers may be typed without blanks between them."""
    if kind == "rhythm":
        return [(match.start(), match[0])]
    return [(match.start() + number, sign) for number, sign in enumerate(match[0])]


def stroke_signs(row: str) -> dict[str, Stroke]:
    """Which signs mean which stroke: v is an up-bow beside n, and a down arrow beside ^."""
    down, up = Stroke.DOWN, Stroke.UP
    signs = dict.fromkeys("dDnN⊓∏Π", down) | dict.fromkeys("uU∨", up)
    signs |= {"i": Stroke.INDEX, "m": Stroke.MIDDLE, "a": Stroke.RING, "c": Stroke.LITTLE, "t": Stroke.CHORD_PLUCK}
    arrows = "^" in row
    return signs | {"v": down if arrows else up, "V": down if arrows else up, "^": up}


def value_in(word: str) -> NoteValue | None:
    """The note value that a word of a rhythm row says; None for another word."""
    if not word:
        return None
    text = word.strip("+|").lower()
    if text[:1] in _LETTERS:
        text = _LETTERS[text[0]] + text[1:]
    return parse_value(text)
