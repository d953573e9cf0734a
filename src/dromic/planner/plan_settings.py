"""How a player wants a riff to be planned: what stands in the bar above the chart, and in a project file."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.hands.profile import Hands, hands_named
from dromic.music.riff import Stroke, Style
from dromic.planner.limits import ANY, Limits
from dromic.planner.plan import Objective
from dromic.planner.request import Request
from dromic.schools.registry import DEFAULT_SCHOOL, school_named

PRICED_ALTERNATIVES = 12
OWN_HANDS = "own"


@dataclass(frozen=True)
class PlanSettings:
    """How the riff is to be planned.

    Parameters
    ----------
    school : str
    objective : Objective
    hands : str
        A profile, or `OWN_HANDS` for `own`.
    own : Hands or None
        The player's own hands.
    tempo : float or None
        None for the riff's own.
    loop, identical_repeats : bool
        Whether the riff goes round, and whether repeats are to be identical.
    first : Stroke or None
        What the first picked note takes.
    style : Style or None
        None where riff or hands say it, or it is told from the rest.
    limits : Limits
    """

    school: str = DEFAULT_SCHOOL
    objective: Objective = Objective.EFFORT
    hands: str = "medium"
    tempo: float | None = None
    own: Hands | None = None
    loop: bool = False
    identical_repeats: bool = False
    first: Stroke | None = None
    style: Style | None = None
    limits: Limits = ANY

    @property
    def player(self) -> Hands:
        """The hands that play."""
        return self.own if self.own is not None and self.hands == OWN_HANDS else hands_named(self.hands)

    def request(self) -> Request:
        """Return what the planner is asked."""
        return Request(
            self.player,
            school_named(self.school),
            objective=self.objective,
            tempo=self.tempo,
            loop=self.loop,
            alternatives=PRICED_ALTERNATIVES,
            first_stroke=self.first,
            identical_repeats=self.identical_repeats,
            style=self.style,
            limits=self.limits,
        )
