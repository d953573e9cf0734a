"""What readers of files make: the parts of a file, bars as the file has them, and what has to be said about it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import islice

from dromic.music.rhythm import Meter
from dromic.music.riff import Event, Riff


@dataclass(frozen=True)
class Imported:
    """A riff from a file, and what has to be said about it.

    Parameters
    ----------
    riff : Riff
    remarks : tuple of str
        What was inferred, changed or left out, a sentence each.
    tags : tuple of int
        For every written event the number that its reader gave it (see `Tagged`); -1 for none.
    """

    riff: Riff
    remarks: tuple[str, ...] = ()
    tags: tuple[int, ...] = ()


@dataclass(frozen=True)
class Tagged(Event):
    """An event that remembers where in the file it comes from, through everything that is done to it here."""

    tag: int = -1


@dataclass(frozen=True)
class Part:
    """One of the things in a file that a player can choose: a tune, a track, a voice."""

    name: str
    words: str = ""


@dataclass(frozen=True)
class Source:
    """What is in a file.

    Parameters
    ----------
    parts : tuple of Part
        At least one.
    read : callable
        From the number of a part to its riff; raises RiffError.
    likely : int
        The part that a player will most likely want.
    """

    parts: tuple[Part, ...]
    read: Callable[[int], Imported]
    likely: int = 0


@dataclass
class Remarks:
    """Gathers remarks; the same one is said once, with the places where it holds."""

    _found: dict[str, dict[str, None]] = field(default_factory=dict)

    def add(self, words: str, place: str = "") -> None:
        """Say something, about a place such as ``bar 3``."""
        places = self._found.setdefault(words, {})
        if place:
            places[place] = None

    def told(self, most: int = 4) -> tuple[str, ...]:
        """Everything that was said, each with its first places."""
        found = []
        for words, places in self._found.items():
            shown = ", ".join(islice(places, most))
            if len(places) > most:
                shown += f" and {len(places) - most} more"
            found.append(f"{words}: {shown}" if places else words)
        return tuple(found)


@dataclass
class RawBar:
    """A bar as a file has it; its events may fill it or not. `leads` where the file says that it is a pickup.

    A comment is kept at the bar, and the tempo in force where the file gives one.
    """

    events: list[Event] = field(default_factory=list)
    meter: Meter = field(default_factory=Meter)
    leads: bool = False
    comment: str = ""
    tempo: float | None = None

    @property
    def quarters(self) -> Fraction:
        """Length in quarter notes."""
        return sum((event.quarters for event in self.events), Fraction(0))

    def copied(self) -> RawBar:
        """The same bar once more."""
        return replace(self, events=list(self.events))


@dataclass
class RawPhrase:
    """Bars that are played `times` times."""

    bars: list[RawBar] = field(default_factory=list)
    name: str | None = None
    times: int = 1


def clean_title(words: str) -> str:
    """A title as riff text takes it: one line, no leading sign, not too long."""
    return " ".join(words.split())[:120].strip()


def phrase_name(words: str) -> str | None:
    """A phrase name as riff text takes it, or None."""
    name = " ".join(words.replace("[", " ").replace("]", " ").replace("#", " ").split())[:40].strip()
    return name or None


def counted(count: int, noun: str) -> str:
    """A number with its noun.

    Examples
    --------
    >>> counted(1, "bar"), counted(3, "bar")
    ('1 bar', '3 bars')
    """
    return f"{count} {noun}{'' if count == 1 else 's'}"
