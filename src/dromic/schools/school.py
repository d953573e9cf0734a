"""What a school of picking is: rules on single strokes and on what follows what.

A rule allows, prefers (an effort of 0 against more) or forbids, and gives its reason in words. The planner
asks every school the same two questions and knows nothing else about it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from dromic.music.grid import GridPlace
from dromic.music.riff import Stroke, Style


@dataclass(frozen=True)
class Verdict:
    """What a rule says.

    Parameters
    ----------
    allowed : bool
    effort : float
        What it costs against the preferred choice.
    reason : str
        A clause for the player; empty when the rule has nothing to say.
    """

    allowed: bool = True
    effort: float = 0.0
    reason: str = ""


NOTHING_TO_SAY = Verdict()
PICK_AND_FINGERS = (Stroke.DOWN, Stroke.MIDDLE, Stroke.RING, Stroke.LITTLE)
PICK = (Stroke.DOWN, Stroke.UP)


class NotShownError(Exception):
    """A rule reads what it was not shown; it is asked again, and shown it, and what it says is kept by it."""


@dataclass(frozen=True)
class StrokeContext:
    """One note about to be sounded.

    Few rules read how many notes were picked before, and what they say is kept for notes that agree in all else; so
    `count` is only shown to a rule that has asked for it, and reading it before raises `NotShownError`.

    Parameters
    ----------
    stroke : Stroke
    place : GridPlace
        Where it lies in the beat grid.
    counted : int or None
        Picked notes since the bar began, this one not counted; None where it is not shown.
    string : int
        1 is the thinnest.
    opening : bool
        Whether it is the first picked note of all.
    """

    stroke: Stroke
    place: GridPlace
    counted: int | None = 0
    string: int = 1
    opening: bool = False

    @property
    def count(self) -> int:
        """Picked notes since the bar began."""
        if self.counted is None:
            raise NotShownError
        return self.counted


@dataclass(frozen=True)
class StrokePair:
    """From one picked note to the next.

    Parameters
    ----------
    before, after : Stroke
    travel : int
        Strings moved toward the floor; negative toward the ceiling; 0 on the same string.
    gap : float or None
        Time from the one to the other in milliseconds; None where it is not shown, as the count of a stroke.
    again_ms : float
        Time that the same stroke again on one string needs.
    resumes : bool
        Whether notes that were not picked lie between the two.
    rested : bool
        Whether a rest is written between the two.
    """

    before: Stroke
    after: Stroke
    travel: int
    gap: float | None = 0.0
    again_ms: float = 0.0
    resumes: bool = False
    rested: bool = False

    @property
    def gap_ms(self) -> float:
        """Time from the one to the other."""
        if self.gap is None:
            raise NotShownError
        return self.gap


def plucker_of(string: int, of_strings: tuple[Stroke, ...]) -> Stroke:
    """What plucks a string where each has a plucker of its own, from the thinnest; thicker ones have the last."""
    return of_strings[min(string, len(of_strings)) - 1]


def _any_stroke(_strike: StrokeContext) -> Verdict:
    return NOTHING_TO_SAY


def _any_pair(_change: StrokePair) -> Verdict:
    return NOTHING_TO_SAY


@dataclass(frozen=True)
class School:
    """A school of picking.

    Parameters
    ----------
    name : str
        As on the command line.
    title : str
        As in the window.
    words : str
        The rule in one sentence.
    on_stroke : callable
        Verdict on a single stroke.
    on_pair : callable
        Verdict on one stroke after another.
    on_chord : callable
        Verdict on one stroke after another where one of them is a chord plucked together.
    means : tuple of Stroke
        What sounds the notes.
    variants : tuple of School
        Where a school leaves a choice for the whole riff (which cycle of strokes), its possible forms; the planner
        takes the one that serves the riff best.
    slurs : bool
        Whether notes that are written to be picked may be hammered on or pulled off instead.
    picked_effort : float
        What every picked note costs.
    chord_pluckers : tuple of Stroke
        What plucks the notes of a chord at once, for the thickest string first; empty where chords are
        struck by one stroke only.
    fingers_from : int
        A chord whose thickest string is this one or thinner is plucked without the pick, the first of
        `chord_pluckers`.
    of_strings : tuple of Stroke
        What plucks each string, thinnest first, where each has its own; empty where they have not.
    chord_stroke_effort : float
        What one stroke of the pick through a chord costs where fingers could pluck it.
    begins_with_either : bool
        Whether a riff may as well begin with an up, so that its strings are crossed in the direction of travel.
    swings : bool
        Whether the strokes are meant to follow the beat, so that one that does not trips the hand up.
    heeds_beat : bool
        Whether a down on the beat and an up between are the comfortable way where nothing else decides.
    style : Style or None
        The style that it is mostly played in; None where that has to be told from the music.
    style_with_gain : Style
        The same with high gain.
    for_bass, for_threes : bool
        Whether it is made for basses only, or for beats of three only.
    efforts : object
        A dataclass of what its rules cost, each declared with `dromic.hands.declaring.constant`; None for none.
    """

    name: str
    title: str
    words: str
    on_stroke: Callable[[StrokeContext], Verdict] = _any_stroke
    on_pair: Callable[[StrokePair], Verdict] = _any_pair
    on_chord: Callable[[StrokePair], Verdict] = _any_pair
    means: tuple[Stroke, ...] = PICK
    variants: tuple[School, ...] = ()
    slurs: bool = False
    picked_effort: float = 0.0
    chord_pluckers: tuple[Stroke, ...] = ()
    fingers_from: int = 0
    of_strings: tuple[Stroke, ...] = ()
    chord_stroke_effort: float = 0.0
    begins_with_either: bool = False
    swings: bool = False
    heeds_beat: bool = True
    style: Style | None = None
    style_with_gain: Style = Style.ROCK
    for_bass: bool = False
    for_threes: bool = False
    efforts: Any = None

    def __hash__(self) -> int:
        return hash((self.name, self.title))

    def strokes_of_chord(self, strings: tuple[int, ...]) -> tuple[Stroke, ...]:
        """What plucks each string of a chord, thickest first, when fingers pluck it chord_pluckers."""
        if self.of_strings:
            own = tuple(plucker_of(string, self.of_strings) for string in strings)
            if len(set(own)) == len(own):
                return own
        pluckers = self.chord_pluckers or PICK_AND_FINGERS
        spare = len(pluckers) - len(strings)
        # A bass under a string far from it is the pick's, and that string the ring finger's.
        pinched = len(strings) == 2 and strings[0] - strings[-1] > 2
        if pinched and strings[-1] == 1 and set(PICK_AND_FINGERS) <= set(pluckers):
            return pluckers[0], Stroke.RING
        alone = bool(strings) and strings[0] <= self.fingers_from and spare > 0 and not pinched
        return pluckers[1 : len(strings) + 1] if alone else pluckers[: len(strings)]

    def plucks(self, more: int, *, raked: bool) -> bool:
        """Whether fingers can pluck at once a note and so many more."""
        return 0 < more < len(self.chord_pluckers) and not raked

    def stroke_verdict(self, context: StrokeContext) -> Verdict:
        """What the school says of a single stroke; fingers plucking a chord together have no rule."""
        return NOTHING_TO_SAY if context.stroke is Stroke.CHORD_PLUCK else self.on_stroke(context)

    def verdict(self, pair: StrokePair) -> Verdict:
        """What the school says of one stroke after another; what it does not use begins afresh."""
        if Stroke.CHORD_PLUCK in (pair.before, pair.after):
            return self.on_chord(pair)
        if not {pair.before, pair.after} <= set(self.means):
            return NOTHING_TO_SAY
        return self.on_pair(pair)
