"""What a school asks, where it holds back, and what it is made for."""

from __future__ import annotations

import pytest

from dromic.formats.rifftext.reader import read_riff_text
from dromic.hands.picking import PICK
from dromic.instrument.presets import instrument_named
from dromic.planner.told.school_profile import asks, made_for_others, worst_spots
from dromic.schools.registry import SCHOOLS, school_named
from tests.helpers import plan

REEL = read_riff_text("| 5:3/8 4:5 3:5 2:5 1:5 2:5 3:5 4:5 | 5:3 5:7 4:5 4:7 3:4 3:7 2:5 1:7 |").riff
JIG = read_riff_text("meter: 6/8\n| 5:3/8 4:5 3:5 2:5 1:5 2:5 |").riff


def test_schools_for_something_else_are_known() -> None:
    """Two fingers on a guitar, and jig strokes in four: common practice, no source."""
    guitar, bass = instrument_named("guitar-6"), instrument_named("bass-4")
    told = {name: made_for_others(school, REEL, guitar) for name, school in SCHOOLS.items()}
    assert {name for name, words in told.items() if words} == {"bass-two-finger", "jig"}
    assert not made_for_others(school_named("jig"), JIG, guitar)
    assert not made_for_others(school_named("bass-two-finger"), REEL, bass)


@pytest.mark.parametrize("school", ["strict-alternate", "economy", "hybrid", "sparse", "sweep"])
def test_the_worst_spots_are_those_of_the_ceilings(school: str) -> None:
    planned = plan(REEL, school)
    spots = {spot.who: spot for spot in worst_spots(planned)}
    assert spots["picking"].ceiling == planned.ceilings.pick
    assert spots["fretting"].ceiling == planned.ceilings.fret
    assert spots["together"].ceiling == planned.ceiling
    hardest = max((event for event in planned.events if event.step is not None), key=lambda one: one.loads.largest)
    assert spots["together"].where == hardest.moment.place_words
    assert planned.tempo / hardest.loads.largest == pytest.approx(spots["together"].ceiling)


def test_schools_ask_for_what_they_are_known_for() -> None:
    """Economy sweeps, alternate changes strings, hybrid plucks, sparse slurs: common practice, no source."""
    assert "sweep stroke" in asks(plan(REEL, "economy"))
    alternate = asks(plan(REEL, "strict-alternate"))
    assert "sweep" not in alternate
    assert "outside change" in alternate
    sparse = plan(REEL, "sparse")
    slurred = sum(not state.sounded for state in sparse.states)
    assert f"{slurred} slur{'' if slurred == 1 else 's'} that" in asks(sparse)
    hybrid = plan(REEL, "hybrid")
    plucked = sum(state.stroke not in PICK for state in hybrid.states)
    assert plucked
    assert f"{plucked} plucked note" in asks(hybrid)


def test_nothing_asked_is_said_too() -> None:
    still = plan(read_riff_text("| 6:0/4 6:0 6:0 6:0 |").riff, "strict-alternate")
    assert asks(still).startswith("It asks nothing of the pick but to stay on its string; the hand stays where")
