"""What commands begin with: the file and the request that the options speak of."""

from __future__ import annotations

import argparse
from dataclasses import replace

from dromic.cli_options import count, in_style, request_of
from dromic.console import (
    tell,
)
from dromic.errors import NoPlanError, RiffError
from dromic.formats.files import RIFF_SUFFIX, read_reading
from dromic.formats.registry import (
    open_file,
    read_part,
)
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.reading import Reading
from dromic.formats.rifftext.writer import write_riff_text
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for, instrument_named
from dromic.planner.request import Request


def part_of(options: argparse.Namespace, parts: int) -> int | None:
    """Number of the part of a file that is asked for; None for the likely one."""
    return None if options.part is None else count("--part", options.part, 1, parts) - 1


def reading_of(options: argparse.Namespace) -> Reading:
    """The riff of a file of any kind; the places of its events are those of its own text."""
    if options.file.endswith(RIFF_SUFFIX):
        return read_reading(options.file)
    opened = open_file(options.file)
    brought = read_part(opened, part_of(options, len(opened.source.parts)), name=options.file)
    for remark in brought.remarks:
        tell(f"note: {remark}")
    return read_riff_text(write_riff_text(brought.riff))


def asked(options: argparse.Namespace) -> tuple[Request, Reading, Instrument | None]:
    """Return what is asked for: the request, the riff, and the instrument if it is another than the riff's."""
    request = request_of(options)
    asked = instrument_named(options.instrument) if options.instrument else None
    reading = reading_of(options)
    request = in_style(request, options, reading.riff)
    if asked is None or asked.name == reading.riff.instrument:
        return request, reading, None
    return request, reading, replace(asked, capo=instrument_for(reading.riff).capo)


def placed(error: NoPlanError, reading: Reading, file: str) -> RiffError:
    """The planner's refusal with the place in the file that it speaks of.

    Parameters
    ----------
    error : NoPlanError
    reading : Reading
    file : str
    """
    if error.event_index is None:
        return RiffError(error.message, file=file)
    span = reading.spans[error.event_index]
    return RiffError(error.message, line=span.line, column=span.start, file=file)
