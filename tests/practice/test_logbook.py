"""The practice log: whole whatever happens, and never overwritten."""

from __future__ import annotations

import os
import random
import signal
import sqlite3
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from dromic.errors import RiffError
from dromic.practice.log.exchange import export_log, import_log
from dromic.practice.log.logbook import SCHEMA, Clean, Logbook, Rep, Source
from dromic.practice.movement import movement_key, movements, plan_hash, riff_hash
from tests.helpers import plan, riff

NOW = datetime(2026, 11, 26, 18, 30, tzinfo=UTC)


@pytest.fixture
def log(tmp_path: Path) -> Logbook:
    return Logbook(tmp_path / "log" / "practice.sqlite")


def rep(tempo: float = 100.0, **more: object) -> Rep:
    return Rep(NOW, tempo, **more)  # type: ignore[arg-type]


def test_what_is_written_is_there_after_the_program_has_ended(log: Logbook) -> None:
    written = log.write(
        rep(movement_keys=("du+1.13+2.0",), riff="r", kind="spot", clean=Clean.CLEAN, felt=2, note="easy, at last")
    )
    log.close()
    assert Logbook(log.path).reps() == [written]


def test_what_is_told_of_the_log(log: Logbook) -> None:
    for tempo, clean in ((90, Clean.CLEAN), (100, Clean.CLEAN), (110, Clean.NOT), (120, Clean.UNMARKED)):
        log.write(rep(tempo, riff="r", clean=clean, seconds=30.0, kind="spot", movement_keys=("a", "b")))
    log.write(rep(150, riff="other", clean=Clean.CLEAN, seconds=60.0, movement_keys=("ab",)))
    assert log.minutes() == {"spot": 2.0, "whole": 1.0}
    assert [one.tempo for one in log.reps(last=2)] == [120, 150]
    assert log.count() == 5


def test_a_clock_that_goes_back_mixes_nothing_up(log: Logbook) -> None:
    log.write(Rep(NOW, 100.0))
    log.write(Rep(NOW - timedelta(days=400), 104.0))
    assert [one.tempo for one in log.reps()] == [100.0, 104.0]
    assert [one.tempo for one in log.reps(since=NOW)] == [100.0]


@pytest.mark.parametrize("ending", [".csv", ".json"])
def test_out_and_in_again(log: Logbook, tmp_path: Path, ending: str) -> None:
    for number in range(5):
        log.write(
            rep(
                100 + number,
                movement_keys=("a", "b+1"),
                title="Kiln, Stairs",
                source=Source.TAKE,
                felt=number or None,
            )
        )
    out = tmp_path / f"out{ending}"
    assert export_log(log, out) == 5
    other = Logbook(tmp_path / "other.sqlite")
    assert import_log(other, out) == 5
    assert other.reps() == log.reps()
    # The same once more changes nothing.
    assert import_log(other, out) == 0


@pytest.mark.parametrize(
    ("name", "text", "words"),
    [
        ("a.csv", "x,y\n1,2\n", "does not name the columns"),
        ("a.csv", "at,tempo\n2026-01-01,fast\n", r"a\.csv:2: this is no repetition"),
        ("a.csv", "at,tempo\n2026-01-01,9000\n", "expected 1 to 1000"),
        ("a.json", "{", "this is no JSON"),
        ("a.json", "[" * 100_000, "this is no JSON"),
        ("a.json", '{"schema": 9, "reps": []}', "no log of schema 1"),
        ("a.json", '{"schema": 1, "reps": [{"at": "then", "tempo": 100}]}', "this is no repetition"),
        ("a.json", '{"schema": 1, "reps": [{"at": "2026-01-01", "tempo": 100, "felt": 9}]}', "expected 1 to 5"),
        ("a.txt", "", r"a log is written as \.csv or \.json"),
    ],
)
def test_files_that_are_no_logs(log: Logbook, tmp_path: Path, name: str, text: str, words: str) -> None:
    path = tmp_path / name
    path.write_text(text)
    with pytest.raises(RiffError, match=words):
        import_log(log, path)
    assert log.count() == 0


def test_a_corrupt_log_is_set_aside_whole(tmp_path: Path) -> None:
    path = tmp_path / "practice.sqlite"
    path.write_bytes(b"this is no log at all" * 1000)
    log = Logbook(path)
    assert log.set_aside is not None
    assert log.set_aside.read_bytes() == b"this is no log at all" * 1000
    log.write(rep())
    assert log.count() == 1


def test_a_newer_log_is_left_alone(tmp_path: Path) -> None:
    path = tmp_path / "practice.sqlite"
    base = sqlite3.connect(path)
    base.execute(f"PRAGMA user_version = {SCHEMA + 1}")
    base.close()
    before = path.read_bytes()
    with pytest.raises(RiffError, match="newer version of Dromic"):
        Logbook(path)
    assert path.read_bytes() == before


def test_a_log_that_another_program_holds_is_told(log: Logbook, monkeypatch: pytest.MonkeyPatch) -> None:
    log._base.execute("PRAGMA busy_timeout = 50")
    other = sqlite3.connect(log.path)
    other.execute("BEGIN EXCLUSIVE")
    with pytest.raises(RiffError, match="being written by another program"):
        log.write(rep())
    other.rollback()
    other.close()
    log.write(rep())
    assert log.count() == 1


def test_a_full_disk_is_told_and_costs_nothing(log: Logbook) -> None:
    log.write(rep())
    pages = log._base.execute("PRAGMA page_count").fetchone()[0]
    log._base.execute(f"PRAGMA max_page_count = {pages}")

    def write_on() -> None:
        for _ in range(200):
            log.write(rep(note="x" * 1000))

    with pytest.raises(RiffError, match="the disk is full"):
        write_on()
    kept = log.count()
    log.close()
    assert Logbook(log.path).count() == kept >= 1


def test_two_windows_write_to_one_log(log: Logbook) -> None:
    children = []
    for which in (0, 1):
        child = os.fork()
        if not child:
            own = Logbook(log.path)
            for number in range(60):
                own.write(rep(100 + number, title=str(which)))
            os._exit(0)
        children.append(child)
    assert [os.waitpid(child, 0)[1] for child in children] == [0, 0]
    assert log.count() == 120


def test_a_process_that_is_killed_loses_nothing_that_it_said(tmp_path: Path) -> None:
    """Few here; `tests.checks.run_kills` does it hundreds of times."""
    chance = random.Random(3)
    for turn in range(8):
        path = tmp_path / f"{turn}.sqlite"
        reads, writes = os.pipe()
        child = os.fork()
        if not child:
            os.close(reads)
            own = Logbook(path)
            for number in range(10_000):
                own.write(rep(100.0, title=str(number)))
                os.write(writes, b".")
            os._exit(0)
        os.close(writes)
        time.sleep(chance.uniform(0.02, 0.15))
        os.kill(child, signal.SIGKILL)
        os.waitpid(child, 0)
        with os.fdopen(reads, "rb") as pipe:
            said = len(pipe.read())
        log = Logbook(path)
        assert log.set_aside is None
        assert log.count() in (said, said + 1)
        log.close()


@pytest.mark.parametrize(
    "wrong", [rep(0.0), rep(5000.0), rep(density=0), rep(felt=0), rep(seconds=-1.0), rep(note="x" * 3000)]
)
def test_repetitions_that_cannot_be(log: Logbook, wrong: Rep) -> None:
    with pytest.raises(RiffError, match=r"repetition|tight"):
        log.write(wrong)


def test_a_movement_has_one_name_wherever_it_lies() -> None:
    low = plan(riff("| 6:5!d/8 6:7!u 5:5!d 5:7!u r/2 |"), "strict-alternate")
    high = plan(riff("| 3:9!d/8 3:11!u 2:9!d 2:11!u r/2 |"), "strict-alternate")
    assert movements(low).keys == movements(high).keys
    assert len(movements(low).each) == 2
    other = plan(riff("| 6:5!u/8 6:7!d 5:5!u 5:7!d r/2 |"), "strict-alternate")
    assert not set(movements(low).keys) & set(movements(other).keys)


def test_hashes_tell_what_is_played_and_how() -> None:
    one, other = riff("| 6:5/8 6:7 5:5 5:7 r/2 |"), riff("| 6:5/8 6:7 5:5 5:8 r/2 |")
    assert riff_hash(one) == riff_hash(one.at_tempo(90)) != riff_hash(other)
    assert plan_hash(plan(one, "strict-alternate")) == plan_hash(plan(one.at_tempo(100), "strict-alternate"))
    assert plan_hash(plan(one, "strict-alternate")) != plan_hash(plan(one, "downstroke-first"))
    events = plan(one).events
    assert movement_key(events[0], events[1]).count(".") == 2
