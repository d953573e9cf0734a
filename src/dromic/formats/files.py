"""Riff text as files.

A reader that fails raises `RiffError` with the file's name and, where there is one, line and column.
"""

from __future__ import annotations

from pathlib import Path

from dromic.errors import RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.reading import Reading
from dromic.formats.rifftext.writer import write_riff_text
from dromic.music.riff import Riff
from dromic.storage.reading import read_text
from dromic.storage.writing import write_text

RIFF_SUFFIX = ".riff"


def read_riff(path: Path | str) -> Riff:
    """Read a riff from a file.

    Raises
    ------
    RiffError
        With file, line and column.
    """
    return read_reading(path).riff


def read_reading(path: Path | str) -> Reading:
    """Read a riff from a file, with the places of its events.

    Raises
    ------
    RiffError
        With file, line and column.
    """
    text = read_text(path)
    try:
        return read_riff_text(text)
    except RiffError as error:
        raise error.in_file(str(path)) from None


def write_riff(riff: Riff, path: Path | str) -> None:
    """Write a riff as riff text.

    Raises
    ------
    RiffError
        When the file cannot be written; what stood there before is kept.
    """
    write_text(write_riff_text(riff), path)
