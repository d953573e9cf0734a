"""The replanner: whatever changes from one call to the next, its plans are those of planning anew."""

from __future__ import annotations

import gc
import re
import sys
import weakref
from collections.abc import Callable, Hashable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from dataclasses import replace
from typing import TypeVar

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic import memory
from dromic.errors import NoPlanError, RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.hands.profile import hands_named
from dromic.instrument.presets import instrument_for
from dromic.music.pitch import parse_pitch
from dromic.music.rhythm import Meter
from dromic.music.riff import Note, Riff, Stroke
from dromic.planner.locking import with_alternative
from dromic.planner.plan import Objective, Plan
from dromic.planner.planning import plan_riff
from dromic.planner.replanner import Replanner
from dromic.planner.request import Request
from dromic.planner.told.reasons import model_of, reason_for
from dromic.planner.ways import OtherStroke
from dromic.schools.registry import school_named
from tests.helpers import line, not_none, pitch_of
from tests.strategies import pitch_lines, repeated_lines, short_lines

T = TypeVar("T")
REQUEST = Request(hands_named("medium"), school_named("pulse-alternate"), alternatives=6)
RIFFS = st.one_of(short_lines(decided=True), repeated_lines())
REQUESTS = st.builds(
    replace,
    st.just(REQUEST),
    school=st.sampled_from([school_named(name) for name in ("pulse-alternate", "economy", "cross-picking")]),
    objective=st.sampled_from([Objective.EFFORT, Objective.EFFORT, Objective.TEMPO]),
    loop=st.booleans(),
    identical_repeats=st.booleans(),
    hands=st.sampled_from([hands_named(name) for name in ("medium", "medium", "fast")]),
    tempo=st.sampled_from([None, None, 140.0]),
    alternatives=st.sampled_from([0, 6]),
)


@pytest.mark.parametrize("school", ["least-motion", "sparse", "cross-picking"])
def test_what_the_player_looks_at_is_priced_first(school: str) -> None:
    riff = line("6:5 6:8 5:5 5:7 4:5 4:7 3:5 3:7 2:5 2:8 1:5 1:8 2:8 2:5 3:7 3:5")
    request = replace(REQUEST, objective=Objective.TEMPO, school=school_named(school))
    wanted = [event.alternatives for event in plan_riff(riff, request).events]
    coming = Replanner().plans(riff, request, first=range(5, 8))
    plain, some = next(coming), next(coming)
    assert not any(event.alternatives for event in plain.events)
    told = [event.alternatives for event in some.events]
    assert told[5:8] == wanted[5:8]
    assert not any(told[:5] + told[8:])
    whole = next(coming)
    assert [event.alternatives for event in whole.events] == wanted
    assert next(coming, None) is None


@given(st.data())
@settings(max_examples=20)
def test_whatever_changes_the_plans_are_those_of_planning_anew(data: st.DataObject) -> None:
    replanner = Replanner()
    riff = data.draw(RIFFS)
    request = data.draw(REQUESTS)
    for _ in range(4):
        change = data.draw(st.sampled_from(["riff", "lock", "plan_settings", "nothing"]))
        if change == "riff":
            riff = data.draw(RIFFS)
        elif change == "lock":
            riff = _with_other_note(riff, data)
        elif change == "plan_settings":
            request = data.draw(REQUESTS)
        try:
            wanted = plan_riff(riff, request)
        except NoPlanError as error:
            refusal = re.escape(str(error))
            with pytest.raises(NoPlanError, match=f"^{refusal}$"):
                list(replanner.plans(riff, request))
            continue
        first, *rest = replanner.plans(riff, request)
        last = rest[-1] if rest else first
        assert len(rest) == bool(request.alternatives)
        assert not any(event.alternatives for event in first.events)
        assert last.cost == pytest.approx(wanted.cost, rel=1e-9, abs=1e-9)
        assert last.ceiling == pytest.approx(wanted.ceiling)
        assert last.states == wanted.states
        for one, two in zip(last.events, wanted.events, strict=True):
            prices = [other.price for other in one.alternatives]
            assert prices == pytest.approx([other.price for other in two.alternatives], abs=1e-9)


def _with_other_note(riff: Riff, data: st.DataObject) -> Riff:
    """The riff with the locks of one event taken from another."""
    phrase = riff.phrases[0]
    bar = phrase.bars[0]
    at = data.draw(st.integers(0, len(bar.events) - 1))
    giver = bar.events[data.draw(st.integers(0, len(bar.events) - 1))]
    events = list(bar.events)
    if not events[at].rest:
        events[at] = replace(events[at], locks=giver.locks)
    bars = (replace(bar, events=tuple(events)), *phrase.bars[1:])
    return replace(riff, phrases=(replace(phrase, bars=bars), *riff.phrases[1:]))


def test_the_riffs_before_the_last_are_forgotten() -> None:
    replanner = Replanner()
    known = []
    for fret in range(5, 9):
        list(replanner.plans(line(f"5:5 5:{fret} 4:5"), REQUEST))
        known.append(weakref.ref(not_none(replanner._solution).problem))
    gc.collect()
    assert known[-1]() is not None
    assert all(one() is None for one in known[:-1])


def test_identical_repeats_are_replanned_from_what_stayed() -> None:
    """The beginning changes, then the middle, then nothing: what lies before and behind is known already."""
    replanner, request = Replanner(), replace(REQUEST, identical_repeats=True)
    for first, middle in (("5:5", "4:5"), ("5:7", "4:5"), ("5:7", "4:7"), ("5:7", "4:7")):
        text = f"| {first}/4 5:8 4:5 4:7 |\n[A] | {middle}/4 4:7 3:5 3:7 | x3\n[B] | 2:5/4 2:8 1:5 1:8 |"
        riff = read_riff_text(text).riff
        *_, made = replanner.plans(riff, request)
        wanted = plan_riff(riff, request)
        assert made.cost == pytest.approx(wanted.cost)
        assert made.states == wanted.states


def test_what_is_given_up_leaves_the_replanner_as_it_was() -> None:
    class EnoughError(Exception):
        pass

    def watch(_share: float) -> None:
        raise EnoughError

    replanner = Replanner()
    list(replanner.plans(line("5:5 5:7 4:5"), REQUEST))
    with pytest.raises(EnoughError, match=r"^$"):
        list(replanner.plans(line("5:5 4:7 4:5 3:9"), REQUEST, watch))
    riff = line("5:5 4:7 4:5")
    *_, last = replanner.plans(riff, REQUEST)
    assert last.cost == pytest.approx(plan_riff(riff, REQUEST).cost)


PITCHES = ["E2", "G2", "C3", "F#3", "B3", "E4"]
LONG_REQUESTS = st.builds(
    replace,
    st.just(replace(REQUEST, alternatives=0)),
    school=st.sampled_from([school_named(name) for name in ("least-motion", "economy", "sparse", "hybrid")]),
    objective=st.sampled_from([Objective.EFFORT, Objective.EFFORT, Objective.TEMPO]),
    loop=st.booleans(),
)


@given(pitch_lines(most=24), LONG_REQUESTS, st.data())
@settings(max_examples=25)
def test_an_edited_line_is_planned_as_if_it_were_new(made: Riff, request: Request, data: st.DataObject) -> None:
    """Lines long enough for the sums behind a change to agree with those of before."""
    replanner = Replanner()
    with suppress(NoPlanError):
        list(replanner.plans(made, request))
    for _ in range(3):
        made = _edited(made, data)
        try:
            fresh = plan_riff(made, request)
        except NoPlanError as refusal:
            # An odd number of notes on one string does not go round in alternate strokes.
            with pytest.raises(NoPlanError, match=re.escape(str(refusal))):
                list(replanner.plans(made, request))
            continue
        (last,) = replanner.plans(made, request)
        assert last.cost == pytest.approx(fresh.cost, rel=1e-11)
        assert last.ceiling == pytest.approx(fresh.ceiling)
        assert last.states == fresh.states
        assert last.task == fresh.task
        assert last.events == fresh.events
        assert last.totals == pytest.approx(fresh.totals)


TEXTS = (
    "| 5:5/8 5:7.h 4:5 4:7.p 5:5.s r | E2.l/8 B2.l G3.l B2 r E2.m | A3/8 C4 E4 A4 E4 C4 |",
    "| 3:7.b2/8 3:7.r 2:8 2:5.v 3:7 3:5 | 6:0.m/8 6:0.m 5:3 5:5.s 4:5.T 4:2 | (5:3 4:5 3:5)/4 r 6:3/8 6:5 |",
    "| E2/8 G2 A2 E2 D3 E3 | A2/8 A3 B2 B3 C3 C4 | E2.l/8 G2 E3 B2/4 G#2/8 |",
)


@given(st.sampled_from(TEXTS), st.sampled_from(["least-motion", "economy", "sparse"]), st.booleans(), st.data())
@settings(max_examples=25)
def test_a_riff_edited_bar_by_bar_is_planned_as_if_it_were_new(
    text: str, school: str, loop: bool, data: st.DataObject
) -> None:
    request = Request(hands_named("medium"), school_named(school), loop=loop)
    replanner, words = Replanner(), text.split()
    notes = [at for at, word in enumerate(words) if re.match(r"[A-G\d]", word)]
    for _ in range(4):
        riff = read_riff_text("meter: 3/4\n" + " ".join(words)).riff
        try:
            fresh = plan_riff(riff, request)
        except (NoPlanError, RiffError) as refusal:
            with pytest.raises(type(refusal), match=re.escape(str(refusal))):
                list(replanner.plans(riff, request))
        else:
            (last,) = replanner.plans(riff, request)
            assert (last.states, last.task, last.events) == (fresh.states, fresh.task, fresh.events)
        at = data.draw(st.sampled_from(notes))
        _, slash, value = words[at].partition("/")
        words[at] = data.draw(st.sampled_from(["E3", "5:5", "4:7.h", "r", "A2.l", "3:7.s"])) + slash + value


@given(pitch_lines(most=9), st.sampled_from(["least-motion", "economy", "sparse", "hybrid"]), st.data())
@settings(max_examples=20)
def test_every_alternative_costs_its_price_when_it_is_locked(made: Riff, school: str, data: st.DataObject) -> None:
    request = replace(REQUEST, school=school_named(school), alternatives=30)
    replanner = Replanner()
    *_, priced = replanner.plans(made, request)
    step = data.draw(st.integers(0, len(priced.states) - 1))
    others = priced.event_of_step(step).alternatives
    if not others:
        return
    other = data.draw(st.sampled_from(others))
    try:
        locked = with_alternative(priced, step, other)
    except NoPlanError:
        assert other.way == OtherStroke(Stroke.NONE)
        return
    tried = next(replanner.plans(locked, request))
    assert tried.cost - priced.cost == pytest.approx(other.price, abs=1e-9)
    assert tried.ceiling == pytest.approx(other.ceiling)
    model = model_of(tried)
    total = sum(reason_for(tried, at, model).cost for at in range(len(tried.states)))
    assert total == pytest.approx(tried.cost)


def _edited(made: Riff, data: st.DataObject) -> Riff:
    """The riff with a note changed, put in or taken out."""
    bar = made.phrases[0].bars[0]
    events = list(bar.events)
    at = data.draw(st.integers(0, len(events) - 1))
    new = replace(events[at], notes=(Note(not_none(parse_pitch(data.draw(st.sampled_from(PITCHES))))),))
    if not all(instrument_for(made).places(pitch_of(note).midi) for note in new.notes):
        new = events[at]
    kind = data.draw(st.sampled_from(["change", "insert", "delete"]))
    if kind == "delete" and len(events) > 1:
        del events[at]
    else:
        events[at : at + (kind == "change")] = [new]
    phrase = replace(made.phrases[0], bars=(replace(bar, events=tuple(events)),))
    return replace(made, phrases=(phrase,), meter=Meter(len(events), made.meter.unit))


LINES = (
    "E2 G2 A2 B2 D3 E3 G3 A3",
    "5:5 5:7 4:5 4:7 5:5 5:7 4:5 4:7",
    "E4 D4 C4 B3 A3 G3 F3 E3",
    "6:0 6:3.h 5:0 6:0 r r",
)


def told(name: str, tempo: float) -> tuple[object, ...]:
    made = plan_riff(line(name, tempo=tempo), replace(REQUEST, loop=tempo > 150))
    return made.cost, made.states, [event.alternatives for event in made.events]


def test_what_is_forgotten_is_worked_out_again(monkeypatch: pytest.MonkeyPatch) -> None:
    """What is remembered of a player's hands between plans is let go of all the time, and no plan is another."""
    asked = [(name, tempo) for name in LINES for tempo in (120.0, 160.0)]
    remembered = [told(*one) for one in asked]
    monkeypatch.setattr(memory.Memo, "put", forgetful_put)
    assert [told(*one) for one in asked] == remembered


def forgetful_put(self: memory.Memo[object], arguments: tuple[Hashable, ...], value: object) -> object:
    """Keep two values at most."""
    self._most = min(self._most, 2)
    return KEEP(self, arguments, value)


KEEP = memory.Memo.put


def test_plans_made_at_the_same_time_do_not_disturb_each_other(monkeypatch: pytest.MonkeyPatch) -> None:
    asked = [(name, tempo) for tempo in (110.0, 130.0, 170.0) for name in LINES]
    alone = [told(*one) for one in asked]
    monkeypatch.setattr(memory.Memo, "put", forgetful_put)
    assert in_four_threads(lambda one: told(*one), asked * 3) == alone * 3


def test_threads_may_plan_one_riff_together() -> None:
    """One object of a riff, in which everything that is made of it is kept."""
    made = line("E2 G2 A2 B2 D3 E3 G3 A3", tempo=140)
    requests = [replace(REQUEST, loop=loop, tempo=tempo) for loop in (False, True) for tempo in (110.0, 150.0)]
    with memory.switched_off():
        alone = [seen(plan_riff(made, request)) for request in requests]
    assert in_four_threads(lambda request: seen(plan_riff(made, request)), requests * 4) == alone * 4


def seen(made: Plan) -> tuple[object, ...]:
    others = [(one.way, round(one.price, 9)) for event in made.events for one in event.alternatives]
    return made.states, made.events, round(made.cost, 9), others


def in_four_threads(work: Callable[[T], object], items: list[T]) -> list[object]:
    """What comes of items that are worked on by threads that take turns as often as they can."""
    interval = sys.getswitchinterval()
    sys.setswitchinterval(1e-5)
    try:
        with ThreadPoolExecutor(4) as threads:
            return list(threads.map(work, items))
    finally:
        sys.setswitchinterval(interval)
