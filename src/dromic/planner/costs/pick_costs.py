"""The picking hand's part of steps and links: what sounds a note, what it costs, and what the school says to it.

The picking hand tells grips apart by the outermost strings that are struck: their *stroke classes*. Tables of links
have the order (picks, classes, picks, classes): from pick state and class, to pick state and class.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dromic.arrays import Floats, Ints, Terms
from dromic.hands.comfort import Comfort
from dromic.hands.grips import GripArrays, Grips
from dromic.hands.picking import (
    DOWN,
    UP,
    PickContext,
    PickMoves,
    PickStates,
    pick_moves,
    pick_states,
    stroke_spans,
)
from dromic.hands.profile import Hands
from dromic.hands.synchronisation import load_effort
from dromic.hands.terms import SCHOOL_PICKED, SCHOOL_STROKE, spot_keys
from dromic.instrument.instrument import Instrument
from dromic.memory import Memo, cache
from dromic.music.grid import GridPlace
from dromic.music.riff import Mark, Stroke
from dromic.planner.kernel.inputs import PickTable
from dromic.planner.task.step import Step
from dromic.planner.task.task import Link
from dromic.schools.school import (
    NOTHING_TO_SAY,
    PICK,
    NotShownError,
    School,
    StrokeContext,
    StrokePair,
    Verdict,
)

TABLE_BYTES = 8 * 2**20
MOST_REMEMBERED = 20_000
BEAT = ("up_on_beat", "down_between")


def sounding_means(strike: Strike, school: School) -> tuple[Stroke, ...]:
    """What may sound a note; one plucking finger does not strike a chord where there is a pick to do it."""
    if strike.pinched:
        return tuple(stroke for stroke in school.means if stroke in PICK) or school.means
    if strike.exempt and strike.lock is not None:
        return (strike.lock,)
    if not strike.more:
        return school.means
    means = PICK if set(PICK) <= set(school.means) else school.means
    plucked = school.plucks(strike.more, raked=strike.raked)
    return (*means, Stroke.CHORD_PLUCK) if plucked else means


@dataclass(frozen=True)
class Strike:
    """A note about to be sounded: all of a step that the efforts of its strokes depend on.

    Parameters
    ----------
    place : GridPlace
    count : int or None
        Picked notes since its bar began; None where no rule reads it.
    opening, exempt, raked : bool
        As of the step.
    lock : Stroke or None
        The stroke it is locked to.
    accent, pinched : bool
        Whether it has the mark.
    more : int
        How many notes are struck with it.
    usual : Stroke or None
        Its stroke elsewhere, as of the step.
    """

    place: GridPlace
    count: int | None
    opening: bool
    exempt: bool
    raked: bool
    lock: Stroke | None
    accent: bool
    pinched: bool
    more: int
    usual: Stroke | None

    @staticmethod
    def of(step: Step, *, counted: bool = True) -> Strike:
        """What there is to know of a step."""
        marks = step.note.marks
        return Strike(
            step.place,
            step.count if counted else None,
            step.opening,
            step.exempt,
            step.raked,
            step.locks.stroke,
            Mark.ACCENT in marks,
            Mark.PINCH in marks,
            len(step.more),
            None if step.usual is None else step.usual.stroke,
        )

    def by(self, stroke: Stroke, string: int) -> StrokeContext:
        """What a school is told when a stroke sounds it on a string."""
        return StrokeContext(stroke, self.place, self.count, string, self.opening)


@dataclass(frozen=True, eq=False)
class StrokeClasses:
    """The outermost strings of some grips, each pair of them once, and which each grip has.

    Parameters
    ----------
    thickest, thinnest : ndarray of int, shape (classes,)
    of_grip : ndarray of int, shape (grips,)
    """

    thickest: Ints
    thinnest: Ints
    of_grip: Ints

    @staticmethod
    def of(grips: GripArrays, strings: int) -> StrokeClasses:
        """Classes of grips; for single notes their strings, whether there are grips on each or not."""
        if grips.single:
            every = np.arange(strings)
            return StrokeClasses(every, every, grips.thickest)
        pairs = grips.thickest * strings + grips.thinnest
        distinct, of_grip = np.unique(pairs, return_inverse=True)
        return StrokeClasses(distinct // strings, distinct % strings, of_grip)

    @cached_property
    def outer(self) -> Outer:
        """The pairs of strings alone, whichever grips have them."""
        return Outer(tuple(self.thickest.tolist()), tuple(self.thinnest.tolist()))


@dataclass(frozen=True)
class Outer:
    """The outermost strings of stroke classes, as rows from the thickest."""

    thickest: tuple[int, ...]
    thinnest: tuple[int, ...]

    @property
    def arrays(self) -> tuple[Ints, Ints]:
        """The thickest and the thinnest, each of shape (classes,)."""
        return np.array(self.thickest, dtype=np.int64), np.array(self.thinnest, dtype=np.int64)


def pair_effort(verdict: Verdict, exempt: bool, comfort: Comfort) -> float:
    """Effort of what a school says to two strokes; infinite where it forbids them and the second is not exempt.

    Parameters
    ----------
    verdict : Verdict
    exempt : bool
    comfort : Comfort
    """
    if verdict.allowed:
        return verdict.effort
    return comfort.exempt if exempt else np.inf


def rule_travel(before: Outer, after: Outer) -> Ints:
    """Strings moved as a school sees it, shape (before, after): none where two chords share strings."""
    (low, high), (next_low, next_high) = before.arrays, after.arrays
    onward = next_low[None, :] - high[:, None]
    backward = next_high[None, :] - low[:, None]
    return np.where(onward > 0, onward, np.where(backward < 0, backward, 0))


@cache(16)
def pick_costs_of(instrument: Instrument, hands: Hands, means: tuple[Stroke, ...]) -> PickCosts:
    """The picking hand of a player on an instrument, with all that was worked out for it so far.

    Parameters
    ----------
    instrument : Instrument
    hands : Hands
    means : tuple of Stroke
    """
    return PickCosts(instrument, hands, means)


class PickCosts:
    """Times, loads, comforts and the schools' rules of one picking hand on one instrument.

    Parameters
    ----------
    instrument : Instrument
    hands : Hands
    means : sequence of Stroke
        What the schools sound notes with.
    """

    def __init__(self, instrument: Instrument, hands: Hands, means: Sequence[Stroke]) -> None:
        self._hands, self._strings = hands, instrument.strings
        self.states: PickStates = pick_states(hands.picking, means)
        self.strokes = self.states.strokes
        self.moves: PickMoves = pick_moves(instrument.pick_y, self.states, hands.picking, hands.comfort)
        self._again_ms = self._repeated_stroke_ms()
        # Rules that read a count, or a time, by name: they are shown it, and what they say is kept by it.
        self._read: set[tuple[str, School]] = set()
        self._times = Memo(self._times_in, MOST_REMEMBERED)
        self._tables = Memo(self._new_table, TABLE_BYTES, lambda table: table.tables.nbytes)
        self._rules = Memo(self._new_rule, MOST_REMEMBERED)
        self._efforts = Memo(self._new_efforts, MOST_REMEMBERED)
        self.classes = Memo(self._new_classes, MOST_REMEMBERED)
        self.trips = Memo(self._new_trips, MOST_REMEMBERED)

    # -- links ----------------------------------------------------------------------------------------------

    def times(self, context: PickContext) -> Terms:
        """Terms of the time of every move in a context; each of shape (before, after), in ms."""
        return self.moves.times | self.moves.times_in(context)

    def _new_classes(self, grips: Grips) -> StrokeClasses:
        """Stroke classes of grips."""
        return StrokeClasses.of(grips.arrays, self._strings)

    def table(self, before: Grips, after: Grips, link: Link, school: School) -> PickTable:
        """The picking hand's part of a link that ends in a picked note.

        Parameters
        ----------
        before, after : Grips
        link : Link
        school : School
        """
        one, two = self.classes(before).outer, self.classes(after).outer
        return self._tables(one, two, link.pick_gap_ms, link.pick, link.raked, school)

    def _times_in(self, context: PickContext) -> Floats:
        return self.moves.time_ms + sum(self.moves.times_in(context).values())

    def _new_table(
        self, before: Outer, after: Outer, gap_ms: float, context: PickContext, raked: bool, school: School
    ) -> PickTable:
        hand = self._hands.picking
        leaves, meets = (
            stroke_spans(*one.arrays, self.states, hand, self._strings, raked=drags)
            for one, drags in ((before, False), (after, raked))
        )
        picks = np.arange(len(self.states))
        # Where the strokes' ends stand in the tables of the picking hand.
        at = picks[:, None, None, None], leaves.ends[:, :, None, None], picks[None, None, :, None], meets.begins
        load = (self._times(context)[at] + meets.time_ms) / gap_ms
        travels = rule_travel(before, after) + self._strings - 1
        rule = self.rule(school, gap_ms, context)[travels].transpose(2, 0, 3, 1)
        return PickTable(load, load_effort(load, self._hands.comfort) + self.moves.effort[at] + rule)

    def pair(
        self, before: Stroke, after: Stroke, travel: int, gap_ms: float | None, context: PickContext
    ) -> StrokePair:
        """What a school is told of two notes; of the time there is nothing where that is not shown.

        Parameters
        ----------
        before, after : Stroke
        travel : int
        gap_ms : float or None
        context : PickContext
        """
        return StrokePair(before, after, travel, gap_ms, self._again_ms, context.resumes, context.rested)

    def rule(self, school: School, gap_ms: float, context: PickContext) -> Floats:
        """Efforts of a school's rule on pairs of strokes, infinite where forbidden.

        Parameters
        ----------
        school : School
        gap_ms : float
            Time between the two strokes.
        context : PickContext

        Returns
        -------
        ndarray, shape (2 strings - 1, picks, picks)
            By strings moved, from the farthest toward the thickest to the farthest toward the thinnest.
        """
        if ("gap", school) not in self._read:
            try:
                return self._rules(school, None, context.resumes, context.rested, context.exempt)
            except NotShownError:
                self._read.add(("gap", school))
        return self._rules(school, gap_ms, context.resumes, context.rested, context.exempt)

    def _new_rule(self, school: School, gap_ms: float | None, resumes: bool, rested: bool, exempt: bool) -> Floats:
        strings, picks = self._strings, len(self.states)
        context = PickContext(resumes=resumes, rested=rested)
        by_travel = np.empty((2 * strings - 1, picks, picks))
        for travel in range(1 - strings, strings):
            for one, before in enumerate(self.strokes):
                for two, after in enumerate(self.strokes):
                    verdict = school.verdict(self.pair(before, after, travel, gap_ms, context))
                    by_travel[travel + strings - 1, one, two] = pair_effort(verdict, exempt, self._hands.comfort)
        return by_travel

    def _repeated_stroke_ms(self) -> float:
        """Least time of the same stroke again on one string, of the pick where there is one."""
        with_pick = [at for at, stroke in enumerate(self.strokes) if stroke in PICK]
        picks = with_pick or range(len(self.states))
        return min(
            float(self.moves.time_ms[pick, string, two, string])
            for string in range(self._strings)
            for pick in picks
            for two in picks
            if self.strokes[pick] is self.strokes[two]
        )

    # -- steps ----------------------------------------------------------------------------------------------

    def strike(self, step: Step, school: School) -> Strike:
        """What is weighed of a step under a school, with the count only where the school reads it."""
        return Strike.of(step, counted=("count", school) in self._read)

    def reads_count(self, school: School) -> None:
        """Show a school the count from here on."""
        self._read.add(("count", school))

    def stroke_efforts(self, strike: Strike, school: School) -> Floats:
        """Efforts of each pick state on each string for a picked note, shape (picks, strings).

        Infinite: forbidden.

        Raises
        ------
        NotShownError
            Where the school reads a count that the strike does not show.
        """
        return self._efforts(strike, school)

    def _new_efforts(self, strike: Strike, school: School) -> Floats:
        efforts = np.full((len(self.states), self._strings), np.inf)
        means = sounding_means(strike, school)
        for index, stroke in enumerate(self.strokes):
            if stroke in means and strike.lock in (None, stroke):
                for string in range(1, self._strings + 1):
                    if self._can_sound(strike, index, string):
                        terms = self.stroke_terms(strike, school, index, string)
                        efforts[index, self._strings - string] = sum(terms.values())
        return efforts

    def _new_trips(self, strike: Strike, school: School, pick: int, string: int) -> tuple[str, ...]:
        """Keys of the terms of a stroke that may trip the hands up under a school."""
        some = spot_keys(self.stroke_terms(strike, school, pick, string))
        return some if school.swings else tuple(one for one in some if one not in BEAT)

    def _can_sound(self, strike: Strike, pick: int, string: int) -> bool:
        """Whether a rake has strings to be dragged across on its way to a single note."""
        if not strike.raked or strike.more:
            return True
        farthest = {DOWN: self._strings, UP: 1}.get(int(self.states.direction[pick]))
        return farthest is not None and string != farthest

    def stroke_terms(self, strike: Strike, school: School, pick: int, string: int) -> dict[str, float]:
        """Terms of effort of a stroke, the school's among them, which is infinite where it forbids.

        Parameters
        ----------
        strike : Strike
        school : School
        pick : int
            Number of the pick state.
        string : int
            1 is the thinnest.
        """
        comfort, stroke, place = self._hands.comfort, self.strokes[pick], strike.place
        up, down = stroke is Stroke.UP, stroke is Stroke.DOWN
        habitual = self.states.escape[0]
        verdict = school.stroke_verdict(strike.by(stroke, string))
        if strike.exempt and not verdict.allowed:
            verdict = NOTHING_TO_SAY
        plucks = school.plucks(strike.more, raked=strike.raked)
        strummed = school.chord_stroke_effort if plucks and stroke in PICK else 0.0
        opens_up = up and strike.opening and place.on_beat
        brushed = stroke not in (*PICK, Stroke.CHORD_PLUCK)
        return {
            "plucked_together": comfort.plucked_together * strike.more * (stroke is Stroke.CHORD_PLUCK),
            "brushed": comfort.brushed * strike.more * brushed,
            "up_on_beat": comfort.up_on_beat * (up and place.on_beat and school.heeds_beat),
            "down_between": comfort.down_between * (down and place.part % 2 == 1 and school.heeds_beat),
            "opens_up": comfort.opens_up * (opens_up and not school.begins_with_either),
            "opens_up_either": comfort.opens_up_either * (opens_up and school.begins_with_either),
            "up_on_accent": comfort.up_on_accent * (up and strike.accent),
            "pinched_up": comfort.pinched_up * (up and strike.pinched),
            "other_stroke": comfort.other_stroke * (strike.usual not in (None, stroke)),
            "other_lean": comfort.other_lean * bool((up or down) and self.states.escape[pick] != habitual),
            SCHOOL_STROKE: (verdict.effort if verdict.allowed else np.inf) + strummed,
            SCHOOL_PICKED: school.picked_effort,
        }
