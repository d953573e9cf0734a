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
from dromic.planner.session import Session
from dromic.planner.workbench import Workbench
from pytest_benchmark.fixture import BenchmarkFixture
from tests.checks.fiddle import at_the_places_of
from tests.checks.solver import best_by_solver

from benchmarks.riffs import wandering_lick
from dromic.hands.constants import PickingHand
from dromic.hands.profile import Hands, hands_named
from dromic.instrument.presets import instrument_for
from dromic.music.pitch import parse_pitch
from dromic.music.riff import Note, Riff, Stroke
from dromic.planner.plan import Plan
from dromic.planner.planning import Request, plan_riff
from dromic.planner.problem import Problem, Setting
from dromic.planner.search import forward_sums, traced
from dromic.planner.steps import task_of
from dromic.planner.ways import OtherStroke
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
    setting = Setting(instrument_for(riff), hands, school_named("least-motion"), (), riff.tempo, high_gain=False)
    return Problem(setting, task_of(riff))


def test_ratio_to_a_graph_library(capsys: pytest.CaptureFixture[str]) -> None:
    """24 notes: Dijkstra's algorithm of networkx on the same states and moves."""
    riff = wandering_lick(24)
    problem = _problem(riff, hands_named("medium"))
    efforts = problem.chain.efforts
    tables = [problem.costs(step) + efforts[step + 1][None, :] for step in range(len(efforts) - 1)]
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
    assert length == pytest.approx(problem.solve(np.inf).total)
    search = seconds(lambda: traced(problem.chain, forward_sums(problem.chain)))
    tables_too = seconds(lambda: _fresh(riff).solve(np.inf))
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
    assert theirs == pytest.approx(problem.solve(np.inf).total, abs=1e-4)
    ours = seconds(lambda: plan_riff(riff, Request(hands, school_named("least-motion"))))
    say(capsys, f"general-purpose solver against our whole plan: {taken / ours:.0f} times (wanted: 100)")


def test_plan_again_after_one_choice(benchmark: BenchmarkFixture) -> None:
    """Wanted: 60 ms."""
    session = Session(wandering_lick(1000), REQUEST)
    other = Stroke.UP if session.plan.event_of_step(500).stroke is Stroke.DOWN else Stroke.DOWN
    planned = benchmark.pedantic(session.with_choice, args=(500, OtherStroke(other)), rounds=7, warmup_rounds=1)
    assert planned.cost >= session.plan.cost


def test_plan_again_after_one_edited_note(capsys: pytest.CaptureFixture[str]) -> None:
    riff = wandering_lick(1000)
    phrase = riff.phrases[0]

    def edited(name: str) -> Riff:
        bar = phrase.bars[31]
        note = Note(parse_pitch(name))
        new = replace(bar, events=(*bar.events[:5], replace(bar.events[5], notes=(note,)), *bar.events[6:]))
        return replace(riff, phrases=(replace(phrase, bars=(*phrase.bars[:31], new, *phrase.bars[32:])),))

    bench, priced = Workbench(), replace(REQUEST, alternatives=8)
    list(bench.plans(riff, priced))
    started = time.perf_counter()
    plans = bench.plans(edited("C5"), priced)
    next(plans)
    shown = time.perf_counter() - started
    next(plans)
    whole = time.perf_counter() - started
    anew = seconds(lambda: plan_riff(edited("C5"), priced))
    say(
        capsys,
        f"the window's way: plan after {1000 * shown:.0f} ms, prices after {1000 * whole:.0f} ms, "
        f"against {1000 * anew:.0f} ms anew",
    )
    session = Session(riff, REQUEST).edited(edited("G#4"))
    again = seconds(lambda: session.edited(edited("A4")))
    fresh = seconds(lambda: plan_riff(edited("A4"), REQUEST))
    assert session.edited(edited("A4")).plan.cost == pytest.approx(plan_riff(edited("A4"), REQUEST).cost)
    say(
        capsys,
        f"one note edited in 1,000: {1000 * again:.0f} ms, {fresh / again:.1f} times as fast as planning anew",
    )
