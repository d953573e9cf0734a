"""Text tablature as players type it, the reader: systems, bars, notes, and the rhythm, written or inferred."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise

from dromic.errors import RiffError
from dromic.formats.reading.assembly import assembled
from dromic.formats.reading.note_lengths import snapped, sounding
from dromic.formats.reading.raw import (
    Imported,
    Part,
    RawBar,
    RawPhrase,
    Remarks,
    Source,
    clean_title,
    counted,
    phrase_name,
)
from dromic.formats.tab.bars import bars_of
from dromic.formats.tab.page import Page, System, read_page
from dromic.formats.tab.rhythm import Spaced, infer, lengths
from dromic.formats.tab.rows import (
    COUNT_ASIDE,
    Slot,
    count,
    in_turn,
    may_join,
    say,
    stroke_signs,
    value_in,
    with_notes,
    words_of,
)
from dromic.formats.tab.signs import Sign, StringReader
from dromic.formats.tab.tuning import Strings, strings_of
from dromic.formats.tab.writer import GRACE, REST, TIED
from dromic.hands.fingers import FINGERS_BY_SIGN
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for
from dromic.music.rhythm import Meter, NoteValue
from dromic.music.riff import (
    INFERRED,
    NO_LOCKS,
    Event,
    Locks,
    Mark,
    Note,
    Place,
    Riff,
    without_rivals,
)

_TOKEN = re.compile(r"\S+")
MOST_LINES = 20_000
# Columns that strokes, fingers and lengths may stand beside their notes.
ASIDE_IN_ROWS = 2
# Columns that must be free beside a chord of which a note stands aside.
ASIDE = 2
# Notes of a line without bar lines that may be one bar, and those that no bar has.
FEW, MOST_IN_BAR = 8, 64


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
        self._strings: dict[int, StringReader] = {}

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
        bare = not any("|" in line for line in lines)
        for pieces, at, begins, rounds in bars_of(lines, self._remarks):
            if begins and phrases[-1].bars:
                phrases.append(RawPhrase())
            slots = self._slots(pieces, strings)
            self._beside(system, slots, at + offset, max((len(piece) for piece in pieces), default=0), meter)
            width = max(len(piece) for piece in pieces)
            if len(slots) > MOST_IN_BAR or (bare and len(slots) > FEW):
                self._remarks.add(
                    "lines without bar lines are cut into bars, their notes spaced as eighths",
                    f"line {system.number}",
                )
                phrases[-1].bars += self._cut_into_bars(slots, width, meter)
                continue
            bar = self._bar(slots, width, meter)
            if bar is not None:
                phrases[-1].bars.append(bar)
            if rounds and phrases[-1].bars:
                # Words at the end of a repeat say how often, where they stand.
                phrases[-1].times = max(rounds, system.times)
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

    def _slots(self, pieces: list[str], strings: _Lines) -> list[Slot]:
        signs: list[tuple[int, Sign]] = []
        for string, piece in enumerate(pieces, start=strings.first):
            reader = self._strings.setdefault(string, StringReader(strings.instrument.top_fret, self._remarks))
            signs += [(string, sign) for sign in reader.read(piece)]
        signs.sort(key=lambda one: (one[1].column, one[0]))
        slots: list[Slot] = []
        for string, sign in signs:
            last = slots[-1] if slots else None
            free = last is not None and all(other != string for other, _ in last.notes)
            if last is not None and free and any(_under(sign, other) for _, other in last.notes):
                # Frets of one and two digits under each other overlap in a column.
                last.notes.append((string, sign))
                last.width = max(last.width, sign.column + sign.width - last.column)
            else:
                slots.append(Slot(sign.column, sign.width, [(string, sign)]))
        return self._straightened(slots)

    def _straightened(self, slots: list[Slot]) -> list[Slot]:
        """Chords of which a note stands one column beside the rest, where nothing else is near."""
        straightened: list[Slot] = []
        for number, slot in enumerate(slots):
            last = straightened[-1] if straightened else None
            if last is None or slot.column - last.column != 1 or not may_join(last, slot):
                straightened.append(slot)
                continue
            before = straightened[-2].column + straightened[-2].width if len(straightened) > 1 else -ASIDE
            after = slots[number + 1].column if number + 1 < len(slots) else slot.column + slot.width + ASIDE
            if last.column - before >= ASIDE and after - slot.column - slot.width >= ASIDE:
                self._remarks.add("notes that stand one column beside a chord are taken into it")
                last.notes += slot.notes
                last.width = slot.column + slot.width - last.column
            else:
                straightened.append(slot)
        return straightened

    def _cut_into_bars(self, slots: list[Slot], width: int, meter: Meter) -> list[RawBar]:
        """Bars of notes that stand in one line: the usual space between two is an eighth."""
        slots = [slot for slot in slots if slot.notes]
        gaps = [two.column - one.column for one, two in pairwise(slots)]
        counts = Counter(gaps)
        unit = min(counts, key=lambda gap: (-counts[gap], gap))
        rest = max(width - slots[-1].column, 1)
        bars = [RawBar([], meter, comment=INFERRED)]
        for slot, gap in zip(slots, [*gaps, min(rest, 2 * unit)], strict=True):
            length = Fraction(max(round(2 * gap / unit), 1), 4)
            event = self._event(slot, NoteValue(8))
            while length:
                room = meter.bar - bars[-1].quarters
                part = min(length, room)
                bars[-1].events += sounding(event, part)
                event = replace(event, marks=without_rivals({*event.marks, Mark.TIE}), locks=NO_LOCKS)
                length -= part
                if part == room:
                    bars.append(RawBar([], meter, comment=INFERRED))
        self._inferred += sum(bool(bar.events) for bar in bars)
        return [bar for bar in bars if bar.events]

    def _beside(self, system: System, slots: list[Slot], at: int, width: int, meter: Meter) -> None:
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
                count(slots, [(place - at, beat) for place, beat in beats])
                continue
            if row.kind == "sign":
                if say(slots, row, at, width):
                    self._remarks.add("signs over no note are left out", f"line {system.number}")
                continue
            if row.kind == "chord":
                self._remarks.add("chord names over the strings are left out", f"line {system.number}")
                continue
            if row.kind in ("palm", "ring"):
                mark = Mark.PALM_MUTE if row.kind == "palm" else Mark.LET_RING
                for slot in slots:
                    if row.covers(at + slot.column):
                        slot.marks.add(mark)
                continue
            strokes = stroke_signs(row.text) if row.kind == "stroke" else {}
            noted = with_notes(slots)
            for match in _TOKEN.finditer(part):
                for place, word in words_of(match, row.kind):
                    near = noted.near(place, ASIDE_IN_ROWS)
                    if not near or word.startswith(REST):
                        continue
                    slot = min(near, key=lambda one: abs(one.column - place))
                    if row.kind == "stroke" and word in strokes:
                        slot.stroke = strokes[word]
                    elif row.kind == "finger" and word in FINGERS_BY_SIGN:
                        slot.finger = FINGERS_BY_SIGN[word]
                    elif row.kind == "rhythm":
                        slot.rhythm = word
            if row.kind == "rhythm":
                in_turn(slots, part, meter)

    def _rests(self, part: str, slots: list[Slot]) -> None:
        """Rests that a rhythm row names."""
        for match in _TOKEN.finditer(part):
            if match[0].startswith(REST) and value_in(match[0][1:]) is not None:
                slots.append(Slot(match.start(), 1, rhythm=match[0][1:]))
        slots.sort(key=lambda one: one.column)

    def _bar(self, slots: list[Slot], width: int, meter: Meter) -> RawBar | None:
        if not slots:
            return RawBar(sounding(Event(NoteValue(4)), meter.bar), meter) if width > 2 else None
        written = [value_in(slot.rhythm.lstrip(GRACE + TIED)) for slot in slots]
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

    def _timed(self, slots: list[Slot], onsets: Sequence[Fraction], meter: Meter) -> list[Event]:
        """Notes that each last until the next."""
        events: list[Event] = []
        if onsets[0]:
            events += sounding(Event(NoteValue(4)), snapped(onsets[0]))
        for slot, length in zip(slots, lengths(onsets, meter.bar), strict=True):
            events += sounding(self._event(slot, NoteValue(4)), snapped(length))
        return events

    def _event(self, slot: Slot, value: NoteValue) -> Event:
        if not slot.notes:
            return Event(value)
        notes = []
        for string, sign in sorted(slot.notes, key=lambda one: -one[0]):
            notes.append(Note(Place(string, sign.fret), frozenset(sign.marks)))
        locks = Locks(slot.stroke, slot.finger if len(notes) == 1 else None)
        common = frozenset.intersection(*(note.marks for note in notes))
        own = tuple(replace(note, marks=note.marks - common) for note in notes)
        said = {mark for sign, mark in ((GRACE, Mark.GRACE), (TIED, Mark.TIE)) if slot.rhythm.startswith(sign)}
        marks = without_rivals({*said, *slot.marks, *common})
        own = tuple(replace(note, marks=without_rivals({*note.marks, *marks}) - marks) for note in own)
        return Event(value, own, marks, NO_LOCKS if Mark.TIE in said else locks)


def _rising(onsets: Sequence[Fraction], end: Fraction) -> bool:
    return bool(onsets) and onsets[-1] < end and all(one < other for one, other in pairwise(onsets))


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


def _under(one: Sign, other: Sign) -> bool:
    """Whether frets stand under each other: in one column, or where one has two digits and the other has one."""
    if one.column == other.column:
        return True
    overlap = one.column < other.column + other.width and other.column < one.column + one.width
    return overlap and one.width != other.width
