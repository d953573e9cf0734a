"""Figures of the planner: run with ``pytest benchmarks -q -s``.

Absolute times say something about one machine; the ratios, measured within one run, say something about the
planner. The wanted figures are those of the design.
"""

from __future__ import annotations

import gc
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import replace

import networkx
import numpy as np
import pytest
from pytest_benchmark.fixture import BenchmarkFixture
from tests.checks.fiddle import at_the_places_of
from tests.checks.solver import best_by_solver

from benchmarks.riffs import wandering_lick
from dromic.hands.constants import PickingHand
from dromic.hands.profile import Hands, hands_named
from dromic.hands.style import PLAIN
from dromic.instrument.presets import instrument_for
from dromic.music.pitch import parse_pitch
from dromic.music.riff import Note, Riff
from dromic.planner.locking import with_alternative
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.planner.replanner import Replanner
from dromic.planner.request import Request
from dromic.planner.search.chains import forward_sums, traced
from dromic.planner.solving.problem import Problem, Setting
from dromic.planner.task.task import task_of
from dromic.schools.registry import school_named

REQUEST = Request(hands_named("medium"), school_named("least-motion"))


@pytest.fixture(autouse=True)
def _steady_memory() -> None:
    """Keep what the compared libraries have loaded out of Python's garbage collection, which would time them."""
    gc.collect()
    gc.freeze()


def plan(count: int, **plan_settings: object) -> Plan:
    """Plan a lick of so many notes under least motion."""
    return plan_riff(wandering_lick(count), replace(REQUEST, **plan_settings))


def seconds(work: Callable[[], object], rounds: int = 5) -> float:
    """Median time of some rounds."""
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return sorted(times)[rounds // 2]


def say(capsys: pytest.CaptureFixture[str], text: str) -> None:
    with capsys.disabled():
        print(f"\n{text}", end="")


@pytest.mark.parametrize("count", [64, 1000])
def test_plan(benchmark: BenchmarkFixture, count: int) -> None:
    planned = benchmark.pedantic(plan, args=(count,), rounds=5, warmup_rounds=1)
    assert len(planned.states) == count


@pytest.mark.parametrize("count", [64, 1000])
def test_prices_against_the_plan(count: int, capsys: pytest.CaptureFixture[str]) -> None:
    plain, priced = (seconds(lambda most=most: plan(count, alternatives=most)) for most in (0, 12))
    say(
        capsys,
        f"{count} notes with the prices of all alternatives: {priced / plain:.2f} times the plan (wanted: 2)",
    )


def test_time_grows_linearly(capsys: pytest.CaptureFixture[str]) -> None:
    each = {}
    for count in (100, 300, 1000, 3000, 10_000):
        each[count] = 1000 * seconds(lambda count=count: plan(count), 3 if count < 3000 else 1) / count
        say(capsys, f"{count} notes: {each[count]:.2f} ms a note")
    say(capsys, f"10,000 notes against 1,000, time a note: {each[10_000] / each[1000]:.2f} (wanted: at most 1.15)")


def test_peak_memory(capsys: pytest.CaptureFixture[str]) -> None:
    """In a process of its own, everything counted: interpreter and libraries too."""
    code = (
        "from pathlib import Path; from benchmarks.riffs import wandering_lick; "
        "from dromic.hands.profile import hands_named; from dromic.schools.registry import school_named; "
        "from dromic.planner.planning import Request, plan_riff; "
        "peak = lambda: Path('/proc/self/status').read_text().split('VmHWM:')[1].split()[0]; before = peak(); "
        "plan_riff(wandering_lick(10_000), Request(hands_named('medium'), school_named('least-motion'))); "
        "print(before, peak())"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    before, after = (int(one) // 1024 for one in done.stdout.split())
    say(capsys, f"10,000 notes: peak {after} MB, of which {before} MB before planning (wanted: 400)")


def _problem(riff: Riff, hands: Hands) -> Problem:
    setting = Setting(instrument_for(riff), hands, school_named("least-motion"), (), PLAIN)
    return Problem(setting, task_of(riff, setting.instrument))


def test_ratio_to_a_graph_library(capsys: pytest.CaptureFixture[str]) -> None:
    """24 notes: Dijkstra's algorithm of networkx on the same states and moves."""
    riff = wandering_lick(24)
    problem = _problem(riff, hands_named("medium"))
    efforts = problem.chain.node_costs
    tables = [problem.moves(step).costs() + efforts[step + 1][None, :] for step in range(len(efforts) - 1)]
    start = time.perf_counter()
    graph = networkx.DiGraph()
    for state, effort in enumerate(efforts[0]):
        graph.add_edge("start", (0, state), weight=float(effort))
    for step, costs in enumerate(tables):
        edges = np.argwhere(np.isfinite(costs))
        graph.add_weighted_edges_from(
            ((step, int(one)), (step + 1, int(two)), float(costs[one, two])) for one, two in edges
        )
    for state in range(len(efforts[-1])):
        graph.add_edge((len(efforts) - 1, state), "end", weight=0.0)
    built = time.perf_counter()
    length = networkx.dijkstra_path_length(graph, "start", "end")
    found = time.perf_counter()
    assert length == pytest.approx(problem.solver.solve(np.inf).total)
    search = seconds(lambda: traced(problem.chain, forward_sums(problem.chain)))
    tables_too = seconds(lambda: _fresh(riff).solver.solve(np.inf))
    whole = seconds(lambda: plan_riff(riff, REQUEST))
    say(capsys, f"graph library, search against search: {(found - built) / search:.0f} times (wanted: 50)")
    say(
        capsys,
        f"graph library, graph and search, against our tables and search: {(found - start) / tables_too:.0f}",
    )
    say(capsys, f"graph library, search alone, against our whole plan: {(found - built) / whole:.0f} times")


def _fresh(riff: Riff) -> Problem:
    return _problem(riff, hands_named("medium"))


def test_ratio_to_a_general_purpose_solver(capsys: pytest.CaptureFixture[str]) -> None:
    """24 notes, places given, one lean: CP-SAT on the same tables."""
    hands = Hands(picking=PickingHand(turns=False))
    riff = at_the_places_of(plan(24))
    problem = _problem(riff, hands)
    start = time.perf_counter()
    theirs = best_by_solver(problem, seconds=300.0)
    taken = time.perf_counter() - start
    assert theirs == pytest.approx(problem.solver.solve(np.inf).total, abs=1e-4)
    ours = seconds(lambda: plan_riff(riff, Request(hands, school_named("least-motion"))))
    say(capsys, f"general-purpose solver against our whole plan: {taken / ours:.0f} times (wanted: 100)")


def replan(replanner: Replanner, riff: Riff, request: Request) -> tuple[float, float, Plan]:
    """Plan as the window does: seconds until the plan, seconds until its prices, and the plan with them."""
    started = time.perf_counter()
    plans = replanner.plans(riff, request)
    next(plans)
    shown = time.perf_counter() - started
    priced = next(plans)
    return shown, time.perf_counter() - started, priced


def test_plan_again_after_one_lock(capsys: pytest.CaptureFixture[str]) -> None:
    """1,000 notes, one alternative in the middle locked; wanted: the plan after 60 ms."""
    riff, request = wandering_lick(1000), replace(REQUEST, alternatives=8)
    replanner = Replanner()
    _, _, plan = replan(replanner, riff, request)
    shown, priced = [], []
    for alternative in plan.event_of_step(500).alternatives[:5]:
        locked = with_alternative(plan, 500, alternative)
        until_plan, until_prices, again = replan(replanner, locked, request)
        assert again.cost - plan.cost == pytest.approx(alternative.price, abs=1e-6)
        shown.append(until_plan)
        priced.append(until_prices)
        replan(replanner, riff, request)
    anew = seconds(lambda: plan_riff(locked, REQUEST))
    first, second = (1000 * sorted(times)[len(times) // 2] for times in (shown, priced))
    say(
        capsys,
        f"one lock in 1,000: plan after {first:.0f} ms, prices after {second:.0f} ms; "
        f"a plan anew, without prices, {1000 * anew:.0f} ms, {1000 * anew / first:.1f} times as long",
    )


def test_plan_again_after_one_edited_note(capsys: pytest.CaptureFixture[str]) -> None:
    riff, request = wandering_lick(1000), replace(REQUEST, alternatives=8)
    phrase = riff.phrases[0]

    def edited(name: str) -> Riff:
        bar = phrase.bars[31]
        note = Note(parse_pitch(name))
        new = replace(bar, events=(*bar.events[:5], replace(bar.events[5], notes=(note,)), *bar.events[6:]))
        return replace(riff, phrases=(replace(phrase, bars=(*phrase.bars[:31], new, *phrase.bars[32:])),))

    replanner = Replanner()
    replan(replanner, riff, request)
    times = [replan(replanner, edited(name), request)[:2] for name in ("C5", "G#4", "A4", "B4", "D5")]
    first, second = (1000 * sorted(column)[len(column) // 2] for column in zip(*times, strict=True))
    _, _, again = replan(replanner, edited("A4"), request)
    assert again.cost == pytest.approx(plan_riff(edited("A4"), REQUEST).cost)
    anew = seconds(lambda: plan_riff(edited("A4"), REQUEST))
    say(
        capsys,
        f"one note edited in 1,000: plan after {first:.0f} ms, prices after {second:.0f} ms; "
        f"a plan anew, without prices, {1000 * anew:.0f} ms, {1000 * anew / first:.1f} times as long",
    )
