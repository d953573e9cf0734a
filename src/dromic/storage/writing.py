"""Files are written whole or not at all, where they were asked for and nowhere else.

What is to stand in a file goes to a neighbouring temporary file first, onto the disk, and takes the place of what
stood there in one step. A temporary file that a killed process has left is swept away by the next that writes to
the same place: whoever writes holds a lock on theirs.
"""

from __future__ import annotations

import fcntl
import os
import re
import secrets
import shutil
import stat
from collections.abc import Callable, Collection, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from dromic.errors import RiffError
from dromic.storage.reading import fingerprint, fingerprint_of, os_words

Wanted = Callable[[], bool]
ENDING = ".part"
BACKUP = ".bak"
UNREADABLE = ".unreadable"
LONGEST_STEM = 40
TOKEN_BYTES = 6
PLAIN_RIGHTS = 0o666


def always() -> bool:
    """Consent, for what nobody gives up."""
    return True


def write_text(text: str, path: Path | str, wanted: Wanted = always, *, kept_as: str = "") -> str:
    """Write a text file in UTF-8, whole or not at all; see `write_bytes`.

    Parameters
    ----------
    text : str
    path : Path or str
    wanted : Wanted
    kept_as : str

    Returns
    -------
    str
        The fingerprint of what stands there now.

    Raises
    ------
    RiffError
        When the file cannot be written; what stood there before is kept.
    """
    try:
        data = text.encode("utf-8")
    except UnicodeEncodeError as error:
        line = text.count("\n", 0, error.start) + 1
        raise RiffError(
            f"the text holds half a character (U+{ord(text[error.start]):04X}) in line {line}, which no file can; "
            "delete it; what stood there before is kept",
            file=str(path),
        ) from None
    return write_bytes(data, path, wanted, kept_as=kept_as)


def write_bytes(data: bytes, path: Path | str, wanted: Wanted = always, *, kept_as: str = "") -> str:
    """Write a file, whole or not at all.

    A link is followed to the file it leads to. An existing file keeps its rights, a new one has those of
    the umask.

    Parameters
    ----------
    data : bytes
    path : Path or str
    wanted : callable
        Asked at the very end: without its consent `path` stays as it was.
    kept_as : str
        An ending, such as `BACKUP`, under which what stood there stays beside it. Where that cannot be, writing
        still is whole or not at all.

    Returns
    -------
    str
        The fingerprint of what stands there now.

    Raises
    ------
    RiffError
        When the file cannot be written, is read-only or no ordinary file, or is not wanted any more; what stood
        there before is kept.
    """
    name = str(path)
    try:
        target = _target(path)
        with _temporary_beside(target) as (temporary, handle):
            _write_all(handle, data)
            _keep_rights(handle, target)
            os.fsync(handle)
            with _alone_with(target):
                if not wanted():
                    raise RiffError("cancelled; what stood there before is kept", file=name)
                # Saving the same once more must not push out what was there before.
                if kept_as and fingerprint(target) != fingerprint_of(data):
                    back_up(target, kept_as)
                os.replace(temporary, target)
        _settle(target.parent)
    except OSError as error:
        raise RiffError(
            f"cannot be written: {os_words(error)}; what stood there before is kept", file=name
        ) from None
    except ValueError:
        raise RiffError("this is not a file name; choose another", file=repr(name)) from None
    return fingerprint_of(data)


def back_up(path: Path | str, ending: str = BACKUP) -> Path | None:
    """Keep a file as it is under its name with another ending, and say where; None where that cannot be.

    Only a second name is given to what stands there, which the next write leaves alone.
    """
    target = Path(os.path.realpath(path))
    kept = target.with_name(target.name + ending)
    second = target.with_name(f".{target.name[:LONGEST_STEM]}-{secrets.token_hex(TOKEN_BYTES)}{ENDING}")
    try:
        try:
            os.link(target, second)
        except OSError:
            shutil.copy2(target, second)
        os.replace(second, kept)
    except OSError:
        return None
    finally:
        # Where both names lead to one file already, replacing leaves them as they are.
        with suppress(OSError):
            second.unlink(missing_ok=True)
    return kept


def make_folder(path: Path) -> None:
    """Make a folder and those it lies in, where they are not there yet.

    Raises
    ------
    RiffError
        When that cannot be done.
    """
    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise RiffError(f"cannot be written: {os_words(error)}", file=str(path)) from None


def same_file(one: Path | str, other: Path | str) -> bool:
    """Whether two names lead to one file.

    Examples
    --------
    >>> same_file("riffs/../a.riff", "a.riff"), same_file("a.riff", "b.riff")
    (True, False)
    """
    try:
        return os.path.samefile(one, other)
    except (OSError, ValueError):
        return os.path.realpath(one) == os.path.realpath(other)


def check_kind(path: Path | str, kinds: Collection[str], what: str) -> None:
    """Refuse a name that says another kind than what is to be written under it.

    Parameters
    ----------
    path : Path or str
    kinds : collection of str
    what : str

    Raises
    ------
    RiffError
        Naming the endings that fit.

    Examples
    --------
    >>> check_kind("take.wav", (".wav",), "sound")
    """
    if Path(path).suffix.lower() not in kinds:
        raise RiffError(f"{what} is written as {' or '.join(kinds)}; choose a name that ends so", file=str(path))


def _target(path: Path | str) -> Path:
    """The file that a name leads to, seen to be one that may be replaced."""
    target = Path(os.path.realpath(path))
    try:
        found = target.lstat()
    except FileNotFoundError:
        return target
    if stat.S_ISDIR(found.st_mode):
        raise IsADirectoryError
    if stat.S_ISLNK(found.st_mode):
        raise OSError(0, "its links lead round in a circle")
    if not stat.S_ISREG(found.st_mode):
        raise OSError(0, "this is no ordinary file; choose another name")
    if not found.st_mode & (stat.S_IWUSR | stat.S_IWGRP | stat.S_IWOTH) or not os.access(target, os.W_OK):
        raise OSError(0, "the file is read-only; choose another name or change its rights")
    return target


@contextmanager
def _temporary_beside(target: Path) -> Iterator[tuple[Path, int]]:
    """A locked new file beside the target, gone again unless it has been moved."""
    start = f".{target.name[:LONGEST_STEM]}-"
    _sweep(target.parent, re.compile(rf"{re.escape(start)}[0-9a-f]{{{2 * TOKEN_BYTES}}}{re.escape(ENDING)}"))
    while True:
        temporary = target.with_name(f"{start}{secrets.token_hex(TOKEN_BYTES)}{ENDING}")
        handle = os.open(temporary, os.O_RDWR | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, PLAIN_RIGHTS)
        # Some network folders know no locks; what a killed process leaves there stays.
        with suppress(OSError):
            fcntl.flock(handle, fcntl.LOCK_EX)
        # Another process may have taken it for a left-over before it was locked.
        if os.fstat(handle).st_nlink:
            break
        os.close(handle)
    try:
        yield temporary, handle
    finally:
        with suppress(FileNotFoundError):
            temporary.unlink()
        os.close(handle)


@contextmanager
def _alone_with(target: Path) -> Iterator[None]:
    """While nobody else who comes through here puts something in a file's place, from the last look on.

    The lock is on what stands there; when that has been replaced meanwhile, it is sought anew.
    """
    while True:
        try:
            handle = os.open(target, os.O_RDONLY | os.O_CLOEXEC)
        except OSError:
            # Nothing stands there yet, or nothing that may be read.
            yield
            return
        try:
            # Some network folders know no locks.
            with suppress(OSError):
                fcntl.flock(handle, fcntl.LOCK_EX)
            if _is_still(handle, target):
                yield
                return
        finally:
            os.close(handle)


def _is_still(handle: int, target: Path) -> bool:
    try:
        found = os.stat(target)
    except OSError:
        return False
    return os.path.samestat(os.fstat(handle), found)


def sweep_folder(folder: Path) -> None:
    """Delete all temporary files in a folder of our own that nobody is writing any more."""
    _sweep(folder, re.compile(rf"\..*-[0-9a-f]{{{2 * TOKEN_BYTES}}}{re.escape(ENDING)}"))


def _sweep(folder: Path, names: re.Pattern[str]) -> None:
    """Delete temporary files for the same target that nobody is writing any more."""
    with suppress(OSError), os.scandir(folder) as entries:
        for entry in entries:
            if names.fullmatch(entry.name):
                with suppress(OSError):
                    _delete_if_left(entry.path)


def _delete_if_left(path: str) -> None:
    handle = os.open(path, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        os.unlink(path)
    finally:
        os.close(handle)


def _write_all(handle: int, data: bytes) -> None:
    left = memoryview(data)
    while left:
        left = left[os.write(handle, left) :]


def _keep_rights(handle: int, target: Path) -> None:
    try:
        before = target.stat()
    except FileNotFoundError:
        return
    with suppress(PermissionError):
        os.fchown(handle, before.st_uid, before.st_gid)
    os.fchmod(handle, stat.S_IMODE(before.st_mode))


def _settle(folder: Path) -> None:
    """Put the new entry of a folder onto the disk, where the system lets us."""
    with suppress(OSError):
        handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
