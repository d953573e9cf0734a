"""Hybrid picking: the pick on the lowest string of a shape, or a line, and fingers for what lies above."""

from collections.abc import Callable
from dataclasses import dataclass

from dromic.hands.declaring import TRADE, constant
from dromic.music.riff import Stroke, Style
from dromic.schools.school import (
    NOTHING_TO_SAY,
    PICK,
    PICK_AND_FINGERS,
    School,
    StrokeContext,
    StrokePair,
    Verdict,
    plucker_of,
)


@dataclass(frozen=True)
class Efforts:
    """What the school would rather not."""

    middle: float = constant(0.01, "effort", "the middle finger plucks", TRADE)
    ring: float = constant(0.015, "effort", "the ring finger plucks", TRADE)
    little: float = constant(0.05, "effort", "the little finger plucks", TRADE)
    bass_string: float = constant(
        0.01, "effort", "a finger on the fourth string, and again for each thicker one", TRADE
    )
    thin_1: float = constant(0.04, "effort", "the pick on the first string", TRADE)
    thin_2: float = constant(0.02, "effort", "the pick on the second string", TRADE)
    up: float = constant(0.01, "effort", "an up of the pick", TRADE)
    leap: float = constant(
        0.15, "effort", "the pick leaping to a thinner string beyond the next, where a finger would be there", TRADE
    )
    out_of_order: float = constant(
        0.15, "effort", "a string of a shape played by another than the one it belongs to", TRADE
    )
    another_finger: float = constant(
        0.075, "effort", "a finger after a finger, where fingers only serve leaps", TRADE
    )
    again: float = constant(0.05, "effort", "the same finger, or the same stroke of the pick, again", TRADE)
    bass_up: float = constant(0.06, "effort", "an up where the pick keeps to the bass", TRADE)
    other_finger: float = constant(0.02, "effort", "after the pick another finger than the string's own", TRADE)
    cross: float = constant(0.03, "effort", "the pick changing string, where fingers only serve leaps", TRADE)
    resumes: float = constant(0.03, "effort", "a finger begins again after legato", TRADE)
    leaves_bass: float = constant(0.03, "effort", "the pick leaves its string for a chord plucked together", TRADE)
    idle_pick: float = constant(0.01, "effort", "chord after chord plucked without the pick", TRADE)
    stroke_through: float = constant(
        0.15, "effort", "a stroke of the pick through a chord that fingers could pluck", TRADE
    )


EFFORTS = Efforts()

_FINGERS = {Stroke.MIDDLE: EFFORTS.middle, Stroke.RING: EFFORTS.ring, Stroke.LITTLE: EFFORTS.little}
_NAMES = {Stroke.MIDDLE: "middle", Stroke.RING: "ring", Stroke.LITTLE: "little"}
# The index finger plucks only in phrases of another school.
_ORDER = {Stroke.INDEX: 0, Stroke.MIDDLE: 0, Stroke.RING: 1, Stroke.LITTLE: 2}
_PLUCKERS = (Stroke.LITTLE, Stroke.RING, Stroke.MIDDLE, Stroke.DOWN)
_THIN = {1: EFFORTS.thin_1, 2: EFFORTS.thin_2}


def _on_stroke(context: StrokeContext) -> Verdict:
    if context.stroke in _FINGERS:
        bass = EFFORTS.bass_string * max(context.string - 3, 0)
        return Verdict(True, _FINGERS[context.stroke] + bass, f"the {_NAMES[context.stroke]} finger plucks")
    return Verdict(True, _THIN.get(context.string, 0.0) + EFFORTS.up * (context.stroke is Stroke.UP))


def _finger_a_string(pair: StrokePair) -> Verdict:
    """A finger for each string of a shape, the pick on the lowest."""
    before_picked, after_picked, thinner = pair.before in PICK, pair.after in PICK, pair.travel > 0
    if pair.resumes:
        # What lies between was not plucked, so that no finger has a string to keep.
        up = EFFORTS.bass_up * (pair.after is Stroke.UP)
        return Verdict(
            True, up + EFFORTS.resumes * (not after_picked), "the pick would begin again" * (not after_picked)
        )
    if before_picked and after_picked:
        up = EFFORTS.bass_up * (pair.after is Stroke.UP)
        words = "the pick goes on to a string of a finger" if thinner else "the pick's part is downs" if up else ""
        return Verdict(True, EFFORTS.out_of_order * thinner + up, words)
    if before_picked:
        if not thinner:
            return Verdict(True, EFFORTS.out_of_order, "a finger plucks at or below the pick")
        own = _ORDER[pair.after] + 1 == min(pair.travel, 2)
        return Verdict(True, EFFORTS.other_finger * (not own), "" if own else "another finger's string")
    if after_picked:
        passes = -pair.travel <= _ORDER[pair.before]
        up = EFFORTS.bass_up * (pair.after is Stroke.UP)
        words = "the pick takes a string of a finger" if passes else "the pick's part is downs" if up else ""
        return Verdict(True, EFFORTS.out_of_order * passes + up, words)
    rises = _ORDER[pair.after] - _ORDER[pair.before]
    if rises * pair.travel < 0 or abs(rises) > abs(pair.travel) or (rises == 0) != (pair.travel == 0):
        return Verdict(True, EFFORTS.out_of_order, "a finger leaves its string")
    if abs(pair.travel) > abs(rises) + 1:
        return Verdict(True, EFFORTS.out_of_order, "a finger reaches past the pick's strings")
    if pair.before is pair.after:
        return Verdict(True, EFFORTS.again, "the same finger again")
    return NOTHING_TO_SAY


def _on_own_string(context: StrokeContext) -> Verdict:
    """The stroke of the string's own plucker, whatever was plucked before."""
    plain, up = _on_stroke(context), context.stroke is Stroke.UP
    other = plucker_of(context.string, _PLUCKERS) is not (Stroke.DOWN if up else context.stroke)
    reason = "another finger's string" if other else plain.reason
    return Verdict(True, plain.effort + EFFORTS.bass_up * up + EFFORTS.out_of_order * other, reason)


def _in_turn(pair: StrokePair) -> Verdict:
    """Each on its own strings: the pick on one of its own, nothing twice on one string."""
    if pair.before in PICK and pair.after in PICK and pair.travel > 0:
        return Verdict(True, EFFORTS.again, "the pick goes on to a thinner string")
    again = pair.before is pair.after and pair.travel == 0
    return Verdict(True, EFFORTS.again * again, "the same again" * again)


def _leaps(pair: StrokePair) -> Verdict:
    """Everything with the pick, a finger only where it would have to leap."""
    before_picked, after_picked = pair.before in PICK, pair.after in PICK
    if before_picked and after_picked:
        leaps, again = pair.travel > 1, EFFORTS.again * (pair.before is pair.after)
        words = (
            "the pick leaps, where a finger would be there" if leaps else "the same stroke again" if again else ""
        )
        return Verdict(True, EFFORTS.leap * leaps + again + EFFORTS.cross * (pair.travel != 0), words)
    if before_picked:
        leaps = pair.travel > 1
        return Verdict(
            True, EFFORTS.out_of_order * (not leaps), "a finger for the leap" if leaps else "no leap for a finger"
        )
    if after_picked:
        return Verdict(True, EFFORTS.out_of_order * (pair.travel >= 0))
    return Verdict(True, EFFORTS.another_finger, "another finger after a leap")


def _with_pick(pair: StrokePair) -> Verdict:
    """A chord's lowest string is the pick's."""
    leaves = pair.before in PICK and pair.after is Stroke.CHORD_PLUCK
    return Verdict(True, EFFORTS.leaves_bass * leaves, "the pick leaves its string for the chord" if leaves else "")


def _without_pick(pair: StrokePair) -> Verdict:
    """Chords on the upper strings are the fingers' alone."""
    idle = pair.before is pair.after
    return Verdict(True, EFFORTS.idle_pick * idle, "the pick has nothing to do" if idle else "")


def _form(
    name: str,
    on_pair: Callable[[StrokePair], Verdict],
    variants: tuple[School, ...] = (),
    fingers_from: int = 0,
    on_chord: Callable[[StrokePair], Verdict] = _with_pick,
    of_strings: tuple[Stroke, ...] = (),
) -> School:
    return School(
        name,
        "Hybrid",
        "A finger for each string of a shape with the pick on the lowest, or all with the pick and a finger for "
        "leaps; whichever serves the riff better.",
        on_stroke=_on_own_string if of_strings else _on_stroke,
        on_pair=on_pair,
        on_chord=on_chord,
        means=(Stroke.DOWN, Stroke.UP, Stroke.MIDDLE, Stroke.RING, Stroke.LITTLE),
        variants=variants,
        heeds_beat=False,
        style=Style.COUNTRY,
        fingers_from=fingers_from,
        of_strings=of_strings,
        efforts=EFFORTS,
        chord_stroke_effort=EFFORTS.stroke_through,
        chord_pluckers=PICK_AND_FINGERS,
    )


FORMS = (
    _form("hybrid", _finger_a_string),
    _form("hybrid", _leaps),
    # The pick keeps to the bass, and chords on the upper strings are the fingers' alone.
    _form("hybrid", _finger_a_string, fingers_from=4, on_chord=_without_pick),
    # Every string has its own finger through the whole riff.
    _form("hybrid", _in_turn, on_chord=_without_pick, of_strings=_PLUCKERS),
)
SCHOOL = _form("hybrid", _leaps, FORMS)
