"""Feed every reader with broken files, guided by coverage, and write the figures to docs/fuzz.md.

    .venv/bin/python -m pip install atheris
    .venv/bin/python -m tests.checks.run_fuzz [--runs N] [READER ...]

Each reader is fed in a process of its own, from small good files. Nothing but RiffError may come out of it, and no
input may take longer than ten seconds or more than 1.5 GB. What breaks a reader is kept in the folder `fuzz-found`,
and belongs into `tests/formats/test_broken_files.py`.
"""

from __future__ import annotations

import argparse
import json
import re
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import nullcontext
from dataclasses import dataclass
from functools import cache
from pathlib import Path

# Where a reader is fed, everything that it consists of is watched; elsewhere this is a plain import.
if "--feed" in sys.argv:
    import atheris

    _WATCHED = atheris.instrument_imports(include=["dromic.formats", "dromic.music"])
else:
    _WATCHED = nullcontext()

with _WATCHED:
    from dromic.errors import RiffError
    from dromic.formats.abc.reader import abc_source
    from dromic.formats.abc.writer import write_abc
    from dromic.formats.midi.reader import midi_source
    from dromic.formats.midi.writer import write_midi
    from dromic.formats.musicxml.reader import musicxml_source
    from dromic.formats.musicxml.tree import open_score, pack
    from dromic.formats.musicxml.writer import write_musicxml
    from dromic.formats.project import KeptPlan, Project, project_as_data, project_from_bytes
    from dromic.formats.reading.raw import Source
    from dromic.formats.rifftext.reader import read_riff_text
    from dromic.formats.rifftext.writer import write_riff_text
    from dromic.formats.tab.reader import tab_source
    from dromic.formats.tab.writer import write_tab
    from dromic.planner.plan_settings import PlanSettings
    from dromic.storage.reading import decoded

PAGE = Path(__file__).parents[2] / "docs" / "fuzz.md"
FOUND = Path("fuzz-found")
MOST_PARTS = 3
# Long enough for branches, too short for limits, which lie at thousands of notes: `run_mutations` goes there.
LONGEST = {"riff": 4_000, "tab": 4_000, "abc": 2_000, "midi": 2_000, "musicxml": 16_000, "project": 16_000}

HEAD = (
    "# Broken files\n\n"
    "Made by `.venv/bin/python -m tests.checks.run_fuzz`: every reader fed with files changed at random, "
    "guided by coverage (atheris), from small good ones. Nothing but an error in words may come out, in "
    "at most ten seconds and 1.5 GB. *Covered* counts branches of the readers, at the first and the last "
    "input. What was found on the way is a test in `tests/formats/test_broken_files.py`.\n\n"
    "| reader | inputs | covered | time | peak memory | broken at the end |\n|---|---|---|---|---|---|\n"
)


def _all_parts(source: Source) -> None:
    for number in range(min(len(source.parts), MOST_PARTS)):
        source.read(number)


READERS: dict[str, Callable[[bytes], object]] = {
    "riff": lambda data: read_riff_text(decoded(data)),
    "tab": lambda data: _all_parts(tab_source(decoded(data, lenient=True))),
    "abc": lambda data: _all_parts(abc_source(decoded(data, lenient=True))),
    "musicxml": lambda data: _all_parts(musicxml_source(open_score(data))),
    "midi": lambda data: _all_parts(midi_source(data)),
    "project": project_from_bytes,
}


def read(name: str, data: bytes) -> None:
    """Read as a player's file would be read; RiffError is what a broken one is told by."""
    try:
        READERS[name](data)
    except RiffError as error:
        if not error.message:
            raise ValueError("an error without words") from error


EVERYTHING = (
    "title: All\ntuning: drop\ntempo: 132\nmeter: 6/8\nswing: 3:2\npickup: 1/8\ncapo: 2\ngain: high\nkey: Bb\n"
    "[in]\n| 6:3/8 |\n| 6:5.m>!d@2^3/8t 6:7.h 6:5.p 5:5.b2/8 5:5.r 4:3.v | x3\n"
    "[out]\n| 4:5.s/8 |\n| (3:5@1 2:5.x@2)!d/4 r/8 2:7.l/4 2:9.g 2:10/8 |  # after\n| 1:3.z/4 1:3.t/2 |\n"
)
FOREIGN = Path(__file__).parents[1] / "formats" / "foreign.musicxml"
BOOK = (
    "%%propagate-accidentals octave\nX:1\nT:One\nM:6/8\nL:1/8\nQ:3/8=90\nK:Ador\nV:a\nE|~A3 {g}AcB|"
    "(3ABc d>e f2-|1 f2 z [Ac]2 u!2!A:|2 vA6||\nP:B\n[M:2/4][L:1/4]|:^f=f _B/2z/2::c'3/2C,/|]\n"
    "X:2\nT:Two\nK:D exp _b\nZ2|d8&D8|]\n"
)
PAGE_OF_TAB = (
    "Riff\nTuning: D A D G B E, capo 2, 3/4, 140 bpm\n\n[Intro] x2\n   P.M.--|  let ring-\n   e e q. h\n"
    "e|--10-12h14p12~-|:-x--(3)-:|\nB|-12b14r12------|----------|\n"
    "G|--7/9\\7--------|-<12>----|\n"
    "D|---------------|----------|\nA|---------------|----------|\n"
    "E|--0------------|----------| x3\n   d u d v ^ n\n"
)


@cache
def seeds(name: str) -> tuple[bytes, ...]:
    """Small good files to begin from."""
    riff = read_riff_text(EVERYTHING).riff
    plain = read_riff_text("| 5:5!d@1/4 5:7!u 4:5 (4:7 3:5) | x2").riff
    made = {
        "riff": (EVERYTHING.encode(), write_riff_text(plain).encode()),
        "tab": (PAGE_OF_TAB.encode(), write_tab(plain)[0].encode(), write_tab(riff)[0].encode()),
        "abc": (BOOK.encode(), write_abc(plain)[0].encode()),
        "midi": (write_midi(plain), write_midi(riff)),
        "project": (json.dumps(project_as_data(Project(EVERYTHING, kept=_kept()))).encode(),),
        "musicxml": (
            write_musicxml(riff),
            write_musicxml(plain),
            FOREIGN.read_bytes(),
            pack(write_musicxml(plain)),
        ),
    }
    return made[name]


def _kept() -> tuple[KeptPlan, ...]:
    return (KeptPlan("one", "| 6:0/1 |", PlanSettings(tempo=90.0), 1.5, None),)


def feed(name: str, runs: int, folder: str) -> None:
    """In a process of its own: feed one reader."""
    options = [
        f"-runs={runs}",
        f"-max_len={LONGEST[name]}",
        "-timeout=10",
        "-rss_limit_mb=1500",
        "-print_final_stats=1",
        "-reload=1",
    ]
    atheris.Setup(
        [sys.argv[0], *options, f"-artifact_prefix={FOUND}/{name}-", folder], lambda data: read(name, data)
    )
    atheris.Fuzz()


@dataclass(frozen=True)
class Fed:
    """What the processes that fed one reader said at their end."""

    name: str
    said: tuple[str, ...]
    seconds: float
    broken: bool

    def row(self) -> str:
        """One line of the page."""
        inputs = sum(self._numbers(r"number_of_executed_units:\s+(\d+)"))
        covered = self._numbers(r"cov: (\d+)")
        memory = max(self._numbers(r"peak_rss_mb:\s+(\d+)"), default=0)
        return (
            f"| {self.name} | {inputs:,} | {min(covered, default=0)} to {max(covered, default=0)} | "
            f"{self.seconds:.0f} s | {memory} MB | {'yes' if self.broken else 'none'} |"
        )

    def _numbers(self, pattern: str) -> list[int]:
        return [int(number) for said in self.said for number in re.findall(pattern, said)]


def fed(name: str, runs: int, jobs: int) -> Fed:
    """Feed one reader from several processes at once, which pass on to each other what they found."""
    with tempfile.TemporaryDirectory() as folder:
        for number, data in enumerate(seeds(name)):
            (Path(folder) / f"{number}").write_bytes(data[: LONGEST[name]])
        command = [sys.executable, "-m", "tests.checks.run_fuzz", "--runs", str(-(-runs // jobs))]
        command += ["--feed", folder, name]
        started = time.monotonic()
        with ThreadPoolExecutor(jobs) as pool:
            done = list(
                pool.map(
                    lambda _: subprocess.run(
                        command, capture_output=True, text=True, check=False, errors="replace"
                    ),
                    range(jobs),
                )
            )
        seconds = time.monotonic() - started
    for one in done:
        if one.returncode:
            print(one.stdout[-6000:], one.stderr[-3000:], sep="\n", flush=True)
    return Fed(name, tuple(one.stdout + one.stderr for one in done), seconds, any(one.returncode for one in done))


def written(row: str) -> None:
    """Put one reader's line into the page; the others' stay."""
    kept = dict.fromkeys(READERS, "")
    lines = PAGE.read_text(encoding="utf-8").splitlines() if PAGE.exists() else []
    for line in [*lines, row]:
        name = line.strip("| ").split(" |")[0]
        if name in kept:
            kept[name] = line
    PAGE.write_text(HEAD + "".join(f"{line}\n" for line in kept.values() if line), encoding="utf-8")


def main() -> None:
    """Feed them all."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--runs", type=int, default=100_000)
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument("--feed", metavar="FOLDER")
    parser.add_argument("readers", nargs="*", default=list(READERS))
    options = parser.parse_args()
    if options.feed:
        feed(options.readers[0], options.runs, options.feed)
        return
    FOUND.mkdir(exist_ok=True)
    for name in options.readers:
        row = fed(name, options.runs, options.jobs).row()
        print(row, flush=True)
        written(row)


if __name__ == "__main__":
    main()
