"""Hybrid: the pick for the thick strings, a finger each for the thin ones."""

from dromic.music.riff import Stroke
from dromic.schools.school import School, StrokeContext, Verdict

# Effort by string, 1 the thinnest. What is not named is out of the finger's reach.
_FINGERS = {
    Stroke.MIDDLE: {4: 0.06, 3: 0.0, 2: 0.03, 1: 0.05},
    Stroke.RING: {3: 0.06, 2: 0.0, 1: 0.015},
    Stroke.LITTLE: {2: 0.08, 1: 0.03},
}
_PICK = {1: 0.3, 2: 0.3, 3: 0.25}
_UP = 0.01
_NAMES = {Stroke.MIDDLE: "middle", Stroke.RING: "ring", Stroke.LITTLE: "little"}
_OWN_STRING = {Stroke.MIDDLE: 3, Stroke.RING: 2, Stroke.LITTLE: 1}


def _on_stroke(context: StrokeContext) -> Verdict:
    if context.stroke in _FINGERS:
        efforts = _FINGERS[context.stroke]
        name = _NAMES[context.stroke]
        if context.string not in efforts:
            return Verdict(False, reason=f"string {context.string} is not the {name} finger's")
        reason = f"string {context.string} is the {name} finger's"
        if context.string != _OWN_STRING[context.stroke]:
            reason = f"the {name} finger reaches over to string {context.string}"
        return Verdict(True, efforts[context.string], reason)
    effort = _PICK.get(context.string, 0.0) + (_UP if context.stroke is Stroke.UP else 0.0)
    reason = "the pick takes the thick strings" if context.string > 3 else "the pick reaches over to a thin string"
    return Verdict(True, effort, reason)


SCHOOL = School(
    "hybrid",
    "Hybrid",
    "The pick takes the thick strings; middle, ring and little finger pluck the third, second and first, and the "
    "ring finger stands in for the little one.",
    on_stroke=_on_stroke,
    means=(Stroke.DOWN, Stroke.UP, Stroke.MIDDLE, Stroke.RING, Stroke.LITTLE),
    chord_pluckers=(Stroke.DOWN, Stroke.MIDDLE, Stroke.RING, Stroke.LITTLE),
    fingers_from=3,
)
