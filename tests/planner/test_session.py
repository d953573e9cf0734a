"""Trying single choices: always the plan that a new search with that lock would find."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.errors import NoPlanError
from dromic.hands.profile import hands_named
from dromic.instrument.presets import instrument_for
from dromic.music.pitch import parse_pitch
from dromic.music.rhythm import Meter
from dromic.music.riff import Note, Place, Riff
from dromic.planner.planning import Request
from dromic.planner.reasons import model_of, reason_for
from dromic.planner.session import Session
from dromic.planner.ways import OtherFinger
from dromic.schools.registry import school_named
from tests.helpers import line, plan
from tests.strategies import pitch_lines

PITCHES = ["E2", "G2", "C3", "F#3", "B3", "E4"]
REQUEST = Request(hands_named("medium"), school_named("least-motion"))


@given(pitch_lines(most=9), st.sampled_from(["least-motion", "economy", "sparse", "hybrid"]), st.data())
@settings(max_examples=40)
def test_every_choice_costs_its_price(made: Riff, school: str, data: st.DataObject) -> None:
    priced = plan(made, school, alternatives=30)
    session = Session(made, Request(hands_named("medium"), school_named(school)))
    assert session.plan.cost == pytest.approx(priced.cost)
    step = data.draw(st.integers(0, len(priced.states) - 1))
    others = priced.event_of_step(step).alternatives
    if not others:
        return
    other = data.draw(st.sampled_from(others))
    tried = session.with_choice(step, other.way)
    assert tried.cost - priced.cost == pytest.approx(other.price, abs=1e-9)
    assert tried.ceiling == pytest.approx(other.ceiling)
    model = model_of(tried)
    total = sum(reason_for(tried, at, model).cost for at in range(len(tried.states)))
    assert total == pytest.approx(tried.cost)
    assert session.plan.cost == pytest.approx(priced.cost)


def test_a_forced_finger_is_the_plan_of_a_lock() -> None:
    made, locked = line("5:5 5:7 4:5 4:7", tempo=130), line("5:5 5:7@4 4:5 4:7", tempo=130)
    tried = Session(made, REQUEST).with_choice(1, OtherFinger(Place(5, 7), 4))
    assert tried.states == plan(locked).states


def test_what_cannot_be_played_is_refused() -> None:
    session = Session(line("5:5 5:7"), REQUEST)
    with pytest.raises(NoPlanError, match="cannot be played with finger 9 here"):
        session.with_choice(1, OtherFinger(Place(5, 7), 9))
    with pytest.raises(NoPlanError, match="choices are tried for least effort once through"):
        Session(line("5:5 5:7"), Request(hands_named("medium"), school_named("economy"), loop=True))


@given(pitch_lines(most=9), st.sampled_from(["least-motion", "economy", "cross-picking"]), st.data())
@settings(max_examples=30)
def test_an_edited_riff_is_planned_as_if_it_were_new(made: Riff, school: str, data: st.DataObject) -> None:
    session = Session(made, Request(hands_named("medium"), school_named(school)))
    for _ in range(3):
        made = _edited(made, data)
        session = session.edited(made)
        fresh = plan(made, school)
        assert session.plan.cost == pytest.approx(fresh.cost, rel=1e-12)
        assert session.plan.ceiling == pytest.approx(fresh.ceiling)
    step = data.draw(st.integers(0, len(session.plan.states) - 1))
    priced = plan(made, school, alternatives=5).event_of_step(step).alternatives
    if priced and school != "cross-picking":
        tried = session.with_choice(step, priced[0].way)
        assert tried.cost - session.plan.cost == pytest.approx(priced[0].price, abs=1e-9)


def _edited(made: Riff, data: st.DataObject) -> Riff:
    """The riff with a note changed, put in or taken out."""
    bar = made.phrases[0].bars[0]
    events = list(bar.events)
    at = data.draw(st.integers(0, len(events) - 1))
    new = replace(events[at], notes=(Note(parse_pitch(data.draw(st.sampled_from(PITCHES)))),))
    if not all(instrument_for(made).places(note.target.midi) for note in new.notes):
        new = events[at]
    kind = data.draw(st.sampled_from(["change", "insert", "delete"]))
    if kind == "delete" and len(events) > 1:
        del events[at]
    else:
        events[at : at + (kind == "change")] = [new]
    phrase = replace(made.phrases[0], bars=(replace(bar, events=tuple(events)),))
    return replace(made, phrases=(phrase,), meter=Meter(len(events), made.meter.unit))
