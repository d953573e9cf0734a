"""Sweep: neighbouring strings are swept in one stroke each way; skips and single strings are free."""

from dataclasses import dataclass

from dromic.hands.declaring import TRADE, constant
from dromic.music.riff import Stroke, Style
from dromic.schools.school import School, StrokePair, Verdict


@dataclass(frozen=True)
class Efforts:
    """What the school would rather not."""

    turn: float = constant(0.08, "effort", "a stroke reversed where the sweep turns", TRADE)
    skip: float = constant(0.15, "effort", "a skip, which ends the sweep", TRADE)
    broken: float = constant(0.15, "effort", "a sweep broken off", TRADE)


EFFORTS = Efforts()


def _on_pair(pair: StrokePair) -> Verdict:
    if pair.rested:
        return Verdict(reason="after a rest either stroke may begin")
    if pair.travel == 0:
        flips = pair.after is not pair.before
        return Verdict(flips, EFFORTS.turn, "a stroke is reversed where the sweep turns")
    if abs(pair.travel) > 1:
        return Verdict(True, EFFORTS.skip, "a skip ends the sweep, and either stroke may begin the next")
    onward = Stroke.DOWN if pair.travel > 0 else Stroke.UP
    way = "toward the thin strings" if pair.travel > 0 else "toward the thick strings"
    if pair.before is onward:
        if pair.after is onward:
            return Verdict(reason=f"one stroke goes on {way}")
        return Verdict(True, EFFORTS.broken, "the sweep is broken off, and another begins")
    return Verdict(pair.after is onward, EFFORTS.turn, f"a new sweep begins {way}")


SCHOOL = School(
    "sweep",
    "Sweep",
    "Neighbouring strings take one continuous stroke each way; turns are made by hammer-on, pull-off or one "
    "reversed stroke.",
    on_pair=_on_pair,
    begins_with_either=True,
    style_with_gain=Style.METAL,
    efforts=EFFORTS,
)
