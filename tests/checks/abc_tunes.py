"""Tunes of the open collections, read by us and by music21, note by note.

Source: the tune collections in the music21 package (ryansMammoth, oneills1850, airdsAirs, miscFolk).

Before music21 reads a tune, three of its known defects are got round: accidentals that do not carry, a letter
touching ``::``, and ``H``. Ornaments are taken out for both, as they are read differently on purpose.
"""

from __future__ import annotations

import re
import warnings
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from pathlib import Path

from dromic.errors import RiffError
from dromic.formats.abc.body import BodyReader
from dromic.formats.abc.reader import abc_source, tune_body
from dromic.music.pitch import Pitch
from dromic.music.riff import Event, Mark

COLLECTIONS = ("ryansMammoth", "oneills1850", "airdsAirs", "miscFolk")
Row = tuple[tuple[int, ...], Fraction]


@dataclass(frozen=True)
class Compared:
    """One tune read twice."""

    title: str
    ours: tuple[Row, ...]
    theirs: tuple[Row, ...]
    refused: str = ""
    riff_refused: str = ""

    @property
    def agree(self) -> bool:
        return not self.refused and self.ours == self.theirs

    @property
    def where(self) -> str:
        """The first place where the two differ."""
        if self.refused:
            return self.refused
        for number, (one, other) in enumerate(zip(self.ours, self.theirs, strict=False)):
            if one != other:
                return f"note {number + 1}: {one} and {other}"
        return f"{len(self.ours)} and {len(self.theirs)} notes"


@cache
def paths(collection: str) -> tuple[str, ...]:
    from music21 import corpus

    found = sorted(str(path) for path in corpus.getComposer(collection))
    return tuple(path for path in found if path.endswith(".abc"))


@cache
def tunes(collection: str) -> tuple[str, ...]:
    """Every tune's text."""
    found: list[str] = []
    for path in paths(collection):
        text = Path(path).read_bytes().decode("utf-8", errors="replace")
        found += [f"X:{piece}" for piece in re.split(r"^X:", text, flags=re.MULTILINE)[1:]]
    return tuple(text for text in found if re.search(r"^K:", text, flags=re.MULTILINE))


def prepared(text: str) -> str:
    """A tune without ornaments, for both readers."""
    lines = []
    for line in text.splitlines():
        if not re.match(r"[A-Za-z]:", line) and not line.startswith("%"):
            line = re.sub(r"\{[^}]*\}|![^!]*!|[~HTMPSOuvLJ]|\"[^\"]*\"", "", line)
            line = re.sub(r"\.(?=[A-Ga-g\[(^_=])", "", line)
            line = line.replace("::", " :: ")
        lines.append(line)
    return "%%propagate-accidentals octave\n" + "\n".join(lines) + "\n"


def ours(text: str) -> tuple[Row, ...]:
    body: BodyReader = tune_body(text)
    return tuple(_merged(event for marked in body.finish() for event in marked.bar.events))


def _merged(events: Iterator[Event]) -> list[Row]:
    rows: list[Row] = []
    for event in events:
        if event.rest:
            continue
        pitches = tuple(sorted(note.target.midi for note in event.notes if isinstance(note.target, Pitch)))
        if Mark.TIE in event.marks and rows:
            rows[-1] = (rows[-1][0], rows[-1][1] + event.quarters)
        else:
            rows.append((pitches, event.quarters))
    return rows


def theirs(text: str) -> tuple[Row, ...]:
    from music21 import converter

    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        score = converter.parseData("%abc-2.1\n" + text, format="abc")
        rows: list[Row] = []
        parts = list(score.parts) or [score]
        for one in parts[0].flatten().notes:
            if not hasattr(one, "pitches") or one.duration.isGrace:
                continue
            pitches = tuple(sorted(pitch.midi for pitch in one.pitches))
            length = Fraction(one.quarterLength).limit_denominator(960)
            if one.tie is not None and one.tie.type in ("stop", "continue") and rows and rows[-1][0] == pitches:
                rows[-1] = (pitches, rows[-1][1] + length)
            else:
                rows.append((pitches, length))
    return tuple(rows)


def compared(text: str) -> Compared:
    """Read a tune twice."""
    title = next((line[2:].strip() for line in text.splitlines() if line.startswith("T:")), "?")
    plain = prepared(text)
    try:
        abc_source(text).read(0)
        riff_refused = ""
    except RiffError as error:
        riff_refused = str(error)
    try:
        other = theirs(plain)
    except Exception as error:  # noqa: BLE001 - whatever the other reader trips over
        return Compared(title, ours(plain), (), f"the other reader: {type(error).__name__}", riff_refused)
    return Compared(title, ours(plain), other, "", riff_refused)
