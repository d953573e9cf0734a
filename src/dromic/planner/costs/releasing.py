"""Lets go, ahead of the search, of what rings on longer than any hand can hold it.

The search finds such a note at the first step that it cannot reach; one note a search would take as many searches
as notes have to be let go. Here the grips alone are followed from step to step, which tells most of them in one
pass; what is left the search finds, exactly as it would have.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from dromic.arrays import Bools
from dromic.hands.fretting import all_moves
from dromic.hands.fretting_tables import FrettingTables
from dromic.hands.grips import Grips
from dromic.hands.possible_moves import TransitionKind
from dromic.planner.costs.candidates import GripFinder
from dromic.planner.task.ringing import release_at, ringing_at
from dromic.planner.task.step import HeldNote, Step
from dromic.planner.task.task import Task


def holdable(task: Task, finder: GripFinder, tables: FrettingTables) -> Task:
    """Return the task with every note let go that no grips lead on from: the oldest that is in the way.

    Parameters
    ----------
    task : Task
    finder : GripFinder
    tables : FrettingTables

    Raises
    ------
    NoPlanError
        Naming a note that has no place.
    """
    if not any(step.held for step in task.steps):
        return task
    steps = list(task.steps)
    walk = _Walk(steps, task, finder, tables)
    warnings = list(task.warnings)
    for number in range(len(steps)):
        while not walk.reaches(number):
            words = release_at(steps, number, walk.in_the_way(number))
            if words is None:
                break
            warnings.append(words)
        walk.go_on()
    return replace(task, steps=tuple(steps), warnings=tuple(warnings))


class _Walk:
    """Which grips of a step can be reached from those before, as far as notes ring."""

    def __init__(self, steps: list[Step], task: Task, finder: GripFinder, tables: FrettingTables) -> None:
        self._steps, self._links, self._finder, self._tables = steps, task.links, finder, tables
        self._allowed: dict[tuple[Grips, Grips, TransitionKind], Bools] = {}
        self._homes = finder.homes(steps)
        self._here: tuple[Grips, Bools] | None = None
        self._next: tuple[Grips, Bools] | None = None

    def reaches(self, number: int) -> bool:
        """Whether any grip of a step can be reached; true where nothing rings there."""
        steps = self._steps
        self._next = None
        if not self._rings_near(number):
            return True
        grips = self._finder.whole(steps[number], self._homes[number])
        if grips is None:
            return not any(not one.bend for one in steps[number].held)
        reached: Bools = np.ones(len(grips), dtype=np.bool_)
        if self._here is not None:
            before, mask = self._here
            reached = np.asarray((mask[:, None] & self._moves(before, grips, number)).any(axis=0))
        if not reached.any():
            return False
        self._next = grips, reached
        return True

    def in_the_way(self, number: int) -> HeldNote | None:
        """The oldest note without which a step can be reached; None where no one of them is enough."""
        step = self._steps[number]
        for one in ringing_at(step):
            self._steps[number] = replace(step, held=tuple(other for other in step.held if other != one))
            reached = self.reaches(number)
            self._steps[number] = step
            if reached:
                return one
        return None

    def go_on(self) -> None:
        """Take the step that was reached last."""
        self._here = self._next

    def _rings_near(self, number: int) -> bool:
        following = self._steps[number + 1].held if number + 1 < len(self._steps) else ()
        return bool(self._steps[number].held or following)

    def _moves(self, before: Grips, after: Grips, number: int) -> Bools:
        kind = self._links[number - 1].kind
        key = before, after, kind
        if key not in self._allowed:
            self._allowed[key] = all_moves(self._tables, before.arrays, after.arrays, kind).allowed
        return self._allowed[key]
