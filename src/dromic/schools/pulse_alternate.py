"""Pulse alternate: the stroke follows the beat grid, also through rests, long notes and legato."""

from dromic.music.riff import Stroke
from dromic.schools.school import School, StrokeContext, Verdict


def on_pulse(context: StrokeContext) -> Verdict:
    """Down on even parts of the beat, up on odd ones."""
    place = context.place
    wanted = Stroke.DOWN if place.part % 2 == 0 else Stroke.UP
    if place.on_beat:
        reason = "down on the beat"
    elif wanted is Stroke.DOWN:
        reason = "between beats, with the hand on its way down"
    else:
        reason = "offbeat: the hand is on its way up"
    return Verdict(context.stroke is wanted, reason=reason)


SCHOOL = School(
    "pulse-alternate",
    "Pulse alternate",
    "The hand swings with the beat: down on it, up between, through rests, long notes and legato too.",
    on_stroke=on_pulse,
    swings=True,
)
