"""The search against a general-purpose graph library: networkx, Dijkstra's algorithm on the same states."""

from __future__ import annotations

from itertools import product

import networkx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.errors import NoPlanError
from dromic.hands.constants import PickingHand
from dromic.hands.profile import Hands
from dromic.hands.style import PLAIN
from dromic.instrument.presets import instrument_for
from dromic.music.riff import Riff
from dromic.planner.search.chains import DeadEndError
from dromic.planner.solving.problem import Problem, Setting
from dromic.planner.task.task import task_of
from dromic.schools.registry import SCHOOLS, school_named
from tests.strategies import pitch_lines, short_lines

ONE_LEAN = Hands(picking=PickingHand(turns=False))
NAMES = sorted(name for name, school in SCHOOLS.items() if not school.variants)


def problem_of(riff: Riff, school: str, *, loop: bool = False) -> Problem:
    setting = Setting(instrument_for(riff), ONE_LEAN, school_named(school), (), PLAIN)
    return Problem(setting, task_of(riff, setting.instrument, loop=loop))


def graph_of(problem: Problem) -> networkx.DiGraph:
    """All states as nodes, all moves as edges that carry the effort of the state they lead to."""
    graph = networkx.DiGraph()
    efforts = problem.chain.node_costs
    for state in np.flatnonzero(np.isfinite(efforts[0])):
        graph.add_edge("start", (0, state), weight=float(efforts[0][state]))
    for step in range(len(efforts) - 1):
        costs = problem.moves(step).costs() + efforts[step + 1][None, :]
        for one, two in product(*map(range, costs.shape)):
            if np.isfinite(costs[one, two]):
                graph.add_edge((step, one), (step + 1, two), weight=float(costs[one, two]))
    last = len(efforts) - 1
    graph.add_nodes_from(["start", "end"])
    for ending in range(len(efforts[last])):
        graph.add_edge((last, ending), "end", weight=0.0)
    return graph


def check(riff: Riff, school: str) -> None:
    try:
        problem = problem_of(riff, school)
    except NoPlanError:
        return
    graph = graph_of(problem)
    if not networkx.has_path(graph, "start", "end"):
        with pytest.raises(DeadEndError, match="no way to step"):
            problem.solver.solve(np.inf)
        return
    shortest = networkx.dijkstra_path_length(graph, "start", "end")
    assert problem.solver.solve(np.inf).total == pytest.approx(shortest, rel=1e-9)


@given(short_lines(most=8, decided=True), st.sampled_from(NAMES))
@settings(max_examples=30)
def test_fixed_places(riff: Riff, school: str) -> None:
    check(riff, school)


@given(pitch_lines(most=4), st.sampled_from(NAMES))
@settings(max_examples=12)
def test_free_places(riff: Riff, school: str) -> None:
    check(riff, school)


@given(short_lines(most=5, legato=False, decided=True))
@settings(max_examples=15)
def test_loops(riff: Riff) -> None:
    problem = problem_of(riff, "least-motion", loop=True)
    assert problem.seam is not None
    seam = problem.seam.costs()
    if len(problem.steps) == 1:
        return
    graph = graph_of(problem)
    last = len(problem.steps) - 1
    best = np.inf
    for first in np.flatnonzero(np.isfinite(problem.chain.node_costs[0])):
        ways = networkx.single_source_dijkstra_path_length(graph, (0, first))
        for (step, state), length in ((node, one) for node, one in ways.items() if node != "end"):
            if step == last:
                best = min(best, problem.chain.node_costs[0][first] + length + seam[state, first])
    assert problem.solver.solve(np.inf).total == pytest.approx(best, rel=1e-9)
