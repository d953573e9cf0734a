"""MusicXML, the head: title, instrument, tuning, capo, tempo, swing, and what only our own files say."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from lxml import etree

from dromic.errors import RiffError
from dromic.formats.musicxml.names import BASES, FIELD
from dromic.formats.reading.raw import Remarks, clean_title
from dromic.formats.reading.tempo_map import TempoMap
from dromic.formats.rifftext.header import read_header_value
from dromic.instrument.presets import PRESETS, instrument_for, instrument_named
from dromic.music.pitch import Pitch, pitch_name
from dromic.music.rhythm import NoteValue, Swing
from dromic.music.riff import Riff

Element = etree._Element
_LETTERS = ("C", "D", "E", "F", "G", "A", "B")
_FIFTHS = ("Cb", "Gb", "Db", "Ab", "Eb", "Bb", "F", "C", "G", "D", "A", "E", "B", "F#", "C#")
BASS_BELOW = 38


def read_head(root: Element, part: Element, part_name: str, remarks: Remarks) -> tuple[Riff, bool]:
    """Read everything about a part but its bars.

    Parameters
    ----------
    root, part : Element
    part_name : str
    remarks : Remarks

    Returns
    -------
    Riff
        Without bars.
    bool
        Whether the file is one of our own.
    """
    fields = _fields(root)
    values: dict[str, Any] = {"title": _title(root), "tempo": _tempo(root, part, remarks), "swing": _swing(part)}
    values |= fields
    if "instrument" not in fields:
        values |= _instrument(part, part_name, remarks)
    if not fields:
        values["key"] = _key(part)
    kept = {"comment": _texts(root, "comment"), "tail": _texts(root, "tail")}
    values.pop("pickup", None)
    riff = Riff((), **values, comments=kept["comment"], tail=kept["tail"])
    try:
        instrument_for(riff)
    except RiffError as error:
        remarks.add(f"tuning and capo are left out: {error.message}")
        riff = Riff((), title=riff.title, tempo=riff.tempo, swing=riff.swing, key=riff.key)
    return riff, bool(fields)


def _fields(root: Element) -> dict[str, Any]:
    """Header fields of a riff, where we wrote them; one that cannot be read is as if it were not there."""
    fields: dict[str, Any] = {}
    for one in root.iterfind("identification/miscellaneous/miscellaneous-field"):
        name = one.get("name", "")
        key = name.removeprefix(FIELD)
        if name.startswith(FIELD) and key not in ("comment", "tail"):
            try:
                fields[key] = read_header_value(key, (one.text or "").strip())
            except RiffError:
                continue
    return fields


def _texts(root: Element, name: str) -> tuple[str, ...]:
    path = f"identification/miscellaneous/miscellaneous-field[@name='{FIELD}{name}']"
    return tuple(one.text or "" for one in root.iterfind(path))


def _title(root: Element) -> str:
    for path in ("work/work-title", "movement-title"):
        words = clean_title(root.findtext(path) or "")
        if words:
            return words
    return ""


def _tempo(root: Element, part: Element, remarks: Remarks) -> float:
    measures = enumerate(part.iterfind("measure"))
    first = next((number for number, measure in measures if measure.find("note/pitch") is not None), 0)
    return tempi_of(root, part).starting(first, remarks)


def tempi_of(root: Element, part: Element) -> TempoMap:
    """The tempi of a part by the number of its measure, from 0; they may be written in another part."""
    found: list[tuple[float, float]] = []
    for one in [part, *root.findall("part")]:
        found = found or [
            (float(number), tempo)
            for number, measure in enumerate(one.findall("measure"))
            for tempo in _tempi_of(measure)
        ]
    return TempoMap(found)


def _tempi_of(measure: Element) -> list[float]:
    """Tempi in quarter notes a minute: those that are to sound, else those that are written."""
    sounds = [one.get("tempo") for one in measure.iter("sound")]
    found = [_number(words) for words in sounds if words]
    if not found:
        found = [_metronome(one) for one in measure.iter("metronome")]
    return [round(tempo, 4) for tempo in found if tempo is not None]


def _metronome(mark: Element) -> float | None:
    per_minute, unit = _number(mark.findtext("per-minute") or ""), (mark.findtext("beat-unit") or "").strip()
    if per_minute is None or unit not in BASES:
        return None
    beat = NoteValue(BASES[unit], min(len(mark.findall("beat-unit-dot")), 2))
    return per_minute * float(beat.quarters)


def _number(words: str) -> float | None:
    try:
        return float(words)
    except ValueError:
        return None


def _swing(part: Element) -> Swing:
    swing = next(iter(part.iter("swing")), None)
    if swing is None or swing.find("straight") is not None:
        return Swing()
    try:
        first, second = int(swing.findtext("first") or 0), int(swing.findtext("second") or 0)
        share = Fraction(first, first + second)
    except (ValueError, ZeroDivisionError):
        return Swing()
    unit = 16 if (swing.findtext("swing-type") or "").strip() == "16th" else 8
    return Swing(share, unit) if Fraction(1, 2) < share <= Fraction(4, 5) else Swing()


def _key(part: Element) -> str:
    key = next(iter(part.iter("key")), None)
    try:
        fifths = int((key.findtext("fifths") or "") if key is not None else "")
    except ValueError:
        return ""
    if key is None or not -7 <= fifths <= 7:
        return ""
    minor = (key.findtext("mode") or "").strip() == "minor"
    return f"{_FIFTHS[fifths + 7 + (3 if minor and fifths <= 4 else 0)]}{' minor' if minor else ''}"


def _instrument(part: Element, part_name: str, remarks: Remarks) -> dict[str, Any]:
    """The preset and tuning that fit the staff, or the name of the part."""
    staff = next((one for one in part.iter("staff-details") if one.find("staff-tuning") is not None), None)
    low_name = any(word in part_name.lower() for word in ("bass", "kontrabass"))
    if staff is None:
        return {"instrument": "bass-4" if low_name else "guitar-6"}
    tuned: dict[int, int] = {}
    for one in staff.iterfind("staff-tuning"):
        try:
            step, octave = (one.findtext("tuning-step") or "").strip(), int(one.findtext("tuning-octave") or "")
            alter = int(float(one.findtext("tuning-alter") or 0))
            if step in _LETTERS:
                tuned[int(one.get("line", "0"))] = Pitch(step, alter, octave).midi
        except ValueError:
            continue
    strings = tuple(tuned[line] for line in sorted(tuned))
    kind = "bass" if strings and min(strings) < BASS_BELOW and (low_name or len(strings) < 6) else "guitar"
    name = f"{kind}-{len(strings)}"
    if name not in PRESETS:
        remarks.add(f"an instrument of {len(strings)} strings is not one of ours; a guitar of six is assumed")
        return {"instrument": "guitar-6"}
    instrument: dict[str, Any] = {"instrument": name}
    if strings != instrument_named(name).tuning:
        instrument["tuning"] = " ".join(pitch_name(midi) for midi in strings)
    try:
        capo = int((staff.findtext("capo") or "0").strip())
    except ValueError:
        capo = 0
    if 0 < capo <= 12:
        instrument["capo"] = capo
    return instrument
