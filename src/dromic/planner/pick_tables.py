"""The picking hand's part of links, as tables of pick states and strings.

Everything here has the order (picks, strings, picks, strings): from pick state and string, to pick state and
string. Strings count from the thickest.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from dromic.hands.picking import PickMoves, PickStates, pick_moves, pick_states
from dromic.hands.profile import Hands
from dromic.hands.synchronisation import load_effort
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Stroke
from dromic.planner.steps import Link
from dromic.schools.school import School, StrokePair

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class PickLink:
    """The picking hand's part of a link, each of shape (picks, strings, picks, strings)."""

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


class PickTables:
    """Times, loads and the schools' rules of one picking hand on one instrument.

    Parameters
    ----------
    instrument : Instrument
    hands : Hands
    means : sequence of Stroke
        What the schools sound notes with.
    ms_per_quarter : float
    """

    def __init__(
        self, instrument: Instrument, hands: Hands, means: Sequence[Stroke], ms_per_quarter: float
    ) -> None:
        self._hands, self._strings, self._ms_per_quarter = hands, instrument.strings, ms_per_quarter
        self.states: PickStates = pick_states(hands.picking, means)
        self.strokes = self.states.strokes
        self.moves: PickMoves = pick_moves(instrument.pick_y, self.states, hands.picking)
        self._time_ms: Floats = np.ascontiguousarray(self.moves.time_ms.transpose(1, 0, 3, 2))
        self._turns = self._turned_round()
        self._begun_against = {off_beat: self._against_the_grid(off_beat=off_beat) for off_beat in (False, True)}
        self._again_ms = self._repeated_stroke_ms()
        self._links: dict[tuple[object, ...], PickLink] = {}
        self._rules: dict[tuple[object, ...], Floats] = {}

    def link(self, link: Link, school: School) -> PickLink:
        """The picking hand's part of a link that ends in a picked note."""
        key = (link.pick_quarters, link.palm_changes, link.accent, link.resumes, link.off_beat, school)
        found = self._links.get(key)
        if found is None:
            picking = self._hands.picking
            extra_ms = picking.palm_ms * link.palm_changes + picking.accent_ms * link.accent
            turned_ms = self._turns * (picking.sweep_turn_ms if link.resumes else 0.0)
            odd_ms = picking.odd_ms * self._begun_against[link.off_beat]
            load = (self._time_ms + turned_ms + odd_ms + extra_ms) / self._ms(link)
            cost = load_effort(load, self._hands.comfort.overload) + self._rule_by_strings(link, school)
            found = self._links[key] = PickLink(load, cost)
        return found

    def change(self, before: Stroke, after: Stroke, travel: int, link: Link, school: School) -> StrokePair:
        """What a school is told of two notes."""
        if not school.timed:
            return StrokePair(before, after, travel)
        return StrokePair(before, after, travel, self._ms(link), self._again_ms)

    def rule(self, link: Link, school: School) -> Floats:
        """Efforts of a school's rule on changes, infinite where forbidden.

        Returns
        -------
        ndarray, shape (2 strings - 1, picks, picks)
            By strings moved, from the farthest toward the ceiling to the farthest toward the floor.
        """
        key = (school, link.pick_quarters if school.timed else None)
        if key not in self._rules:
            strings, picks = self._strings, len(self.states)
            by_travel = np.empty((2 * strings - 1, picks, picks))
            for travel in range(1 - strings, strings):
                for one, before in enumerate(self.strokes):
                    for two, after in enumerate(self.strokes):
                        verdict = school.verdict(self.change(before, after, travel, link, school))
                        effort = verdict.effort if verdict.allowed else np.inf
                        by_travel[travel + strings - 1, one, two] = effort
            self._rules[key] = by_travel
        return self._rules[key]

    def _ms(self, link: Link) -> float:
        return float(link.pick_quarters) * self._ms_per_quarter

    def _rule_by_strings(self, link: Link, school: School) -> Floats:
        steps = np.arange(self._strings)
        travels = steps[None, :] - steps[:, None] + self._strings - 1
        efforts: Floats = self.rule(link, school)[travels].transpose(2, 0, 3, 1)
        return efforts

    def _turned_round(self) -> Floats:
        """Where the pick turns round on another string, 1 or 0."""
        strings, direction = np.arange(self._strings), self.states.direction
        other = (strings[:, None] != strings[None, :])[None, :, None, :]
        opposite = (direction[:, None] * direction[None, :] < 0)[:, None, :, None]
        turned: Floats = (other & opposite).astype(np.float64)
        return turned

    def _against_the_grid(self, *, off_beat: bool) -> Floats:
        """Where a pick begins another string with a down between beats or an up on one, 1 or 0."""
        strings, direction = np.arange(self._strings), self.states.direction
        other = (strings[:, None] != strings[None, :])[None, :, None, :]
        both = (direction != 0)[:, None, None, None] & (direction == (1 if off_beat else -1))[None, None, :, None]
        against: Floats = (other & both).astype(np.float64)
        return against

    def _repeated_stroke_ms(self) -> float:
        """Least time of the same stroke again on one string."""
        picks = range(len(self.states))
        return min(
            float(self._time_ms[one, string, two, string])
            for string in range(self._strings)
            for one in picks
            for two in picks
            if self.strokes[one] is self.strokes[two]
        )
