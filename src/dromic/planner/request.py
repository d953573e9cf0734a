"""What the planner is asked."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from dromic.hands.profile import Hands
from dromic.music.riff import Riff, Stroke, Style
from dromic.planner.limits import ANY, Limits
from dromic.planner.plan import Objective
from dromic.schools.school import School


class Freedom(StrEnum):
    """What the planner may take from the player's decisions."""

    STRINGS = "strings"
    FINGERS = "fingers"
    STROKES = "strokes"
    POSITIONS = "positions"


@dataclass(frozen=True)
class Request:
    """How a riff is to be planned.

    Parameters
    ----------
    hands : Hands
    school : School
    objective : Objective
    tempo : float or None
        Quarter notes a minute; None for the riff's own.
    loop : bool
        Whether the riff goes round, seam included.
    free : frozenset of Freedom
        What to take from the player's decisions.
    alternatives : int
        How many other choices to price for every note.
    by_phrase : mapping of str to School
        Other schools for single phrases, by the phrase's name; those that the riff itself names hold elsewhere.
    first_stroke : Stroke or None
        What the first picked note takes; None where the planner may choose.
    identical_repeats : bool
        Whether every pass of a phrase has to be played like the first.
    style : Style or None
        None where riff or hands say it, or it is told from riff, school and instrument.
    limits : Limits
        Which grips may be used.
    explained : bool
        Whether a refusal says which decisions clash, for which several plans are tried.
    """

    hands: Hands
    school: School
    objective: Objective = Objective.EFFORT
    tempo: float | None = None
    loop: bool = False
    free: frozenset[Freedom] = frozenset()
    alternatives: int = 0
    by_phrase: Mapping[str, School] = field(default_factory=dict)
    first_stroke: Stroke | None = None
    identical_repeats: bool = False
    style: Style | None = None
    limits: Limits = ANY
    explained: bool = True

    def style_said(self, riff: Riff) -> Style | None:
        """The style that is wanted, or else the riff's, or the hands'; None where nobody says it."""
        return self.style or riff.style or self.hands.style
