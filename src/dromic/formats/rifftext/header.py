"""Riff text, the header: one ``key: value`` line each, in any order, before the bars."""

from __future__ import annotations

import re
from collections.abc import Callable
from fractions import Fraction
from typing import Any

from dromic.errors import RiffError
from dromic.instrument.presets import instrument_for, instrument_named
from dromic.music.rhythm import NOTE_BASES, Meter, Swing
from dromic.music.riff import Gain, Riff, Style

SLOWEST, FASTEST = 10.0, 500.0


def _text(value: str) -> str:
    return value


def _instrument(value: str) -> str:
    return instrument_named(value).name


def _tuning(value: str) -> str:
    return " ".join(value.split())


def _capo(value: str) -> int:
    if not re.fullmatch(r"\d{1,2}", value) or int(value) > 12:
        raise RiffError(f"capo: found '{value}', expected a fret from 0 to 12, for example 'capo: 2'")
    return int(value)


def read_tempo(value: str) -> float:
    """Read a tempo in quarter notes a minute.

    Raises
    ------
    RiffError
        For anything but a number from 10 to 500.
    """
    if not re.fullmatch(r"\d{1,3}(\.\d{1,4})?", value) or not SLOWEST <= float(value) <= FASTEST:
        raise RiffError(
            f"tempo: found '{value}', expected quarter notes a minute from 10 to 500, for example 'tempo: 140'"
        )
    return float(value)


def read_meter(value: str) -> Meter:
    """Read a time signature.

    Raises
    ------
    RiffError
    """
    match = re.fullmatch(r"(\d{1,2})\s*/\s*(\d{1,2})", value)
    if not match or not 1 <= int(match[1]) <= 32 or int(match[2]) not in NOTE_BASES[:6]:
        raise RiffError(f"meter: found '{value}', expected a time signature, for example 'meter: 7/8'")
    return Meter(int(match[1]), int(match[2]))


_SWING_HELP = "expected 'off', a ratio such as 2:1 (long to short), a share such as 60%, or '16 3:2' for sixteenths"


def read_swing(value: str) -> Swing:
    """Read a swing: off, a ratio or a share, of eighths or sixteenths.

    Raises
    ------
    RiffError
    """
    unit = 8
    match = re.fullmatch(r"(8|16)\s+(\S.*)", value)
    if match:
        unit, value = int(match[1]), match[2]
    share = _swing_share(value)
    if share is None or not Fraction(1, 2) <= share <= Fraction(4, 5):
        raise RiffError(f"swing: found '{value}', {_SWING_HELP}; the first of a pair takes half to four fifths")
    return Swing(share, unit) if share != Fraction(1, 2) else Swing()


def _swing_share(value: str) -> Fraction | None:
    if value in ("off", "straight", "none"):
        return Fraction(1, 2)
    if match := re.fullmatch(r"(\d{1,3}):(\d{1,3})", value):
        long, short = int(match[1]), int(match[2])
        return Fraction(long, long + short) if long and short else None
    if match := re.fullmatch(r"(\d{2}(?:\.\d{1,3})?)\s*%?", value):
        return Fraction(match[1]) / 100
    if re.fullmatch(r"0?\.\d{1,4}", value):
        return Fraction(value)
    return None


def _pickup(value: str) -> Fraction:
    match = re.fullmatch(r"(\d{1,2})\s*/\s*(\d{1,2})", value)
    if not match or int(match[2]) not in NOTE_BASES or not int(match[1]):
        raise RiffError(
            f"pickup: found '{value}', expected its length as a fraction of a whole note, for example "
            "'pickup: 1/8' for one eighth"
        )
    return Fraction(4 * int(match[1]), int(match[2]))


SIZES = {"scale": (300.0, 1000.0), "nut": (15.0, 90.0), "bridge": (20.0, 120.0)}


def _size(name: str) -> Callable[[str], float]:
    """Return a reader of one of an instrument's sizes."""
    low, high = SIZES[name]

    def read(value: str) -> float:
        match = re.fullmatch(r"(\d{1,4}(?:\.\d{1,2})?)\s*(?:mm)?", value)
        if match is None or not low <= float(match[1]) <= high:
            raise RiffError(
                f"{name}: found '{value}', expected millimetres from {low:g} to {high:g}, for example "
                f"'{name}: {(low + high) / 2:g}'"
            )
        return float(match[1])

    return read


def _gain(value: str) -> Gain:
    if value not in list(Gain):
        raise RiffError(f"gain: found '{value}', expected one of {', '.join(Gain)}, for example 'gain: high'")
    return Gain(value)


def read_style(value: str) -> Style:
    """Read a style.

    Raises
    ------
    RiffError
    """
    if value not in list(Style):
        raise RiffError(f"style: found '{value}', expected one of {', '.join(Style)}, for example 'style: jazz'")
    return Style(value)


_READERS: dict[str, Callable[[str], Any]] = {
    "title": _text,
    "instrument": _instrument,
    "tuning": _tuning,
    "scale": _size("scale"),
    "nut": _size("nut"),
    "bridge": _size("bridge"),
    "capo": _capo,
    "tempo": read_tempo,
    "meter": read_meter,
    "swing": read_swing,
    "pickup": _pickup,
    "gain": _gain,
    "style": read_style,
    "key": _text,
    "section": _text,
}
HEADER_KEYS = tuple(_READERS)


def read_header_value(name: str, value: str) -> Any:
    """Read the value of a header line.

    Raises
    ------
    RiffError
        For an unknown name or a value that cannot be read.
    """
    if name not in _READERS or not value:
        raise RiffError(f"found the header '{name}', expected one of {', '.join(HEADER_KEYS)}")
    return _READERS[name](value)


LINE = re.compile(r"\s*([A-Za-z][A-Za-z_-]*)\s*:\s*(.*?)\s*")


class HeaderReader:
    """Collects header lines and makes the empty riff that the bars go into."""

    def __init__(self) -> None:
        self._values: dict[str, Any] = {}
        self._places: dict[str, tuple[int, int]] = {}

    def read(self, key: str, value: str, line: int, key_column: int, value_column: int) -> None:
        """Take one line.

        Parameters
        ----------
        key, value : str
        line, key_column, value_column : int

        Raises
        ------
        RiffError
            With line and column, for an unknown or repeated key or a value that cannot be read.
        """
        name = key.lower()
        if name not in _READERS:
            raise RiffError(
                f"found the header '{key}', expected one of {', '.join(HEADER_KEYS)}, for example 'tempo: 140'",
                line=line,
                column=key_column,
            )
        if name in self._values:
            raise RiffError(
                f"the header '{name}' stands here and in line {self._places[name][0]}; keep one of them",
                line=line,
                column=key_column,
            )
        if not value:
            raise RiffError(
                f"{name}: nothing after the colon; write a value, or leave the line out",
                line=line,
                column=key_column,
            )
        try:
            self._values[name] = _READERS[name](value)
        except RiffError as error:
            raise RiffError(error.message, line=line, column=value_column) from None
        self._places[name] = (line, value_column)

    def riff(self) -> Riff:
        """Return the riff without bars, its parts checked against each other.

        Raises
        ------
        RiffError
            When tuning or pickup do not fit instrument and metre.
        """
        riff = Riff((), **self._values)
        try:
            instrument_for(riff)
        except RiffError as error:
            line, column = self._places.get("tuning", self._places.get("capo", (1, 1)))
            raise RiffError(error.message, line=line, column=column) from None
        if riff.pickup >= riff.meter.bar:
            line, column = self._places["pickup"]
            raise RiffError(
                f"pickup: found {riff.pickup} quarter notes, expected less than a bar of {riff.meter}, "
                "for example 'pickup: 1/8'",
                line=line,
                column=column,
            )
        return riff
