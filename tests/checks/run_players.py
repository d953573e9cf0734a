"""Plan all cases of what players choose, and write the figures to docs/players.md.

    .venv/bin/python -m tests.checks.run_players [--of open|own] [--genre NAME] [--show] [--no-page]

Takes a minute on two cores. `--show` prints every bar that a player objects to, the wrong notes starred.
"""

from __future__ import annotations

import argparse
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from multiprocessing import Pool
from pathlib import Path

from rich.progress import track

from dromic.errors import DromicError
from dromic.hands.profile import hands_named
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import school_named
from tests.checks.player_cases import Case, Judged, cases_of, faults, judged, played

PAGE = Path(__file__).parents[2] / "docs" / "players.md"
FILES = ("open", "own")


@dataclass(frozen=True)
class Outcome:
    """What came of one case."""

    case: Case
    judged: Judged | None
    why_not: str = ""


@dataclass
class Score:
    """Bars without objection, and notes right in place, place and finger, and stroke."""

    good: int = 0
    bars: int = 0
    notes: int = 0
    places: int = 0
    fingers: int = 0
    strokes: int = 0
    refused: int = 0

    def add(self, outcome: Outcome) -> None:
        """Count an outcome."""
        one = outcome.judged
        if one is None:
            way = outcome.case.ways[0]
            self.refused += 1
            self.bars += len({note.bar for note in way})
            self.notes += len(way)
            return
        self.good += sum(one.bars.values())
        self.bars += len(one.bars)
        self.notes += len(one.right)
        places, fingers, strokes = (sum(right) for right in zip(*one.right, strict=True))
        self.places, self.fingers, self.strokes = (
            self.places + places,
            self.fingers + fingers,
            self.strokes + strokes,
        )

    def shares(self) -> tuple[float, float, float, float]:
        """Shares of the bars, and of the notes in place, place and finger, and stroke."""
        notes = max(self.notes, 1)
        return self.good / max(self.bars, 1), self.places / notes, self.fingers / notes, self.strokes / notes


def outcome_of(case: Case) -> Outcome:
    """Plan a case under its school, and judge the plan."""
    try:
        plan = plan_riff(case.riff, Request(hands_named("medium"), school_named(case.school)))
        return Outcome(case, judged(case, played(plan)))
    except (DromicError, ValueError) as error:
        return Outcome(case, None, str(error))


def outcomes_of(cases: Sequence[Case]) -> list[Outcome]:
    """Plan cases, on all cores."""
    with Pool() as pool:
        return list(track(pool.imap(outcome_of, cases, chunksize=4), total=len(cases), description="planning"))


def scores(outcomes: Iterable[Outcome]) -> dict[str, Score]:
    """Scores by genre, and of all of them as ``all``."""
    found: dict[str, Score] = {}
    for outcome in outcomes:
        for key in (outcome.case.genre, "all"):
            found.setdefault(key, Score()).add(outcome)
    whole = found.pop("all", Score())
    return {**dict(sorted(found.items())), "all": whole}


def fault_counts(outcomes: Iterable[Outcome]) -> Counter[str]:
    """Notes that a player objects to, by kind of fault."""
    return Counter(kind for one in outcomes if one.judged is not None for _, kind in faults(one.judged))


def _shown(outcome: Outcome) -> str:
    case, one = outcome.case, outcome.judged
    if one is None:
        return f"{case.name}: {outcome.why_not}"
    words = []
    for want, note, right in zip(one.way, one.notes, one.right, strict=True):
        text = f"{note.place}({note.finger}){note.stroke}"
        wish = "/".join(f"{place}({fingers})" for place, fingers in want.fingers.items()) + want.strokes
        words.append((want.bar, text if all(right) else f"{text}*[{wish}]"))
    lines = [f"{case.name} {case.genre} {case.school} {case.riff.gain} {case.riff.tempo:g}: {case.why}"]
    for bar, good in one.bars.items():
        mark = "   " if good else " * "
        lines.append(f"{mark}{bar}: " + " ".join(text for number, text in words if number == bar))
    return "\n".join(lines)


def _table(found: dict[str, Score]) -> Iterable[str]:
    yield "| genre | bars | without objection | place | place and finger | stroke |"
    yield "|---|---|---|---|---|---|"
    for genre, score in found.items():
        bars, place, finger, stroke = score.shares()
        yield f"| {genre} | {score.bars} | {bars:.0%} | {place:.1%} | {finger:.1%} | {stroke:.1%} |"


def page(by_file: dict[str, list[Outcome]]) -> str:
    """The page of figures."""
    lines = [
        "# What players choose, and what Dromic plans",
        "",
        "Written by `python -m tests.checks.run_players`. The cases are invented, common practice, no source, and",
        "were written before any plan of them was seen; how they are judged stands in",
        "`tests/checks/player_cases.py`.",
        "",
    ]
    for name, outcomes in by_file.items():
        refused = sum(one.judged is None for one in outcomes)
        lines += [f"## {name.capitalize()} cases: {len(outcomes)}, {refused} without a plan", ""]
        lines += [*_table(scores(outcomes)), "", "| kind of fault | notes |", "|---|---|"]
        lines += [f"| {kind} | {count} |" for kind, count in fault_counts(outcomes).most_common()]
        lines.append("")
    return "\n".join(lines)


def main() -> None:
    """Run from the command line."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--of", choices=FILES, action="append", help="which cases, all by default")
    parser.add_argument("--genre")
    parser.add_argument("--show", action="store_true", help="print the bars that a player objects to")
    parser.add_argument("--no-page", action="store_true", help="do not write docs/players.md")
    args = parser.parse_args()
    by_file = {}
    for name in args.of or FILES:
        cases = [case for case in cases_of(name) if args.genre in (None, case.genre)]
        by_file[name] = outcomes_of(cases)
        if args.show:
            bad = [one for one in by_file[name] if one.judged is None or not all(one.judged.bars.values())]
            print("\n".join(map(_shown, bad)))
        print(name, *_table(scores(by_file[name])), sep="\n")
        print(fault_counts(by_file[name]).most_common())
    if not (args.no_page or args.of or args.genre):
        PAGE.write_text(page(by_file), encoding="utf-8")


if __name__ == "__main__":
    main()
