"""What the window remembers from one start to the next: theme, recent files, own hands.

Plain Python without Qt. A settings file that cannot be read is no reason not to start: the settings are then the
usual ones, and what was there is kept beside it. A single setting that cannot be read costs that one.
"""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Container
from contextlib import suppress
from dataclasses import dataclass, field, fields, replace
from functools import partial
from pathlib import Path
from typing import Any

from platformdirs import user_config_dir

from dromic.app.recovery import RecoveredDocument, Recovery
from dromic.errors import RiffError
from dromic.formats.hands_file import hands_as_data, hands_from_data
from dromic.formats.project import Project
from dromic.hands.profile import Hands
from dromic.practice.passages.drill_climb import Rule
from dromic.practice.tempo.schedule import LONGEST, SHORTEST
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
LOUDNESS = range(LOUDEST + 1)


def setting(
    default: Any,
    *,
    allowed: Container[Any] | None = None,
    remembered: bool = False,
    read: Callable[[Any], Any] | None = None,
    write: Callable[[Any], Any] | None = None,
) -> Any:
    """Declare a setting: all that there is to say of it.

    Parameters
    ----------
    default : object
    allowed : container or None
        The values that it may have; None for all of its type.
    remembered : bool
        Whether it is what the player did last rather than a preference, so that Reset to defaults leaves it alone.
    read, write : callable or None
        From what stands in the file, and into it; None where it stands there as it is.
    """

    def plain(value: Any) -> Any:
        if type(value) is not type(default) or (allowed is not None and value not in allowed):
            raise ValueError(value)
        return value

    told = {"remembered": remembered, "read": read or plain, "write": write or _as_it_is}
    return field(default=default, metadata=told)


def _as_it_is(value: Any) -> Any:
    return value


def _names(most: int, value: Any) -> tuple[str, ...]:
    """So many names from a list."""
    if not isinstance(value, list):
        raise TypeError(value)
    return tuple(str(one) for one in value)[:most]


def _hands(value: Any) -> Hands | None:
    return None if value is None else hands_from_data(value)


def _hands_written(hands: Hands | None) -> Any:
    return None if hands is None else hands_as_data(hands)


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

    theme: str = setting("light")
    recent: tuple[str, ...] = setting((), remembered=True, read=partial(_names, MOST_RECENT), write=list)
    hands: Hands | None = setting(None, remembered=True, read=_hands, write=_hands_written)
    welcomed: bool = setting(False, remembered=True)
    hints_read: tuple[str, ...] = setting((), remembered=True, read=partial(_names, MOST_HINTS), write=list)
    thick_on_top: bool = setting(True)
    left_handed: bool = setting(False)
    neck: bool = setting(True)
    mutes: bool = setting(False)
    harmony: bool = setting(False)
    text_size: float = setting(1.0, allowed=TEXT_SIZES)
    chart_size: float = setting(1.0, allowed=SIZES)
    click: bool = setting(False)
    count_in: bool = setting(False)
    around: bool = setting(False)
    school: str = setting(DEFAULT_SCHOOL, allowed=SCHOOLS)
    minutes: int = setting(30, allowed=range(SHORTEST, LONGEST + 1), remembered=True)
    tempo_rule: str = setting(Rule.RECORD.value, allowed=list(Rule), remembered=True)
    bursts: bool = setting(True, remembered=True)
    volume_voice: int = setting(80, allowed=LOUDNESS, remembered=True)
    volume_click: int = setting(100, allowed=LOUDNESS, remembered=True)
    volume_count_in: int = setting(100, allowed=LOUDNESS, remembered=True)
    volume_drone: int = setting(0, allowed=LOUDNESS, remembered=True)
    clicks_a_beat: int = setting(1, remembered=True)
    click_swing: int = setting(50, remembered=True)
    click_accents: bool = setting(True, remembered=True)

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


def preferences() -> tuple[str, ...]:
    """Names of the settings that Reset to defaults resets: all but those that are only remembered."""
    return tuple(one.name for one in fields(Settings) if not one.metadata["remembered"])


def load_settings(path: Path | None = None) -> Settings:
    """Read the settings, or return the usual ones; of one that is broken the usual one, and the others stay."""
    path = path or settings_file()
    try:
        if not os.path.lexists(path):
            return Settings()
        data = read_json(path)
        if not isinstance(data, dict) or data["schema"] != SCHEMA:
            raise ValueError("other settings")
    except (OSError, ValueError, KeyError, TypeError, RiffError):
        _set_aside(path)
        return Settings()
    found: dict[str, Any] = {}
    broken = False
    for one in fields(Settings):
        if one.name in data:
            try:
                found[one.name] = one.metadata["read"](data[one.name])
            except (ValueError, KeyError, TypeError, RiffError):
                broken = True
    if broken:
        # What can be read stays where it is, for other windows too.
        with suppress(OSError, RiffError):
            write_text(json.dumps(data, indent=1) + "\n", path.with_suffix(".unreadable"))
    return Settings(**found)


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
    data |= {one.name: one.metadata["write"](getattr(settings, one.name)) for one in fields(Settings)}
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
        """Keep what is not saved, or forget it when it is None; returns why that failed, or nothing.

        Parameters
        ----------
        project : Project or None
        path : Path or None
            None where it is not saved anywhere.
        known : str or None
        """
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
