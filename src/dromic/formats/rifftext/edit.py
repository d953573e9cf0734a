"""Riff text, changed where the riff has changed: whatever else the player wrote stays as it was written.

Words are replaced one by one where a bar keeps its number of events, whole bars where it does not, and header
lines by themselves. A text made so counts only when it reads as the wanted riff; else all bars are written anew,
and at last the whole text.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import accumulate

from dromic.errors import RiffError
from dromic.formats.rifftext.header import LINE
from dromic.formats.rifftext.reader import TEXT_KEYS, read_riff_text
from dromic.formats.rifftext.reading import Reading
from dromic.formats.rifftext.writer import EventWriter, body_lines, header_fields, write_riff_text
from dromic.music.rhythm import NoteValue
from dromic.music.riff import Bar, Phrase, Riff


def edited_text(text: str, reading: Reading, riff: Riff) -> tuple[str, Reading]:
    r"""Return text that reads as another riff, with as little changed as possible.

    Parameters
    ----------
    text : str
    reading : Reading
        What `text` reads as.
    riff : Riff
        What it is to read as.

    Returns
    -------
    str
    Reading

    Raises
    ------
    RiffError
        When the riff cannot be said in riff text.

    Examples
    --------
    >>> from dromic.music import editing
    >>> text = "tempo:  90   # slow\n|  6:0/8   6:3 5:7/4  5:5 r |  # here\n"
    >>> reading = read_riff_text(text)
    >>> shorter = editing.silence(reading.riff, 1)
    >>> print(edited_text(text, reading, shorter)[0])
    tempo:  90   # slow
    |  6:0/8   r 5:7/4  5:5 r |  # here
    <BLANKLINE>
    """
    text = text.removeprefix("\ufeff")
    for attempt in (_music_changed, _header_changed, _body_anew):
        candidate = attempt(text, reading, riff)
        if candidate is None:
            continue
        try:
            read = read_riff_text(candidate)
        except RiffError:
            continue
        if read.riff == riff:
            # The riff that was changed has most of its bars in common with the one before, as objects.
            return candidate, replace(read, riff=riff)
    whole = write_riff_text(riff)
    return whole, read_riff_text(whole)


def _head(riff: Riff) -> Riff:
    return replace(riff, phrases=())


def _mark(phrase: Phrase) -> tuple[str | None, str, int]:
    return phrase.name, phrase.school, phrase.times


# -- the music ------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class _Part:
    """Bars of a phrase, old and new; `first` is the number of the first old event, `leads` of the phrase's own."""

    old: tuple[Bar, ...]
    new: tuple[Bar, ...]
    first: int
    leads: int


def _parts(old: Phrase, new: Phrase, first: int) -> Iterator[_Part]:
    """One phrase, cut into the bars before the change, those that changed, and those behind."""
    least = min(len(old.bars), len(new.bars))
    before = 0
    while before < least and old.bars[before] == new.bars[before]:
        before += 1
    behind = 0
    while behind < least - before and old.bars[-1 - behind] == new.bars[-1 - behind]:
        behind += 1
    leads, old_end, new_end = first, len(old.bars) - behind, len(new.bars) - behind
    for bars, instead in (
        (old.bars[:before], new.bars[:before]),
        (old.bars[before:old_end], new.bars[before:new_end]),
        (old.bars[old_end:], new.bars[new_end:]),
    ):
        yield _Part(bars, instead, first, leads)
        first += sum(len(bar.events) for bar in bars)


class _Splicer:
    """Replaces events of a text, and keeps count of the duration in force."""

    def __init__(self, text: str, reading: Reading) -> None:
        self._starts = [0, *accumulate(map(len, text.splitlines(keepends=True)))]
        self._text, self._spans = text, reading.spans
        # The durations in force, in the new riff and in the old one.
        self._value = self._old_value = NoteValue(4)
        self._changes: list[tuple[int, int, str]] = []

    def _place(self, event: int) -> tuple[int, int]:
        """Where an event of the old riff begins and ends in the text."""
        span = self._spans[event]
        line = self._starts[span.line - 1] - 1
        return line + span.start, line + span.end

    def part(self, part: _Part) -> bool:
        """Replace some bars; False where that needs the text as a whole."""
        at, same = part.first, part.old == part.new
        for number, (old, new) in enumerate(zip(part.old, part.new, strict=False)):
            if same and self._value == self._old_value:
                # From here on every word is as it was.
                self._value = self._old_value = _last_value(part.old[number:], self._value)
                return True
            if len(old.events) == len(new.events):
                self._words(old, new, at)
            else:
                start, end = self._place(at)[0], self._place(at + len(old.events) - 1)[1]
                self._changes.append((start, end, self._written(new)))
            self._old_value = _last_value((old,), self._old_value)
            at += len(old.events)
        more = part.new[len(part.old) :]
        if len(part.old) != len(part.new) and at == part.leads:
            return False
        if more:
            end = self._place(at - 1)[1]
            self._changes.append((end, end, "".join(f" |\n| {self._written(bar)}" for bar in more)))
        fewer = part.old[len(part.new) :]
        if fewer:
            gone = sum(len(bar.events) for bar in fewer)
            self._changes.append((self._place(at - 1)[1], self._place(at + gone - 1)[1], ""))
            self._old_value = _last_value(fewer, self._old_value)
        return True

    def _words(self, old: Bar, new: Bar, at: int) -> None:
        """Replace those events of a bar that changed, and write a duration where it is no longer in force."""
        for place, (before, after) in enumerate(zip(old.events, new.events, strict=True), start=at):
            start, end = self._place(place)
            # A chord sign in braces before the note may have a stroke of its own.
            explicit = "/" in self._text[start:end].rpartition("}")[2]
            in_force = after.grace or after.value == self._value
            if before != after or (not explicit and not in_force):
                writer = EventWriter(self._value, always=explicit)
                self._changes.append((start, end, writer.event(after)))
            if not after.grace:
                self._value = after.value

    def _written(self, bar: Bar) -> str:
        writer = EventWriter(self._value)
        words = " ".join(writer.event(event) for event in bar.events)
        self._value = writer.value
        return words

    def text(self) -> str:
        """The text with everything replaced."""
        pieces, done = [], 0
        for start, end, words in self._changes:
            pieces += [self._text[done:start], words]
            done = end
        return "".join((*pieces, self._text[done:]))


def _last_value(bars: Sequence[Bar], value: NoteValue) -> NoteValue:
    """The duration in force behind some bars, one being in force before them."""
    events = (event for bar in reversed(bars) for event in reversed(bar.events))
    return next((event.value for event in events if not event.grace), value)


def _music_changed(text: str, reading: Reading, riff: Riff) -> str | None:
    before = reading.riff
    if _head(before) != _head(riff) or [*map(_mark, before.phrases)] != [*map(_mark, riff.phrases)]:
        return None
    splicer, first = _Splicer(text, reading), 0
    for old, new in zip(before.phrases, riff.phrases, strict=True):
        for part in _parts(old, new, first):
            if not splicer.part(part):
                return None
        first += sum(len(bar.events) for bar in old.bars)
    return splicer.text()


# -- the header -----------------------------------------------------------------------------------------------


def _header_changed(text: str, reading: Reading, riff: Riff) -> str | None:
    if reading.riff.phrases != riff.phrases:
        return None
    head, body = _head_and_body(text)
    for (key, old), (_, new) in zip(header_fields(reading.riff), header_fields(riff), strict=True):
        if old != new:
            _set(head, key, new)
    return "".join((*head, *body))


def _head_and_body(text: str) -> tuple[list[str], list[str]]:
    lines = text.splitlines(keepends=True)
    for number, line in enumerate(lines):
        if line.strip() and not line.lstrip().startswith("#") and LINE.fullmatch(line.rstrip("\r\n")) is None:
            return lines[:number], lines[number:]
    return lines, []


def _body_anew(text: str, reading: Reading, riff: Riff) -> str | None:
    if _head(reading.riff) != _head(riff):
        return None
    head, _ = _head_and_body(text)
    return "".join(head).rstrip() + "\n" * bool(head) + "\n".join(body_lines(riff)) + "\n"


def _set(lines: list[str], key: str, value: str) -> None:
    """Give a header line another value, write it behind the others where there is none, or take it out."""
    last = -1
    for number, line in enumerate(lines):
        match = LINE.fullmatch(line.rstrip("\r\n"))
        if match is None:
            continue
        last = number
        if match[1].lower() == key:
            comment = None if key in TEXT_KEYS else re.search(r"\s+#.*$", match[2])
            kept = line[match.end(2) :] if comment is None else comment[0] + line[match.end(2) :]
            lines[number] = line[: match.start(2)] + value + kept if value else ""
            return
    if value:
        lines.insert(last + 1, f"{key}: {value}\n")
