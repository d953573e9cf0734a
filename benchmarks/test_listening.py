"""Figures of listening, on the path that window and command line take: a file read, heard and judged."""

from __future__ import annotations

from pathlib import Path

import pytest
from pytest_benchmark.fixture import BenchmarkFixture
from tests.listening.material import material

from dromic.formats.take_audio import read_take
from dromic.listening.hearing.review import Review, review_of
from dromic.listening.sound.player_errors import LEVELS
from dromic.listening.sound.rendering import write_wav
from dromic.listening.sound.simulated import performance, take_of


@pytest.mark.parametrize("rounds", [1, 4, 16])
def test_a_take_is_heard(benchmark: BenchmarkFixture, tmp_path: Path, rounds: int) -> None:
    """The time over the length of the take stays about the same, however long it is."""
    plan = material()["lamplighter"]
    write_wav(take_of(performance(plan, 7, LEVELS["light"], rounds=rounds)).sound, tmp_path / "take.wav")

    def work() -> Review:
        return review_of(plan, read_take(tmp_path / "take.wav"))

    review = benchmark.pedantic(work, rounds=3, warmup_rounds=1)
    seconds = review.heard.seconds
    benchmark.extra_info["seconds of audio"] = round(seconds, 1)
    benchmark.extra_info["seconds a second of audio"] = round(benchmark.stats.stats.median / seconds, 4)
