"""MusicXML 4.0, the reader: parts and voices to choose from, each as a riff.

Music is read with lxml straight into our own model: strings, frets and fingers of every note of a chord, plucking
fingers, strokes, legato, bends, mutes, tuplets, ties, repeats and endings, tuning, capo, tempo and swing.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field, replace
from fractions import Fraction

from lxml import etree

from dromic.errors import RiffError
from dromic.formats.musicxml.harmony import read_harmony, with_signs
from dromic.formats.musicxml.head import read_head, tempi_of
from dromic.formats.musicxml.names import BASES, COMMENT, LEAD
from dromic.formats.musicxml.note import note_of, sounding_pitch
from dromic.formats.musicxml.tree import Score
from dromic.formats.musicxml.voices import Voice, text_at, voices_of
from dromic.formats.reading.assembly import assembled
from dromic.formats.reading.bounds import NoteBound
from dromic.formats.reading.note_lengths import TOLERANCE, snapped, sounding, values_of
from dromic.formats.reading.raw import Imported, Part, RawBar, Remarks, Source, Tagged, counted, phrase_name
from dromic.formats.reading.repeats import MarkedBar, phrases_of
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for
from dromic.music.chords import Sign
from dromic.music.rhythm import Meter, NoteValue, tuplet_time
from dromic.music.riff import Event, Mark, Note, Place, Riff

Element = etree._Element
MOST_MEASURES = 20_000
GRACE = NoteValue(16)


def musicxml_source(score: Score) -> Source:
    """Find what can be chosen in a score.

    Parameters
    ----------
    score : Score

    Raises
    ------
    RiffError
        When it holds no notes.
    """
    choices = voices_of(score)
    if not choices:
        raise RiffError("there are no notes in this score")
    several = Counter(choice.number for choice in choices)
    parts = tuple(
        Part(
            choice.name + (f", voice {choice.voice}" if several[choice.number] > 1 else ""),
            counted(choice.notes, "note") + (", with frets" if choice.fretted else ""),
        )
        for choice in choices
    )
    likely = max(range(len(choices)), key=lambda number: (choices[number].fretted, choices[number].notes, -number))
    return Source(parts, lambda number: Reader(score, choices[number]).read(), likely)


def whole_number(text: str | None, default: int = 0) -> int:
    """A number as files have it, or a default."""
    try:
        return int(float(text or ""))
    except (ValueError, OverflowError):
        return default


@dataclass
class _Open:
    """An event whose chord may still grow."""

    elements: list[Element]
    length: Fraction
    value: NoteValue | None
    notes: list[Note] = field(default_factory=list)
    event: Event = field(default_factory=lambda: Event(GRACE))


class Reader:
    """Reads one voice of one part.

    Parameters
    ----------
    score : Score
    choice : Voice
    """

    def __init__(self, score: Score, choice: Voice) -> None:
        self._score, self._choice = score, choice
        self._remarks = Remarks()
        self._divisions = 1
        self._meter = Meter()
        self._bars: list[MarkedBar] = []
        self.transpose = 0
        self._comments: dict[int, list[str]] = {}
        self.elements: list[list[Element]] = []
        self._bound = NoteBound()
        self._palm = False
        self._tempi = tempi_of(score.root, choice.part)

    def read(self) -> Imported:
        """Read it.

        Raises
        ------
        RiffError
        """
        head, ours = read_head(self._score.root, self._choice.part, self._choice.name, self._remarks)
        phrases = phrases_of(self.bars(instrument_for(head)), self._remarks, letters=not ours)
        brought = assembled(head, phrases, self._remarks)
        return replace(brought, riff=self._with_comments(brought.riff))

    def bars(self, instrument: Instrument) -> list[MarkedBar]:
        """Read what is written, bar by bar, without making a riff of it.

        Raises
        ------
        RiffError
            When there are too many bars.
        """
        measures = self._choice.part.findall("measure")
        if len(measures) > MOST_MEASURES:
            raise RiffError(f"this part has {len(measures)} bars, and a riff at most {MOST_MEASURES}")
        bound = NoteBound()
        for measure in measures:
            for note in measure.iterfind("note"):
                bound.add(note.find("chord") is None and self._mine(note))
        marked = MarkedBar(RawBar())
        for measure in measures:
            marked = self._measure(measure, marked, instrument)
        return self._bars

    def _with_comments(self, riff: Riff) -> Riff:
        """Comments back at their bars, where no repeat was written out."""
        written = [bar for phrase in riff.phrases for bar in phrase.bars]
        if not self._comments or len(written) != len(self._bars):
            return riff
        number = -1
        phrases = []
        for phrase in riff.phrases:
            bars = []
            for bar in phrase.bars:
                number += 1
                own = self._comments.get(number, [])
                lead = tuple(text[len(LEAD) :] for text in own if text.startswith(LEAD))
                end = "; ".join(text[len(COMMENT) :] for text in own if text.startswith(COMMENT))
                bars.append(replace(bar, lead=lead, comment=end))
            phrases.append(replace(phrase, bars=tuple(bars)))
        return replace(riff, phrases=tuple(phrases))

    # -- measures ---------------------------------------------------------------------------------------------

    def _measure(self, measure: Element, marked: MarkedBar, instrument: Instrument) -> MarkedBar:
        at = Fraction(0)
        written = end = Fraction(0)
        events: list[Event] = []
        signs: list[tuple[Fraction, Sign]] = []
        now: _Open | None = None
        double = mine = False
        rounds = 0

        def close() -> None:
            nonlocal now
            if now is not None:
                events.extend(self._closed(now))
                now = None

        for child in measure:
            tag = child.tag
            if tag == "attributes":
                self._attributes(child)
            elif tag == "backup":
                at -= self._duration(child)
            elif tag == "forward":
                at += self._duration(child)
            elif tag == "harmony":
                self._sign(child, at, signs)
            elif tag == "direction":
                self._direction(child, marked)
            elif tag == "sound":
                self._sound(child)
            elif tag == "barline":
                rounds_here, double_here = self._barline(child, marked)
                rounds, double = max(rounds, rounds_here), double or double_here
            elif tag == "note":
                length = self._duration(child)
                if child.find("chord") is not None:
                    # A chord is in the voice of its first note, whatever staff its others are written on.
                    if mine and now is not None and child.find("cue") is None:
                        self._join(now, child, instrument)
                    continue
                mine = self._mine(child)
                if mine:
                    close()
                    if at - written > TOLERANCE:
                        events.extend(Event(value) for value in values_of(snapped(at - written)))
                        written = at
                    now = self._opened(child, length, instrument)
                    written += now.length
                at += length
            end = max(end, at)
        close()
        if events and end - written > TOLERANCE:
            # Another voice goes on while this one is silent.
            events.extend(Event(value) for value in values_of(snapped(end - written)))
        events = with_signs(events or self._silence(), signs, self._remarks)
        marked.bar = RawBar(
            events, self._meter, measure.get("implicit") == "yes", tempo=self._tempi.at(len(self._bars))
        )
        marked.rounds, marked.double = rounds, double
        self._bars.append(marked)
        return MarkedBar(RawBar())

    def _silence(self) -> list[Event]:
        """Another voice's bar: this one is silent."""
        return [Event(value) for value in values_of(self._meter.bar)]

    def _sign(self, element: Element, at: Fraction, signs: list[tuple[Fraction, Sign]]) -> None:
        sign = read_harmony(element)
        if sign is None:
            self._remarks.add("chord signs that are not understood are left out", f"bar {len(self._bars) + 1}")
            return
        offset = element.findtext("offset")
        later = Fraction(whole_number(offset), self._divisions) if offset else Fraction(0)
        signs.append((max(at + later, Fraction(0)), sign))

    def _mine(self, note: Element) -> bool:
        if note.find("cue") is not None:
            return False
        staff, voice = text_at(note, "staff") or "1", text_at(note, "voice") or "1"
        return voice == self._choice.voice and self._choice.staff in (None, staff)

    def _duration(self, element: Element) -> Fraction:
        text = text_at(element, "duration")
        try:
            return min(max(Fraction(text), Fraction(0)), Fraction(10**6)) / self._divisions if text else Fraction(0)
        except (ValueError, ZeroDivisionError):
            return Fraction(0)

    def _attributes(self, element: Element) -> None:
        divisions = whole_number(element.findtext("divisions"))
        if divisions > 0:
            self._divisions = divisions
        time = element.find("time")
        if time is not None:
            self._meter = self._time(time)
        transpose = element.find("transpose")
        if transpose is not None:
            octaves = whole_number(transpose.findtext("octave-change"))
            self.transpose = whole_number(transpose.findtext("chromatic")) + 12 * octaves

    def _time(self, time: Element) -> Meter:
        pairs = list(zip(time.findall("beats"), time.findall("beat-type"), strict=False))
        lengths = []
        for beats, unit in pairs:
            counts = [whole_number(one) for one in (beats.text or "").split("+")]
            lengths.append((sum(counts), whole_number(unit.text)))
        good = [(count, unit) for count, unit in lengths if 1 <= count <= 32 and unit in (1, 2, 4, 8, 16, 32)]
        if len(good) == 1:
            return Meter(*good[0])
        if good:
            finest = max(unit for _, unit in good)
            return Meter(min(sum(count * finest // unit for count, unit in good), 32), finest)
        self._remarks.add("a metre that is not understood is left out")
        return self._meter

    def _direction(self, element: Element, marked: MarkedBar) -> None:
        for rehearsal in element.iterfind("direction-type/rehearsal"):
            marked.name = phrase_name(rehearsal.text or "") or marked.name
        for words in element.iterfind("direction-type/words"):
            text = words.text or ""
            if text.startswith((COMMENT, LEAD)):
                self._comments.setdefault(len(self._bars), []).append(text)
        for sound in element.iterfind("sound"):
            self._sound(sound)

    def _sound(self, sound: Element) -> None:
        for mute in sound.iterfind("play/mute"):
            # Holds for the notes that follow, until it is taken back.
            self._palm = (mute.text or "") == "palm"

    def _barline(self, element: Element, marked: MarkedBar) -> tuple[int, bool]:
        rounds, double = 0, False
        repeat = element.find("repeat")
        if repeat is not None and repeat.get("direction") == "forward":
            marked.begins = True
        elif repeat is not None:
            rounds = max(whole_number(repeat.get("times"), 2), 2)
        ending = element.find("ending")
        if ending is not None and ending.get("type") == "start":
            numbers = [whole_number(one) for one in ending.get("number", "").replace(" ", ",").split(",")]
            marked.ending = tuple(sorted({number for number in numbers if 1 <= number <= 99})) or (1,)
        if ending is not None and ending.get("type") in ("stop", "discontinue"):
            double = True
        return rounds, double

    # -- notes ------------------------------------------------------------------------------------------------

    def _opened(self, element: Element, length: Fraction, instrument: Instrument) -> _Open:
        value = _value(element)
        if value is None or (length and abs(value.quarters - length) > TOLERANCE):
            value, exact = None, snapped(length)
        else:
            exact = value.quarters
        if element.find("grace") is not None:
            exact = Fraction(0)
        opened = _Open([element], exact, value)
        found = note_of(element, instrument, self.transpose, self._remarks, palm=self._palm)
        if found is not None:
            opened.notes.append(found.note)
            opened.event = replace(opened.event, marks=found.marks, locks=found.locks)
        return opened

    def _join(self, opened: _Open, element: Element, instrument: Instrument) -> None:
        found = note_of(element, instrument, self.transpose, self._remarks, palm=self._palm)
        if found is None:
            return
        if len(opened.notes) == 1:
            # What a single note's event carries is the first note's own as soon as there are more.
            first = opened.notes[0]
            own = replace(opened.event.locks, stroke=None, position=None)
            opened.notes[0] = replace(first, marks=opened.event.marks, locks=own)
            opened.event = replace(opened.event, locks=replace(opened.event.locks, finger=None))
        elif not opened.notes:
            opened.event = replace(opened.event, locks=replace(found.locks, finger=None))
        own = replace(found.locks, stroke=None, position=None)
        note = found.note
        if isinstance(note.target, Place) and any(_on_string(one, note.target.string) for one in opened.notes):
            pitch = sounding_pitch(element, self.transpose)
            if pitch is None:
                return
            self._remarks.add(
                "strings that sound twice in one chord are left out, the notes kept", str(note.target)
            )
            note = Note(pitch)
        opened.notes.append(replace(note, marks=found.marks, locks=own))
        opened.elements.append(element)

    def _closed(self, opened: _Open) -> list[Event]:
        self._bound.add()
        self.elements.append(opened.elements)
        tag = len(self.elements) - 1
        notes, marks = _without_doubles(opened.notes), opened.event.marks
        if len(notes) > 1:
            common = frozenset.intersection(*(note.marks for note in notes))
            marks = common
            notes = [replace(note, marks=note.marks - common) for note in notes]
        elif notes and len(opened.notes) > 1:
            marks = notes[0].marks
            notes = [replace(notes[0], marks=frozenset())]
        event = Tagged(opened.value or GRACE, tuple(notes), marks, opened.event.locks, tag=tag)
        if Mark.GRACE in marks and notes:
            return [event]
        if not opened.length:
            return []
        if opened.value is not None:
            return [event]
        return sounding(event, opened.length)


def _on_string(note: Note, string: int) -> bool:
    return isinstance(note.target, Place) and note.target.string == string


def _without_doubles(notes: list[Note]) -> list[Note]:
    """Each place or pitch once."""
    found: dict[str, Note] = {}
    for note in notes:
        found.setdefault(str(note.target), note)
    return list(found.values())


def _value(element: Element) -> NoteValue | None:
    """The written value of a note, or None where it is not written or not one of ours."""
    base = BASES.get(text_at(element, "type"))
    dots = len(element.findall("dot"))
    if base is None or dots > 2:
        return None
    modification = element.find("time-modification")
    if modification is None:
        return NoteValue(base, dots)
    actual = whole_number(modification.findtext("actual-notes"))
    normal = whole_number(modification.findtext("normal-notes"))
    if actual == normal:
        return NoteValue(base, dots)
    if not 2 <= actual <= 15 or actual == 8 or normal != tuplet_time(actual):
        return None
    return NoteValue(base, dots, actual)
