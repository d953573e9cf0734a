"""Gathering in a thread: things come one by one, errors come as words, and what is given up stays away."""

from __future__ import annotations

from collections.abc import Iterator
from threading import Event

from pytestqt.qtbot import QtBot

from dromic.app.document import STARTER, Document
from dromic.app.gathering import Gatherer, Watch
from dromic.errors import NoPlanError
from dromic.music.riff import Riff
from dromic.planner.plan_settings import PlanSettings


def started() -> Document:
    document = Document()
    document.start(STARTER)
    return document


def gathered(qtbot: QtBot, gatherer: Gatherer) -> tuple[list[object], str]:
    found: list[object] = []
    gatherer.found.connect(found.append)
    with qtbot.waitSignal(gatherer.finished, timeout=10_000) as blocker:
        gatherer.ask()
    return found, blocker.args[0]


def test_things_come_one_by_one_and_are_not_asked_for_twice(qtbot: QtBot) -> None:
    def work(riff: Riff, _wishes: PlanSettings, _watch: Watch) -> Iterator[object]:
        yield from (riff.title, 2, 3)

    document = started()
    gatherer = Gatherer(document, work)
    assert gathered(qtbot, gatherer) == ([document.reading.riff.title, 2, 3], "")
    gatherer.ask()
    assert not gatherer.working


def test_errors_and_defects_come_as_words_after_what_was_found(qtbot: QtBot) -> None:
    def impossible(_riff: Riff, _wishes: PlanSettings, _watch: Watch) -> Iterator[object]:
        yield 1
        raise NoPlanError("no hand reaches that")

    def defective(_riff: Riff, _wishes: PlanSettings, _watch: Watch) -> Iterator[object]:
        yield 1
        raise ZeroDivisionError("of nothing")

    assert gathered(qtbot, Gatherer(started(), impossible)) == ([1], "no hand reaches that")
    found, words = gathered(qtbot, Gatherer(started(), defective))
    assert found == [1]
    assert "a defect in the program: ZeroDivisionError: of nothing" in words


def test_what_is_given_up_stays_away_and_may_be_asked_for_again(qtbot: QtBot) -> None:
    go, runs = Event(), []

    def slow(_riff: Riff, _wishes: PlanSettings, watch: Watch) -> Iterator[object]:
        runs.append(1)
        go.wait(10)
        watch(0.5)
        yield "late"

    gatherer = Gatherer(started(), slow)
    found: list[object] = []
    gatherer.found.connect(found.append)
    gatherer.ask()
    qtbot.waitUntil(lambda: bool(runs))
    gatherer.cancel()
    go.set()
    gatherer.stop()
    qtbot.wait(20)
    assert not found
    assert gathered(qtbot, gatherer) == (["late"], "")
    assert len(runs) == 2
