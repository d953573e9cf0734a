"""The notes of a chart at their places in time. Arithmetic without Qt."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import overload

from dromic.planner.plan import Plan, PlannedEvent
from dromic.planner.task.state import Loads, State
from dromic.planner.task.step import Step

PLATE_OFFSET, PLATE_WIDTH, PLATE_HEIGHT = 5.0, 21.0, 18.0


@dataclass(frozen=True)
class Column:
    """One planned note at its place in time.

    `x` is the stroke's; the plate stands just right of it, so that strokes are not hidden. `loads` are those at the
    tempo of the slider. `task_step` is what was to be planned there, `state` how it is played.
    """

    step: int
    event: PlannedEvent
    x: float
    loads: Loads
    task_step: Step
    state: State

    @property
    def plate_x(self) -> float:
        """Middle of its plate."""
        return self.x + PLATE_OFFSET + PLATE_WIDTH / 2


class Columns(Sequence[Column]):
    """Columns of a plan, each made when it is asked for.

    Parameters
    ----------
    plan : Plan
    xs : list of float
        Where each begins.
    tempo_ratio : float
    """

    def __init__(self, plan: Plan, xs: list[float], tempo_ratio: float) -> None:
        self._plan, self._xs, self._ratio = plan, xs, tempo_ratio
        self._known: dict[int, Column] = {}

    def __len__(self) -> int:
        return len(self._xs)

    @overload
    def __getitem__(self, at: int) -> Column: ...

    @overload
    def __getitem__(self, at: slice) -> tuple[Column, ...]: ...

    def __getitem__(self, at: int | slice) -> Column | tuple[Column, ...]:
        if isinstance(at, slice):
            return tuple([self[step] for step in range(len(self._xs))[at]])
        found = self._known.get(at)
        if found is None:
            step = range(len(self._xs))[at]
            plan, event = self._plan, self._plan.event_of_step(step)
            loads = _scaled(event.loads, self._ratio)
            found = Column(step, event, self._xs[step], loads, plan.task.steps[step], plan.states[step])
            self._known[step] = found
        return found


def _scaled(loads: Loads, tempo_ratio: float) -> Loads:
    """Loads at another tempo: the gaps shrink as the tempo grows."""
    return (
        loads
        if tempo_ratio == 1.0
        else Loads(loads.pick * tempo_ratio, loads.fret * tempo_ratio, loads.sync * tempo_ratio)
    )
