"""Locks between processes and windows: each is a small file that its owner holds, and that a dead owner lets go."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path


class FileLock:
    """A lock on a file of its own; it is let go when its owner ends, however it ends.

    Parameters
    ----------
    path : Path
        The file; its folder must be there.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self._handle: int | None = None

    def take(self, *, wait: bool = False) -> bool:
        """Take the lock, and say whether it is held now.

        Raises
        ------
        OSError
            When there can be no such file.
        """
        while self._handle is None:
            handle = os.open(self.path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC | os.O_NOFOLLOW, 0o600)
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | (0 if wait else fcntl.LOCK_NB))
            except BlockingIOError:
                os.close(handle)
                return False
            except OSError:
                os.close(handle)
                raise
            # Its last owner may have deleted the file after it was opened here.
            if os.fstat(handle).st_nlink:
                self._handle = handle
            else:
                os.close(handle)
        return True

    def let_go(self) -> None:
        """Let the lock go, and delete its file."""
        if self._handle is not None:
            with suppress(OSError):
                self.path.unlink()
            os.close(self._handle)
            self._handle = None


@contextmanager
def held(path: Path) -> Iterator[None]:
    """Hold a lock for a while; where the system knows none, go on without.

    Parameters
    ----------
    path : Path
        The file of the lock.
    """
    lock = FileLock(path)
    with suppress(OSError):
        lock.take(wait=True)
    try:
        yield
    finally:
        lock.let_go()
