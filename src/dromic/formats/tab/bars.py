"""Text tablature, the bars of a system: where bar lines and repeat signs cut its strings."""

from __future__ import annotations

import re
from collections import Counter

from dromic.formats.reading.raw import Remarks

REPEATS = (":", "*", "o")
_NO_NOTES = (*REPEATS, "-", "–", "—", "=", " ", "")


def bars_of(lines: list[str], remarks: Remarks) -> list[tuple[list[str], int, bool, int]]:
    """Cut a system into bars: the part of each string, its column, and repeat signs before and after."""
    cut = [_cut(line) for line in lines]
    if len({len(one) for one in cut}) == 1:
        rows = list(zip(*cut, strict=True))
    else:
        remarks.add("bar lines that not all strings have are taken where most have them")
        edges = _edges(lines)
        rows = [
            tuple((start, line[start:end]) for line in lines)
            for start, end in zip(edges, [*edges[1:], max(map(len, lines)) + 1], strict=True)
        ]
    bars = []
    for row in rows:
        pieces = [piece for _, piece in row]
        begins = sum(piece.startswith(REPEATS) for piece in pieces) >= 2
        ends = sum(piece.endswith(REPEATS) for piece in pieces) >= 2
        # A repeat sign has a column of its own, or stands in one where other strings have notes.
        first = begins and all(piece[:1] in _NO_NOTES for piece in pieces)
        last = ends and all(piece[-1:] in _NO_NOTES for piece in pieces)
        bare = [_without_repeat_signs(piece, begins=begins, ends=ends) for piece in pieces]
        bare = [piece[first : len(piece) - last] for piece in bare]
        blank = min(len(piece) - len(piece.lstrip(" ")) for piece in bare)
        # Blanks that all strings have before their dashes are no time.
        bare = [piece[blank:] for piece in bare]
        if any(piece.strip(" ") for piece in bare):
            cleaned = [piece.replace("|", "-") for piece in bare]
            bars.append((cleaned, row[0][0] + first + blank, begins, 2 if ends else 0))
    return bars


def _without_repeat_signs(piece: str, *, begins: bool, ends: bool) -> str:
    """A string's part of a bar with dashes where it has repeat signs."""
    if begins and piece[:1] in REPEATS:
        piece = f"-{piece[1:]}"
    if ends and piece[-1:] in REPEATS:
        piece = f"{piece[:-1]}-"
    return piece


def _cut(line: str) -> list[tuple[int, str]]:
    """Pieces between bar lines with their columns."""
    cut = []
    for match in re.finditer(r"[^|]+", line):
        if match[0].strip():
            cut.append((match.start(), match[0]))
    return cut


def _edges(lines: list[str]) -> list[int]:
    columns = Counter(at for line in lines for at, sign in enumerate(line) if sign == "|")
    edges = sorted(at for at, count in columns.items() if count * 2 > len(lines))
    kept = [at + 1 for number, at in enumerate(edges) if number + 1 == len(edges) or edges[number + 1] - at > 1]
    last = max(map(len, lines))
    return [at for at in ([0, *kept] if not edges or edges[0] > 1 else kept) if at < last - 1]
