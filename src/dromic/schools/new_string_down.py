"""New string, down stroke: each new string starts down, and strokes alternate on it."""

from dromic.music.riff import Stroke, Style
from dromic.schools.school import NOTHING_TO_SAY, School, StrokeContext, StrokePair, Verdict


def _on_stroke(context: StrokeContext) -> Verdict:
    if not context.opening:
        return NOTHING_TO_SAY
    return Verdict(context.stroke is Stroke.DOWN, reason="the first string starts with a down")


def _on_pair(pair: StrokePair) -> Verdict:
    if pair.travel:
        return Verdict(pair.after is Stroke.DOWN, reason="a new string starts with a down")
    return Verdict(pair.after is not pair.before, reason="alternate while the string stays")


SCHOOL = School(
    "new-string-down",
    "New string, down stroke",
    "Each new string starts with a down, a rest stroke in swing playing; strokes alternate on it.",
    on_stroke=_on_stroke,
    on_pair=_on_pair,
    style=Style.JAZZ,
)
