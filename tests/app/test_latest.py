"""Answers off the interface thread: the last question counts."""

from __future__ import annotations

import threading

from pytestqt.qtbot import QtBot

from dromic.app.latest import Latest
from dromic.errors import DromicError, RiffError


def asked() -> tuple[Latest[str], list[str | DromicError]]:
    answers: list[str | DromicError] = []
    return Latest(answers.append), answers


def test_only_the_last_answer_is_handed_over(qtbot: QtBot) -> None:
    latest, answers = asked()
    late, begun = threading.Event(), threading.Event()

    def slow() -> str:
        begun.set()
        late.wait(10)
        return "slow"

    latest.ask(slow)
    qtbot.waitUntil(begun.is_set)
    latest.ask(lambda: "quick")
    qtbot.waitUntil(lambda: bool(answers))
    late.set()
    qtbot.wait(100)
    assert answers == ["quick"]
    assert not latest.working


def test_the_work_runs_in_another_thread_after_the_pause(qtbot: QtBot) -> None:
    latest, answers = asked()
    names: list[str] = []

    def work(words: str) -> str:
        names.append(threading.current_thread().name)
        return words

    for words in ("a", "ab", "abc"):
        latest.ask(lambda words=words: work(words), pause_ms=80)  # type: ignore[misc]
        assert latest.working
    qtbot.waitUntil(lambda: bool(answers))
    assert answers == ["abc"]
    assert len(names) == 1
    assert names[0] != threading.current_thread().name


def test_errors_are_answers_too(qtbot: QtBot) -> None:
    latest, answers = asked()

    def fails(error: Exception) -> str:
        raise error

    latest.ask(lambda: fails(RiffError("as it was")))
    qtbot.waitUntil(lambda: len(answers) == 1)
    assert str(answers[0]) == "as it was"
    latest.ask(lambda: fails(ValueError("odd")))
    qtbot.waitUntil(lambda: len(answers) == 2)
    assert "a defect in the program: ValueError: odd" in str(answers[1])


def test_a_dropped_question_gets_no_answer(qtbot: QtBot) -> None:
    latest, answers = asked()
    latest.ask(lambda: "never", pause_ms=50)
    latest.drop()
    assert not latest.working
    qtbot.wait(150)
    assert answers == []
