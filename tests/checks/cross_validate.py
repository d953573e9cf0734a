"""Cross-validate what players choose: fit without the cases of one writer, and plan these with the values.

    .venv/bin/python -m tests.checks.cross_validate

Every writer is left out in turn. Writes docs/held_out.md; takes about half an hour on two cores.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from functools import partial
from multiprocessing import Pool
from multiprocessing.pool import Pool as PoolType
from pathlib import Path

from dromic.arrays import Floats
from dromic.errors import DromicError
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import school_named
from tests.checks.fit_players import all_candidates, hands_with, moved, starting
from tests.checks.player_cases import Case, cases_of, judged, played
from tests.checks.run_players import FILES, Outcome, Score, genre_of, scores, writer_of

PAGE = Path(__file__).parents[2] / "docs" / "held_out.md"
HEAT, HELD, PRIOR = 0.03, 1.0, 0.01
HEAD = """# Cases left out of the fit

Written by `python -m tests.checks.cross_validate`. The values are fitted, by one step from those in force on, to
the cases of docs/players.md but for those of one writer; these are then planned with them. What this does not
show: the terms of the model, and the values it starts from, were found while looking at all of the cases.
*Before* is the same cases under the values in force, the other columns under those fitted without them.
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


def table(before: Iterable[Outcome], after: Iterable[Outcome], by: Callable[[Case], str], title: str) -> str:
    """Both counted by writer or by genre."""
    one, two = scores(before, by), scores(after, by)
    head = (
        f"| {title} | bars | before | without objection | place | place and finger | stroke |\n"
        + 7 * "|---"
        + "|\n"
    )
    return "\n" + head + "".join(_row(name, one[name], score) for name, score in two.items())


def _row(name: str, before: Score, after: Score) -> str:
    shares = (before.shares()[0], *after.shares())
    return f"| {name} | {after.bars} | " + " | ".join(f"{share:.1%}" for share in shares) + " |\n"


def main() -> None:
    """Fit, plan, judge and write."""
    cases = [case for name in FILES for case in cases_of(name)]
    start = starting()
    before: list[Outcome] = []
    after: list[Outcome] = []
    with Pool() as pool:
        known = all_candidates(pool, cases, start)
        for writer in sorted({writer_of(case) for case in cases}):
            left_out = [case for case in cases if writer_of(case) == writer]
            without = {name: known[name] for name in known.keys() - {case.name for case in left_out}}
            values = moved(without, start, start, HEAT, HELD, PRIOR)
            before += outcomes(pool, left_out, start)
            after += outcomes(pool, left_out, values)
            print(writer, flush=True)
    by = (writer_of, "writer left out"), (genre_of, "genre, all writers")
    PAGE.write_text(HEAD + "".join(table(before, after, *one) for one in by))


if __name__ == "__main__":
    main()
