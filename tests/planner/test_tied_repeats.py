"""Repeats identical: exact, against trying every way through the phrase."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise, product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic.errors import NoPlanError
from dromic.hands.profile import hands_named
from dromic.music.riff import Riff
from dromic.planner.plan import Plan
from dromic.planner.search.chains import Chain
from dromic.planner.search.moves import TableMoves
from dromic.planner.solving.tied_repeats import RepeatClosure
from dromic.planner.task.phrase_takes import repeated_phrases
from dromic.planner.ways import OtherFinger
from tests.helpers import not_none, plan, riff, strokes

NUMBERS = st.one_of(st.integers(0, 6).map(float), st.just(np.inf))
THREE_AND_OUT = "[A] | 6:5/16 6:7 5:5 6:8 | x3 [B] | 5:7/16 4:5 4:7 3:5 |"


@st.composite
def closures(draw: st.DrawFn) -> RepeatClosure:
    sizes = draw(st.lists(st.integers(1, 3), min_size=2, max_size=4))

    def array(*shape: int) -> np.ndarray:
        count = int(np.prod(shape))
        return np.array(draw(st.lists(NUMBERS, min_size=count, max_size=count))).reshape(shape)

    links = [array(one, two) for one, two in pairwise(sizes)]
    again = array(sizes[-1], sizes[0])
    loads = np.where(np.isfinite(again), array(sizes[-1], sizes[0]), 0.0)
    moves = [TableMoves(table) for table in links]
    return RepeatClosure(Chain([array(size) for size in sizes], moves.__getitem__), again, loads)


@given(closures())
def test_a_phrase_as_one_edge_against_every_path(made: RepeatClosure) -> None:
    costs = made.steps.node_costs
    tables = [made.steps.moves(at).costs() for at in range(len(costs) - 1)]
    best: dict[tuple[int, int], float] = {}
    for path in product(*(range(len(one)) for one in costs)):
        inside = sum(float(one[state]) for one, state in zip(costs[1:-1], path[1:-1], strict=True))
        total = inside + sum(float(table[pair]) for table, pair in zip(tables, pairwise(path), strict=True))
        total += float(made.again[path[-1], path[0]])
        if np.isfinite(costs[0][path[0]]) and np.isfinite(costs[-1][path[-1]]):
            best[path[0], path[-1]] = min(best.get((path[0], path[-1]), np.inf), total)
    edge = made.edge()
    for (first, last), total in best.items():
        assert edge[first, last] == pytest.approx(total) or (np.isinf(total) and np.isinf(edge[first, last]))
        if np.isfinite(total):
            path = made.path(first, last)
            assert (path[0], path[-1]) == (first, last)


MEDIUM = hands_named("medium")


def takes(planned: Plan) -> list[list[object]]:
    found: dict[tuple[int, int], list[object]] = {}
    for step, state in zip(planned.task.steps, planned.states, strict=True):
        found.setdefault((step.moment.phrase, step.moment.pass_number), []).append(state)
    return list(found.values())


@pytest.mark.parametrize("objective", ["effort", "tempo"])
@pytest.mark.parametrize(("school", "loop"), [("least-motion", False), ("least-motion", True), ("economy", False)])
def test_every_take_is_the_same(school: str, loop: bool, objective: str) -> None:
    made = riff(THREE_AND_OUT, tempo=150, meter="1/4")
    free = plan(made, school, loop=loop, objective=objective)
    alike = plan(made, school, loop=loop, objective=objective, identical_repeats=True)
    first, second, third, _ = takes(alike)
    assert first == second == third
    if objective == "effort":
        assert alike.cost >= free.cost - 1e-9
    else:
        assert not_none(alike.ceiling) <= not_none(free.ceiling) * (1 + 1e-8)
    comfort = replace(
        MEDIUM.comfort,
        figure=0.0,
        figure_strings=0.0,
        otherwise=0.0,
        other_stroke=0.0,
        shift_take=MEDIUM.comfort.shift_far,
    )
    again = plan(
        _pinned(made, alike), school, loop=loop, objective=objective, hands=replace(MEDIUM, comfort=comfort)
    )
    assert again.cost <= alike.cost + 1e-9


def _pinned(made: Riff, planned: Plan) -> Riff:
    """The riff with the strokes and fingers of its plan locked."""
    words = {}
    for step, state in zip(planned.task.steps, planned.states, strict=True):
        words[step.moment.event_index] = (
            f"{state.string}:{state.fret}!{'d' if state.stroke == 'down' else 'u'}@{state.finger}"
        )
    a, b = ([words[index] for index in part] for part in (range(4), range(4, 8)))
    text = f"[A] | {a[0]}/16 {' '.join(a[1:])} | x3 [B] | {b[0]}/16 {' '.join(b[1:])} |"
    return riff(text, tempo=made.tempo, meter="1/4")


def test_a_phrase_of_odd_count_cannot_be_alike_under_strict_alternate() -> None:
    made = riff("[A] | 6:5/8 6:7 5:5 | x2", meter="3/8")
    assert strokes(plan(made, "strict-alternate")) in ("dududu", "ududud")
    with pytest.raises(NoPlanError, match="but not with identical repeats"):
        plan(made, "strict-alternate", identical_repeats=True)


def test_an_alike_choice_costs_what_forcing_it_costs() -> None:
    made = riff("[A] | 6:5/16 6:7 5:5 6:8 | x2", tempo=150, meter="1/4")
    planned = plan(made, alternatives=9, identical_repeats=True)
    for other in planned.events[1].alternatives:
        if isinstance(other.way, OtherFinger):
            forced = plan(
                riff(f"[A] | 6:5/16 6:7@{other.way.finger} 5:5 6:8 | x2", tempo=150, meter="1/4"),
                identical_repeats=True,
            )
            assert forced.cost - planned.cost == pytest.approx(other.price, abs=1e-9)
    assert planned.events[1].alternatives == planned.events[5].alternatives


def test_open_strings_have_the_same_positions_in_every_take() -> None:
    planned = plan(riff("[A] | 6:0/8 6:3 5:0 | x3 | 1:12/8 1:14 1:15 |", meter="3/8"), identical_repeats=True)
    first, second, third = takes(planned)[:3]
    assert first == second == third


def test_chords_that_ring_are_held_alike_in_every_take() -> None:
    made = riff("[A] | 5:3.l/4 4:2.l 3:0.l 2:1.l | x2")
    planned = plan(made, identical_repeats=True)
    assert takes(planned)[0] == takes(planned)[1]
    assert [(span.first, span.last) for span in planned.spans] == [(0, 3), (4, 7)]


def test_runs() -> None:
    planned = plan(riff(THREE_AND_OUT, meter="1/4"))
    assert [(run.first, run.length, run.takes) for run in repeated_phrases(planned.task.steps)] == [(0, 4, 3)]


def test_a_phrase_of_one_note_has_a_plan_for_the_highest_tempo() -> None:
    made = riff("[again]\n| 1:0/8 r | x2\n[end] {1/8} | 1:0 |", meter="2/8", tempo=60)
    highest, least = (
        plan(made, "hybrid", identical_repeats=True, objective=objective) for objective in ("tempo", "effort")
    )
    assert highest.states[0] == highest.states[1]
    assert not_none(highest.ceiling) >= not_none(least.ceiling) * (1 - 1e-8)


def test_a_note_is_slurred_in_every_pass_or_in_none() -> None:
    """The first note of a riff has to be picked, so it is in the passes to come."""
    made = riff("[again]\n| 3:5/8 3:7 3:5 3:7 3:5 3:7 3:5 3:7 | x3", tempo=120)
    tied = plan(made, "sparse", identical_repeats=True)
    by_pass = [tied.states[start : start + 8] for start in (0, 8, 16)]
    assert by_pass[0] == by_pass[1] == by_pass[2]
    assert tied.states[0].sounded
    assert not all(state.sounded for state in tied.states)
