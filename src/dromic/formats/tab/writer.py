"""Text tablature, the writer: rhythm above, strings, strokes and fingers below; what we read back ourselves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dromic.errors import RiffError
from dromic.formats.reading.raw import Remarks
from dromic.hands.fingers import finger_sign
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for
from dromic.music.pitch import pitch_name
from dromic.music.riff import TRILL_SEMITONES, Bar, Event, Mark, Note, Place, Riff, Stroke

WIDTH = 96
REST, GRACE, TIED = "r", "g", "+"
PALM, RING = "PM", "LR"
_BEFORE = {Mark.HAMMER: "h", Mark.PULL: "p", Mark.SLIDE: "s", Mark.SLIDE_IN: "-/", Mark.TAP: "t", Mark.RELEASE: "r"}
_BENDS = {Mark.BEND_QUARTER: "b1/4", Mark.BEND_HALF: "b1/2", Mark.BEND_WHOLE: "bf"}
_OVER = {Mark.ACCENT: ">", Mark.STACCATO: ".", Mark.PINCH: "PH"}
_STROKES = {Stroke.DOWN: "d", Stroke.UP: "u", Stroke.NONE: ""}
_SAID = frozenset(
    {
        *_BEFORE,
        *_BENDS,
        *_OVER,
        *TRILL_SEMITONES,
        Mark.SLIDE_OFF,
        Mark.HARMONIC,
        Mark.DEAD,
        Mark.VIBRATO,
        Mark.PALM_MUTE,
        Mark.LET_RING,
        Mark.GRACE,
    }
)


@dataclass
class _Column:
    """One event: what stands on each string before its fret's column and from there, and beside the strings."""

    leads: dict[int, str]
    frets: dict[int, str]
    rhythm: str
    stroke: str
    finger: str
    palm: bool
    ring: bool
    over: str

    @property
    def lead(self) -> int:
        """How far the frets stand from the column's edge."""
        return max((len(text) for text in self.leads.values()), default=0)

    @property
    def width(self) -> int:
        """Signs that the column takes."""
        texts = [*self.frets.values(), self.over, self.rhythm, self.stroke, self.finger]
        return self.lead + max(len(text) for text in texts) + 1


def write_tab(riff: Riff, width: int = WIDTH) -> tuple[str, tuple[str, ...]]:
    """Write a riff as text tablature.

    Parameters
    ----------
    riff : Riff
        Every note at its place (see `dromic.planner.locking.decided_riff`).
    width : int
        Signs in a line; a single bar may be longer.

    Returns
    -------
    str
    tuple of str
        What tablature cannot say.

    Raises
    ------
    RiffError
        For a pitch without a place.
    """
    remarks = Remarks()
    instrument = instrument_for(riff)
    head = [riff.title] if riff.title else []
    names = " ".join(pitch_name(midi) for midi in instrument.tuning)
    capo = f", capo {riff.capo}" if riff.capo else ""
    head.append(f"Tuning: {names}{capo}")
    head.append(f"Time: {riff.meter}, tempo: {riff.tempo:g} bpm")
    if not riff.swing.straight:
        head.append(f"Swing {riff.swing}")
    lines = [*head, ""]
    meter = riff.meter
    for number, phrase in enumerate(riff.phrases):
        named = phrase.name or (f"part {number + 1}" if number else "")
        if named or phrase.times > 1:
            times = f" x{phrase.times}" if phrase.times > 1 else ""
            lines.append(f"[{named or 'all'}]{times}")
        for bar in phrase.bars:
            if bar.meter is not None and bar.meter != meter:
                meter = bar.meter
                remarks.add("changes of metre are left out")
            if bar.tempo is not None:
                remarks.add("changes of tempo are left out")
        for system in _systems(phrase.bars, remarks, width):
            lines += _drawn(system, instrument)
            lines.append("")
    return "\n".join(lines).rstrip() + "\n", remarks.told()


def _systems(bars: Sequence[Bar], remarks: Remarks, most: int) -> list[list[list[_Column]]]:
    """Bars in lines that fit the page."""
    systems: list[list[list[_Column]]] = [[]]
    room = most - 9
    for bar in bars:
        columns = [_column(event, remarks) for event in bar.events]
        width = sum(column.width for column in columns) + 2
        if width > room and systems[-1]:
            systems.append([])
            room = most - 9
        systems[-1].append(columns)
        room -= width
    return systems


def _column(event: Event, remarks: Remarks) -> _Column:
    frets: dict[int, str] = {}
    leads: dict[int, str] = {}
    tied = Mark.TIE in event.marks
    for note in event.notes:
        if not isinstance(note.target, Place):
            raise RiffError(f"{note.target} has no string yet; plan the riff first, or write its place")
        leads[note.target.string], frets[note.target.string] = _fret(event, note, note.target)
    for mark in set(event.marks).union(*(note.marks for note in event.notes)) - _SAID - {Mark.TIE}:
        remarks.add(f"tablature does not say: {mark.name.lower().replace('_', ' ')}")
    if tied:
        leads = dict.fromkeys(frets, "(")
        frets = {string: f"{text})" for string, text in frets.items()}
    fingers = [note.locks.finger for note in event.notes if note.locks.finger]
    finger = event.locks.finger if len(event.notes) == 1 else None
    if len(fingers) > 1:
        remarks.add("fingers of chords are left out")
    stroke = event.locks.stroke
    sign = REST if event.rest else GRACE if event.grace else TIED if tied else ""
    return _Column(
        leads,
        frets,
        sign + str(event.value),
        "" if stroke in (None, Stroke.NONE) or tied else _STROKES.get(stroke, str(stroke)[:1]),
        finger_sign(finger) if finger is not None else "",
        Mark.PALM_MUTE in event.marks,
        Mark.LET_RING in event.marks,
        "".join(sign for mark, sign in _OVER.items() if mark in event.marks),
    )


def _fret(event: Event, note: Note, place: Place) -> tuple[str, str]:
    """What stands before the fret's column, and from there."""
    marks = event.marks | note.marks
    text = "x" if Mark.DEAD in marks else f"<{place.fret}>" if Mark.HARMONIC in marks else str(place.fret)
    before = next((sign for mark, sign in _BEFORE.items() if mark in marks), "")
    after = next((sign for mark, sign in _BENDS.items() if mark in marks), "")
    after += next((f"tr{place.fret + rise}" for mark, rise in TRILL_SEMITONES.items() if mark in marks), "")
    after += "~" if Mark.VIBRATO in marks else ""
    # Two dashes tell a slide that leads nowhere from one to the next note.
    after += "\\-" if Mark.SLIDE_OFF in marks else ""
    return before, text + after


def _drawn(system: list[list[_Column]], instrument: Instrument) -> list[str]:
    """The lines of a system."""
    names = [pitch_name(midi).rstrip("0123456789") for midi in instrument.tuning[::-1]]
    label = max(8, *(len(name) + 1 for name in names))
    strings = [f"{name:<{label}}|" for name in names]
    rows = {"rhythm": f"{'rhythm':<{label}} ", "stroke": f"{'stroke':<{label}} ", "finger": f"{'finger':<{label}} "}
    palm, ring, over = (" " * (label + 1) for _ in range(3))
    for bar in system:
        strings = [line + "-" for line in strings]
        rows = {name: line + " " for name, line in rows.items()}
        palm, ring, over = palm + " ", ring + " ", over + " "
        for column in bar:
            width, lead = column.width, column.lead
            for string in range(1, instrument.strings + 1):
                text = column.leads.get(string, "").rjust(lead, "-") + column.frets.get(string, "")
                strings[string - 1] += text.ljust(width, "-")
            for name, text in (("rhythm", column.rhythm), ("stroke", column.stroke), ("finger", column.finger)):
                rows[name] += (" " * lead + text).ljust(width)
            palm += _run(palm, PALM, width, lead) if column.palm else " " * width
            ring += _run(ring, RING, width, lead) if column.ring else " " * width
            over += (" " * lead + column.over).ljust(width)
        strings = [line + "|" for line in strings]
        rows = {name: line + " " for name, line in rows.items()}
        palm, ring, over = palm + " ", ring + " ", over + " "
    drawn = [row.rstrip() for row in (palm, ring, over) if row.strip()]
    drawn.append(rows["rhythm"].rstrip())
    drawn += strings
    for name in ("stroke", "finger"):
        if rows[name].strip() != name:
            drawn.append(rows[name].rstrip())
    return drawn


def _run(row: str, word: str, width: int, lead: int) -> str:
    """A row's dashes over a column; the word stands where they begin, as far as there is room."""
    if row.endswith(("-", word)):
        return "-" * width
    return " " * lead + word[: width - lead].ljust(width - lead, "-")
