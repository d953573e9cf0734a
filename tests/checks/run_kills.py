"""Kill processes while they write, and let two write to the same files: what was acknowledged must be there.

    .venv/bin/python -m tests.checks.run_kills [--kills N] [--rounds N]

A process writes version after version and says so each time that a write has come back; it is killed with
SIGKILL at a random moment. The file must then hold a whole version, the last one said or the one after it. Then
two processes change one project and one file of settings at once, each keeping what the other has written; no
change that was acknowledged may be missing at the end.
"""

from __future__ import annotations

import argparse
import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from dromic.app.document import Document
from dromic.app.document_file import ChangedOnDiskError
from dromic.app.recovery import Recovery
from dromic.app.settings import Settings, Store, load_settings
from dromic.formats.project import Project, read_project
from dromic.formats.registry import open_file, write_file
from dromic.formats.rifftext.reader import read_riff_text
from dromic.listening.sound.rendering import write_wav
from dromic.listening.sound.voice import RATE
from dromic.practice.log.logbook import Logbook, Rep

Write = Callable[[Path, int], None]
Read = Callable[[Path], int]
LONGEST_WAIT_S = 0.2


def _text(number: int) -> str:
    return f"title: {number}\n" + "| 6:0/8 6:3 6:5 6:0 6:3 6:6 6:5/4 |\n" * 40


def _number(text: str) -> int:
    """The version that a whole text is."""
    number = int(text.splitlines()[0].removeprefix("title: "))
    if text != _text(number):
        raise AssertionError(f"torn: {text[:60]!r}")
    return number


def _saved_in(ending: str) -> Write:
    document = Document()

    def write(folder: Path, number: int) -> None:
        document.set_text(_text(number))
        document.save(folder / f"one{ending}")

    return write


def _keeping() -> Write:
    made: list[Recovery] = []

    def write(folder: Path, number: int) -> None:
        made[:] = made or [Recovery(folder)]
        made[0].keep(Project(_text(number)), None)

    return write


def _read_kept(folder: Path) -> int:
    return max((_number(one.project.text) for one in Recovery(folder).left()), default=-1)


def _settle(folder: Path, number: int) -> None:
    if trouble := Store(folder / "settings.json", folder / "unsaved").change(recent=(f"/{number}",)):
        raise AssertionError(trouble)


def _read_settings(folder: Path) -> int:
    recent = load_settings(folder / "settings.json").recent
    return int(recent[0].removeprefix("/")) if recent else -1


def _logging() -> Write:
    made: list[Logbook] = []

    def write(folder: Path, number: int) -> None:
        made[:] = made or [Logbook(folder / "practice.sqlite")]
        made[0].write(Rep(datetime.now(UTC), 100.0, title=str(number)))

    return write


def _read_log(folder: Path) -> int:
    log = Logbook(folder / "practice.sqlite")
    reps = log.reps()
    log.close()
    if log.set_aside is not None or [rep.title for rep in reps] != [str(number) for number in range(len(reps))]:
        raise AssertionError("the log is not whole")
    return len(reps) - 1


def _exported_as(ending: str) -> Write:
    def write(folder: Path, number: int) -> None:
        riff = read_riff_text(f"title: {number}\n| 6:0/8 6:3 6:5 6:0 6:3 6:6 6:5/4 |\n").riff
        write_file(folder / f"one{ending}", riff)

    return write


def _read_export(ending: str) -> Read:
    def read(folder: Path) -> int:
        path = folder / f"one{ending}"
        return int(open_file(path).source.read(0).riff.title) if path.exists() else -1

    return read


def _rendered(folder: Path, number: int) -> None:
    import numpy as np

    write_wav(np.full(RATE // 4, number % 30_000 / 32767.0), folder / "one.wav")


def _read_sound(folder: Path) -> int:
    path = folder / "one.wav"
    if not path.exists():
        return -1
    data = path.read_bytes()
    if len(data) != 44 + 2 * (RATE // 4) or len(set(zip(data[44::2], data[45::2], strict=True))) != 1:
        raise AssertionError("torn sound")
    return int.from_bytes(data[44:46], "little")


def _read_text(folder: Path) -> int:
    path = folder / "one.riff"
    return _number(path.read_text()) if path.exists() else -1


def _read_project(folder: Path) -> int:
    path = folder / "one.dromic"
    return _number(read_project(path).text) if path.exists() else -1


KINDS: dict[str, tuple[Callable[[], Write], Read]] = {
    "saving riff text": (lambda: _saved_in(".riff"), _read_text),
    "saving projects": (lambda: _saved_in(".dromic"), _read_project),
    "keeping unsaved riffs": (_keeping, _read_kept),
    "settings": (lambda: _settle, _read_settings),
    "the practice log": (_logging, _read_log),
    "exporting MusicXML": (lambda: _exported_as(".musicxml"), _read_export(".musicxml")),
    "exporting MIDI": (lambda: _exported_as(".mid"), _read_export(".mid")),
    "writing sound": (lambda: _rendered, _read_sound),
}


@dataclass
class Killed:
    """What became of processes that were killed."""

    kind: str
    kills: int = 0
    acknowledged: int = 0
    lost: int = 0
    left: int = 0

    def row(self) -> str:
        """One line of a table."""
        return f"| {self.kind} | {self.kills:,} | {self.acknowledged:,} | {self.lost} | {self.left} |"


def kill(kind: str, kills: int, chance: random.Random) -> Killed:
    """Kill so many processes while they write."""
    found = Killed(kind)
    make, read = KINDS[kind]
    for _ in range(kills):
        with tempfile.TemporaryDirectory(prefix="dromic-killed-") as name:
            folder = Path(name)
            said = _killed_after(make, folder, chance.uniform(0.0, LONGEST_WAIT_S))
            found.kills += 1
            found.acknowledged += said + 1
            try:
                found.lost += read(folder) not in (said, said + 1)
            except (AssertionError, ValueError, OSError) as error:
                print(f"{kind}: {error}", flush=True)
                found.lost += 1
            # The next that writes there sweeps away what was left.
            make()(folder, said + 2)
            found.left += sum(path.suffix == ".part" for path in folder.rglob("*"))
    return found


def _killed_after(make: Callable[[], Write], folder: Path, wait_s: float) -> int:
    """The last version that a process said it had written before it was killed; -1 for none."""
    reads, writes = os.pipe()
    child = os.fork()
    if not child:
        os.close(reads)
        write = make()
        for number in range(100_000):
            write(folder, number)
            os.write(writes, f"{number}\n".encode())
        os._exit(0)
    os.close(writes)
    time.sleep(wait_s)
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    with os.fdopen(reads) as pipe:
        said = pipe.read().split("\n")
    return int(said[-2]) if len(said) > 1 else -1


def kill_paper(kills: int, chance: random.Random) -> Killed:
    """Kill the command line while it draws and writes paper and pictures over an old one."""
    found = Killed("paper and pictures")
    with tempfile.TemporaryDirectory(prefix="dromic-killed-") as name:
        folder = Path(name)
        (folder / "one.riff").write_text(_text(1))
        good: dict[str, bytes] = {}
        for ending in (".pdf", ".svg", ".png"):
            subprocess.run(_paper(ending), cwd=folder, check=True, capture_output=True)
            good[ending] = (folder / f"one{ending}").read_bytes()
        for _ in range(kills):
            ending = chance.choice(list(good))
            running = subprocess.Popen(
                _paper(ending), cwd=folder, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
            )
            time.sleep(chance.uniform(0.3, 2.5))
            running.kill()
            running.wait()
            found.kills += 1
            data = (folder / f"one{ending}").read_bytes()
            whole = data == good[ending] if ending != ".pdf" else data.rstrip().endswith(b"%%EOF")
            found.acknowledged += running.returncode == 0
            found.lost += not whole
        for ending in good:
            subprocess.run(_paper(ending), cwd=folder, check=True, capture_output=True)
        found.left = sum(path.suffix == ".part" for path in folder.iterdir())
    return found


def _paper(ending: str) -> list[str]:
    return [sys.executable, "-m", "dromic", "convert", "one.riff", f"one{ending}"]


def two_on_a_project(rounds: int) -> tuple[int, int]:
    """Two processes add to one project at once; how many lines were acknowledged, and how many are missing."""
    with tempfile.TemporaryDirectory(prefix="dromic-two-") as name:
        path = Path(name) / "one.dromic"
        document = Document()
        document.set_text("title: shared\n| 6:0/1 |\n")
        document.save(path)
        said = _both(lambda which: _add_lines(path, which, rounds))
        text = read_project(path).text
        return len(said), sum(line not in text.splitlines() for line in said)


def _add_lines(path: Path, which: int, rounds: int) -> list[str]:
    document, said = Document(), []
    document.open(path)
    for number in range(rounds):
        line = f"# {which} {number}"
        while True:
            document.set_text(document.text + f"{line}\n")
            try:
                document.save(path)
                break
            except ChangedOnDiskError:
                document.take_theirs()
        said.append(line)
    return said


def two_on_settings(rounds: int) -> tuple[int, int]:
    """Two processes change different settings at once; how many changes, and how many are missing at the end."""
    with tempfile.TemporaryDirectory(prefix="dromic-two-") as name:
        path = Path(name) / "settings.json"

        def change(which: int) -> list[str]:
            store = Store(path, Path(name) / "unsaved")
            for number in range(rounds):
                store.edit(lambda old, n=number: _changed(old, which, n))  # type: ignore[misc]
            return [str(which)] * rounds

        said = _both(change)
        found = load_settings(path)
        missing = (found.theme != "dark") + (f"/{rounds - 1}" not in found.recent)
        return len(said), missing


def _changed(old: Settings, which: int, number: int) -> Settings:
    from dataclasses import replace

    if which:
        return replace(old, theme="dark" if number % 2 else "light")
    return old.with_recent(Path(f"/{number}"))


def two_on_the_log(rounds: int) -> tuple[int, int]:
    """Two processes write to one log; how many repetitions, and how many are missing."""
    with tempfile.TemporaryDirectory(prefix="dromic-two-") as name:
        path = Path(name) / "practice.sqlite"
        Logbook(path).close()

        def write(which: int) -> list[str]:
            log = Logbook(path)
            said = [f"{which} {number}" for number in range(rounds)]
            for title in said:
                log.write(Rep(datetime.now(UTC), 100.0, title=title))
            return said

        said = _both(write)
        found = {rep.title for rep in Logbook(path).reps()}
        return len(said), sum(title not in found for title in said)


def _both(work: Callable[[int], list[str]]) -> list[str]:
    """Do a work in two processes at once, and gather what they say."""
    pipes = []
    for which in (0, 1):
        reads, writes = os.pipe()
        if not os.fork():
            os.close(reads)
            with os.fdopen(writes, "w") as pipe:
                json.dump(work(which), pipe)
            os._exit(0)
        os.close(writes)
        pipes.append(reads)
    said: list[str] = []
    for reads in pipes:
        with os.fdopen(reads) as pipe:
            said += json.load(pipe)
        os.wait()
    return said


def main() -> int:
    """Kill them all; 1 where something was lost."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--kills", type=int, default=2_000)
    parser.add_argument("--only", choices=list(KINDS), help="kill while this is written, and nothing else")
    parser.add_argument("--rounds", type=int, default=400)
    options = parser.parse_args()
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    chance = random.Random(1)
    paper = options.kills // 10
    each = options.kills if options.only else -(-(options.kills - paper) // len(KINDS))
    print("| killed while | kills | acknowledged | lost or torn | left lying about |\n|---|---|---|---|---|")
    rows = []
    for kind in KINDS if options.only is None else [options.only]:
        rows.append(kill(kind, each, chance))
        print(rows[-1].row(), flush=True)
    if options.only is None:
        rows.append(kill_paper(paper, chance))
        print(rows[-1].row(), flush=True)
    print("\n| two processes on one | changes | missing |\n|---|---|---|")
    bad = sum(row.lost + row.left for row in rows)
    both = (("project", two_on_a_project), ("file of settings", two_on_settings), ("practice log", two_on_the_log))
    for name, work in both:
        changes, missing = work(options.rounds)
        bad += missing
        print(f"| {name} | {changes:,} | {missing} |", flush=True)
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
