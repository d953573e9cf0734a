"""The document needs no window."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from dromic.app.document import STARTER, Document
from dromic.app.document_changes import Change, PriceState
from dromic.errors import NoPlanError, RiffError
from dromic.planner.plan import Objective
from dromic.planner.plan_settings import PlanSettings
from dromic.planner.planning import plan_riff
from tests.helpers import not_none

GOOD = "tempo: 100\n| 5:5/8 5:7 4:5 4:7 r/2 |\n"


def opened(text: str = GOOD) -> tuple[Document, list[Change]]:
    document = Document()
    heard: list[Change] = []
    document.start(text)
    document.listen(heard.append)
    return document, heard


def answer(document: Document) -> None:
    assert document.reading is not None
    document.planned(plan_riff(document.reading.riff, document.plan_settings.request()), document.revision)


def test_good_text_becomes_a_riff_and_bad_text_keeps_the_last_good_one() -> None:
    document, heard = opened()
    before = document.reading
    document.set_text(GOOD.replace("5:7", "5:77"))
    assert isinstance(document.error, RiffError)
    assert document.reading is before
    assert heard == [Change.TEXT]
    document.set_text(GOOD.replace("5:7", "5:9"))
    assert document.error is None
    assert heard == [Change.TEXT, Change.TEXT, Change.RIFF]


def test_a_comment_changes_the_text_and_asks_for_no_plan_of_its_own() -> None:
    document, heard = opened()
    document.set_text(GOOD)
    assert heard == []
    document.set_text(GOOD.replace("100", "100 "))
    assert heard == [Change.TEXT]


def test_the_hardest_spot_is_chosen_first_and_a_choice_stays() -> None:
    document, _ = opened()
    answer(document)
    assert document.plan is not None
    assert document.plan.event_of_step(not_none(document.chosen)).loads.largest == max(
        event.loads.largest for event in document.plan.events
    )
    document.choose(1)
    document.set_plan_settings(replace(document.plan_settings, school="economy"))
    answer(document)
    assert document.chosen == 1
    document.set_text("| 5:5/1 |")
    answer(document)
    assert document.chosen == 0


def test_wishes_make_requests() -> None:
    document, heard = opened()
    document.set_plan_settings(PlanSettings("economy", Objective.TEMPO, "small", 90.0))
    assert heard == [Change.PLAN_SETTINGS]
    document.set_plan_settings(PlanSettings("economy", Objective.TEMPO, "small", 90.0))
    assert heard == [Change.PLAN_SETTINGS]
    request = document.plan_settings.request()
    assert (request.school.name, request.objective, request.hands.name, request.tempo) == (
        "economy",
        "tempo",
        "small",
        90.0,
    )
    assert document.tempo == 90
    document.set_plan_settings(replace(document.plan_settings, tempo=None))
    assert document.tempo == 100


def test_a_refusal_keeps_the_last_plan() -> None:
    document, _ = opened()
    answer(document)
    plan = document.plan
    document.failed(NoPlanError("no way"), document.revision)
    assert document.plan is plan
    assert str(document.error) == "no way"
    answer(document)
    assert document.error is None


def test_files(tmp_path: Path) -> None:
    document, heard = opened(STARTER)
    path = tmp_path / "a.riff"
    document.set_text(GOOD + "# mine\n")
    assert document.changed
    document.save(path)
    assert not document.changed
    assert path.read_text() == GOOD + "# mine\n"
    document.set_text("| broken")
    document.save(path)
    assert path.read_text() == "| broken"
    heard.clear()
    with pytest.raises(RiffError, match=r"a\.riff:1:3: found 'broken'"):
        document.open(path)
    assert heard == []
    path.write_text(GOOD)
    document.open(path)
    assert document.text == GOOD
    assert document.path == path
    assert not document.changed


def test_a_refusal_ends_the_waiting_for_prices() -> None:
    document = Document()
    document.start("| 6:5/4 6:7 5:5 5:7 |\n")
    document.planned(
        plan_riff(not_none(document.reading).riff, document.plan_settings.request()),
        document.revision,
        PriceState.COMING,
    )
    told: list[Change] = []
    document.listen(told.append)
    document.failed(NoPlanError("no hand reaches that"), document.revision)
    assert document.prices is PriceState.CANCELLED
    assert told == [Change.PLAN, Change.TEXT]
    assert document.plan is not None


def test_a_late_refusal_of_an_older_riff_hides_nothing_of_newer_text() -> None:
    document, _ = opened()
    asked = document.revision
    document.set_text("tempo: 100\n| 5:5/8 5:7 4:5 4:99 r/2 |\n")
    document.failed(NoPlanError("no hand reaches the older riff"), asked)
    assert isinstance(document.error, RiffError)
    assert document.text_error is document.error
    document.set_text(GOOD.replace("5:7", "5:9"))
    document.failed(NoPlanError("no hand reaches the older riff"), asked)
    assert document.error is None
    document.planned(plan_riff(document.reading.riff, document.plan_settings.request()), asked)
    assert document.plan is None


def test_a_riff_with_several_tempi_is_decided_at_another_tempo() -> None:
    document = Document()
    document.set_text("| 6:0/8 6:3 6:5 6:3 r/2 |\n{tempo 90} | 6:0/8 6:3 6:5 6:3 r/2 |\n")
    document.set_plan_settings(replace(document.plan_settings, tempo=97.0))
    document.planned(plan_riff(document.current_riff, document.plan_settings.request()), document.revision)
    document.keep(5)
    assert "{tempo 90} | 6:0/8 6:3!" in document.text
