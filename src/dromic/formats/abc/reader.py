"""ABC tune books, the reader: tunes and voices to choose from, each as a riff of pitches.

A reader of our own for those parts of the ABC standard 2.1 that tunes use. The readers that are there expand
repeats from the wrong place, let accidentals go inside the bar, or need packages that do not install beside ours.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import pairwise

from dromic.errors import RiffError
from dromic.formats.abc.body import BodyReader
from dromic.formats.abc.fields import Key, default_length, read_abc_meter, read_abc_tempo, read_key, read_length
from dromic.formats.abc.parts import in_order
from dromic.formats.abc.writer import OWN
from dromic.formats.reading.assembly import assembled
from dromic.formats.reading.own_header import with_own_fields
from dromic.formats.reading.raw import Imported, Part, Remarks, Source, clean_title
from dromic.formats.reading.repeats import phrases_of
from dromic.music.rhythm import Meter
from dromic.music.riff import Riff

_FIELD = re.compile(r"([A-Za-z]):(.*)")
_CARRY = re.compile(r"%%propagate-accidentals\s+(not|octave|pitch)")
_NO_MUSIC = frozenset("ABCDFGHINORSTWXZmrsw")
# Mail programs write an equals sign as =3D, and put = or =20 where they break a line; in ABC that means nothing.
_MAILED = re.compile(r"=3D|=(?:20)?[ \t]*$", re.MULTILINE)
_BEGUN = re.compile(r"(?:\[[_^=A-Ga-g,'\d/<>.]{0,20}|[_^=]{0,2}[A-Ga-gz][,']{0,4})$")
_REST_OF_CHORD = re.compile(r"[_^=A-Ga-g,'\d/<>.]{0,20}\]")
_REST_OF_NOTE = re.compile(r"[\d/]")
MOST_TUNES = 20_000
LONGEST_TUNE = 400_000


@dataclass
class _Tune:
    """Lines of one tune with their numbers in the file."""

    number: int
    title: str = ""
    lines: list[tuple[int, str]] = field(default_factory=list)

    def voices(self) -> list[str]:
        """Names of the voices, in the order in which they come; one nameless voice where there are none."""
        found: dict[str, None] = {}
        for _, line in self.lines:
            if "V:" not in line:
                continue
            for match in re.finditer(r"(?:^V:|\[V:)\s*(\w+)", line):
                found.setdefault(match[1])
        return list(found) or [""]


def abc_source(text: str) -> Source:
    r"""Find the tunes of an ABC file.

    Parameters
    ----------
    text : str

    Returns
    -------
    Source
        One part for each tune, or for each voice where a tune has several.

    Raises
    ------
    RiffError
        When there is no tune in it.

    Examples
    --------
    >>> source = abc_source("X:1\nT:Small\nM:4/4\nL:1/4\nK:G\n|: GABc :|\n")
    >>> source.parts[0].name, source.read(0).riff.phrases[0].times
    ('Small', 2)
    """
    tunes, shared = _tunes(text)
    choices = [(tune, voice) for tune in tunes for voice in tune.voices()]
    if len(choices) > MOST_TUNES:
        raise RiffError(f"there are more than {MOST_TUNES} tunes and voices in it; split the book")
    parts = tuple(
        Part(clean_title(tune.title), f"voice {voice}" if voice else f"line {tune.number}")
        for tune, voice in choices
    )
    return Source(parts, lambda number: _read(*choices[number], shared))


def _tunes(text: str) -> tuple[list[_Tune], list[str]]:
    """The tunes of a book, and the lines before the first that hold for all."""
    whole = text.replace("\r\n", "\n").replace("\r", "\n")
    lines = _MAILED.sub(lambda match: "=" if match[0] == "=3D" else "", whole).split("\n")
    starts = [number for number, line in enumerate(lines) if re.match(r"X:\s*\d*", line)]
    if len(starts) > MOST_TUNES:
        raise RiffError(f"there are more than {MOST_TUNES} tunes in it; split the book")
    shared = [line for line in lines[: starts[0]] if line.startswith("%%") or _FIELD.match(line)] if starts else []
    tunes: list[_Tune] = []
    for start, end in pairwise([*starts, len(lines)]):
        if sum(len(line) + 1 for line in lines[start:end]) > LONGEST_TUNE:
            raise RiffError(f"this tune has more than {LONGEST_TUNE} letters; split it", line=start + 1)
        tune = _Tune(start + 1, lines=[(start + 1 + at, line) for at, line in enumerate(lines[start:end])])
        titles = [line[2:].strip() for _, line in tune.lines if line.startswith("T:")]
        tune.title = titles[0] if titles else f"tune {lines[start][2:].strip()}"
        if any(line.startswith("K:") for _, line in tune.lines):
            tunes.append(tune)
    if not tunes:
        raise RiffError("there is no tune in it: a tune begins with a line X:1 and has a line K: before its notes")
    return tunes, shared


@dataclass
class _Head:
    title: str = ""
    key: Key = field(default_factory=Key)
    meter: Meter | None = field(default_factory=Meter)
    length: str = ""
    tempo: str = ""
    carry: str = "pitch"
    order: str = ""
    own: list[tuple[str, str]] = field(default_factory=list)


def tune_body(text: str) -> BodyReader:
    """Read the first voice of the first tune, without making a riff of it: what is written, bar by bar.

    Raises
    ------
    RiffError
        When there is no tune in it.
    """
    tunes, shared = _tunes(text)
    return _body(tunes[0], tunes[0].voices()[0], shared, Remarks())[1]


def _read(tune: _Tune, voice: str, shared: list[str]) -> Imported:
    remarks = Remarks()
    head, body = _body(tune, voice, shared, remarks)
    phrases = phrases_of(body.finish(), remarks)
    if head.order:
        phrases = in_order(phrases, head.order, remarks)
    unit = read_length(head.length) or default_length(head.meter)
    tempo = read_abc_tempo(head.tempo, unit) if head.tempo else None
    riff = Riff((), title=clean_title(head.title), tempo=tempo or 120.0, key=clean_title(head.key.name))
    riff = with_own_fields(riff, head.own)
    if tempo is None:
        remarks.add("the file gives no tempo; 120 quarter notes a minute are assumed")
    return assembled(riff, phrases, remarks)


def _whole_lines(tune: _Tune, remarks: Remarks) -> Iterator[str]:
    """Lines of a tune; mail programs break some inside a chord or a note, which is put together again."""
    begun = ""
    for number, line in tune.lines:
        music = not _FIELD.match(line) and not line.startswith("%")
        if begun and music and (_REST_OF_CHORD if begun.startswith("[") else _REST_OF_NOTE).match(line):
            remarks.add("notes that a line's end breaks are put together", f"line {number}")
            line = begun + line
        elif begun:
            yield begun
        match = _BEGUN.search(line) if music else None
        begun = match[0] if match else ""
        yield line.removesuffix(begun)
    if begun:
        yield begun


def _body(tune: _Tune, voice: str, shared: list[str], remarks: Remarks) -> tuple[_Head, BodyReader]:
    head = _Head(title=tune.title)
    for line in shared:
        _head_field(head, line, remarks)
    body: BodyReader | None = None
    ours = not voice
    current = voice
    named = False
    for line in _whole_lines(tune, remarks):
        if body is None:
            _head_field(head, line, remarks)
            if line.startswith("K:"):
                unit = read_length(head.length) or default_length(head.meter)
                body = BodyReader(head.key, head.meter, unit, head.carry, remarks)
            continue
        if match := re.match(r"(?:V:\s*|\[V:\s*)(\w+)[^\]]*\]?", line):
            current, named = match[1], True
            line = line[match.end() :] if line.startswith("[") else ""
        ours = not voice or current == voice or (not named and voice == tune.voices()[0])
        if match := _FIELD.match(line):
            if ours and match[1] not in _NO_MUSIC:
                body.field(match[1], match[2])
        elif ours and not line.startswith("%"):
            body.line(line.rstrip().removesuffix("\\"))
    if body is None:
        raise RiffError("this tune has no K: line, and so no notes")
    return head, body


def _head_field(head: _Head, line: str, remarks: Remarks) -> None:
    if match := _CARRY.match(line):
        head.carry = match[1]
        return
    if line.startswith(OWN):
        name, _, value = line.removeprefix(OWN).partition(":")
        head.own.append((name.strip(), value))
        return
    match = _FIELD.match(line)
    if match is None:
        return
    letter, text = match[1], match[2].split("%")[0].strip()
    if letter == "K":
        key = read_key(text)
        if key is None:
            remarks.add("the key is not understood; no sharps and flats are assumed", f"'{text}'")
        head.key = key or Key()
    elif letter == "M":
        try:
            head.meter = read_abc_meter(text)
        except ValueError:
            remarks.add("the metre is not understood; 4/4 is assumed", f"'{text}'")
    elif letter == "L":
        head.length = text
    elif letter == "Q":
        head.tempo = text
    elif letter == "P":
        head.order = text
