"""``plan_riff``: the whole program in one call."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from dromic.errors import NoPlanError
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Riff
from dromic.planner.costs.model import Model
from dromic.planner.costs.swapped_rounds import swapped_state
from dromic.planner.costs.transitions import Transition, TransitionReport, reports
from dromic.planner.plan import Objective, Offers, Plan
from dromic.planner.prices.prices import Prices, PricesOfForms
from dromic.planner.request import Request
from dromic.planner.solving.conflicts import played_against
from dromic.planner.solving.kbest import PlanRanking
from dromic.planner.solving.problem import Watch
from dromic.planner.solving.solution import Solution, solve
from dromic.planner.task.state import State
from dromic.planner.task.task import Link
from dromic.planner.told.summary import ceilings_of, limits_of, planned_events
from dromic.planner.told.totals import totals_of
from dromic.schools.school import School

SWAPPED = "going round the loop, every second time has the other strokes"


def plan_riff(
    riff: Riff, request: Request, instrument: Instrument | None = None, watch: Watch | None = None
) -> Plan:
    """Plan a riff: where every note goes, which finger takes it and which stroke sounds it.

    Parameters
    ----------
    riff : Riff
    request : Request
    instrument : Instrument or None
        None for the one in the riff's header.
    watch : callable or None
        Called again and again with the share of the work that is done, 0 to 1. What it raises ends the
        planning, which is how long work is cancelled.

    Returns
    -------
    Plan
        The optimum of the movement model; ties break the same way every time.

    Raises
    ------
    NoPlanError
        When nothing playable exists; the message names the note and what clashes.
    RiffError
        When the header's instrument, tuning and capo do not fit together.

    Notes
    -----
    Time grows linearly with the notes, and with the square of the ways to play each one.

    Examples
    --------
    >>> from dromic.formats.rifftext_reader import read_riff_text
    >>> riff = read_riff_text("| 5:5/8 5:7 5:8 4:5 r/2 |").riff
    >>> from dromic.hands.profile import hands_named
    >>> from dromic.schools.registry import school_named
    >>> request = Request(hands_named("medium"), school_named("economy"))
    >>> plan = plan_riff(riff, request)
    >>> " ".join(event.stroke for event in plan.events if event.step is not None)
    'down up down down'
    """
    return with_prices(planned(solve(riff, request, instrument, watch), request), request)


def best_plans_of(
    riff: Riff, request: Request, most: int, instrument: Instrument | None = None
) -> tuple[Plan, ...]:
    """Return the best plans that differ in places, fingers or strokes, cheapest first.

    Parameters
    ----------
    riff : Riff
    request : Request
        Under the highest tempo only plans that reach it are ranked.
    most : int
    instrument : Instrument or None

    Raises
    ------
    NoPlanError
        When nothing playable exists, or where repeats are to be identical, for which plans are not ranked.

    Examples
    --------
    >>> from dromic.formats.rifftext_reader import read_riff_text
    >>> riff = read_riff_text("| 5:5/8 5:7 5:8 4:5 r/2 |").riff
    >>> from dromic.hands.profile import hands_named
    >>> from dromic.schools.registry import school_named
    >>> request = Request(hands_named("medium"), school_named("economy"))
    >>> first, second = best_plans_of(riff, request, 2)
    >>> first.cost <= second.cost
    True
    """
    if request.identical_repeats:
        raise NoPlanError(
            "plans are not ranked with identical repeats; let the repeats differ, or ask for one plan"
        )
    solution = solve(riff, request, instrument)
    ranking = PlanRanking(solution.problem, solution.bound)
    return tuple(planned(replace(solution, path=path), request).plan for path in ranking.best(most))


@dataclass(frozen=True)
class Planned:
    """A plan with the solution it was made of."""

    plan: Plan
    solution: Solution


def reports_of(solution: Solution, chosen: Sequence[State], *, second: bool = False) -> list[TransitionReport]:
    """Reports of the chosen moves over all links, the seam last; those that are known are not made again.

    Parameters
    ----------
    solution : Solution
    chosen : sequence of State
    second : bool
        Whether it is the second round of a loop whose strokes are swapped there.
    """
    problem, task = solution.problem, solution.problem.task
    first, last = chosen[0], chosen[-1]
    if task.swapped:
        # The way to the first note comes from the round before, which has the other strokes.
        last = swapped_state(last, problem.model.picking.strokes)
    if second:
        chosen = [swapped_state(state, problem.model.picking.strokes) for state in chosen]
        first, last = (
            swapped_state(first, problem.model.picking.strokes),
            swapped_state(last, problem.model.picking.strokes),
        )
    before, after, links = list(chosen[:-1]), list(chosen[1:]), list(problem.links)
    schools = [school for _, school in problem.edge_keys]
    if task.seam is not None:
        before, after, links = [*before, last], [*after, first], [*links, task.seam]
        schools = [*schools, problem.model.school_of(problem.steps[0])]
    stages = problem.stages.part("second round") if second else problem.stages
    return stages.map_many(known_reports, before, after, links, schools, common=(problem.model,))


def known_reports(rows: Sequence[tuple[State, State, Link, School]], model: Model) -> list[TransitionReport]:
    """Reports of moves; those that the model knows are not made again.

    Parameters
    ----------
    rows : sequence of (State, State, Link, School)
        The states before and after, the link between, and the school that rules the second.
    model : Model
    """
    known = model.reports
    new: dict[tuple[State, State, Link, School], Transition] = {}
    found = {row: known.get(row) for row in rows}
    for row, report in found.items():
        if report is None:
            before, after, link, school = row
            new[row] = Transition(before, after, link.as_played(before.sounded, after.sounded) or link, school)
    made = {row: known.put(row, one) for row, one in zip(new, reports(model, list(new.values())), strict=True)}
    return [made.get(row) or found[row] for row in rows]  # type: ignore[misc]


def planned(solution: Solution, request: Request) -> Planned:
    """Make a plan of a solution, without prices."""
    chosen = solution.chosen
    in_order = reports_of(solution, chosen)
    problem, riff = solution.problem, solution.riff
    model, task = problem.model, problem.task
    stages = problem.stages
    events = planned_events(model, task, chosen, in_order, stages)
    against = played_against(task, chosen, in_order, model.school_of)
    if against:
        task = replace(task, warnings=(*task.warnings, against))
    harder = in_order
    if task.swapped:
        task = replace(task, warnings=(*task.warnings, SWAPPED))
        rounds = zip(in_order, reports_of(solution, chosen, second=True), strict=True)
        harder = [max(both, key=lambda one: one.loads.largest) for both in rounds]
    plan = Plan(
        riff=riff,
        instrument=model.instrument,
        hands=request.hands,
        school=request.school,
        rules=problem.setting.rules,
        sound=problem.setting.sound,
        style_said=request.style_said(riff) is not None,
        by_phrase=problem.setting.by_phrase,
        objective=request.objective,
        tempo=riff.tempo,
        task=task,
        states=chosen,
        cost=solution.path.total,
        ceilings=ceilings_of(riff.tempo, harder, stages),
        limits=limits_of(task, harder, stages),
        totals=totals_of(model, chosen, events, in_order, stages),
        events=events,
    )
    return Planned(plan, solution)


def with_prices(planned: Planned, request: Request, first: range | None = None) -> Plan:
    """Return a plan with the prices of other choices, as many as the request wants.

    Parameters
    ----------
    planned : Planned
    request : Request
    first : range or None
        Steps to price first where that takes its time; `Offers.finish` prices the others.
    """
    plan, solution = planned.plan, planned.solution
    if not request.alternatives:
        return plan
    found = (solution, *solution.other_forms)
    if plan.loop:
        # Round a loop only what keeps the ceiling is priced.
        found = tuple(one for one in found if one.bound <= solution.bound)
    forms = [
        Prices(
            one.problem,
            one.bound,
            plan.states,
            solution.path.total,
            request.alternatives,
            plan.tempo,
            one.folded,
            one.path.path if one is solution else None,
            first,
        )
        for one in found
    ]
    offers: Offers = forms[0]
    if len(forms) > 1:
        offers = PricesOfForms(forms, request.alternatives, for_tempo=request.objective is Objective.TEMPO)
    return replace(plan, events=tuple(event.offered(offers) for event in plan.events))
