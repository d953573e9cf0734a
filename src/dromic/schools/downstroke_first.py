"""Downstroke first: everything down, and an up only where the notes are too fast for it."""

from dromic.music.riff import Stroke
from dromic.schools.school import NOTHING_TO_SAY, School, StrokeContext, StrokePair, Verdict


def _on_stroke(context: StrokeContext) -> Verdict:
    if not context.opening:
        return NOTHING_TO_SAY
    return Verdict(context.stroke is Stroke.DOWN, reason="the first note is a down")


def _on_pair(pair: StrokePair) -> Verdict:
    too_fast = pair.before is Stroke.DOWN and pair.gap_ms < pair.again_ms
    wanted = Stroke.UP if too_fast else Stroke.DOWN
    reason = (
        f"another down needs {pair.again_ms:.0f} ms and there are {pair.gap_ms:.0f}, so this one is an up"
        if too_fast
        else "there is time for a down"
    )
    return Verdict(pair.after is wanted, reason=reason)


SCHOOL = School(
    "downstroke-first",
    "Downstroke first",
    "Everything down; an up only where the notes come too fast for another down.",
    on_stroke=_on_stroke,
    on_pair=_on_pair,
    timed=True,
)
