"""Work off the interface thread: results come one by one, the last question counts, errors come as words."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from functools import partial

from pytestqt.qtbot import QtBot

from dromic.app.document import STARTER, Document
from dromic.app.document_jobs import DocumentJobs
from dromic.app.jobs import Jobs, Watch, single
from dromic.errors import DromicError, NoPlanError, RiffError
from dromic.music.riff import Riff
from dromic.planner.plan_settings import PlanSettings


def listening(jobs: Jobs) -> tuple[list[object], list[DromicError | None]]:
    found: list[object] = []
    ended: list[DromicError | None] = []
    jobs.found.connect(found.append)
    jobs.finished.connect(ended.append)
    return found, ended


def test_only_the_last_thing_asked_for_is_found(qtbot: QtBot) -> None:
    jobs = Jobs(threads=2)
    found, _ = listening(jobs)
    late, begun = threading.Event(), threading.Event()

    def slow() -> str:
        begun.set()
        late.wait(10)
        return "slow"

    jobs.ask(single(slow))
    qtbot.waitUntil(begun.is_set)
    jobs.ask(single(lambda: "quick"))
    qtbot.waitUntil(lambda: bool(found))
    late.set()
    jobs.stop()
    qtbot.wait(50)
    assert found == ["quick"]
    assert not jobs.working


def test_the_work_runs_once_in_another_thread_after_the_pause(qtbot: QtBot) -> None:
    jobs = Jobs()
    found, _ = listening(jobs)
    names: list[str] = []

    def work(words: str) -> str:
        names.append(threading.current_thread().name)
        return words

    for words in ("a", "ab", "abc"):
        jobs.ask(single(partial(work, words)), pause_ms=80)
        assert jobs.working
    qtbot.waitUntil(lambda: bool(found))
    assert found == ["abc"]
    assert len(names) == 1
    assert names[0] != threading.current_thread().name


def test_results_come_as_they_are_found_and_errors_after_them(qtbot: QtBot) -> None:
    jobs = Jobs()
    found, ended = listening(jobs)

    def fails(error: Exception) -> Iterator[object]:
        yield 1
        raise error

    jobs.ask(lambda _watch: fails(RiffError("as it was")))
    qtbot.waitUntil(lambda: len(ended) == 1)
    assert (found, str(ended[0])) == ([1], "as it was")
    jobs.ask(lambda _watch: fails(ZeroDivisionError("of nothing")))
    qtbot.waitUntil(lambda: len(ended) == 2)
    assert "ZeroDivisionError: of nothing), which is a defect in the program" in str(ended[1])


def test_the_share_of_the_work_is_told_and_cancelling_ends_it(qtbot: QtBot) -> None:
    jobs = Jobs()
    found, ended = listening(jobs)
    shares: list[float] = []
    jobs.progressed.connect(shares.append)

    def endless(watch: Watch) -> Iterator[object]:
        share = 0.0
        while True:
            share = min(share + 1e-6, 0.9)
            watch(share)
            if share < 0:
                yield share

    with qtbot.waitSignal(jobs.began):
        jobs.ask(endless)
    qtbot.waitUntil(lambda: len(shares) >= 2)
    with qtbot.waitSignal(jobs.cancelled):
        jobs.cancel()
    jobs.stop()
    assert shares == sorted(shares)
    assert not found
    assert not ended


def test_what_is_cancelled_in_the_pause_never_begins(qtbot: QtBot) -> None:
    jobs = Jobs()
    found, ended = listening(jobs)
    jobs.ask(single(lambda: "never"), pause_ms=50)
    jobs.cancel()
    assert not jobs.working
    qtbot.wait(120)
    assert (found, ended) == ([], [])


def started() -> Document:
    document = Document()
    document.start(STARTER)
    return document


def test_work_about_a_document_is_done_once_for_each_riff_and_settings(qtbot: QtBot) -> None:
    document, runs = started(), []

    def work(riff: Riff, _settings: PlanSettings, _watch: Watch) -> Iterator[object]:
        runs.append(riff)
        yield riff.title

    jobs = DocumentJobs(document, work)
    found, ended = listening(jobs)
    jobs.refresh()
    qtbot.waitUntil(lambda: len(ended) == 1)
    jobs.refresh()
    assert not jobs.working
    document.set_text(document.text.replace("First riff", "Second riff"))
    jobs.refresh()
    qtbot.waitUntil(lambda: len(ended) == 2)
    assert found == ["First riff", "Second riff"]
    assert len(runs) == 2


def test_cancelled_work_about_a_document_may_be_asked_for_again(qtbot: QtBot) -> None:
    go, runs = threading.Event(), []

    def slow(_riff: Riff, _settings: PlanSettings, watch: Watch) -> Iterator[object]:
        runs.append(1)
        go.wait(10)
        watch(0.5)
        if len(runs) < 2:
            raise NoPlanError("never told")
        yield "late"

    jobs = DocumentJobs(started(), slow)
    found, ended = listening(jobs)
    jobs.refresh()
    qtbot.waitUntil(lambda: bool(runs))
    jobs.cancel()
    go.set()
    jobs.stop()
    jobs.refresh()
    qtbot.waitUntil(lambda: bool(ended))
    assert (found, ended) == (["late"], [None])
