"""What a school of picking is: rules on single strokes and on what follows what.

A rule allows, prefers (an effort of 0 against more) or forbids, and gives its reason in words. The planner
asks every school the same two questions and knows nothing else about it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from dromic.music.grid import GridPlace
from dromic.music.riff import Stroke


@dataclass(frozen=True)
class Verdict:
    """What a rule says.

    Parameters
    ----------
    allowed : bool
    effort : float
        What it costs against the preferred choice.
    reason : str
        A clause for the player; empty when the rule has nothing to say.
    """

    allowed: bool = True
    effort: float = 0.0
    reason: str = ""


NOTHING_TO_SAY = Verdict()


@dataclass(frozen=True)
class Change:
    """From one picked note to the next.

    Parameters
    ----------
    before, after : Stroke
    travel : int
        Strings moved toward the floor; negative toward the ceiling; 0 on the same string.
    """

    before: Stroke
    after: Stroke
    travel: int


def _any_stroke(_stroke: Stroke, _place: GridPlace) -> Verdict:
    return NOTHING_TO_SAY


def _any_change(_change: Change) -> Verdict:
    return NOTHING_TO_SAY


@dataclass(frozen=True)
class School:
    """A school of picking.

    Parameters
    ----------
    name : str
        As on the command line.
    title : str
        As in the window.
    words : str
        The rule in one sentence.
    on_stroke : callable
        Verdict on a stroke at a place of the beat grid.
    on_change : callable
        Verdict on one stroke after another.
    """

    name: str
    title: str
    words: str
    on_stroke: Callable[[Stroke, GridPlace], Verdict] = _any_stroke
    on_change: Callable[[Change], Verdict] = _any_change
