"""MusicXML, the names: what marks, strokes and values are called there, for reader and writer alike."""

from __future__ import annotations

from dromic.music.riff import Mark, Stroke

TYPES = {1: "whole", 2: "half", 4: "quarter", 8: "eighth", 16: "16th", 32: "32nd", 64: "64th"}
BASES = {name: base for base, name in TYPES.items()}
PLUCKS = {Stroke.INDEX: "i", Stroke.MIDDLE: "m", Stroke.RING: "a", Stroke.LITTLE: "c"}
BOWS = {Stroke.DOWN: "down-bow", Stroke.UP: "up-bow"}
ARTICULATIONS = {
    Mark.ACCENT: "accent",
    Mark.STACCATO: "staccato",
    Mark.SLIDE_OFF: "falloff",
    Mark.SLIDE_IN: "scoop",
}
# What else files may say for them.
LIKE_ARTICULATIONS = {
    "strong-accent": Mark.ACCENT,
    "staccatissimo": Mark.STACCATO,
    "doit": Mark.SLIDE_OFF,
    "plop": Mark.SLIDE_IN,
}
BENDS = {Mark.BEND_QUARTER: "0.5", Mark.BEND_HALF: "1", Mark.BEND_WHOLE: "2"}
TRILLS = {Mark.TRILL_HALF: "half", Mark.TRILL_WHOLE: "whole"}
HARMONICS = {Mark.HARMONIC: ("natural", "touching-pitch"), Mark.PINCH: ("artificial", "base-pitch")}
# Said with <other-technical>, as MusicXML has no word for it.
RAKE, CHORD_PLUCK, POSITION = "rake", "together", "position"
# Header fields of a riff that MusicXML has no place for, in <miscellaneous>.
FIELD = "dromic-"
COMMENT, LEAD = "# ", "#^ "
