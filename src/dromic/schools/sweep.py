"""Sweep: neighbouring strings are swept in one stroke each way; skips and single strings are free."""

from dromic.music.riff import Stroke, Style
from dromic.schools.school import School, StrokePair, Verdict

TURN_EFFORT = 0.08
SKIP_EFFORT = 0.15
BROKEN_EFFORT = 0.15


def _on_pair(pair: StrokePair) -> Verdict:
    if pair.travel == 0:
        flips = pair.after is not pair.before
        return Verdict(flips, TURN_EFFORT, "a stroke is reversed where the sweep turns")
    if abs(pair.travel) > 1:
        return Verdict(True, SKIP_EFFORT, "a skip ends the sweep, and either stroke may begin the next")
    onward = Stroke.DOWN if pair.travel > 0 else Stroke.UP
    way = "toward the thin strings" if pair.travel > 0 else "toward the thick strings"
    if pair.before is onward:
        if pair.after is onward:
            return Verdict(reason=f"one stroke goes on {way}")
        return Verdict(True, BROKEN_EFFORT, "the sweep is broken off, and another begins")
    return Verdict(pair.after is onward, TURN_EFFORT, f"a new sweep begins {way}")


SCHOOL = School(
    "sweep",
    "Sweep",
    "Neighbouring strings take one continuous stroke each way; turns are made by hammer-on, pull-off or one "
    "reversed stroke.",
    on_pair=_on_pair,
    begins_with_either=True,
    style_with_gain=Style.METAL,
)
