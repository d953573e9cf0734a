"""What is compared: every school, and other ways across the neck under the chosen one, row by row."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, replace

from dromic.app.jobs import Watch
from dromic.errors import DromicError
from dromic.instrument.presets import instrument_for
from dromic.music.riff import Riff
from dromic.planner.compare import SchoolPlans, in_one_style
from dromic.planner.families import LEAST_OTHER_PLACES, families, other_places
from dromic.planner.plan import Plan
from dromic.planner.plan_settings import PlanSettings
from dromic.planner.planning import plan_riff
from dromic.planner.request import Freedom
from dromic.planner.told.school_profile import made_for_others
from dromic.schools.registry import SCHOOLS, school_named

WAYS = 5
SCHOOL, WAY = "school", "way"


@dataclass(frozen=True)
class CompareRow:
    """One way of playing the riff.

    Parameters
    ----------
    kind : str
        `SCHOOL`, or `WAY` for another way across the neck under the chosen school.
    name : str
        The school's name, or a number.
    title : str
    plan : Plan or None
    refusal : str
        Why there is none.
    words : str
        Where on the neck, for another way.
    other_use : str
        What the school is made for, where that is not this riff.
    """

    kind: str
    name: str
    title: str
    plan: Plan | None
    refusal: str = ""
    words: str = ""
    other_use: str = ""

    @property
    def label(self) -> str:
        """Its title, with what it is made for where that is something else."""
        return f"{self.title} ({self.other_use})" if self.other_use else self.title


def rows(plans: SchoolPlans, riff: Riff, plan_settings: PlanSettings, watch: Watch) -> Iterator[CompareRow]:
    """Every school, then other ways across the neck under the chosen one.

    Parameters
    ----------
    plans : SchoolPlans
        What is known of the riff under each school.
    riff : Riff
    plan_settings : PlanSettings
    watch : callable
    """
    request = replace(plan_settings.request(), alternatives=0)
    # Where no instrument fits, every row will say so.
    with suppress(DromicError):
        request = in_one_style(riff, request)
    for school in SCHOOLS.values():
        other_use = ""
        with suppress(DromicError):
            other_use = made_for_others(school, riff, instrument_for(riff))
        try:
            plan = plans.plan(riff, replace(request, school=school), watch)
        except DromicError as error:
            yield CompareRow(SCHOOL, school.name, school.title, None, str(error), other_use=other_use)
        else:
            yield CompareRow(SCHOOL, school.name, school.title, plan, other_use=other_use)
    if plan_settings.identical_repeats:
        return
    title = school_named(plan_settings.school).title
    # Other ways across the neck need other places than those that are written.
    free = replace(request, free=request.free | {Freedom.STRINGS})
    try:
        ways = families(riff, free, WAYS + 1, watch=watch)
        now = plan_riff(riff, request, watch=watch)
    except DromicError:
        # The school's own row has said why.
        return
    others = [way for way in ways if other_places(way.plan.states, now.states) >= LEAST_OTHER_PLACES]
    for number, way in enumerate(others[:WAYS], start=2):
        yield CompareRow(WAY, str(number), f"{title}, way {number}", way.plan, words=way.words)
