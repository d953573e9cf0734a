"""New string, down stroke: each new string starts down, and strokes alternate on it."""

from dromic.music.riff import Stroke
from dromic.schools.school import NOTHING_TO_SAY, Change, School, Strike, Verdict


def _on_stroke(strike: Strike) -> Verdict:
    if not strike.opening:
        return NOTHING_TO_SAY
    return Verdict(strike.stroke is Stroke.DOWN, reason="the first string starts with a down")


def _on_change(change: Change) -> Verdict:
    if change.travel:
        return Verdict(change.after is Stroke.DOWN, reason="a new string starts with a down")
    return Verdict(change.after is not change.before, reason="alternate while the string stays")


SCHOOL = School(
    "new-string-down",
    "New string, down stroke",
    "Each new string starts with a down, a rest stroke in swing playing; strokes alternate on it.",
    on_stroke=_on_stroke,
    on_change=_on_change,
)
