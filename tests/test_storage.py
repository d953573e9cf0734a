"""Nothing is lost or torn on the way to the disk, and nothing is written where it was not asked for."""

from __future__ import annotations

import errno
import os
import pty
import re
import resource
import signal
import stat
import subprocess
import sys
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any

import pytest

from dromic.cli import main
from dromic.errors import RiffError
from dromic.storage.writing import write_bytes, write_text
from tests.command_line import run_command

GOOD = "title: Two\ntempo: 100\n| 5:5/8 5:7 4:5 r 5:5@1!u/2 |\n"
KINDS = [".riff", ".musicxml", ".mid", ".abc", ".txt", ".json", ".csv", ".pdf", ".svg", ".png"]
SMALL_DISK = 64


def small_disk() -> None:
    """No file may grow beyond a few bytes: what a full disk does, in a process of its own."""
    resource.setrlimit(resource.RLIMIT_FSIZE, (SMALL_DISK, SMALL_DISK))


def run(
    *words: str, folder: Path, before: Callable[[], None] | None = None, **environment: str
) -> subprocess.CompletedProcess[str]:
    # How Python writes is settled where it starts.
    if before is None and not any(name.startswith("PYTHON") for name in environment):
        return run_command(*words, env=os.environ | environment, folder=folder)
    return subprocess.run(
        [sys.executable, "-B", "-m", "dromic", *words],
        capture_output=True,
        text=True,
        timeout=120,
        cwd=folder,
        preexec_fn=before,
        env={**os.environ, **environment},
        check=False,
    )


@pytest.fixture
def good(tmp_path: Path) -> Path:
    path = tmp_path / "two.riff"
    path.write_text(GOOD)
    return path


def names(folder: Path) -> list[str]:
    return sorted(one.name for one in folder.iterdir())


@pytest.mark.parametrize("kind", KINDS)
def test_a_full_disk_keeps_what_stood_there(kind: str, good: Path) -> None:
    out = good.with_name(f"out{kind}")
    out.write_text("what stood there")
    done = run("convert", str(good), str(out), "--plan", folder=good.parent, before=small_disk)
    assert done.returncode == 1
    assert "cannot be written: file too large" in done.stderr
    assert done.stdout == ""
    assert out.read_text() == "what stood there"
    assert names(good.parent) == sorted([out.name, good.name])


def test_a_full_disk_keeps_the_sound(good: Path) -> None:
    out = good.with_name("out.wav")
    out.write_text("what stood there")
    done = run("render", str(good), str(out), folder=good.parent, before=small_disk)
    assert done.returncode == 1
    assert "cannot be written" in done.stderr
    assert out.read_text() == "what stood there"


def test_sound_is_not_written_over_the_riff_nor_under_another_kinds_name(good: Path) -> None:
    for name in ("two.riff", "x.mid"):
        done = run("render", str(good), name, folder=good.parent)
        assert done.returncode == 1
        assert "sound is written as .wav; choose a name that ends so" in done.stderr
    assert good.read_text() == GOOD
    disguised = good.rename(good.with_name("two.wav"))
    done = run("render", str(disguised), str(disguised), folder=good.parent)
    assert "the riff itself would be overwritten with sound" in done.stderr
    assert disguised.read_text() == GOOD


def test_a_link_is_followed_and_stays_a_link(tmp_path: Path) -> None:
    target = tmp_path / "elsewhere" / "a.riff"
    target.parent.mkdir()
    target.write_text("old")
    link = tmp_path / "a.riff"
    link.symlink_to(target)
    write_text("new", link)
    assert link.is_symlink()
    assert target.read_text() == "new"
    assert names(target.parent) == ["a.riff"]


def test_links_in_a_circle_are_told(tmp_path: Path) -> None:
    one, two = tmp_path / "one", tmp_path / "two"
    one.symlink_to(two)
    two.symlink_to(one)
    with pytest.raises(RiffError, match="its links lead round in a circle; what stood there before is kept"):
        write_text("new", one)


def test_rights_stay_and_new_files_have_those_of_the_umask(tmp_path: Path) -> None:
    old, new = tmp_path / "old", tmp_path / "new"
    old.write_text("old")
    old.chmod(0o640)
    before = os.umask(0o027)
    try:
        write_text("new", old)
        write_text("new", new)
    finally:
        os.umask(before)
    assert [stat.S_IMODE(one.stat().st_mode) for one in (old, new)] == [0o640, 0o640]
    private = tmp_path / "private"
    private.write_text("old")
    private.chmod(0o600)
    write_text("new", private)
    assert stat.S_IMODE(private.stat().st_mode) == 0o600


def test_a_read_only_file_is_not_replaced(tmp_path: Path) -> None:
    path = tmp_path / "a.riff"
    path.write_text("mine")
    path.chmod(0o444)
    with pytest.raises(RiffError, match="the file is read-only; choose another name or change its rights"):
        write_text("new", path)
    assert path.read_text() == "mine"


def test_a_pipe_is_not_replaced(tmp_path: Path) -> None:
    path = tmp_path / "pipe.riff"
    os.mkfifo(path)
    with pytest.raises(RiffError, match="this is no ordinary file; choose another name"):
        write_text("new", path)
    assert stat.S_ISFIFO(path.stat().st_mode)


def test_half_a_character_is_told_and_nothing_is_written(tmp_path: Path) -> None:
    path = tmp_path / "a.riff"
    path.write_text("mine")
    with pytest.raises(RiffError, match=r"half a character \(U\+D83C\) in line 2, which no file can"):
        write_text("one\ntwo \ud83c", path)
    assert path.read_text() == "mine"


def test_names_that_are_no_utf_8_and_long_names_are_written(tmp_path: Path) -> None:
    for name in (b"caf\xe9.riff", "é".encode() * 120):
        path = os.fsdecode(os.path.join(os.fsencode(tmp_path), name))
        write_text("new", path)
        assert Path(path).read_text() == "new"


def test_what_a_killed_process_left_is_swept_away_by_the_next(tmp_path: Path) -> None:
    path = tmp_path / "a.riff"
    code = f"""
import os
from dromic.storage.writing import write_bytes
def stop():
    os.kill(os.getpid(), {int(signal.SIGKILL)})
write_bytes(b"lost", {str(path)!r}, stop)
"""
    subprocess.run([sys.executable, "-c", code], check=False)
    assert len(names(tmp_path)) == 1
    assert not path.exists()
    mine = tmp_path / ".a.riff-notes.part"
    mine.write_text("a file of the player's own")

    def others_sweep() -> bool:
        write_bytes(b"theirs", path)
        return True

    write_bytes(b"new", path, others_sweep)
    assert path.read_bytes() == b"new"
    assert names(tmp_path) == [".a.riff-notes.part", "a.riff"]


def test_ending_a_process_leaves_nothing_half_done(good: Path) -> None:
    """A request to end arrives while the file is being written."""
    code = f"""
import os, signal, sys
from dromic import console
from dromic.storage.writing import write_bytes
def ask_to_end():
    os.kill(os.getpid(), {int(signal.SIGTERM)})
    return True
with console.ends_tidily():
    write_bytes(b"new", {str(good)!r}, ask_to_end)
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, check=False)
    assert done.returncode == 128 + signal.SIGTERM
    assert done.stderr == b""
    assert names(good.parent) == ["two.riff"]
    assert good.read_text() == GOOD


@pytest.mark.parametrize("command", ["plan", "compare"])
def test_a_full_standard_output_is_told_in_one_line(command: str, good: Path) -> None:
    with open("/dev/full", "w", encoding="utf-8") as full:
        done = subprocess.run(
            [sys.executable, "-m", "dromic", command, str(good)],
            stdout=full,
            stderr=subprocess.PIPE,
            text=True,
            check=False,
        )
    assert done.returncode == 1
    assert done.stderr == ("standard output cannot be written: no space left on device; give it another file\n")


def test_a_closed_standard_output_is_told_in_one_line(good: Path) -> None:
    words = [sys.executable, "-m", "dromic", "plan", str(good)]
    done = subprocess.run(
        ["/bin/sh", "-c", 'exec "$@" >&-', "sh", *words], stderr=subprocess.PIPE, text=True, check=False
    )
    assert done.returncode == 1
    assert done.stderr == "standard output is closed; give it a file or a terminal\n"


def test_titles_do_not_steer_the_terminal_and_are_said_in_any_encoding(tmp_path: Path) -> None:
    path = tmp_path / "a.riff"
    path.write_text("title: Red\x1b[31m ♭ Étude\n| 5:5/1 |\n", encoding="utf-8")
    done = run("plan", str(path), folder=tmp_path, PYTHONIOENCODING="ascii", PYTHONUTF8="0")
    assert (done.returncode, done.stderr) == (0, "")
    assert "Red?[31m \\u266d \\xc9tude" in done.stdout
    assert "\x1b" not in done.stdout


def test_messages_fit_a_terminal(tmp_path: Path) -> None:
    done = run("plan", "a" * 5000 + ".riff", folder=tmp_path)
    assert done.returncode == 1
    assert len(done.stderr) <= 301
    assert done.stderr.count("\n") == 1


def _has_loaded(process: int, library: str) -> bool:
    """Whether the process has a library in its memory: a sign of how far its imports are."""
    try:
        return library in Path(f"/proc/{process}/maps").read_text()
    except OSError:
        return True


@pytest.mark.parametrize("library", ["_multiarray_umath", "etree", "_heapq"])
def test_ctrl_c_while_the_program_loads_is_one_line(good: Path, library: str) -> None:
    running = subprocess.Popen(
        [sys.executable, "-m", "dromic", "plan", str(good)],
        stdout=subprocess.DEVNULL,
        stderr=subprocess.PIPE,
        text=True,
    )
    while running.poll() is None and not _has_loaded(running.pid, library):
        time.sleep(0.002)
    running.send_signal(signal.SIGINT)
    _, told = running.communicate(timeout=60)
    assert (running.returncode, told) in [(130, "interrupted\n"), (0, "")]


def seen_on_a_terminal(*arguments: str, folder: Path) -> tuple[int, str]:
    """Run the program with a terminal for standard error, and say what it was sent."""
    leader, follower = pty.openpty()
    running = subprocess.Popen(
        [sys.executable, "-m", "dromic", *arguments], cwd=folder, stdout=subprocess.DEVNULL, stderr=follower
    )
    os.close(follower)
    seen = b""
    with suppress(OSError):
        while piece := os.read(leader, 4096):
            seen += piece
    os.close(leader)
    return running.wait(), seen.decode()


def test_long_work_shows_on_a_terminal_how_far_it_is(tmp_path: Path) -> None:
    path = tmp_path / "long.riff"
    bars = [" ".join(f"E4/16 G4 A{3 + (bar + note) % 2} B3" for note in range(4)) for bar in range(14)]
    path.write_text("".join(f"| {bar} |\n" for bar in bars))
    status, seen = seen_on_a_terminal("compare", str(path), folder=tmp_path)
    assert status == 0
    assert re.search(r"\rcomparing schools \d+ % ", seen)
    # The line goes again, and nothing is said elsewhere.
    assert seen.endswith("\r")
    assert run("plan", str(path), folder=tmp_path).stderr == ""


@pytest.mark.parametrize("kind", [*KINDS, ".wav"])
def test_a_read_only_folder_is_told_for_every_kind(
    kind: str, good: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    """The system's own refusal is put in, as whoever runs the tests may be allowed everything."""
    opened = os.open

    def refused(path: Any, flags: int, *more: Any, **options: Any) -> int:
        if flags & os.O_CREAT:
            raise OSError(errno.EROFS, "Read-only file system")
        return opened(path, flags, *more, **options)

    monkeypatch.setattr("dromic.storage.writing.os.open", refused)
    monkeypatch.setenv("QT_QPA_PLATFORM", "offscreen")
    command = ["render"] if kind == ".wav" else ["convert", "--plan"]
    assert main([*command, str(good), str(good.with_name(f"out{kind}"))]) == 1
    said = capsys.readouterr()
    assert "cannot be written: read-only file system" in said.err
    assert said.out == ""
    assert names(good.parent) == [good.name]
