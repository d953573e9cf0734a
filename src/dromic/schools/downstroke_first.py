"""Downstroke first: everything down, and an up only where the notes are too fast for it."""

from dromic.music.riff import Stroke
from dromic.schools.school import NOTHING_TO_SAY, Change, School, Strike, Verdict


def _on_stroke(strike: Strike) -> Verdict:
    if not strike.opening:
        return NOTHING_TO_SAY
    return Verdict(strike.stroke is Stroke.DOWN, reason="the first note is a down")


def _on_change(change: Change) -> Verdict:
    too_fast = change.before is Stroke.DOWN and change.gap_ms < change.again_ms
    wanted = Stroke.UP if too_fast else Stroke.DOWN
    reason = (
        f"another down needs {change.again_ms:.0f} ms and there are {change.gap_ms:.0f}, so this one is an up"
        if too_fast
        else "there is time for a down"
    )
    return Verdict(change.after is wanted, reason=reason)


SCHOOL = School(
    "downstroke-first",
    "Downstroke first",
    "Everything down; an up only where the notes come too fast for another down.",
    on_stroke=_on_stroke,
    on_change=_on_change,
    timed=True,
)
