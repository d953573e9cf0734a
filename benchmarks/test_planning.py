"""First figures of the planner: run with ``pytest benchmarks --benchmark-only`` or ``-q`` for the ratios.

Absolute times say something about one machine; the ratios, measured within one run, say something about the
planner.
"""

from __future__ import annotations

import time
import tracemalloc
from collections.abc import Callable

import networkx
import numpy as np
import pytest
from pytest_benchmark.fixture import BenchmarkFixture

from benchmarks.riffs import wandering_lick
from dromic.hands.profile import hands_named
from dromic.instrument.presets import instrument_for
from dromic.planner.plan import Plan
from dromic.planner.planning import Request, plan_riff
from dromic.planner.problem import Problem, Setting
from dromic.planner.session import Session
from dromic.planner.steps import task_of
from dromic.schools.registry import school_named


def plan(count: int, **wishes: object) -> Plan:
    """Plan a lick of so many notes under least motion."""
    return plan_riff(wandering_lick(count), Request(hands_named("medium"), school_named("least-motion"), **wishes))


def seconds(work: Callable[[], object], rounds: int = 3) -> float:
    """Median time of some rounds."""
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return sorted(times)[rounds // 2]


@pytest.mark.parametrize("count", [64, 1000])
def test_plan(benchmark: BenchmarkFixture, count: int) -> None:
    planned = benchmark.pedantic(plan, args=(count,), rounds=5, warmup_rounds=1)
    assert len(planned.states) == count


def test_plan_with_prices(benchmark: BenchmarkFixture) -> None:
    planned = benchmark.pedantic(lambda: plan(64, alternatives=12), rounds=5, warmup_rounds=1)
    assert all(event.alternatives for event in planned.events)


def test_ratio_of_prices_to_plan(capsys: pytest.CaptureFixture[str]) -> None:
    plan(64)
    alone, priced = seconds(lambda: plan(64)), seconds(lambda: plan(64, alternatives=12))
    with capsys.disabled():
        print(f"\nprices of all alternatives: {priced / alone:.2f} times the plan alone (wanted: within 2)")


def test_time_grows_with_the_notes(capsys: pytest.CaptureFixture[str]) -> None:
    each = {count: seconds(lambda count=count: plan(count), 1) / count for count in (100, 1000, 4000)}
    with capsys.disabled():
        for count, time_each in each.items():
            print(f"\n{count} notes: {1000 * time_each:.2f} ms a note", end="")
        print(f"\nslowest to fastest: {max(each.values()) / min(each.values()):.2f}")


def test_peak_memory(capsys: pytest.CaptureFixture[str]) -> None:
    tracemalloc.start()
    plan(1000)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    with capsys.disabled():
        print(f"\npeak memory, 1000 notes: {peak / 2**20:.0f} MB")


def test_ratio_to_a_graph_library(capsys: pytest.CaptureFixture[str]) -> None:
    """24 notes: Dijkstra's algorithm of networkx on the same states and moves, graph already built."""
    riff = wandering_lick(24)
    setting = Setting(
        instrument_for(riff), hands_named("medium"), school_named("least-motion"), (), riff.tempo, high_gain=False
    )
    problem = Problem(setting, task_of(riff))
    efforts = problem.chain.efforts
    graph = networkx.DiGraph()
    for state, effort in enumerate(efforts[0]):
        graph.add_edge("start", (0, state), weight=float(effort))
    for step in range(len(efforts) - 1):
        costs = problem.costs(step) + efforts[step + 1][None, :]
        edges = np.argwhere(np.isfinite(costs))
        graph.add_weighted_edges_from(
            ((step, int(one)), (step + 1, int(two)), float(costs[one, two])) for one, two in edges
        )
    last = len(efforts) - 1
    for state in range(len(efforts[last])):
        graph.add_edge((last, state), "end", weight=0.0)
    ours = seconds(lambda: plan_riff(riff, Request(hands_named("medium"), school_named("least-motion"))))
    start = time.perf_counter()
    length = networkx.dijkstra_path_length(graph, "start", "end")
    theirs = time.perf_counter() - start
    assert length == pytest.approx(problem.solve(np.inf).total)
    with capsys.disabled():
        print(
            f"\ngraph library, search alone: {theirs / ours:.0f} times our whole plan, tables included (wanted: 50)"
        )


def test_plan_again_after_one_choice(benchmark: BenchmarkFixture) -> None:
    request = Request(hands_named("medium"), school_named("least-motion"))
    session = Session(wandering_lick(1000), request)
    planned = benchmark.pedantic(
        session.with_choice, args=(500, "stroke", _other(session)), rounds=7, warmup_rounds=1
    )
    assert planned.cost >= session.plan.cost


def _other(session: Session) -> str:
    return "up" if str(session.plan.event_of_step(500).stroke) == "down" else "down"
