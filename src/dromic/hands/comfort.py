"""What costs a little at any tempo: every constant of comfort, in units of effort."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.hands.declaring import TRADE, constant


@dataclass(frozen=True)
class Comfort:
    """What costs a little at any tempo. Costs are in units of effort."""

    reach: float = constant(
        0.015,
        "effort",
        "a finger beyond its ease in the position, for each (20 mm) squared",
        term="the finger reaches beyond its ease",
    )
    apart: float = constant(
        0.03, "effort", "two fingers in a row beyond their ease, for each (20 mm) squared", term="fingers apart"
    )
    reach_ease_mm: float = constant(12.0, "mm", "reach that is no effort")
    crowding: float = constant(1.5, "times", "closing the hand against opening it as far")
    frame: float = constant(
        0.014,
        "effort",
        "a finger on another fret than its own in the position",
        TRADE,
        term="the finger is not over its own fret",
    )
    first_away: float = constant(
        0.08,
        "effort",
        "the first finger away from its home",
        TRADE,
        term="the first finger away from its home",
        part_of="frame",
    )
    high: float = constant(
        0.008,
        "effort",
        "each fret far up a thick string, times the thinner strings to reach across",
        TRADE,
        term="far up a thick string",
    )
    high_from: float = constant(9.0, "frets", "fret up to which every string is as good as another", TRADE)
    open_far: float = constant(
        0.012,
        "effort",
        "an open string while the hand is far up the neck, for each fret beyond",
        TRADE,
        term="an open string far from the hand",
    )
    open_near: float = constant(5.0, "frets", "position up to which open strings sound of a piece", TRADE)
    fourth: float = constant(0.01, "effort", "using the little finger", TRADE, term="the little finger is used")
    weak_34: float = constant(
        0.02, "effort", "from finger 3 to 4 or back", TRADE, term="fingers 3 and 4, a weak pair"
    )
    weak_24: float = constant(
        0.015, "effort", "from finger 2 to 4 or back", TRADE, term="fingers 2 and 4, a weak pair"
    )
    weak_23: float = constant(
        0.01, "effort", "from finger 2 to 3 or back", TRADE, term="fingers 2 and 3, a weak pair"
    )
    opened: float = constant(
        0.05,
        "effort",
        "a finger of a chord above its own fret in the position",
        TRADE,
        term="a finger above its own fret",
    )
    fourth_too: float = constant(
        0.02, "effort", "the little finger in a chord", TRADE, term="the little finger is used"
    )
    laid: float = constant(0.05, "effort", "a finger laid across strings at all", TRADE, term="a barre")
    barre: float = constant(
        0.01,
        "effort",
        "a barre of the first finger, for each further string",
        TRADE,
        term="each further string of the barre",
        part_of="laid",
    )
    barre_other: float = constant(
        0.04,
        "effort",
        "a barre of another finger, for each further string",
        TRADE,
        term="each further string of a barre by a weaker finger",
        part_of="laid",
    )
    damped: float = constant(
        0.04,
        "effort",
        "a string inside a chord that a finger has to damp",
        TRADE,
        term="strings inside the chord to damp",
    )
    squeezed: float = constant(
        0.03, "effort", "two fingers on one fret, one after the other", TRADE, term="two fingers on one fret"
    )
    up_on_beat: float = constant(0.02, "effort", "an up on a beat", TRADE, term="an up on a beat", spot=True)
    down_between: float = constant(
        0.004, "effort", "a down between two beats", TRADE, term="a down between beats", spot=True
    )
    up_on_accent: float = constant(
        0.05, "effort", "an up on an accented note", TRADE, term="an up on an accent", spot=True
    )
    other_lean: float = constant(
        0.004,
        "effort",
        "a stroke with the lean that is not the habitual one",
        TRADE,
        term="against your usual lean",
    )
    bend_1: float = constant(
        0.3,
        "effort",
        "a bend by the first finger: no helpers behind it",
        TRADE,
        term="a bend with little help behind it",
    )
    bend_2: float = constant(
        0.08, "effort", "a bend by the second finger: one helper", TRADE, term="a bend with little help behind it"
    )
    bend_4: float = constant(
        0.12, "effort", "a bend by the little finger", TRADE, term="a bend by the little finger"
    )
    vibrato_1: float = constant(
        0.03, "effort", "vibrato by the first finger", TRADE, term="vibrato by a weaker finger"
    )
    vibrato_4: float = constant(
        0.05, "effort", "vibrato by the little finger", TRADE, term="vibrato by a weaker finger"
    )
    plucked_together: float = constant(
        0.05, "effort", "plucking a chord with fingers, for each finger", TRADE, term="fingers plucking together"
    )
    brushed: float = constant(
        0.08,
        "effort",
        "one finger brushed across a chord, for each further string",
        TRADE,
        term="one finger brushing across",
    )
    against: float = constant(
        0.15,
        "effort",
        "a move against the player's style option",
        TRADE,
        term="against the player's style option",
    )
    overload: float = constant(8.0, "effort", "load beyond the limit of 1, squared")
