"""A drill: what is practised, by which hand, why, and what counts as clean.

Its movements are named by what the hands do (see `dromic.practice.movement`), so that the log counts the same
movement wherever it comes.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from dromic.music.riff import Riff
from dromic.planner.plan import Plan
from dromic.practice.movement import movement_key, of_hand
from dromic.practice.tempo.ladder import Range, place_words, range_ceiling


class Focus(StrEnum):
    """What a drill is for: one hand by itself, both together, or the way from one phrase to the next."""

    PICKING = "picking"
    FRETTING = "fretting"
    BOTH = "both"
    JOIN = "join"


CRITERIA = {
    Focus.PICKING: "Clean is: every stroke as loud as the last, evenly spaced, with small ways between strings.",
    Focus.FRETTING: "Clean is: every note speaks by itself, evenly, and nothing rings on.",
    Focus.BOTH: "Clean is: every note sounds, in time, and nothing rings that should not.",
    Focus.JOIN: "Clean is: the first note after the join comes in time, as loud as the last before it.",
}
USUAL_MINUTES = 10
BOTH_HANDS, ONE_HAND, WHOLE_RIFF = "both hands", "one hand", "whole riff"
KINDS = {
    "spot": BOTH_HANDS,
    "join": BOTH_HANDS,
    "pair": BOTH_HANDS,
    "chain": BOTH_HANDS,
    "burst": BOTH_HANDS,
    "picking": ONE_HAND,
    "fretting": ONE_HAND,
    "whole": WHOLE_RIFF,
    "ramp": WHOLE_RIFF,
    "warm-up": WHOLE_RIFF,
}
"""Every kind of drill, and what the log counts it with."""


@dataclass(frozen=True)
class Drill:
    """Something to practise.

    Parameters
    ----------
    kind : str
        One of `KINDS`.
    name : str
        The way of practising, in words.
    riff : Riff
        The fragment as a riff of its own, everything decided.
    focus : Focus
    why : str
        One sentence.
    chosen : Range
        The steps of the plan that it comes from.
    keys : tuple of str
        The movements in it, each once.
    ceiling : float
        The tempo that the model gives the passage, quarter notes a minute: told, never a limit.
    begins, ends : str
        Where it is in the riff, in words.
    minutes : int
        How long at a time.
    density : int
        How often each string's cell is played before the next.
    remarks : tuple of str
        What a player has to know: counts a string, what is left out, where a damper lies.
    """

    kind: str
    name: str
    riff: Riff
    focus: Focus
    why: str
    chosen: Range
    keys: tuple[str, ...]
    ceiling: float
    begins: str
    ends: str
    minutes: int = USUAL_MINUTES
    density: int = 1
    remarks: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if self.kind not in KINDS:
            raise ValueError(f"the kind of drill '{self.kind}' is not in dromic.practice.passages.drill.KINDS")

    @property
    def criterion(self) -> str:
        """What counts as clean, one sentence."""
        return CRITERIA[self.focus]

    @property
    def where(self) -> str:
        """Its place in words."""
        return self.begins if self.begins == self.ends else f"{self.begins} to {self.ends}"


def drill_of(
    plan: Plan,
    chosen: Range,
    riff: Riff,
    why: str,
    *,
    kind: str = "spot",
    name: str = "Both hands",
    focus: Focus = Focus.BOTH,
    density: int = 1,
    remarks: tuple[str, ...] = (),
) -> Drill:
    """A drill from steps of a plan.

    Parameters
    ----------
    plan : Plan
    chosen : Range
    riff : Riff
        What is played of them.
    why : str
        One sentence.
    kind, name, focus, density, remarks
        As in `Drill`.
    """
    steps = plan.task.steps
    return Drill(
        kind,
        name,
        riff,
        focus,
        why,
        chosen,
        keys_of(plan, chosen, focus),
        range_ceiling(plan, chosen) or plan.tempo,
        steps[chosen.first].moment.place_words,
        steps[chosen.last].moment.place_words,
        density=density,
        remarks=remarks,
    )


def keys_of(plan: Plan, chosen: Range, focus: Focus = Focus.BOTH) -> tuple[str, ...]:
    """The movements inside a passage, each once; of one hand only, where only one plays.

    Parameters
    ----------
    plan : Plan
    chosen : Range
    focus : Focus
    """
    found = []
    for step in range(chosen.first + 1, chosen.last + 1):
        key = movement_key(plan.event_of_step(step - 1), plan.event_of_step(step))
        if focus in (Focus.PICKING, Focus.FRETTING):
            key = of_hand(key, picking=focus is Focus.PICKING)
        found.append(key)
    return tuple(dict.fromkeys(found))


def range_words(plan: Plan, chosen: Range) -> str:
    """A range in words, the first letter large."""
    words = place_words(plan, chosen)
    return words[:1].upper() + words[1:]
