from __future__ import annotations

import errno
import os
from pathlib import Path

import pytest

from dromic.errors import RiffError
from dromic.formats.files import RIFF_SUFFIX, read_riff, write_riff
from dromic.formats.registry import written
from dromic.storage.reading import LARGEST_BYTES
from dromic.storage.writing import write_bytes, write_text
from tests.helpers import riff


def test_a_riff_survives_the_disk(tmp_path: Path) -> None:
    path = tmp_path / "a.riff"
    made = riff("[A] | 6:0.m/8 6:0 C3/4 r/2 | x2", title="Kiln")
    write_riff(made, path)
    assert read_riff(path) == made
    assert oct(path.stat().st_mode & 0o777) == "0o644"
    assert os.listdir(tmp_path) == ["a.riff"]


def test_errors_carry_the_file(tmp_path: Path) -> None:
    path = tmp_path / "b.riff"
    path.write_text("| 6:0/4 |")
    with pytest.raises(RiffError, match=r"b\.riff:1:9: found a bar of 1 quarter note"):
        read_riff(path)


@pytest.mark.parametrize(
    ("content", "message"),
    [
        (b"| 6:0/1 |\n\xff\xfe", r":2:1: this is not UTF-8 text; open it in a text editor"),
        (b"| 6:0/1 |\0", r"1:10: there is a NUL character: this is no text file"),
        (b"#" * (LARGEST_BYTES + 1), r"the file is larger than 4 MB"),
    ],
    ids=["encoding", "zeros", "huge"],
)
def test_files_that_are_no_riffs(tmp_path: Path, content: bytes, message: str) -> None:
    path = tmp_path / "c.riff"
    path.write_bytes(content)
    with pytest.raises(RiffError, match=message):
        read_riff(path)


def test_missing_and_folder(tmp_path: Path) -> None:
    with pytest.raises(RiffError, match=r"nowhere\.riff: cannot be read: there is no such file"):
        read_riff(tmp_path / "nowhere.riff")
    with pytest.raises(RiffError, match="this is a folder; choose a riff file in it"):
        read_riff(tmp_path)
    with pytest.raises(RiffError, match="this is not a file name"):
        read_riff("a\0b")
    with pytest.raises(RiffError, match="cannot be written: there is no such file or folder"):
        write_text("x", tmp_path / "no" / "where.riff")


def test_a_full_disk_keeps_the_last_good_file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "d.riff"
    write_text("good", path)

    def full(_handle: int) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("os.fsync", full)
    with pytest.raises(RiffError, match="no space left on device; what stood there before is kept"):
        write_text("bad", path)
    assert path.read_text() == "good"
    assert os.listdir(tmp_path) == ["d.riff"]


def test_what_is_given_up_does_not_appear(tmp_path: Path) -> None:
    file = tmp_path / "a.riff"
    file.write_text("old")
    with pytest.raises(RiffError, match="cancelled; what stood there before is kept"):
        write_bytes(b"new", file, lambda: False)
    assert file.read_text() == "old"
    assert [one.name for one in tmp_path.iterdir()] == ["a.riff"]


@pytest.mark.parametrize("suffix", [".musicxml", ".mid", ".abc", ".txt"])
def test_a_school_of_a_phrase_that_a_file_cannot_hold_is_told(suffix: str) -> None:
    made = riff("[B = economy]\n| 6:0/1 |")
    assert any("schools of single phrases" in remark for remark in written(suffix, made)[1])
    assert written(RIFF_SUFFIX, made)[1] == ()
    assert not any("schools" in remark for remark in written(suffix, riff("[B]\n| 6:0/1 |"))[1])
