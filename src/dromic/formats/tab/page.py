"""Text tablature, the page: systems of string lines, what stands around them, and what is only text."""

from __future__ import annotations

import re
import sys
from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property

from dromic.errors import RiffError
from dromic.formats.reading.bounds import NoteBound
from dromic.formats.tab.markup import without_markup

_FRETS = re.compile(r"\d+")
_LABEL = re.compile(r"\s*(?:([A-Ga-g](?:#|b|♯|♭)?)(?:\d(?=\s*[|:\]]))?)?\s*(?=[|:\-\]]|(?<=\S)\d{1,2}[-hp/\\~b])")
_STRING_SIGNS = frozenset("-–—=0123456789|:hHpPbBrRsStTxXvVmMoO/\\~()[]<>{}*.^½¼ ")
_DASHES = frozenset("-–—=")
_STROKE_ROW = re.compile(r"[dDuUnNvV^⊓∏Π∨\s]+")
# Plucking fingers, each by itself: letters that also make words.
_PLUCK_ROW = re.compile(r"\s*[imacdut](?:\s+[imacdut])+\s*")
_RHYTHM_ROW = re.compile(r"(?:\s*(?:[whqestWHQEST]|1|2|4|8|16|32|64)(?:\.{1,2}|t|q\d{1,2})?(?![\w]))+\s*[+|]?\s*")
_FINGER_ROW = re.compile(r"(?:\s*[0-4](?![\w]))+\s*")
_PALM_ROW = re.compile(r"P\.?\s?M\.?", re.IGNORECASE)
_RING_ROW = re.compile(r"let\s+ring|L\.?R\.?(?![A-Za-z])", re.IGNORECASE)
_SPAN = re.compile(r"(?:P\.?\s?M\.?|let\s+ring|L\.?R\.?)[\s.]*[-–_.=]*\|?", re.IGNORECASE)
_CHORD_NAME = (
    r"\(?(?:[A-G][#b♯♭]?(?:maj|min|dim|aug|sus|add|m|M|\+|°|ø|-)?\d{0,2}(?:(?:sus|add|maj|[#b+-])\d{1,2}|sus|\+|\(.{1,6}\))*"
    r"(?:/[A-G][#b♯♭]?)?|N\.?C\.?)\)?"
)
_CHORD_ROW = re.compile(rf"[\s|]*{_CHORD_NAME}(?:[\s|,-]+{_CHORD_NAME})*[\s|]*")
# Signs over the strings that say how a note is played.
SIGN = re.compile(
    r"(?P<pinch>[PA]\.?H\.?)|(?P<natural>N\.?H\.?|Harm\.?)|(?P<tap>[Tt])|(?P<accent>>)|(?P<vibrato>~+)|(?P<short>\.)"
)
_SIGN_ROW = re.compile(rf"(?:\s*(?:{SIGN.pattern}))+\s*")
_NAMED_ROW = re.compile(r"\s*(stroke|strokes|picking|pick|finger|fingers|rhythm)\b:?", re.IGNORECASE)
_TIMES = re.compile(
    r"\(?\s*(?:x\s*(\d{1,2})|(\d{1,2})\s*(?:x|times)|(?:repeat|play)\s+(\d{1,2})(?:\s*(?:x|times))?"
    r"|(?:repeat\s+|play\s+)?(twice|(?:two|three|four)\s+times))\b\s*\)?",
    re.IGNORECASE,
)
_TIMES_WORDS = {"twice": 2, "two": 2, "three": 3, "four": 4}
_COUNT_ROW = re.compile(r"\s*1(?!\d)(?:\s*(?:(?:1[0-2]|[1-9])(?!\d)|[&+ea]))+\s*", re.IGNORECASE)
_COUNTED = re.compile(r"\d+|[&+ea]", re.IGNORECASE)
# Where a beat's parts are counted.
_PARTS = {"e": Fraction(1, 4), "&": Fraction(1, 2), "+": Fraction(1, 2), "a": Fraction(3, 4)}
# Words that name a part of a piece, so that a blank line may stand between them and its first system.
_PART = re.compile(
    r"\[|.*:$|(?:pre-?)?(?:intro|verse|chorus|bridge|solo|riff|outro|fill|interlude|lick|part|ending|break|hook|head"
    r"|coda|theme|section|lead|main)\b",
    re.IGNORECASE,
)
# Fewer lines are strings only where all have letters.
_REPEATED = re.compile(r"[:*o]\|")
LEAST_STRINGS, MOST_STRINGS = 4, 8
LONGEST_LINE = 20_000


@dataclass(frozen=True)
class Row:
    """A line beside a system: its text in the columns of the page."""

    kind: str
    text: str

    @cached_property
    def beats(self) -> list[tuple[int, Fraction]]:
        """Columns and beats of a row that counts."""
        return counted_beats(self.text)

    @cached_property
    def spans(self) -> list[tuple[int, int]]:
        """Columns from and up to which a palm mute or ringing holds: from the word to the end of its dashes."""
        spans = []
        for match in _SPAN.finditer(self.text):
            end = match.end() - match[0].endswith("|")
            spans.append((match.start() - 1, max(end, match.start() + 2)))
        return spans

    def beats_in(self, low: int, high: int) -> list[tuple[int, Fraction]]:
        """Beats that are counted in some columns."""
        return self.beats[bisect_left(self.beats, (low,)) : bisect_left(self.beats, (high,))]

    def covers(self, column: int) -> bool:
        """Whether a palm mute or ringing holds at a column."""
        after = bisect_right(self.spans, (column, sys.maxsize))
        return any(column < end for _, end in self.spans[max(after - 2, 0) : after])


@dataclass
class System:
    """String lines that belong together.

    Parameters
    ----------
    lines : list of str
        Top to bottom, without their labels.
    labels : list of str
        Pitch letters; empty where there are none.
    starts : list of int
        Column at which each line's content begins on the page.
    number : int
        Line of the page where it begins, from 1.
    rows : list of Row
        What stands above and below.
    name : str
        Of the phrase that begins here; empty for none.
    times : int
        How often it is played, as words beside it say.
    section_times : int
        How often everything up to the next name is played, as the words over it say.
    """

    lines: list[str]
    labels: list[str]
    starts: list[int]
    number: int
    rows: list[Row] = field(default_factory=list)
    name: str = ""
    times: int = 1
    section_times: int = 1


@dataclass
class Page:
    """A page: its systems, and the lines of text."""

    systems: list[System]
    texts: list[tuple[int, str]]
    ignored: list[tuple[int, str]]


def string_line(line: str) -> tuple[str, int, str] | None:
    """Label, column of the content and content of a string line; None for any other line."""
    match = _LABEL.match(line)
    if match is None:
        return None
    content = line[match.end() :].rstrip()
    if match[1] and content.startswith(":"):
        # Between a letter and its string a colon is no repeat sign.
        content = f"|{content[1:]}"
    tail = _TIMES.search(content)
    core = content[: tail.start()] if tail is not None and "|" in content[: tail.start()] else content
    core = core.rstrip()
    last = core.rfind("|")
    if last > 0 and len(core) - last > 1 and not any(sign in _DASHES for sign in core[last:]):
        # Words after the last bar line are no part of the string.
        core = core[: last + 1]
    dashes = sum(sign in _DASHES for sign in core)
    if dashes < 2 or len(core) < 4:
        return None
    foreign = sum(sign not in _STRING_SIGNS for sign in core)
    if foreign > (len(core) // 8 if match[1] else 0) or dashes + sum(
        sign.isdigit() or sign == "|" for sign in core
    ) < 0.55 * len(core):
        return None
    return match[1] or "", match.end(), core


def _columns(lines: list[str]) -> int:
    """In how many columns frets stand."""
    return len({match.start() for line in lines for match in _FRETS.finditer(line)})


def _columns_played(system: System, section_times: int) -> int:
    """How many columns of notes a system has with its repeats, at the most, before it is read."""
    columns = max(_columns(system.lines), min(line.count("|") for line in system.lines))
    repeats = sum(bool(_REPEATED.search(line)) for line in system.lines) >= 2
    return columns * max(system.times, section_times, 2 if repeats else 1)


def read_page(text: str) -> Page:
    """Find the systems of a page."""
    text = without_markup(text)
    lines = [line.rstrip().expandtabs(8) for line in text.replace("\r\n", "\n").replace("\r", "\n").split("\n")]
    for number, line in enumerate(lines, start=1):
        if len(line) > LONGEST_LINE:
            raise RiffError(f"this line has more than {LONGEST_LINE} columns; break it into systems", line=number)
    found = [string_line(line) for line in lines]
    page, bound = Page([], [], []), NoteBound()
    section_times = 1
    used = [one is not None for one in found]
    for start, end in _blocks(used):
        for low, high in _split(found, start, end):
            own = [one for one in found[low:high] if one is not None]
            least = 1 if all(label for label, _, _ in own) else LEAST_STRINGS
            if not least <= len(own) <= MOST_STRINGS:
                page.ignored += [(number + 1, lines[number]) for number in range(low, high)]
                continue
            own = _with_bar_lines(own)
            system = System([one[2] for one in own], [one[0] for one in own], [one[1] for one in own], low + 1)
            system.times = _times(lines[low:high])
            page.systems.append(system)
            _surround(page, system, lines, used, low, high)
            section_times = system.section_times if system.name or len(page.systems) == 1 else section_times
            bound.add(_columns_played(system, section_times))
    for number, line in enumerate(lines):
        if line.strip() and not used[number]:
            page.texts.append((number + 1, line.strip()))
    return page


def _with_bar_lines(own: list[tuple[str, int, str]]) -> list[tuple[str, int, str]]:
    """Lines with their bar lines as such, where colons stand for them."""
    if any("|" in line[1:] for _, _, line in own) or not all(":" in line for _, _, line in own):
        return own
    return [(label, start, line.replace(":", "|")) for label, start, line in own]


def _blocks(used: Sequence[bool]) -> list[tuple[int, int]]:
    blocks = []
    start = None
    for number, one in enumerate([*used, False]):
        if one and start is None:
            start = number
        elif not one and start is not None:
            blocks.append((start, number))
            start = None
    return blocks


def _split(found: Sequence[tuple[str, int, str] | None], start: int, end: int) -> list[tuple[int, int]]:
    """Several systems that follow each other without a blank line, by their labels or by an even count."""
    count = end - start
    if count <= MOST_STRINGS:
        return [(start, end)]
    labels = [one[0] if one is not None else "" for one in found[start:end]]
    for size in (6, 4, 7, 5, 8):
        if count % size == 0 and all(labels[at : at + size] == labels[:size] for at in range(0, count, size)):
            return [(at, at + size) for at in range(start, end, size)]
    return [(start, end)]


def _times(lines: Sequence[str]) -> int:
    """How often words at the end of a line say that it is played."""
    return next((times for line in lines if (times := _said_times(line[line.rfind("|") + 1 :]))), 1)


def _said_times(words: str) -> int:
    """How often words say that something is played; 0 where they say nothing of the kind."""
    match = _TIMES.search(words)
    if match is None:
        return 0
    said = next(one for one in match.groups() if one).lower()
    return min(max(int(said) if said.isdigit() else _TIMES_WORDS[said.split()[0]], 1), 99)


def _surround(page: Page, system: System, lines: list[str], used: list[bool], low: int, high: int) -> None:
    """Take the lines above and below that belong to a system."""
    at = low - 1
    while at >= 0 and not used[at] and lines[at].strip() and low - at <= 4:
        kind = row_kind(lines[at], above=True)
        if not kind:
            break
        system.rows.append(Row(kind, _blanked(lines[at])))
        used[at] = True
        at -= 1
    if at >= 1 and not lines[at].strip() and _PART.match(lines[at - 1].strip()):
        at -= 1
    if at >= 0 and not used[at] and lines[at].strip():
        name, times = _name(lines[at]), _said_times(lines[at])
        if name:
            system.name, system.section_times = name, times or 1
            used[at] = True
        elif times and not _TIMES.sub("", lines[at]).strip(" []():,"):
            system.times = max(system.times, times)
            used[at] = True
    at = high
    while at < len(lines) and not used[at] and lines[at].strip() and at - high < 3:
        kind = row_kind(lines[at], above=False)
        if not kind:
            break
        system.rows.append(Row(kind, _blanked(lines[at])))
        used[at] = True
        at += 1


def row_kind(line: str, *, above: bool) -> str:
    """What a line beside a system says: stroke, rhythm, count, finger, palm, ring, or nothing of the kind."""
    named = _NAMED_ROW.match(line)
    if named is not None:
        word = named[1].lower()
        return "rhythm" if word == "rhythm" else "finger" if word.startswith("finger") else "stroke"
    if _PALM_ROW.match(line.strip()):
        return "palm"
    if _RING_ROW.match(line.strip()):
        return "ring"
    if _SIGN_ROW.fullmatch(line):
        return "sign"
    if _STROKE_ROW.fullmatch(line):
        return "stroke"
    if counted_beats(line):
        return "count"
    if above and _RHYTHM_ROW.fullmatch(line):
        return "rhythm"
    if _PLUCK_ROW.fullmatch(line):
        return "stroke"
    if not above and _FINGER_ROW.fullmatch(line):
        return "finger"
    if not above and _RHYTHM_ROW.fullmatch(line):
        return "rhythm"
    if above and _CHORD_ROW.fullmatch(line):
        return "chord"
    return ""


def counted_beats(line: str) -> list[tuple[int, Fraction]]:
    """Columns and beats of a row that counts, such as ``1 & 2 & 3 e & a``; nothing for other rows.

    Examples
    --------
    >>> [(column, str(beat)) for column, beat in counted_beats("  1 & 2   1+2+")]
    [(2, '0'), (4, '1/2'), (6, '1'), (10, '0'), (11, '1/2'), (12, '1'), (13, '3/2')]
    >>> counted_beats("1 2 4 8"), counted_beats("1 +2")
    ([], [])
    """
    # A plus sign at a number and not at the one before is a tie in our own rhythm rows.
    if not _COUNT_ROW.fullmatch(line) or not re.search(r"[&+]", line) or re.search(r"\s\+\d", line):
        return []
    counted_beats: list[tuple[int, Fraction]] = []
    beat = 0
    for match in _COUNTED.finditer(line):
        sign = match[0].lower()
        if not sign.isdigit():
            counted_beats.append((match.start(), beat - 1 + _PARTS[sign]))
        elif int(sign) in (1, beat + 1):
            beat = int(sign)
            counted_beats.append((match.start(), Fraction(beat - 1)))
        else:
            return []
    return counted_beats


def _blanked(line: str) -> str:
    """A row without the word that names it, in its columns."""
    named = _NAMED_ROW.match(line)
    return " " * named.end() + line[named.end() :] if named is not None else line


def _name(line: str) -> str:
    """The name of a phrase in a line above a system; empty when the line is something else."""
    text = line.strip()
    match = re.fullmatch(r"\[([^\]]{1,40})\](.*)", text)
    if match is not None:
        return _TIMES.sub("", match[1]).strip()
    text = _TIMES.sub("", text).strip(" (),")
    if _CHORD_ROW.fullmatch(text):
        return ""
    if re.fullmatch(r"[A-Za-z][\w '/&.-]{0,30}:?", text) and not re.search(r"tun|capo|tempo|bpm|time", text, re.I):
        return text.rstrip(":").strip()
    return ""
