"""MusicXML, what can be chosen: the voices of the parts of a score."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

from lxml import etree

from dromic.errors import RiffError
from dromic.formats.musicxml.tree import Score
from dromic.formats.reading.raw import clean_title

Element = etree._Element
MOST_PARTS = 1_000
MOST_NOTES_OF_PART = 60_000


@dataclass(frozen=True)
class Voice:
    """A voice of a part: its element, its name, and which voice; `staff` is None where it goes over several."""

    part: Element
    number: int
    name: str
    staff: str | None
    voice: str
    notes: int
    fretted: int


def voices_of(score: Score) -> list[Voice]:
    """Find the voices of a score, in the order in which they can be chosen.

    Raises
    ------
    RiffError
        When there is more in it than anybody chooses a riff from.
    """
    parts = score.root.findall("part")
    if len(parts) > MOST_PARTS:
        raise RiffError(f"there are {len(parts)} parts in this score, and {MOST_PARTS} at most can be read")
    for number, part in enumerate(parts, start=1):
        notes = sum(1 for _ in part.iterfind("measure/note"))
        if notes > MOST_NOTES_OF_PART:
            raise RiffError(
                f"part {number} has {notes} notes, and {MOST_NOTES_OF_PART} at most can be read; split the score"
            )
    return list(_voices(score.root))


def _voices(root: Element) -> Iterator[Voice]:
    names = {
        one.get("id", ""): (one.findtext("part-name") or "").strip()
        for one in root.iterfind("part-list/score-part")
    }
    for number, part in enumerate(root.findall("part"), start=1):
        name = clean_title(names.get(part.get("id", ""), "")) or f"Part {number}"
        for voice, staves in sorted(_counts(part).items(), key=lambda one: (min(one[1]), one[0])):
            for own, (notes, fretted) in sorted(staves.items()):
                staff = None if len(staves) == 1 else own
                yield Voice(part, number, name, staff, voice, notes, fretted)


def _counts(part: Element) -> dict[str, dict[str, tuple[int, int]]]:
    """Counts of notes and of frets, by voice and staff.

    A voice that goes from staff to staff is one; where it sounds on two at once, the file counts its voices anew
    on every staff, and each is a voice of its own.
    """
    notes: dict[str, Counter[str]] = {}
    frets: dict[str, Counter[str]] = {}
    both: set[str] = set()
    for measure in part.iterfind("measure"):
        at = 0.0
        staff = voice = "1"
        ends: dict[tuple[str, str], float] = {}
        for child in measure:
            if child.tag not in _TIMED:
                continue
            length = _plain_duration(child)
            if child.tag in ("backup", "forward"):
                at += length if child.tag == "forward" else -length
                if child.tag == "backup":
                    ends = {key: end for key, end in ends.items() if end > at}
            if child.tag != "note":
                continue
            chord = child.find("chord") is not None
            if not chord:
                staff, voice = text_at(child, "staff") or "1", text_at(child, "voice") or "1"
                at += length
            if child.find("pitch") is None or child.find("cue") is not None:
                continue
            notes.setdefault(voice, Counter())[staff] += 1
            frets.setdefault(voice, Counter())[staff] += child.find("notations/technical/fret") is not None
            if any(end > at - length for key, end in ends.items() if key[0] == voice and key[1] != staff):
                both.add(voice)
            ends[voice, staff] = at
    found: dict[str, dict[str, tuple[int, int]]] = {}
    for voice, counts in notes.items():
        if voice in both:
            found[voice] = {staff: (count, frets[voice][staff]) for staff, count in counts.items()}
        else:
            found[voice] = {min(counts): (counts.total(), frets[voice].total())}
    return found


_TIMED = frozenset({"note", "backup", "forward"})


def _plain_duration(element: Element) -> float:
    """A duration in divisions, which do not change where lengths of one bar are compared."""
    if element.find("grace") is not None:
        return 0.0
    try:
        return max(float(text_at(element, "duration") or 0), 0.0)
    except ValueError:
        return 0.0


def text_at(element: Element, path: str) -> str:
    """What stands in an element below, without blanks around; empty where there is none."""
    return (element.findtext(path) or "").strip()
