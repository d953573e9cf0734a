"""The picking hand's part of steps and links: what sounds a note, what it costs, and what the school says to it.

The picking hand tells grips apart by the outermost strings that are struck: their *stroke classes*. Tables of links
have the order (picks, classes, picks, classes): from pick state and class, to pick state and class.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any

import numpy as np

from dromic.arrays import Floats, Ints, Terms
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
from dromic.music.riff import Mark, Stroke
from dromic.planner.caching import TableCache
from dromic.planner.kernel.inputs import PickTable
from dromic.planner.step import Step
from dromic.planner.steps import Link
from dromic.schools.school import NOTHING_TO_SAY, PICK, School, StrokePair, Verdict

AGAINST_THE_SCHOOL = 0.3
TABLE_BYTES = 8 * 2**20
MOST_REMEMBERED = 20_000
BEAT = ("up_on_beat", "down_between")


def sounding_means(step: Step, school: School) -> tuple[Stroke, ...]:
    """What may sound a step; one plucking finger does not strike a chord where there is a pick to do it."""
    if Mark.PINCH in step.note.marks:
        return tuple(stroke for stroke in school.means if stroke in PICK) or school.means
    if step.exempt and step.locks.stroke is not None:
        return (step.locks.stroke,)
    if not step.more:
        return school.means
    means = PICK if set(PICK) <= set(school.means) else school.means
    plucked = len(step.notes) <= len(school.chord_pluckers) and not step.raked
    return (*means, Stroke.CHORD_PLUCK) if plucked else means


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
    def key(self) -> tuple[bytes, bytes]:
        """Equal for equal classes, whichever grips have them."""
        return self.thickest.tobytes(), self.thinnest.tobytes()


def pair_effort(verdict: Verdict, link: Link) -> float:
    """Effort of what a school says to two strokes; infinite where it forbids them and the second is not exempt."""
    if verdict.allowed:
        return verdict.effort
    return AGAINST_THE_SCHOOL if link.pick.exempt else np.inf


def rule_travel(before: StrokeClasses, after: StrokeClasses) -> Ints:
    """Strings moved as a school sees it, shape (before, after): none where two chords share strings."""
    onward = after.thickest[None, :] - before.thinnest[:, None]
    backward = after.thinnest[None, :] - before.thickest[:, None]
    return np.where(onward > 0, onward, np.where(backward < 0, backward, 0))


@lru_cache(maxsize=16)
def pick_costs_of(instrument: Instrument, hands: Hands, means: tuple[Stroke, ...]) -> PickCosts:
    """The picking hand of a player on an instrument, with all that was worked out for it so far."""
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
        self._times: dict[PickContext, Floats] = {}
        self._tables: TableCache[PickTable] = TableCache(TABLE_BYTES)
        self._rules: dict[tuple[object, ...], Floats] = {}
        self._stroke_efforts: dict[tuple[object, ...], Floats] = {}
        self._classes: dict[Grips, StrokeClasses] = {}
        # What was told of single moves and strokes.
        self.ways: dict[object, object] = {}
        self._trips: dict[object, tuple[str, ...]] = {}

    # -- links ----------------------------------------------------------------------------------------------

    def times(self, context: PickContext) -> Terms:
        """Terms of the time of every move in a context."""
        return self.moves.times | self.moves.times_in(context)

    def classes(self, grips: Grips) -> StrokeClasses:
        """Stroke classes of grips."""
        found = self._classes.get(grips)
        if found is None:
            found = self._classes[grips] = StrokeClasses.of(grips.arrays, self._strings)
        return found

    def table(self, before: Grips, after: Grips, link: Link, school: School) -> PickTable:
        """The picking hand's part of a link that ends in a picked note."""
        one, two = self.classes(before), self.classes(after)
        key = (link.pick_gap_ms, link.pick, link.raked, school, one.key, two.key)
        found = self._tables.get(key)
        if found is None:
            found = self._table(one, two, link, school)
            self._tables.put(key, found, found.tables.nbytes)
        return found

    def forget(self) -> None:
        """Let go of what was remembered, where it has grown large."""
        known: tuple[dict[Any, Any], ...] = (
            self._times,
            self._rules,
            self._stroke_efforts,
            self._classes,
            self.ways,
            self._trips,
        )
        for some in known:
            if len(some) > MOST_REMEMBERED:
                some.clear()

    def _table(self, before: StrokeClasses, after: StrokeClasses, link: Link, school: School) -> PickTable:
        hand = self._hands.picking
        leaves, meets = (
            stroke_spans(one.thickest, one.thinnest, self.states, hand, self._strings, raked=raked)
            for one, raked in ((before, False), (after, link.raked))
        )
        picks = np.arange(len(self.states))
        # Where the strokes' ends stand in the tables of the picking hand.
        at = picks[:, None, None, None], leaves.ends[:, :, None, None], picks[None, None, :, None], meets.begins
        time_ms = self._times.get(link.pick)
        if time_ms is None:
            in_context = self.moves.times_in(link.pick)
            time_ms = self._times[link.pick] = self.moves.time_ms + sum(in_context.values())
        load = (time_ms[at] + meets.time_ms) / link.pick_gap_ms
        travels = rule_travel(before, after) + self._strings - 1
        rule = self.rule(link, school)[travels].transpose(2, 0, 3, 1)
        return PickTable(load, load_effort(load, self._hands.comfort) + self.moves.effort[at] + rule)

    def pair(self, before: Stroke, after: Stroke, travel: int, link: Link, school: School) -> StrokePair:
        """What a school is told of two notes."""
        if not school.timed:
            return StrokePair(before, after, travel, resumes=link.pick.resumes)
        return StrokePair(before, after, travel, link.pick_gap_ms, self._again_ms, link.pick.resumes)

    def rule(self, link: Link, school: School) -> Floats:
        """Efforts of a school's rule on pairs of strokes, infinite where forbidden.

        Returns
        -------
        ndarray, shape (2 strings - 1, picks, picks)
            By strings moved, from the farthest toward the thickest to the farthest toward the thinnest.
        """
        key = (school, link.pick_gap_ms if school.timed else None, link.pick.resumes, link.pick.exempt)
        if key not in self._rules:
            strings, picks = self._strings, len(self.states)
            by_travel = np.empty((2 * strings - 1, picks, picks))
            for travel in range(1 - strings, strings):
                for one, before in enumerate(self.strokes):
                    for two, after in enumerate(self.strokes):
                        verdict = school.verdict(self.pair(before, after, travel, link, school))
                        by_travel[travel + strings - 1, one, two] = pair_effort(verdict, link)
            self._rules[key] = by_travel
        return self._rules[key]

    def _repeated_stroke_ms(self) -> float:
        """Least time of the same stroke again on one string, of the pick where there is one."""
        with_pick = [at for at, stroke in enumerate(self.strokes) if stroke in PICK]
        picks = with_pick or range(len(self.states))
        return min(
            float(self.moves.time_ms[one, string, two, string])
            for string in range(self._strings)
            for one in picks
            for two in picks
            if self.strokes[one] is self.strokes[two]
        )

    # -- steps ----------------------------------------------------------------------------------------------

    def stroke_efforts(self, step: Step, school: School) -> Floats:
        """Efforts of each pick state on each string for a picked step, shape (picks, strings).

        Infinite: forbidden.
        """
        key = self.stroke_key(step, school)
        assert key is not None, "a step that is not picked takes no stroke"
        found = self._stroke_efforts.get(key)
        if found is None:
            found = np.full((len(self.states), self._strings), np.inf)
            means = sounding_means(step, school)
            for index, stroke in enumerate(self.strokes):
                if stroke in means and step.locks.stroke in (None, stroke):
                    for string in range(1, self._strings + 1):
                        if self._can_sound(step, index, string):
                            terms = self.stroke_terms(step, school, index, string)
                            found[index, self._strings - string] = sum(terms.values())
            self._stroke_efforts[key] = found
        return found

    @staticmethod
    def stroke_key(step: Step, school: School) -> tuple[object, ...] | None:
        """What the efforts of strokes at a step depend on; None where it is not picked."""
        if not step.picked:
            return None
        marks = step.note.marks and (Mark.ACCENT in step.note.marks, Mark.PINCH in step.note.marks, step.raked)
        place, counted = step.place, step.count if school.counts else 0
        how = step.exempt, step.begins_take, step.opening, step.locks.stroke
        return school, place.part, place.parts, counted, how, marks, len(step.more)

    def trips(self, step: Step, school: School, pick: int, string: int) -> tuple[str, ...]:
        """Keys of the terms of a stroke that may trip the hands up under a school."""
        key = (self.stroke_key(step, school), pick, string)
        found = self._trips.get(key)
        if found is None:
            terms = self.stroke_terms(step, school, pick, string)
            some = spot_keys(terms)
            found = some if school.swings else tuple(one for one in some if one not in BEAT)
            self._trips[key] = found
        return found

    def _can_sound(self, step: Step, pick: int, string: int) -> bool:
        """Whether a rake has strings to be dragged across on its way to a single note."""
        if not step.raked or step.more:
            return True
        farthest = {DOWN: self._strings, UP: 1}.get(int(self.states.direction[pick]))
        return farthest is not None and string != farthest

    def stroke_terms(self, step: Step, school: School, pick: int, string: int) -> dict[str, float]:
        """Terms of effort of a stroke at a step, the school's among them, which is infinite where it forbids."""
        comfort, stroke = self._hands.comfort, self.strokes[pick]
        up, down = stroke is Stroke.UP, stroke is Stroke.DOWN
        habitual = self.states.escape[0]
        verdict = school.stroke_verdict(step.strike(stroke, string))
        if step.exempt and not verdict.allowed:
            verdict = NOTHING_TO_SAY
        plucks = 0 < len(step.more) < len(school.chord_pluckers) and not step.raked
        strummed = school.chord_stroke_effort if plucks and stroke in PICK else 0.0
        opens_up = up and step.opening and step.place.on_beat
        brushed = stroke not in (*PICK, Stroke.CHORD_PLUCK)
        return {
            "plucked_together": comfort.plucked_together * len(step.more) * (stroke is Stroke.CHORD_PLUCK),
            "brushed": comfort.brushed * len(step.more) * brushed,
            "up_on_beat": comfort.up_on_beat * (up and step.place.on_beat and school.heeds_beat),
            "down_between": comfort.down_between * (down and step.place.part % 2 == 1 and school.heeds_beat),
            "take_up": comfort.take_up * (up and step.begins_take and step.place.on_beat),
            "opens_up": comfort.opens_up * (opens_up and not school.begins_with_either),
            "opens_up_either": comfort.opens_up_either * (opens_up and school.begins_with_either),
            "up_on_accent": comfort.up_on_accent * (up and Mark.ACCENT in step.note.marks),
            "pinched_up": comfort.pinched_up * (up and Mark.PINCH in step.note.marks),
            "other_lean": comfort.other_lean * bool((up or down) and self.states.escape[pick] != habitual),
            SCHOOL_STROKE: (verdict.effort if verdict.allowed else np.inf) + strummed,
            SCHOOL_PICKED: school.picked_effort,
        }
