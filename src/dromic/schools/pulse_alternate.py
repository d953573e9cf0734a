"""Pulse alternate: the stroke follows the beat grid, also through rests, long notes and legato."""

from dromic.music.grid import GridPlace
from dromic.music.riff import Stroke
from dromic.schools.school import School, Verdict


def _on_stroke(stroke: Stroke, place: GridPlace) -> Verdict:
    wanted = Stroke.DOWN if place.part % 2 == 0 else Stroke.UP
    if place.on_beat:
        reason = "down on the beat"
    elif wanted is Stroke.DOWN:
        reason = f"part {place.part + 1} of {place.parts} in its beat: the hand swings down"
    else:
        reason = f"part {place.part + 1} of {place.parts} in its beat: the hand swings up"
    return Verdict(stroke is wanted, reason=reason)


SCHOOL = School(
    "pulse-alternate",
    "Pulse alternate",
    "The hand swings with the beat: down on it, up between, through rests, long notes and legato too.",
    on_stroke=_on_stroke,
)
