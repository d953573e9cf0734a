"""Bass, two fingers: index and middle alternate; the same finger rakes on to a lower-pitched string."""

from dataclasses import dataclass

from dromic.hands.declaring import TRADE, constant
from dromic.music.riff import Stroke, Style
from dromic.schools.school import School, StrokeContext, StrokePair, Verdict


@dataclass(frozen=True)
class Efforts:
    """What the school would rather not."""

    not_raked: float = constant(0.03, "effort", "another finger where the same could be raked on", TRADE)
    begins_with_middle: float = constant(0.02, "effort", "the middle finger begins", TRADE)


EFFORTS = Efforts()


def _on_pair(pair: StrokePair) -> Verdict:
    same = pair.after is pair.before
    if pair.travel == -1:
        if same:
            return Verdict(reason="the same finger is raked on to the lower string")
        return Verdict(True, EFFORTS.not_raked, "the fingers alternate, where a rake would have done")
    return Verdict(not same, reason="index and middle alternate")


def _on_stroke(context: StrokeContext) -> Verdict:
    middle = context.opening and context.stroke is Stroke.MIDDLE
    return Verdict(True, EFFORTS.begins_with_middle * middle, "the index would begin" if middle else "")


SCHOOL = School(
    "bass-two-finger",
    "Bass, two fingers",
    "Index and middle finger alternate; going to the next lower string, the same finger is raked across.",
    on_stroke=_on_stroke,
    on_pair=_on_pair,
    means=(Stroke.INDEX, Stroke.MIDDLE),
    chord_pluckers=(Stroke.INDEX, Stroke.MIDDLE),
    style=Style.BASS,
    for_bass=True,
    efforts=EFFORTS,
)
