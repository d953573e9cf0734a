"""Moves in parts against the whole table: the same costs, however they are asked for."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.arrays import Floats
from dromic.hands.profile import hands_named
from dromic.hands.style import PLAIN
from dromic.instrument.presets import instrument_for
from dromic.music.riff import Riff
from dromic.planner.moves import Dense, Factored, Moves, PickHeld
from dromic.planner.problem import Problem, Setting
from dromic.planner.steps import task_of
from dromic.schools.registry import school_named
from tests.helpers import line
from tests.strategies import pitch_lines, short_lines

SCHOOLS = ["least-motion", "economy", "hybrid", "bass-two-finger"]


def problem_of(riff: Riff, school: str = "least-motion") -> Problem:
    rules = school_named(school)
    setting = Setting(instrument_for(riff), hands_named("medium"), rules, (), PLAIN)
    return Problem(setting, task_of(riff))


def check(moves: Moves, seed: int) -> None:
    table = moves.dense()
    chance = np.random.default_rng(seed)
    ahead = np.where(chance.random(len(table)) < 0.2, np.inf, chance.random(len(table)) * 3)
    behind: Floats = np.asarray(chance.random(table.shape[1])) * 3
    whole = Dense(table)
    np.testing.assert_allclose(moves.relax_forward(ahead), whole.relax_forward(ahead), rtol=1e-12)
    np.testing.assert_allclose(moves.relax_backward(behind), whole.relax_backward(behind), rtol=1e-12)
    before = np.flatnonzero(chance.random(len(table)) < 0.3)
    after = np.flatnonzero(chance.random(table.shape[1]) < 0.3)
    np.testing.assert_allclose(moves.rows(before), table[before], rtol=1e-12)
    np.testing.assert_allclose(moves.columns(after), table[:, after], rtol=1e-12)


@given(st.one_of(short_lines(most=5), pitch_lines(most=4)), st.sampled_from(SCHOOLS), st.integers(0, 99))
@settings(max_examples=60)
def test_parts_and_table_agree(riff: Riff, school: str, seed: int) -> None:
    problem = problem_of(riff, school)
    for index in range(len(problem.steps) - 1):
        check(problem.edges(index), seed)


def test_each_kind_of_link_has_its_form() -> None:
    problem = problem_of(line("5:5 5:7.h 4:5 4:7", tempo=150))
    assert [type(problem.edges(index)) for index in range(3)] == [PickHeld, Factored, Factored]
    meeting = problem.edges(2)
    assert isinstance(meeting, Factored)
    resumed = problem.edges(1)
    assert isinstance(resumed, Factored)
    assert len(resumed.special.one) > 0
    check(resumed, 3)
    sparse = problem_of(line("5:5 5:7"), "sparse")
    assert isinstance(sparse.edges(0), Dense)


def test_the_same_link_is_worked_out_once() -> None:
    problem = problem_of(line("5:5 5:7 5:5 5:7 5:5 5:7 5:5 5:7", tempo=150, meter="2/4"))
    assert problem.edges(1) is problem.edges(5)
    assert problem.edges(1) is not problem.edges(2)
    with pytest.raises(IndexError, match="out of range"):
        problem.edges(7)
