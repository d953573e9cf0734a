"""The riff as written: header, phrases, bars, events, notes.

A riff keeps everything that was written, comments and spelling included, so that it can be written back
exactly. What it means in time is worked out in `dromic.music.timeline`.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from enum import StrEnum
from fractions import Fraction
from functools import cached_property
from itertools import chain

from dromic.music.chords import Sign
from dromic.music.pitch import Pitch
from dromic.music.rhythm import Meter, NoteValue, Swing


class Mark(StrEnum):
    """How a note is played. Legato marks and ties say how the note is *reached*."""

    PALM_MUTE = "m"
    ACCENT = ">"
    HAMMER = "h"
    PULL = "p"
    SLIDE = "s"
    SLIDE_IN = "i"
    TAP = "T"
    BEND_QUARTER = "bq"
    BEND_HALF = "b1"
    BEND_WHOLE = "b2"
    RELEASE = "r"
    DEAD = "x"
    VIBRATO = "v"
    LET_RING = "l"
    GRACE = "g"
    TIE = "t"
    RAKE = "k"
    STACCATO = "z"
    SLIDE_OFF = "o"
    TRILL_HALF = "w1"
    TRILL_WHOLE = "w2"
    HARMONIC = "n"
    PINCH = "a"


MARK_WORDS = {
    Mark.PALM_MUTE: "palm mute",
    Mark.ACCENT: "accent",
    Mark.HAMMER: "hammer-on",
    Mark.PULL: "pull-off",
    Mark.SLIDE: "slide",
    Mark.SLIDE_IN: "slide in",
    Mark.TAP: "tap",
    Mark.BEND_QUARTER: "quarter-tone bend",
    Mark.BEND_HALF: "half-step bend",
    Mark.BEND_WHOLE: "whole-step bend",
    Mark.RELEASE: "release",
    Mark.DEAD: "dead note",
    Mark.VIBRATO: "vibrato",
    Mark.LET_RING: "let ring",
    Mark.GRACE: "grace note",
    Mark.TIE: "tie",
    Mark.RAKE: "rake",
    Mark.STACCATO: "staccato",
    Mark.SLIDE_OFF: "slide off",
    Mark.TRILL_HALF: "half-step trill",
    Mark.TRILL_WHOLE: "whole-step trill",
    Mark.HARMONIC: "natural harmonic",
    Mark.PINCH: "pinch harmonic",
}

LEGATO_MARKS = (Mark.HAMMER, Mark.PULL, Mark.SLIDE)
UNPICKED_MARKS = (*LEGATO_MARKS, Mark.RELEASE, Mark.TAP)
BEND_SEMITONES = {Mark.BEND_QUARTER: 0.5, Mark.BEND_HALF: 1.0, Mark.BEND_WHOLE: 2.0}
TRILL_SEMITONES = {Mark.TRILL_HALF: 1, Mark.TRILL_WHOLE: 2}
STRUCK_MARKS = frozenset(
    {
        Mark.DEAD,
        Mark.PALM_MUTE,
        Mark.ACCENT,
        Mark.RAKE,
        Mark.LET_RING,
        Mark.SLIDE_IN,
        Mark.HARMONIC,
        Mark.PINCH,
    }
)
"""Marks of notes that only a stroke can sound."""
EXCLUSIVE_MARKS = (
    frozenset(LEGATO_MARKS) | {Mark.TIE, Mark.RELEASE, Mark.TAP, Mark.SLIDE_IN, Mark.HARMONIC, Mark.PINCH},
    frozenset(BEND_SEMITONES) | frozenset(TRILL_SEMITONES) | {Mark.HARMONIC},
    frozenset({Mark.GRACE, Mark.TIE}),
    frozenset({Mark.STACCATO, Mark.LET_RING, Mark.SLIDE_OFF}),
    frozenset({Mark.DEAD, Mark.TAP, Mark.HARMONIC, Mark.PINCH}),
)
"""Marks of which a note has one at most."""

HARMONIC_RISE = {3: 31, 4: 28, 5: 24, 7: 19, 9: 28, 12: 12, 16: 28, 19: 19, 24: 24}
"""Frets over which a string touched lightly sounds a natural harmonic, and its semitones above the open string.

Source: the harmonic series, 2 to 6 parts of a string, to the nearest semitone.
"""


class Stroke(StrEnum):
    """What sounds a note: the pick, a plucking finger, several at the same time (chords), or nothing (legato)."""

    DOWN = "down"
    UP = "up"
    INDEX = "i"
    MIDDLE = "m"
    RING = "a"
    LITTLE = "c"
    CHORD_PLUCK = "together"
    NONE = "none"


@dataclass(frozen=True)
class Locks:
    """What the player has decided and the planner must keep.

    Parameters
    ----------
    stroke : Stroke or None
        The stroke, or the plucking finger; `Stroke.NONE` for a note that is slurred and not picked.
    finger : int or None
        Fretting finger, 1 to 4; 5 is the thumb over the neck.
    position : int or None
        Fret at which the first finger is at home.
    """

    stroke: Stroke | None = None
    finger: int | None = None
    position: int | None = None


NO_LOCKS = Locks()


_ORDER = {mark: number for number, mark in enumerate(Mark)}


@dataclass(frozen=True)
class Place:
    """A string (1 is the thinnest) and a fret (0 is open; counted from the capo)."""

    string: int
    fret: int

    def __str__(self) -> str:
        return f"{self.string}:{self.fret}"


@dataclass(frozen=True)
class Note:
    """One note of an event: a fixed place, or a pitch that the planner places."""

    target: Place | Pitch
    marks: frozenset[Mark] = frozenset()
    locks: Locks = NO_LOCKS


@dataclass(frozen=True)
class Event:
    """What happens at one moment: a note, notes struck together, or a rest (no notes).

    Marks and locks of the event hold for all its notes; those of a note inside a chord for that one. `chord` is the
    sign that begins here and holds on; None for no change.
    """

    value: NoteValue
    notes: tuple[Note, ...] = ()
    marks: frozenset[Mark] = frozenset()
    locks: Locks = NO_LOCKS
    chord: Sign | None = None

    @property
    def rest(self) -> bool:
        """Whether nothing sounds."""
        return not self.notes

    @property
    def grace(self) -> bool:
        """Whether the event takes its time from the note after it."""
        return Mark.GRACE in self.marks

    @property
    def quarters(self) -> Fraction:
        """Length counted in the bar; a grace note counts nothing."""
        return Fraction(0) if self.grace else self.value.quarters


def without_rivals(marks: Iterable[Mark]) -> frozenset[Mark]:
    """Marks as a note can have them together: of those that contradict each other, a tie or else the first stays.

    Examples
    --------
    >>> sorted(without_rivals({Mark.BEND_WHOLE, Mark.BEND_HALF, Mark.ACCENT}))
    [<Mark.ACCENT: '>'>, <Mark.BEND_HALF: 'b1'>]
    """
    without_rivals = sorted(set(marks), key=lambda mark: (mark is not Mark.TIE, _ORDER[mark]))
    for group in EXCLUSIVE_MARKS:
        rivals = [mark for mark in without_rivals if mark in group]
        without_rivals = [mark for mark in without_rivals if mark not in rivals[1:]]
    return frozenset(without_rivals)


def harmonic_rise(note: Note, marks: frozenset[Mark] = frozenset()) -> int:
    """Semitones that a note sounds above what it is fretted at; `marks` are those of its event.

    Examples
    --------
    >>> harmonic_rise(Note(Place(1, 7)), frozenset({Mark.HARMONIC})), harmonic_rise(Note(Place(1, 7)))
    (12, 0)
    """
    if Mark.HARMONIC not in note.marks | marks or not isinstance(note.target, Place):
        return 0
    return HARMONIC_RISE.get(note.target.fret, note.target.fret) - note.target.fret


# The comment of a bar whose rhythm a reader has worked out; it goes when the player changes the rhythm.
INFERRED = "rhythm inferred"


@dataclass(frozen=True)
class Bar:
    """Events between two bar lines.

    Parameters
    ----------
    events : tuple of Event
    lead : tuple of str
        Comments written before the bar.
    comment : str
        The one at its end.
    meter : Meter or None
        The metre that begins here and holds on in reading order; None for no change.
    tempo : float or None
        The tempo that begins here, as the metre, in quarter notes a minute.
    """

    events: tuple[Event, ...]
    lead: tuple[str, ...] = ()
    comment: str = ""
    meter: Meter | None = None
    tempo: float | None = None

    @cached_property
    def quarters(self) -> Fraction:
        """Length in quarter notes."""
        return sum((event.quarters for event in self.events), Fraction(0))


@dataclass(frozen=True)
class Phrase:
    """Bars from a phrase mark or repeat to the next.

    Parameters
    ----------
    bars : tuple of Bar
    name : str or None
    times : int
        How often it is played.
    school : str
        Name of a school of its own; empty where it is played like the rest. Only phrases with a name have one.
    """

    bars: tuple[Bar, ...]
    name: str | None = None
    times: int = 1
    school: str = ""


class Gain(StrEnum):
    """How much the amplifier distorts; with high gain nothing may ring that is not written."""

    CLEAN = "clean"
    CRUNCH = "crunch"
    HIGH = "high"


class Style(StrEnum):
    """What kind of music is played, as far as it decides how hands play it."""

    ROCK = "rock"
    METAL = "metal"
    BLUEGRASS = "bluegrass"
    JAZZ = "jazz"
    COUNTRY = "country"
    BLUES = "blues"
    BASS = "bass"


@dataclass(frozen=True)
class Riff:
    """A riff with its header.

    Parameters
    ----------
    phrases : tuple of Phrase
        The music, in written order.
    title, key, section : str
        Free words; empty when not written.
    instrument : str
        Name of a preset, such as ``guitar-6``.
    tuning : str
        Pitches from the thickest string, or the name of a tuning; empty for the preset's own.
    scale, nut, bridge : float
        Sizes of an instrument of one's own, in mm: scale length, and from the thickest to the thinnest string at
        nut and bridge; 0 for the preset's.
    capo : int
        Fret of the capo; 0 for none. Frets are counted from it.
    tempo : float
        Quarter notes a minute, where no bar says another.
    pickup : Fraction
        Length of the pickup bar in quarter notes; 0 for none.
    gain : Gain
    style : Style or None
        None where it is told from the rest.
    comments, tail : tuple of str
        Comment lines in the header and after the last bar.
    """

    phrases: tuple[Phrase, ...]
    title: str = ""
    instrument: str = "guitar-6"
    tuning: str = ""
    scale: float = 0.0
    nut: float = 0.0
    bridge: float = 0.0
    capo: int = 0
    tempo: float = 120.0
    meter: Meter = field(default_factory=Meter)
    swing: Swing = field(default_factory=Swing)
    pickup: Fraction = Fraction(0)
    gain: Gain = Gain.CLEAN
    style: Style | None = None
    key: str = ""
    section: str = ""
    comments: tuple[str, ...] = ()
    tail: tuple[str, ...] = ()

    def written_events(self) -> tuple[Event, ...]:
        """All events in reading order, repeats not expanded."""
        bars = chain.from_iterable(phrase.bars for phrase in self.phrases)
        return tuple(chain.from_iterable(bar.events for bar in bars))

    def plays_like(self, other: Riff) -> bool:
        """Whether the phrases are the same, whatever their tempo."""
        return self.phrases == other.phrases or _without_tempi(self.phrases) == _without_tempi(other.phrases)

    @property
    def high_gain(self) -> bool:
        """Whether the gain is so high that nothing may ring together."""
        return self.gain is Gain.HIGH

    def at_tempo(self, tempo: float) -> Riff:
        """Return the same riff at another tempo; those that begin inside it go faster or slower with it."""
        if tempo == self.tempo:
            return self
        share = tempo / self.tempo
        phrases = self.phrases
        if any(bar.tempo is not None for phrase in phrases for bar in phrase.bars):
            phrases = tuple(
                replace(phrase, bars=tuple(_at_share(bar, share) for bar in phrase.bars)) for phrase in phrases
            )
        return replace(self, tempo=tempo, phrases=phrases)


def _without_tempi(phrases: tuple[Phrase, ...]) -> list[tuple[Phrase, list[Bar]]]:
    return [(replace(phrase, bars=()), [replace(bar, tempo=None) for bar in phrase.bars]) for phrase in phrases]


def _at_share(bar: Bar, share: float) -> Bar:
    return bar if bar.tempo is None else replace(bar, tempo=round(bar.tempo * share, 6))


def stroke_words(stroke: Stroke) -> str:
    """A stroke in words.

    Examples
    --------
    >>> stroke_words(Stroke.UP), stroke_words(Stroke.MIDDLE)
    ('up', 'plucked with m')
    """
    if stroke is Stroke.CHORD_PLUCK:
        return "plucked together"
    if stroke is Stroke.NONE:
        return "hammered on or pulled off"
    return str(stroke) if stroke in (Stroke.DOWN, Stroke.UP) else f"plucked with {stroke}"


def with_bars_of(riff: Riff, other: Riff) -> Riff:
    """The riff with every bar that another has in the same place, counted from either end, taken from there.

    What was made of a bar hangs on it, so that a riff that was read anew finds it.
    """
    phrases = tuple(
        replace(one, bars=_shared(one.bars, two.bars))
        for one, two in zip(riff.phrases, other.phrases, strict=False)
    )
    return replace(riff, phrases=(*phrases, *riff.phrases[len(phrases) :]))


def _shared(bars: tuple[Bar, ...], others: tuple[Bar, ...]) -> tuple[Bar, ...]:
    from_end = others[::-1]
    shared = []
    for at, bar in enumerate(bars):
        behind = len(bars) - 1 - at
        ways = (*others[at : at + 1], *from_end[behind : behind + 1])
        shared.append(next((other for other in ways if other == bar), bar))
    return tuple(shared)
