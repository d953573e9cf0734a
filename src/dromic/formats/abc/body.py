"""ABC, the music: notes, chords, grace notes, tuplets, broken rhythm, rolls, repeats and endings (standard 2.1)."""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from fractions import Fraction

from dromic.formats.abc.bar import Proto, as_the_bar_asks, events_of
from dromic.formats.abc.fields import Key, read_abc_meter, read_abc_tempo, read_key, read_length
from dromic.formats.reading.bounds import NoteBound
from dromic.formats.reading.raw import RawBar, Remarks, phrase_name
from dromic.formats.reading.repeats import MarkedBar
from dromic.music.chords import Sign, parse_sign
from dromic.music.pitch import Pitch
from dromic.music.rhythm import Meter, tuplet_time
from dromic.music.riff import Event, Mark, Stroke

_NOTE = re.compile(r"(\^\^|\^|__|_|=)?([A-Ga-g])([,']*)")
_LENGTH = re.compile(r"(\d{1,4})?(/+)?(\d{1,4})?")
_TUPLET = re.compile(r"\((\d)(?::(\d{0,2})(?::(\d{0,2}))?)?")
_BAR = re.compile(r":*\|[\]|]?:*|::+|\[\||\|\]")
_ENDING = re.compile(r"\[?\s*(\d{1,2}(?:\s*[-,]\s*\d{1,2})*)")
_INLINE = re.compile(r"\[([A-Za-z]):([^\]]*)\]")
# A chord does not go over a bar line; a lone bracket is a slip of the pen.
_CHORD = re.compile(r"\[(?=[\s!\"^_=.A-Ga-g])(?:![^!|]{0,40}!|\"[^\"]{0,80}\"|[^]|!\"]){0,120}\]")
_WORDS = re.compile(r"!([^!]{0,40})!|\"[^\"]{0,80}\"")
_OLD_CHORD = re.compile(r"\+((?:[_^=]{0,2}[A-Ga-g][,']*[\d/]*){2,})\+")
_SIGNS = {"^^": 2, "^": 1, "=": 0, "_": -1, "__": -2}
_TUPLET_TIMES = {2: 3, 3: 2, 4: 3, 6: 2, 8: 3}
LONGEST = Fraction(64)
_DECORATIONS: dict[str, Mark | Stroke] = {
    "accent": Mark.ACCENT,
    ">": Mark.ACCENT,
    "emphasis": Mark.ACCENT,
    "staccato": Mark.STACCATO,
    "upbow": Stroke.UP,
    "downbow": Stroke.DOWN,
    "slide": Mark.SLIDE,
}
_SHORT = {"L": "accent", ".": "staccato", "u": "upbow", "v": "downbow", "~": "roll", "J": "slide", "T": "trill"}
_KNOWN_SIGNS = frozenset("HMOPS")


@dataclass
class BodyReader:
    """Reads the body of one voice, line by line.

    Parameters
    ----------
    key : Key
    meter : Meter or None
    unit : Fraction
        Unit length, of a whole note.
    carry : str
        How far an accidental holds: ``pitch``, ``octave`` or ``not``.
    remarks : Remarks
    """

    key: Key
    meter: Meter | None
    unit: Fraction
    carry: str
    remarks: Remarks
    tempo: float | None = None
    bars: list[MarkedBar] = field(default_factory=list)
    _bar: list[Proto] = field(default_factory=list)
    _bound: NoteBound = field(default_factory=NoteBound)
    _pieces: NoteBound = field(default_factory=NoteBound)
    _accidentals: dict[str, int] = field(default_factory=dict)
    _pending: MarkedBar = field(default_factory=lambda: MarkedBar(RawBar()))
    _decorations: list[str] = field(default_factory=list)
    _tuplet: list[tuple[Fraction, int, Fraction]] = field(default_factory=list)
    _broken: Fraction | None = None
    _tie: tuple[Pitch, ...] = ()
    _slurs: int = 0
    _sign: Sign | None = None

    # -- tokens -----------------------------------------------------------------------------------------------

    def line(self, text: str) -> None:
        """Read a line of music."""
        at = 0
        while at < len(text):
            at = self._token(text, at)

    def _token(self, text: str, at: int) -> int:
        sign = text[at]
        if sign in " \t`y$*;?@":
            return at + 1
        if sign == "%":
            return len(text)
        if sign == "+" and (end_of_chord := self._old_chord(text, at)):
            return end_of_chord
        if sign in "!+":
            end = text.find(sign, at + 1)
            if end > 0:
                self._decorations.append(text[at + 1 : end].strip())
                return end + 1
            return at + 1
        if sign == '"':
            end = text.find('"', at + 1)
            self._chord_sign(text[at + 1 : end] if end > 0 else "")
            return end + 1 if end > 0 else len(text)
        if match := _INLINE.match(text, at):
            self.field(match[1], match[2])
            return match.end()
        for read in (self._bar_line, self._ending, self._note_or_chord, self._grace, self._tuplet_sign):
            after = read(text, at)
            if after is not None:
                return after
        return self._lone_sign(text, at)

    def _lone_sign(self, text: str, at: int) -> int:
        sign = text[at]
        if sign in "<>":
            end = at
            while end < len(text) and text[end] == sign:
                end += 1
            self._break(sign, end - at)
            return end
        if sign in _SHORT:
            self._decorations.append(_SHORT[sign])
        elif sign == "-":
            self._mark_tie()
        elif sign in "()":
            self._slurs += sign == "("
            self.remarks.add("slurs are left out: whether to hammer on or to pick is for the plan to say")
        elif sign == "&":
            self.remarks.add("a second voice in the same bar (&) is left out")
            end = text.find("|", at)
            return end if end > 0 else len(text)
        elif sign in _KNOWN_SIGNS:
            self.remarks.add("ornaments other than rolls and grace notes are left out")
        elif sign not in "\\{}[]":
            self.remarks.add("signs that are not understood are left out", f"'{sign}'")
        return at + 1

    def field(self, letter: str, text: str) -> None:
        """Take a field inside the music."""
        text = text.split("%")[0].strip()
        if letter == "K":
            self.key = read_key(text) or self.key
        elif letter == "L":
            self.unit = read_length(text) or self.unit
        elif letter == "M":
            try:
                meter = read_abc_meter(text)
            except ValueError:
                self.remarks.add("metres that are not understood are left out", f"'{text}'")
                return
            if self._bar:
                self._close()
            self.meter = meter
        elif letter == "P":
            if self._bar:
                self._close()
            self._pending.name = phrase_name(text)
        elif letter == "Q":
            if self._bar:
                self._close()
            self.tempo = read_abc_tempo(text, self.unit) or self.tempo

    # -- bars -------------------------------------------------------------------------------------------------

    def _bar_line(self, text: str, at: int) -> int | None:
        match = _BAR.match(text, at)
        if match is None or (text[at] == "[" and text[at : at + 2] != "[|"):
            return None
        sign = match[0]
        before = len(sign) - len(sign.lstrip(":")) if "|" in sign else len(sign) // 2
        after = len(sign) - len(sign.rstrip(":")) if "|" in sign else len(sign) - len(sign) // 2
        self._close()
        if self.bars:
            last = self.bars[-1]
            if before:
                last.rounds = max(last.rounds, before + 1)
            if "||" in sign or "]" in sign or sign.startswith("[|"):
                last.double = True
        if (after and "|" in sign) or set(sign) == {":"}:
            self._pending.begins = True
        return match.end()

    def _ending(self, text: str, at: int) -> int | None:
        match = _ENDING.match(text, at)
        if match is None or self._bar:
            return None
        numbers: set[int] = set()
        for piece in re.split(r"\s*,\s*", match[1]):
            low, _, high = (one.strip() for one in piece.partition("-"))
            numbers |= set(range(int(low), min(int(high or low), 99) + 1))
        self._pending.ending = tuple(sorted(numbers))
        return match.end()

    def _close(self) -> None:
        """End the bar; where nothing stands, the next one begins."""
        self._accidentals = {}
        self._broken = None
        self._tuplet = []
        if not self._bar:
            return
        if as_the_bar_asks(self._bar, self.meter):
            self.remarks.add("tuplets of 5, 7 or 9 are in the time of 4 or 8, as their bar asks")
        events: list[Event] = []
        for proto in self._bar:
            pieces = events_of(proto, self.key)
            # A long note is tied together of many values.
            self._pieces.add(len(pieces))
            events += pieces
        length = sum((event.quarters for event in events), Fraction(0))
        meter = self.meter or _free_meter(length)
        self._pending.bar = RawBar(events, meter, tempo=self.tempo)
        self.bars.append(self._pending)
        self._pending = MarkedBar(RawBar())
        self._bar = []

    def finish(self) -> list[MarkedBar]:
        """Return all bars."""
        self._close()
        return self.bars

    # -- notes ------------------------------------------------------------------------------------------------

    def _note_or_chord(self, text: str, at: int) -> int | None:
        if text[at] in "zxZX":
            return self._rest(text, at)
        if text[at] == "[":
            return self._chord(text, at)
        found = self._pitch(text, at)
        if found is None:
            return None
        pitch, at = found
        length, at = _length(text, at)
        self._add((pitch,), length)
        return at

    def _pitch(self, text: str, at: int) -> tuple[Pitch, int] | None:
        match = _NOTE.match(text, at)
        if match is None:
            return None
        sign, letter, marks = match.groups()
        upper = letter.upper()
        octave = 4 + letter.islower() + marks.count("'") - marks.count(",")
        name = upper if self.carry == "pitch" else f"{upper}{octave}"
        if sign:
            alter = _SIGNS[sign]
            if self.carry != "not":
                self._accidentals[name] = alter
        else:
            alter = self._accidentals.get(name, self.key.alter(upper))
        return Pitch(upper, alter, min(max(octave, 0), 9)), match.end()

    def _chord(self, text: str, at: int) -> int | None:
        match = _CHORD.match(text, at)
        if match is None:
            return None
        end = match.end() - 1
        inside = self._pitches(text, at + 1, end)
        if not inside:
            return end + 1
        outer, after = _length(text, end + 1)
        self._chord_of(inside, outer)
        return after

    def _old_chord(self, text: str, at: int) -> int | None:
        """Read a chord between plus signs, as before standard 2.0; now decorations such as forte stand there."""
        match = _OLD_CHORD.match(text, at)
        if match is None or set(match[1]) <= set("f"):
            return None
        outer, after = _length(text, match.end())
        self._chord_of(self._pitches(text, match.start(1), match.end(1)), outer)
        return after

    def _chord_of(self, inside: list[tuple[Pitch, Fraction]], outer: Fraction) -> None:
        unlike = {pitch.midi: pitch for pitch, _ in inside}
        self._add(tuple(unlike[midi] for midi in sorted(unlike)), inside[0][1] * outer)

    def _pitches(self, text: str, at: int, end: int) -> list[tuple[Pitch, Fraction]]:
        """Pitches with their lengths between two places; whatever else stands there is passed over."""
        inside: list[tuple[Pitch, Fraction]] = []
        while at < end:
            if match := _WORDS.match(text, at, end):
                self._decorations += [match[1].strip()] if match[1] else []
                at = match.end()
                continue
            found = self._pitch(text, at)
            if found is None:
                at += 1
                continue
            pitch, at = found
            length, at = _length(text, at)
            inside.append((pitch, length))
        return inside

    def _rest(self, text: str, at: int) -> int:
        sign = text[at]
        length, after = _length(text, at + 1)
        if sign in "zx":
            self._add((), length)
            return after
        meter = self.meter or Meter()
        for number in range(min(int(length), 64)):
            if number or self._bar:
                self._close()
            self._bound.add()
            self._bar.append(Proto(meter.bar, chord=self._sign))
            self._sign = None
        self._close()
        return after

    def _chord_sign(self, text: str) -> None:
        """Take a chord sign; other words above or below the notes begin with a sign of where they stand."""
        # Some books give another chord in parentheses.
        words = text.split(";")[0].strip()
        if not words or words[0] in "^_<>@":
            return
        sign = parse_sign(words) or parse_sign(words.split("(")[0])
        if sign is None:
            self.remarks.add("chord signs that are not understood are left out", f"'{words[:20]}'")
        self._sign = sign or self._sign

    def _grace(self, text: str, at: int) -> int | None:
        if text[at] != "{":
            return None
        end = text.find("}", at)
        if end < 0:
            return None
        for pitch, _ in self._pitches(text, at + 1, end):
            self._bound.add()
            self._bar.append(Proto(Fraction(0), (pitch,), grace=True, marks=frozenset({Mark.GRACE})))
        return end + 1

    def _add(self, pitches: tuple[Pitch, ...], factor: Fraction) -> None:
        length = min(self.unit * 4 * factor, LONGEST)
        proto = Proto(length, pitches, chord=self._sign)
        self._sign = None
        if self._tuplet:
            share, left, custom = self._tuplet.pop()
            proto.length *= share
            proto.tuplet, proto.custom = True, custom
            if left > 1:
                self._tuplet.append((share, left - 1, custom))
        if self._broken is not None:
            proto.length *= self._broken
            self._broken = None
        for name in self._decorations:
            self._decorate(proto, name)
        self._decorations = []
        if self._tie and pitches == self._tie:
            proto.marks |= {Mark.TIE}
            proto.marks -= {Mark.SLIDE}
        self._tie = ()
        self._bound.add()
        self._bar.append(proto)

    def _decorate(self, proto: Proto, name: str) -> None:
        wanted = _DECORATIONS.get(name)
        if not proto.notes:
            return
        if name == "roll":
            proto.roll = True
        elif name in ("trill", "trill("):
            proto.trill = True
        elif name in tuple("12345"):
            if len(proto.notes) == 1 and name != "5":
                proto.locks = replace(proto.locks, finger=int(name))
            elif name != "5":
                self.remarks.add("fingers of chords are left out")
        elif isinstance(wanted, Stroke):
            proto.locks = replace(proto.locks, stroke=wanted)
        elif isinstance(wanted, Mark):
            proto.marks |= {wanted}
        else:
            self.remarks.add("ornaments other than rolls and grace notes are left out")

    def _mark_tie(self) -> None:
        if self._bar and self._bar[-1].notes and not self._bar[-1].grace:
            self._tie = self._bar[-1].notes

    def _break(self, sign: str, count: int) -> None:
        last = next((proto for proto in reversed(self._bar) if not proto.grace), None)
        if last is None or count > 3:
            return
        short = Fraction(1, 2**count)
        long = 2 - short
        last.length *= long if sign == ">" else short
        self._broken = short if sign == ">" else long

    def _tuplet_sign(self, text: str, at: int) -> int | None:
        match = _TUPLET.match(text, at)
        if match is None or int(match[1]) < 2:
            return None
        count = int(match[1])
        compound = self.meter is not None and self.meter.compound
        time = int(match[2]) if match[2] else _TUPLET_TIMES.get(count, 3 if compound else 2)
        notes = int(match[3]) if match[3] else count
        given = match[2] or count not in (5, 7, 9)
        custom = Fraction(1) if given else Fraction(tuplet_time(count), time)
        if time and notes:
            self._tuplet = [(Fraction(time, count), notes, custom)]
        return match.end()


def _length(text: str, at: int) -> tuple[Fraction, int]:
    match = _LENGTH.match(text, at)
    if match is None:
        return Fraction(1), at
    above, slashes, below = match.groups()
    if slashes is None and below is not None:
        return Fraction(int(above or 1)), match.end(1)
    number = Fraction(int(above) if above else 1)
    if slashes:
        number /= int(below) if below and int(below) else 2 ** min(len(slashes), 8)
    return number or Fraction(1), match.end()


def _free_meter(length: Fraction) -> Meter:
    """A metre for a bar of free length."""
    for unit in (4, 8, 16, 32):
        count = length * unit / 4
        if count.denominator == 1 and 1 <= count <= 32:
            return Meter(int(count), unit)
    return Meter()
