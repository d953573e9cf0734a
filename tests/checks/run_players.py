"""Plan all cases of what players choose, and write the figures to docs/players.md.

    .venv/bin/python -m tests.checks.run_players [--of open|own|long] [--genre NAME] [--show] [--no-page]

Takes a minute on two cores. `--show` prints every bar that a player objects to, the wrong notes starred.
"""

from __future__ import annotations

import argparse
import signal
from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import partial
from multiprocessing import Pool
from pathlib import Path

from rich.progress import track

from dromic.errors import DromicError
from dromic.hands.profile import hands_named
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import school_named
from tests.checks import chord_table
from tests.checks.player_cases import Case, Judged, cases_of, faults, judged, played
from tests.checks.recurrence import Recurrence, recurrence_of

PAGE = Path(__file__).parents[2] / "docs" / "players.md"
FILES = ("open", "own", "long")
EVERY = 8
LONGEST_S = 20
NOTHING_AGAIN = Recurrence()


@dataclass(frozen=True)
class Outcome:
    """What came of one case."""

    case: Case
    judged: Judged | None
    why_not: str = ""
    recurrence: Recurrence = NOTHING_AGAIN


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
    signal.signal(signal.SIGALRM, _too_long)
    signal.alarm(LONGEST_S)
    try:
        plan = plan_riff(case.riff, Request(hands_named("medium"), school_named(case.school)))
        return Outcome(case, judged(case, played(plan)), recurrence=recurrence_of(plan))
    except (DromicError, ValueError, TimeoutError) as error:
        return Outcome(case, None, str(error))
    finally:
        signal.alarm(0)


def _too_long(*_: object) -> None:
    raise TimeoutError(f"no plan in {LONGEST_S} s")


def outcomes_of(cases: Sequence[Case]) -> list[Outcome]:
    """Plan cases, on all cores."""
    with Pool() as pool:
        return list(track(pool.imap(outcome_of, cases, chunksize=4), total=len(cases), description="planning"))


def genre_of(case: Case) -> str:
    """What cases are counted by, as a rule."""
    return case.genre


def writer_of(case: Case) -> str:
    """Who wrote a case."""
    return case.name.split("-")[0] if "-" in case.name else case.name.rstrip("0123456789")


def scores(outcomes: Iterable[Outcome], by: Callable[[Case], str] = genre_of) -> dict[str, Score]:
    """Scores by genre or by writer, and of all of them as ``all``."""
    found: dict[str, Score] = {}
    for outcome in outcomes:
        for key in (by(outcome.case), "all"):
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


def _table(found: dict[str, Score], by: str = "genre") -> Iterable[str]:
    yield f"| {by} | bars | without objection | place | place and finger | stroke |"
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
    every = [outcome for outcomes in by_file.values() for outcome in outcomes]
    lines += ["## By writer", "", *_table(scores(every, writer_of), "writer"), ""]
    lines += ["## The same again", "", again_words(every), ""]
    lines += ["## Published chord shapes", "", chord_words(), ""]
    return "\n".join(lines)


def again_words(outcomes: Iterable[Outcome]) -> str:
    """How often the same again is played otherwise."""
    whole = sum((outcome.recurrence for outcome in outcomes), NOTHING_AGAIN)
    return (
        f"Of {whole.again} single notes struck again {whole.otherwise} are played in another place or by another "
        f"finger; of {whole.bars} bars that come back {whole.other_bars} are planned otherwise."
    )


def chord_words() -> str:
    """How many published chord shapes are fingered, and found, as they were published."""
    every = list(chord_table.shapes())
    known = frozenset(shape.places for shape in every)
    with Pool() as pool:
        fingers = pool.map(chord_table.fingered_as_published, every, chunksize=32)
        by_comfort = pool.map(partial(chord_table.fingered_as_published, knowing=False), every, chunksize=32)
        placed = pool.starmap(chord_table.placed_as_published, [(shape, known) for shape in every[::EVERY]])
    there, moved = sum(one.there for one in placed), sum(one.moved for one in placed)
    return (
        f"Planned alone from their places {sum(fingers)} of {len(every)} have the fingers of the table "
        f"({sum(fingers) / len(every):.0%}), which the planner is told that players know; by hands that are not "
        f"told it, {sum(by_comfort) / len(every):.0%}. From pitches alone {there} of {len(placed)} lie in "
        f"places that the table has ({there / len(placed):.0%}), and {moved} more are ones it has at another fret "
        f"({(there + moved) / len(placed):.0%} together). Source: `tests/checks/chord_table.py`."
    )


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
