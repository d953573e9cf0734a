"""Economy: alternate on a string, carry on in the direction of travel when the string changes."""

from dromic.music.riff import Stroke
from dromic.schools.school import School, StrokePair, Verdict


def _on_pair(pair: StrokePair) -> Verdict:
    if pair.travel == 0:
        return Verdict(pair.after is not pair.before, reason="alternate while the string stays")
    onward = Stroke.DOWN if pair.travel > 0 else Stroke.UP
    way = "toward the thin strings" if pair.travel > 0 else "toward the thick strings"
    return Verdict(pair.after is onward, reason=f"the string changes {way}, so the pick carries on {onward}")


SCHOOL = School(
    "economy",
    "Economy",
    "Alternate on a string; when the string changes, carry on in the direction of travel.",
    on_pair=_on_pair,
)
