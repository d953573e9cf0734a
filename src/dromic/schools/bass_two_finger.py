"""Bass, two fingers: index and middle alternate; the same finger rakes on to a lower-pitched string."""

from dromic.music.riff import Stroke, Style
from dromic.schools.school import School, StrokeContext, StrokePair, Verdict

NOT_RAKED = 0.03
BEGINS_WITH_MIDDLE = 0.02


def _on_pair(pair: StrokePair) -> Verdict:
    same = pair.after is pair.before
    if pair.travel == -1:
        if same:
            return Verdict(reason="the same finger is raked on to the lower string")
        return Verdict(True, NOT_RAKED, "the fingers alternate, where a rake would have done")
    return Verdict(not same, reason="index and middle alternate")


def _on_stroke(context: StrokeContext) -> Verdict:
    middle = context.opening and context.stroke is Stroke.MIDDLE
    return Verdict(True, BEGINS_WITH_MIDDLE * middle, "the index would begin" if middle else "")


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
)
