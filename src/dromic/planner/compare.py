"""One riff under every school, side by side."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from dromic.errors import NoPlanError
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for
from dromic.memory import Stages
from dromic.music.riff import Riff
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.planner.replanner import Replanner
from dromic.planner.request import Request
from dromic.planner.solving.problem import Watch
from dromic.planner.task.sounding import sound_of
from dromic.schools.registry import SCHOOLS

MOST_KEPT_EVENTS = 300


@dataclass(frozen=True)
class Comparison:
    """Plans by school, highest ceiling first, and why the other schools have none."""

    plans: tuple[Plan, ...]
    refusals: Mapping[str, str]


class SchoolPlans:
    """Plans of one riff under one school after another, each from what is known of it under that school.

    A long riff is planned from the start: what is known of it under every school would take too much room.
    """

    def __init__(self) -> None:
        self._replanners: dict[str, Replanner] = {}
        self._task_stages = Stages()

    def plan(self, riff: Riff, request: Request, watch: Watch | None = None) -> Plan:
        """Plan a riff, without prices; parameters and errors as in `plan_riff`.

        Parameters
        ----------
        riff : Riff
        request : Request
        watch : callable or None
            Called with the share of the work that is done; what it raises ends it.
        """
        request = replace(request, alternatives=0)
        if len(riff.written_events()) > MOST_KEPT_EVENTS:
            self._replanners.clear()
            return plan_riff(riff, request, watch=watch)
        replanner = self._replanners.setdefault(request.school.name, Replanner(task_stages=self._task_stages))
        return next(replanner.plans(riff, request, watch))


def in_one_style(riff: Riff, request: Request, instrument: Instrument | None = None) -> Request:
    """Return a request with its style said, so that it stays the same under every school and efforts compare.

    Parameters
    ----------
    riff : Riff
    request : Request
    instrument : Instrument or None
        None for the one in the riff's header.
    """
    style = sound_of(riff, request.school, instrument or instrument_for(riff), request.style_said(riff)).style
    return replace(request, style=style)


def compare_schools(
    riff: Riff, request: Request, instrument: Instrument | None = None, watch: Watch | None = None
) -> Comparison:
    """Plan a riff under every school.

    Parameters
    ----------
    riff : Riff
    request : Request
        Its school only helps to tell the style, which is the same for all.
    instrument : Instrument or None
        None for the one in the riff's header.
    watch : callable or None
        Told how much is done, from 0 to 1, after every school.

    Raises
    ------
    RiffError
        When the header's instrument, tuning and capo do not fit together.
    """
    request = in_one_style(riff, request, instrument)
    plans: list[Plan] = []
    refusals: dict[str, str] = {}
    for number, school in enumerate(SCHOOLS.values()):
        if watch is not None:
            watch(number / len(SCHOOLS))
        try:
            plans.append(plan_riff(riff, replace(request, school=school), instrument))
        except NoPlanError as error:
            refusals[school.name] = error.message
    plans.sort(key=lambda plan: (-(plan.ceiling or 0.0), plan.cost, plan.school.name))
    return Comparison(tuple(plans), refusals)
