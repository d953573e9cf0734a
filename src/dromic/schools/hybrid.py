"""Hybrid picking: the pick on the lowest string of a shape, or a line, and fingers for what lies above."""

from collections.abc import Callable

from dromic.music.riff import Stroke, Style
from dromic.schools.school import NOTHING_TO_SAY, PICK, PICK_AND_FINGERS, School, StrokeContext, StrokePair, Verdict

_FINGERS = {Stroke.MIDDLE: 0.01, Stroke.RING: 0.015, Stroke.LITTLE: 0.05}
_NAMES = {Stroke.MIDDLE: "middle", Stroke.RING: "ring", Stroke.LITTLE: "little"}
# The index finger plucks only in phrases of another school.
_ORDER = {Stroke.INDEX: 0, Stroke.MIDDLE: 0, Stroke.RING: 1, Stroke.LITTLE: 2}
_THIN = {1: 0.04, 2: 0.02}
UP = 0.01
LEAP = 0.15
OUT_OF_ORDER = 0.15
AGAIN = 0.05
BASS_UP = 0.06
BASS_STRING = 0.01
OTHER_FINGER = 0.02
CROSS = 0.03
RESUMES = 0.03
LEAVES_BASS, IDLE_PICK = 0.03, 0.01


def _on_stroke(context: StrokeContext) -> Verdict:
    if context.stroke in _FINGERS:
        bass = BASS_STRING * max(context.string - 3, 0)
        return Verdict(True, _FINGERS[context.stroke] + bass, f"the {_NAMES[context.stroke]} finger plucks")
    return Verdict(True, _THIN.get(context.string, 0.0) + UP * (context.stroke is Stroke.UP))


def _finger_a_string(pair: StrokePair) -> Verdict:
    """A finger for each string of a shape, the pick on the lowest."""
    before_picked, after_picked, thinner = pair.before in PICK, pair.after in PICK, pair.travel > 0
    if pair.resumes:
        # What lies between was not plucked, so that no finger has a string to keep.
        up = BASS_UP * (pair.after is Stroke.UP)
        return Verdict(True, up + RESUMES * (not after_picked), "the pick would begin again" * (not after_picked))
    if before_picked and after_picked:
        up = BASS_UP * (pair.after is Stroke.UP)
        words = "the pick goes on to a string of a finger" if thinner else "the pick's part is downs" if up else ""
        return Verdict(True, OUT_OF_ORDER * thinner + up, words)
    if before_picked:
        if not thinner:
            return Verdict(True, OUT_OF_ORDER, "a finger plucks at or below the pick")
        own = _ORDER[pair.after] + 1 == min(pair.travel, 2)
        return Verdict(True, OTHER_FINGER * (not own), "" if own else "another finger's string")
    if after_picked:
        passes = -pair.travel <= _ORDER[pair.before]
        up = BASS_UP * (pair.after is Stroke.UP)
        words = "the pick takes a string of a finger" if passes else "the pick's part is downs" if up else ""
        return Verdict(True, OUT_OF_ORDER * passes + up, words)
    rises = _ORDER[pair.after] - _ORDER[pair.before]
    if rises * pair.travel < 0 or abs(rises) > abs(pair.travel) or (rises == 0) != (pair.travel == 0):
        return Verdict(True, OUT_OF_ORDER, "a finger leaves its string")
    if abs(pair.travel) > abs(rises) + 1:
        return Verdict(True, OUT_OF_ORDER, "a finger reaches past the pick's strings")
    if pair.before is pair.after:
        return Verdict(True, AGAIN, "the same finger again")
    return NOTHING_TO_SAY


def _leaps(pair: StrokePair) -> Verdict:
    """Everything with the pick, a finger only where it would have to leap."""
    before_picked, after_picked = pair.before in PICK, pair.after in PICK
    if before_picked and after_picked:
        leaps, again = pair.travel > 1, AGAIN * (pair.before is pair.after)
        words = (
            "the pick leaps, where a finger would be there" if leaps else "the same stroke again" if again else ""
        )
        return Verdict(True, LEAP * leaps + again + CROSS * (pair.travel != 0), words)
    if before_picked:
        leaps = pair.travel > 1
        return Verdict(
            True, OUT_OF_ORDER * (not leaps), "a finger for the leap" if leaps else "no leap for a finger"
        )
    if after_picked:
        return Verdict(True, OUT_OF_ORDER * (pair.travel >= 0))
    return Verdict(True, OUT_OF_ORDER / 2, "another finger after a leap")


def _with_pick(pair: StrokePair) -> Verdict:
    """A chord's lowest string is the pick's."""
    leaves = pair.before in PICK and pair.after is Stroke.CHORD_PLUCK
    return Verdict(True, LEAVES_BASS * leaves, "the pick leaves its string for the chord" if leaves else "")


def _without_pick(pair: StrokePair) -> Verdict:
    """Chords on the upper strings are the fingers' alone."""
    idle = pair.before is pair.after
    return Verdict(True, IDLE_PICK * idle, "the pick has nothing to do" if idle else "")


def _form(
    name: str,
    on_pair: Callable[[StrokePair], Verdict],
    variants: tuple[School, ...] = (),
    fingers_from: int = 0,
    on_chord: Callable[[StrokePair], Verdict] = _with_pick,
) -> School:
    return School(
        name,
        "Hybrid",
        "A finger for each string of a shape with the pick on the lowest, or all with the pick and a finger for "
        "leaps; whichever serves the riff better.",
        on_stroke=_on_stroke,
        on_pair=on_pair,
        on_chord=on_chord,
        means=(Stroke.DOWN, Stroke.UP, Stroke.MIDDLE, Stroke.RING, Stroke.LITTLE),
        variants=variants,
        heeds_beat=False,
        style=Style.COUNTRY,
        fingers_from=fingers_from,
        chord_stroke_effort=0.15,
        chord_pluckers=PICK_AND_FINGERS,
    )


FORMS = (
    _form("hybrid", _finger_a_string),
    _form("hybrid", _leaps),
    # The pick keeps to the bass, and chords on the upper strings are the fingers' alone.
    _form("hybrid", _finger_a_string, fingers_from=4, on_chord=_without_pick),
)
SCHOOL = _form("hybrid", _leaps, FORMS)
