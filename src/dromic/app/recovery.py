"""Riffs that are not saved yet, kept where the next start finds them. Plain Python without Qt.

Each window keeps its riff in a file of its own, and holds a lock beside it for as long as it is open. What lies in
the folder without such a lock was left by a window that is gone. It stays until it is taken up and safe elsewhere,
or until the player throws it away.
"""

from __future__ import annotations

import json
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from uuid import uuid4

from platformdirs import user_state_dir

from dromic.errors import RiffError
from dromic.formats.project import Project, project_as_data, project_from_data
from dromic.storage.locks import FileLock
from dromic.storage.reading import LARGEST_BYTES, read_json
from dromic.storage.writing import make_folder, sweep_folder, write_text

LARGEST_KEPT = 4 * LARGEST_BYTES


@dataclass(frozen=True)
class RecoveredDocument:
    """What was not saved when the program ended.

    Parameters
    ----------
    project : Project
    path : Path or None
        The file it came from.
    file : Path
        Where it is kept.
    when : datetime
        When it was kept.
    known : str or None
        The fingerprint of what was known to stand in the file it came from.
    """

    project: Project
    path: Path | None
    file: Path
    when: datetime
    known: str | None = None

    @property
    def name(self) -> str:
        """What a player knows it by: its file, else its title."""
        if self.path is not None:
            return self.path.name
        for line in self.project.text.splitlines():
            if line.lower().startswith("title:"):
                return line.partition(":")[2].strip() or "a riff without a title"
        return "a riff without a title"


class Recovery:
    """Keeps what is not saved yet where the next start finds it.

    Parameters
    ----------
    folder : Path or None
        None for the usual one.
    """

    def __init__(self, folder: Path | None = None) -> None:
        self._folder = folder or Path(user_state_dir("dromic", appauthor=False)) / "unsaved"
        self._file = self._folder / f"{uuid4().hex}.json"
        self._lock = FileLock(self._file.with_suffix(".lock"))

    def keep(self, project: Project, path: Path | None, known: str | None = None) -> None:
        """Write down a riff as it is, with all that belongs to it.

        Parameters
        ----------
        project : Project
        path : Path or None
            The file it belongs to.
        known : str or None
            The fingerprint of what is known to stand in that file.

        Raises
        ------
        RiffError
            When it cannot be written.
        """
        make_folder(self._folder)
        # Where the system knows no locks, other windows may offer what is kept here; it is kept all the same.
        with suppress(OSError):
            self._lock.take()
        data = {"project": project_as_data(project), "path": None if path is None else str(path), "known": known}
        # Letters beyond ASCII are escaped, so that names of any bytes and halves of characters can be kept.
        write_text(json.dumps(data), self._file)

    def forget(self) -> None:
        """Take away what was kept: it is saved, or not wanted."""
        self._file.unlink(missing_ok=True)
        self._lock.let_go()

    def left(self) -> tuple[RecoveredDocument, ...]:
        """Riffs that windows left which are gone, the newest first."""
        found = []
        sweep_folder(self._folder)
        with suppress(OSError):
            for file in self._folder.glob("*.json"):
                if file != self._file and self._abandoned(file):
                    one = _read(file)
                    if one is not None:
                        found.append(one)
        return tuple(sorted(found, key=lambda one: one.when, reverse=True))

    def take_up(self, kept: RecoveredDocument) -> None:
        """Keep a riff that was left as this window's own, and only then take away what was left.

        Raises
        ------
        RiffError
            When it cannot be kept here; what was left is then still there.
        """
        self.keep(kept.project, kept.path, kept.known)
        self.throw_away(kept)

    def throw_away(self, kept: RecoveredDocument) -> None:
        """Delete a riff that was left.

        Raises
        ------
        RiffError
            When that cannot be done.
        """
        try:
            kept.file.unlink(missing_ok=True)
        except OSError as error:
            raise RiffError(f"cannot be deleted: {error.strerror or error}", file=str(kept.file)) from None
        with suppress(OSError):
            kept.file.with_suffix(".lock").unlink(missing_ok=True)

    def _abandoned(self, file: Path) -> bool:
        """Whether no window holds the lock of a file; without one, earlier versions wrote it."""
        lock_file = file.with_suffix(".lock")
        if not lock_file.exists():
            return True
        lock = FileLock(lock_file)
        try:
            abandoned = lock.take()
        except OSError:
            # In a folder that cannot be written nobody holds a lock.
            return True
        lock.let_go()
        return abandoned


def _read(file: Path) -> RecoveredDocument | None:
    """Read what was left; what cannot be read is kept under another name."""
    try:
        data = read_json(file, LARGEST_KEPT)
        if not isinstance(data, dict):
            raise RiffError("this is no riff that was kept", file=str(file))
        path = data["path"]
        # Earlier versions kept only the text.
        project = project_from_data(data.get("project", data))
        when = datetime.fromtimestamp(file.stat().st_mtime)
        known = data.get("known")
        return RecoveredDocument(
            project, None if path is None else Path(path), file, when, known if isinstance(known, str) else None
        )
    except (OSError, ValueError, KeyError, TypeError, RiffError):
        with suppress(OSError):
            file.replace(file.with_suffix(".unreadable"))
        return None
