"""Figures of practice: laying out a session as the window does, and opening a long log."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from pytest_benchmark.fixture import BenchmarkFixture

from benchmarks.timing import planned, seconds
from dromic.app.log.keeper import LogKeeper
from dromic.app.log.picture import draw_up
from dromic.app.practice.today import Asked, lay_out
from dromic.practice.log.logbook import Clean, Logbook, Rep
from dromic.practice.movement import movements, riff_hash

LONG = 100_000


@pytest.fixture(scope="module")
def long_log(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A log of many repetitions of one riff."""
    path = tmp_path_factory.mktemp("log") / "practice.sqlite"
    made = planned(0)
    keys, name = movements(made).each[:9], riff_hash(made.riff)
    begin = datetime(2020, 1, 1, tzinfo=UTC)
    book = Logbook(path)
    book.add(
        Rep(
            begin + timedelta(minutes=12 * number),
            60.0 + number % 80,
            keys[number % 5 : number % 5 + 4],
            riff=name,
            title="Kiln Stairs: bar 1",
            kind="spot",
            seconds=6.0,
            clean=Clean.CLEAN if number % 4 else Clean.NOT,
            uid=str(number),
        )
        for number in range(LONG)
    )
    book.close()
    return path


@pytest.mark.parametrize("number", range(5))
def test_a_session_of_thirty_minutes(benchmark: BenchmarkFixture, number: int) -> None:
    """As the window lays it out, the demo's log read with it; wanted: under 200 ms."""
    log = LogKeeper(demo=True)
    log.book()
    plan = planned(number)
    benchmark.pedantic(lambda: list(lay_out(Asked(plan), log, lambda _share: None)), rounds=5)
    ours, whole = (
        seconds(lambda: list(lay_out(Asked(plan), log, lambda _share: None))),
        seconds(lambda: planned(number)),
    )
    print(f"\nsession of 30 minutes, {plan.riff.title}: {1000 * ours:.0f} ms, {ours / whole:.1f} plans of the riff")
    log.close()


def test_a_long_log_opens(benchmark: BenchmarkFixture, long_log: Path) -> None:
    """100,000 repetitions opened and counted (wanted: under 300 ms), and what a session asks of them."""

    def opened() -> None:
        book = Logbook(long_log)
        assert book.count() == LONG
        book.minutes()
        book.close()

    benchmark.pedantic(opened, rounds=5)
    history = seconds(lambda: LogKeeper(long_log).history(), 3)
    pictures = seconds(lambda: list(draw_up(LogKeeper(long_log), planned(0), 100.0, "", lambda _share: None)), 1)
    print(
        f"\n{LONG} repetitions: opened, counted, summed in {1000 * seconds(opened):.0f} ms; for a session "
        f"{1000 * history:.0f} ms; all pictures of the Log stage {pictures:.1f} s, off the interface thread"
    )
