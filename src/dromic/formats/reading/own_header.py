"""What other kinds of file have no place for, said in fields of our own: instrument, tuning, swing and the like."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from dromic.errors import RiffError
from dromic.formats.rifftext.header import read_header_value
from dromic.formats.rifftext.writer import header_fields
from dromic.instrument.presets import instrument_for
from dromic.music.riff import Riff

# What every kind of file has a place for.
_SAID = ("title", "tempo", "meter", "pickup", "key")


def own_fields(riff: Riff) -> list[tuple[str, str]]:
    """Header fields that have to be said in our own way."""
    plain = Riff(())
    standard = dict(header_fields(plain))
    return [(name, value) for name, value in header_fields(riff) if name not in _SAID and value != standard[name]]


def with_own_fields(riff: Riff, fields: Iterable[tuple[str, str]]) -> Riff:
    """The riff with the fields that a file of ours gives it; one that cannot be read is as if it were not there."""
    found: dict[str, Any] = {}
    for name, value in fields:
        if name in _SAID:
            continue
        try:
            found[name] = read_header_value(name, value.strip())
        except RiffError:
            continue
    try:
        own_fields = Riff(**{**vars(riff), **found})
        instrument_for(own_fields)
    except (RiffError, TypeError):
        return riff
    return own_fields
