"""The compiled kernel against the one in NumPy: the same numbers, to the last bit; and what both refuse to read."""

from __future__ import annotations

import importlib
import os
import shutil
import subprocess
import sys
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.arrays import Floats
from dromic.hands.profile import hands_named
from dromic.hands.style import PLAIN
from dromic.instrument.presets import instrument_for
from dromic.music.riff import Riff
from dromic.planner.costs.layers import LayeredMoves
from dromic.planner.kernel import COMPILED, JoinedMoves, plain
from dromic.planner.kernel.inputs import (
    EffortCurve,
    Entry,
    HandTable,
    Layering,
    Layers,
    Part,
    PickTable,
    Side,
    Timing,
)
from dromic.planner.request import Request
from dromic.planner.search.chains import Chain, both_passes
from dromic.planner.search.loops import through_loop
from dromic.planner.search.moves import Moves, TableMoves
from dromic.planner.solving.problem import Problem, Setting
from dromic.planner.solving.solution import solve
from dromic.planner.task.task import task_of
from dromic.schools.registry import school_named
from tests.helpers import line
from tests.strategies import moved_figures, pitch_lines, short_lines

SCHOOLS = ["least-motion", "economy", "hybrid", "bass-two-finger", "sparse"]
CURVE = EffortCurve(0.1, 0.5, 2.0, 8.0)


def compiled() -> type[JoinedMoves]:
    if not COMPILED:
        assert shutil.which("cc") is None, "there is a compiler, and the kernel was not compiled"
        pytest.skip("there is no compiler here")
    found: type[JoinedMoves] = importlib.import_module("dromic.planner.kernel.compiled").JoinedMoves
    return found


def problem_of(riff: Riff, school: str = "least-motion") -> Problem:
    setting = Setting(instrument_for(riff), hands_named("medium"), school_named(school), (), PLAIN)
    return Problem(setting, task_of(riff, setting.instrument))


def same(mine: Floats, theirs: Floats) -> None:
    np.testing.assert_array_equal(np.asarray(mine).view(np.uint64), np.asarray(theirs).view(np.uint64))


def alike(mine: Sequence[Any], theirs: Sequence[Any]) -> None:
    """Sums, sources and loads are the same."""
    same(mine[0], theirs[0])
    np.testing.assert_array_equal(mine[1], theirs[1])
    same(mine[2], theirs[2])


def layers_of(side: Side, count: int, chance: np.random.Generator) -> Layers:
    masks = chance.random((count, side.grips)) < 0.5
    masks[0] = True
    return Layers.of_masks(masks)


def layerings(moves: JoinedMoves, chance: np.random.Generator) -> list[Layering]:
    """Into a figure, inside one, from take to take, and any that could be."""
    before, after = layers_of(moves.before, 3, chance), layers_of(moves.after, 3, chance)
    inside = np.where(np.eye(3, dtype=bool), 0.0, np.inf)
    to_next = np.where(np.eye(3, dtype=bool), 0.0, 0.5)
    any_cost = np.where(chance.random((3, 3)) < 0.3, np.inf, chance.integers(0, 3, (3, 3)) / 4)
    alone = layers_of(moves.before, 1, chance)
    return [Layering(before, after, one) for one in (inside, to_next, any_cost)] + [
        Layering(alone, after, np.zeros((1, 3)))
    ]


def in_layers(table: Floats, entry: Entry, here: Floats, moves: JoinedMoves, *, back: bool) -> Floats:
    """Least sums from the whole table of all states in layers."""
    sides = (moves.after, moves.before) if back else (moves.before, moves.after)
    plain_of, layer_of = [], []
    for layers, side in zip((entry.sources, entry.targets), sides, strict=True):
        copies = side.blocks * side.picks
        plain_of.append(layers.states(copies))
        layer_of.append(np.repeat(np.arange(layers.count), np.diff(layers.starts) * copies))
    entered = here[:, None] + entry.changing[layer_of[0][:, None], layer_of[1]]
    found: Floats = (entered + table[plain_of[0][:, None], plain_of[1]]).min(axis=0)
    return found


def check(moves: JoinedMoves, seed: int) -> None:
    """Everything that can be asked of some moves, of both kernels; and the sums against the whole table."""
    made = moves.parts, moves.before, moves.after, moves.curve
    one, two = compiled()(*made), plain.JoinedMoves(*made)
    chance = np.random.default_rng(seed)
    rows, columns = moves.before.states, moves.after.states
    table, loads = two.costs(), two.loads()
    same(one.costs(), table)
    same(one.loads(), loads)
    finite = loads[np.isfinite(table)]
    bounds = [np.inf, *([float(np.median(finite))] if len(finite) else [])]
    for bound in bounds:
        same(one.costs(bound), two.costs(bound))
        for back, count in ((False, rows), (True, columns)):
            # Few different numbers, so that there are ties.
            here = np.where(chance.random(count) < 0.2, np.inf, chance.integers(0, 4, count) / 2)
            mine, (values, sources, most) = (each.least(here, back=back, bound=bound) for each in (one, two))
            alike(mine, (values, sources, most))
            whole = TableMoves(two.costs(bound)).least(here, back=back)
            same(values, whole[0])
            np.testing.assert_array_equal(sources, whole[1])
            same(one.smallest_largest(here, back=back), two.smallest_largest(here, back=back))
            several = np.stack([here, here[::-1], np.full(count, np.inf)])
            in_one_go = [each.least(several, back=back, bound=bound) for each in (one, two)]
            for at, row in enumerate(several):
                alone = one.least(row, back=back, bound=bound)
                for found in in_one_go:
                    alike((found.values[at], found.sources[at], found.loads[at]), alone)
            own_bounds = np.array([bounds[-1], 0.0, np.inf])
            for each in (one, two):
                found = each.least(several, back=back, bound=own_bounds)
                for at, most_load in enumerate(own_bounds.tolist()):
                    alike([own[at] for own in found], one.least(several[at], back=back, bound=most_load))
            reached = np.flatnonzero(sources >= 0)
            ends = (reached, sources[reached]) if back else (sources[reached], reached)
            same(most[reached], one.pair_loads(*ends))
            assert not most[sources < 0].any()
    for layering in layerings(moves, chance):
        for back in (False, True):
            entry = layering.onto if back else layering.into
            side = moves.after if back else moves.before
            count = len(entry.sources.states(side.blocks * side.picks))
            here = np.where(chance.random(count) < 0.3, np.inf, chance.integers(0, 4, count) / 2)
            mine, (values, sources, most) = (each.least(here, layering, back=back) for each in (one, two))
            alike(mine, (values, sources, most))
            same(values, in_layers(table.T if back else table, entry, here, moves, back=back))
            several = np.stack([here[::-1], here])
            mine, theirs = (each.least(several, layering, back=back) for each in (one, two))
            alike(mine, theirs)
            alike((theirs.values[1], theirs.sources[1], theirs.loads[1]), (values, sources, most))
            if not back:
                for state in chance.integers(0, len(values), 5):
                    assert one.source(here, int(state), layering) == two.source(here, int(state), layering)
    for state in chance.integers(0, columns, 3):
        here = np.where(chance.random(rows) < 0.3, np.inf, chance.integers(0, 4, rows) / 2)
        source = one.source(here, int(state))
        assert source == two.source(here, int(state)) == plain.first_least(here + table[:, state])
    before, after = chance.integers(0, rows, 9), chance.integers(0, columns, 9)
    same(one.pair_loads(before, after), two.pair_loads(before, after))


@given(st.one_of(short_lines(most=5), pitch_lines(most=4)), st.sampled_from(SCHOOLS), st.integers(0, 99))
@settings(max_examples=16)
def test_both_kernels_give_the_same_numbers(riff: Riff, school: str, seed: int) -> None:
    problem = problem_of(riff, school)
    for index in range(len(problem.steps) - 1):
        moves = problem.moves(index)
        check(moves, seed)  # type: ignore[arg-type]


def made_up_from(chance: np.random.Generator) -> JoinedMoves:
    """Moves that no hand makes: several blocks, classes in any order, numbers of any size."""
    picks, classes = (int(chance.integers(1, most)) for most in (4, 5))

    def side() -> Side:
        grips = int(chance.integers(1, 7))
        of_grips = chance.integers(0, classes, grips), chance.integers(0, 3, grips)
        return Side(int(chance.integers(1, 3)), picks, *of_grips)

    def table(*shape: int, infinite: float = 0.0) -> Floats:
        some = chance.integers(0, 5, shape) * chance.choice([0.0, 0.25, 1.0, 1e-9, 1e6])
        return np.where(chance.random(shape) < infinite, np.inf, some)

    before, after = side(), side()
    parts = []
    for one in range(before.blocks):
        for two in range(after.blocks):
            shape = before.grips, after.grips
            hand = HandTable(table(*shape), table(*shape, infinite=0.3), table(*shape), table(*shape))
            strokes = picks, classes, picks, classes
            pick = PickTable(table(*strokes), table(*strokes, infinite=0.2)) if chance.random() < 0.8 else None
            gaps = 1.0 / chance.uniform(50, 300, 3)
            parts.append(Part(one, two, hand, pick, Timing(gaps, chance.random(3), float(gaps[0]))))
    return plain.JoinedMoves(parts, before, after, CURVE)


@given(st.integers(0, 2**32 - 1))
@settings(max_examples=24)
def test_both_kernels_agree_on_what_no_hand_plays(seed: int) -> None:
    check(made_up_from(np.random.default_rng(seed)), seed)


def small() -> tuple[Part, Side]:
    table = np.ones((2, 2))
    pick = PickTable(np.ones((2, 3, 2, 3)), np.ones((2, 3, 2, 3)))
    part = Part(0, 0, HandTable(table, table, table, table), pick, Timing(np.full(1, 0.01), np.ones(1), 0.01))
    return part, Side(1, 2, np.array([0, 2]), np.zeros(2, dtype=int))


def test_tables_that_do_not_fit_are_refused_before_anything_reads_them() -> None:
    part, side = small()
    table = np.ones((2, 2))
    with pytest.raises(ValueError, match="numbers that are none"):
        HandTable(np.full((2, 2), np.nan), table, table, table)
    with pytest.raises(ValueError, match=r"needs \(2, 2\)"):
        HandTable(table, np.ones((2, 3)), table, table)
    with pytest.raises(ValueError, match="from pick and string to pick and string"):
        PickTable(np.ones((2, 3, 1, 3)), np.ones((2, 3, 1, 3)))
    with pytest.raises(ValueError, match="more than none"):
        Timing(np.ones(1), np.ones(1), 0.0)
    with pytest.raises(ValueError, match="must grow with the load"):
        EffortCurve(0.1, 0.5, -1.0, 8.0)
    with pytest.raises(ValueError, match="first layer holds all grips"):
        Layers(2, np.array([0, 1, 3]), np.array([0, 0, 1]))
    with pytest.raises(ValueError, match="a grip that the step has not"):
        Layers(2, np.array([0, 2, 3]), np.array([0, 1, 2]))
    two, three = (Layers.of_masks(np.ones((count, 2), dtype=bool)) for count in (2, 3))
    with pytest.raises(ValueError, match=r"needs \(2, 3\)"):
        Layering(two, three, np.ones((3, 3)))
    for kernel in (compiled(), plain.JoinedMoves):
        with pytest.raises(ValueError, match="too small for the grips"):
            kernel([part], side, Side(1, 2, np.array([0, 3]), np.zeros(2, dtype=int)), CURVE)
        with pytest.raises(ValueError, match="its steps"):
            kernel([part], side, Side(1, 2, np.array([0]), np.zeros(1, dtype=int)), CURVE)
        with pytest.raises(ValueError, match="block that is not there"):
            kernel([replace(part, after=1)], side, side, CURVE)
        with pytest.raises(ValueError, match="not told of every grip"):
            kernel([part], Side(1, 2, np.array([0, 2]), np.ones(2, dtype=int)), side, CURVE)
        with pytest.raises(ValueError, match="in one way at least"):
            kernel([], side, side, CURVE)


def test_states_that_are_not_there_are_refused() -> None:
    part, side = small()
    moves = compiled()([part], side, side, CURVE)
    with pytest.raises(IndexError, match="no state 4"):
        moves.source(np.zeros(4), 4)
    with pytest.raises(IndexError, match="no move from state -1"):
        moves.pair_loads(np.array([-1]), np.array([0]))
    with pytest.raises(ValueError, match="every move has two ends"):
        moves.pair_loads(np.array([1, 2]), np.array([0]))
    with pytest.raises(ValueError, match="4 states, and 3 loads"):
        moves.smallest_largest(np.zeros(3))
    with pytest.raises(ValueError, match="4 states, and 8 sums"):
        moves.least(np.zeros(8))
    wide = Layers.of_masks(np.ones((1, 3), dtype=bool))
    with pytest.raises(ValueError, match="layers do not fit the grips"):
        moves.least(np.zeros(6), Layering(wide, wide, np.zeros((1, 1))))


def least_through(problem: Problem, chain: Chain) -> list[Floats]:
    """Cost of the best plan through each joint state, whichever layer it is in."""
    seam = problem.seam
    found = both_passes(chain).through if seam is None else through_loop(chain, seam).cost
    least = []
    for step, cost in enumerate(found):
        own = np.full(len(problem.chain.node_costs[step]), np.inf)
        np.minimum.at(own, problem.layers.plain_of(step), cost)
        least.append(own)
    return least


@given(moved_figures(), st.booleans())
@settings(max_examples=10)
def test_layers_that_are_left_change_no_price(riff: Riff, loop: bool) -> None:
    """Against layers that are all kept: a state is left only where the first layer does as well."""
    request = Request(hands_named("medium"), school_named("least-motion"), loop=loop)
    problem = solve(riff, request).problem
    chain = problem.solver.within(np.inf)

    def all_kept(link: int) -> Moves:
        own = chain.moves(link)
        if not isinstance(own, LayeredMoves):
            return own
        changing = own.layering.into.changing
        return LayeredMoves(
            own.joined, own.before, own.after, Layering(own.before.layers, own.after.layers, changing)
        )

    kept = least_through(problem, Chain(chain.node_costs, all_kept))
    for mine, theirs in zip(least_through(problem, chain), kept, strict=True):
        np.testing.assert_allclose(mine, theirs, rtol=1e-9)


def test_the_same_link_is_worked_out_once() -> None:
    problem = problem_of(line("5:5 5:7 5:5 5:7 5:5 5:7 5:5 5:7", tempo=150, meter="2/4"))
    assert problem.moves(1) is problem.moves(5)
    assert problem.moves(1) is not problem.moves(2)
    with pytest.raises(IndexError, match="out of range"):
        problem.moves(7)


def test_without_the_compiled_kernel_plans_are_the_same() -> None:
    """In a process of its own, because the kernel is chosen when the program starts."""
    code = (
        "from tests.helpers import line, plan; from dromic.planner.kernel import COMPILED; "
        "made = plan(line('E2 G2 A2 B2 D3 E3 G3 A3', tempo=160)); print(COMPILED, made.cost, made.states)"
    )

    def told(kernel: str) -> str:
        env = os.environ | {"DROMIC_KERNEL": kernel}
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, env=env)
        return done.stdout

    assert told("plain") == told("compiled").replace("True", "False", 1)
