"""The climb by answers, and the smooth ramp."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from dromic.errors import RiffError
from dromic.practice.passages.density import DENSITIES, sparser
from dromic.practice.tempo.climb import MOST_STEP_UP, Climb
from dromic.practice.tempo.ramp import Ramp


def learner(theta: float, edge: float, chance: np.random.Generator, centre: float, reps: int) -> Climb:
    """A simulated player: clean by the same law, at a tempo of their own."""
    climb = Climb(centre)
    for _ in range(reps):
        tempo = climb.next_tempo()
        clean = chance.random() < 1.0 / (1.0 + np.exp(-(np.log(theta) - np.log(tempo)) / edge))
        climb = climb.after(tempo, clean=bool(clean))
    return climb


def test_simulated_learners_are_found_where_they_are() -> None:
    """Source: what a 90 % interval means; players drawn from what is thought of them before."""
    chance = np.random.default_rng(5)
    held, off = 0, []
    count = 300
    for _ in range(count):
        theta = float(np.exp(np.log(120.0) + chance.normal(0.0, np.log(1.5))))
        edge = float(chance.choice([0.04, 0.08, 0.16]))
        climb = learner(theta, edge, chance, centre=120.0, reps=20)
        low, high = climb.between(0.9)
        held += low <= theta <= high
        off.append(abs(np.log(climb.clean_tempo / theta)))
    assert 0.86 <= held / count <= 0.94
    assert float(np.median(off)) < 0.12


def test_the_model_advises_and_the_record_decides() -> None:
    climb = Climb(80.0)
    for _ in range(60):
        climb = climb.after(climb.next_tempo(), clean=True)
    # Never capped by the ceiling.
    assert climb.next_tempo() > 120.0
    climb = Climb(200.0)
    for _ in range(12):
        climb = climb.after(climb.next_tempo(), clean=False)
    assert climb.next_tempo() < 60.0
    assert climb.stuck


@given(st.lists(st.tuples(st.floats(30, 300), st.booleans()), max_size=20), st.floats(40, 300))
@settings(max_examples=60)
def test_whatever_is_answered_the_next_step_is_small(answers: list[tuple[float, bool]], centre: float) -> None:
    climb = Climb(centre)
    for tempo, clean in answers:
        climb = climb.after(tempo, clean=clean)
    assert climb.weights.sum() == pytest.approx(1.0)
    low, high = climb.between(0.9)
    assert low <= climb.clean_tempo <= high
    if answers:
        last = answers[-1][0]
        assert 0.88 * last - 1e-9 <= climb.next_tempo() <= (1 + MOST_STEP_UP) * last + 1e-9
    assert climb.chance(20.0) >= climb.chance(400.0)


def test_a_clean_repetition_is_no_bad_news() -> None:
    before = Climb(120.0).after(100, clean=True)
    assert (
        before.after(104, clean=True).clean_tempo > before.clean_tempo > before.after(104, clean=False).clean_tempo
    )
    assert before.after(104, clean=True).give_or_take < Climb(120.0).give_or_take
    low, high = before.between(2 / 3)
    assert low < before.clean_tempo < high
    assert before.give_or_take == pytest.approx((high - low) / 2)


def test_three_failures_ask_for_something_else() -> None:
    climb = Climb(120.0).after(100, clean=False).after(95, clean=False)
    assert not climb.stuck
    assert climb.after(90, clean=False).stuck
    assert not climb.after(90, clean=False).after(80, clean=True).stuck
    assert [sparser(one) for one in DENSITIES] == [None, 8, 4, 2]


@given(st.floats(20, 400), st.floats(20, 400), st.floats(1, 600), st.floats(0, 1))
def test_a_ramps_clicks_are_where_a_root_finder_has_them(
    start: float, end: float, seconds: float, share: float
) -> None:
    """Source: scipy.optimize.brentq on the integral of the tempo; to a sample at 44,100 a second."""
    ramp = Ramp(start, end, seconds)
    beat = share * ramp.beats(seconds)
    found = brentq(lambda time: ramp.beats(time) - beat, -1e-9, seconds + 1e-9, xtol=1e-13) if beat else 0.0
    assert abs(ramp.when(beat) - found) < 0.5 / 44_100
    clicks = ramp.clicks()
    assert all(one < other for one, other in pairwise(clicks))
    assert clicks[0] == 0.0
    assert clicks[-1] <= seconds + 1e-6


def test_a_ramp_is_as_fast_as_it_says() -> None:
    ramp = Ramp(60.0, 180.0, 60.0)
    assert [ramp.tempo(at) for at in (0.0, 30.0, 60.0)] == [60.0, 120.0, 180.0]
    assert ramp.beats(60.0) == pytest.approx(120.0)
    gaps = np.diff(ramp.clicks())
    assert gaps[0] == pytest.approx(1.0, rel=0.02)
    assert gaps[-1] == pytest.approx(1 / 3, rel=0.02)


@pytest.mark.parametrize(
    ("start", "end", "seconds", "words"),
    [(5, 100, 10, "tempi from 10 to 500"), (60, 900, 10, "tempi from 10 to 500"), (60, 90, 0, "at most 1800")],
)
def test_ramps_that_are_none(start: float, end: float, seconds: float, words: str) -> None:
    with pytest.raises(RiffError, match=words):
        Ramp(start, end, seconds)
