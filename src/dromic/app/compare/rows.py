"""What is compared: every school, and the best plans of the chosen one, row by row."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, replace

from dromic.app.jobs import Watch
from dromic.errors import DromicError
from dromic.music.riff import Riff
from dromic.planner.compare import in_one_style
from dromic.planner.plan import Plan
from dromic.planner.plan_settings import PlanSettings
from dromic.planner.planning import best_plans_of, plan_riff
from dromic.schools.registry import SCHOOLS, school_named

RANKED = 6
SCHOOL, RANK = "school", "rank"


@dataclass(frozen=True)
class CompareRow:
    """One way of playing the riff.

    Parameters
    ----------
    kind : str
        `SCHOOL`, or `RANK` for one of the best plans of the chosen school.
    name : str
        The school's name, or its rank.
    title : str
    plan : Plan or None
    refusal : str
        Why there is none.
    """

    kind: str
    name: str
    title: str
    plan: Plan | None
    refusal: str = ""


def rows(riff: Riff, plan_settings: PlanSettings, watch: Watch) -> Iterator[CompareRow]:
    """Every school, then the best plans of the chosen one that follow the very best."""
    request = replace(plan_settings.request(), alternatives=0)
    # Where no instrument fits, every row will say so.
    with suppress(DromicError):
        request = in_one_style(riff, request)
    for school in SCHOOLS.values():
        try:
            plan = plan_riff(riff, replace(request, school=school), watch=watch)
        except DromicError as error:
            yield CompareRow(SCHOOL, school.name, school.title, None, str(error))
        else:
            yield CompareRow(SCHOOL, school.name, school.title, plan)
    if plan_settings.identical_repeats:
        return
    title = school_named(plan_settings.school).title
    try:
        ranked = best_plans_of(riff, request, RANKED)
    except DromicError:
        # The school's own row has said why.
        return
    for rank, best in enumerate(ranked[1:], start=2):
        yield CompareRow(RANK, str(rank), f"{title}, choice {rank}", best)
