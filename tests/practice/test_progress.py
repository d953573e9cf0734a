"""What the log shows: the riff filling in, days, predictions, rates, and hands."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta

import numpy as np
import pytest

from dromic.arrays import Floats
from dromic.demo.library import demo_riffs
from dromic.demo.practice_log import demo_reps
from dromic.hands.factors import FACTOR_OF, Factor, time_constants, with_factors
from dromic.hands.profile import hands_named, measures, with_measures
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.practice.log.hands_from_log import changes_words, hands_offer
from dromic.practice.log.history import History
from dromic.practice.log.logbook import Clean, Rep, Source
from dromic.practice.log.movement_times import movement_times
from dromic.practice.log.progress import best_clean, by_day, calibration, filled_in, minutes_by_day
from dromic.practice.log.rates import ASSUMED, fitted_rates
from dromic.practice.log.six_factors import six_factors
from dromic.practice.movement import movement_and_gap, movements, riff_hash
from dromic.practice.passages.drill import keys_of
from dromic.practice.tempo.climb import Climb
from dromic.practice.tempo.ladder import Range
from dromic.schools.registry import school_named
from tests.helpers import not_none, plan, riff
from tests.listening.material import material

START = datetime(2026, 3, 2, 18, 0, tzinfo=UTC)


def rep(tempo: float, keys: Sequence[str], clean: Clean = Clean.CLEAN, day: float = 0.0, **more: object) -> Rep:
    return Rep(START + timedelta(days=day), tempo, tuple(keys), clean=clean, **{"riff": "r", **more})  # type: ignore[arg-type]


def keys(made: Plan) -> tuple[str, ...]:
    return keys_of(made, Range(0, len(made.states) - 1))


def test_a_movement_counts_across_riffs_at_the_tempo_at_which_it_is_as_fast() -> None:
    slow = plan(riff("| 3:5@1/8 3:7@3 3:5@1 3:7@3 r/2 |"), "strict-alternate")
    fast = plan(riff("| 4:9@1/16 4:11@3 4:9@1 4:11@3 r/2. |"), "strict-alternate")
    known = History([rep(160.0, keys(slow))], START)
    (key,) = (key for key in keys(fast) if movement_and_gap(key)[0] == "du+0.13+2.0")
    assert [answer.tempo for answer in known.answers(key)] == [80.0]
    shares = filled_in(fast, best_clean(known.reps), 100.0)
    assert shares == (0.8, 0.8, 0.8, 0.8)


def test_what_a_long_passage_that_failed_says_is_left_alone() -> None:
    long = tuple(f"du+0.{number}.0@1/4" for number in range(12))
    known = History([rep(100.0, long, Clean.NOT), rep(90.0, long), rep(80.0, long[:1], Clean.UNMARKED)], START)
    assert [(answer.tempo, answer.clean) for answer in known.answers(long[0])] == [(90.0, True)]
    assert len(known.answers(long[0], movements=12)) == 2
    assert known.answers(long[0], density=2) == ()
    later = History([rep(100.0, long[:1], day=3.0)], START)
    # The clock was set back: nothing lies in the future.
    assert later.answers(long[0])[0].days_ago == 0.0


def test_the_riff_fills_in_by_what_both_hands_have_played_clean() -> None:
    made = plan(riff("| 3:5@1/8 3:7@3 2:5@1 2:7@3 r/2 |", tempo=100), "strict-alternate")
    own = keys(made)
    reps = [
        rep(90.0, own[:1]),
        rep(120.0, own[:1], Clean.NOT),
        rep(130.0, own[:1], density=2),
        rep(140.0, own[:1], kind="picking"),
        rep(105.0, own[1:2]),
    ]
    shares = filled_in(made, best_clean(reps), 100.0)
    assert shares == (0.9, 0.9, 1.05, 0.9)
    assert filled_in(plan(riff("| 1:0/4 1:3 1:0 1:3 |")), best_clean(reps), 100.0) == (None,) * 4


def test_days_show_how_the_clean_tempo_went_and_keep_takes_apart() -> None:
    reps = [rep(60.0 + 4 * day, ("a@1/4",), day=day) for day in range(10) for _ in range(6)]
    reps += [rep(100.0 + 4 * day, ("a@1/4",), Clean.NOT, day=day) for day in range(10) for _ in range(2)]
    reps.append(rep(70.0, ("a@1/4",), day=3, source=Source.TAKE))
    days = by_day(reps)
    own = [day for day in days if day.source is Source.SELF]
    assert [day.day for day in own] == [date(2026, 3, 2) + timedelta(days=number) for number in range(10)]
    assert own[-1].tempo > 1.15 * own[0].tempo
    assert all(day.low < day.tempo < day.high for day in days)
    assert [day.day for day in days if day.source is Source.TAKE] == [date(2026, 3, 5)]
    assert by_day([rep(100.0, ("a@1/4",), Clean.UNMARKED)]) == ()
    minutes = minutes_by_day([rep(90.0, (), seconds=90.0, kind="spot"), rep(90.0, (), day=1, seconds=30.0)])
    assert minutes == {date(2026, 3, 2): {"spot": 1.5}, date(2026, 3, 3): {"whole": 0.5}}


def test_predictions_of_a_player_who_does_as_the_model_thinks_come_true() -> None:
    chance = np.random.default_rng(2)
    reps = []
    for drill in range(60):
        theta = 120.0 * float(np.exp(chance.normal(0.0, 0.2)))
        reps += [rep(72.0, (f"{drill}@1/4",))]
        for tempo in chance.uniform(60.0, 180.0, 12):
            clean = chance.random() < 1 / (1 + np.exp(-(np.log(theta) - np.log(tempo)) / 0.08))
            reps.append(rep(float(tempo), (f"{drill}@1/4",), Clean.CLEAN if clean else Clean.NOT))
    groups = calibration(reps)
    assert sum(one.count for one in groups) == 60 * 13
    for one in groups:
        if one.count >= 60:
            assert abs(one.predicted - one.came) < 0.15
    assert calibration([]) == ()


def practised(growth: float, forgetting: float, seed: int) -> list[Rep]:
    """Three drills, six weeks, by a player with these rates."""
    chance, reps = np.random.default_rng(seed), []
    for drill, theta in enumerate((80.0, 100.0, 120.0)):
        level = float(np.log(theta))
        for day in [7 * week + day for week in range(6) for day in (0, 1, 3)]:
            if day:
                level -= forgetting * (2 if day % 7 != 1 else 1)
            for _ in range(25):
                tempo = float(np.exp(level)) * float(chance.uniform(0.85, 1.1))
                clean = chance.random() < 1 / (1 + np.exp(-(level - np.log(tempo)) / 0.08))
                one = rep(tempo, (f"{drill}@1/4",), Clean.CLEAN if clean else Clean.NOT, day, seconds=12.0)
                reps.append(one)
            level += growth * (1 - np.exp(-1.0))
    return reps


def test_rates_are_assumed_until_the_log_says_otherwise() -> None:
    assert fitted_rates([]) == ASSUMED
    assert fitted_rates([rep(100.0, ("a@1/4",))] * 29) == ASSUMED
    assert "Assumed" in ASSUMED.words
    quick, slow = (fitted_rates(practised(growth, 0.002, 4)) for growth in (0.10, 0.0))
    assert quick.reps == slow.reps == 3 * 18 * 25
    assert quick.growth > slow.growth + 0.015
    assert quick.growth_sd < ASSUMED.growth_sd
    assert "repetitions in the log" in quick.words
    assert "give or take" in quick.words


def hands_reps(made: Plan, true: Plan, seed: int) -> list[Rep]:
    """What a player whose hands are those of `true` answers on the movements of `made`."""
    chance, reps = np.random.default_rng(seed), []
    for step in range(1, len(made.states)):
        key = keys_of(made, Range(step - 1, step))
        theta = true.tempo / true.event_of_step(step).loads.largest
        for tempo in np.linspace(0.75, 1.25, 12) * theta:
            clean = chance.random() < 1 / (1 + np.exp(-(np.log(theta) - np.log(tempo)) / 0.06))
            reps.append(rep(float(tempo), key, Clean.CLEAN if clean else Clean.NOT))
    return reps


def test_the_log_offers_the_hands_that_played_it() -> None:
    music = riff("| 6:5@1/16 5:5@1 6:5@1 5:5@1 3:5@1 2:5@1 3:5@1 2:5@1 1:5@1/8 1:8@4 1:5@1 1:8@4 |", tempo=110)
    medium = hands_named("medium")
    made = plan(music, "strict-alternate")
    true = with_measures(medium, replace(measures(medium), picking=0.85))
    played = plan(music, "strict-alternate", hands=true)
    offer = not_none(hands_offer(made, History(hands_reps(made, played, 1), START)))
    told = {one.factor: one for one in offer.evidence}
    assert Factor.ONE_STRING in told
    assert 0.75 < told[Factor.ONE_STRING].told.value < 0.93
    assert "Picking on one string takes" in offer.words
    assert "less time than planned with" in offer.words
    assert "repetitions of" in offer.words
    assert offer.hands.picking.reversal_ms < medium.picking.reversal_ms
    assert offer.next_drill.startswith("A drill at bar ")
    again = plan(music, "strict-alternate", hands=offer.hands)
    assert "the ceiling goes from" in changes_words(made, again)
    assert hands_offer(made, History(hands_reps(made, made, 2), START)) is None
    assert hands_offer(made, History()) is None


def test_the_made_up_log_of_the_demo_fits_the_riffs_that_it_is_of() -> None:
    """If this fails the model has changed: `.venv/bin/python docs/write_demo_log.py` writes the log anew."""
    now = datetime(2026, 6, 10, 9, 0, tzinfo=UTC)
    reps = demo_reps(now)
    assert reps[-1].when.date() == date(2026, 6, 9)
    assert 38 <= (reps[-1].when - reps[0].when).days <= 45
    assert {rep_.clean for rep_ in reps} == set(Clean)
    titles = {rep_.title.partition(":")[0] for rep_ in reps}
    assert titles == {"Kiln Stairs", "Lamplighter"}
    for demo in demo_riffs():
        if demo.riff.title in titles:
            made = plan_riff(demo.riff, Request(hands_named("medium"), school_named(demo.school)))
            own = [one for one in reps if one.riff == riff_hash(made.riff)]
            assert len(own) > 300
            assert set(movements(made).keys) <= {key for one in own for key in one.movement_keys}
            days = by_day(own)
            assert days[-1].tempo > 1.15 * days[0].tempo


# -- the six factors ------------------------------------------------------------------------------------------


def climbed(plans: list[Plan], true: Floats, seed: int) -> list[Rep]:
    """Drills of three movements, each climbed as the program climbs them, by a player with these factors."""
    chance, reps = np.random.default_rng(seed), []
    for made in plans:
        times = movement_times(made)
        for step in range(1, len(made.states) - 2, 3):
            rows = [3 * (at - 1) for at in range(step, step + 3)]
            own = times.taken(rows, [float(times.quarters[row]) for row in rows])
            theta = own.ceilings(true).min() * np.exp(chance.normal(0, 0.06))
            climb = Climb(float(own.ceilings(np.ones(6)).min()))
            for _ in range(16):
                tempo = climb.next_tempo()
                clean = bool(chance.random() < 1 / (1 + np.exp(-(np.log(theta) - np.log(tempo)) / 0.06)))
                climb = climb.after(tempo, clean=clean)
                one = rep(tempo, keys_of(made, Range(step - 1, step + 2)), Clean.CLEAN if clean else Clean.NOT)
                reps.append(replace(one, riff=riff_hash(made.riff)))
    return reps


def test_every_time_of_the_model_belongs_to_one_factor() -> None:
    assert set(time_constants()) == set(FACTOR_OF)


def test_movements_taken_apart_give_the_plans_own_ceiling() -> None:
    for name in ("skips", "shifts", "legato", "rolls"):
        made = material()[name]
        assert movement_times(made).ceilings(np.ones(6)).min() == pytest.approx(made.ceiling, rel=1e-9)
        factors = {Factor.SHIFT: 1.5, Factor.ONE_STRING: 0.8}
        scaled = np.array([factors.get(factor, 1.0) for factor in Factor])
        slower = replace(made, hands=with_factors(made.hands, factors))
        own = movement_times(slower).ceilings(np.ones(6))
        assert own == pytest.approx(movement_times(made).ceilings(scaled), rel=1e-9)


def test_limits_of_riffs_that_were_not_practised_are_foretold() -> None:
    """Planted factors of six players: 5 % in the middle, and intervals that hold them."""
    practised_ = [material()[name] for name in ("sixteenths", "skips", "shifts", "legato", "rolls")]
    others = [material()[name] for name in ("triplets", "kiln-stairs", "lamplighter")]
    off, held = [], []
    for seed in range(6):
        chance = np.random.default_rng(seed)
        true = np.exp(0.15 * chance.standard_normal(6) + 0.2 * chance.standard_normal())
        found = not_none(six_factors(practised_, History(climbed(practised_, true, seed), START)))
        for one in others:
            real = float(movement_times(one).ceilings(true).min())
            low, middle, high = found.ceiling(one)
            off.append(abs(np.log(middle / real)))
            held.append(low < real < high)
    assert np.median(off) < 0.05
    assert np.mean(held) > 0.7


def test_too_few_repetitions_say_nothing() -> None:
    made = material()["shifts"]
    reps = climbed([made], np.ones(6), 1)
    assert six_factors([made], History(reps[:11], START)) is None
    assert six_factors([material()["bass"]], History(reps, START)) is None
