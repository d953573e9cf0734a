"""Jig: in compound metres every beat is down-up-down; elsewhere the pulse."""

from dromic.music.riff import Stroke, Style
from dromic.schools.pulse_alternate import on_pulse
from dromic.schools.school import School, StrokeContext, Verdict


def _on_stroke(context: StrokeContext) -> Verdict:
    place = context.place
    if place.parts != 3:
        return on_pulse(context)
    wanted = Stroke.UP if place.part == 1 else Stroke.DOWN
    names = ("first", "second", "third")
    return Verdict(context.stroke is wanted, reason=f"{wanted} on the {names[place.part]} of three: down-up-down")


SCHOOL = School(
    "jig",
    "Jig",
    "Beats of three are down-up-down, so that every beat starts with a down.",
    on_stroke=_on_stroke,
    style=Style.BLUEGRASS,
    swings=True,
    for_threes=True,
)
