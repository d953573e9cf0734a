"""Three hundred varied riffs and what their plans cost: the guard that a rebuilding leaves plans as they are.

``python -m tests.planner.corpus`` plans all of them and says which plans changed; with ``--write`` it keeps the new
figures, which is right after the model has been changed on purpose, and for nothing else.
"""

from __future__ import annotations

import json
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from dromic.errors import NoPlanError, RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.hands.profile import hands_named
from dromic.music.riff import Stroke
from dromic.planner.plan import Objective, Plan
from dromic.planner.planning import plan_riff
from dromic.planner.request import Freedom, Request
from dromic.schools.registry import school_named
from tests.planner.corpus_riffs import made

FILE = Path(__file__).with_name("corpus.jsonl")
SIZE = 300
MOST_EVENTS = 26
SLOW_SEEDS = (199,)


@dataclass(frozen=True)
class Case:
    """A riff, how it is planned, and what came of it: cost, ceiling and the movements in short.

    `cost` and `ceiling` are None where there is no plan; `movements` is then the refusal.
    """

    riff: str
    wishes: dict[str, Any]
    cost: float | None = None
    ceiling: float | None = None
    movements: str = ""


def request_of(wishes: dict[str, Any]) -> Request:
    """What the planner is asked."""
    first = wishes.get("first_stroke")
    return Request(
        hands_named(wishes.get("hands", "medium")),
        school_named(wishes["school"]),
        objective=Objective(wishes.get("objective", "effort")),
        loop=wishes.get("loop", False),
        free=frozenset(Freedom(one) for one in wishes.get("free", ())),
        by_phrase={name: school_named(one) for name, one in wishes.get("by_phrase", {}).items()},
        first_stroke=None if first is None else Stroke(first),
        identical_repeats=wishes.get("identical_repeats", False),
    )


def movements(plan: Plan) -> str:
    """Places, fingers and strokes of a plan in short."""
    words = []
    for event in plan.events:
        if event.step is not None:
            notes = "+".join(f"{one.string}:{one.fret}@{one.finger}" for one in event.notes)
            words.append(f"{notes}{str(event.stroke)[0]}")
    return " ".join(words)


def planned(case: Case) -> Case:
    """The case as it is planned now."""
    try:
        plan = plan_riff(read_riff_text(case.riff).riff, request_of(case.wishes))
    except NoPlanError as error:
        return Case(case.riff, case.wishes, movements=error.message)
    return Case(case.riff, case.wishes, plan.cost, plan.ceiling, movements(plan))


def cases() -> list[Case]:
    """All cases with the figures that are kept."""
    return [Case(**json.loads(line)) for line in FILE.read_text(encoding="utf-8").splitlines()]


def make() -> list[Case]:
    """Make the corpus anew, from riffs that have a plan and a few that have none."""
    found: list[Case] = []
    seed = refused = 0
    while len(found) < SIZE:
        riff, wishes = made(seed)
        seed += 1
        if seed - 1 in SLOW_SEEDS or len(riff.written_events()) > MOST_EVENTS:
            continue
        try:
            case = planned(Case(write_riff_text(riff), wishes))
        except RiffError:
            # Chance wrote what riff text does not allow, such as a grace note before a rest.
            continue
        refused += case.cost is None
        if case.cost is not None or refused <= SIZE // 20:
            found.append(case)
    return found


def write(some: list[Case]) -> None:
    """Keep the figures."""
    FILE.write_text("".join(json.dumps(vars(one), ensure_ascii=False) + "\n" for one in some), encoding="utf-8")


def same(one: float | None, other: float | None) -> bool:
    """Whether two figures are one but for rounding."""
    if one is None or other is None:
        return one is other
    return abs(one - other) <= 1e-9 * max(1.0, abs(one))


def main() -> None:
    old = cases() if FILE.exists() else make()
    new = [planned(one) for one in old]
    costs = [number for number, (a, b) in enumerate(zip(old, new, strict=True)) if not same(a.cost, b.cost)]
    moved = [number for number, (a, b) in enumerate(zip(old, new, strict=True)) if a.movements != b.movements]
    for number in sorted({*costs, *moved}):
        a, b = old[number], new[number]
        print(f"{number}: {a.cost} -> {b.cost}\n  {a.movements}\n  {b.movements}")
    print(f"{len(old)} riffs: {len(costs)} costs changed, {len(moved)} plans move another way")
    if "--write" in sys.argv:
        write(new)


if __name__ == "__main__":
    main()
