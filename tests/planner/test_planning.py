"""Plans as players ask for them: locks, settings, loops, prices, and clear refusals."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.demo.library import DemoRiff, demo_riffs
from dromic.errors import NoPlanError, RiffError
from dromic.hands.constants import PickingHand
from dromic.hands.profile import Hands, hands_named
from dromic.instrument.presets import instrument_named
from dromic.music.riff import Locks, Mark, Riff, Stroke
from dromic.planner.limits import Limits
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.planner.solving.solution import solve
from dromic.planner.told.reasons import model_of, reason_for, stretch_words
from dromic.planner.told.why import why
from dromic.schools.registry import SCHOOLS, school_named
from dromic.schools.school import PICK
from tests.helpers import fingers, line, not_none, places, plan, riff, strokes
from tests.strategies import pitch_lines, short_lines

PICK_SCHOOLS = sorted(name for name, school in SCHOOLS.items() if school.means == PICK and not school.slurs)


def test_fixed_places_stay_and_pitches_sound() -> None:
    made = line("5:5 C3 4:7 E4 1:0", tempo=90)
    planned = plan(made)
    assert [note.pitch for event in planned.events for note in event.notes] == [50, 48, 57, 64, 64]
    assert places(planned).split()[0] == "5:5"
    assert places(planned).split()[2] == "4:7"


def test_locks_are_kept() -> None:
    planned = plan(line("5:5@2!u 5:7^5 4:5@1 D4!d@3"))
    assert fingers(planned).split()[0] == "2"
    assert strokes(planned)[0] == "u"
    assert planned.events[1].position == 5
    assert fingers(planned).split()[2:] == ["1", "3"]
    assert strokes(planned)[3] == "d"


def test_what_is_freed_is_planned_anew() -> None:
    made = line("6:17@4!u 6:19@4", tempo=100)
    free = plan(made, free=frozenset({"strings", "fingers", "strokes"}))
    assert free.cost < plan(made).cost
    assert [note.pitch for event in free.events for note in event.notes] == [57, 59]
    assert "6:17" not in places(free)


def test_dead_notes_keep_their_place_even_when_strings_are_free() -> None:
    planned = plan(line("6:0.x 6:3 6:0.x"), free=frozenset({"strings"}))
    assert places(planned).split()[0] == "6:0"


def test_the_seam_of_a_loop_is_planned_and_counted() -> None:
    made = line("6:5 5:7 4:5 3:7 2:5 1:8", tempo=140)
    once, loop = plan(made), plan(made, loop=True)
    assert loop.cost > once.cost
    assert not_none(loop.ceiling) < not_none(once.ceiling)
    assert loop.events[0].loads.pick > 0
    assert once.events[0].loads.pick == 0
    seam = max(loop.events[0].loads.pick, loop.events[0].loads.sync)
    assert seam <= 140 / not_none(loop.ceiling) + 1e-9


def test_a_loop_of_an_odd_number_of_strokes_goes_round_in_two_rounds() -> None:
    even = plan(line("6:0 6:0 6:3 6:0"), "strict-alternate", loop=True)
    assert strokes(even) in ("dudu", "udud")
    assert not even.task.swapped
    odd = plan(line("6:0 6:0 6:3"), "strict-alternate", loop=True)
    assert strokes(odd) == "dud"
    assert odd.task.swapped
    assert odd.warnings == ("going round the loop, every second time has the other strokes",)
    assert strokes(plan(line("6:0 6:0 6:3!u"), "strict-alternate", loop=True)) == "udu"
    assert plan(line("6:0"), "economy", loop=True).task.swapped


def test_a_loop_that_begins_with_the_same_stroke_every_time_goes_against_the_school_at_its_seam() -> None:
    raked = plan(line("6:0 6:3 1:7.k"), "strict-alternate", loop=True)
    assert strokes(raked) == "dud"
    assert raked.warnings == ("against strict alternate: the seam, back to the start",)


@pytest.mark.parametrize("objective", ["effort", "tempo"])
@pytest.mark.parametrize("loop", [False, True])
def test_prices_are_what_forcing_the_choice_costs(loop: bool, objective: str) -> None:
    made = line("5:5 5:7 4:5 4:7 3:5", tempo=130)
    planned = plan(made, alternatives=20, loop=loop, objective=objective)
    assert planned.events[0].alternatives
    for event in planned.events:
        for other in event.alternatives:
            if other.kind not in ("stroke", "finger"):
                continue
            lock = (
                Locks(stroke=Stroke(other.words.split()[0]))
                if other.kind == "stroke"
                else Locks(finger=int(other.words.split()[1]))
            )
            forced = plan(_locked(made, event.moment.event_index, lock), loop=loop, objective=objective)
            assert forced.cost - planned.cost == pytest.approx(other.price, abs=1e-9)
            assert forced.ceiling == pytest.approx(other.ceiling)


def _locked(made: Riff, at: int, locks: Locks) -> Riff:
    phrase = made.phrases[0]
    events = list(phrase.bars[0].events)
    events[at] = replace(events[at], locks=locks)
    return replace(made, phrases=(replace(phrase, bars=(replace(phrase.bars[0], events=tuple(events)),)),))


@pytest.mark.parametrize("demo", demo_riffs(), ids=lambda demo: demo.name)
def test_what_a_choice_spares_adds_up_to_the_price_of_the_next_best(demo: DemoRiff) -> None:
    planned = plan(demo.riff, demo.school, alternatives=12)
    model = model_of(planned)
    told = 0
    some = range(0, len(planned.states), 7)
    for step in some:
        compared = why(planned, step, model)
        if compared is None:
            continue
        told += 1
        balance = sum(compared.spared.values()) - sum(compared.paid.values())
        assert balance == pytest.approx(compared.other.price, abs=1e-9)
        assert compared.words.endswith(".")
    assert told > 0.9 * len(some)


def test_why_is_said_in_a_sentence() -> None:
    planned = plan(line("6:0 6:0 5:7 5:9 4:7 4:9", tempo=100), "strict-alternate", alternatives=6)
    compared = not_none(why(planned, 3, model_of(planned)))
    assert re.fullmatch(
        r"It spares [a-z0-9 ]+(, at the price of [a-z0-9 ]+)?; .+ would add \d\.\d\d\.", compared.words
    )


def test_only_what_the_school_minds_is_a_spot() -> None:
    downs = plan(line("6:0 6:0 6:0 6:0", "8", tempo=120, meter="2/4"), "downstroke-first")
    assert not any(event.spots for event in downs.events)
    swung = plan(line("6:0!d 6:0 6:0 5:0 5:0 5:0", "8t", tempo=60, meter="2/4"), "strict-alternate")
    assert "up_on_beat" in swung.events[3].spots
    far = plan(line("6:0 1:0 6:0 6:12", "8", tempo=60, meter="2/4"), "strict-alternate")
    assert "skip" in far.events[1].spots
    shifted = plan(line("3:3 3:12", "8", tempo=60, meter="1/4"), "strict-alternate")
    assert "shift_far" in shifted.events[1].spots


def test_only_as_many_alternatives_as_asked_cheapest_first() -> None:
    planned = plan(line("E4 5:7 D4"), alternatives=3)
    for event in planned.events:
        prices = [other.price for other in event.alternatives]
        assert len(prices) == 3
        assert prices == sorted(prices)


REFUSED = [
    (r"(6:1 1:20)/1", r"\(6:1 1:20\) at bar 1 beat 1: no hand can hold these notes together; move one of them"),
    (r"(6:3@1 5:5@1)/1", r"\(6:3 5:5\) .* no hand can hold these notes together with these locks"),
    ("6:5.p/1", "5 at bar 1 beat 1: a pull-off has no note before it"),
    ("6:5/2 6:3.h", "6:3 at bar 1 beat 3 cannot be reached from 6:5 at bar 1 beat 1 .a hammer-on goes to a higher"),
    ("6:3/2 5:5.p", "cannot be reached from 6:3"),
    ("6:5/2 6:5.r", "a release has no bend before it"),
    ("6:0.b2/1", "an open string cannot be bent"),
    ("6:5/2 6:7.h!d", "a hammer-on is not picked, but its stroke is locked to down"),
    ("(6:5 5:5)!i/1", "is locked to be plucked with i, but one finger does not pluck several strings"),
    ("6:1@4^9/1", "6:1 cannot be played with finger 4 in position 9; take out a lock"),
    ("r/1", "there are only rests here, so there is nothing to plan"),
    ("6:5@3/2 6:3.p@3", "two locks contradict each other under least motion: 6:5 .* locked to finger 3 and 6:3"),
]


@pytest.mark.parametrize(("bars", "message"), REFUSED, ids=[bars for bars, _ in REFUSED])
def test_refusals_name_the_note_and_the_way_out(bars: str, message: str) -> None:
    with pytest.raises(NoPlanError, match=message) as caught:
        plan(riff(f"| {bars} |"))
    assert caught.value.event_index is not None or "rests" in message


@pytest.mark.parametrize(
    ("notes", "school", "played"),
    [
        ("6:0!d 6:0 6:0!u", "strict-alternate", "duu"),
        ("6:0!u 6:0", "pulse-alternate", "ud"),
        ("6:0!d 6:0!d", "economy", "dd"),
        ("6:0!d 5:0!u", "new-string-down", "du"),
    ],
)
def test_locks_against_the_school_are_played_and_told(notes: str, school: str, played: str) -> None:
    planned = plan(line(notes), school)
    assert strokes(planned) == played
    assert planned.warnings[0].startswith("as locked, against ")


@pytest.mark.parametrize("school", list(SCHOOLS))
def test_any_finger_plucks_any_string_in_every_school(school: str) -> None:
    planned = plan(line("6:3!m 4:5!a 2:5!c 1:3 5:3!m"), school)
    wanted = ["m", "a", "c", None, "m"]
    told = [str(event.stroke) for event in planned.events]
    assert all(want in (None, stroke) for want, stroke in zip(wanted, told, strict=True))


@pytest.mark.parametrize("school", list(SCHOOLS))
def test_hammered_from_nowhere_in_every_school(school: str) -> None:
    planned = plan(line("6:5 5:7.h 5:5.p"), school)
    assert [event.legato for event in planned.events] == [None, Mark.HAMMER, Mark.PULL]
    first = plan(line("6:5.h 6:7"), school)
    assert first.events[0].legato is Mark.HAMMER


def test_slides_from_and_to_nowhere_and_a_release_that_is_struck() -> None:
    planned = plan(riff("| 3:7.s/4 2:8.s 2:8.o 2:5 |"), "pulse-alternate")
    assert strokes(planned) == "dddd"
    struck = plan(riff("| 3:7.b2/2 3:7.r!u |"))
    assert strokes(struck) == "du"
    assert struck.states[1].grip == struck.states[0].grip


def test_notes_that_the_instrument_does_not_have() -> None:
    bass = instrument_named("bass-4")
    request = Request(plan(line("6:0")).hands, school_named("economy"))
    with pytest.raises(NoPlanError, match="E6 at bar 1 beat 1: E6 cannot be played on bass-4 in this tuning"):
        plan_riff(line("E6"), request, bass)
    with pytest.raises(NoPlanError, match="6:0 at bar 1 beat 1: bass-4 has 4 strings and 24 frets"):
        plan_riff(line("6:0"), request, bass)


def test_work_can_be_watched_and_cancelled() -> None:
    shares: list[float] = []
    made = line("6:0 6:3 5:2 5:5")
    request = Request(plan(made).hands, school_named("least-motion"), alternatives=2)
    plan_riff(made, request, watch=shares.append)
    assert shares == sorted(shares)
    assert shares[-1] == 1.0

    class EnoughError(Exception):
        pass

    def stop(_share: float) -> None:
        raise EnoughError("enough")

    with pytest.raises(EnoughError, match="enough"):
        plan_riff(made, request, watch=stop)


@given(pitch_lines(most=10), st.sampled_from(PICK_SCHOOLS))
@settings(max_examples=40)
def test_plans_are_the_same_every_time_and_no_school_beats_no_school(made: Riff, school: str) -> None:
    ruled = plan(made, school)
    assert ruled == plan(made, school)
    assert ruled.cost >= plan(made, "least-motion").cost - 1e-9
    assert ruled.cost >= 0


@given(short_lines(most=8, legato=False))
@settings(max_examples=40)
def test_slower_is_never_harder(made: Riff) -> None:
    slow = plan(replace(made, tempo=made.tempo * 0.8), objective="tempo")
    fast = plan(made, objective="tempo")
    if fast.ceiling is not None and slow.ceiling is not None:
        assert slow.tempo / slow.ceiling <= fast.tempo / fast.ceiling + 1e-9
        assert slow.ceiling == pytest.approx(fast.ceiling)


@given(short_lines(most=7, legato=False), st.integers(0, 6), st.sampled_from([Stroke.DOWN, Stroke.UP]))
@settings(max_examples=40)
def test_more_locks_are_never_cheaper(made: Riff, at: int, stroke: Stroke) -> None:
    events = made.written_events()
    notes = [index for index, event in enumerate(events) if event.notes]
    free = plan(made)
    at = notes[at % len(notes)]
    locked = plan(_locked(made, at, replace(events[at].locks, stroke=stroke)))
    assert locked.cost >= free.cost - 1e-9


@given(short_lines(most=8))
@settings(max_examples=40)
def test_highest_tempo_has_the_higher_ceiling_and_least_effort_the_lower_cost(made: Riff) -> None:
    try:
        effort, tempo = plan(made), plan(made, objective="tempo")
    except NoPlanError:
        return
    assert effort.cost <= tempo.cost + 1e-9
    if effort.ceiling is not None and tempo.ceiling is not None:
        assert tempo.ceiling >= effort.ceiling * (1 - 1e-6)


@pytest.mark.parametrize("demo", demo_riffs(), ids=lambda demo: demo.name)
def test_reasons_add_up_to_the_cost_of_the_plan(demo: DemoRiff) -> None:
    planned = plan(demo.riff, demo.school)
    model = model_of(planned)
    reasons = [reason_for(planned, step, model) for step in range(len(planned.states))]
    assert sum(reason.cost for reason in reasons) == pytest.approx(planned.cost)
    for reason, step in zip(reasons, planned.task.steps, strict=True):
        event = planned.event_of_step(planned.task.steps.index(step))
        assert reason.loads == event.loads
        for hand in reason.hands:
            assert hand.needed_ms == pytest.approx(hand.load * hand.gap_ms)
    assert planned.ceiling == pytest.approx(planned.tempo / max(limit.load for limit in planned.bottlenecks))


def test_reasons_in_words() -> None:
    hands = replace(Hands(), picking=PickingHand(turns=False))
    planned = plan(line("5:5!d 4:5!u 1:9", tempo=120), hands=hands)
    reason = reason_for(planned, 1)
    assert reason.where == "bar 1 beat 1 e"
    assert reason.what.startswith("string 4, fret 5, ")
    assert reason.what.endswith("up stroke")
    assert reason.hands[0].words == "outside change, with strings to lift over"
    ruled = reason_for(plan(line("6:0 5:0"), "economy"), 1)
    assert ruled.school == ("the string changes toward the thin strings, so the pick carries on down",)


def test_a_far_stretch_comes_with_a_caution() -> None:
    planned = plan(line("6:1@1^1 6:5@4^1"))
    assert "stop if it hurts" in stretch_words(planned, 1, model_of(planned))
    assert stretch_words(planned, 0, model_of(planned)) == ""


def test_header_errors_reach_the_caller() -> None:
    with pytest.raises(RiffError, match="tuning: found 'x'"):
        plan_riff(replace(line("6:0"), tuning="x"), Request(plan(line("6:0")).hands, school_named("economy")))


def test_rests_ties_and_legato_carry_no_stroke() -> None:
    planned = plan(riff("| 6:5/4 6:7.h 6:7.t r |"))
    assert [str(event.stroke) for event in planned.events] == ["down", "none", "none", "none"]
    assert [event.rest for event in planned.events] == [False, False, False, True]


def test_a_riff_that_rings_throughout_is_planned_at_any_length() -> None:
    """Once it was planned anew for every note let go: seconds for 400 notes, and a traceback for 1,100."""
    notes = [f"{string}:{fret}.l" for string, fret in ((5, 3), (4, 2), (3, 0), (2, 1), (1, 0), (2, 1), (3, 0))]
    bars = [" ".join(notes[index % 7] for index in range(start, start + 16)) for start in range(0, 1200, 16)]
    bars[0] = bars[0].replace(".l", ".l/16", 1)
    planned = plan(riff(f"| {' | '.join(bars)} |", tempo=90))
    assert len(planned.states) == 1200
    assert any(event.held for event in planned.events)


def test_a_phrase_is_played_by_the_school_that_the_riff_names() -> None:
    made = riff("[A] | 6:0/8 6:0 6:0 6:0 |\n[B = downstroke-first] | 6:0/8 6:0 6:0 6:0 |", meter="2/4", tempo=80)
    assert strokes(plan(made, "strict-alternate"))[4:] == "dddd"
    assert strokes(plan(made, "strict-alternate"))[:4] in ("dudu", "udud")
    other = {"B": school_named("pulse-alternate")}
    assert strokes(plan(made, "strict-alternate", by_phrase=other))[4:] == "dudu"


def test_gaps_are_those_of_the_tempo_in_force() -> None:
    text = "| 6:0/8 6:3 6:5 6:3 6:0 6:3 6:5 6:3 |"
    even, quick = plan(riff(f"{text} {text}")), plan(riff(f"{text} {{tempo 240}} {text}"))
    gaps = [round(link.gap_ms) for link in quick.task.links]
    assert gaps == [250] * 8 + [125] * 7
    assert not_none(quick.ceiling) == pytest.approx(not_none(even.ceiling) / 2, rel=0.2)
    assert quick.bottlenecks[0].text.startswith("bar 2")


def test_what_cannot_be_played_otherwise_has_no_prices() -> None:
    roll = "3:0!u 2:0!d 4:0!u 3:0!d 2:0!u 4:0!d 3:0!u"
    fixed = riff(f"| 4:0!d/16 {roll} 4:0!d {roll} |")
    assert all(not event.alternatives for event in plan(fixed, alternatives=12).events[8:])


def test_a_plan_of_the_slowest_riff_names_what_holds_it_back() -> None:
    slow = plan(riff("| 5:5/2 5:7 |", tempo=20))
    assert max(event.loads.largest for event in slow.events) < 0.1
    assert [one.load for one in slow.bottlenecks] == [max(event.loads.largest for event in slow.events)]


def test_a_span_is_one_to_twelve_frets() -> None:
    for span in (1, 12):
        assert Limits(span=span).span == span
    for span in (0, 13):
        with pytest.raises(RiffError, match=rf"span: found {span}, expected 1 to 12 frets"):
            Limits(span=span)


def test_the_models_of_all_schools_are_kept_while_they_are_compared() -> None:
    made = riff("| 5:5/8 5:7 4:5 4:7 (3:5 2:5)/2 |")
    solutions = [solve(made, Request(hands_named("medium"), school)) for school in SCHOOLS.values()]
    every = [one for solution in solutions for one in (solution, *solution.other_forms)]
    models = [one.problem.model for one in every]
    assert [one.problem.setting.model(one.problem.task.steps) for one in every] == models
