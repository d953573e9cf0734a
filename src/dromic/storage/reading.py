"""Files are read within bounds."""

from __future__ import annotations

import codecs
import hashlib
import json
from pathlib import Path

from dromic.errors import RiffError

LARGEST_BYTES = 4 * 2**20


def read_bytes(path: Path | str, largest: int = LARGEST_BYTES) -> bytes:
    """Read a file, and never more of it than a riff can have.

    Raises
    ------
    RiffError
        When it is not there, cannot be read or is too large.
    """
    name, path = str(path), Path(path)
    try:
        if path.is_dir():
            raise RiffError("this is a folder; choose a riff file in it", file=name)
        if path.exists() and not path.is_file():
            raise RiffError("this is no ordinary file; choose a riff file", file=name)
        with path.open("rb") as file:
            data = file.read(largest + 1)
    except OSError as error:
        raise RiffError(f"cannot be read: {os_words(error)}", file=name) from None
    except ValueError:
        raise RiffError("this is not a file name; choose a riff file", file=repr(name)) from None
    if len(data) > largest:
        raise RiffError(
            f"the file is larger than {largest // 2**20} MB, which no riff is; is it the right one?", file=name
        )
    return data


def decoded(data: bytes, *, lenient: bool = False) -> str:
    """Text of a file's bytes.

    Parameters
    ----------
    data : bytes
    lenient : bool
        Whether what is not UTF-8 is read as Latin-1, as old tune books are.

    Raises
    ------
    RiffError
        With line and column.
    """
    if data.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        raise RiffError("this is UTF-16 text; open it in a text editor and save it as UTF-8")
    try:
        text = data.decode("utf-8-sig" if lenient else "utf-8")
    except UnicodeDecodeError as error:
        if lenient:
            text = data.decode("latin-1")
        else:
            before = data[: error.start]
            raise RiffError(
                "this is not UTF-8 text; open it in a text editor and save it as UTF-8, or choose another file",
                line=before.count(b"\n") + 1,
                column=error.start - (before.rfind(b"\n") + 1) + 1,
            ) from None
    nul = text.find("\0")
    if nul >= 0:
        every_other = text.count("\0") * 3 > len(text)
        what = "UTF-16 text without its mark" if every_other else "no text file, or a damaged one"
        raise RiffError(
            f"there is a NUL character: this is {what}; open it in a text editor and save it as UTF-8, or choose "
            "another file",
            line=text.count("\n", 0, nul) + 1,
            column=nul - text.rfind("\n", 0, nul),
        )
    return text


def read_text(path: Path | str) -> str:
    """Read a text file.

    Raises
    ------
    RiffError
        When it is not there, cannot be read, is too large or is not UTF-8 text.
    """
    data = read_bytes(path)
    try:
        return decoded(data)
    except RiffError as error:
        raise error.in_file(str(path)) from None


def fingerprint_of(data: bytes) -> str:
    """What tells contents apart.

    Examples
    --------
    >>> fingerprint_of(b"| 6:0/1 |") == fingerprint_of(b"| 6:3/1 |")
    False
    """
    return hashlib.sha256(data).hexdigest()


def fingerprint(path: Path | str, largest: int = LARGEST_BYTES) -> str | None:
    """The fingerprint of what stands in a file; None where there is none to be read."""
    try:
        return fingerprint_of(read_bytes(path, largest))
    except RiffError:
        return None


def read_json(path: Path | str, largest: int = LARGEST_BYTES) -> object:
    """Read a JSON file.

    Raises
    ------
    RiffError
        When it is not there, cannot be read, is too large or is no JSON.
    """
    data = read_bytes(path, largest)
    try:
        found: object = json.loads(data.decode("utf-8"))
    except RecursionError:
        raise RiffError("the file is nested too deep; is it the right one?", file=str(path)) from None
    except ValueError as error:
        raise RiffError(f"this is no JSON: {str(error)[:80]}; is it the right file?", file=str(path)) from None
    return found


def os_words(error: OSError) -> str:
    """Say what the system says, and what to do about it."""
    return {
        "FileNotFoundError": "there is no such file or folder; check the name",
        "PermissionError": "no permission; choose another place or change the rights",
        "IsADirectoryError": "this is a folder; choose a file",
        "NotADirectoryError": "a part of its path is not a folder; check the name",
    }.get(type(error).__name__, (error.strerror or str(error)).lower())
