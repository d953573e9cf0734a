"""The riffs in work: projects kept from start to start, so that one session can practise several.

Plain Python without Qt. Each is a project file in the user's data folder, named by what is played in it.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from platformdirs import user_data_dir

from dromic.errors import RiffError
from dromic.formats.project import PROJECT_SUFFIX, Project, read_project, write_project
from dromic.formats.rifftext.reader import read_riff_text
from dromic.music.riff import Riff
from dromic.practice.movement import riff_hash
from dromic.practice.session.session import MOST_RIFFS
from dromic.storage.writing import make_folder


@dataclass(frozen=True)
class RiffInWork:
    """One riff in work.

    Parameters
    ----------
    project : Project
    riff : Riff
    name : str
        Its hash.
    """

    project: Project
    riff: Riff
    name: str

    @property
    def title(self) -> str:
        """What a player knows it by."""
        return self.riff.title or "a riff without a title"


class InWork:
    """The list of riffs in work.

    Parameters
    ----------
    folder : Path or None
        None for the usual place.
    """

    def __init__(self, folder: Path | None = None) -> None:
        self.folder = folder or Path(user_data_dir("dromic", appauthor=False)) / "in-work"

    def riffs(self) -> tuple[RiffInWork, ...]:
        """All of them, by title; what cannot be read is left where it is."""
        found = []
        try:
            files = sorted(self.folder.glob(f"*{PROJECT_SUFFIX}"))
        except OSError:
            return ()
        for file in files:
            try:
                project = read_project(file)
                riff = read_riff_text(project.text).riff
            except RiffError:
                continue
            found.append(RiffInWork(project, riff, file.stem))
        return tuple(sorted(found, key=lambda one: (one.title, one.name)))

    def add(self, project: Project) -> None:
        """Put a riff on the list; one that is there already is replaced.

        Raises
        ------
        RiffError
            When there are enough already, it cannot be read, or cannot be written.
        """
        name = riff_hash(read_riff_text(project.text).riff)
        others = [one for one in self.riffs() if one.name != name]
        if len(others) >= MOST_RIFFS:
            raise RiffError(f"{MOST_RIFFS} riffs are enough at a time; take one off the list first")
        make_folder(self.folder)
        write_project(project, self.folder / f"{name}{PROJECT_SUFFIX}")

    def remove(self, name: str) -> None:
        """Take a riff off the list.

        Raises
        ------
        RiffError
            When its file cannot be removed.
        """
        try:
            (self.folder / f"{name}{PROJECT_SUFFIX}").unlink(missing_ok=True)
        except OSError as error:
            raise RiffError(f"it stays on the list: {error.strerror}", file=name) from None
