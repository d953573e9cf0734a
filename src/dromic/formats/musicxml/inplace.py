"""MusicXML from elsewhere, given our strings, frets, fingers and strokes in place; all else stays untouched."""

from __future__ import annotations

from collections.abc import Sequence

from lxml import etree

from dromic.errors import RiffError
from dromic.formats.musicxml.names import BOWS, PLUCKS
from dromic.formats.musicxml.note import sounding_pitch
from dromic.formats.musicxml.reader import Reader
from dromic.formats.musicxml.tree import open_score, score_bytes
from dromic.formats.musicxml.voices import voices_of
from dromic.hands.fingers import finger_sign
from dromic.music.riff import Event, Mark
from dromic.planner.plan import Plan, PlannedEvent

Element = etree._Element
_OURS = ("string", "fret", "fingering", "pluck", "up-bow", "down-bow")
_AFTER_NOTATIONS = ("lyric", "play", "listen")


def annotated(data: bytes, part: int, plan: Plan) -> bytes:
    """Write a plan into the score that its riff came from.

    Parameters
    ----------
    data : bytes
        The file, packed or not.
    part : int
        Number of the part or voice that was read.
    plan : Plan
        Of that part; locks may have been added since.

    Returns
    -------
    bytes
        Packed if it was packed. Where the score repeats, the strokes are those of the first round.

    Raises
    ------
    RiffError
        When the riff has other notes than the score by now.
    """
    score = open_score(data)
    choices = voices_of(score)
    if not 0 <= part < len(choices):
        raise RiffError(f"this score has no part {part + 1}; choose one of {len(choices)}")
    reader = Reader(score, choices[part])
    brought = reader.read()
    written = plan.riff.written_events()
    if [_shape(event) for event in written] != [_shape(event) for event in brought.riff.written_events()]:
        raise RiffError(
            "the riff has other notes or lengths than the score it came from; write it as a new file instead"
        )
    seen: set[int] = set()
    for event in plan.events:
        tag = brought.tags[event.moment.event_index]
        if event.step is None or tag < 0 or tag in seen:
            continue
        seen.add(tag)
        _annotate(reader.elements[tag], event, reader.transpose)
    return score_bytes(score)


def _shape(event: Event) -> tuple[object, ...]:
    return event.value, len(event.notes), Mark.TIE in event.marks, event.grace


def _annotate(elements: Sequence[Element], event: PlannedEvent, transpose: int) -> None:
    left = list(event.notes)
    first = True
    for element in elements:
        pitch = sounding_pitch(element, transpose)
        note = next((one for one in left if pitch is not None and one.pitch == pitch.midi), None)
        if note is None:
            continue
        left.remove(note)
        technical = _technical(element)
        for old in [one for one in technical if one.tag in _OURS]:
            technical.remove(old)
        made: list[tuple[str, str | None]] = []
        if first and event.stroke in BOWS:
            made.append((BOWS[event.stroke], None))
        if note.finger:
            made.append(("fingering", finger_sign(note.finger)))
        if first and event.stroke in PLUCKS:
            made.append(("pluck", PLUCKS[event.stroke]))
        made += [("string", str(note.string)), ("fret", str(note.fret))]
        for tag, text in made:
            etree.SubElement(technical, tag).text = text
        first = False


def _technical(note: Element) -> Element:
    """The element for playing marks of a note, made where it must stand if it is not there."""
    technical = note.find("notations/technical")
    if technical is not None:
        return technical
    notations = note.find("notations")
    if notations is None:
        notations = etree.Element("notations")
        after = next((one for one in note if one.tag in _AFTER_NOTATIONS), None)
        if after is None:
            note.append(notations)
        else:
            note.insert(list(note).index(after), notations)
    return etree.SubElement(notations, "technical")
