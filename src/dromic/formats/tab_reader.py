"""Text tablature as players type it, the reader: systems, bars, notes, and the rhythm, written or inferred."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import pairwise

from dromic.errors import RiffError
from dromic.formats.assembly import assembled
from dromic.formats.note_lengths import snapped, sounding
from dromic.formats.raw import Imported, Part, RawBar, RawPhrase, Remarks, Source, clean_title, counted, phrase_name
from dromic.formats.tab_page import Page, System, read_page
from dromic.formats.tab_rhythm import Spaced, infer, lengths
from dromic.formats.tab_signs import Sign, signs_of
from dromic.formats.tab_tuning import Strings, strings_of
from dromic.formats.tab_writer import GRACE, REST, TIED
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for
from dromic.music.rhythm import Meter, NoteValue, parse_value
from dromic.music.riff import INFERRED, NO_LOCKS, Event, Locks, Mark, Note, Place, Riff, Stroke

_LETTERS = {"w": "1", "h": "2", "q": "4", "e": "8", "s": "16", "t": "32"}
_TOKEN = re.compile(r"\S+")
MOST_LINES = 20_000
# A row of counts may stand so many columns beside its notes.
COUNT_ASIDE = 3


def tab_source(text: str) -> Source:
    r"""Find the tablature on a page.

    Raises
    ------
    RiffError
        When there are no string lines on it.

    Examples
    --------
    >>> page = "e|-0-|\nB|-1-|\nG|-0-|\nD|-2-|\nA|-3-|\nE|---|"
    >>> len(tab_source(page).read(0).riff.written_events()[0].notes)
    5
    """
    if text.count("\n") > MOST_LINES:
        raise RiffError(f"the page has more than {MOST_LINES} lines; take a part of it")
    page = read_page(text)
    if not page.systems:
        raise RiffError(
            "no tablature is found here: four to eight lines of dashes and frets under each other, or fewer with "
            "the strings' letters, for example 'e|--0--3--|'"
        )
    words = counted(len(page.systems), "system")
    return Source((Part(_title(page), words),), lambda _part: _Reader(page).read())


def looks_like_tab(text: str) -> bool:
    """Whether a text has string lines."""
    return bool(read_page(text[:20_000]).systems)


def _title(page: Page) -> str:
    first = page.systems[0].number
    for number, line in page.texts:
        match = re.match(r"title\s*:\s*(.+)", line, re.IGNORECASE)
        if match is not None:
            return clean_title(match[1])
        if number < first and not re.search(r"[:=|\[\]]|tun|capo|tempo|bpm|^\d", line, re.IGNORECASE):
            return clean_title(line)
    return ""


@dataclass
class _Slot:
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
class _Lines:
    """Which strings the lines of a system are: from the string `first` on."""

    instrument: Instrument
    first: int
    flipped: bool


class _Reader:
    def __init__(self, page: Page) -> None:
        self._page = page
        self._remarks = Remarks()
        self._inferred = 0
        self._section_times = 1

    def read(self) -> Imported:
        """Read all systems."""
        page, remarks = self._page, self._remarks
        head, strings = self._head()
        instrument = instrument_for(head)
        phrases: list[RawPhrase] = []
        for system in page.systems:
            first = strings.first(system)
            if first is None:
                remarks.add(
                    f"systems with other strings than the {head.instrument}'s are left out", f"line {system.number}"
                )
                continue
            if len(system.lines) < instrument.strings and not all(system.labels):
                remarks.add("systems with fewer lines are taken as the upper strings", f"line {system.number}")
            self._system(system, phrases, _Lines(instrument, first, strings.flipped), head.meter)
        self._close_section(phrases)
        for number, line in page.ignored:
            remarks.add("lines that are no whole system are left out", f"line {number} '{line.strip()[:20]}'")
        if self._inferred:
            remarks.add(
                f"the rhythm is inferred from the spacing in {counted(self._inferred, 'bar')}, "
                f"marked '{INFERRED}'; look at it"
            )
        return assembled(head, phrases, remarks)

    # -- head -------------------------------------------------------------------------------------------------

    def _head(self) -> tuple[Riff, Strings]:
        page, remarks = self._page, self._remarks
        words = "\n".join(line for _, line in page.texts)
        strings = strings_of(page.systems, words, remarks)
        meter = _meter(words)
        if meter is None:
            remarks.add("no metre is written; 4/4 is assumed")
        tempo = _tempo(words)
        if tempo is None:
            remarks.add("no tempo is written; 120 quarter notes a minute are assumed")
        capo = re.search(r"capo\D{0,8}(\d{1,2})", words, re.IGNORECASE)
        fret = int(capo[1]) if capo is not None and int(capo[1]) <= 12 else 0
        title = _title(page)
        head = Riff(
            (),
            title=title,
            instrument=strings.instrument,
            tuning=strings.tuning,
            capo=fret,
            tempo=tempo or 120.0,
            meter=meter or Meter(),
        )
        return head, strings

    # -- bars -------------------------------------------------------------------------------------------------

    def _system(self, system: System, phrases: list[RawPhrase], strings: _Lines, meter: Meter) -> None:
        lines = system.lines[::-1] if strings.flipped else system.lines
        starts = system.starts[::-1] if strings.flipped else system.starts
        named = phrase_name(system.name) if system.name else None
        if named is not None or not phrases:
            self._close_section(phrases)
            self._section_times = system.section_times
        if named is not None or not phrases or phrases[-1].times > 1 or system.times > 1:
            phrases.append(RawPhrase(name=named))
        offset = max(starts)
        for pieces, at, begins, rounds in _bars(lines, self._remarks):
            if begins and phrases[-1].bars:
                phrases.append(RawPhrase())
            slots = self._slots(pieces, strings)
            self._beside(system, slots, at + offset, max((len(piece) for piece in pieces), default=0), meter)
            width = max(len(piece) for piece in pieces)
            bar = self._bar(slots, width, meter)
            if bar is not None:
                phrases[-1].bars.append(bar)
            if rounds and phrases[-1].bars:
                phrases[-1].times = rounds
                phrases.append(RawPhrase())
        if not phrases[-1].bars:
            phrases.pop()
        if system.times > 1 and phrases and phrases[-1].times == 1:
            phrases[-1].times = system.times

    def _close_section(self, phrases: list[RawPhrase]) -> None:
        """What the words over a section say holds for all its systems."""
        if phrases and phrases[-1].times == 1:
            phrases[-1].times = self._section_times
        self._section_times = 1

    def _slots(self, pieces: list[str], strings: _Lines) -> list[_Slot]:
        signs: list[tuple[int, Sign]] = []
        for string, piece in enumerate(pieces, start=strings.first):
            signs += [(string, sign) for sign in signs_of(piece, strings.instrument.top_fret, self._remarks)]
        signs.sort(key=lambda one: (one[1].column, one[0]))
        slots: list[_Slot] = []
        for string, sign in signs:
            last = slots[-1] if slots else None
            free = last is not None and all(other != string for other, _ in last.notes)
            if last is not None and free and sign.column < last.column + last.width:
                # Frets of one and two digits under each other overlap in a column.
                last.notes.append((string, sign))
                last.width = max(last.width, sign.column + sign.width - last.column)
            else:
                slots.append(_Slot(sign.column, sign.width, [(string, sign)]))
        return slots

    def _beside(self, system: System, slots: list[_Slot], at: int, width: int, meter: Meter) -> None:
        """Give notes what the rows above and below say in their columns."""
        for row in system.rows:
            if row.kind == "rhythm":
                self._rests(row.text[at : at + width + 1], slots)
        if not any(slot.notes for slot in slots):
            return
        for row in system.rows:
            part = row.text[at : at + width + 1]
            if row.kind == "count":
                beats = row.beats_in(at - COUNT_ASIDE, at + width + COUNT_ASIDE + 1)
                _count(slots, [(place - at, beat) for place, beat in beats])
                continue
            if row.kind in ("palm", "ring"):
                mark = Mark.PALM_MUTE if row.kind == "palm" else Mark.LET_RING
                for slot in slots:
                    if row.covers(at + slot.column):
                        slot.marks.add(mark)
                continue
            strokes = _stroke_signs(row.text) if row.kind == "stroke" else {}
            for match in _TOKEN.finditer(part):
                for place, word in _words(match, row.kind):
                    slot = min((one for one in slots if one.notes), key=lambda one: abs(one.column - place))
                    if abs(slot.column - place) > 2 or word.startswith(REST):
                        continue
                    if row.kind == "stroke" and word in strokes:
                        slot.stroke = strokes[word]
                    elif row.kind == "finger" and word in "1234":
                        slot.finger = int(word)
                    elif row.kind == "rhythm":
                        slot.rhythm = word
            if row.kind == "rhythm":
                _in_turn(slots, part, meter)

    def _rests(self, part: str, slots: list[_Slot]) -> None:
        """Rests that a rhythm row names."""
        for match in _TOKEN.finditer(part):
            if match[0].startswith(REST) and _value(match[0][1:]) is not None:
                slots.append(_Slot(match.start(), 1, rhythm=match[0][1:]))
        slots.sort(key=lambda one: one.column)

    def _bar(self, slots: list[_Slot], width: int, meter: Meter) -> RawBar | None:
        if not slots:
            return RawBar(sounding(Event(NoteValue(4)), meter.bar), meter) if width > 2 else None
        written = [_value(slot.rhythm.lstrip(GRACE + TIED)) for slot in slots]
        if all(written):
            events: list[Event] = []
            for slot, value in zip(slots, written, strict=True):
                if value is not None:
                    events.append(self._event(slot, value))
            return RawBar(events, meter)
        slots = [slot for slot in slots if slot.notes]
        counted = [slot.beat * Fraction(4, meter.unit) for slot in slots if slot.beat is not None]
        if len(counted) == len(slots) and _rising(counted, meter.bar):
            return RawBar(self._timed(slots, counted, meter), meter)
        columns = tuple(slot.column for slot in slots)
        timed = infer(Spaced(columns, tuple(slot.width - 1 for slot in slots), width), meter)
        self._inferred += 1
        if not timed.sure:
            self._remarks.add("some bars are not spaced by any rhythm; theirs is a guess")
        return RawBar(self._timed(slots, timed.onsets, meter), meter, comment=INFERRED)

    def _timed(self, slots: list[_Slot], onsets: Sequence[Fraction], meter: Meter) -> list[Event]:
        """Notes that each last until the next."""
        events: list[Event] = []
        if onsets[0]:
            events += sounding(Event(NoteValue(4)), snapped(onsets[0]))
        for slot, length in zip(slots, lengths(onsets, meter.bar), strict=True):
            events += sounding(self._event(slot, NoteValue(4)), snapped(length))
        return events

    def _event(self, slot: _Slot, value: NoteValue) -> Event:
        if not slot.notes:
            return Event(value)
        notes = []
        for string, sign in sorted(slot.notes, key=lambda one: -one[0]):
            notes.append(Note(Place(string, sign.fret), frozenset(sign.marks)))
        locks = Locks(slot.stroke, slot.finger if len(notes) == 1 else None)
        common = frozenset.intersection(*(note.marks for note in notes))
        own = tuple(replace(note, marks=note.marks - common) for note in notes)
        said = {mark for sign, mark in ((GRACE, Mark.GRACE), (TIED, Mark.TIE)) if slot.rhythm.startswith(sign)}
        return Event(value, own, common | slot.marks | said, NO_LOCKS if Mark.TIE in said else locks)


def _count(slots: list[_Slot], beats: list[tuple[int, Fraction]]) -> None:
    """Give notes the beats that are counted in their columns; the whole row may stand some columns aside."""
    for shift in sorted(range(-COUNT_ASIDE, COUNT_ASIDE + 1), key=abs):
        reach = 0 if shift else 1
        near = [
            [beat for at, beat in beats if abs(at - shift - slot.column) <= reach] for slot in slots if slot.notes
        ]
        if all(near):
            for slot, found in zip((slot for slot in slots if slot.notes), near, strict=True):
                slot.beat = found[0]
            return


def _in_turn(slots: list[_Slot], row: str, meter: Meter) -> None:
    """Give the notes of a bar the lengths of a row in turn, where those do not stand over them but fill the bar."""
    words = row.split()
    values = [_value(word.lstrip(GRACE + TIED)) for word in words]
    if all(slot.rhythm for slot in slots) or len(words) != len(slots):
        return
    if sum((value.quarters for value in values if value is not None), Fraction(0)) == meter.bar:
        for slot, word in zip(slots, words, strict=True):
            slot.rhythm = word


def _rising(onsets: Sequence[Fraction], end: Fraction) -> bool:
    return bool(onsets) and onsets[-1] < end and all(one < other for one, other in pairwise(onsets))


def _words(match: re.Match[str], kind: str) -> list[tuple[int, str]]:
    """A token of a row with its column; strokes and fingers may be typed without blanks between them."""
    if kind == "rhythm":
        return [(match.start(), match[0])]
    return [(match.start() + number, sign) for number, sign in enumerate(match[0])]


def _stroke_signs(row: str) -> dict[str, Stroke]:
    """Which signs mean which stroke: v is an up-bow beside n, and a down arrow beside ^."""
    down, up = Stroke.DOWN, Stroke.UP
    signs = dict.fromkeys("dDnN⊓∏Π", down) | dict.fromkeys("uU∨", up)
    signs |= {"i": Stroke.INDEX, "m": Stroke.MIDDLE, "a": Stroke.RING, "c": Stroke.LITTLE, "t": Stroke.CHORD_PLUCK}
    arrows = "^" in row
    return signs | {"v": down if arrows else up, "V": down if arrows else up, "^": up}


def _value(word: str) -> NoteValue | None:
    if not word:
        return None
    text = word.strip("+|").lower()
    if text[:1] in _LETTERS:
        text = _LETTERS[text[0]] + text[1:]
    return parse_value(text)


def _bars(lines: list[str], remarks: Remarks) -> list[tuple[list[str], int, bool, int]]:
    """Cut a system into bars: the part of each string, its column, and repeat signs before and after."""
    cut = [_cut(line) for line in lines]
    if len({len(one) for one in cut}) == 1:
        rows = list(zip(*cut, strict=True))
    else:
        remarks.add("bar lines that not all strings have are taken where most have them")
        edges = _edges(lines)
        rows = [
            tuple((start, line[start:end]) for line in lines)
            for start, end in zip(edges, [*edges[1:], max(map(len, lines)) + 1], strict=True)
        ]
    found = []
    for row in rows:
        pieces = [piece for _, piece in row]
        begins = sum(piece.startswith((":", "*", "o")) for piece in pieces) >= 2
        ends = sum(piece.endswith((":", "*", "o")) for piece in pieces) >= 2
        # A repeat sign has a column of its own.
        bare = [piece[begins : len(piece) - ends] for piece in pieces]
        if any(piece.strip(" ") for piece in bare):
            cleaned = [piece.replace("|", "-") for piece in bare]
            found.append((cleaned, row[0][0] + begins, begins, 2 if ends else 0))
    return found


def _cut(line: str) -> list[tuple[int, str]]:
    """Pieces between bar lines with their columns."""
    found = []
    for match in re.finditer(r"[^|]+", line):
        if match[0].strip():
            found.append((match.start(), match[0]))
    return found


def _edges(lines: list[str]) -> list[int]:
    columns = Counter(at for line in lines for at, sign in enumerate(line) if sign == "|")
    edges = sorted(at for at, count in columns.items() if count * 2 > len(lines))
    kept = [at + 1 for number, at in enumerate(edges) if number + 1 == len(edges) or edges[number + 1] - at > 1]
    last = max(map(len, lines))
    return [at for at in ([0, *kept] if not edges or edges[0] > 1 else kept) if at < last - 1]


# -- words --------------------------------------------------------------------------------------------------


def _meter(words: str) -> Meter | None:
    # "1/8 notes" and "1/2 step down" are no metres.
    match = re.search(r"(?<![\d/])(\d{1,2})/(2|4|8|16)(?![\d/])(?!(?:th)?\s*-?(?:notes?|steps?|tones?)\b)", words)
    if match is None or not 2 <= int(match[1]) <= 32:
        return None
    return Meter(int(match[1]), int(match[2]))


def _tempo(words: str) -> float | None:
    match = re.search(r"(?:tempo|bpm|♩|q)\s*[:=]?\s*(\d{2,3})", words, re.IGNORECASE) or re.search(
        r"(\d{2,3})\s*bpm", words, re.IGNORECASE
    )
    return float(match[1]) if match is not None and 10 <= int(match[1]) <= 500 else None
