"""A session from a plan: as long as asked, its blocks playable, its reasons told, moved by what the log says."""

from __future__ import annotations

import json
from datetime import UTC, datetime

import pytest

from dromic.demo.library import demo_riffs
from dromic.errors import RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.hands.profile import hands_named
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.practice.log.history import History
from dromic.practice.log.logbook import Clean, Rep
from dromic.practice.movement import movements
from dromic.practice.passages.drill import KINDS
from dromic.practice.session.session import session_for
from dromic.reports.session_text import write_session_json, write_session_text
from dromic.schools.registry import school_named
from tests.helpers import not_none, plan, riff


@pytest.mark.parametrize("number", range(5))
@pytest.mark.parametrize("minutes", [5, 12, 30, 60])
def test_sessions_of_the_demo_riffs(number: int, minutes: int) -> None:
    demo = demo_riffs()[number]
    made = plan_riff(demo.riff, Request(hands_named("medium"), school_named(demo.school)))
    session = session_for(made, minutes)
    blocks = session.blocks
    assert sum(block.minutes for block in blocks) == minutes
    assert blocks[0].kind == "warm-up"
    assert blocks[-1].kind != "break"
    assert blocks[0].tempo_to <= 0.6 * min(block.tempo_to for block in blocks[1:] if block.riff is not None) + 1
    assert all(block.reason.endswith(".") for block in blocks)
    assert session.after >= session.now
    played = 0
    for block in blocks:
        played = 0 if block.kind == "break" else played + block.minutes
        assert played <= 20
    data = json.loads(write_session_json(session))
    assert (data["schema"], data["minutes"]) == (1, minutes)
    for block in data["blocks"]:
        assert block["kind"] in {*KINDS, "break"}
        if block["riff"]:
            small = plan_riff(
                read_riff_text(block["riff"]).riff, Request(hands_named("medium"), school_named(demo.school))
            )
            assert small.events
            assert 20 <= block["tempo_from"] <= block["tempo_to"]
    assert write_session_text(session).count("\n") == 2 * len(blocks) + 4


def test_what_the_log_says_moves_the_session() -> None:
    made = plan(riff("| 6:5/16 5:7 6:5 5:7 6:5 5:7 6:5 5:7 1:5 1:8 1:5 1:8 1:5 1:8 1:5 1:8 |", tempo=120))
    keys = set(movements(made).keys)

    def known(tempo: float, clean: Clean, times: int) -> History:
        when = datetime(2026, 5, 4, 18, 0, tzinfo=UTC)
        return History([Rep(when, tempo, (key,), clean=clean) for key in keys] * times, when)

    plain, good = session_for(made, 20), session_for(made, 20, known(200.0, Clean.CLEAN, 12))
    assert good.now > plain.now
    stuck = session_for(made, 20, known(60.0, Clean.NOT, 3))
    assert stuck.now < plain.now
    assert "chain" in {block.kind for block in stuck.blocks}
    assert any("three times not clean" in block.reason for block in stuck.blocks)
    assert 2 in {block.density for block in stuck.blocks}


def test_a_tied_note_stays_where_it_was_put() -> None:
    made = plan(riff("| E4/4 G4 A4 A4.t/8 C5 | D5/4 D5.t E5 G5 |"))
    for block in session_for(made, 12).blocks:
        if block.riff is not None:
            assert read_riff_text(write_riff_text(block.riff)).riff.written_events()


def test_riffs_and_minutes_that_make_no_session() -> None:
    with pytest.raises(RiffError, match="nothing to practise"):
        session_for(plan(riff("| 6:0/1 |")), 20)
    made = plan(riff("| 6:0/4 6:3 5:0 5:3 |"))
    for minutes in (0, 600):
        with pytest.raises(RiffError, match="minutes, expected 5 to 180"):
            session_for(made, minutes)
    assert not_none(session_for(made, 5).blocks[0].riff).section == "drill"
