"""Strict alternate: every picked note flips, whatever the string."""

from dromic.schools.school import Change, School, Verdict


def _on_change(change: Change) -> Verdict:
    return Verdict(change.after is not change.before, reason="every picked note flips")


SCHOOL = School(
    "strict-alternate",
    "Strict alternate",
    "Every picked note takes the other stroke, whatever the string.",
    on_change=_on_change,
)
