"""What costs a little at any tempo: every constant of comfort, in units of effort."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.hands.chord_comfort import ChordComfort
from dromic.hands.declaring import TRADE, constant


@dataclass(frozen=True)
class Comfort(ChordComfort):
    """What costs a little at any tempo. Costs are in units of effort."""

    reach: float = constant(
        0.0528,
        "effort",
        "a finger beyond its ease in the position, for each unit of reach squared",
        term="a finger reaching beyond its ease",
    )
    apart: float = constant(
        0.0100,
        "effort",
        "two fingers in a row beyond their ease, for each unit of reach squared",
        term="fingers stretched apart",
    )
    reach_ease_mm: float = constant(12.0, "mm", "reach that is no effort")
    reach_unit_mm: float = constant(
        20.0, "mm", "reach beyond ease that costs its weight once, and twice that four times"
    )
    crowding: float = constant(1.5, "times", "closing the hand against opening it as far")
    frame: float = constant(
        0.0500,
        "effort",
        "a finger on another fret than its own in the position",
        TRADE,
        term="a finger off its own fret",
    )
    first_away: float = constant(
        0.0600,
        "effort",
        "the first finger away from its home",
        TRADE,
        term="the first finger away from its home",
        part_of="frame",
    )
    pressing: float = constant(0.0002, "effort", "pressing a string at all", TRADE, term="pressing the string")
    up_the_neck: float = constant(
        0.0055,
        "effort",
        "each fret up the neck, in styles at home by the nut",
        TRADE,
        term="playing farther up the neck",
    )
    up_long_neck: float = constant(
        0.0009,
        "effort",
        "the same on a long neck",
        TRADE,
        term="playing farther up the neck",
        part_of="up_the_neck",
    )
    past_open: float = constant(
        0.0058,
        "effort",
        "fretting by the nut what an open string sounds, in styles at home there",
        TRADE,
        term="an open string passed by",
    )
    off_nut: float = constant(
        0.0309,
        "effort",
        "the hand off the first position on the lowest frets, in styles at home by the nut",
        TRADE,
        term="leaving the first position",
    )
    off_nut_long: float = constant(
        0.0562,
        "effort",
        "the hand off the first position on the lowest frets of a long neck",
        TRADE,
        term="leaving the first position of a long neck",
        part_of="off_nut",
    )
    up_closed: float = constant(
        0.0038, "effort", "each fret up the neck, in other styles", TRADE, term="playing farther up the neck"
    )
    down_closed: float = constant(
        0.0344,
        "effort",
        "each fret below the fifth, in styles at home up the neck",
        TRADE,
        term="the wide frets by the nut",
    )
    stretched_pair: float = constant(
        0.0882,
        "effort",
        "each fret two fingers in a row are farther apart than one finger a fret",
        TRADE,
        term="more than a finger a fret",
    )
    closed_pair: float = constant(
        0.0194,
        "effort",
        "each fret two fingers in a row are closer than one finger a fret",
        TRADE,
        term="less than a finger a fret",
    )
    high: float = constant(
        0.0078,
        "effort",
        "each fret far up a thick string, times the thinner strings to reach across",
        TRADE,
        term="playing far up a thick string",
    )
    high_from: float = constant(9.0, "frets", "fret up to which every string is as good as another", TRADE)
    open_far: float = constant(
        0.0857,
        "effort",
        "an open string while the hand is up the neck, for each fret beyond",
        TRADE,
        term="an open string far from the hand",
    )
    open_near: float = constant(2.0, "frets", "position up to which open strings sound of a piece", TRADE)
    open_range: float = constant(
        5.0, "frets", "beyond that, after which an open string is as foreign as it gets", TRADE
    )
    open_closed: float = constant(
        0.0286,
        "effort",
        "an open string in a style of closed positions",
        TRADE,
        term="an open string in a style of closed positions",
    )
    open_gain: float = constant(
        0.2154,
        "effort",
        "an open string with high gain, low strings that are a pedal or of a chord apart",
        TRADE,
        term="an open string with high gain",
    )
    fourth: float = constant(0.0238, "effort", "using the little finger", TRADE, term="the little finger")
    weak_34: float = constant(
        0.0002, "effort", "from finger 3 to 4 or back", TRADE, term="fingers 3 and 4 in a row"
    )
    weak_24: float = constant(
        0.0250, "effort", "from finger 2 to 4 or back", TRADE, term="fingers 2 and 4 in a row"
    )
    weak_23: float = constant(
        0.0391, "effort", "from finger 2 to 3 or back", TRADE, term="fingers 2 and 3 in a row"
    )
    from_nowhere: float = constant(
        0.4012, "effort", "hammering on from nowhere what could be picked", TRADE, term="hammered on from nowhere"
    )
    figure: float = constant(
        0.0431,
        "effort",
        "a take of a figure that comes back, in another pattern of strings than the take before",
        TRADE,
        term="a figure coming back in another pattern",
    )
    figure_strings: float = constant(
        0.0431,
        "effort",
        "a take of a figure that comes back in the same pattern on other strings",
        TRADE,
        term="a figure carried to other strings",
    )
    run: float = constant(
        0.3423,
        "effort",
        "three notes of a scale run with high gain that are not on one string as the three before",
        TRADE,
        term="a run off three notes a string",
    )
    tune: float = constant(
        0.25,
        "effort",
        "a note of a tune over drones on another string than the one before, counted from the drones'",
        TRADE,
        term="a tune over drones on another string",
    )
    shift: float = constant(
        0.0081, "effort", "moving the hand along the neck, where there is little time", TRADE, term="a shift"
    )
    shift_far: float = constant(
        0.6512,
        "effort",
        "the way, by the square root of its length in units",
        TRADE,
        term="the way of the shift",
        spot=True,
        part_of="shift",
    )
    way_unit_mm: float = constant(100.0, "mm", "the way of a shift that costs its weight once", TRADE)
    shift_guided: float = constant(
        0.2842,
        "effort",
        "the same from shape to shape of two fretted notes or more",
        TRADE,
        term="the way of the shift",
        spot=True,
        part_of="shift",
    )
    shift_along: float = constant(
        0.0979,
        "effort",
        "the same where a finger of both shapes glides along its string",
        TRADE,
        term="the way of the shift",
        spot=True,
        part_of="shift",
    )
    shift_formed: float = constant(
        0.0886,
        "effort",
        "the same from one held chord to the next, which is formed anew",
        TRADE,
        term="the way of the shift",
        spot=True,
        part_of="shift",
    )
    shift_take: float = constant(
        0.2589,
        "effort",
        "the same where another take of a figure begins",
        TRADE,
        term="the way of the shift",
        spot=True,
        part_of="shift",
    )
    take_mm: float = constant(120.0, "mm", "the farthest that a figure is carried at that price", TRADE)
    shift_unguided: float = constant(
        0.0005,
        "effort",
        "a shift with no finger that glides along its string",
        TRADE,
        term="no guide finger",
        part_of="shift",
    )
    shift_mirrored: float = constant(
        0.6670,
        "effort",
        "a shift inside an arpeggio that goes back the way it came",
        TRADE,
        term="leaving the shape of an arpeggio",
        part_of="shift",
    )
    held_again: float = constant(
        0.6, "times", "what holding notes costs that are struck again, against what it costs first", TRADE
    )
    glided: float = constant(
        0.3089,
        "effort",
        "a shift on one finger from note to note of a string, no slide being asked for",
        TRADE,
        term="one finger gliding from note to note",
    )
    cut_off: float = constant(
        0.3,
        "effort",
        "the same where both are marked to ring",
        TRADE,
        term="a note cut off that is to ring",
    )
    moved: float = constant(
        0.3,
        "effort",
        "a note struck again in another place or by another finger",
        TRADE,
        term="the same note elsewhere",
    )
    otherwise: float = constant(
        0.1382,
        "effort",
        "a note of a bar that comes back, in another place or by another finger than in most of these bars",
        TRADE,
        term="not played as in the other bars like it",
    )
    other_stroke: float = constant(
        0.0351,
        "effort",
        "a note of a bar that comes back, by another stroke than in most of these bars",
        TRADE,
        term="another stroke than in the other bars like it",
        part_of="otherwise",
    )
    octave: float = constant(
        0.0830,
        "effort",
        "an octave from one note to the next, off the shape two strings apart with both fretted",
        TRADE,
        term="an octave out of its shape",
    )
    slide_weak: float = constant(
        0.0234, "effort", "sliding on the second finger or the fourth", TRADE, term="sliding on a weaker finger"
    )
    shift_time_ms: float = constant(250.0, "msec", "time over which a shift costs less and less", TRADE)
    jump_along: float = constant(
        0.1300,
        "effort",
        "one finger for two frets of a string within a position",
        TRADE,
        term="the same finger on two frets in a row",
    )
    jump_across: float = constant(
        0.0800, "effort", "one finger jumping to another string and fret", TRADE, term="the same finger jumps"
    )
    roll: float = constant(0.0006, "effort", "a finger rolled to the next string", TRADE, term="a roll")
    roll_gain: float = constant(
        0.0152, "effort", "with high gain, on top", TRADE, term="a roll with high gain", part_of="roll"
    )
    cross: float = constant(
        0.0600, "effort", "a higher finger below a lower one in a run", TRADE, term="fingers crossing over"
    )
    again: float = constant(
        0.0250,
        "effort",
        "the same stroke again, for which the pick goes back",
        TRADE,
        term="the pick's way back for the same stroke",
    )
    skip: float = constant(
        0.0040, "effort", "each string skipped by the pick", TRADE, term="a string skipped by the pick", spot=True
    )
    inside: float = constant(0.0080, "effort", "inside picking", TRADE, term="inside picking, the awkward side")
    outside: float = constant(0.0080, "effort", "outside picking", TRADE, term="outside picking")
    squeezed: float = constant(
        0.0021, "effort", "two fingers on one fret, one after the other", TRADE, term="two fingers on one fret"
    )
    up_on_beat: float = constant(0.0060, "effort", "an up on a beat", TRADE, term="an up on a beat", spot=True)
    down_between: float = constant(
        0.0140, "effort", "a down between two beats", TRADE, term="a down between beats", spot=True
    )
    opens_up: float = constant(
        0.5000, "effort", "the first stroke of all an up on a beat", TRADE, term="an up for the first stroke"
    )
    opens_up_either: float = constant(
        0.0500,
        "effort",
        "the same where the school may as well begin with an up",
        TRADE,
        term="an up for the first stroke",
        part_of="opens_up",
    )
    up_on_accent: float = constant(
        0.0500, "effort", "an up on an accented note", TRADE, term="an up on an accent", spot=True
    )
    other_lean: float = constant(
        0.0300,
        "effort",
        "a stroke against your usual lean",
        TRADE,
        term="a stroke against your usual lean",
    )
    bend_1: float = constant(
        0.8000,
        "effort",
        "a bend by the first finger: no helpers behind it",
        TRADE,
        term="a bend with little help behind it",
    )
    bend_2: float = constant(
        0.1513, "effort", "a bend by the second finger: one helper", TRADE, term="a bend with little help behind it"
    )
    bend_4: float = constant(
        0.2999, "effort", "a bend by the little finger", TRADE, term="a bend by the little finger"
    )
    vibrato_1: float = constant(
        0.0800, "effort", "vibrato by the first finger", TRADE, term="vibrato by a weaker finger"
    )
    vibrato_4: float = constant(
        0.1200, "effort", "vibrato by the little finger", TRADE, term="vibrato by a weaker finger"
    )
    slight_bend: float = constant(0.3, "times", "a quarter-tone bend, against a whole one", TRADE)
    trill_2: float = constant(
        0.05, "effort", "a trill held by the second finger", TRADE, term="a trill by weaker fingers"
    )
    trill_3: float = constant(
        0.12, "effort", "a trill between the third and the little finger", TRADE, term="a trill by weaker fingers"
    )
    trill_wide: float = constant(
        0.1,
        "effort",
        "a whole step between the third and the little finger, in a trill",
        TRADE,
        term="a trill by weaker fingers",
    )
    slide_in_2: float = constant(
        0.02, "effort", "sliding in on the second finger", TRADE, term="a slide in on a weaker finger"
    )
    slide_in_4: float = constant(
        0.04, "effort", "sliding in on the little finger", TRADE, term="a slide in on a weaker finger"
    )
    pinched_up: float = constant(
        0.15, "effort", "a pinch harmonic on an up, where the thumb cannot follow", TRADE, term="pinched on an up"
    )
    against: float = constant(
        0.5,
        "effort",
        "a move against the player's style option",
        TRADE,
        term="against the player's style option",
    )
    exempt: float = constant(
        0.3, "effort", "a stroke that the school forbids after the one before, where a lock asks for it", TRADE
    )
    at_ease: float = constant(0.0095, "effort", "a load, squared", TRADE)
    calm: float = constant(0.5, "load", "up to which a load hardly counts", TRADE)
    strain: float = constant(0.0854, "effort", "load beyond calm, squared", TRADE)
    overload: float = constant(1.0, "effort", "load beyond the limit of 1, squared")
