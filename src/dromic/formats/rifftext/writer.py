"""Riff text, the writer: the canonical text of a riff, one bar a line.

Reading the text gives the riff back exactly, and writing that again gives the same text.
"""

from __future__ import annotations

from dromic.formats.rifftext.notes import STROKE_LETTERS
from dromic.hands.fingers import finger_sign
from dromic.music.rhythm import NoteValue
from dromic.music.riff import Bar, Event, Locks, Mark, Note, Riff

_ORDER = {mark: number for number, mark in enumerate(Mark)}


def write_riff_text(riff: Riff) -> str:
    r"""Write a riff as text.

    Examples
    --------
    >>> from dromic.formats.rifftext.reader import read_riff_text
    >>> print(write_riff_text(read_riff_text("title: A\n6:0.>m/8 6:0 5:7/2.").riff))
    title: A
    instrument: guitar-6
    tempo: 120
    meter: 4/4
    <BLANKLINE>
    | 6:0.m>/8 6:0 5:7/2. |
    <BLANKLINE>
    """
    return "\n".join((*_header(riff), *body_lines(riff))) + "\n"


def body_lines(riff: Riff) -> list[str]:
    """What comes after the header, one bar a line."""
    lines: list[str] = []
    writer = EventWriter(NoteValue(4))
    for number, phrase in enumerate(riff.phrases):
        lines.append("")
        if phrase.name is not None:
            school = f" = {phrase.school}" if phrase.school else ""
            lines.append(f"[{phrase.name}{school}]")
        following = riff.phrases[number + 1 : number + 2]
        must_end = phrase.times > 1 or (bool(following) and following[0].name is None)
        for place, bar in enumerate(phrase.bars, start=1):
            lines.extend(f"# {text}".rstrip() for text in bar.lead)
            repeat = f" x{phrase.times}" if must_end and place == len(phrase.bars) else ""
            comment = f"  # {bar.comment}" if bar.comment else ""
            lines.append(_bar(bar, writer) + repeat + comment)
    lines.extend(f"# {text}".rstrip() for text in riff.tail)
    return lines


def _bar(bar: Bar, writer: EventWriter) -> str:
    words = " ".join(writer.event(event) for event in bar.events)
    meter = f"{{{bar.meter}}} " if bar.meter is not None else ""
    tempo = f"{{tempo {_number(bar.tempo)}}} " if bar.tempo is not None else ""
    return f"{meter}{tempo}| {words} |"


def header_fields(riff: Riff) -> list[tuple[str, str]]:
    """Names and values of the header lines, in order; a value that need not be written is empty."""
    return [
        ("title", riff.title),
        ("section", riff.section),
        ("instrument", riff.instrument),
        ("tuning", riff.tuning),
        ("scale", _number(riff.scale) if riff.scale else ""),
        ("nut", _number(riff.nut) if riff.nut else ""),
        ("bridge", _number(riff.bridge) if riff.bridge else ""),
        ("capo", str(riff.capo) if riff.capo else ""),
        ("tempo", _number(riff.tempo)),
        ("meter", str(riff.meter)),
        ("swing", str(riff.swing) if riff.swing.share * 2 != 1 else ""),
        ("pickup", _whole_note_share(riff)),
        ("gain", riff.gain if riff.gain != "clean" else ""),
        ("style", riff.style or ""),
        ("key", riff.key),
    ]


def _header(riff: Riff) -> list[str]:
    comments = [f"# {text}".rstrip() for text in riff.comments]
    return comments + [f"{key}: {value}" for key, value in header_fields(riff) if value]


def _number(value: float) -> str:
    return str(int(value)) if value == int(value) else repr(value)


def _whole_note_share(riff: Riff) -> str:
    share = riff.pickup / 4
    return f"{share.numerator}/{share.denominator}" if share else ""


class EventWriter:
    """Writes events, leaving out durations that are in force.

    Parameters
    ----------
    value : NoteValue
        Duration in force before the first event.
    always : bool
        Whether durations are written even so.
    """

    def __init__(self, value: NoteValue, *, always: bool = False) -> None:
        self.value = value
        self._always = always

    def event(self, event: Event) -> str:
        """Write one event."""
        if event.rest:
            head = "r"
        elif len(event.notes) == 1:
            head = str(event.notes[0].target)
        else:
            head = f"({' '.join(_note(note) for note in event.notes)})"
        text = head + _tail(event.marks, event.locks)
        if event.chord is not None:
            text = f"{{{event.chord}}} {text}"
        if not event.grace and (self._always or event.value != self.value):
            self.value = event.value
            text += f"/{event.value}"
        return text


def _note(note: Note) -> str:
    return f"{note.target}{_tail(note.marks, note.locks)}"


def _tail(marks: frozenset[Mark], locks: Locks) -> str:
    text = ""
    if marks:
        ordered = sorted(marks, key=_ORDER.__getitem__)
        text += "." + "".join(ordered)
    if locks.stroke is not None:
        text += f"!{STROKE_LETTERS[locks.stroke]}"
    if locks.finger is not None:
        text += f"@{finger_sign(locks.finger)}"
    if locks.position is not None:
        text += f"^{locks.position}"
    return text
