"""Figures of variations and coverage, on the paths that window and command line take."""

from __future__ import annotations

import time

import pytest
from pytest_benchmark.fixture import BenchmarkFixture

from benchmarks.timing import planned, seconds
from dromic.app.coverage.measured import one_drill
from dromic.app.vary.work import ORDER, in_turn
from dromic.planner.planning import plan_riff
from dromic.planner.told.plan_harmony import harmony_of
from dromic.practice.coverage.cells import Cell, Table, cells_of_table
from dromic.practice.passages.excerpt import request_like
from dromic.practice.vary.variants import Varied, once

HANDS = frozenset((*cells_of_table(Table.HAND_OVER_THINNER), *cells_of_table(Table.HAND_OVER_THICKER)))


@pytest.mark.parametrize("number", range(5))
def test_a_lick_is_varied(benchmark: BenchmarkFixture, number: int) -> None:
    """Until the five worth a week are certain, and all of it over one plan of the lick."""
    plan = planned(number)
    lick = once(plan)
    at: list[float] = []

    def work() -> Varied:
        at.clear()
        begun = time.perf_counter()
        made: list[Varied] = []
        for so_far in in_turn(plan, lambda _share: None):
            at.append(time.perf_counter() - begun)
            made.append(so_far)
        return made[-1]

    found = benchmark.pedantic(work, rounds=2, warmup_rounds=1)
    one = seconds(lambda: plan_riff(lick.riff, request_like(lick)))
    benchmark.extra_info["notes"] = len(lick.states)
    benchmark.extra_info["planned"] = len(found.every)
    benchmark.extra_info["seconds to the five"] = round(at[ORDER.index("keys")], 1)
    benchmark.extra_info["plans of the lick, each variation"] = round(at[-1] / len(found.every) / one, 2)


def test_harmony_of_a_plan(benchmark: BenchmarkFixture) -> None:
    """What the harmony lane and the reasons ask for, over the plan."""
    plan = planned(1)
    benchmark(lambda: harmony_of(plan))
    one = seconds(lambda: plan_riff(plan.riff, request_like(plan)))
    benchmark.extra_info["share of planning"] = round(benchmark.stats.stats.median / one, 4)


@pytest.mark.parametrize("wanted", [HANDS, HANDS | set(cells_of_table(Table.STROKES))], ids=["hands", "both"])
def test_one_drill(benchmark: BenchmarkFixture, wanted: frozenset[Cell]) -> None:
    """The shortest round of all hand-overs, and of all strokes too."""
    plan = planned(3)
    found = benchmark.pedantic(lambda: one_drill(wanted, plan), rounds=3, warmup_rounds=1)
    benchmark.extra_info["notes"] = len(found.touches)
