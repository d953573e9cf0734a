"""What a plan, a drill or a log covers of the tables, and what a plan needs of them."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from itertools import pairwise

from dromic.planner.plan import Plan
from dromic.practice.coverage.cells import Cell, area_of, cells_of
from dromic.practice.log.history import History
from dromic.practice.log.logbook import Rep
from dromic.practice.movement import movement_key


@dataclass(frozen=True)
class Coverage:
    """How often each kind of movement comes.

    Parameters
    ----------
    counts : mapping of Cell to int
    areas : bool
        Whether it is known on which strings fingers move; a log does not say it.
    """

    counts: Mapping[Cell, int]
    areas: bool = True

    @property
    def cells(self) -> frozenset[Cell]:
        """The kinds that come at all."""
        return frozenset(self.counts)

    def together(self, other: Coverage) -> Coverage:
        """Both added up."""
        return Coverage(Counter(self.counts) + Counter(other.counts), self.areas or other.areas)


NOTHING = Coverage({}, areas=False)


def coverage_of(plan: Plan) -> Coverage:
    """What a plan covers.

    Parameters
    ----------
    plan : Plan

    Examples
    --------
    >>> from tests.helpers import plan, riff
    >>> covered = coverage_of(plan(riff("| 5:5/8 5:7 5:8 4:5 4:7 r/4. |"), "strict-alternate"))
    >>> sorted(cell.words for cell in covered.cells)[:2]
    ['down, up on one string', 'finger 1 to 3 on low strings']
    """
    return Coverage(Counter(cell for _, cell, _ in _cells(plan)))


def coverage_of_reps(reps: Iterable[Rep]) -> Coverage:
    """What repetitions of a log cover, each movement of each repetition once.

    Parameters
    ----------
    reps : iterable of Rep
    """
    counts: Counter[Cell] = Counter()
    for rep in reps:
        counts.update(cell for key in rep.movement_keys for cell in cells_of(key))
    return Coverage(counts, areas=False)


def needs_of(plan: Plan, history: History) -> Mapping[Cell, float]:
    """How much a plan needs of each kind of movement: loads squared, less what is mastered.

    A movement is mastered as far as the fastest tempo at which the log has it clean comes to the plan's tempo.

    Parameters
    ----------
    plan : Plan
    history : History
    """
    needed: dict[Cell, float] = defaultdict(float)
    mastered: dict[str, float] = {}
    for key, cell, load in _cells(plan):
        if key not in mastered:
            clean = [answer.tempo for answer in history.answers(key) if answer.clean]
            mastered[key] = min(max(clean, default=0.0) / plan.tempo, 1.0)
        needed[cell] += load**2 * (1.0 - mastered[key])
    return dict(needed)


def _cells(plan: Plan) -> Iterable[tuple[str, Cell, float]]:
    """Every cell of every movement, with the movement's name and its largest load."""
    events = [event for event in plan.events if event.step is not None]
    for before, after in pairwise(events):
        key = movement_key(before, after)
        area = area_of(after.notes[0].string, plan.instrument.strings) if after.notes else ""
        for cell in cells_of(key, area):
            yield key, cell, after.loads.largest
