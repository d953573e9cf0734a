"""The same riff through two formats: whatever both can hold comes through both alike."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings

from dromic.formats.registry import open_file, read_part, write_file
from dromic.formats.rifftext_reader import read_riff_text
from dromic.formats.rifftext_writer import write_riff_text
from dromic.music.riff import Riff
from tests.formats.test_abc import tunes
from tests.formats.test_tab import standard, tabs

QUICK = settings(max_examples=6, suppress_health_check=[HealthCheck.function_scoped_fixture])


def through(riff: Riff, path: Path) -> Riff:
    write_file(path, riff)
    return read_part(open_file(path)).riff


@pytest.mark.parametrize(("one", "other"), [(".abc", ".musicxml"), (".mxl", ".abc"), (".riff", ".abc")])
@given(riff=tunes())
@QUICK
def test_tunes_through_two_formats(tmp_path: Path, one: str, other: str, riff: Riff) -> None:
    found = through(through(riff, tmp_path / f"a{one}"), tmp_path / f"b{other}")
    assert write_riff_text(found).splitlines() == write_riff_text(riff).splitlines()


@pytest.mark.parametrize(("one", "other"), [(".txt", ".musicxml"), (".xml", ".tab"), (".riff", ".txt")])
@given(riff=tabs())
@QUICK
def test_tablature_through_two_formats(tmp_path: Path, one: str, other: str, riff: Riff) -> None:
    wanted = read_riff_text(write_riff_text(riff)).riff
    found = standard(through(through(riff, tmp_path / f"a{one}"), tmp_path / f"b{other}"))
    assert write_riff_text(found).splitlines() == write_riff_text(wanted).splitlines()
