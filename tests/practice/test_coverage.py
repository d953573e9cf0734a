"""Coverage: kinds of movement told from plans and logs, covers and the compound drill against a general solver."""

from __future__ import annotations

from collections import Counter
from datetime import UTC, datetime

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from ortools.sat.python import cp_model

from dromic.demo.library import demo_riffs
from dromic.errors import RiffError
from dromic.practice.coverage.cells import (
    FLIPS,
    INSIDE,
    OUTSIDE,
    SKIP,
    SWEEP,
    THICKER,
    Cell,
    Table,
    cells_of,
    cells_of_table,
)
from dromic.practice.coverage.compound import Compound, Touch, compound_drill
from dromic.practice.coverage.coverage import coverage_of, coverage_of_reps, needs_of
from dromic.practice.coverage.covers import best_in_minutes, smallest_cover
from dromic.practice.log.history import History
from dromic.practice.log.logbook import Clean, Rep
from dromic.practice.material.drills_for import Candidate, drills_for
from dromic.practice.material.pieces import Family, Material
from dromic.practice.movement import movements
from tests.helpers import plan, riff, strokes

HANDS = (*cells_of_table(Table.HAND_OVER_THINNER), *cells_of_table(Table.HAND_OVER_THICKER))
ALL = tuple(cell for table in Table for cell in cells_of_table(table))
HEAD = riff("| r/1 |", tempo=90)
INSTRUMENT = plan(riff("| 5:5/1 |")).instrument


# -- kinds of movement -----------------------------------------------------------------------------------------


@pytest.mark.parametrize("number", range(5))
def test_strokes_are_counted_as_the_planner_counts_them(number: int) -> None:
    demo = demo_riffs()[number]
    planned = plan(demo.riff, demo.school)
    counts = Counter[str]()
    for cell, count in coverage_of(planned).counts.items():
        if cell.table is Table.STROKES:
            counts[cell.row] += count
    totals = planned.totals
    # Where the pick passes a string by, that is a skip here, and inside or outside as well to the planner; and to
    # the planner a stroke goes on from the one before the slurs.
    more = counts[SKIP] + sum(event.legato is not None for event in planned.events)
    for kind, total in ((INSIDE, "inside"), (OUTSIDE, "outside"), (SWEEP, "sweeps")):
        assert counts[kind] <= totals[total] <= counts[kind] + more


def test_a_movement_is_told_by_both_hands() -> None:
    found = {cell.words for cell in cells_of("uu-1.34+1.-2@1/4")}
    assert found == {
        "finger 3 to 4 on a thicker string",
        "sweep to a thicker string",
        "shift of 2 frets down the neck",
    }
    assert cells_of("not a movement") == ()


def test_a_log_covers_what_was_played_but_not_on_which_strings() -> None:
    planned = plan(riff("| 5:5/8 5:7 4:5 4:7 3:5 3:7 2:5 2:8 |"), "strict-alternate")
    rep = Rep(datetime(2026, 1, 1, tzinfo=UTC), 90, movements(planned).each)
    log = coverage_of_reps([rep])
    own = {cell for cell in coverage_of(planned).cells if cell.table is not Table.ONE_STRING}
    assert log.cells == own
    assert not log.areas


def test_needs_shrink_with_what_is_mastered() -> None:
    planned = plan(riff("| 5:5/8 5:7 4:5 4:7 3:5 3:7 2:5 2:8 |", tempo=120), "strict-alternate")
    keys = movements(planned).each
    when = datetime.now(UTC)

    def need(tempo: float, clean: Clean) -> float:
        rep = Rep(when, tempo, keys, clean=clean)
        return sum(needs_of(planned, History([rep])).values())

    nothing = sum(needs_of(planned, History()).values())
    assert need(120, Clean.NOT) == pytest.approx(nothing)
    assert need(60, Clean.CLEAN) == pytest.approx(nothing / 2)
    assert need(150, Clean.CLEAN) == pytest.approx(0)


# -- covers against OR-Tools -----------------------------------------------------------------------------------

CELLS = st.sets(st.sampled_from(ALL[:14]), max_size=6)
DRILLS = st.lists(CELLS, min_size=1, max_size=12)


def fewest_by_solver(needed: set[Cell], drills: list[set[Cell]]) -> int:
    model = cp_model.CpModel()
    taken = [model.new_bool_var(str(number)) for number in range(len(drills))]
    for cell in needed:
        model.add_bool_or([taken[number] for number, drill in enumerate(drills) if cell in drill])
    model.minimize(sum(taken))
    solver = cp_model.CpSolver()
    assert solver.solve(model) == cp_model.OPTIMAL
    return round(solver.objective_value)


@settings(max_examples=40, deadline=None)
@given(CELLS, DRILLS)
def test_smallest_covers_are_as_small_as_a_general_solver_finds(needed: set[Cell], drills: list[set[Cell]]) -> None:
    found = smallest_cover(needed, drills)
    coverable = needed & set().union(*drills)
    assert found.missing == needed - coverable
    assert coverable <= set().union(*(drills[number] for number in found.drills))
    assert len(found.drills) == fewest_by_solver(coverable, drills)


@settings(max_examples=40, deadline=None)
@given(DRILLS, st.lists(st.integers(1, 9), min_size=14, max_size=14), st.integers(1, 4))
def test_the_best_in_the_minutes_is_what_a_general_solver_finds(
    drills: list[set[Cell]], weights: list[int], most: int
) -> None:
    needed = {cell: float(weight) for cell, weight in zip(ALL[:14], weights, strict=True)}
    found = best_in_minutes(needed, drills, [5.0] * len(drills), 5.0 * most)
    model = cp_model.CpModel()
    taken = [model.new_bool_var(str(number)) for number in range(len(drills))]
    model.add(sum(taken) <= most)
    covered = []
    for cell, weight in needed.items():
        got = model.new_bool_var(cell.words)
        model.add(sum(taken[number] for number, drill in enumerate(drills) if cell in drill) >= got)
        covered.append(round(weight) * got)
    model.maximize(sum(covered))
    solver = cp_model.CpSolver()
    assert solver.solve(model) == cp_model.OPTIMAL
    assert found.covered == pytest.approx(solver.objective_value)
    assert found.greedy <= found.covered + 1e-9
    assert found.greedy >= (1 - 1 / 2.71828) * found.covered - 1e-9
    assert len(found.drills) <= most


def test_too_many_drills_are_refused_before_anything_is_done() -> None:
    with pytest.raises(RiffError, match="401 drills are too many to choose from; at most 400"):
        smallest_cover(set(FLIPS), [set(FLIPS)] * 401)


def test_nothing_needed_is_said() -> None:
    candidate = Candidate(Material("one", Family.SCALES, HEAD), coverage_of(plan(riff("| 5:5/2 5:7 |"))))
    with pytest.raises(RiffError, match="nothing is needed"):
        drills_for({}, (candidate,), 15)
    found = drills_for(dict.fromkeys(candidate.covers.cells, 1.0), (candidate,), 15)
    assert [one.material.name for one in found.fewest] == ["one"]


# -- one drill for many cells ----------------------------------------------------------------------------------


def arcs_of(found: Compound) -> list[frozenset[Cell]]:
    """What each movement of the round is, read from the riff as it is planned."""
    planned = plan(found.riff, "least-motion")
    return [frozenset(cells_of(key)) for key in movements(planned).keys]


def test_the_shortest_round_of_all_hand_overs_has_each_once() -> None:
    found = compound_drill(set(HANDS), INSTRUMENT, HEAD)
    assert len(found.touches) == len(HANDS) == 32
    assert found.shortest
    assert set().union(*arcs_of(found)) >= set(HANDS)


def test_a_drill_of_strokes_alone_leaves_the_strings_open() -> None:
    wanted = {Cell(Table.STROKES, INSIDE, THICKER), Cell(Table.STROKES, SKIP, THICKER), FLIPS[0]}
    found = compound_drill(wanted, INSTRUMENT, HEAD)
    assert all(touch.finger == 0 for touch in found.touches)
    assert set().union(*arcs_of(found)) >= wanted
    assert strokes(plan(found.riff))


def rounds_by_solver(wanted: set[Cell], touches: list[Touch]) -> int:
    """How long the shortest closed walk with an arc of every cell is; a flow keeps it in one piece."""
    arcs = [(one, two) for one in touches for two in touches if one != two]
    model = cp_model.CpModel()
    most, count = 8, len(touches)
    played = [model.new_int_var(0, most, "") for _ in arcs]
    flow = [model.new_int_var(0, count, "") for _ in arcs]
    used = {touch: model.new_bool_var("") for touch in touches}
    root = {touch: model.new_bool_var("") for touch in touches}
    model.add_exactly_one(root.values())
    for cell in wanted:
        own = [played[at] for at, (one, two) in enumerate(arcs) if cell in arc_cells(one, two)]
        model.add(sum(own) >= 1)
    for touch in touches:
        out = [at for at, (one, _) in enumerate(arcs) if one == touch]
        into = [at for at, (_, two) in enumerate(arcs) if two == touch]
        model.add(sum(played[at] for at in out) == sum(played[at] for at in into))
        model.add(sum(played[at] for at in into) <= most * count * used[touch])
        model.add(sum(played[at] for at in into) >= used[touch])
        model.add_implication(root[touch], used[touch])
        # Every note that is used takes one of what the root sends out.
        arrives = sum(flow[at] for at in into) - sum(flow[at] for at in out)
        model.add(arrives >= used[touch] - (count + 1) * root[touch])
    for at in range(len(arcs)):
        model.add(flow[at] <= count * played[at])
    model.minimize(sum(played))
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = 60
    solver.parameters.num_workers = 2
    assert solver.solve(model) == cp_model.OPTIMAL
    return round(solver.objective_value)


def arc_cells(one: Touch, two: Touch) -> frozenset[Cell]:
    key = f"{one.stroke}{two.stroke}{one.string - two.string:+d}.{one.finger}{two.finger}.0"
    return frozenset(cells_of(key, "low strings"))


@settings(max_examples=12, deadline=None)
@given(st.sets(st.sampled_from(HANDS), min_size=1, max_size=7))
def test_one_drill_for_hand_overs_is_as_short_as_a_general_solver_finds(wanted: set[Cell]) -> None:
    found = compound_drill(wanted, INSTRUMENT, HEAD)
    notes = [Touch(string, finger, "-") for string in (3, 4) for finger in (1, 2, 3, 4)]
    assert len(found.touches) == rounds_by_solver(wanted, notes)
    assert set().union(*arcs_of(found)) >= wanted


@settings(max_examples=10, deadline=None)
@given(st.sets(st.sampled_from(cells_of_table(Table.STROKES)), min_size=1, max_size=6))
def test_one_drill_for_strokes_is_as_short_as_a_general_solver_finds(wanted: set[Cell]) -> None:
    found = compound_drill(wanted, INSTRUMENT, HEAD)
    strings = (3, 4, 5) if any(cell.row == SKIP for cell in wanted) else (3, 4)
    notes = [Touch(string, 0, stroke) for string in strings for stroke in "du"]
    assert len(found.touches) == rounds_by_solver(wanted, notes)


def test_shifts_are_left_out_of_one_position_and_named() -> None:
    shift = cells_of_table(Table.SHIFTS)[0]
    found = compound_drill({shift, FLIPS[0]}, INSTRUMENT, HEAD)
    assert found.missing == {shift}
    with pytest.raises(RiffError, match="none of these movements can be drilled in one position"):
        compound_drill({shift}, INSTRUMENT, HEAD)
    with pytest.raises(RiffError, match="position 40 is beyond the neck; choose 1 to 21"):
        compound_drill({FLIPS[0]}, INSTRUMENT, HEAD, 40)
