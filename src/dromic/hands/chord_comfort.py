"""What chords cost a little at any tempo, in units of effort."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.hands.declaring import TRADE, constant


@dataclass(frozen=True)
class ChordComfort:
    """What the shapes of chords cost, and going from one to the next."""

    frame_too: float = constant(
        0.0199,
        "effort",
        "a finger of a chord below its own fret in the position",
        TRADE,
        term="a finger off its own fret",
    )
    open_in_chord: float = constant(
        0.1493,
        "effort",
        "an open string among fretted ones of a chord, in styles of closed positions or with high gain",
        TRADE,
        term="an open string in the chord",
    )
    bunched: float = constant(
        0.0450,
        "effort",
        "each finger of a chord beside another on one fret",
        TRADE,
        term="fingers side by side on one fret",
    )
    bunched_laid: float = constant(
        5.0, "times", "the same beside one that is laid across, against one that is not", TRADE
    )
    not_first: float = constant(
        0.2609,
        "effort",
        "a chord without an open string whose lowest fret is not the first finger's",
        TRADE,
        term="a shape that does not begin with the first finger",
    )
    refingered: float = constant(
        0.1,
        "effort",
        "each fretted note that stays, by another finger, where at most one note of a chord changes",
        TRADE,
        term="another finger for a note that stays",
    )
    regrip: float = constant(
        0.3420,
        "effort",
        "a chord of the same build as the last in another shape or with other fingers",
        TRADE,
        term="another shape for the same kind of chord",
    )
    other_strings: float = constant(
        0.1146,
        "effort",
        "the same shape carried to other strings",
        TRADE,
        term="the shape carried to other strings",
    )
    respaced: float = constant(
        0.3578,
        "effort",
        "a chord of nearly the same build on strings otherwise chosen",
        TRADE,
        term="other strings for a like chord",
    )
    like_semitones: float = constant(2.0, "semitones", "how far notes of nearly the same build lie off it", TRADE)
    damped_gain: float = constant(
        0.0174, "effort", "with high gain, on top", TRADE, term="strings inside the chord to damp", part_of="damped"
    )
    opened: float = constant(
        0.1660,
        "effort",
        "a finger of a chord above its own fret in the position",
        TRADE,
        term="a finger above its own fret",
    )
    fourth_too: float = constant(0.07, "effort", "the little finger in a chord", TRADE, term="the little finger")
    idle_open: float = constant(
        0.02,
        "effort",
        "each note of a chord with open strings that is fretted by the nut though an open string sounds it too",
        TRADE,
        term="an open string passed by",
        part_of="past_open",
    )
    thumb_over: float = constant(0.03, "effort", "the thumb over the neck", TRADE, term="the thumb over the neck")
    laid: float = constant(0.0050, "effort", "a finger laid across strings at all", TRADE, term="a barre")
    laid_over: float = constant(
        0.0800,
        "effort",
        "each string under a finger laid across that is not to sound",
        TRADE,
        term="a barre over strings that stay silent",
        part_of="laid",
    )
    laid_by_open: float = constant(
        0.1500,
        "effort",
        "a finger laid across strings next to a thinner open string, which it must not touch",
        TRADE,
        term="a barre beside an open string",
        part_of="laid",
    )
    barre: float = constant(
        0.0400,
        "effort",
        "a barre of the first finger, for each further string",
        TRADE,
        term="each further string of the barre",
        part_of="laid",
    )
    barre_other: float = constant(
        0.1500,
        "effort",
        "a barre of another finger, for each further string",
        TRADE,
        term="each further string of a barre by a weaker finger",
        part_of="laid",
    )
    barre_alone: float = constant(
        0.0500,
        "effort",
        "the same where the finger holds the whole chord",
        TRADE,
        term="each further string of a barre by a weaker finger",
        part_of="laid",
    )
    unknown_shape: float = constant(
        0.0765,
        "effort",
        "a chord shape that is neither taught nor part of one that is",
        "the open data set chords-db 0.5.1 says which; the weight: common practice, no source",
        term="a shape that players do not know",
    )
    practised: float = constant(
        0.3, "times", "what the fingers of a chord shape that is taught cost, against any other", TRADE
    )
    practised_open: float = constant(
        0.2, "times", "the same of a shape with an open string, which players learn first", TRADE
    )
    open_rings: float = constant(
        0.03, "times", "an open string far from the hand that rings on, against one that does not", TRADE
    )
    shut: float = constant(
        0.06,
        "effort",
        "a broken chord that is no open shape by the nut, in styles that have open strings",
        TRADE,
        term="a broken chord away from open strings",
    )
    out_of_shape: float = constant(
        0.25,
        "effort",
        "each note of a broken chord that is not played on the shape of its chord",
        TRADE,
        term="a broken chord not held as a chord",
    )
    added: float = constant(
        0.0180,
        "effort",
        "each finger put down or moved while a chord shape is held",
        TRADE,
        term="a finger added to the chord",
    )
    damped: float = constant(
        0.1306,
        "effort",
        "a string inside a chord that a finger has to damp",
        TRADE,
        term="strings inside the chord to damp",
    )
    plucked_together: float = constant(
        0.0200, "effort", "plucking a chord with fingers, for each finger", TRADE, term="fingers plucking together"
    )
    brushed: float = constant(
        0.1500,
        "effort",
        "one finger brushed across a chord, for each further string",
        TRADE,
        term="one finger brushing across",
    )
