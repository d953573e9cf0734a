"""What the window remembers from one start to the next: theme, recent files, own hands; and riffs not yet saved.

Plain Python without Qt. A settings file that cannot be read is no reason not to start: the settings are then the
usual ones, and what was there is kept beside it.
"""

from __future__ import annotations

import json
import os
from dataclasses import dataclass, fields, replace
from itertools import count
from pathlib import Path
from typing import Any

from platformdirs import user_config_dir, user_state_dir

from dromic.errors import RiffError
from dromic.formats.hands_file import hands_as_data, hands_from_data
from dromic.formats.project import Project, project_as_data, project_from_data
from dromic.hands.profile import Hands
from dromic.schools.registry import DEFAULT_SCHOOL, SCHOOLS
from dromic.storage.writing import write_text

SCHEMA = 1
MOST_RECENT = 10
SIZES = (1.0, 1.25, 1.5, 2.0)
_NOT_PLAIN = ("recent", "hands")
_WINDOWS = count()


@dataclass(frozen=True)
class Settings:
    """The settings.

    Parameters
    ----------
    theme : str
    recent : tuple of str
        Paths, the last one first.
    hands : Hands or None
        The player's own.
    welcomed : bool
        Whether the first steps have been read.
    thick_on_top : bool
        Strings as they hang; else as on a page of tablature.
    left_handed : bool
        The neck as a left-handed player sees it.
    neck, mutes : bool
        Whether the neck strip and the muting lane show.
    chart_size : float
        Size of chart and neck, from `SIZES`.
    click, count_in, around : bool
        How the plan is played.
    school : str
        School that new riffs are planned by.
    """

    theme: str = "light"
    recent: tuple[str, ...] = ()
    hands: Hands | None = None
    welcomed: bool = False
    thick_on_top: bool = True
    left_handed: bool = False
    neck: bool = True
    mutes: bool = False
    chart_size: float = 1.0
    click: bool = False
    count_in: bool = False
    around: bool = False
    school: str = DEFAULT_SCHOOL

    def with_recent(self, path: Path) -> Settings:
        """Return the settings with a file opened or saved last."""
        name = str(path.resolve())
        return replace(self, recent=(name, *(one for one in self.recent if one != name))[:MOST_RECENT])

    def without_recent(self, name: str) -> Settings:
        """Return the settings without a file that is gone."""
        return replace(self, recent=tuple(one for one in self.recent if one != name))


def settings_file() -> Path:
    """Where the settings are."""
    return Path(user_config_dir("dromic", appauthor=False)) / "settings.json"


def load_settings(path: Path | None = None) -> Settings:
    """Read the settings, or return the usual ones."""
    path = path or settings_file()
    try:
        data = json.loads(path.read_text(encoding="utf-8"))
        return _settings(data)
    except FileNotFoundError:
        return Settings()
    except (OSError, ValueError, KeyError, TypeError, RiffError):
        _set_aside(path)
        return Settings()


def _settings(data: dict[str, Any]) -> Settings:
    if data["schema"] != SCHEMA:
        raise ValueError(data["schema"])
    hands = data.get("hands")
    found = Settings(
        recent=tuple(str(one) for one in data.get("recent", ()))[:MOST_RECENT],
        hands=None if hands is None else hands_from_data(hands),
    )
    plain = {
        one.name: data[one.name] for one in fields(Settings) if one.name not in _NOT_PLAIN and one.name in data
    }
    for name, value in plain.items():
        if type(value) is not type(getattr(found, name)):
            raise TypeError(name)
    found = replace(found, **plain)
    if found.chart_size not in SIZES or found.school not in SCHOOLS:
        raise ValueError(found)
    return found


def _set_aside(path: Path) -> None:
    try:
        path.replace(path.with_suffix(".unreadable"))
    except OSError:
        return


def save_settings(settings: Settings, path: Path | None = None) -> None:
    """Write the settings.

    Raises
    ------
    RiffError
        When they cannot be written.
    """
    path = path or settings_file()
    data: dict[str, Any] = {"schema": SCHEMA}
    data |= {one.name: getattr(settings, one.name) for one in fields(Settings)}
    data["recent"] = list(settings.recent)
    data["hands"] = None if settings.hands is None else hands_as_data(settings.hands)
    _write(path, json.dumps(data, indent=1, ensure_ascii=False) + "\n")


def _write(path: Path, text: str) -> None:
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise RiffError(f"cannot be written: {error.strerror or error}", file=str(path)) from None
    write_text(text, path)


@dataclass(frozen=True)
class RecoveredDocument:
    """What was not saved when the program ended, and the file it came from."""

    project: Project
    path: Path | None
    file: Path


class Recovery:
    """Keeps what is not saved yet where the next start finds it.

    Parameters
    ----------
    folder : Path or None
        None for the usual one.
    """

    def __init__(self, folder: Path | None = None) -> None:
        self._folder = folder or Path(user_state_dir("dromic", appauthor=False)) / "unsaved"
        # One process may have several windows.
        self._file = self._folder / f"{os.getpid()}-{next(_WINDOWS)}.json"

    def keep(self, project: Project, path: Path | None) -> None:
        """Write down a riff as it is, with all that belongs to it.

        Raises
        ------
        RiffError
            When it cannot be written.
        """
        data = {"project": project_as_data(project), "path": None if path is None else str(path)}
        _write(self._file, json.dumps(data, ensure_ascii=False))

    def forget(self) -> None:
        """Take away what was kept: it is saved, or not wanted."""
        self._file.unlink(missing_ok=True)

    def left(self) -> tuple[RecoveredDocument, ...]:
        """Riffs that programs left which run no more, the newest first."""
        found = []
        if not self._folder.is_dir():
            return ()
        for file in sorted(self._folder.glob("*.json"), key=lambda one: -one.stat().st_mtime):
            process = file.stem.partition("-")[0]
            if not process.isdecimal() or file == self._file or _runs(int(process)):
                continue
            try:
                data = json.loads(file.read_text(encoding="utf-8"))
                path = data["path"]
                # Earlier versions kept only the text.
                project = project_from_data(data.get("project", data))
                found.append(RecoveredDocument(project, None if path is None else Path(path), file))
            except (OSError, ValueError, KeyError, TypeError, RiffError):
                _set_aside(file)
        return tuple(found)


def _runs(process: int) -> bool:
    """Whether a process of this number runs."""
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except (OSError, OverflowError):
        return True
    return True


class Store:
    """Settings and recovery together; what cannot be written is told in words, and never stands in the way.

    Parameters
    ----------
    settings_path, folder : Path or None
        None for the usual places.
    """

    def __init__(self, settings_path: Path | None = None, folder: Path | None = None) -> None:
        self.path = settings_path or settings_file()
        self.settings = load_settings(self.path)
        self.recovery = Recovery(folder)

    def change(self, **changes: Any) -> str:
        """Change settings; returns why they could not be written, or nothing."""
        new = replace(self.settings, **changes)
        if new == self.settings:
            return ""
        self.settings = new
        try:
            save_settings(new, self.path)
        except RiffError as error:
            return f"The settings will not be remembered: {error}"
        return ""

    def keep(self, project: Project | None, path: Path | None) -> str:
        """Keep what is not saved, or forget it when it is None; returns why that failed, or nothing."""
        try:
            if project is None:
                self.recovery.forget()
            else:
                self.recovery.keep(project, path)
        except (OSError, RiffError) as error:
            return f"The riff is not kept for the next start ({error}); save it yourself"
        return ""
