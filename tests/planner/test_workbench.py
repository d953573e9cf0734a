"""The workbench: whatever changes from one call to the next, its plans are those of planning anew."""

from __future__ import annotations

import gc
import re
import weakref
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.errors import NoPlanError
from dromic.hands.profile import hands_named
from dromic.music.riff import Riff
from dromic.planner.planning import Request, plan_riff
from dromic.planner.workbench import Workbench
from dromic.schools.registry import school_named
from tests.helpers import line
from tests.strategies import short_lines

REQUEST = Request(hands_named("medium"), school_named("pulse-alternate"), alternatives=6)
REQUESTS = st.builds(
    replace,
    st.just(REQUEST),
    school=st.sampled_from([school_named(name) for name in ("pulse-alternate", "economy", "cross-picking")]),
    objective=st.sampled_from(["effort", "effort", "tempo"]),
    loop=st.booleans(),
    alike=st.booleans(),
    tempo=st.sampled_from([None, None, 140.0]),
    alternatives=st.sampled_from([0, 6]),
)


@given(st.data())
@settings(max_examples=40)
def test_whatever_changes_the_plans_are_those_of_planning_anew(data: st.DataObject) -> None:
    bench = Workbench()
    riff = data.draw(short_lines(decided=True))
    request = data.draw(REQUESTS)
    for _ in range(4):
        change = data.draw(st.sampled_from(["riff", "lock", "plan_settings", "nothing"]))
        if change == "riff":
            riff = data.draw(short_lines(decided=True))
        elif change == "lock":
            riff = _with_other_note(riff, data)
        elif change == "plan_settings":
            request = data.draw(REQUESTS)
        try:
            wanted = plan_riff(riff, request)
        except NoPlanError as error:
            refusal = re.escape(str(error))
            with pytest.raises(NoPlanError, match=f"^{refusal}$"):
                list(bench.plans(riff, request))
            continue
        first, *rest = bench.plans(riff, request)
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
    bench = Workbench()
    known = []
    for fret in range(5, 9):
        list(bench.plans(line(f"5:5 5:{fret} 4:5"), REQUEST))
        known.append(weakref.ref(bench._answer.problem))
    gc.collect()
    assert known[-1]() is not None
    assert all(one() is None for one in known[:-1])


def test_what_is_given_up_leaves_the_workbench_as_it_was() -> None:
    class EnoughError(Exception):
        pass

    def watch(_share: float) -> None:
        raise EnoughError

    bench = Workbench()
    list(bench.plans(line("5:5 5:7 4:5"), REQUEST))
    with pytest.raises(EnoughError, match=r"^$"):
        list(bench.plans(line("5:5 4:7 4:5 3:9"), REQUEST, watch))
    riff = line("5:5 4:7 4:5")
    *_, last = bench.plans(riff, REQUEST)
    assert last.cost == pytest.approx(plan_riff(riff, REQUEST).cost)
