"""Scores of other programs, read by us and by an independent reader (some of them; all by `run_musicxml`)."""

from __future__ import annotations

import pytest

from tests.checks.musicxml_scores import CORPUS, OTHER, SUITE, compared, reason, scores, text_of

SAMPLE = [*scores()[SUITE][::9], *sorted(scores()[CORPUS], key=lambda path: path.stat().st_size)[5:200:24]]


@pytest.mark.parametrize("path", SAMPLE, ids=lambda path: path.stem.split("-")[0][:20])
def test_scores_are_read_as_the_other_reader_does(path: object) -> None:
    found = compared(path)  # type: ignore[arg-type]
    assert found.bars
    if found.unlike:
        assert reason(found, text_of(path)) != OTHER, found.unlike[0]  # type: ignore[arg-type]
    assert all("does not reach" in words for words in found.refused)
