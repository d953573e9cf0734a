"""Cross-validate what players choose: fit to three quarters of the cases, plan the last quarter with the values.

    .venv/bin/python -m tests.checks.cross_validate [--folds K ...] [--rounds N]

Every fourth case is left out in turn. Writes docs/held_out.md; a fold takes five to ten minutes on two cores.
"""

from __future__ import annotations

import argparse
from collections.abc import Iterable, Sequence
from functools import partial
from multiprocessing import Pool
from multiprocessing.pool import Pool as PoolType
from pathlib import Path

from dromic.arrays import Floats
from dromic.errors import DromicError
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import school_named
from tests.checks.fit_players import hands_with, rounds_of, starting
from tests.checks.player_cases import Case, cases_of, judged, played
from tests.checks.run_players import Outcome, Score, scores

PAGE = Path(__file__).parents[2] / "docs" / "held_out.md"
FOLDS = 4
PRIOR = 0.01
HEAD = """# Cases left out of the fit

Written by `python -m tests.checks.cross_validate`. The values are fitted, from those in force on, to three quarters
of the cases of docs/players.md ({rounds} round a fold); the last quarter is planned with them. What this does not
show: the terms of the model, and the values it starts from, were found while looking at all of the cases.
*Before* is the last quarter under the values in force, the other columns under those fitted without it.

| cases left out | bars | before | without objection | place | place and finger | stroke |
|---|---|---|---|---|---|---|
"""


def outcome_under(case: Case, values: Floats) -> Outcome:
    """Plan a case under its school with other comforts, and judge the plan."""
    try:
        plan = plan_riff(case.riff, Request(hands_with(values), school_named(case.school)))
        return Outcome(case, judged(case, played(plan)))
    except (DromicError, ValueError) as error:
        return Outcome(case, None, str(error))


def outcomes(pool: PoolType, cases: Sequence[Case], values: Floats) -> list[Outcome]:
    """Plans of cases, judged."""
    return pool.map(partial(outcome_under, values=values), cases, chunksize=4)


def row(name: str, before: Score, after: Score) -> str:
    """One row of the page."""
    shares = (before.shares()[0], *after.shares())
    return f"| {name} | {after.bars} | " + " | ".join(f"{share:.1%}" for share in shares) + " |\n"


def whole(some: Iterable[Outcome]) -> Score:
    """The score of all of them."""
    return scores(some)["all"]


def main() -> None:
    """Fit, plan, judge and write."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--folds", type=int, nargs="+", default=list(range(FOLDS)))
    parser.add_argument("--rounds", type=int, default=1)
    options = parser.parse_args()
    cases = [case for name in ("open", "own") for case in cases_of(name)]
    rows = []
    every_before: list[Outcome] = []
    every_after: list[Outcome] = []
    with Pool() as pool:
        for fold in options.folds:
            kept = [case for number, case in enumerate(cases) if number % FOLDS != fold]
            left_out = cases[fold::FOLDS]
            values = starting()
            before = outcomes(pool, left_out, values)
            for _, fitted, _ in rounds_of(pool, kept, values, options.rounds, PRIOR):
                values = fitted
            after = outcomes(pool, left_out, values)
            every_before += before
            every_after += after
            rows.append(row(f"every fourth from {fold + 1} on", whole(before), whole(after)))
            print(rows[-1], end="", flush=True)
    rows.append(row("all", whole(every_before), whole(every_after)))
    print(rows[-1], end="")
    PAGE.write_text(HEAD.format(rounds=options.rounds) + "".join(rows))


if __name__ == "__main__":
    main()
