"""Why two readings of an ABC tune differ, shown by experiment.

Each suspected cause has a way to write it out of the tune. Where the two readers agree about the tune without it,
and did not before, it is the cause.
"""

from __future__ import annotations

import re
from collections.abc import Callable

from tests.checks.abc_tunes import Compared, ours, prepared, theirs

Rewrite = Callable[[str], str]
_NOTE = r"[_^=]*[A-Ga-g][,']*[\d/]*"


def _replaced(pattern: str, new: str | Callable[[re.Match[str]], str]) -> Rewrite:
    return lambda line: re.sub(pattern, new, line)


def _in_chords(change: Rewrite) -> Rewrite:
    return lambda line: re.sub(r"\[(?![A-Za-z]:|\|)[^\]|]*\]", lambda match: change(match[0]), line)


def _each_note_once(chord: str) -> str:
    once: dict[str, str] = {}
    for note in re.findall(_NOTE, chord):
        once.setdefault(note.rstrip("0123456789/"), note)
    return f"[{''.join(once.values())}]"


CAUSES: dict[str, Rewrite] = {
    "broken rhythm beside a slur, which the other reader drops": _replaced(r"\((?!\d)|\)", ""),
    "broken rhythm beside a tie, which the other reader drops": _replaced(r"(?<=[<>])\s*-|-(?=\s*[<>])", ""),
    "broken rhythm beside a staccato dot, which the other reader drops": _replaced(r"\.", ""),
    "two broken rhythms at one note, of which the other reader keeps one": _replaced(
        rf"([<>]+)(\s*)({_NOTE})\s*[<>]+", r"\1\2\3"
    ),
    "ties between chords, which the other reader drops": _replaced(r"(\][\d/]*)\s*-", r"\1"),
    "broken rhythm inside a chord, which the other reader applies to the next": _in_chords(_replaced(r"[<>]", "")),
    "a lone bracket, which the other reader takes for a chord": _replaced(r"\[(?!\|)(?=[^\]|]*\|)", ""),
    "an accidental without a note, which confuses the other reader": _replaced(r"[_^=](?=\d)", ""),
    "a note twice in a chord, which we read once": _in_chords(_each_note_once),
    "an accidental in a chord, which the other reader does not carry through the bar": _in_chords(
        _replaced(r"[_^=]", "")
    ),
    "chords in the old way, between plus signs, which the other reader does not know": _replaced(
        r"\+([^+]*)\+", r"[\1]"
    ),
    "a key inside a line, which the other reader does not see": _replaced(r"\[K:([^\]]*)\]", r"\nK:\1\n"),
    "broken rhythm at the end of a bar, which the other reader drops": _replaced(r"[<>]+(?=\s*[|:])", ""),
    "a length such as 3//, which the other reader halves once": _replaced(
        r"(\d)(//+)", lambda match: f"{match[1]}/{2 ** len(match[2])}"
    ),
    "tuplets of 5, 7 or 9, which we read as their bar asks": _replaced(
        r"\(([579])(?!:|\d)", lambda match: f"({match[1]}:{'8' if match[1] == '9' else '4'}"
    ),
}


def _joined_notes(text: str) -> str:
    text = re.sub(r"([A-Ga-gz][,']*)\n(?=[\d/])", r"\1", text)
    return re.sub(r"(\[[_^=A-Ga-g,'\d/<>.]*)\n([_^=A-Ga-g,'\d/<>.]*\])", r"\1\2", text)


def _unmailed(text: str) -> str:
    return re.sub(r"=(?:20)?[ \t]*$", "", text, flags=re.MULTILINE).replace("=3D", "=")


def _without_strays(text: str) -> str:
    """The head without lines that are no fields."""
    head, key, body = text.partition("\nK:")
    return "\n".join(line for line in head.split("\n") if re.match(r"[A-Z]:|%", line)) + key + body


def _first_voice(text: str) -> str:
    """The tune's head, and what belongs to its first voice."""
    kept: list[str] = []
    first = now = ""
    head = True
    for line in text.splitlines():
        if match := re.match(r"(?:\[)?V:\s*(\S+?)(?:\]|\s|$)", line):
            now = match[1]
            first = first or now
            line = re.sub(r"^\[V:[^\]]*\]", "", line)
            if line.startswith("V:"):
                continue
        if head or now in ("", first) or line.startswith("w:"):
            kept.append(line)
        head = head and not line.startswith("K:")
    return "\n".join(kept) + "\n"


# These look at the whole tune, the others at each line of music.
WHOLE: dict[str, Rewrite] = {
    "several voices, which the other reader reads as one": _first_voice,
    "signs that a mail program has coded (=3D, =20), which the other reader does not undo": _unmailed,
    "bars that are too long, at whose end the other reader cuts notes": lambda text: re.sub(
        r"^M:.*$", "M:none", text, flags=re.MULTILINE
    ),
    "notes broken by the end of a line, which the other reader drops": _joined_notes,
    "lines without a field's letter in the head, which the other reader plays": _without_strays,
}


def _without(text: str, causes: list[str]) -> str:
    for cause in causes:
        if cause in WHOLE:
            text = WHOLE[cause](text)
            continue
        text = "".join(
            f"{line if re.match('[A-Za-z]:|%', line) else CAUSES[cause](line)}\n" for line in text.splitlines()
        )
    return text


def _agree(text: str) -> bool:
    try:
        return ours(text) == theirs(text)
    except Exception:  # noqa: BLE001 - whatever the other reader trips over
        return False


def reasons(one: Compared, text: str) -> tuple[str, ...]:
    """Say the cause, or the causes, without which the two readings agree; nothing where none are known.

    Examples
    --------
    >>> from tests.checks.abc_tunes import compared
    >>> tune = "X:1\\nM:2/4\\nL:1/8\\nK:C\\nA>(B c2)|\\n"
    >>> reasons(compared(tune), tune)
    ('broken rhythm beside a slur, which the other reader drops',)
    """
    if one.refused:
        return ("the other reader refuses it",)
    plain = prepared(text)
    causes = [*WHOLE, *CAUSES]
    for cause in causes:
        changed = _without(plain, [cause])
        if changed != plain and _agree(changed):
            return (cause,)
    return tuple(_needed(plain, causes)) if _agree(_without(plain, causes)) else ()


def _needed(text: str, causes: list[str]) -> list[str]:
    """Those without which the readings still differ."""
    for cause in list(causes):
        fewer = [kept for kept in causes if kept != cause]
        if _agree(_without(text, fewer)):
            causes = fewer
    return causes
