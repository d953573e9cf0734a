"""Economy: alternate on a string, carry on in the direction of travel when the string changes."""

from dataclasses import dataclass

from dromic.hands.declaring import TRADE, constant
from dromic.music.riff import Stroke, Style
from dromic.schools.school import School, StrokePair, Verdict


@dataclass(frozen=True)
class Efforts:
    """What the school would rather not."""

    against: float = constant(0.3, "effort", "a stroke against the way to another string", TRADE)
    skip: float = constant(0.05, "effort", "a stroke against the way across a string that is skipped", TRADE)
    after_legato: float = constant(0.05, "effort", "the same after legato", TRADE)
    no_sweep: float = constant(0.05, "effort", "a new stroke where the last might have carried on", TRADE)


EFFORTS = Efforts()


def _on_pair(pair: StrokePair) -> Verdict:
    if pair.rested:
        return Verdict(reason="after a rest either stroke may begin")
    if pair.travel == 0:
        return Verdict(pair.after is not pair.before, reason="alternate while the string stays")
    onward = Stroke.DOWN if pair.travel > 0 else Stroke.UP
    way = "toward the thin strings" if pair.travel > 0 else "toward the thick strings"
    if pair.after is onward and pair.before is not onward:
        return Verdict(
            True,
            EFFORTS.no_sweep,
            f"a new stroke {onward} for the new string, where the last might have carried on",
        )
    if pair.after is onward:
        return Verdict(reason=f"the string changes {way}, so the pick carries on {onward}")
    if abs(pair.travel) > 1:
        return Verdict(True, EFFORTS.skip, "a skipped string ends the sweep, and either stroke may begin the next")
    if pair.resumes:
        return Verdict(True, EFFORTS.after_legato, "after legato either stroke may begin, this one against the way")
    return Verdict(True, EFFORTS.against, f"against the travel {way}, which the school avoids")


SCHOOL = School(
    "economy",
    "Economy",
    "Alternate on a string; when the string changes, carry on in the direction of travel.",
    on_pair=_on_pair,
    begins_with_either=True,
    style=Style.JAZZ,
    efforts=EFFORTS,
)
