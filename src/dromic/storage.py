"""The one way to the disk: files are read within bounds, and written whole or not at all.

Writing goes to a neighbouring temporary file first, so that a full disk never costs the last good one.
"""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from dromic.errors import RiffError

LARGEST_BYTES = 4 * 2**20
Wanted = Callable[[], bool]


def always() -> bool:
    """Consent, for what nobody gives up."""
    return True


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
        raise RiffError(f"cannot be read: {_os_words(error)}", file=name) from None
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
    if "\0" in text:
        raise RiffError("this is not a text file; choose a riff file")
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


def write_text(text: str, path: Path | str) -> None:
    """Write a text file in UTF-8, whole or not at all.

    Raises
    ------
    RiffError
        When the file cannot be written; what stood there before is kept.
    """
    write_bytes(text.encode("utf-8"), path)


def write_bytes(data: bytes, path: Path | str, wanted: Wanted = always) -> None:
    """Write a file, whole or not at all; see `replaced`.

    Raises
    ------
    RiffError
        When the file cannot be written; what stood there before is kept.
    """
    with replaced(path, wanted) as temporary:
        temporary.write_bytes(data)


@contextmanager
def replaced(path: Path | str, wanted: Wanted = always) -> Iterator[Path]:
    """A neighbouring file to write into, which takes the place of `path` when it is whole.

    Parameters
    ----------
    path : Path or str
    wanted : callable
        Asked at the very end: without its consent `path` stays as it was.

    Raises
    ------
    RiffError
        When the file cannot be written, or is not wanted any more; what stood there before is kept.
    """
    path = Path(path)
    temporary: Path | None = None
    try:
        if path.is_dir():
            raise IsADirectoryError
        mode = path.stat().st_mode & 0o777 if path.exists() else 0o644
        handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name[:50]}-")
        os.close(handle)
        temporary = Path(name)
        yield temporary
        with temporary.open("rb") as file:
            os.fsync(file.fileno())
        if not wanted():
            raise RiffError("cancelled; what stood there before is kept", file=str(path))
        os.chmod(temporary, mode)
        os.replace(temporary, path)
    except OSError as error:
        raise RiffError(
            f"cannot be written: {_os_words(error)}; what stood there before is kept", file=str(path)
        ) from None
    finally:
        if temporary is not None:
            temporary.unlink(missing_ok=True)


def _os_words(error: OSError) -> str:
    return {
        "FileNotFoundError": "there is no such file or folder; check the name",
        "PermissionError": "no permission; choose another place or change the rights",
        "IsADirectoryError": "this is a folder; choose a file",
        "NotADirectoryError": "a part of its path is not a folder; check the name",
    }.get(type(error).__name__, (error.strerror or str(error)).lower())
