"""What is announced of a document: what has changed, why, and whether prices are known."""

from __future__ import annotations

from collections.abc import Callable
from enum import Enum, auto


class Change(Enum):
    """What has changed."""

    TEXT = auto()
    RIFF = auto()
    PLAN_SETTINGS = auto()
    PLAN = auto()
    CHOICE = auto()
    FILE = auto()
    KEPT = auto()


class Cause(Enum):
    """Why something has changed: done, undone or redone by the player, opened, or planned."""

    PLAYER = auto()
    UNDO = auto()
    OPENED = auto()
    PLANNED = auto()


Listener = Callable[[Change], None]


class PriceState(Enum):
    """What has become of the prices of the other ways: known, on their way, or cancelled by the player."""

    KNOWN = auto()
    COMING = auto()
    CANCELLED = auto()
