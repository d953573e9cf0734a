"""Break real files in a million ways, and see that every reader says in words what is wrong, in time and in bounds.

    .venv/bin/python -m tests.checks.run_mutations [--runs N] [READER ...]

The files are the demo riffs in every kind that is written, tablature as it is posted, tunes, scores and MIDI
files of the open collections in the music21 package, projects, hands and settings. How they are broken:
`tests.checks.mutators`. Nothing but RiffError may come out of a reader; reading may take ten seconds and 1.5 GB
at the very most, refusing two seconds and 150 MB. What breaks a reader is kept in the folder `mutations-found`,
named by reader and number.
"""

from __future__ import annotations

import argparse
import json
import random
import resource
import signal
import sys
import tempfile
import time
import warnings
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from contextlib import suppress
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from types import FrameType

from dromic.app.settings import Settings, load_settings, save_settings
from dromic.demo.library import DemoRiff, demo_riffs
from dromic.errors import RiffError
from dromic.formats.hands_file import hands_as_data, read_hands
from dromic.formats.midi.writer import write_midi
from dromic.formats.musicxml.writer import write_musicxml
from dromic.formats.project import Project, project_as_data
from dromic.formats.registry import written
from dromic.formats.rifftext.writer import write_riff_text
from dromic.hands.profile import PROFILES, hands_named
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import school_named
from tests.checks import abc_tunes, musicxml_scores, run_fuzz
from tests.checks.mutators import (
    WORDS,
    Mutator,
    cut,
    flipped,
    json_mutator,
    midi_mutator,
    text_mutator,
    xml_mutator,
)

FOUND = Path("mutations-found")
LONGEST_S, LONGEST_REFUSAL_S = 10, 2.0
MOST_BYTES = 1_500 * 2**20
SLICES = 8
LARGEST_SEED = 60_000


def _from_file(read: Callable[[Path], object]) -> Callable[[bytes], object]:
    """A reader of files, fed with bytes."""
    folder = Path(tempfile.mkdtemp(prefix="mutations-"))

    def feed(data: bytes) -> object:
        path = folder / "one.json"
        path.write_bytes(data)
        return read(path)

    return feed


@cache
def readers() -> dict[str, Callable[[bytes], object]]:
    """Readers by name, each from bytes."""
    return {
        **run_fuzz.READERS,
        "hands": _from_file(read_hands),
        "settings": _from_file(load_settings),
    }


@cache
def files(name: str) -> tuple[bytes, ...]:
    """Good files to break."""
    riffs = [demo.riff for demo in demo_riffs()]
    posted = Path(__file__).parents[1] / "formats" / "test_posted_tab.py"
    tunes = [tune for collection in abc_tunes.COLLECTIONS for tune in abc_tunes.tunes(collection)[:40]]
    made: dict[str, Callable[[], list[bytes]]] = {
        "riff": lambda: [write_riff_text(riff).encode() for riff in riffs],
        "tab": lambda: [
            *(written(".tab", demo.riff, _planned(demo))[0] for demo in demo_riffs()),
            # Its pages stand between its tests, which read as pages with words around them.
            posted.read_bytes(),
            *(page.encode() for page in posted.read_text(encoding="utf-8").split('"""') if "|" in page),
        ],
        "abc": lambda: [*(tune.encode() for tune in tunes), *(written(".abc", riff)[0] for riff in riffs)],
        "midi": lambda: [*map(write_midi, riffs), *_midi_of_others(tunes[:12])],
        "musicxml": lambda: [
            *map(write_musicxml, riffs),
            *(
                path.read_bytes()
                for paths in musicxml_scores.scores().values()
                for path in paths
                if path.suffix != ".mxl" and path.stat().st_size < LARGEST_SEED
            ),
        ],
        "project": lambda: [
            json.dumps(project_as_data(Project(write_riff_text(riff), notes="a note"))).encode() for riff in riffs
        ],
        "hands": lambda: [json.dumps(hands_as_data(hands)).encode() for hands in PROFILES.values()],
        "settings": lambda: [_settings()],
    }
    small = run_fuzz.seeds(name) if name in run_fuzz.READERS else ()
    return tuple(dict.fromkeys((*small, *made[name]())))


def _planned(demo: DemoRiff) -> Plan:
    return plan_riff(demo.riff, Request(hands_named("medium"), school_named(demo.school)))


def _settings() -> bytes:
    path = Path(tempfile.mkdtemp(prefix="mutations-")) / "settings.json"
    save_settings(Settings(), path)
    return path.read_bytes()


def _midi_of_others(tunes: list[str]) -> list[bytes]:
    """Tunes as another program writes them."""
    import music21

    found = []
    path = Path(tempfile.mkdtemp(prefix="mutations-")) / "tune.mid"
    for tune in tunes:
        with warnings.catch_warnings(), suppress(Exception):
            warnings.simplefilter("ignore")
            music21.converter.parseData("%abc-2.1\n" + abc_tunes.prepared(tune), format="abc").write("midi", path)
            found.append(path.read_bytes())
    return found


@cache
def mutator(name: str) -> Mutator:
    """How files of a kind are broken."""
    if name == "midi":
        return midi_mutator
    if name == "musicxml":
        return xml_mutator(files(name))
    if name in ("project", "hands", "settings"):
        return json_mutator
    return text_mutator(WORDS[name] + " " + WORDS["text"], files(name))


@dataclass
class Outcome:
    """What became of some inputs."""

    name: str
    inputs: int = 0
    read: int = 0
    slowest_read_s: float = 0.0
    slowest_refusal_s: float = 0.0
    most_mb: float = 0.0
    broken: list[str] = field(default_factory=list)

    def add(self, other: Outcome) -> None:
        """Count another's inputs in."""
        self.inputs += other.inputs
        self.read += other.read
        self.slowest_read_s = max(self.slowest_read_s, other.slowest_read_s)
        self.slowest_refusal_s = max(self.slowest_refusal_s, other.slowest_refusal_s)
        self.most_mb = max(self.most_mb, other.most_mb)
        self.broken += other.broken

    def row(self) -> str:
        """One line of a table."""
        return (
            f"| {self.name} | {self.inputs:,} | {self.read:,} | {self.slowest_read_s:.2f} s | "
            f"{self.slowest_refusal_s:.2f} s | {self.most_mb:.0f} MB | {len(self.broken)} |"
        )


def _too_long(_number: int, _frame: FrameType | None) -> None:
    raise TimeoutError


def broken_input(name: str, number: int) -> bytes:
    """The input of a number, the same every time."""
    chance = random.Random(f"{name} {number}")
    seed = chance.choice(files(name))
    way: Mutator = chance.choice((flipped, cut)) if chance.random() < 0.15 else mutator(name)
    return way(seed, chance)


def feed(name: str, numbers: range) -> Outcome:
    """Feed a reader with the inputs of some numbers."""
    found = Outcome(name)
    read = readers()[name]
    signal.signal(signal.SIGALRM, _too_long)
    files(name)
    start_kb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    resource.setrlimit(resource.RLIMIT_AS, (MOST_BYTES + 2**30, resource.RLIM_INFINITY))
    for number in numbers:
        data = broken_input(name, number)
        signal.setitimer(signal.ITIMER_REAL, LONGEST_S)
        begun = time.process_time()
        try:
            read(data)
            seconds = time.process_time() - begun
            found.read += 1
            found.slowest_read_s = max(found.slowest_read_s, seconds)
        except RiffError as error:
            seconds = time.process_time() - begun
            found.slowest_refusal_s = max(found.slowest_refusal_s, seconds)
            if not error.message or seconds > LONGEST_REFUSAL_S:
                found.broken.append(f"{name} {number}: refused after {seconds:.1f} s: {error}"[:300])
        except Exception as error:  # noqa: BLE001 - whatever comes out is what is looked for
            found.broken.append(f"{name} {number}: {type(error).__name__}: {error}"[:300])
        finally:
            signal.setitimer(signal.ITIMER_REAL, 0)
        if found.broken and found.broken[-1].startswith(f"{name} {number}:"):
            FOUND.mkdir(exist_ok=True)
            (FOUND / f"{name}-{number}").write_bytes(data)
        found.inputs += 1
    found.most_mb = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - start_kb) / 1024
    return found


def main() -> int:
    """Feed them all; 1 where something broke."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--runs", type=int, default=125_000, help="inputs for each reader")
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument("readers", nargs="*", default=list(readers()))
    options = parser.parse_args()
    broken: list[str] = []
    print("| reader | inputs | read | slowest read | slowest refusal | memory | broken |")
    print("|---|---|---|---|---|---|---|")
    for name in options.readers:
        whole = Outcome(name)
        share = -(-options.runs // SLICES)
        with ProcessPoolExecutor(options.jobs, max_tasks_per_child=1) as pool:
            parts = [
                pool.submit(feed, name, range(at, min(at + share, options.runs)))
                for at in range(0, options.runs, share)
            ]
            for part in parts:
                whole.add(part.result())
        print(whole.row(), flush=True)
        broken += whole.broken
    print(*broken[:60], sep="\n")
    return 1 if broken else 0


if __name__ == "__main__":
    sys.exit(main())
