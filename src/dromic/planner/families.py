"""Really different ways across the neck: the best plan of each region, with open strings and without.

Every part of the neck is a class of plans; the best of a class is found exactly, by the search itself, with all
grips outside taken out. The cheapest plans of all classes are families as long as each plays enough of the notes at
other places than every one before it.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from dromic.errors import NoPlanError
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Riff
from dromic.planner.limits import Limits, strings_words
from dromic.planner.plan import Ceilings, Plan
from dromic.planner.planning import planned
from dromic.planner.request import Request
from dromic.planner.search.chains import Path
from dromic.planner.solving.limited import best_within
from dromic.planner.solving.problem import Problem, Watch
from dromic.planner.solving.solution import Solution, solve
from dromic.planner.task.state import State

WIDTHS = (4, 5, 7, 10)
LEAST_OTHER_PLACES = 0.25
MOST_FAMILIES = 12


@dataclass(frozen=True)
class Family:
    """One way across the neck.

    Parameters
    ----------
    region : tuple of int
        Lowest and highest fret that is fretted; (0, 0) where all strings are open.
    words : str
    plan : Plan
        The best of its kind.
    """

    region: tuple[int, int]
    words: str
    plan: Plan

    @property
    def effort(self) -> float:
        """What the plan costs."""
        return self.plan.cost

    @property
    def ceilings(self) -> Ceilings:
        """Its ceilings."""
        return self.plan.ceilings


def families(
    riff: Riff,
    request: Request,
    most: int,
    instrument: Instrument | None = None,
    watch: Watch | None = None,
) -> tuple[Family, ...]:
    """Find really different ways to play a riff.

    Parameters as in `plan_riff` and `families_of`.

    Raises
    ------
    NoPlanError
        When nothing playable exists, or where repeats are to be identical.
    """
    if request.identical_repeats:
        raise NoPlanError("ways across the neck are not looked for with identical repeats; let the repeats differ")
    return families_of(solve(riff, request, instrument, watch), request, most, watch)


def families_of(solution: Solution, request: Request, most: int, watch: Watch | None = None) -> tuple[Family, ...]:
    """Find really different ways to play a riff, cheapest first; the best plan is the first.

    Parameters
    ----------
    solution : Solution
    request : Request
        What it was solved for.
    most : int
    watch : callable or None
        Called with the share of the work that is done; what it raises ends it.

    Returns
    -------
    tuple of Family
        No two play more than three quarters of the notes at the same places.
    """
    problem = solution.problem
    classes = list(_classes(problem, request.limits))
    found: list[Path] = [solution.path]
    for number, limits in enumerate(classes):
        if watch is not None:
            watch(number / len(classes))
        path = best_within(problem, solution.bound, limits)
        if path is not None:
            found.append(path)
    chosen: list[tuple[Path, tuple[State, ...]]] = []
    for path in sorted(found, key=lambda one: one.total):
        states = tuple(problem.state(step, joint) for step, joint in enumerate(path.path))
        if all(other_places(states, other) >= LEAST_OTHER_PLACES for _, other in chosen):
            chosen.append((path, states))
        if len(chosen) == most:
            break
    return tuple(_family(solution, request, path) for path, _ in chosen)


def _classes(problem: Problem, limits: Limits) -> Iterator[Limits]:
    """Regions of the neck in which every note has a place, narrow ones first, with open strings and without."""
    top = min(problem.model.instrument.top_fret, limits.high)
    # Of each step the frets of its notes; 0 is an open string.
    reached = [{note[1] for grip in node.grips.rows for note in grip.notes} for node in problem.nodes]
    for width in WIDTHS:
        for low in range(max(limits.low, 1), max(top - width + 2, 2)):
            region = replace(limits, low=low, high=min(low + width - 1, top))
            for opens in (True, False) if limits.open_strings else (False,):
                inside = replace(region, open_strings=opens)
                frets = {*range(low, inside.high + 1), *([0] if opens else [])}
                if all(some & frets for some in reached):
                    yield inside


def other_places(one: Sequence[State], two: Sequence[State]) -> float:
    """Share of the notes that two plans play at other places."""
    pairs = zip(one, two, strict=True)
    notes = [pair for first, second in pairs for pair in zip(first.notes, second.notes, strict=True)]
    return sum(a[:2] != b[:2] for a, b in notes) / len(notes)


def _family(solution: Solution, request: Request, path: Path) -> Family:
    plan = planned(replace(solution, path=path), request).plan
    notes = [note for state in plan.states for note in state.notes]
    frets = [fret for _, fret, _ in notes if fret]
    region = (min(frets), max(frets)) if frets else (0, 0)
    opens = sum(not fret for _, fret, _ in notes)
    positions = [state.position for state in plan.states if state.grip.fretted]
    shifts = sum(a != b for a, b in pairwise(positions))
    parts = [
        f"frets {region[0]} to {region[1]}" if frets else "open strings only",
        strings_words(frozenset(string for string, _, _ in notes)),
        "no open strings" if not opens else "1 open note" if opens == 1 else f"{opens} open notes",
    ]
    if positions:
        parts.append(f"position {positions[0]}" if not shifts else "1 shift" if shifts == 1 else f"{shifts} shifts")
    return Family(region, ", ".join(parts), plan)
