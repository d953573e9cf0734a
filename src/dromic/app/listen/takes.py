"""Takes that were recorded: each a file, kept until the player throws it away.

While a take is recorded its samples are written down as they come, so that one that is cut off, by the program or
the machine, is found at the next start. Plain Python without Qt.
"""

from __future__ import annotations

import re
import tempfile
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from io import BytesIO
from pathlib import Path
from typing import BinaryIO

import numpy as np
import soundfile
from platformdirs import user_data_dir

from dromic.errors import RiffError
from dromic.storage.writing import make_folder, write_bytes

BEGUN, DONE = ".raw", ".flac"
LONGEST_NAME = 60
BYTES_A_SAMPLE = 2


def takes_folder() -> Path:
    """Where takes are kept."""
    return Path(user_data_dir("dromic", appauthor=False)) / "takes"


@dataclass
class TakeInProgress:
    """A take while it is recorded.

    Parameters
    ----------
    folder : Path
    name : str
    rate : int
    """

    folder: Path
    name: str
    rate: int

    def __post_init__(self) -> None:
        self.samples = bytearray()
        self.trouble = ""
        self._file: BinaryIO | None = None
        try:
            make_folder(self.folder)
            self._file = (self.folder / f"{self.name}.{self.rate}{BEGUN}").open("wb")
        except (OSError, RiffError) as error:
            self.trouble = f"The take is only kept in memory until it is over: {error}"

    def add(self, data: bytes) -> None:
        """Take over samples, 16 bits each, one channel."""
        self.samples += data
        if self._file is not None:
            try:
                self._file.write(data)
                self._file.flush()
            except OSError as error:
                self.trouble = f"The take is only kept in memory until it is over: {error}"
                with suppress(OSError):
                    self._file.close()
                self._file = None

    def leave(self) -> None:
        """Let the file go as it is, as when the program is cut off; the next start makes a take of it."""
        if self._file is not None:
            self._file.close()
            self._file = None

    def finish(self) -> Path:
        """Write the take whole.

        Raises
        ------
        RiffError
            When it cannot be written; its samples are still here.
        """
        path = self.folder / f"{self.name}{DONE}"
        write_bytes(packed(bytes(self.samples), self.rate), path)
        self._let_go()
        return path

    def _let_go(self) -> None:
        if self._file is not None:
            with suppress(OSError):
                self._file.close()
            self._file = None
        with suppress(OSError):
            (self.folder / f"{self.name}.{self.rate}{BEGUN}").unlink()


class TakeFolder:
    """The takes of a player, or of the demo, which are gone when it closes.

    Parameters
    ----------
    path : Path or None
        None for the usual place.
    demo : bool
    now : callable
        The time, for names.
    """

    def __init__(
        self,
        path: Path | None = None,
        *,
        demo: bool = False,
        now: Callable[[], datetime] = lambda: datetime.now(UTC),
    ) -> None:
        self._temporary = tempfile.TemporaryDirectory(prefix="dromic-takes-") if demo else None
        self.path = Path(self._temporary.name) if self._temporary is not None else path or takes_folder()
        self._now = now

    def begin(self, title: str, rate: int) -> TakeInProgress:
        """Begin a take of a riff."""
        words = re.sub(r"[^\w -]+", "", title).strip()[:LONGEST_NAME] or "riff"
        stamp = self._now().astimezone().strftime("%Y-%m-%d %H-%M-%S")
        name, number = f"{stamp} {words}", 2
        while (self.path / f"{name}{DONE}").exists() or (self.path / f"{name}.{rate}{BEGUN}").exists():
            name, number = f"{stamp} {words} {number}", number + 1
        return TakeInProgress(self.path, name, rate)

    def takes(self) -> list[Path]:
        """Every take, the newest first."""
        try:
            return sorted(self.path.glob(f"*{DONE}"), key=lambda path: path.name, reverse=True)
        except OSError:
            return []

    def rescue(self) -> list[str]:
        """Make whole what was cut off; returns the names of those takes."""
        try:
            return [begun.name for begun in self.path.glob(f"*{BEGUN}") if self._rescue(begun)]
        except OSError:
            return []

    def throw_away(self, path: Path) -> None:
        """Throw a take away for good.

        Raises
        ------
        RiffError
            When it cannot be.
        """
        if path.parent != self.path:
            raise RiffError("only takes that were recorded here are thrown away here", file=str(path))
        try:
            path.unlink()
        except OSError as error:
            raise RiffError(f"the take could not be thrown away: {error}", file=str(path)) from None

    def close(self) -> None:
        """Throw the demo's away."""
        if self._temporary is not None:
            self._temporary.cleanup()
            self._temporary = None

    def _rescue(self, begun: Path) -> bool:
        name, _, rate = begun.name.removesuffix(BEGUN).rpartition(".")
        # One that another window is recording just now is younger than this.
        if not rate.isdigit() or self._now().timestamp() - begun.stat().st_mtime < 60.0:
            return False
        try:
            write_bytes(packed(begun.read_bytes(), int(rate)), self.path / f"{name}{DONE}")
            begun.unlink()
        except (RiffError, OSError):
            # It stays as it is, for another time.
            return False
        return True


def packed(data: bytes, rate: int) -> bytes:
    """Samples of 16 bits as a FLAC file."""
    samples = np.frombuffer(data[: len(data) // BYTES_A_SAMPLE * BYTES_A_SAMPLE], "<i2")
    out = BytesIO()
    soundfile.write(out, samples, rate, format="FLAC", subtype="PCM_16")
    return out.getvalue()
