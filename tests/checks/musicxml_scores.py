"""Scores of other programs, read by us and by music21, bar by bar.

Source: the MusicXML test suite and the scores of many notation programs that the music21 package carries. Every
part is read in all its voices; a bar is alike when it holds the same pitches at the same places for the same
lengths.
"""

from __future__ import annotations

import re
import warnings
from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from pathlib import Path
from typing import Any

from dromic.errors import RiffError
from dromic.formats.musicxml.reader import Reader
from dromic.formats.musicxml.tree import Score, open_score
from dromic.formats.musicxml.voices import voices_of
from dromic.instrument.presets import instrument_named
from dromic.music.pitch import Pitch
from dromic.music.riff import Event, Mark, Place

OTHER = "other"
SUITE, CORPUS = "the MusicXML test suite", "scores of the corpus"
# What the divisions of a file may be off by.
CLOSE, ROUNDED = Fraction(1, 24), Fraction(1, 5)


@dataclass(frozen=True, order=True)
class Sound:
    """A pitch that begins at a place of a bar, for a length, in quarter notes; `held` where it only goes on."""

    at: Fraction
    midi: int
    length: Fraction
    held: bool = False


Bars = list[list[Sound]]


@dataclass(frozen=True)
class Compared:
    """One score read twice: how many bars there are, and which are not alike, by part."""

    name: str
    bars: int
    unlike: tuple[tuple[int, int, tuple[Sound, ...], tuple[Sound, ...]], ...]
    voices: int
    refused: tuple[str, ...] = ()
    trouble: str = ""


@cache
def scores() -> dict[str, tuple[Path, ...]]:
    """The scores by collection."""
    import music21

    home = Path(music21.__file__).parent
    suite = sorted((home / "musicxml" / "lilypondTestSuite").glob("*.*ml"))
    corpus = sorted(path for path in (home / "corpus").rglob("*") if path.suffix in (".xml", ".mxl", ".musicxml"))
    return {SUITE: tuple(suite), CORPUS: tuple(corpus)}


def _ours(score: Score) -> tuple[dict[int, Bars], list[str], int]:
    parts: dict[int, Bars] = {}
    refused: list[str] = []
    choices = voices_of(score)
    for choice in choices:
        bars = parts.setdefault(choice.number, [])
        for number, marked in enumerate(Reader(score, choice).bars(instrument_named("guitar-6"))):
            if number == len(bars):
                bars.append([])
            at = Fraction(0)
            for event in marked.bar.events:
                bars[number] += _sounds(event, at)
                at += event.quarters
        try:
            Reader(score, choice).read()
        except RiffError as error:
            refused.append(str(error))
    return parts, refused, len(choices)


def _sounds(event: Event, at: Fraction) -> list[Sound]:
    if event.grace:
        return []
    guitar = instrument_named("guitar-6")
    found = []
    for note in event.notes:
        midi = guitar.pitch(note.target) if isinstance(note.target, Place) else note.target.midi
        assert isinstance(note.target, Pitch | Place)
        found.append(Sound(at, midi, event.quarters, Mark.TIE in event.marks | note.marks))
    return found


def _theirs(path: Path) -> list[Bars]:
    import music21

    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        whole = music21.converter.parse(path, format="musicxml", forceSource=True)
        if isinstance(whole, music21.stream.Opus):
            whole = whole.scores[0]
        parts: dict[object, Bars] = {}
        for part in whole.parts:
            staff = isinstance(part, music21.stream.PartStaff)
            bars = parts.setdefault(part.id.rsplit("-Staff", 1)[0] if staff else id(part), [])
            for number, measure in enumerate(part.toSoundingPitch().getElementsByClass(music21.stream.Measure)):
                if number == len(bars):
                    bars.append([])
                for one in measure.recurse().notes:
                    if hasattr(one, "pitches") and not one.duration.isGrace and not hasattr(one, "chordKind"):
                        bars[number] += _their_sounds(one, one.getOffsetInHierarchy(measure))
    return list(parts.values())


def _their_sounds(one: Any, offset: Any) -> list[Sound]:
    at = Fraction(offset).limit_denominator(960)
    length = Fraction(one.quarterLength).limit_denominator(960)
    found = []
    for note in getattr(one, "notes", (one,)):
        tie = note.tie or one.tie
        held = tie is not None and tie.type in ("stop", "continue")
        if hasattr(note, "pitch"):
            found.append(Sound(at, note.pitch.midi, length, held))
    return found


def joined(sounds: Iterable[Sound], *, all_held: bool = False) -> tuple[Sound, ...]:
    """Sounds with what is tied inside the bar put together; with `all_held`, whatever is struck again too."""
    found: list[Sound] = []
    for one in sorted(sounds):
        before = next(
            (
                n
                for n, old in enumerate(found)
                if old.midi == one.midi and abs(old.at + old.length - one.at) < CLOSE
            ),
            None,
        )
        if (one.held or all_held) and before is not None:
            old = found[before]
            found[before] = Sound(old.at, old.midi, old.length + one.length)
        else:
            found.append(Sound(one.at, one.midi, one.length))
    return tuple(sorted(found))


def alike(ours: Iterable[Sound], theirs: Iterable[Sound], close: Fraction = CLOSE) -> bool:
    """Whether two bars hold the same."""
    left = list(theirs)
    for one in ours:
        match = next(
            (
                other
                for other in left
                if other.midi == one.midi
                and abs(other.at - one.at) <= close
                and abs(other.length - one.length) <= close
            ),
            None,
        )
        if match is None:
            return False
        left.remove(match)
    return not left


def compared(path: Path) -> Compared:
    """Read a score twice."""
    try:
        ours, refused, voices = _ours(open_score(path.read_bytes()))
    except RiffError as error:
        return Compared(path.name, 0, (), 0, (), f"we refuse it: {error}")
    try:
        theirs = _theirs(path)
    except Exception as error:  # noqa: BLE001 - whatever the other reader trips over
        return Compared(path.name, 0, (), voices, tuple(refused), f"the other reader: {type(error).__name__}")
    unlike = []
    total = 0
    for part in sorted({*ours, *range(1, len(theirs) + 1)}):
        bars, others = ours.get(part, []), theirs[part - 1] if part <= len(theirs) else []
        for number in range(max(len(bars), len(others))):
            bar = bars[number] if number < len(bars) else []
            other = others[number] if number < len(others) else []
            total += 1
            if not alike(joined(bar), joined(other)):
                unlike.append((part, number + 1, tuple(bar), tuple(other)))
    return Compared(path.name, total, tuple(unlike), voices, tuple(refused))


def reason(one: Compared, text: str) -> str:
    """Why the two readings differ, shown by putting the causes aside; ``other`` where one bar's is not known."""
    if one.trouble:
        return one.trouble
    found = {_reason(ours, theirs, text) for _, _, ours, theirs in one.unlike}
    return OTHER if OTHER in found else "; and ".join(sorted(found))


def _reason(ours: tuple[Sound, ...], theirs: tuple[Sound, ...], text: str) -> str:
    """The cause for one bar."""
    if alike(joined(ours, all_held=True), joined(theirs, all_held=True)):
        return "ties of some notes of a chord, which the other reader lays on all of it"
    if alike(joined(ours), joined(theirs), ROUNDED):
        return "lengths that the file's divisions round, which we read by their note values"
    if {(s.at, s.midi) for s in joined(ours)} == {(s.at, s.midi) for s in joined(theirs)}:
        return "a pitch twice at once, or cue notes, which we read once and leave out"
    if re.search(r"<alter>\s*-?\d*\.[1-9]", text):
        return "quarter tones, which each rounds its own way"
    if re.search(r"</(direction|harmony|figured-bass)>\s*<note[^>]*>\s*<chord", text):
        return "directions between the notes of a chord, which part it for the other reader"
    altered = re.search(r"</octave>\s*</pitch>(?:(?!</note>).)*<accidental[^>]*>(sharp|flat)<", text, re.DOTALL)
    if altered and _half_steps(ours, theirs):
        return "a written sharp that the pitch does not have, which the other reader plays"
    return OTHER


def _half_steps(ours: tuple[Sound, ...], theirs: tuple[Sound, ...]) -> bool:
    pairs = list(zip(sorted(ours), sorted(theirs), strict=False))
    return len(ours) == len(theirs) and all(a.at == b.at and abs(a.midi - b.midi) <= 1 for a, b in pairs)


def text_of(path: Path) -> str:
    """A score's text, unpacked."""
    from lxml import etree

    return etree.tostring(open_score(path.read_bytes()).root).decode()
