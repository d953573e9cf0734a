"""Downstroke first: everything down, ups only where the notes are too fast for it."""

from dataclasses import dataclass

from dromic.hands.declaring import TRADE, constant
from dromic.music.riff import Stroke, Style
from dromic.schools.school import NOTHING_TO_SAY, School, StrokeContext, StrokePair, Verdict


@dataclass(frozen=True)
class Efforts:
    """What the school would rather not."""

    unwanted: float = constant(0.4, "effort", "a down on a quick note between two eighths", TRADE)
    out_of_place: float = constant(2.0, "effort", "any other up", TRADE)


EFFORTS = Efforts()


def _on_stroke(context: StrokeContext) -> Verdict:
    if context.opening:
        return Verdict(context.stroke is Stroke.DOWN, reason="the first note is a down")
    if context.place.parts % 4 == 0 and context.place.part % 2:
        if context.stroke is Stroke.UP:
            return Verdict(reason="the quick note between two eighths is an up")
        return Verdict(True, EFFORTS.unwanted, "a quick note between two eighths, for which an up is ready")
    if context.stroke is Stroke.DOWN:
        return Verdict(reason="everything down")
    return Verdict(True, EFFORTS.out_of_place, "an up, because another down would come too late")


def _on_pair(pair: StrokePair) -> Verdict:
    if pair.before is not pair.after:
        return NOTHING_TO_SAY
    if pair.after is Stroke.UP:
        return Verdict(False, reason="no up follows an up")
    too_fast = pair.gap_ms < pair.again_ms
    reason = f"another down needs {pair.again_ms:.0f} ms and there are {pair.gap_ms:.0f}" if too_fast else ""
    return Verdict(not too_fast, reason=reason)


SCHOOL = School(
    "downstroke-first",
    "Downstroke first",
    "Everything down; an up only where the notes come too fast for another down.",
    on_stroke=_on_stroke,
    on_pair=_on_pair,
    style=Style.ROCK,
    heeds_beat=False,
    efforts=EFFORTS,
)
