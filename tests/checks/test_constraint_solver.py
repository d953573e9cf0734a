"""The search against a general-purpose solver: OR-Tools CP-SAT (Apache 2.0) on the same tables."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.errors import NoPlanError
from dromic.hands.constants import PickingHand
from dromic.hands.profile import Hands
from dromic.music.riff import Riff
from dromic.planner.request import Request
from dromic.planner.search.chains import DeadEndError
from dromic.planner.solving.problem import Problem
from dromic.planner.solving.solution import solve
from dromic.planner.solving.tied_repeats import FoldedProblem
from dromic.schools.registry import SCHOOLS, school_named
from tests.checks.solver import best_by_solver
from tests.checks.test_graph_library import problem_of
from tests.strategies import pitch_lines, short_lines

ONE_LEAN = Hands(picking=PickingHand(turns=False))
NAMES = sorted(name for name, school in SCHOOLS.items() if not school.variants)


def _bound(problem: Problem, objective: str) -> float:
    return problem.solver.load_bound() if objective == "tempo" else float("inf")


def ours(problem: Problem, objective: str) -> float | None:
    try:
        return problem.solver.solve(_bound(problem, objective)).total
    except DeadEndError:
        return None


def check(riff: Riff, school: str, objective: str, *, loop: bool) -> None:
    try:
        problem = problem_of(riff, school, loop=loop)
    except NoPlanError:
        return
    found, theirs = ours(problem, objective), best_by_solver(problem, objective)
    if found is None:
        assert theirs is None
    elif objective == "effort":
        assert theirs == pytest.approx(found, abs=2e-6 * len(problem.steps))
    else:
        # Loads are rounded to millionths, so the solver may find a plan that is a hair cheaper, never dearer.
        assert theirs is not None
        assert theirs <= found + 2e-6 * len(problem.steps)
        within = _bound(problem, objective) * (1 + 1e-5) + 3e-6
        assert theirs >= problem.solver.solve(within).total - 2e-6 * len(problem.steps)


@given(
    short_lines(most=5, decided=True), st.sampled_from(NAMES), st.sampled_from(["effort", "tempo"]), st.booleans()
)
@settings(max_examples=8)
def test_locks_loops_and_both_objectives(riff: Riff, school: str, objective: str, loop: bool) -> None:
    check(riff, school, objective, loop=loop)


@given(pitch_lines(most=3), st.sampled_from(NAMES))
@settings(max_examples=3)
def test_free_places(riff: Riff, school: str) -> None:
    check(riff, school, "effort", loop=False)


def test_what_cannot_be_played_cannot_be_played_by_the_solver_either() -> None:
    from tests.helpers import line

    problem = problem_of(line("6:5!d 6:7!d 6:8"), "strict-alternate")
    assert best_by_solver(problem) is None
    with pytest.raises(DeadEndError, match="no way to step"):
        problem.solver.solve(float("inf"))


def test_identical_repeats_are_one_variable_for_all_passes() -> None:
    """Identical is harder than the solver's free problem, and as good where the free optimum repeats itself."""
    from tests.helpers import riff

    made = riff("[A] | 6:5/16 6:7 5:5 5:7 | x3", tempo=150, meter="1/4")
    request = Request(ONE_LEAN, school_named("strict-alternate"), identical_repeats=True)
    problem = solve(made, request).problem
    free = best_by_solver(problem)
    tied = FoldedProblem(problem).solve().total
    assert free == pytest.approx(tied, abs=1e-4)
