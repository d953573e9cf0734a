"""MusicXML 4.0, the writer: one part, everything that is in a riff.

With every note placed it is a tablature staff; else a plain one, written an octave above its sound, as guitarists
read.
"""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction
from math import lcm

from lxml import etree

from dromic import __version__
from dromic.formats.abc.fields import read_key
from dromic.formats.musicxml.harmony import written_harmony
from dromic.formats.musicxml.names import (
    ARTICULATIONS,
    BENDS,
    BOWS,
    CHORD_PLUCK,
    COMMENT,
    FIELD,
    HARMONICS,
    LEAD,
    PLUCKS,
    POSITION,
    RAKE,
    TRILLS,
    TYPES,
)
from dromic.formats.rifftext.writer import header_fields
from dromic.hands.fingers import finger_sign
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for
from dromic.music.pitch import Pitch, parse_pitch, pitch_name
from dromic.music.rhythm import Meter, tuplet_time
from dromic.music.riff import Bar, Event, Locks, Mark, Note, Place, Riff, Stroke

Element = etree._Element
DOCTYPE = (
    '<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN" '
    '"http://www.musicxml.org/dtds/partwise.dtd">'
)


def write_musicxml(riff: Riff) -> bytes:
    """Write a riff as MusicXML.

    Parameters
    ----------
    riff : Riff
        With places and strokes decided where they are to be seen (see `dromic.planner.locking.decided_riff`).

    Returns
    -------
    bytes
        UTF-8.
    """
    return etree.tostring(
        _Writer(riff).score(), xml_declaration=True, encoding="UTF-8", doctype=DOCTYPE, pretty_print=True
    )


def _add(parent: Element, tag: str, text: object = None, **attributes: str) -> Element:
    made = etree.SubElement(parent, tag, {name.replace("_", "-"): value for name, value in attributes.items()})
    if text is not None:
        made.text = str(text)
    return made


def xml_words(text: str) -> str:
    """Words without the characters that XML cannot hold."""
    return "".join(sign for sign in text if sign in "\t\n" or (sign >= " " and sign not in "\ufffe\uffff"))


class _Writer:
    def __init__(self, riff: Riff) -> None:
        self._riff = riff
        self._instrument: Instrument = instrument_for(riff)
        events = riff.written_events()
        self._fretted = all(isinstance(note.target, Place) for event in events for note in event.notes)
        self._divisions = lcm(*(event.value.quarters.denominator for event in events)) or 1
        self._coming = iter((*events[1:], None))
        self._next: Event | None = None
        key = read_key(riff.key) if riff.key else None
        self._flats = key is not None and any(alter < 0 for alter in key.alters.values())
        self._fifths = sum(key.alters.values()) if key is not None else 0

    def score(self) -> Element:
        riff = self._riff
        root = etree.Element("score-partwise", version="4.0")
        if riff.title:
            _add(_add(root, "work"), "work-title", xml_words(riff.title))
        identification = _add(root, "identification")
        _add(_add(identification, "encoding"), "software", f"Dromic {__version__}")
        miscellaneous = _add(identification, "miscellaneous")
        for name, value in header_fields(riff):
            if value and name not in ("title", "tempo", "meter", "pickup"):
                _add(miscellaneous, "miscellaneous-field", xml_words(value), name=FIELD + name)
        for name, texts in (("comment", riff.comments), ("tail", riff.tail)):
            for text in texts:
                _add(miscellaneous, "miscellaneous-field", xml_words(text), name=FIELD + name)
        part = _add(_add(root, "part-list"), "score-part", id="P1")
        _add(part, "part-name", "Bass" if riff.instrument.startswith("bass") else "Guitar")
        body = _add(root, "part", id="P1")
        number = 0 if riff.pickup else 1
        meter = riff.meter
        for phrase in riff.phrases:
            for at, bar in enumerate(phrase.bars):
                new = bar.meter if bar.meter is not None and bar.meter != meter else None
                meter = bar.meter or meter
                measure = _add(body, "measure", number=str(number))
                if bar.quarters < meter.bar:
                    measure.set("implicit", "yes")
                first = number == (0 if riff.pickup else 1) and at == 0 and phrase is riff.phrases[0]
                begin, end = at == 0 and phrase.times > 1, at == len(phrase.bars) - 1 and phrase.times > 1
                if begin:
                    left = _add(measure, "barline", location="left")
                    _add(left, "bar-style", "heavy-light")
                    _add(left, "repeat", direction="forward")
                if first or new is not None:
                    self._attributes(measure, meter, first=first)
                if first:
                    self._sound(measure)
                elif bar.tempo is not None:
                    self._tempo(_direction(measure), bar.tempo)
                if at == 0 and phrase.name is not None:
                    _add(_add(_direction(measure), "direction-type"), "rehearsal", xml_words(phrase.name))
                self._comments(measure, bar)
                self._events(measure, bar.events)
                if end:
                    right = _add(measure, "barline", location="right")
                    _add(right, "bar-style", "light-heavy")
                    repeat = _add(right, "repeat", direction="backward")
                    if phrase.times != 2:
                        repeat.set("times", str(phrase.times))
                number += 1
        return root

    def _attributes(self, measure: Element, meter: Meter, *, first: bool) -> None:
        attributes = _add(measure, "attributes")
        if first:
            _add(attributes, "divisions", self._divisions)
            _add(_add(attributes, "key"), "fifths", min(max(self._fifths, -7), 7))
        time = _add(attributes, "time")
        _add(time, "beats", meter.count)
        _add(time, "beat-type", meter.unit)
        if first:
            self._staff(attributes)

    def _staff(self, attributes: Element) -> None:
        instrument = self._instrument
        clef = _add(attributes, "clef")
        bass = self._riff.instrument.startswith("bass")
        if not self._fretted:
            _add(clef, "sign", "F" if bass else "G")
            _add(clef, "line", 4 if bass else 2)
            _add(clef, "clef-octave-change", -1)
            return
        _add(clef, "sign", "TAB")
        _add(clef, "line", 5)
        staff = _add(attributes, "staff-details")
        _add(staff, "staff-lines", instrument.strings)
        for line, midi in enumerate(instrument.tuning, start=1):
            pitch = parse_pitch(pitch_name(midi, flats=True))
            tuning = _add(staff, "staff-tuning", line=str(line))
            if pitch is not None:
                _add(tuning, "tuning-step", pitch.letter)
                if pitch.alter:
                    _add(tuning, "tuning-alter", pitch.alter)
                _add(tuning, "tuning-octave", pitch.octave)
        if instrument.capo:
            _add(staff, "capo", instrument.capo)

    @staticmethod
    def _tempo(direction: Element, tempo: float) -> Element:
        """Write a tempo, and return what makes it sound."""
        metronome = _add(_add(direction, "direction-type"), "metronome")
        _add(metronome, "beat-unit", "quarter")
        _add(metronome, "per-minute", f"{tempo:g}")
        return _add(direction, "sound", tempo=f"{tempo:g}")

    def _sound(self, measure: Element) -> None:
        sound = self._tempo(_direction(measure), self._riff.phrases[0].bars[0].tempo or self._riff.tempo)
        swing = self._riff.swing
        if not swing.straight:
            made = _add(sound, "swing")
            ratio = swing.share / (1 - swing.share)
            _add(made, "first", ratio.numerator)
            _add(made, "second", ratio.denominator)
            _add(made, "swing-type", "16th" if swing.unit == 16 else "eighth")

    def _comments(self, measure: Element, bar: Bar) -> None:
        for text in (*(LEAD + lead for lead in bar.lead), *([COMMENT + bar.comment] if bar.comment else [])):
            _add(_add(_direction(measure), "direction-type"), "words", xml_words(text))

    def _events(self, measure: Element, events: Iterable[Event]) -> None:
        filled = Fraction(0)
        for event in events:
            self._next = next(self._coming)
            ends = self._tuplet_ends(event, filled)
            if event.chord is not None:
                written_harmony(measure, event.chord)
            self._event(measure, event, ends)
            if event.value.tuplet and not event.grace:
                filled += Fraction(1, event.value.base)
                if "stop" in ends:
                    filled = Fraction(0)
            elif not event.grace:
                filled = Fraction(0)

    def _tuplet_ends(self, event: Event, filled: Fraction) -> set[str]:
        """Whether a tuplet's bracket begins or ends at an event."""
        if not event.value.tuplet or event.grace:
            return set()
        after = self._next
        whole = filled + Fraction(1, event.value.base)
        ends = {"start"} if not filled else set()
        last = after is None or after.value.tuplet != event.value.tuplet or after.grace
        if last or whole >= event.value.tuplet * Fraction(1, event.value.base):
            ends.add("stop")
        return ends

    def _event(self, measure: Element, event: Event, ends: set[str]) -> None:
        for number, note in enumerate(event.notes or (None,)):
            self._note(measure, event, note, number, ends)

    def _note(self, measure: Element, event: Event, note: Note | None, number: int, ends: set[str]) -> None:
        made = _add(measure, "note")
        marks = event.marks | (note.marks if note is not None else frozenset())
        if event.grace:
            _add(made, "grace")
        if number:
            _add(made, "chord")
        if note is None:
            _add(made, "rest")
        else:
            self._pitch(made, note)
        if not event.grace:
            _add(made, "duration", int(event.value.quarters * self._divisions))
        ties = self._ties(event) if note is not None else []
        for kind in ties:
            _add(made, "tie", type=kind)
        _add(made, "voice", 1)
        _add(made, "type", TYPES[event.value.base])
        for _ in range(event.value.dots):
            _add(made, "dot")
        if event.value.tuplet:
            modification = _add(made, "time-modification")
            _add(modification, "actual-notes", event.value.tuplet)
            _add(modification, "normal-notes", tuplet_time(event.value.tuplet))
        if Mark.DEAD in marks:
            _add(made, "notehead", "x")
        self._notations(made, event, note, number, ends, ties, marks)
        if Mark.PALM_MUTE in marks:
            _add(_add(made, "play"), "mute", "palm")

    def _ties(self, event: Event) -> list[str]:
        after = self._next
        found = ["stop"] if Mark.TIE in event.marks else []
        return [*found, "start"] if after is not None and Mark.TIE in after.marks else found

    def _pitch(self, made: Element, note: Note) -> None:
        pitch = self._spelled(note)
        element = _add(made, "pitch")
        _add(element, "step", pitch.letter)
        if pitch.alter:
            _add(element, "alter", pitch.alter)
        _add(element, "octave", pitch.octave)

    def _spelled(self, note: Note) -> Pitch:
        if isinstance(note.target, Pitch):
            return note.target
        spelled = parse_pitch(pitch_name(self._instrument.pitch(note.target), flats=self._flats))
        if spelled is None:
            raise AssertionError(note.target)
        return spelled

    # -- notations --------------------------------------------------------------------------------------------

    def _notations(
        self,
        made: Element,
        event: Event,
        note: Note | None,
        number: int,
        ends: set[str],
        ties: list[str],
        marks: frozenset[Mark],
    ) -> None:
        notations = etree.Element("notations")
        for kind in ties:
            _add(notations, "tied", type=kind)
        if number == 0:
            for kind in sorted(ends):
                _add(notations, "tuplet", type=kind)
        if note is not None:
            after = self._next
            onward = after.marks if after is not None else frozenset()
            if Mark.LET_RING in marks:
                _add(notations, "tied", type="let-ring")
            slides = ((Mark.SLIDE in marks, "stop"), (Mark.SLIDE in onward and number == 0, "start"))
            for wanted, kind in slides:
                if wanted:
                    _add(notations, "slide", type=kind, line_type="solid")
            trill = next((step for mark, step in TRILLS.items() if mark in marks), "")
            if trill or Mark.VIBRATO in marks:
                ornaments = _add(notations, "ornaments")
                if trill:
                    _add(ornaments, "trill-mark", trill_step=trill)
                if Mark.VIBRATO in marks:
                    _add(ornaments, "wavy-line", type="start", smufl="guitarVibratoStroke")
            technical = self._technical(event, note, number, marks, onward)
            if len(technical):
                notations.append(technical)
            own = [ARTICULATIONS[mark] for mark in sorted(marks) if mark in ARTICULATIONS]
            if own:
                articulations = _add(notations, "articulations")
                for name in own:
                    _add(articulations, name)
        if len(notations):
            made.append(notations)

    def _technical(
        self, event: Event, note: Note, number: int, marks: frozenset[Mark], onward: frozenset[Mark]
    ) -> Element:
        technical = etree.Element("technical")
        locks = _together(event.locks, note.locks, number)
        if locks.stroke in BOWS:
            _add(technical, BOWS[locks.stroke])
        if locks.finger is not None:
            _add(technical, "fingering", finger_sign(locks.finger))
        if locks.stroke in PLUCKS:
            _add(technical, "pluck", PLUCKS[locks.stroke])
        if isinstance(note.target, Place):
            _add(technical, "string", note.target.string)
            _add(technical, "fret", note.target.fret)
        for mark, kinds in HARMONICS.items():
            if mark in marks:
                harmonic = _add(technical, "harmonic")
                for kind in kinds:
                    _add(harmonic, kind)
        if Mark.TAP in marks:
            _add(technical, "tap", "T", hand="right")
        for mark, tag, sign in ((Mark.HAMMER, "hammer-on", "H"), (Mark.PULL, "pull-off", "P")):
            if mark in marks:
                _add(technical, tag, type="stop")
            if mark in onward and number == 0:
                _add(technical, tag, sign, type="start")
        for mark, alter in BENDS.items():
            if mark in marks:
                _add(_add(technical, "bend"), "bend-alter", alter)
        if Mark.RELEASE in marks:
            bend = _add(technical, "bend")
            _add(bend, "bend-alter", 0)
            _add(bend, "release")
        for words, wanted in (
            (RAKE, Mark.RAKE in marks),
            (CHORD_PLUCK, locks.stroke is Stroke.CHORD_PLUCK),
            (f"{POSITION} {locks.position}", locks.position is not None),
        ):
            if wanted:
                _add(technical, "other-technical", words)
        return technical


def _together(event: Locks, note: Locks, number: int) -> Locks:
    """What is written at one note: the event's stroke and position at the first one, each note's own finger."""
    first = number == 0
    return Locks(
        (event.stroke if first else None) or note.stroke,
        note.finger or event.finger,
        (event.position if first else None) or note.position,
    )


def _direction(measure: Element) -> Element:
    return _add(measure, "direction", placement="above")
