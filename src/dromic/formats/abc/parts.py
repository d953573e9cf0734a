"""ABC, the order in which the parts of a tune are played: the P: field of its head (standard 2.1)."""

from __future__ import annotations

import re
from collections.abc import Sequence

from dromic.formats.reading.raw import RawPhrase, Remarks

MOST_PARTS = 64
_GROUP = re.compile(r"\(([A-Z]*)\)(\d{0,2})")


def play_order(text: str) -> tuple[str, ...]:
    """Letters in the order of playing; nothing where it is not understood, or is too long.

    Examples
    --------
    >>> "".join(play_order("A2(BC)2.D")), play_order("Verse")
    ('AABCBCD', ())
    """
    plain = re.sub(r"[\s.]", "", text)
    if not re.fullmatch(r"[A-Z0-9()]{1,100}", plain):
        return ()
    plain = _repeated(plain)
    while match := _GROUP.search(plain):
        plain = plain[: match.start()] + match[1] * int(match[2] or 1) + plain[match.end() :]
        if len(plain) > 4 * MOST_PARTS:
            return ()
    return tuple(plain) if plain.isalpha() and len(plain) <= MOST_PARTS else ()


def _repeated(text: str) -> str:
    """Each letter as often as the number behind it says."""
    return re.sub(r"([A-Z])(\d{1,2})", lambda match: match[1] * min(int(match[2]), MOST_PARTS + 1), text)


def in_order(phrases: Sequence[RawPhrase], text: str, remarks: Remarks) -> list[RawPhrase]:
    """Phrases as the P: field has them played; as they are written where it names parts that the tune has not.

    Parameters
    ----------
    phrases : sequence of RawPhrase
    text : str
        Of the P: field.
    remarks : Remarks
    """
    parts: dict[str, list[RawPhrase]] = {}
    now = ""
    for phrase in phrases:
        # A part's later rounds are named "A 2" and so on.
        now = (phrase.name or now).split(" ")[0]
        parts.setdefault(now, []).append(phrase)
    order = play_order(text)
    if not order or not set(order) <= set(parts):
        remarks.add("the order of the parts (P:) is not understood; they come as they are written", f"'{text}'")
        return list(phrases)
    left = sorted(set(parts) - set(order) - {""})
    if left:
        remarks.add("the order of the parts (P:) leaves parts out", ", ".join(left))
    found = list(parts.get("", ()))
    for letter in order:
        found += [RawPhrase([bar.copied() for bar in part.bars], part.name, part.times) for part in parts[letter]]
    return found
