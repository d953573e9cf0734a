"""The same riff through two formats: whatever both can hold comes through both alike."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings

from dromic.formats.registry import open_data, open_file, read_part, write_file, written
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
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


@pytest.mark.parametrize("ending", [".abc", ".mid", ".musicxml"])
def test_kinds_without_a_place_for_them_keep_instrument_capo_and_swing_in_fields_of_our_own(ending: str) -> None:
    text = "instrument: bass-5\ntuning: B0 E1 A1 D2 G2\ntempo: 90\nswing: 2:1\ngain: crunch\ncapo: 1\n"
    riff = read_riff_text(f"{text}| 5:0/8 5:2 4:0 4:2 3:0 r 5:0/4 |\n").riff
    data, _ = written(ending, riff)
    source = open_data(f"riff{ending}", data).source
    found = source.read(source.likely).riff
    for name in ("instrument", "tuning", "tempo", "swing", "gain", "capo"):
        assert getattr(found, name) == getattr(riff, name), name
    assert [event.value for event in found.written_events()] == [event.value for event in riff.written_events()]
