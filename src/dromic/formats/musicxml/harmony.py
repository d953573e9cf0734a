"""Chord signs in MusicXML: the element ``harmony``, read and written."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

from lxml import etree

from dromic.formats.reading.note_lengths import UnsayableError, sounding, values_of
from dromic.formats.reading.raw import Remarks
from dromic.music.chords import QUALITIES, Chord, NoChord, Sign, parse_chord
from dromic.music.riff import NO_LOCKS, Event, Mark
from dromic.music.tones import LETTERS, Degree, Tone

Element = etree._Element
NONE = "none"
_BY_KIND = {quality.kind: quality for quality in QUALITIES.values() if quality.kind}
# Kinds that the format has no name for: the nearest with one, whose degrees are changed.
_NEAREST = {"6/9": "6", "m6/9": "m6", "7alt": "7", "7sus4": "7"}


def read_harmony(element: Element) -> Sign | None:
    """Read a chord sign; None when it is none that we know."""
    kind = (element.findtext("kind") or "").strip()
    if kind == NONE:
        return NoChord()
    root = _tone(element, "root")
    if root is None:
        return None
    bass = _tone(element, "bass")
    over = f"/{bass}" if bass is not None else ""
    quality = _BY_KIND.get(kind)
    if quality is None:
        written = element.find("kind")
        text = written.get("text", "") if written is not None else ""
        return parse_chord(f"{root}{text}{over}") if text else None
    changes = [_change(degree) for degree in element.iterfind("degree")]
    if any(change is None for change in changes):
        return None
    told = [change for change in changes if change is not None]
    if "no3" in told:
        for step in ("4", "2"):
            if f"add{step}" in told:
                told = [one for one in told if one not in ("no3", f"add{step}")] + [f"sus{step}"]
    sign = Chord(root, quality, tuple(told))
    return parse_chord(f"{root}{sign.signs}{over}")


def _tone(element: Element, name: str) -> Tone | None:
    letter = (element.findtext(f"{name}/{name}-step") or "").strip()
    alter = _whole(element.findtext(f"{name}/{name}-alter"))
    return Tone(letter, alter) if letter and letter in LETTERS and abs(alter) <= 2 else None


def _whole(text: str | None) -> int:
    try:
        return int(float(text or "0"))
    except (ValueError, OverflowError):
        return 0


def _change(element: Element) -> str | None:
    """A degree that is added, altered or left out, as our signs write it."""
    number, alter = _whole(element.findtext("degree-value")), _whole(element.findtext("degree-alter"))
    kind = (element.findtext("degree-type") or "").strip()
    if not 1 <= number <= 13 or abs(alter) > 1 or kind not in ("add", "alter", "subtract"):
        return None
    if kind == "subtract":
        return f"no{number}"
    if alter:
        return str(Degree(number, alter))
    return f"add{number}" if kind == "add" else None


def written_harmony(parent: Element, sign: Sign) -> None:
    """Write a chord sign into a measure."""
    made = etree.SubElement(parent, "harmony")
    if isinstance(sign, NoChord):
        _tone_into(made, "root", Tone("C"))
        etree.SubElement(made, "kind", text=str(sign)).text = NONE
        return
    _tone_into(made, "root", sign.root)
    quality = QUALITIES[_NEAREST.get(sign.quality.sign, sign.quality.sign)]
    etree.SubElement(made, "kind", text=sign.signs).text = quality.kind
    if sign.bass is not None:
        _tone_into(made, "bass", sign.bass)
    plain = {degree.number for degree in quality.degrees}
    wanted = {degree.number for degree in sign.degrees}
    for degree in sign.degrees:
        if degree in quality.degrees:
            continue
        # A fifth that is there twice, lowered and raised, alters once and adds once.
        alters = degree.number in plain
        plain.discard(degree.number)
        _degree_into(made, degree, "alter" if alters else "add")
    for degree in quality.degrees:
        if degree.number not in wanted:
            _degree_into(made, Degree(degree.number), "subtract")


def _tone_into(parent: Element, name: str, tone: Tone) -> None:
    made = etree.SubElement(parent, name)
    etree.SubElement(made, f"{name}-step").text = tone.letter
    if tone.alter:
        etree.SubElement(made, f"{name}-alter").text = str(tone.alter)


def _degree_into(parent: Element, degree: Degree, kind: str) -> None:
    made = etree.SubElement(parent, "degree")
    etree.SubElement(made, "degree-value").text = str(degree.number)
    etree.SubElement(made, "degree-alter").text = str(degree.alter)
    etree.SubElement(made, "degree-type").text = kind


def with_signs(events: Sequence[Event], signs: Sequence[tuple[Fraction, Sign]], remarks: Remarks) -> list[Event]:
    """Events of a bar with the chord signs that begin in it.

    A note that sounds on where the chord changes is tied there.

    Parameters
    ----------
    events : sequence of Event
    signs : sequence of (Fraction, Sign)
        With their places in the bar, in quarter notes.
    remarks : Remarks
    """
    found = list(events)
    for place, sign in sorted(signs, key=lambda one: one[0]):
        at = Fraction(0)
        for number, event in enumerate(found):
            if event.grace:
                continue
            if at == place:
                found[number] = replace(event, chord=sign)
                break
            if at < place < at + event.quarters:
                try:
                    found[number : number + 1] = _cut(event, place - at, sign)
                    remarks.add("notes are tied where a chord begins under them", str(sign))
                except UnsayableError:
                    found[number] = replace(event, chord=sign)
                    remarks.add("chords that begin inside a tuplet's note stand at its start", str(sign))
                break
            at += event.quarters
    return found


def _cut(event: Event, first: Fraction, sign: Sign) -> list[Event]:
    """An event in two, the second tied to the first, with the sign at it."""
    for length in (first, event.quarters - first):
        values_of(length)
    before = sounding(event, first)
    rest = sounding(replace(event, chord=None), event.quarters - first)
    held = frozenset() if event.rest else frozenset({Mark.TIE})
    after = [
        replace(one, marks=held | (event.marks & {Mark.PALM_MUTE, Mark.LET_RING, Mark.VIBRATO}), locks=NO_LOCKS)
        if not event.rest
        else one
        for one in rest
    ]
    return [*before, replace(after[0], chord=sign), *after[1:]]
