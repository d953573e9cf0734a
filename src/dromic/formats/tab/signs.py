"""Text tablature, the signs on a string: frets of one and two digits, and how notes are reached, bent and left."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field

from dromic.formats.reading.raw import Remarks
from dromic.music.riff import HARMONIC_RISE, Mark, without_rivals

_FRET = re.compile(r"\d{1,2}")
_BEND = re.compile(r"b\(?(1/4|1/2|¼|½|full|f)\)?|\^", re.IGNORECASE)
_TRILL = re.compile(r"tr(?:\(?(\d{1,2})\)?)?(?!\d)", re.IGNORECASE)
_HARMONIC = re.compile(r"[<\[{](\d{1,2})[>\]}]|(\d{1,2})\*")
_BENDS = {"1/4": Mark.BEND_QUARTER, "¼": Mark.BEND_QUARTER, "1/2": Mark.BEND_HALF, "½": Mark.BEND_HALF}
_LEGATO = {"h": Mark.HAMMER, "p": Mark.PULL}
_GAP = "-–—=. "
_SILENT = frozenset(f"{_GAP}()[]")


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


@dataclass
class StringReader:
    """Reads one string, bar by bar; what leads over a bar line is kept for the next.

    Parameters
    ----------
    top_fret : int
        Two digits that go beyond it are two notes.
    remarks : Remarks
    """

    top_fret: int
    remarks: Remarks
    _last: Sign | None = None
    _waiting: Mark | None = None
    _bending: bool = False
    _found: list[Sign] = field(default_factory=list)
    _text: str = ""

    def read(self, text: str) -> list[Sign]:
        r"""Read the string's part of a bar.

        Examples
        --------
        >>> found = StringReader(24, Remarks()).read("-5h7b9--/12--10\\---")
        >>> [(one.fret, sorted(map(str, one.marks))) for one in found]
        [(5, []), (7, ['b2', 'h']), (12, ['i']), (10, ['o'])]
        """
        self._found, self._text, self._bending = [], text, False
        at = 0
        while at < len(text):
            at = self._sign(at)
        return self._found

    def _sign(self, at: int) -> int:
        """Read what stands at a column, and say where the next sign begins."""
        sign = self._text[at]
        for pattern, take in self._patterns():
            match = pattern.match(self._text, at)
            if match is not None and take(match):
                return match.end()
        lowered = sign.lower()
        if lowered == "x":
            self._note(at, 1, self._last.fret if self._last is not None else 0, {Mark.DEAD})
        elif lowered in _LEGATO:
            self._waiting = _LEGATO[lowered] if self._last is not None or lowered == "h" else None
            self._bending = False
        elif sign in "/\\":
            self._slide(at)
        elif lowered == "s":
            self._waiting = Mark.SLIDE if self._last is not None else Mark.SLIDE_IN
        elif lowered == "b" and self._last is not None:
            self._bend(Mark.BEND_WHOLE)
            self._bending = True
        elif lowered == "r" and self._last is not None:
            self._waiting, self._bending = Mark.RELEASE, False
        elif sign in "~vV" and self._last is not None:
            self._last.marks.add(Mark.VIBRATO)
            self._bending = False
        elif lowered == "t":
            self._waiting = Mark.TAP
        elif sign in _GAP:
            self._bending = False
            if self._waiting is Mark.RELEASE:
                self.remarks.add("releases without a note of their own are left out")
                self._waiting = None
        elif sign not in _SILENT:
            self.remarks.add("signs that have no meaning here are left out", f"'{sign}'")
        return at + 1

    def _patterns(self) -> tuple[tuple[re.Pattern[str], Callable[[re.Match[str]], bool]], ...]:
        return (_HARMONIC, self._harmonic), (_FRET, self._fret), (_BEND, self._bent), (_TRILL, self._trill)

    # -- notes ------------------------------------------------------------------------------------------------

    def _fret(self, match: re.Match[str]) -> bool:
        number, at = match[0], match.start()
        if len(number) == 2 and (int(number) > self.top_fret or number[0] == "0"):
            number = number[0]
        fret = int(number)
        if self._bending and self._last is not None:
            # 7b9: the second number says how far, and is no note.
            self._goes_up(fret - self._last.fret)
            self._bending = False
        elif fret > self.top_fret:
            self.remarks.add("frets beyond the neck are left out", str(fret))
        else:
            self._note(at, len(number), fret, set())
        if len(number) < len(match[0]):
            self._fret_after(at + 1, match[0][1:])
        return True

    def _fret_after(self, at: int, number: str) -> None:
        self._note(at, 1, int(number), set())

    def _harmonic(self, match: re.Match[str]) -> bool:
        fret = int(match[1] or match[2])
        if fret > self.top_fret or (self._bending and match[1]):
            return False
        natural = fret in HARMONIC_RISE
        if match[2] and not natural:
            self.remarks.add("notes with * are taken as pinch harmonics")
        self._note(match.start(), len(match[0]), fret, {Mark.HARMONIC if natural else Mark.PINCH})
        return True

    def _note(self, at: int, width: int, fret: int, marks: set[Mark]) -> None:
        if self._waiting is Mark.RELEASE and self._last is not None and self._last.fret != fret:
            # Only the note that was bent can be let go.
            self._waiting = None
        if self._waiting is not None:
            marks = set(without_rivals({*marks, self._waiting})) if Mark.DEAD not in marks else marks
            self._waiting = None
        self._last = Sign(at, width, fret, marks)
        self._found.append(self._last)
        self._bending = False

    # -- how they are bent, shaken, reached and left -----------------------------------------------------------

    def _bent(self, match: re.Match[str]) -> bool:
        if self._last is None:
            return False
        self._bend(_BENDS.get((match[1] or "").lower(), Mark.BEND_WHOLE))
        return True

    def _goes_up(self, semitones: int) -> None:
        if semitones > 2:
            self.remarks.add("bends wider than a whole step are taken as one")
        self._bend(Mark.BEND_HALF if semitones == 1 else Mark.BEND_WHOLE)

    def _bend(self, bend: Mark) -> None:
        assert self._last is not None
        self._last.marks -= {Mark.BEND_QUARTER, Mark.BEND_HALF, Mark.BEND_WHOLE}
        self._last.marks.add(bend)

    def _trill(self, match: re.Match[str]) -> bool:
        if self._last is None:
            return False
        rise = int(match[1]) - self._last.fret if match[1] else 2
        if not match[1]:
            self.remarks.add("trills that do not say how far are taken as whole steps")
        elif not 1 <= rise <= 2:
            self.remarks.add("trills wider than a whole step are taken as one")
        self._last.marks.add(Mark.TRILL_HALF if rise == 1 else Mark.TRILL_WHOLE)
        return True

    def _slide(self, at: int) -> None:
        """Decide by what stands nearer: a slide between notes, into one from nowhere, or off one."""
        text, last = self._text, self._found[-1] if self._found else None
        behind = at - len(text[:at].rstrip(_GAP)) if last is not None else None
        ahead = re.compile(r"[-–—=. ]*").match(text, at + 1)
        gap = ahead.end() - at - 1 if ahead is not None and ahead.end() < len(text) else None
        leads = gap is not None and text[at + 1 + gap] in "0123456789<[({"
        self._bending = False
        if leads and gap is not None and gap < 2:
            near = behind is not None and behind < 2
            self._waiting = Mark.SLIDE if near else Mark.SLIDE_IN
        elif last is not None and behind is not None and behind < 2:
            last.marks.add(Mark.SLIDE_OFF)
        elif leads:
            self._waiting = Mark.SLIDE
        else:
            self.remarks.add("slides that lead nowhere are left out")
