"""Text tablature, the signs on a string: frets of one and two digits, and how notes are reached and bent."""

from __future__ import annotations

import re
from dataclasses import dataclass

from dromic.formats.raw import Remarks
from dromic.music.riff import Mark

_FRET = re.compile(r"\d{1,2}")
_REACHED = {"h": Mark.HAMMER, "p": Mark.PULL, "/": Mark.SLIDE, "\\": Mark.SLIDE, "s": Mark.SLIDE}


@dataclass
class Sign:
    """A note on a string.

    Parameters
    ----------
    column, width : int
    fret : int
    marks : set of Mark
    """

    column: int
    width: int
    fret: int
    marks: set[Mark]


def signs_of(text: str, top_fret: int, remarks: Remarks) -> list[Sign]:
    """Read one string's part of a bar.

    Parameters
    ----------
    text : str
    top_fret : int
        Two digits that go beyond it are two notes.
    remarks : Remarks
    """
    found: list[Sign] = []
    waiting: Mark | None = None
    bending = False
    at = 0
    while at < len(text):
        sign = text[at]
        match = _FRET.match(text, at)
        if match is not None:
            number = match[0]
            if len(number) == 2 and (int(number) > top_fret or number[0] == "0"):
                number = number[0]
            fret = int(number)
            if bending and found:
                # 7b9: the second number says how far, and is no note.
                _bend(found[-1], fret - found[-1].fret)
                bending = False
            elif fret > top_fret:
                remarks.add("frets beyond the neck are left out", str(fret))
            else:
                found.append(Sign(at, len(number), fret, {waiting} if waiting is not None else set()))
                waiting = None
            at += len(number)
            continue
        lowered = sign.lower()
        if sign in "xX":
            found.append(Sign(at, 1, found[-1].fret if found else 0, {Mark.DEAD}))
            waiting = None
        elif lowered in _REACHED:
            waiting = _REACHED[lowered] if found else None
            bending = False
        elif lowered == "b" and found:
            _bend(found[-1], 2)
            bending = True
        elif lowered == "r" and found:
            waiting, bending = Mark.RELEASE, False
        elif sign in "~vV" and found:
            found[-1].marks.add(Mark.VIBRATO)
            bending = False
        elif lowered == "t":
            remarks.add("tapped notes are taken as hammered ones")
            waiting = Mark.HAMMER if found else None
        elif sign in "()[]":
            pass
        elif sign in "<>*":
            remarks.add("harmonics are taken as plain notes")
        elif sign in "-–—=. ":
            bending = False
        at += 1
    return found


def _bend(note: Sign, semitones: int) -> None:
    note.marks -= {Mark.BEND_HALF, Mark.BEND_WHOLE}
    note.marks.add(Mark.BEND_HALF if semitones == 1 else Mark.BEND_WHOLE)
