"""Hand profiles: every constant of the movement model, with its unit and where it comes from.

The fields are the one typed table that the model, docs/model.md and later the settings page read.
"""

from __future__ import annotations

from dataclasses import dataclass, field, fields, replace
from enum import StrEnum
from typing import Any

from dromic.errors import RiffError

TRADE = "common practice, no source"
TRIED = "tried in a rough model against the trade's rates"
OURS = "chosen, to be replaced by measured speeds"
FITTS = "form: Fitts 1954, Shannon form MacKenzie 1992; value " + OURS


def _constant(default: Any, unit: str, words: str, source: str = OURS) -> Any:
    return field(default=default, metadata={"unit": unit, "words": words, "source": source})


class Lean(StrEnum):
    """Which strokes end above the strings because the pick's path is tilted."""

    UP_ESCAPES = "up"
    DOWN_ESCAPES = "down"


class RestStrokes(StrEnum):
    """When the pick may come to rest on the next string."""

    NEVER = "never"
    LONG = "long"
    WHENEVER = "whenever"


class HandRest(StrEnum):
    """Whether the picking hand rests on the instrument."""

    FLOATING = "floating"
    ANCHORED = "anchored"


class SameFret(StrEnum):
    """What to do for one fret on neighbouring strings."""

    EITHER = "either"
    ROLL = "roll"
    SEPARATE = "separate"


class LowFrets(StrEnum):
    """Which fingers take the wide frets next to the nut."""

    FINGER_PER_FRET = "finger-per-fret"
    ONE_TWO_FOUR = "1-2-4"


class LittleFinger(StrEnum):
    """Whether the little finger takes its share."""

    USED = "used"
    AVOIDED = "avoided"


class LettingGo(StrEnum):
    """When a finger leaves its note."""

    BY_PASSAGE = "by-passage"
    HOLD = "hold"
    LIFT = "lift"


@dataclass(frozen=True)
class PickingHand:
    """Times and sizes of pick strokes."""

    half_stroke_mm: float = _constant(2.5, "mm", "from the string to the end of a stroke", TRIED)
    base_ms: float = _constant(30.0, "ms", "any stroke", TRIED)
    reversal_ms: float = _constant(35.0, "ms", "each change of direction on the way to a stroke", TRIED)
    clear_ms: float = _constant(20.0, "ms", "each string the pick has to be lifted over", TRIED)
    fitts_ms: float = _constant(8.0, "ms a bit", "travel, log2(1 + distance / target)", FITTS)
    target_mm: float = _constant(5.0, "mm", "target of the travel", TRIED)
    inside_ms: float = _constant(
        5.0, "ms", "inside picking out of a trapped stroke, the awkward one for most", TRADE
    )
    drop_ms: float = _constant(8.0, "ms", "sweeping on out of a stroke that ended above the strings")
    turn_ms: float = _constant(12.0, "ms", "turning the pick's lean over")
    pluck_ms: float = _constant(65.0, "ms", "a finger plucks, after the pick or another finger", TRIED)
    pluck_again_ms: float = _constant(55.0, "ms", "the same finger plucks twice in a row, on top", TRADE)
    pluck_little_ms: float = _constant(20.0, "ms", "plucking with the weak little finger, on top", TRADE)
    rake_ms: float = _constant(45.0, "ms", "the same finger raked on to the next lower-pitched string", TRADE)
    through_ms: float = _constant(5.0, "ms", "a stroke through a chord, for each further string", TRADE)
    sweep_turn_ms: float = _constant(10.0, "ms", "turning round on another string after legato", TRADE)
    palm_ms: float = _constant(15.0, "ms", "palm put down or lifted between two notes")
    accent_ms: float = _constant(6.0, "ms", "a larger stroke for an accent")
    drag_ms: float = _constant(14.0, "ms", "a rake, for each string dragged across on the way", TRADE)
    odd_ms: float = _constant(
        3.0, "ms", "a string begun against the beat grid's strokes, as after an odd count of notes", TRADE
    )
    glide_ms: float = _constant(10.0, "ms", "moving the hand for a wide jump", TRADE)
    glide_from_mm: float = _constant(35.0, "mm", "travel from which the hand has to move", TRADE)
    anchored_ms: float = _constant(15.0, "ms", "letting go of the instrument for a wide jump, on top", TRADE)
    attack_ms: float = _constant(6.0, "ms", "a sweep without resting, each string with its own attack", TRADE)
    lean: Lean = _constant(Lean.UP_ESCAPES, "", "the habitual lean: upstrokes end above the strings", TRADE)
    turns: bool = _constant(True, "", "whether the player turns the lean at all", TRADE)
    rest_strokes: RestStrokes = _constant(
        RestStrokes.LONG, "", "rest strokes: never, on long notes and in sweeps, or whenever possible", TRADE
    )
    hand_rest: HandRest = _constant(HandRest.FLOATING, "", "whether the hand is anchored or floating", TRADE)


@dataclass(frozen=True)
class FrettingHand:
    """Times and sizes of the fretting hand."""

    spread_mm: tuple[float, float, float, float] = _constant(
        (0.0, 24.0, 47.0, 69.0), "mm", "where fingers 1 to 4 lie at ease, from the first", TRIED
    )
    stretch_mm: float = _constant(60.0, "mm", "farthest a finger opens beyond its ease", "from memory")
    crowd_mm: float = _constant(55.0, "mm", "farthest a finger closes within its ease", "from memory")
    place_ms: float = _constant(40.0, "ms", "putting a finger down")
    lift_ms: float = _constant(15.0, "ms", "lifting off for an open string")
    hammer_ms: float = _constant(45.0, "ms", "a hammer-on, which must strike")
    pull_ms: float = _constant(30.0, "ms", "a pull-off onto a planted finger or an open string")
    fourth_ms: float = _constant(3.0, "ms", "the little finger is slower", TRADE)
    weak_34_ms: float = _constant(8.0, "ms", "from finger 3 to 4 or back, the weakest pair", TRADE)
    weak_24_ms: float = _constant(3.0, "ms", "from finger 2 to 4 or back", TRADE)
    jump_ms: float = _constant(40.0, "ms", "the same finger lifted and put elsewhere")
    jump_fitts_ms: float = _constant(15.0, "ms a bit", "its travel, log2(1 + distance / target)", FITTS)
    jump_target_mm: float = _constant(10.0, "mm", "target of a finger's jump")
    roll_ms: float = _constant(48.0, "ms", "one finger rolled to the neighbouring string", TRADE)
    roll_gain_ms: float = _constant(15.0, "ms", "rolling cleanly with high gain, on top", TRADE)
    cross_ms: float = _constant(25.0, "ms", "a higher finger passing behind a lower one")
    plant_ms: float = _constant(10.0, "ms", "planting a lower finger too, for the pull-off to come", TRADE)
    extra_fingers_ms: float = _constant(8.0, "ms", "each further finger that has to land with the slowest", TRADE)
    barre_ms: float = _constant(20.0, "ms", "laying a finger across several strings, on top", TRADE)
    shift_ms: float = _constant(50.0, "ms", "starting to move the hand along the neck")
    shift_fitts_ms: float = _constant(40.0, "ms a bit", "its travel, log2(1 + distance / target)", FITTS)
    shift_target_mm: float = _constant(25.0, "mm", "target of a shift: a fret's width")
    hold_ms: float = _constant(25.0, "ms", "a fretted note must sound before the hand may leave it", TRADE)
    nowhere_ms: float = _constant(15.0, "ms", "a hammer-on from nowhere, on a new string, on top", TRADE)
    slide_ms: float = _constant(20.0, "ms", "a slide, on top of the hand's shift")
    first_finger_return_ms: float = _constant(
        2.0, "ms", "the first finger coming back on another string, usually late", TRADE
    )
    release_ms: float = _constant(
        4.0, "ms", "lifting a finger exactly as another string sounds, for players who lift", TRADE
    )
    same_fret: SameFret = _constant(
        SameFret.EITHER, "", "one fret on two strings: one finger rolled, separate fingers, or either", TRADE
    )
    low_frets: LowFrets = _constant(
        LowFrets.FINGER_PER_FRET, "", "the first five frets: one finger a fret, or 1-2-4 without the third", TRADE
    )
    little_finger: LittleFinger = _constant(LittleFinger.USED, "", "whether the little finger is used", TRADE)
    letting_go: LettingGo = _constant(
        LettingGo.BY_PASSAGE,
        "",
        "hold a finger down until the next note sounds, lift it exactly then, or as the passage wants",
        TRADE,
    )


@dataclass(frozen=True)
class SyncCosts:
    """What meeting in the same gap adds when both hands are busy."""

    change_shift_ms: float = _constant(35.0, "ms", "string change of the pick with a position shift", TRADE)
    change_roll_ms: float = _constant(18.0, "ms", "string change with a roll", TRADE)
    change_jump_ms: float = _constant(25.0, "ms", "string change with the same finger jumping", TRADE)
    resume_ms: float = _constant(10.0, "ms", "picking resumed after legato", TRADE)
    subdivision_ms: float = _constant(8.0, "ms", "the first note of another subdivision", TRADE)
    seam_ms: float = _constant(8.0, "ms", "from the end of a loop back to its start", TRADE)


@dataclass(frozen=True)
class Comfort:
    """What costs a little at any tempo. Costs are in units of effort."""

    reach: float = _constant(0.015, "effort", "a finger beyond its ease in the position, for each (20 mm) squared")
    apart: float = _constant(0.03, "effort", "two fingers in a row beyond their ease, for each (20 mm) squared")
    reach_ease_mm: float = _constant(12.0, "mm", "reach that is no effort")
    crowding: float = _constant(1.5, "times", "closing the hand against opening it as far")
    frame: float = _constant(0.014, "effort", "a finger on another fret than its own in the position", TRADE)
    first_away: float = _constant(0.08, "effort", "the first finger away from its home", TRADE)
    high: float = _constant(
        0.008, "effort", "each fret far up a thick string, times the thinner strings to reach across", TRADE
    )
    high_from: float = _constant(9.0, "frets", "fret up to which every string is as good as another", TRADE)
    open_far: float = _constant(
        0.012, "effort", "an open string while the hand is far up the neck, for each fret beyond", TRADE
    )
    open_near: float = _constant(5.0, "frets", "position up to which open strings sound of a piece", TRADE)
    fourth: float = _constant(0.01, "effort", "using the little finger", TRADE)
    weak_34: float = _constant(0.02, "effort", "from finger 3 to 4 or back", TRADE)
    weak_24: float = _constant(0.015, "effort", "from finger 2 to 4 or back", TRADE)
    weak_23: float = _constant(0.01, "effort", "from finger 2 to 3 or back", TRADE)
    opened: float = _constant(0.05, "effort", "a finger of a chord above its own fret in the position", TRADE)
    fourth_too: float = _constant(0.02, "effort", "the little finger in a chord", TRADE)
    laid: float = _constant(0.05, "effort", "a finger laid across strings at all", TRADE)
    barre: float = _constant(0.01, "effort", "a barre of the first finger, for each further string", TRADE)
    barre_other: float = _constant(0.04, "effort", "a barre of another finger, for each further string", TRADE)
    damped: float = _constant(0.04, "effort", "a string inside a chord that a finger has to damp", TRADE)
    squeezed: float = _constant(0.03, "effort", "two fingers on one fret, one after the other", TRADE)
    up_on_beat: float = _constant(0.02, "effort", "an up on a beat", TRADE)
    down_between: float = _constant(0.004, "effort", "a down between two beats", TRADE)
    up_on_accent: float = _constant(0.05, "effort", "an up on an accented note", TRADE)
    other_lean: float = _constant(0.004, "effort", "a stroke with the lean that is not the habitual one", TRADE)
    bend_1: float = _constant(0.3, "effort", "a bend by the first finger: no helpers behind it", TRADE)
    bend_2: float = _constant(0.08, "effort", "a bend by the second finger: one helper", TRADE)
    bend_4: float = _constant(0.12, "effort", "a bend by the little finger", TRADE)
    vibrato_1: float = _constant(0.03, "effort", "vibrato by the first finger", TRADE)
    vibrato_4: float = _constant(0.05, "effort", "vibrato by the little finger", TRADE)
    plucked_together: float = _constant(0.05, "effort", "plucking a chord with fingers, for each finger", TRADE)
    brushed: float = _constant(0.08, "effort", "one finger brushed across a chord, for each further string", TRADE)
    against: float = _constant(0.15, "effort", "a move against the camp that the player belongs to", TRADE)
    overload: float = _constant(8.0, "effort", "load beyond the limit of 1, squared")


@dataclass(frozen=True)
class Hands:
    """A player's two hands."""

    name: str = "medium"
    picking: PickingHand = field(default_factory=PickingHand)
    fretting: FrettingHand = field(default_factory=FrettingHand)
    together: SyncCosts = field(default_factory=SyncCosts)
    comfort: Comfort = field(default_factory=Comfort)


def _scaled(part: Any, unit: str, factor: float) -> Any:
    """Scale every constant of a unit."""
    changes: dict[str, Any] = {}
    for entry in fields(part):
        if entry.metadata["unit"].split(" ")[0] == unit:
            value = getattr(part, entry.name)
            changes[entry.name] = _four(value, factor) if isinstance(value, tuple) else value * factor
    return replace(part, **changes)


def _four(values: tuple[float, float, float, float], factor: float) -> tuple[float, float, float, float]:
    one, two, three, four = values
    return one * factor, two * factor, three * factor, four * factor


def with_speed(hands: Hands, name: str, factor: float) -> Hands:
    """Return hands whose every movement takes `factor` times as long."""
    return replace(
        hands,
        name=name,
        picking=_scaled(hands.picking, "ms", factor),
        fretting=_scaled(hands.fretting, "ms", factor),
        together=_scaled(hands.together, "ms", factor),
    )


def with_span(hands: Hands, name: str, factor: float) -> Hands:
    """Return hands whose spread and stretch are `factor` times as wide."""
    fretting = hands.fretting
    return replace(
        hands,
        name=name,
        fretting=replace(
            fretting,
            spread_mm=_four(fretting.spread_mm, factor),
            stretch_mm=fretting.stretch_mm * factor,
        ),
    )


_MEDIUM = Hands()
PROFILES: dict[str, Hands] = {
    hands.name: hands
    for hands in (
        _MEDIUM,
        with_span(_MEDIUM, "small", 0.88),
        with_span(_MEDIUM, "large", 1.12),
        with_speed(_MEDIUM, "beginner", 1.8),
        with_speed(_MEDIUM, "fast", 0.8),
    )
}


def hands_named(name: str) -> Hands:
    """Return a profile.

    Raises
    ------
    RiffError
        For an unknown name.
    """
    if name not in PROFILES:
        raise RiffError(f"hands: found '{name}', expected one of {', '.join(PROFILES)}")
    return PROFILES[name]


@dataclass(frozen=True)
class ConstantRow:
    """One constant of the model as it stands in docs/model.md."""

    group: str
    name: str
    value: str
    unit: str
    words: str
    source: str


def constant_rows(hands: Hands) -> tuple[ConstantRow, ...]:
    """Every constant of a profile, in order.

    Examples
    --------
    >>> row = constant_rows(Hands())[0]
    >>> row.group, row.name, row.value, row.unit
    ('picking', 'half_stroke_mm', '2.5', 'mm')
    """
    rows = []
    for group in ("picking", "fretting", "together", "comfort"):
        part = getattr(hands, group)
        for entry in fields(part):
            value = getattr(part, entry.name)
            text = ", ".join(f"{one:g}" for one in value) if isinstance(value, tuple) else _value_words(value)
            meta = entry.metadata
            rows.append(ConstantRow(group, entry.name, text, meta["unit"], meta["words"], meta["source"]))
    return tuple(rows)


def _value_words(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float) else str(value)


@dataclass(frozen=True)
class StyleOption:
    """A question that players answer differently, with the answers there are."""

    group: str
    name: str
    words: str
    answers: tuple[Any, ...]


def camps() -> tuple[StyleOption, ...]:
    """Every camp of both hands, in the order of the table.

    Examples
    --------
    >>> [camp.name for camp in camps()][:3]
    ['lean', 'turns', 'rest_strokes']
    """
    found = []
    for group, part in (("picking", PickingHand()), ("fretting", FrettingHand())):
        for entry in fields(part):
            value = getattr(part, entry.name)
            if isinstance(value, StrEnum):
                found.append(StyleOption(group, entry.name, entry.metadata["words"], tuple(type(value))))
            elif isinstance(value, bool):
                found.append(StyleOption(group, entry.name, entry.metadata["words"], (True, False)))
    return tuple(found)


def answer(hands: Hands, camp: StyleOption) -> Any:
    """How a player answers a camp's question."""
    return getattr(getattr(hands, camp.group), camp.name)


def with_option(hands: Hands, camp: StyleOption, value: Any) -> Hands:
    """Return hands of a player who answers differently."""
    part = replace(getattr(hands, camp.group), **{camp.name: value})
    return replace(hands, name=OWN, **{camp.group: part})


OWN = "own"


@dataclass(frozen=True)
class Measures:
    """Sizes and speeds of hands against the medium ones: span, and the time each hand takes."""

    span: float = 1.0
    picking: float = 1.0
    fretting: float = 1.0


def measures(hands: Hands) -> Measures:
    """Sizes and speeds of hands, read off typical constants.

    Examples
    --------
    >>> measures(hands_named("large")).span, measures(hands_named("fast")).picking
    (1.12, 0.8)
    """
    medium = PROFILES["medium"]
    return Measures(
        round(hands.fretting.spread_mm[-1] / medium.fretting.spread_mm[-1], 3),
        round(hands.picking.reversal_ms / medium.picking.reversal_ms, 3),
        round(hands.fretting.place_ms / medium.fretting.place_ms, 3),
    )


def with_measures(hands: Hands, wanted: Measures) -> Hands:
    """Return hands of other sizes and speeds; what the two hands need to meet goes with the slower one.

    Parameters
    ----------
    hands : Hands
    wanted : Measures

    Raises
    ------
    RiffError
        For sizes and times that are not above zero.
    """
    if min(wanted.span, wanted.picking, wanted.fretting) <= 0:
        raise RiffError(f"found {wanted}, expected sizes and times above zero")
    old = measures(hands)
    fretting = _scaled(hands.fretting, "ms", wanted.fretting / old.fretting)
    together = max(wanted.picking, wanted.fretting) / max(old.picking, old.fretting)
    factor = wanted.span / old.span
    return replace(
        hands,
        name=OWN,
        picking=_scaled(hands.picking, "ms", wanted.picking / old.picking),
        fretting=replace(
            fretting,
            spread_mm=_four(fretting.spread_mm, factor),
            stretch_mm=fretting.stretch_mm * factor,
        ),
        together=_scaled(hands.together, "ms", together),
    )
