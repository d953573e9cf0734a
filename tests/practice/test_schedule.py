"""How a session's minutes are shared out, against exhaustive search and another solver."""

from __future__ import annotations

from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from ortools.sat.python import cp_model

from dromic.errors import RiffError
from dromic.practice.tempo.schedule import (
    LEAST_BLOCK,
    MOST_BLOCK,
    SOFTNESS,
    Candidate,
    frame_of,
    riff_tempo,
    shared_out,
)

BLOCKS = (0, *range(LEAST_BLOCK, MOST_BLOCK + 1))
drills = st.lists(
    st.builds(Candidate, st.just("drill"), st.floats(40, 240), st.floats(0.01, 0.2)), min_size=1, max_size=4
)


def tempo_after(some: list[Candidate], minutes: tuple[int, ...]) -> float:
    return riff_tempo([one.after(own) for one, own in zip(some, minutes, strict=True)])


@given(drills, st.integers(0, 24))
@settings(max_examples=40)
def test_no_other_shares_do_better(some: list[Candidate], minutes: int) -> None:
    found = shared_out(some, minutes)
    assert sum(found) <= minutes
    assert set(found) <= set(BLOCKS)
    best = max(tempo_after(some, shares) for shares in product(BLOCKS, repeat=len(some)) if sum(shares) <= minutes)
    assert tempo_after(some, found) == pytest.approx(best, rel=1e-12)


@given(st.lists(st.builds(Candidate, st.just("drill"), st.floats(60, 200)), min_size=5, max_size=10))
@settings(max_examples=8)
def test_another_solver_finds_the_same(some: list[Candidate]) -> None:
    """Source: OR-Tools CP-SAT, on costs rounded to a millionth of a millionth."""
    minutes, scale = 24, min(one.theta for one in some)
    model = cp_model.CpModel()
    total, cost = [], []
    for number, one in enumerate(some):
        takes = [model.new_bool_var(f"{number} {block}") for block in BLOCKS]
        model.add_exactly_one(takes)
        total += [block * take for block, take in zip(BLOCKS, takes, strict=True)]
        cost += [
            round(1e12 * (one.after(block) / scale) ** -SOFTNESS) * take
            for block, take in zip(BLOCKS, takes, strict=True)
        ]
    model.add(sum(total) <= minutes)
    model.minimize(sum(cost))
    solver = cp_model.CpSolver()
    assert solver.solve(model) == cp_model.OPTIMAL
    found = shared_out(some, minutes)
    ours = sum((one.after(own) / scale) ** -SOFTNESS for one, own in zip(some, found, strict=True))
    assert ours == pytest.approx(solver.objective_value / 1e12, abs=1e-10)


def test_the_slowest_drill_gets_most() -> None:
    some = [Candidate("slow", 80.0), Candidate("quick", 160.0), Candidate("slow too", 84.0)]
    slow, quick, slow_too = shared_out(some, 12)
    assert slow >= slow_too > quick == 0


@pytest.mark.parametrize("minutes", range(5, 181))
def test_a_session_is_as_long_as_it_was_asked(minutes: int) -> None:
    frame = frame_of(minutes)
    assert frame.warm_up + frame.drilling + frame.breaks == minutes
    assert min(frame.warm_up, frame.drilling) >= 1
    assert frame.drilling + frame.warm_up <= 11 * (frame.breaks + 1) + 4


@pytest.mark.parametrize("minutes", [-1, 0, 4, 600])
def test_sessions_that_are_none(minutes: int) -> None:
    with pytest.raises(RiffError, match="minutes, expected 5 to 180"):
        frame_of(minutes)


def test_nothing_to_practise() -> None:
    with pytest.raises(RiffError, match="nothing to practise"):
        shared_out([], 20)
    with pytest.raises(RiffError, match="too many for one session"):
        shared_out([Candidate("one", 100.0)] * 50, 20)
