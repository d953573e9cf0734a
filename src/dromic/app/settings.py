"""What the window remembers from one start to the next: theme, recent files, own hands.

Plain Python without Qt. A settings file that cannot be read is no reason not to start: the settings are then the
usual ones, and what was there is kept beside it.
"""

from __future__ import annotations

import json
import os
from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from pathlib import Path
from typing import Any

from platformdirs import user_config_dir

from dromic.app.recovery import RecoveredDocument, Recovery
from dromic.errors import RiffError
from dromic.formats.hands_file import hands_as_data, hands_from_data
from dromic.formats.project import Project
from dromic.hands.profile import Hands
from dromic.practice.drill_climb import Rule
from dromic.practice.schedule import LONGEST, SHORTEST
from dromic.schools.registry import DEFAULT_SCHOOL, SCHOOLS
from dromic.storage.locks import held
from dromic.storage.reading import read_json
from dromic.storage.writing import make_folder, write_text

SCHEMA = 1
MOST_RECENT = 10
MOST_HINTS = 50
LOUDEST = 150
TEXT_SIZES = (1.0, 1.25, 1.5, 2.0)
SIZES = (1.0, 1.25, 1.5, 2.0)
_NOT_PLAIN = ("recent", "hands", "hints_read")


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
    hints_read : tuple of str
        Stages whose hint has been read.
    thick_on_top : bool
        Strings as they hang; else as on a page of tablature.
    left_handed : bool
        The neck as a left-handed player sees it.
    neck, mutes, harmony : bool
        Whether the neck strip and the muting lane show.
    text_size : float
        How large the text of the window is, 1 for plain.
    chart_size : float
        Size of chart and neck, from `SIZES`.
    click, count_in, around : bool
        How the plan is played.
    school : str
        School that new riffs are planned by.
    minutes : int
        How long a session is.
    tempo_rule : str
        How the next tempo of a drill is found.
    bursts : bool
        Whether bursts at the target come between.
    volume_voice, volume_click, volume_count_in, volume_drone : int
        Per cent.
    clicks_a_beat, click_swing : int
        What the metronome clicks; the swing in per cent.
    click_accents : bool
    """

    theme: str = "light"
    recent: tuple[str, ...] = ()
    hands: Hands | None = None
    welcomed: bool = False
    hints_read: tuple[str, ...] = ()
    thick_on_top: bool = True
    left_handed: bool = False
    neck: bool = True
    mutes: bool = False
    harmony: bool = False
    text_size: float = 1.0
    chart_size: float = 1.0
    click: bool = False
    count_in: bool = False
    around: bool = False
    school: str = DEFAULT_SCHOOL
    minutes: int = 30
    tempo_rule: str = Rule.RECORD.value
    bursts: bool = True
    volume_voice: int = 80
    volume_click: int = 100
    volume_count_in: int = 100
    volume_drone: int = 0
    clicks_a_beat: int = 1
    click_swing: int = 50
    click_accents: bool = True

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
        if not os.path.lexists(path):
            return Settings()
        return _settings(read_json(path))
    except (OSError, ValueError, KeyError, TypeError, RiffError):
        _set_aside(path)
        return Settings()


def _settings(data: object) -> Settings:
    if not isinstance(data, dict) or data["schema"] != SCHEMA:
        raise ValueError("other settings")
    hands = data.get("hands")
    found = Settings(
        recent=tuple(str(one) for one in data.get("recent", ()))[:MOST_RECENT],
        hands=None if hands is None else hands_from_data(hands),
        hints_read=tuple(str(one) for one in data.get("hints_read", ()))[:MOST_HINTS],
    )
    plain = {
        one.name: data[one.name] for one in fields(Settings) if one.name not in _NOT_PLAIN and one.name in data
    }
    for name, value in plain.items():
        if type(value) is not type(getattr(found, name)):
            raise TypeError(name)
    found = replace(found, **plain)
    sizes = found.chart_size in SIZES and found.text_size in TEXT_SIZES
    if not sizes or found.school not in SCHOOLS or found.tempo_rule not in list(Rule):
        raise ValueError(found)
    volumes = (found.volume_voice, found.volume_click, found.volume_count_in, found.volume_drone)
    if not SHORTEST <= found.minutes <= LONGEST or not all(0 <= one <= LOUDEST for one in volumes):
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
    make_folder(path.parent)
    data: dict[str, Any] = {"schema": SCHEMA}
    data |= {one.name: getattr(settings, one.name) for one in fields(Settings)}
    data["recent"] = list(settings.recent)
    data["hands"] = None if settings.hands is None else hands_as_data(settings.hands)
    # Letters beyond ASCII are escaped: names of files may be of any bytes.
    write_text(json.dumps(data, indent=1) + "\n", path)


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
        return self.edit(lambda settings: replace(settings, **changes))

    def edit(self, change: Callable[[Settings], Settings]) -> str:
        """Change settings, and nothing else of what other windows have written meanwhile.

        Parameters
        ----------
        change : callable
            Applied to this window's settings and to those on the disk.

        Returns
        -------
        str
            Why they could not be written, or nothing.
        """
        new = change(self.settings)
        if new == self.settings:
            return ""
        self.settings = new
        try:
            make_folder(self.path.parent)
            with held(self.path.with_suffix(".lock")):
                merged = change(load_settings(self.path))
                save_settings(merged, self.path)
            self.settings = replace(new, recent=merged.recent)
        except RiffError as error:
            return f"The settings will not be remembered: {error}"
        return ""

    def keep(self, project: Project | None, path: Path | None, known: str | None = None) -> str:
        """Keep what is not saved, or forget it when it is None; returns why that failed, or nothing."""
        try:
            if project is None:
                self.recovery.forget()
            else:
                self.recovery.keep(project, path, known)
        except (OSError, RiffError) as error:
            return f"The riff is not kept for the next start ({error}); save it yourself"
        return ""

    def take_up(self, kept: RecoveredDocument) -> str:
        """Take over what another window left; returns why it stays where it was, or nothing."""
        try:
            self.recovery.take_up(kept)
        except RiffError as error:
            return f"The riff is kept where it was, not as this window's ({error}); save it"
        return ""
