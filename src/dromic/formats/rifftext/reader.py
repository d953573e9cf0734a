"""Riff text, the reader: lines to a `Riff`, with the place of every event.

Rules beyond the small end (`rifftext_notes`): durations stay in force from word to word; bar lines with
nothing between them count once; phrase marks, repeats and changes of metre or
tempo ({3/4}, {tempo 90}) stand at bar lines, chord signs ({Am7}) before the note where they begin; a bar must fill
its metre.
With a pickup, the first bar has the pickup's length. A later bar may leave the pickup out; the next one then
is a pickup again, so that bar lines stay where the metre puts them. A phrase that repeats must end as it began.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import partial

from dromic.errors import RiffError
from dromic.formats.rifftext.header import FASTEST, LINE, SLOWEST, HeaderReader, read_meter, read_tempo
from dromic.formats.rifftext.notes import Fail, WordReader
from dromic.formats.rifftext.reading import Reading, Span
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for
from dromic.memory import Memo, memo
from dromic.music.chords import Sign, parse_sign
from dromic.music.rhythm import Meter, NoteValue
from dromic.music.riff import Bar, Event, Mark, Note, Phrase, Riff
from dromic.schools.registry import SCHOOLS

MOST_EVENTS = 20_000
MOST_TIMES = 99
TEXT_KEYS = ("title", "key", "section")
_TOKEN = re.compile(r"\|+|\[[^\]]*\]?|\{[^}]*\}?|\([^)]*\)?[^\s|(\[]*|[^\s|(\[]+")
_REPEAT = re.compile(r"x(\d{1,4})")
# Nothing but bars: no marks, changes, comments or repeats.
_WHOLE_BARS = re.compile(r"\s*\|(?:(?!\bx\d|\s#|\|#)[^\[\]{}])*\|\s*")
MOST_LINES = 2_000


def read_riff_text(text: str) -> Reading:
    r"""Read riff text.

    Parameters
    ----------
    text : str

    Returns
    -------
    Reading

    Raises
    ------
    RiffError
        With line and column, what was found, what was expected, and an example.

    Examples
    --------
    >>> reading = read_riff_text("tempo: 90\n| 6:0.m/8 6:0.m 5:7/4 D4 r |")
    >>> len(reading.riff.phrases[0].bars[0].events), reading.spans[2]
    (5, Span(line=2, start=17, end=22))
    """
    if text.lstrip("\ufeff \t\r\n").startswith("{") and '"schema"' in text[:4_000]:
        raise RiffError(
            "this is a project or a hands file, and not riff text; give a project the ending .dromic, and open "
            "hands in the Hands view"
        )
    header = HeaderReader()
    body: _Body | None = None
    riff: Riff | None = None
    comments: list[str] = []
    for number, line in enumerate(text.removeprefix("\ufeff").splitlines(), start=1):
        match = LINE.fullmatch(line)
        if match and body is None:
            value, comment = match[2], None
            if match[1].lower() not in TEXT_KEYS and (found := re.search(r"(?:^|\s+)#(.*)$", value)):
                value, comment = value[: found.start()], found[1].strip()
            header.read(match[1], value, number, match.start(1) + 1, match.start(2) + 1)
            if comment is not None:
                comments.append(comment)
        elif match:
            raise RiffError(
                f"found the header line '{match[1]}' among the bars; header lines stand before the first bar",
                line=number,
                column=match.start(1) + 1,
            )
        elif body is None and (not line.strip() or line.lstrip().startswith("#")):
            if line.strip():
                comments.append(line.lstrip()[1:].strip())
        else:
            if body is None or riff is None:
                riff = header.riff()
                body = _Body(instrument_for(riff), riff.meter, NoteValue(4), riff.pickup)
            body.line(line, number)
    if body is None or riff is None:
        header.riff()
        raise RiffError("there are no bars yet; write some, for example '| 6:0/8 6:0 5:7 5:7 r/2 |'", line=1)
    return body.finish(riff, tuple(comments))


@dataclass(frozen=True)
class _KnownLine:
    """Whole bars of a line, where their events are written, and the duration in force behind them."""

    bars: tuple[Bar, ...]
    spans: tuple[Span, ...]
    value: NoteValue


def _whole_bars(instrument: Instrument, line: str, meter: Meter, value: NoteValue) -> _KnownLine | None:
    """Read a line by itself; None where it is not whole bars that can be read without what stands before."""
    body = _Body(instrument, meter, value)
    try:
        body.read(line, 1)
    except RiffError:
        return None
    return body.whole_line()


def _lines_read(instrument: Instrument) -> Memo[_KnownLine | None]:
    """Lines that were read for an instrument, with the metre and the duration in force before."""
    return Memo(partial(_whole_bars, instrument), MOST_LINES)


def _spans_on(known: _KnownLine, number: int) -> tuple[Span, ...]:
    """Where a line's events are written when it stands on a line of the text."""
    return tuple(Span(number, span.start, span.end) for span in known.spans)


class _Body:
    """Gathers bars and phrases, token by token."""

    def __init__(
        self, instrument: Instrument, meter: Meter, value: NoteValue, pickup: Fraction = Fraction(0)
    ) -> None:
        self._meter, self._pickup = meter, pickup
        self._new_meter: Meter | None = None
        self._new_tempo: float | None = None
        self._sign: tuple[Sign, tuple[int, int]] | None = None
        self._words = WordReader(instrument, value)
        self._lines = memo(_lines_read, instrument)
        self._spans: list[Span] = []
        self._phrases: list[Phrase] = []
        self._name: str | None = None
        self._school = ""
        self._mark_place = (1, 1)
        self._bars: list[Bar] = []
        self._events: list[Event] = []
        self._lead: list[str] = []
        self._notes: list[str] = []
        self._at_pickup = self._began_at_pickup = bool(pickup)
        self._previous: Event | None = None
        self._closed_on = 0
        self._count = 0
        self._last = (1, 1)

    def line(self, line: str, number: int) -> None:
        """Read a line; whole bars that were read before, in the same metre and duration, are taken as they were."""
        alone = _WHOLE_BARS.fullmatch(line) is not None and not self._expects
        known = self._lines(line, self._meter, self._words.value) if alone else None
        if known is None:
            self.read(line, number)
        else:
            self._take(known, line, number)

    def whole_line(self) -> _KnownLine | None:
        """What has been read, where it is whole bars and nothing else."""
        if not self._bars or self._events:
            return None
        return _KnownLine(tuple(self._bars), tuple(self._spans), self._words.value)

    @property
    def _expects(self) -> bool:
        """Whether what stands before a line has a say in it."""
        pending = self._events or self._lead or self._notes or self._pickup
        grace = self._previous is not None and self._previous.grace
        return bool(pending or grace or self._sign or self._new_meter or self._new_tempo)

    def _take(self, known: _KnownLine, line: str, number: int) -> None:
        self._bars += known.bars
        self._spans += memo(_spans_on, known, number)
        if len(self._spans) > MOST_EVENTS:
            message = f"a riff holds at most {MOST_EVENTS} notes and rests; split it into several files"
            raise self._error((number, 1), message)
        self._words.value, self._previous = known.value, known.bars[-1].events[-1]
        self._closed_on, self._last = number, (number, len(line.rstrip()) + 1)

    def read(self, line: str, number: int) -> None:
        """Read a line token by token."""
        at = 0
        while at < len(line):
            if line[at].isspace():
                at += 1
                continue
            place = (number, at + 1)
            if line[at] == "#":
                self._comment(line[at + 1 :].strip(), number)
                return
            match = _TOKEN.match(line, at)
            token = match[0] if match else line[at]
            self._last = (number, at + 1 + len(token))
            self._token(token, place)
            at += len(token)

    def _token(self, token: str, place: tuple[int, int]) -> None:
        if token.startswith("|"):
            self._bar_line(place)
        elif token.startswith("["):
            self._phrase_mark(token, place)
        elif token.startswith("{"):
            self._change(token, place)
        elif match := _REPEAT.fullmatch(token):
            self._repeat(int(match[1]), place)
        else:
            self._word(token, place)

    def _error(self, place: tuple[int, int], message: str) -> RiffError:
        return RiffError(message, line=place[0], column=place[1])

    def _comment(self, text: str, line: int) -> None:
        if self._events:
            self._notes.append(text)
        elif self._closed_on == line:
            if self._bars:
                self._bars[-1] = _with_comment(self._bars[-1], text)
            else:
                phrase = self._phrases[-1]
                bars = (*phrase.bars[:-1], _with_comment(phrase.bars[-1], text))
                self._phrases[-1] = replace(phrase, bars=bars)
        else:
            self._lead.append(text)

    def _word(self, token: str, place: tuple[int, int]) -> None:
        def fail(offset: int, message: str) -> RiffError:
            return self._error((place[0], place[1] + offset), message)

        if token.startswith("(") and ")" not in token:
            raise fail(0, "this parenthesis is not closed in its line; for example '(6:6 5:8)/4'")
        event = self._words.read(token, fail)
        begins = place[1]
        if self._sign is not None:
            sign, (line, column) = self._sign
            event, self._sign = replace(event, chord=sign), None
            begins = column if line == place[0] else begins
        self._check_links(event, fail)
        self._events.append(event)
        self._previous = event
        self._spans.append(Span(place[0], begins, place[1] + len(token)))
        if len(self._spans) > MOST_EVENTS:
            raise fail(0, f"a riff holds at most {MOST_EVENTS} notes and rests; split it into several files")

    def _check_links(self, event: Event, fail: Fail) -> None:
        before = self._previous
        if before is not None and before.grace and event.rest:
            raise fail(0, "a grace note leads to a rest; write a note after it, for example '5:5.g 5:7.h'")
        if Mark.TIE in event.marks and (before is None or _whats(before.notes) != _whats(event.notes)):
            raise fail(
                0,
                "a tie goes on sounding the note before it; write the same note twice, for example '5:7/4 5:7.t/8'",
            )

    def _bar_line(self, place: tuple[int, int]) -> None:
        if not self._events:
            return
        comment = "; ".join(note for note in self._notes if note)
        bar = Bar(tuple(self._events), tuple(self._lead), comment, self._new_meter, self._new_tempo)
        if bar.quarters == 0:
            raise self._error(place, "this bar holds only grace notes; write the note they lead to")
        self._check_length(bar.quarters, place)
        self._bars.append(bar)
        self._new_meter = self._new_tempo = None
        self._events.clear()
        self._lead.clear()
        self._notes.clear()
        self._closed_on = place[0]

    def _check_length(self, found: Fraction, place: tuple[int, int]) -> None:
        full, pickup = self._meter.bar, self._pickup
        wanted = pickup if self._at_pickup else full
        if found == wanted:
            self._at_pickup = False
        elif pickup and not self._at_pickup and found == full - pickup:
            self._at_pickup = True
        else:
            raise self._error(place, self._length_message(found, wanted))

    def _length_message(self, found: Fraction, wanted: Fraction) -> str:
        name = "pickup" if self._at_pickup else f"bar of {self._meter}"
        gap = wanted - found
        hint = f"{_quarters(abs(gap))} {'missing' if gap > 0 else 'too many'}"
        example = "; fill it, for example with 'r/4', or change the meter line" if gap > 0 else "; shorten it"
        return f"found a bar of {_quarters(found)}, expected {_quarters(wanted)} for a {name}: {hint}{example}"

    def _change(self, token: str, place: tuple[int, int]) -> None:
        """Read a change of metre or tempo, or a chord sign."""
        words = token.strip("{}").strip()
        if words[:1] in (*"ABCDEFGN",) and token.endswith("}"):
            self._chord_sign(token, words, place)
            return
        if words.startswith("tempo"):
            self._between_bars(place, "a change of tempo")
            try:
                self._new_tempo = read_tempo(words.removeprefix("tempo").strip(" :"))
            except RiffError:
                raise self._error(
                    place,
                    f"found '{token}', expected a tempo from {SLOWEST:g} to {FASTEST:g} in braces, for example "
                    "'{tempo 90}'",
                ) from None
            return
        self._between_bars(place, "a metre change")
        if self._at_pickup:
            raise self._error(place, "a metre changes where a full bar begins; finish the pickup's bar before it")
        try:
            self._new_meter = read_meter(token.strip("{}").strip())
        except RiffError:
            raise self._error(
                place,
                f"found '{token}', expected a metre, a tempo or a chord in braces, for example '{{7/8}}', "
                "'{tempo 90}' or '{Am7}'",
            ) from None
        self._meter = self._new_meter

    def _chord_sign(self, token: str, words: str, place: tuple[int, int]) -> None:
        sign = parse_sign(words)
        if sign is None:
            raise self._error(
                place,
                f"found '{token}', expected a chord sign that means something, for example '{{Am7}}', '{{G7b9}}', "
                "'{D/F#}', or '{N.C.}' for no chord",
            )
        if self._sign is not None:
            raise self._error(
                place,
                f"two chord signs stand before one note, '{{{self._sign[0]}}}' and '{token}'; write each before "
                "the note where it begins, and tie a note over where it changes",
            )
        self._sign = (sign, place)

    def _phrase_mark(self, token: str, place: tuple[int, int]) -> None:
        name, sign, school = token[1:-1].strip().partition(" = ")
        name, school = name.strip(), school.strip()
        if sign and school not in SCHOOLS:
            raise self._error(
                place,
                f"found the school '{school}', expected one of {', '.join(SCHOOLS)}, for example '[B = economy]'",
            )
        if not token.endswith("]") or not name or len(name) > 40 or "[" in name:
            raise self._error(place, f"found '{token}', expected a phrase name in brackets, for example '[A]'")
        self._close_phrase(1, place)
        self._name, self._school, self._mark_place = name, school, place

    def _repeat(self, times: int, place: tuple[int, int]) -> None:
        if not 1 <= times <= MOST_TIMES:
            raise self._error(place, f"found x{times}, expected x1 to x{MOST_TIMES}, for example 'x3'")
        self._between_bars(place, "a repeat")
        if not self._bars:
            raise self._error(place, f"x{times} repeats nothing; write bars before it, for example '| 6:0/1 | x3'")
        self._close_phrase(times, place)
        self._closed_on = place[0]

    def _between_bars(self, place: tuple[int, int], what: str) -> None:
        if self._events:
            length = sum((event.quarters for event in self._events), Fraction(0))
            if length < self._meter.bar and not (self._pickup and length):
                raise self._error(
                    place,
                    f"{what} stands at a bar line, but this bar has only {_quarters(length)}; finish it with '|'",
                )
            self._bar_line(place)

    def _close_phrase(self, times: int, place: tuple[int, int]) -> None:
        self._between_bars(place, "a phrase mark")
        if not self._bars:
            if self._name is not None:
                raise self._error(
                    self._mark_place,
                    f"the phrase [{self._name}] has no bars; write some after it, or take it out",
                )
            return
        if times > 1 and self._at_pickup != self._began_at_pickup:
            rest = self._meter.bar - (self._pickup if self._began_at_pickup else 0)
            raise self._error(
                place,
                "the end of this phrase does not join its start when it repeats: "
                f"expected {_quarters(rest)} in its last bar, because of the pickup",
            )
        self._count += times * sum(len(bar.events) for bar in self._bars)
        if self._count > MOST_EVENTS:
            raise self._error(place, f"with its repeats this riff has more than {MOST_EVENTS} notes; repeat less")
        self._phrases.append(Phrase(tuple(self._bars), self._name, times, self._school))
        self._bars, self._name, self._school = [], None, ""
        self._began_at_pickup = self._at_pickup

    def finish(self, riff: Riff, comments: tuple[str, ...]) -> Reading:
        if self._previous is not None and self._previous.grace:
            span = self._spans[-1]
            raise self._error(
                (span.line, span.start), "a grace note leads to nothing; write the note it leads to after it"
            )
        change = self._new_meter or self._new_tempo
        if change is not None and not self._events:
            raise self._error(self._last, f"no bar follows the change to {change}; write one, or take it out")
        if self._sign is not None:
            raise self._error(
                self._sign[1],
                f"the chord sign '{{{self._sign[0]}}}' stands before nothing; write the note it begins with",
            )
        tail = tuple(self._lead) if not self._events else ()
        self._close_phrase(1, self._last)
        if not self._phrases:
            raise self._error((1, 1), "there are no bars yet; write some, for example '| 6:0/8 6:0 5:7 5:7 r/2 |'")
        first = self._phrases[0]
        if first.name is None:
            comments += first.bars[0].lead
            bars = (replace(first.bars[0], lead=()), *first.bars[1:])
            self._phrases[0] = replace(first, bars=bars)
        riff = replace(riff, phrases=tuple(self._phrases), comments=comments, tail=tail)
        return Reading(riff, tuple(self._spans))


def _with_comment(bar: Bar, text: str) -> Bar:
    return replace(bar, comment="; ".join(part for part in (bar.comment, text) if part))


def _whats(notes: tuple[Note, ...]) -> list[str]:
    return [str(note.target) for note in notes]


def _quarters(length: Fraction) -> str:
    """Name a length.

    Examples
    --------
    >>> _quarters(Fraction(1)), _quarters(Fraction(7, 2))
    ('1 quarter note', '7/2 quarter notes')
    """
    return f"{length} quarter note{'' if length == 1 else 's'}"
