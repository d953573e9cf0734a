"""Where the desktop looks for entries, icons, kinds of files, manual pages and completions, and putting ours there.

A package of the system or a wheel puts them under its own ``share``; for programs that are installed for one user
apart from both (as by pipx) ``dromic desktop install`` puts them under the user's.
"""

from __future__ import annotations

import os
import shutil
import subprocess
from contextlib import suppress
from importlib.resources import files
from pathlib import Path

from dromic.errors import RiffError
from dromic.storage.writing import make_folder, write_bytes

NAME = "org.dromic.Dromic"
# Of each file of ours where it belongs under a `share` folder (freedesktop.org: XDG base directories, desktop
# entries, icon themes, shared MIME information; man-db; bash-completion and zsh).
PLACES = {
    f"{NAME}.desktop": f"applications/{NAME}.desktop",
    f"{NAME}.svg": f"icons/hicolor/scalable/apps/{NAME}.svg",
    f"{NAME}.mime.xml": f"mime/packages/{NAME}.xml",
    f"{NAME}.metainfo.xml": f"metainfo/{NAME}.metainfo.xml",
    "dromic.1": "man/man1/dromic.1",
    "dromic.bash": "bash-completion/completions/dromic",
    "_dromic": "zsh/site-functions/_dromic",
}
_REFRESHED = (("update-desktop-database", "applications"), ("update-mime-database", "mime"))


def share_folder() -> Path:
    """The user's own ``share``."""
    named = os.environ.get("XDG_DATA_HOME", "")
    return Path(named) if os.path.isabs(named) else Path.home() / ".local" / "share"


def icon_path() -> Path:
    """Where the icon lies in the package."""
    return Path(str(files("dromic.desktop") / f"{NAME}.svg"))


def install(share: Path) -> list[Path]:
    """Put everything in place.

    Returns
    -------
    list of Path
        What stands there now.

    Raises
    ------
    RiffError
        When something cannot be written.
    """
    command = shutil.which("dromic")
    written = []
    for name, place in PLACES.items():
        data = (files("dromic.desktop") / name).read_bytes()
        if name.endswith(".desktop") and command is not None:
            # A menu may not know the folder that the shell finds the program in.
            data = data.replace(b"Exec=dromic", f"Exec={_quoted(command)}".encode())
        target = share / place
        make_folder(target.parent)
        write_bytes(data, target)
        written.append(target)
    _refresh(share)
    return written


def remove(share: Path) -> list[Path]:
    """Take away what `install` has put in place.

    Returns
    -------
    list of Path
        What was there.

    Raises
    ------
    RiffError
        When something cannot be taken away.
    """
    removed = []
    for place in PLACES.values():
        target = share / place
        try:
            target.unlink()
            removed.append(target)
        except FileNotFoundError:
            continue
        except OSError as error:
            raise RiffError(f"it cannot be taken away: {error}", file=str(target)) from None
    _refresh(share)
    return removed


def _quoted(command: str) -> str:
    """A path as desktop entries have it: in quotes where it holds a space."""
    return f'"{command}"' if " " in command else command


def _refresh(share: Path) -> None:
    """Let the desktop notice, where the programs for that are there."""
    for program, folder in _REFRESHED:
        path = shutil.which(program)
        if path is not None and (share / folder).is_dir():
            with suppress(OSError, subprocess.SubprocessError):
                subprocess.run([path, str(share / folder)], check=False, capture_output=True, timeout=30)
