"""The demo riffs, in the order in which they are shown."""

from __future__ import annotations

from dataclasses import dataclass
from importlib.resources import files

from dromic.formats.rifftext.reader import read_riff_text
from dromic.music.riff import Riff

# Each riff comes with the school its players would choose for it.
_SCHOOLS = {
    "kiln-stairs": "pulse-alternate",
    "millrace-reel": "pulse-alternate",
    "glass-ladder": "least-motion",
    "lamplighter": "economy",
    "low-tide": "least-motion",
    "slow-ford": "hybrid",
}


@dataclass(frozen=True)
class DemoRiff:
    """A riff of the demo: its file name without suffix, its text and the school to show it with."""

    name: str
    text: str
    school: str

    @property
    def riff(self) -> Riff:
        """The riff itself."""
        return read_riff_text(self.text).riff


def demo_riffs() -> tuple[DemoRiff, ...]:
    """Return all demo riffs.

    Examples
    --------
    >>> len(demo_riffs())
    6
    """
    folder = files("dromic.demo") / "riffs"
    return tuple(
        DemoRiff(name, (folder / f"{name}.riff").read_text(encoding="utf-8"), school)
        for name, school in _SCHOOLS.items()
    )
