"""What the hands do on the way to a note, in the words of players: a note may belong to several classes."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType

from dromic.music.riff import Stroke
from dromic.planner.plan import Plan
from dromic.planner.task.state import State

WORDS: Mapping[str, str] = MappingProxyType(
    {
        "inside": "inside string changes",
        "outside": "outside string changes",
        "sweep": "sweeps to the next string",
        "skip": "string skips",
        "turn": "turns of direction across the strings",
        "shift": "position shifts",
        "roll": "finger rolls",
        "re-entry": "strokes after legato",
        "legato": "slurred notes",
        "seam": "first notes of a round",
    }
)
"""Classes of movement by key, in the plural."""


def classes_of(plan: Plan, step: int) -> tuple[str, ...]:
    """Classes of the movement to a note; none for the first note, and for nothing out of the way.

    Parameters
    ----------
    plan : Plan
    step : int
    """
    if not step:
        return ()
    before, here = plan.states[step - 1], plan.states[step]
    classes = []
    if _shifts(before, here):
        classes.append("shift")
    if _rolls(before, here):
        classes.append("roll")
    if not here.sounded:
        return (*classes, "legato")
    if not before.sounded:
        classes.append("re-entry")
    # Strings count from the thinnest, so this is above zero on the way to thinner ones.
    travel = before.ends - here.begins
    if travel:
        classes += _crossing(plan, step, before, here, travel)
    return tuple(classes)


def main_class(plan: Plan, step: int) -> str:
    """The class of a movement that says most of it; empty for nothing out of the way.

    Parameters
    ----------
    plan : Plan
    step : int
    """
    own = classes_of(plan, step)
    return next((key for key in _FIRST if key in own), "")


def _crossing(plan: Plan, step: int, before: State, here: State, travel: int) -> list[str]:
    crossing = []
    if abs(travel) > 1:
        crossing.append("skip")
    elif before.sounded and before.stroke in _PICKED and here.stroke in _PICKED:
        if before.stroke is here.stroke:
            crossing.append("sweep")
        else:
            # Going on in the direction of the last stroke, the pick comes round from the outer side.
            outer = (before.stroke is Stroke.DOWN) == (travel > 0)
            crossing.append("outside" if outer else "inside")
    if step > 1:
        earlier = plan.states[step - 2]
        way = earlier.ends - before.begins
        if way and (way < 0) != (travel < 0):
            crossing.append("turn")
    return crossing


_PICKED = (Stroke.DOWN, Stroke.UP)
_FIRST = ("legato", "shift", "skip", "sweep", "inside", "outside")


def _shifts(before: State, here: State) -> bool:
    return here.position != before.position and here.finger > 0


def _rolls(before: State, here: State) -> bool:
    """Whether one finger plays both notes at one fret of two strings."""
    return 0 < here.finger == before.finger and here.fret == before.fret and here.string != before.string
