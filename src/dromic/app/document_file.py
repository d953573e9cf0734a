"""The file that a document is kept in: read, written, and looked at for what other programs have done to it."""

from __future__ import annotations

import difflib
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

from dromic.errors import RiffError
from dromic.formats.project import PROJECT_SUFFIX, KeptPlan, Project, read_project, write_project
from dromic.formats.rifftext.reader import read_riff_text
from dromic.planner.plan_settings import PlanSettings
from dromic.storage.reading import fingerprint, read_text
from dromic.storage.writing import BACKUP, write_text

MOST_LINES_COMPARED = 2_000
MOST_LINES_SHOWN = 400


class ChangedOnDiskError(RiffError):
    """Another program has written to the file since it was read."""


@dataclass(frozen=True)
class Snapshot:
    """What undo brings back."""

    text: str
    plan_settings: PlanSettings
    kept: tuple[KeptPlan, ...] = ()
    notes: str = ""


@dataclass(frozen=True)
class FileContents:
    """What stands in a file, and the fingerprint by which a later change is noticed."""

    snapshot: Snapshot
    fingerprint: str | None


def contents(path: Path, settings: PlanSettings) -> FileContents:
    """Read a riff or a project.

    Parameters
    ----------
    path : Path
    settings : PlanSettings
        Those of riff text, which has none of its own, and the hands of a project that knows none.

    Raises
    ------
    RiffError
        When it cannot be read or holds no riff.
    """
    # Taken before reading: what is written in between counts as a change.
    known = fingerprint(path)
    if path.suffix == PROJECT_SUFFIX:
        project = read_project(path)
        wanted = project.plan_settings
        if wanted.own is None:
            # Hands that the project does not know stay the player's.
            wanted = replace(wanted, own=settings.own)
        return FileContents(Snapshot(project.text, wanted, project.kept, project.notes), known)
    text = read_text(path)
    try:
        read_riff_text(text)
    except RiffError as error:
        raise error.in_file(path.name) from None
    return FileContents(Snapshot(text, settings), known)


def write_contents(project: Project, path: Path, known: str | None) -> str:
    """Write a riff's text, or a project; what stood there is kept as a backup.

    Parameters
    ----------
    project : Project
    path : Path
    known : str or None
        The fingerprint of what is known to stand there; None where the document is not of that file.

    Returns
    -------
    str
        The fingerprint of what stands there now.

    Raises
    ------
    ChangedOnDiskError
        When something else stands there than is known.
    RiffError
        When it cannot be written.
    """

    def unchanged() -> bool:
        if known is not None and fingerprint(path) not in (known, None):
            raise ChangedOnDiskError(
                "another program has changed this file since it was opened; nothing was written", file=str(path)
            )
        return True

    unchanged()
    if path.suffix == PROJECT_SUFFIX:
        return write_project(project, path, unchanged)
    return write_text(project.text, path, unchanged, kept_as=BACKUP)


def differences(mine: str, theirs: str) -> Iterator[str]:
    r"""Lines that differ, those of the player with ``-`` and those of the file with ``+`` before them.

    Examples
    --------
    >>> list(differences("tempo: 100\n| 6:0/1 |\n", "tempo: 120\n| 6:0/1 |\n"))
    ['- tempo: 100', '+ tempo: 120', '  | 6:0/1 |']
    """
    one, two = mine.splitlines(), theirs.splitlines()
    if max(len(one), len(two)) > MOST_LINES_COMPARED:
        yield f"Too long to be compared line by line: {len(one)} lines here, {len(two)} in the file."
        return
    shown = 0
    for line in difflib.ndiff(one, two):
        if line.startswith("?"):
            continue
        shown += 1
        if shown > MOST_LINES_SHOWN:
            yield "..."
            return
        yield line
