"""Strict alternate: every picked note flips, whatever the string."""

from dromic.music.riff import Style
from dromic.schools.school import School, StrokePair, Verdict


def _on_pair(pair: StrokePair) -> Verdict:
    return Verdict(pair.after is not pair.before, reason="every picked note flips")


SCHOOL = School(
    "strict-alternate",
    "Strict alternate",
    "Every picked note takes the other stroke, whatever the string.",
    on_pair=_on_pair,
    style=Style.JAZZ,
    swings=True,
)
