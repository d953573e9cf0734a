"""Economy: alternate on a string, carry on in the direction of travel when the string changes."""

from dromic.music.riff import Stroke
from dromic.schools.school import Change, School, Verdict


def _on_change(change: Change) -> Verdict:
    if change.travel == 0:
        return Verdict(change.after is not change.before, reason="alternate while the string stays")
    onward = Stroke.DOWN if change.travel > 0 else Stroke.UP
    way = "toward the floor" if change.travel > 0 else "toward the ceiling"
    return Verdict(change.after is onward, reason=f"the string changes {way}, so the pick carries on {onward}")


SCHOOL = School(
    "economy",
    "Economy",
    "Alternate on a string; when the string changes, carry on in the direction of travel.",
    on_change=_on_change,
)
