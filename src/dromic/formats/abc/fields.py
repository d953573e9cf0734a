"""ABC, the fields: keys, metres, lengths, tempi (ABC standard 2.1)."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from fractions import Fraction

from dromic.music.keys import FIFTHS, MODE_FIFTHS, SHORT_MODES
from dromic.music.rhythm import NOTE_BASES, Meter

_MODES = {short: MODE_FIFTHS[mode] for short, mode in SHORT_MODES.items()}
_SHARPS, _FLATS = "FCGDAEB", "BEADGCF"
_SIGNS = {"^^": 2, "^": 1, "=": 0, "_": -1, "__": -2}
_KEY = re.compile(r"([A-G])([#b]?)\s*([A-Za-z]*)(.*)", re.DOTALL)
_EXPLICIT = re.compile(r"(\^\^|\^|=|__|_)([A-Ga-g])")
_NO_KEY = re.compile(r"(?:clef|octave|transpose|middle|m|t|stafflines|staff|staffscale|shift|score|sound)=")
FASTEST, SLOWEST = 500.0, 10.0


@dataclass(frozen=True)
class Key:
    """A key: what each letter is altered by."""

    name: str = ""
    alters: dict[str, int] = field(default_factory=dict)

    def alter(self, letter: str) -> int:
        """Semitones that the signature adds to a letter."""
        return self.alters.get(letter, 0)


def read_key(text: str) -> Key | None:
    """Read a K: field; None when it cannot be understood.

    Examples
    --------
    >>> read_key("Ador").alters, read_key("Eb").alters["A"]
    ({'F': 1}, -1)
    """
    text = text.strip()
    explicit = {letter.upper(): _SIGNS[sign] for sign, letter in _EXPLICIT.findall(text)}
    if text[:2] in ("HP", "Hp"):
        return Key(text[:2], {"F": 1, "C": 1} if text.startswith("Hp") else {})
    if not text or text.lower().startswith("none") or _NO_KEY.match(text):
        return Key("", explicit)
    match = _KEY.match(text)
    if match is None:
        return Key("", explicit) if explicit else None
    letter, sign, mode, _ = match.groups()
    lowered = mode.lower()
    if lowered.startswith("exp"):
        return Key(f"{letter}{sign}", explicit)
    found = "m" if lowered == "m" else lowered[:3]
    if found not in _MODES:
        # A clef or another word without a blank; the key itself is still good.
        found = ""
    fifths = FIFTHS[letter] + {"#": 7, "b": -7, "": 0}[sign] + _MODES[found]
    alters: dict[str, int] = {}
    for number in range(abs(fifths)):
        one = (_SHARPS if fifths > 0 else _FLATS)[number % 7]
        alters[one] = alters.get(one, 0) + (1 if fifths > 0 else -1)
    alters |= explicit
    words = {"": "", "maj": "", "ion": "", "m": " minor", "min": " minor", "aeo": " minor"}.get(found, f" {found}")
    return Key(f"{letter}{sign}{words}", {one: alter for one, alter in alters.items() if alter})


def read_abc_meter(text: str) -> Meter | None:
    """Read an M: field; None for free metre.

    Raises
    ------
    ValueError
        When it cannot be understood.

    Examples
    --------
    >>> str(read_abc_meter("C|")), str(read_abc_meter("(2+3)/8")), read_abc_meter("none")
    ('2/2', '5/8', None)
    """
    text = text.strip()
    if text.lower() in ("none", ""):
        return None
    if text in ("C", "c"):
        return Meter(4, 4)
    if text in ("C|", "c|"):
        return Meter(2, 2)
    match = re.match(r"\(?\s*(\d{1,2}(?:\s*\+\s*\d{1,2})*)\s*\)?\s*/\s*(\d{1,2})", text)
    if match is None:
        raise ValueError(text)
    count, unit = sum(int(one) for one in match[1].split("+")), int(match[2])
    if not 1 <= count <= 32 or unit not in NOTE_BASES[:6]:
        raise ValueError(text)
    return Meter(count, unit)


def read_length(text: str) -> Fraction | None:
    """Read an L: field, as a fraction of a whole note; None when it is not one."""
    match = re.match(r"\s*(\d{1,3})\s*(?:/\s*(\d{1,4}))?", text)
    if match is None or not int(match[1]) or (match[2] and not int(match[2])):
        return None
    return Fraction(int(match[1]), int(match[2] or 1))


def default_length(meter: Meter | None) -> Fraction:
    """The unit length without an L: field: a sixteenth where the metre is below three quarters, else an eighth."""
    short = meter is not None and Fraction(meter.count, meter.unit) < Fraction(3, 4)
    return Fraction(1, 16) if short else Fraction(1, 8)


def read_abc_tempo(text: str, unit: Fraction) -> float | None:
    """Read a Q: field in quarter notes a minute; None when it has no number.

    Examples
    --------
    >>> read_abc_tempo('"Lively" 3/8=60', Fraction(1, 8)), read_abc_tempo("200", Fraction(1, 8))
    (90.0, 100.0)
    """
    text = re.sub(r'"[^"]*"', " ", text)
    beat = unit
    match = re.search(r"=\s*(\d{1,4}(?:\.\d{1,3})?)", text)
    if match is not None:
        parts = re.findall(r"(\d{1,2})\s*/\s*(\d{1,2})", text[: match.start()])
        lengths = [Fraction(int(above), int(below)) for above, below in parts if int(below)]
        beat = sum(lengths, Fraction(0)) or unit
    else:
        match = re.search(r"(\d{1,4}(?:\.\d{1,3})?)", text)
        if match is None:
            return None
    tempo = round(float(match[1]) * float(beat) * 4, 4)
    return tempo if SLOWEST <= tempo <= FASTEST else None
