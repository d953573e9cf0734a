"""Why two readings of an ABC tune differ, shown by experiment.

Each suspected cause has a way to write it out of the tune. Where the two readers agree about the tune without it,
and did not before, it is the cause.
"""

from __future__ import annotations

import re
from collections.abc import Callable

from tests.checks.abc_tunes import Compared, ours, prepared, theirs

Rewrite = Callable[[str], str]
OTHER = "no reason is known"
_NOTE = r"[_^=]*[A-Ga-g][,']*[\d/]*"


def _replaced(pattern: str, new: str | Callable[[re.Match[str]], str]) -> Rewrite:
    return lambda line: re.sub(pattern, new, line)


def _in_chords(change: Rewrite) -> Rewrite:
    return lambda line: re.sub(r"\[(?![A-Za-z]:|\|)[^\]|]*\]", lambda match: change(match[0]), line)


def _each_note_once(chord: str) -> str:
    notes = re.findall(_NOTE, chord)
    return "[" + "".join(dict.fromkeys(notes)) + "]"


CAUSES: dict[str, Rewrite] = {
    "broken rhythm beside a slur, which the other reader drops": _replaced(r"\((?!\d)|\)", ""),
    "broken rhythm beside a tie, which the other reader drops": _replaced(r"(?<=[<>])\s*-|-(?=\s*[<>])", ""),
    "broken rhythm beside a staccato dot, which the other reader drops": _replaced(r"\.", ""),
    "two broken rhythms at one note, of which the other reader keeps one": _replaced(
        rf"([<>]+)(\s*)({_NOTE})\s*[<>]+", r"\1\2\3"
    ),
    "several voices, which the other reader reads as one": _replaced(r"$", ""),
    "bytes spoilt in the file (a lone '=' at a line's end)": _replaced(r"=20|=\s*$", ""),
    "ties between chords, which the other reader drops": _replaced(r"(\][\d/]*)\s*-", r"\1"),
    "a note twice in a chord, which we read once": _in_chords(_each_note_once),
    "an accidental in a chord, which the other reader does not carry through the bar": _in_chords(
        _replaced(r"[_^=]", "")
    ),
    "chords in the old way, between plus signs, which the other reader does not know": _replaced(
        r"\+([^+]*)\+", r"[\1]"
    ),
    "tuplets of 5, 7 or 9, which we read as their bar asks": _replaced(
        r"\(([579])(?!:|\d)", lambda match: f"({match[1]}:{'8' if match[1] == '9' else '4'}"
    ),
}


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


def _without(text: str, causes: list[str]) -> str:
    for cause in causes:
        if cause.startswith("several voices"):
            text = _first_voice(text)
            continue
        text = "".join(
            line if re.match(r"[A-Za-z]:|%", line) else CAUSES[cause](line) + "\n"
            for line in text.splitlines(keepends=True)
        )
    return text


def _agree(text: str) -> bool:
    try:
        return ours(text) == theirs(text)
    except Exception:  # noqa: BLE001 - whatever the other reader trips over
        return False


def reason(one: Compared, text: str) -> str:
    """Say the cause, or the causes, without which the two readings agree.

    Examples
    --------
    >>> from tests.checks.abc_tunes import compared
    >>> tune = "X:1\\nM:2/4\\nL:1/8\\nK:C\\nA>(B c2)|\\n"
    >>> reason(compared(tune), tune)
    'broken rhythm beside a slur, which the other reader drops'
    """
    if one.refused:
        return "the other reader refuses it"
    plain = prepared(text)
    causes = [cause for cause in CAUSES if _without(plain, [cause]) != plain]
    for cause in causes:
        if _agree(_without(plain, [cause])):
            return cause
    if not _agree(_without(plain, causes)):
        return OTHER
    for cause in list(causes):
        fewer = [kept for kept in causes if kept != cause]
        if _agree(_without(plain, fewer)):
            causes = fewer
    return "; and ".join(causes)
