"""Print plans of riffs that are written as pitches, bar by bar, to be read as a player would.

    .venv/bin/python -m tests.checks.read_plans [FILE] [--only NUMBER ...]

A file has one riff a line: its name, its school, its header with ``;`` between the lines, and its bars, with ``|``
between. Every note is told by string, fret, finger and stroke.
"""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from itertools import groupby
from pathlib import Path

from dromic.formats.rifftext.reader import read_riff_text
from dromic.hands.profile import hands_named
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import school_named

COLD = Path(__file__).parent / "players" / "cold.riffs"
LETTERS = {"down": "d", "up": "u", "together": "+"}


def plans(path: Path, only: list[int]) -> Iterator[tuple[str, Plan]]:
    """Every riff's line up to its bars, numbered, and its plan."""
    lines = [line for line in path.read_text(encoding="utf-8").splitlines() if line.strip()]
    for number, line in enumerate(lines, 1):
        if only and number not in only:
            continue
        name, school, head, *bars = (part.strip() for part in line.split("|"))
        text = "\n".join([*(entry.strip() for entry in head.split(";")), "", f"| {' | '.join(bars)} |"])
        riff = read_riff_text(text).riff
        told = f"{number}. {name} ({school}; {head})"
        yield told, plan_riff(riff, Request(hands_named("medium"), school_named(school)))


def bars_told(plan: Plan) -> Iterator[str]:
    """Every bar of a plan in one line."""
    played = zip(plan.task.steps, plan.states, strict=True)
    for bar, some in groupby(played, key=lambda one: one[0].moment.bar):
        words = []
        for _, state in some:
            stroke = LETTERS.get(str(state.stroke), str(state.stroke)) if state.sounded else "-"
            words.append("/".join(f"{string}:{fret}({finger})" for string, fret, finger in state.notes) + stroke)
        yield f"    {bar}: {' '.join(words)}"


def main() -> None:
    """Run from the command line."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("file", nargs="?", type=Path, default=COLD)
    parser.add_argument("--only", nargs="+", type=int, default=[])
    options = parser.parse_args()
    for told, plan in plans(options.file, options.only):
        ceilings = plan.ceilings
        print(told)
        print("    ceilings:", *(f"{one:.0f}" for one in (ceilings.pick, ceilings.fret, ceilings.both) if one))
        print("\n".join(bars_told(plan)))


if __name__ == "__main__":
    main()
