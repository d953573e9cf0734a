"""Care, cards, the same figure elsewhere, and a smaller piece."""

from __future__ import annotations

import pytest

from dromic.demo.library import demo_riffs
from dromic.hands.profile import hands_named
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.practice.log.history import History
from dromic.practice.log.rates import ASSUMED
from dromic.practice.passages.elsewhere import same_figure
from dromic.practice.passages.take_apart import fretting_drill
from dromic.practice.session.candidates import works
from dromic.practice.session.care import CARDS, PAIN, cards_for, cautions
from dromic.practice.session.session import session_for, session_of
from dromic.practice.session.smaller import smaller_block
from dromic.practice.tempo.ladder import Range
from dromic.schools.registry import school_named
from tests.helpers import not_none, plan, riff


def titles(bars: str, **header: object) -> list[str]:
    return [card.title for card in cards_for(plan(riff(bars, **header)), most=20)]


def test_cards_are_those_that_the_plan_needs() -> None:
    assert "Palm mute" in titles("| 6:0.m/8 6:3.m 6:0.m 6:3.m r/2 |")
    assert "Palm mute" not in titles("| 6:0/8 6:3 6:0 6:3 r/2 |")
    assert "Clean, then with gain" in titles("| 6:0/4 6:3 r/2 |", gain="high")
    assert titles("| 4:0/4 4:3 r/2 |", instrument="bass-4")[0] == "Plucking hand"
    assert "Grip" not in titles("| 4:0/4 4:3 r/2 |", instrument="bass-4")
    assert "Shift" in titles("| 6:1@1/4 6:12@1 r/2 |")
    made = plan(riff("| 3:5/8 3:7 3:8 3:7 r/2 |"))
    assert cards_for(made, fretting_drill(made, Range(0, 3)))[0].title == "Damper"
    # One sentence each, and no advice that only a doctor can give.
    assert all(card.words.endswith(".") and card.words.count(".") == 1 for card in CARDS)
    assert "doctor or a hand therapist" in PAIN


def test_cautions_come_where_they_are_called_for() -> None:
    made = plan(riff("| 3:5/8 3:7 3:8 3:7 r/2 |"))
    assert cautions(made, 30) == ()
    (long,) = cautions(made, 90)
    assert "hour" in long
    (fast,) = cautions(made, tempo=10_000.0)
    assert "above the ceiling" in fast
    (wide,) = cautions(plan(riff("| 6:1@1^2/8 6:6@4^2 6:1@1^2 6:6@4^2 r/2 |")))
    assert "beyond what your hand spans" in wide


def test_tight_hands_have_a_shorter_day() -> None:
    made = plan(riff("| 6:5/16 5:7 6:5 5:7 6:5 5:7 6:5 5:7 1:5 1:8 1:5 1:8 1:5 1:8 1:5 1:8 |", tempo=120))
    assert session_for(made, 40, felt=3).minutes == 40
    session = session_for(made, 40, felt=4)
    assert session.minutes == sum(block.minutes for block in session.blocks) == 24
    assert "24 minutes in place of 40" in session.remarks[0]


def test_the_same_figure_is_found_where_it_is_easier_and_in_no_other_instrument() -> None:
    plans = [
        plan_riff(demo.riff, Request(hands_named("medium"), school_named(demo.school))) for demo in demo_riffs()
    ]
    kiln = plans[0]
    found = [one for work in works(kiln, History(), ASSUMED) for one in same_figure(work.drill, kiln, plans)]
    assert found
    for one in found:
        assert one.plan.instrument.name == kiln.instrument.name
        assert one.load < max(event.loads.largest for event in kiln.events)
        assert 0 < one.shared <= 1
    alone = plan(riff("| 6:0/16 1:12 6:0 1:12 6:0 1:12 6:0 1:12 r/2 |", tempo=200))
    assert same_figure(works(alone, History(), ASSUMED)[0].drill, alone, [alone]) == ()


def test_a_smaller_piece_is_the_last_notes_before_the_hard_one() -> None:
    made = plan(riff("| 5:5/16 5:7 5:5 5:7 5:5 5:7 3:5 3:7 5:5 5:7 5:5 5:7 r/4 |", tempo=140))
    block = session_of(made, Range(0, 11)).blocks[0]
    assert (block.minutes, block.kind, block.riff_number) == (10, "spot", 0)
    small = smaller_block(made, block)
    drill = not_none(small.drill)
    assert (small.kind, drill.chosen.last - drill.chosen.first) == ("chain", 3)
    smallest = not_none(smaller_block(made, small).drill)
    assert smallest.chosen.last - smallest.chosen.first == 1
    assert small.reason.startswith("Three times not clean")


@pytest.mark.parametrize("clean", [True, False])
def test_a_riff_that_is_clean_above_its_tempo_is_told(clean: bool) -> None:
    from datetime import UTC, datetime

    from dromic.practice.log.logbook import Clean, Rep
    from dromic.practice.movement import movements

    made = plan(riff("| 6:5/16 5:7 6:5 5:7 6:5 5:7 6:5 5:7 r/2 |", tempo=90))
    when = datetime(2026, 5, 4, tzinfo=UTC)
    mark = Clean.CLEAN if clean else Clean.NOT
    known = History([Rep(when, 140.0, (key,), clean=mark) for key in movements(made).each for _ in range(9)], when)
    remarks = " ".join(session_for(made, 20, known).remarks)
    assert ("clean above its tempo" in remarks) is clean
