"""Sweep: neighbouring strings are swept in one stroke each way; skips and single strings are free."""

from dromic.music.riff import Stroke
from dromic.schools.school import Change, School, Verdict

TURN_EFFORT = 0.05


def _on_change(change: Change) -> Verdict:
    if change.travel == 0:
        flips = change.after is not change.before
        return Verdict(flips, TURN_EFFORT, "a stroke is reversed where the sweep turns")
    if abs(change.travel) > 1:
        return Verdict(reason="a skip ends the sweep, and either stroke may begin the next")
    onward = Stroke.DOWN if change.travel > 0 else Stroke.UP
    way = "toward the floor" if change.travel > 0 else "toward the ceiling"
    if change.before is onward:
        return Verdict(change.after is onward, reason=f"one stroke goes on {way}")
    return Verdict(change.after is onward, TURN_EFFORT, f"a new sweep begins {way}")


SCHOOL = School(
    "sweep",
    "Sweep",
    "Neighbouring strings take one continuous stroke each way; turns are made by hammer-on, pull-off or one "
    "reversed stroke.",
    on_change=_on_change,
)
