"""What was read of riff text: the riff, and where each of its events is written."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.music.riff import Riff


@dataclass(frozen=True)
class Span:
    """Where an event is written: line and columns from 1, the end not included."""

    line: int
    start: int
    end: int


@dataclass(frozen=True)
class Reading:
    """A riff and, for each event in reading order, where it is written."""

    riff: Riff
    spans: tuple[Span, ...]
