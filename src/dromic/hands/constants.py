"""Times and sizes of the two hands: every constant in millimetres or milliseconds, and what players differ in.

A constant that weighs a term of the cost is declared with the term's words (`dromic.hands.declaring`); the formula
stands with the hand that it belongs to. Nothing else has to know of it.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from dromic.hands.declaring import FITTS, TRADE, TRIED, constant, style_option


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


class OpenStrings(StrEnum):
    """Whether open strings belong to what is played."""

    BY_STYLE = "by-style"
    WELCOME = "welcome"
    AVOIDED = "avoided"


class ThumbOver(StrEnum):
    """Whether the thumb comes over the neck for the bass of chords."""

    NEVER = "never"
    FOR_BASS = "for-bass"


class Shifting(StrEnum):
    """Whether the hand rather moves along the neck or stays in its position."""

    BY_PASSAGE = "by-passage"
    SELDOM = "seldom"
    FREELY = "freely"


class Damping(StrEnum):
    """Whether what rings on unasked has to be damped."""

    BY_GAIN = "by-gain"
    ALWAYS = "always"
    SELDOM = "seldom"


@dataclass(frozen=True)
class PickingHand:
    """Times and sizes of pick strokes."""

    half_stroke_mm: float = constant(2.5, "mm", "from the string to the end of a stroke", TRIED)
    base_ms: float = constant(24, "ms", "any stroke", TRIED, term="a stroke")
    reversal_ms: float = constant(
        50, "ms", "each change of direction on the way to a stroke", TRIED, term="{reversals}"
    )
    clear_ms: float = constant(
        12, "ms", "each string the pick has to be lifted over", TRIED, term="{cleared} to lift over"
    )
    fitts_ms: float = constant(
        8, "ms a bit", "travel, log2(1 + distance / target)", FITTS, term="{travel_mm:.0f} mm of travel"
    )
    target_mm: float = constant(5.0, "mm", "target of the travel", TRIED)
    inside_ms: float = constant(
        7.5, "ms", "inside picking out of a trapped stroke, the awkward one for most", TRADE, term="inside picking"
    )
    skip_ms: float = constant(12.0, "ms", "each string skipped", TRADE, term="passing a string by")
    sweep_ms: float = constant(
        47,
        "ms",
        "a sweep: falling onto the next string in step with the finger there",
        TRADE,
        term="in step with the sweep",
    )
    drop_ms: float = constant(
        4, "ms", "sweeping on out of a stroke that ended above the strings", term="dropping into a sweep"
    )
    turn_ms: float = constant(12, "ms", "turning the pick's lean over", term="turning the lean")
    pluck_ms: float = constant(65, "ms", "a finger plucks, after the pick or another finger", TRIED, term="a pluck")
    pluck_next_ms: float = constant(
        35.0,
        "ms",
        "one finger plucks after another, on top",
        TRADE,
        term="one finger after another",
        part_of="pluck_ms",
    )
    pluck_again_ms: float = constant(
        55.0, "ms", "the same finger plucks twice in a row, on top", TRADE, term="the same finger again"
    )
    pluck_little_ms: float = constant(
        20.0, "ms", "plucking with the weak little finger, on top", TRADE, term="the little finger plucks"
    )
    rake_ms: float = constant(
        45.0, "ms", "the same finger raked on to the next lower-pitched string", TRADE, term="the finger raked on"
    )
    through_ms: float = constant(
        5.0, "ms", "a stroke through a chord, for each further string", TRADE, term="through the chord"
    )
    sweep_turn_ms: float = constant(
        10.0,
        "ms",
        "turning round on another string after legato",
        TRADE,
        term="turning round after legato",
        spot=True,
    )
    palm_ms: float = constant(15.0, "ms", "palm put down or lifted between two notes", term="palm")
    accent_ms: float = constant(6.0, "ms", "a larger stroke for an accent", term="accent")
    pinch_ms: float = constant(
        15.0,
        "ms",
        "the thumb following the pick, for a pinch harmonic",
        TRADE,
        term="pinch harmonic",
    )
    from_neck_ms: float = constant(
        90.0, "ms", "the picking hand back from tapping on the neck", TRADE, term="back from tapping"
    )
    drag_ms: float = constant(
        14.0, "ms", "a rake, for each string dragged across on the way", TRADE, term="raked across {dragged}"
    )
    odd_ms: float = constant(
        3.0,
        "ms",
        "a string begun against the beat grid's strokes, as after an odd count of notes",
        TRADE,
        term="a string begun against the beat",
        spot=True,
    )
    glide_ms: float = constant(
        10.0, "ms", "moving the hand for a wide jump", TRADE, term="the hand moves for a wide jump"
    )
    glide_from_mm: float = constant(35.0, "mm", "travel from which the hand has to move", TRADE)
    anchored_ms: float = constant(
        15.0,
        "ms",
        "letting go of the instrument for a wide jump, on top",
        TRADE,
        term="letting go of the instrument",
        part_of="glide_ms",
    )
    attack_ms: float = constant(
        6.0, "ms", "a sweep without resting, each string with its own attack", TRADE, term="a sweep without resting"
    )
    lean: Lean = style_option(
        Lean.UP_ESCAPES,
        "the usual lean: upstrokes end above the strings",
        "Which strokes end above the strings",
        {"up": "upstrokes", "down": "downstrokes"},
    )
    turns: bool = style_option(
        True,
        "whether the player turns the lean at all",
        "Does the lean turn over when it helps",
        {True: "yes", False: "no"},
    )
    rest_strokes: RestStrokes = style_option(
        RestStrokes.LONG,
        "rest strokes: never, on long notes and in sweeps, or whenever possible",
        "Rest strokes",
        {
            "never": "never",
            "long": "on long notes and in sweeps",
            "whenever": "whenever the next string lies there",
        },
    )
    hand_rest: HandRest = style_option(
        HandRest.FLOATING,
        "whether the hand is anchored or floating",
        "The picking hand is",
        {"floating": "floating", "anchored": "anchored"},
    )


@dataclass(frozen=True)
class FrettingHand:
    """Times and sizes of the fretting hand."""

    spread_mm: tuple[float, float, float, float] = constant(
        (0.0, 24.0, 47.0, 69.0), "mm", "where fingers 1 to 4 lie at ease, from the first", TRIED
    )
    opens_on_long_necks: float = constant(
        1.0, "power", "how far the hand opens on necks longer than a guitar's", TRADE
    )
    thumb_mm: float = constant(0.0, "mm", "where the thumb lies over the neck, from the first finger", TRADE)
    across_mm: float = constant(
        20.0, "mm", "how far apart across the neck neighbouring fingers reach at ease", TRIED
    )
    stretch_mm: float = constant(60.0, "mm", "farthest a finger opens beyond its ease", "from memory")
    crowd_mm: float = constant(55.0, "mm", "farthest a finger closes within its ease", "from memory")
    place_ms: float = constant(50, "ms", "putting a finger down", term="{mover} put down")
    landing_ms: float = constant(
        25, "ms", "a finger landing with the hand's shift", TRADE, term="{mover} lands with it", part_of="shift_ms"
    )
    lift_ms: float = constant(15.0, "ms", "lifting off for an open string", term="lifted off")
    hammer_ms: float = constant(45.0, "ms", "a hammer-on, which must strike", term="{mover} hammered on")
    tap_ms: float = constant(55.0, "ms", "a tap by the picking hand, which must strike", TRADE, term="tapped")
    to_neck_ms: float = constant(
        90.0,
        "ms",
        "the picking hand from the strings to the neck, to tap",
        TRADE,
        term="the picking hand over to the neck",
    )
    pull_ms: float = constant(
        30.0, "ms", "a pull-off onto a planted finger or an open string", term="pulled off to {goal}"
    )
    fourth_ms: float = constant(3.0, "ms", "the little finger is slower", TRADE, term="the little finger")
    weak_34_ms: float = constant(
        8.0, "ms", "from finger 3 to 4 or back, the weakest pair", TRADE, term="fingers 3 and 4, a weak pair"
    )
    weak_24_ms: float = constant(
        3.0, "ms", "from finger 2 to 4 or back", TRADE, term="fingers 2 and 4, a weak pair"
    )
    jump_ms: float = constant(40.0, "ms", "the same finger lifted and put elsewhere", term="{mover} jumps")
    jump_fitts_ms: float = constant(
        15.0,
        "ms a bit",
        "its travel, log2(1 + distance / target)",
        FITTS,
        term="the way of the jump",
        part_of="jump_ms",
    )
    jump_target_mm: float = constant(10.0, "mm", "target of a finger's jump")
    roll_ms: float = constant(
        30.0, "ms", "one finger rolled to the neighbouring string", TRADE, term="{mover} rolled over"
    )
    roll_gain_ms: float = constant(
        15.0,
        "ms",
        "rolling cleanly with high gain, on top",
        TRADE,
        term="rolled cleanly with high gain",
        part_of="roll_ms",
    )
    cross_ms: float = constant(25.0, "ms", "a higher finger passing behind a lower one", term="fingers crossing")
    plant_ms: float = constant(
        10.0,
        "ms",
        "planting a lower finger too, for the pull-off to come",
        TRADE,
        term="a lower finger planted for the pull-off",
        spot=True,
    )
    extra_fingers_ms: float = constant(
        8.0,
        "ms",
        "each further finger that has to land with the slowest",
        TRADE,
        term="other fingers landing at the same time",
        spot=True,
    )
    barre_ms: float = constant(
        20.0, "ms", "laying a finger across several strings, on top", TRADE, term="a barre laid"
    )
    shift_ms: float = constant(
        40, "ms", "starting to move the hand along the neck", term="hand moves {shift_words}, {shift_mm:.0f} mm"
    )
    shift_fitts_ms: float = constant(
        20,
        "ms a bit",
        "its travel, log2(1 + distance / target)",
        FITTS,
        term="the way of the hand",
        part_of="shift_ms",
    )
    shift_target_mm: float = constant(25.0, "mm", "target of a shift: a fret's width")
    hold_ms: float = constant(
        15,
        "ms",
        "a fretted note must sound before the hand may leave it",
        TRADE,
        term="the note before it must sound first",
    )
    nowhere_ms: float = constant(
        15.0,
        "ms",
        "a hammer-on from nowhere, on a new string, on top",
        TRADE,
        term="a hammer-on from nowhere",
        part_of="hammer_ms",
    )
    slide_ms: float = constant(20.0, "ms", "a slide, on top of the hand's shift", term="slide")
    first_finger_return_ms: float = constant(
        2.0,
        "ms",
        "the first finger coming back on another string, usually late",
        TRADE,
        term="the first finger coming back",
    )
    release_ms: float = constant(
        4.0,
        "ms",
        "lifting a finger exactly as another string sounds, for players who lift",
        TRADE,
        term="lifting exactly then",
    )
    same_fret: SameFret = style_option(
        SameFret.EITHER,
        "one fret on two strings: one finger rolled, separate fingers, or either",
        "One fret on neighbouring strings",
        {"either": "either", "roll": "roll one finger", "separate": "separate fingers"},
    )
    low_frets: LowFrets = style_option(
        LowFrets.FINGER_PER_FRET,
        "the first five frets: one finger a fret, or 1-2-4 without the third",
        "The first five frets",
        {"finger-per-fret": "one finger a fret", "1-2-4": "1-2-4"},
    )
    little_finger: LittleFinger = style_option(
        LittleFinger.USED,
        "whether the little finger is used",
        "The little finger is",
        {"used": "used", "avoided": "avoided"},
    )
    letting_go: LettingGo = style_option(
        LettingGo.BY_PASSAGE,
        "hold a finger down until the next note sounds, lift it exactly then, or as the passage wants",
        "A finger leaves its note",
        {"by-passage": "as the passage wants", "hold": "hold until the next sounds", "lift": "lift exactly then"},
    )
    open_strings: OpenStrings = style_option(
        OpenStrings.BY_STYLE,
        "open strings in the middle of a line: as the style has them, welcome, or avoided",
        "Open strings are",
        {"by-style": "as in the style", "welcome": "welcome", "avoided": "avoided"},
    )
    thumb: ThumbOver = style_option(
        ThumbOver.NEVER,
        "the thumb over the neck for the bass of chords, on necks of up to six strings: never, or where it helps",
        "The thumb comes over the neck",
        {"never": "never", "for-bass": "for the bass of chords"},
    )
    shifting: Shifting = style_option(
        Shifting.BY_PASSAGE,
        "moving along the neck: as the passage wants, seldom (2.5 times as dear), or freely (0.4 times)",
        "The hand moves along the neck",
        {"by-passage": "as the passage wants", "seldom": "seldom", "freely": "freely"},
    )
    seldom_shifts: float = constant(2.5, "times", "what a shift costs players who shift seldom", TRADE)
    free_shifts: float = constant(0.4, "times", "what a shift costs players who shift freely", TRADE)
    damping: Damping = style_option(
        Damping.BY_GAIN,
        "strings that ring on unasked: damped with high gain, always, or seldom",
        "Ringing strings are damped",
        {"by-gain": "with high gain", "always": "always", "seldom": "seldom"},
    )

    @property
    def shifting_times(self) -> float:
        """How often the usual cost of a shift counts."""
        return {Shifting.SELDOM: self.seldom_shifts, Shifting.FREELY: self.free_shifts}.get(self.shifting, 1.0)


@dataclass(frozen=True)
class SyncCosts:
    """What both hands being busy in the same gap adds."""

    change_shift_ms: float = constant(
        12,
        "ms",
        "string change of the pick with a position shift",
        TRADE,
        term="string change with a shift",
        spot=True,
    )
    change_roll_ms: float = constant(
        10, "ms", "string change with a roll", TRADE, term="string change with a roll", spot=True
    )
    change_jump_ms: float = constant(
        15.0,
        "ms",
        "string change with the same finger jumping",
        TRADE,
        term="string change with the same finger jumping",
        spot=True,
    )
    resume_ms: float = constant(
        10.0, "ms", "picking resumed after legato", TRADE, term="picking resumed after legato", spot=True
    )
    subdivision_ms: float = constant(
        8.0, "ms", "the first note of another subdivision", TRADE, term="another subdivision begins", spot=True
    )
    seam_ms: float = constant(
        8.0, "ms", "from the end of a loop back to its start", TRADE, term="the seam of the loop", spot=True
    )
