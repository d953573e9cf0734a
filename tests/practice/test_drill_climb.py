"""Climbing on two ladders, and the plain rule, against a published convergence point."""

from __future__ import annotations

import numpy as np
import pytest

from dromic.practice.passages.drill_climb import BURST_EVERY, DrillClimb, Rule, Rung
from dromic.practice.tempo.climb import LEAST_STEP_DOWN, Answer, Climb, chances_before
from dromic.practice.tempo.staircase import Staircase


def drill(**more: object) -> DrillClimb:
    climbs = {1: Climb(120.0, goal=120.0), 2: Climb(140.0, goal=120.0), 8: Climb(180.0, goal=120.0)}
    return DrillClimb(**{"goal": 120.0, "climbs": climbs, "bursts": False, **more})  # type: ignore[arg-type]


def played(climb: DrillClimb, *clean: bool) -> DrillClimb:
    for one in clean:
        climb = climb.after(climb.next_rung(), clean=one)
    return climb


def test_three_clean_up_and_one_down_settle_where_levitt_says() -> None:
    """Source: Levitt 1971, J. Acoust. Soc. Am. 49, table I: three clean in a row settle at 79.4 %."""
    chance = np.random.default_rng(3)
    clean, count = 0, 0
    for theta in (80.0, 120.0, 200.0):
        stairs = Staircase(0.8 * theta, step=0.02)
        for repetition in range(6_000):
            tempo = stairs.tempo
            was = chance.random() < 1.0 / (1.0 + np.exp(-(np.log(theta) - np.log(tempo)) / 0.1))
            stairs = stairs.after(clean=bool(was))
            if repetition >= 500:
                clean, count = clean + was, count + 1
    assert clean / count == pytest.approx(0.794, abs=0.015)
    assert Staircase(1.0).converges_at == pytest.approx(0.794, abs=0.0005)
    assert Staircase(1.0, in_a_row=2).converges_at == pytest.approx(0.707, abs=0.0005)


def test_the_climb_by_the_record_is_clean_about_as_often_as_it_means_to() -> None:
    chance = np.random.default_rng(11)
    clean, count = 0, 0
    for _ in range(40):
        theta = float(np.exp(np.log(120.0) + chance.normal(0.0, 0.3)))
        climb = Climb(120.0)
        for repetition in range(60):
            tempo = climb.next_tempo()
            was = bool(chance.random() < 1.0 / (1.0 + np.exp(-(np.log(theta) - np.log(tempo)) / 0.08)))
            climb = climb.after(tempo, clean=was)
            if repetition >= 20:
                clean, count = clean + was, count + 1
    assert 0.76 <= clean / count <= 0.9


def test_three_failures_change_the_strings_less_often_and_three_clean_lead_back() -> None:
    climb = played(drill(), False, False)
    assert climb.density == 1
    climb = played(climb, False)
    assert climb.density == 2
    assert not climb.wants_smaller
    # The second ladder begins slowly, as what is found out first.
    assert climb.next_rung() == Rung(72.0, 2)
    assert played(climb, True, True, True).density == 1
    # There is no density of 4 here, so the next is 8.
    sparse = played(climb, False, False, False)
    assert sparse.density == 8
    assert played(sparse, False, False, False).wants_smaller
    assert not played(sparse, True, False, False).wants_smaller


def test_a_passage_that_stays_on_one_string_asks_for_a_smaller_piece_at_once() -> None:
    climb = DrillClimb(120.0, {1: Climb(120.0)}, bursts=False)
    assert played(climb, False, False, False).wants_smaller


def test_every_fourth_repetition_is_a_burst_until_the_target_is_near() -> None:
    climb = drill(bursts=True)
    rungs = []
    for _ in range(3 * BURST_EVERY):
        rungs.append(climb.next_rung())
        climb = climb.after(rungs[-1], clean=True)
    bursts = [number for number, rung in enumerate(rungs, start=1) if rung.burst]
    assert bursts[:2] == [4, 8]
    assert all(number % BURST_EVERY == 0 for number in bursts)
    assert all(rung.tempo == 120.0 for rung in rungs if rung.burst)
    # What became of a burst says nothing of the drill.
    assert len(climb.climb.answers) == 3 * BURST_EVERY - len(bursts)
    near = drill(bursts=True, goal=60.0, climbs={1: Climb(300.0)})
    assert not any(rung.burst for rung in [played(near, *[True] * number).next_rung() for number in range(8)])


@pytest.mark.parametrize("known", [70.0, 90.0, 100.0, 110.0, 130.0, 160.0])
def test_a_burst_is_due_below_the_target_only(known: float) -> None:
    def fourth(bursts: bool) -> Rung:
        return played(drill(bursts=bursts, goal=100.0, climbs={1: Climb(known)}), True, True, True).next_rung()

    assert fourth(bursts=True).burst == (fourth(bursts=False).tempo < 95.0)


def test_the_plain_rule_steps_as_it_says() -> None:
    climb = drill(rule=Rule.THREE_CLEAN)
    start = climb.next_rung().tempo
    climb = played(climb, True, True)
    assert climb.next_rung().tempo == start
    climb = played(climb, True)
    assert climb.next_rung().tempo == pytest.approx(1.04 * start)
    assert played(climb, False).next_rung().tempo == pytest.approx(start)


def test_the_goal_slows_the_beginning_and_caps_nothing() -> None:
    assert Climb(200.0, goal=100.0).next_tempo() == 60.0
    climb = Climb(100.0, goal=100.0)
    for _ in range(40):
        climb = climb.after(climb.next_tempo(), clean=True)
    assert climb.next_tempo() > 150.0


def test_after_a_failure_the_next_is_slower_however_much_is_known() -> None:
    climb = Climb(120.0, tuple(Answer(100.0, True) for _ in range(200))).after(100.0, clean=False)
    assert climb.next_tempo() <= (1 - LEAST_STEP_DOWN) * 100.0


def test_what_is_old_says_less_and_a_new_day_begins_lower() -> None:
    old, new = (Climb(120.0, (Answer(60.0, False, days),) * 6) for days in (60.0, 0.0))
    assert old.clean_tempo > new.clean_tempo
    yesterday = Climb(120.0, (Answer(110.0, True, 1.0),) * 20)
    assert yesterday.next_tempo() <= 0.9 * yesterday.clean_tempo
    assert Answer(100.0, True, -3.0).weight == 1.0


def test_predictions_are_made_from_what_came_before_only() -> None:
    answers = [Answer(100.0, True)] * 3 + [Answer(100.0, False)] * 3
    chances = chances_before(120.0, answers)
    assert chances[:4] == sorted(chances[:4])
    assert chances[5] < chances[4] < chances[3]
    assert chances_before(120.0, answers[:3]) == chances[:3]
