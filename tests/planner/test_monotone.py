"""What must hold whatever the model's constants are."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.errors import NoPlanError
from dromic.hands.comfort import Comfort
from dromic.hands.constants import Lean, PickingHand
from dromic.hands.picking import pick_moves, pick_states
from dromic.hands.profile import Hands
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for
from dromic.music.riff import Locks, Riff, Stroke
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import SCHOOLS, school_named
from tests.helpers import line, not_none, plan, strokes
from tests.strategies import pitch_lines, short_lines

NAMES = sorted(SCHOOLS)


def with_locks(riff: Riff, locks: dict[int, Locks]) -> Riff:
    bar = riff.phrases[0].bars[0]
    events = tuple(
        replace(event, locks=locks[at]) if at in locks and not event.rest else event
        for at, event in enumerate(bar.events)
    )
    return replace(riff, phrases=(replace(riff.phrases[0], bars=(replace(bar, events=events),)),))


@given(pitch_lines(most=6), st.sampled_from(NAMES), st.booleans(), st.data())
@settings(max_examples=40)
def test_more_locks_are_never_cheaper(riff: Riff, school: str, loop: bool, data: st.DataObject) -> None:
    count = len(riff.phrases[0].bars[0].events)
    finger = data.draw(st.sampled_from([1, 2, 3, 4]))
    locks = {data.draw(st.integers(0, count - 1)): Locks(finger=finger)}
    more = locks | {data.draw(st.integers(0, count - 1)): Locks(finger=finger, stroke=Stroke.DOWN)}
    costs = []
    for some in ({}, locks, more):
        try:
            costs.append(plan(with_locks(riff, some), school, loop=loop).cost)
        except NoPlanError:
            costs.append(np.inf)
    assert costs[0] <= costs[1] + 1e-9
    assert costs[1] <= costs[2] + 1e-9 or locks.keys() == more.keys()


@given(
    st.one_of(short_lines(most=7, decided=True), pitch_lines(most=6)), st.sampled_from(NAMES), st.floats(1.05, 3)
)
@settings(max_examples=60)
def test_slower_is_never_a_higher_load(riff: Riff, school: str, factor: float) -> None:
    """The smallest largest load falls with the tempo; downstroke first is left out, for its rule depends on it."""
    if school == "downstroke-first":
        return
    try:
        fast = plan(riff, school, objective="tempo")
    except NoPlanError:
        return
    slow = plan(riff.at_tempo(riff.tempo / factor), school, objective="tempo")
    loads = [max((event.loads.largest for event in one.events), default=0.0) for one in (fast, slow)]
    assert loads[1] <= loads[0] * (1 + 1e-8)
    if fast.ceiling is not None:
        assert slow.ceiling == pytest.approx(fast.ceiling, rel=1e-6)


@given(pitch_lines(most=6), st.sampled_from(NAMES))
@settings(max_examples=30)
def test_no_plan_has_a_higher_ceiling_than_the_one_for_the_highest_tempo(riff: Riff, school: str) -> None:
    highest, least = plan(riff, school, objective="tempo"), plan(riff, school)
    if highest.ceiling is not None:
        assert not_none(highest.ceiling) >= not_none(least.ceiling) * (1 - 1e-8)
    assert highest.cost >= least.cost - 1e-9


@given(short_lines(most=6, decided=True), st.sampled_from(NAMES))
@settings(max_examples=30)
def test_least_motion_costs_no_more_than_any_school(riff: Riff, school: str) -> None:
    try:
        other = plan(riff, school)
    except NoPlanError:
        return
    if school not in ("hybrid", "bass-two-finger", "sparse"):
        assert plan(riff).cost <= other.cost + 1e-9


@given(pitch_lines(most=6), st.sampled_from(NAMES))
@settings(max_examples=20)
def test_plans_repeat_exactly(riff: Riff, school: str) -> None:
    assert plan(riff, school).states == plan(riff, school).states


def test_a_mirrored_hand_has_mirrored_times() -> None:
    """Strings in the opposite order, strokes and lean turned round: every move takes the same time."""
    y = np.array([0.0, 10.5, 21.0, 31.5])
    hand = PickingHand(turns=False)
    other = replace(hand, lean=Lean.DOWN_ESCAPES)
    one, two = (pick_moves(y, pick_states(each), each) for each in (hand, other))
    for name in ("time_ms", "travel_mm", "cleared", "inside", "outside", "sweep"):
        np.testing.assert_allclose(getattr(one, name), getattr(two, name)[::-1, ::-1, ::-1, ::-1])


@given(st.lists(st.integers(1, 6), min_size=2, max_size=8), st.sampled_from(["least-motion", "economy"]))
@settings(max_examples=30)
def test_mirrored_strings_mirror_the_strokes(strings: list[int], school: str) -> None:
    """Open strings, no wish for downs on beats: the mirrored riff costs the same, with strokes turned round."""
    even = Comfort(up_on_beat=0.0, down_between=0.0, up_on_accent=0.0, opens_up_either=0.0)
    picking = PickingHand(turns=False, odd_ms=0.0)
    hands = Hands(picking=picking, comfort=even)
    other = replace(hands, picking=replace(picking, lean=Lean.DOWN_ESCAPES))
    guitar: Instrument = instrument_for(Riff(()))

    def planned(order: list[int], player: Hands) -> tuple[float, str]:
        made = line(" ".join(f"{string}:0" for string in order), tempo=130)
        found = plan_riff(made, Request(player, school_named(school)), guitar)
        return found.cost, strokes(found)

    cost, found = planned(strings, hands)
    mirrored_cost, mirrored = planned([7 - string for string in strings], other)
    assert mirrored_cost == pytest.approx(cost)
    turned = mirrored.translate(str.maketrans("du", "ud"))
    # Where two plans cost the same, the mirrored riff may have the other one.
    assert turned == found or _cost_of(turned, strings, hands, school) == pytest.approx(cost)


def _cost_of(wanted: str, strings: list[int], hands: Hands, school: str) -> float:
    locked = " ".join(f"{string}:0!{stroke}" for string, stroke in zip(strings, wanted, strict=True))
    return plan(line(locked, tempo=130), school, hands=hands).cost


def test_a_lock_on_what_was_chosen_changes_nothing() -> None:
    made = line("E4 G4 B4 D5", tempo=140)
    free = plan(made)
    locks = {at: Locks(finger=state.finger or None) for at, state in enumerate(free.states)}
    assert plan(with_locks(made, locks)).cost == pytest.approx(free.cost)
