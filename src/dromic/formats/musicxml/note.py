"""MusicXML, one note: its place or pitch, its marks and what is decided about it."""

from __future__ import annotations

from dataclasses import dataclass, replace

from lxml import etree

from dromic.formats.musicxml.names import (
    ARTICULATIONS,
    BOWS,
    CHORD_PLUCK,
    LIKE_ARTICULATIONS,
    PLUCKS,
    POSITION,
    RAKE,
)
from dromic.formats.reading.raw import Remarks
from dromic.hands.fingers import FINGERS_BY_SIGN
from dromic.instrument.instrument import Instrument
from dromic.music.pitch import Pitch, parse_pitch, pitch_name
from dromic.music.riff import HARMONIC_RISE, Locks, Mark, Note, Place, Stroke, without_rivals

Element = etree._Element
_STROKES = {name: stroke for stroke, name in BOWS.items()}
_FINGERS = {name: stroke for stroke, name in PLUCKS.items()}
_MARKS = {name: mark for mark, name in ARTICULATIONS.items()}
QUARTER_TONE, HALF_STEP = 0.75, 1.5
LOWEST, HIGHEST = 0, 127


@dataclass(frozen=True)
class FoundNote:
    """A note as it stands in a file: marks and locks are those of its own element."""

    note: Note
    marks: frozenset[Mark]
    locks: Locks


def _number(text: str | None) -> int | None:
    try:
        return int((text or "").strip())
    except ValueError:
        return None


def note_of(
    element: Element, instrument: Instrument, transpose: int, remarks: Remarks, *, palm: bool
) -> FoundNote | None:
    """Read a note element; None for a rest or a drum.

    Parameters
    ----------
    element : Element
    instrument : Instrument
        Strings and frets that it does not have are left out.
    transpose : int
        Semitones from the written to the sounding pitch.
    remarks : Remarks
    palm : bool
        Whether a palm mute holds from before.
    """
    pitch = sounding_pitch(element, transpose)
    if pitch is None:
        if element.find("unpitched") is not None:
            remarks.add("notes without pitch are left out")
        return None
    if not _alter(element).is_integer():
        remarks.add("quarter tones are rounded to the nearest half step")
    place = _place(element, instrument)
    marks = _marks(element, palm)
    if Mark.HARMONIC in marks:
        place, marks = _harmonic(element, place, marks, remarks)
    elif place is not None and instrument.pitch(place) != pitch.midi:
        remarks.add("strings and frets that do not give the written pitch are left out", str(place))
        place = None
    return FoundNote(Note(place or pitch), frozenset(marks), _locks(element))


def sounding_pitch(element: Element, transpose: int) -> Pitch | None:
    """The sounding pitch of a note element; None where it has none."""
    found = element.find("pitch")
    if found is None:
        return None
    step, octave = (found.findtext("step") or "").strip(), _number(found.findtext("octave"))
    alter = round(_alter(element))
    if step not in tuple("ABCDEFG") or octave is None or not -2 <= alter <= 2:
        return None
    pitch = Pitch(step, alter, octave + transpose // 12 if transpose % 12 == 0 else octave)
    if transpose % 12:
        midi = pitch.midi + transpose
        if not LOWEST <= midi <= HIGHEST:
            return None
        pitch = parse_pitch(pitch_name(midi, flats=alter < 0)) or pitch
    return pitch if LOWEST <= pitch.midi <= HIGHEST and -1 <= pitch.octave <= 9 else None


def _alter(element: Element) -> float:
    try:
        alter = float(element.findtext("pitch/alter") or 0)
    except ValueError:
        return 0.0
    return alter if abs(alter) < 9 else 0.0


def _place(element: Element, instrument: Instrument) -> Place | None:
    technical = element.findall("notations/technical")
    string = next((_number(one.findtext("string")) for one in technical if one.find("string") is not None), None)
    fret = next((_number(one.findtext("fret")) for one in technical if one.find("fret") is not None), None)
    if (
        string is None
        or fret is None
        or not 1 <= string <= instrument.strings
        or not 0 <= fret <= instrument.top_fret
    ):
        return None
    return Place(string, fret)


def _marks(element: Element, palm: bool) -> set[Mark]:
    found: set[Mark] = set()
    if element.find("grace") is not None:
        found.add(Mark.GRACE)
    if any(one.get("type") == "stop" for one in element.iterfind("tie")):
        found.add(Mark.TIE)
    if _text(element, "notehead") == "x":
        found.add(Mark.DEAD)
    mutes = [one.text for one in element.iterfind("play/mute")]
    if "palm" in mutes or (palm and not mutes):
        found.add(Mark.PALM_MUTE)
    for notations in element.iterfind("notations"):
        found |= _from_notations(notations)
    return set(without_rivals(found))


def _from_notations(notations: Element) -> set[Mark]:
    found: set[Mark] = set()
    for one in notations.iterfind("articulations/*"):
        if one.tag in _MARKS:
            found.add(_MARKS[one.tag])
        elif one.tag in LIKE_ARTICULATIONS:
            found.add(LIKE_ARTICULATIONS[one.tag])
    for one in notations.iterfind("technical/*"):
        if one.tag == "hammer-on" and one.get("type") == "stop":
            found.add(Mark.HAMMER)
        elif one.tag == "pull-off" and one.get("type") == "stop":
            found.add(Mark.PULL)
        elif one.tag == "bend":
            found.add(_bend(one))
        elif one.tag == "tap":
            found.add(Mark.TAP)
        elif one.tag == "harmonic":
            found.add(Mark.PINCH if one.find("artificial") is not None else Mark.HARMONIC)
        elif one.tag == "other-technical" and (one.text or "").strip() == RAKE:
            found.add(Mark.RAKE)
    for name in ("slide", "glissando"):
        if any(one.get("type") == "stop" for one in notations.iterfind(name)):
            found.add(Mark.SLIDE)
    if any(one.get("type") == "let-ring" for one in notations.iterfind("tied")):
        found.add(Mark.LET_RING)
    trill = notations.find("ornaments/trill-mark")
    if trill is not None:
        found.add(Mark.TRILL_HALF if trill.get("trill-step") == "half" else Mark.TRILL_WHOLE)
    # A wavy line after a trill is its length, unless it is drawn as vibrato.
    wave = notations.find("ornaments/wavy-line")
    if wave is not None and (trill is None or wave.get("smufl", "").startswith("guitarVibrato")):
        found.add(Mark.VIBRATO)
    if Mark.BEND_HALF in found and Mark.BEND_WHOLE in found:
        found.discard(Mark.BEND_HALF)
    return found


def _bend(bend: Element) -> Mark:
    if bend.find("release") is not None:
        return Mark.RELEASE
    try:
        alter = abs(float(bend.findtext("bend-alter") or 2))
    except ValueError:
        alter = 2.0
    return Mark.BEND_QUARTER if alter < QUARTER_TONE else Mark.BEND_HALF if alter < HALF_STEP else Mark.BEND_WHOLE


def _locks(element: Element) -> Locks:
    locks = Locks()
    for one in element.iterfind("notations/technical/*"):
        text = (one.text or "").strip()
        if one.tag in _STROKES:
            locks = replace(locks, stroke=_STROKES[one.tag])
        elif one.tag == "pluck" and text in _FINGERS:
            locks = replace(locks, stroke=_FINGERS[text])
        elif one.tag == "fingering" and text in FINGERS_BY_SIGN and locks.finger is None:
            locks = replace(locks, finger=FINGERS_BY_SIGN[text])
        elif one.tag == "other-technical" and text == CHORD_PLUCK:
            locks = replace(locks, stroke=Stroke.CHORD_PLUCK)
        elif one.tag == "other-technical" and text.startswith(f"{POSITION} "):
            position = _number(text.removeprefix(f"{POSITION} "))
            locks = replace(locks, position=position if position and 1 <= position <= 24 else None)
    return locks


def _harmonic(
    element: Element, place: Place | None, marks: set[Mark], remarks: Remarks
) -> tuple[Place | None, set[Mark]]:
    """A natural harmonic is where it is touched, whether its pitch is written as touched or as sounding."""
    if place is not None and place.fret in HARMONIC_RISE:
        return place, marks
    remarks.add("harmonics without a string and a fret that has one are taken as plain notes")
    return None, marks - {Mark.HARMONIC}


def _text(element: Element, path: str) -> str:
    return (element.findtext(path) or "").strip()
