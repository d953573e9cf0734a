"""The picking hand's part of steps and links: what sounds a note, what it costs, and what the school says to it.

Tables have the order (picks, strings, picks, strings): from pick state and string, to pick state and string.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dromic.arrays import Floats, Ints, Terms
from dromic.hands.grips import Grips
from dromic.hands.picking import (
    DOWN,
    UP,
    PickContext,
    PickMoves,
    PickStates,
    StrokeSpan,
    pick_moves,
    pick_states,
    stroke_spans,
)
from dromic.hands.profile import Hands
from dromic.hands.synchronisation import load_effort
from dromic.hands.terms import SCHOOL_PICKED, SCHOOL_STROKE
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Mark, Stroke
from dromic.planner.step import Step
from dromic.planner.steps import Link
from dromic.schools.school import NOTHING_TO_SAY, PICK, School, StrokePair

AGAINST_THE_SCHOOL = 0.3


def sounding_means(step: Step, school: School) -> tuple[Stroke, ...]:
    """What may sound a step; one plucking finger does not strike a chord where there is a pick to do it."""
    if Mark.PINCH in step.note.marks:
        return tuple(stroke for stroke in school.means if stroke in PICK) or school.means
    if step.asked and step.locks.stroke is not None:
        return (step.locks.stroke,)
    if not step.more:
        return school.means
    means = PICK if set(PICK) <= set(school.means) else school.means
    plucked = len(step.notes) <= len(school.chord_pluckers) and not step.raked
    return (*means, Stroke.CHORD_PLUCK) if plucked else means


def rule_travel(before: Grips, after: Grips) -> Ints:
    """Strings moved as a school sees it, shape (before, after): none where two chords share strings."""
    one, two = before.arrays, after.arrays
    onward = two.thickest[None, :] - one.thinnest[:, None]
    backward = two.thinnest[None, :] - one.thickest[:, None]
    return np.where(onward > 0, onward, np.where(backward < 0, backward, 0))


@dataclass(frozen=True)
class PickLink:
    """The picking hand's part of a link between single notes, each of shape (picks, strings, picks, strings)."""

    time_ms: Floats
    load: Floats
    cost: Floats

    @cached_property
    def by_pair(self) -> tuple[Floats, Floats]:
        """Loads and costs by pair of strings, each of shape (strings^2, picks^2)."""
        picks, strings = self.load.shape[:2]
        load, cost = (
            np.ascontiguousarray(table.transpose(1, 3, 0, 2).reshape(strings**2, picks**2))
            for table in (self.load, self.cost)
        )
        return load, cost

    @cached_property
    def most(self) -> Floats:
        """Largest load from string to string, shape (strings, strings)."""
        most: Floats = self.load.max(axis=(0, 2))
        return most


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
        self._links: dict[tuple[object, ...], PickLink] = {}
        self._rules: dict[tuple[object, ...], Floats] = {}
        self._stroke_efforts: dict[tuple[object, ...], Floats] = {}
        self._spans: dict[tuple[Grips, bool], StrokeSpan] = {}

    # -- links ----------------------------------------------------------------------------------------------

    def times(self, context: PickContext) -> Terms:
        """Terms of the time of every move in a context."""
        return self.moves.times | self.moves.times_in(context)

    def link(self, link: Link, school: School) -> PickLink:
        """The picking hand's part of a link that ends in a picked note."""
        key = (link.pick_gap_ms, link.pick, school)
        found = self._links.get(key)
        if found is None:
            time_ms = self._times.get(link.pick)
            if time_ms is None:
                in_context = self.moves.times_in(link.pick)
                time_ms = self._times[link.pick] = self.moves.time_ms + sum(in_context.values())
            load = time_ms / link.pick_gap_ms
            cost = load_effort(load, self._hands.comfort) + self.moves.effort + self._rule_by_strings(link, school)
            found = self._links[key] = PickLink(time_ms, load, cost)
        return found

    def span(self, grips: Grips, *, raked: bool = False) -> StrokeSpan:
        """How strokes go through what each grip sounds."""
        key = grips, raked
        found = self._spans.get(key)
        if found is None:
            hand = self._hands.picking
            found = stroke_spans(grips.arrays, self.states, hand, self._strings, raked=raked)
            self._spans[key] = found
        return found

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
        key = (school, link.pick_gap_ms if school.timed else None, link.pick.resumes, link.pick.asked)
        if key not in self._rules:
            strings, picks = self._strings, len(self.states)
            by_travel = np.empty((2 * strings - 1, picks, picks))
            for travel in range(1 - strings, strings):
                for one, before in enumerate(self.strokes):
                    for two, after in enumerate(self.strokes):
                        verdict = school.verdict(self.pair(before, after, travel, link, school))
                        against = AGAINST_THE_SCHOOL if link.pick.asked else np.inf
                        effort = verdict.effort if verdict.allowed else against
                        by_travel[travel + strings - 1, one, two] = effort
            self._rules[key] = by_travel
        return self._rules[key]

    def _rule_by_strings(self, link: Link, school: School) -> Floats:
        steps = np.arange(self._strings)
        travels = steps[None, :] - steps[:, None] + self._strings - 1
        efforts: Floats = self.rule(link, school)[travels].transpose(2, 0, 3, 1)
        return efforts

    def _repeated_stroke_ms(self) -> float:
        """Least time of the same stroke again on one string."""
        picks = range(len(self.states))
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
        accent = Mark.ACCENT in step.note.marks
        pinched = Mark.PINCH in step.note.marks
        marks = accent, pinched, step.raked, step.asked, step.begins_take
        key = (school, step.place, step.count, step.opening, step.locks.stroke, marks, len(step.more))
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
        verdict = NOTHING_TO_SAY if step.asked else school.stroke_verdict(step.strike(stroke, string))
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
