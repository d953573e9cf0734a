"""``plan_riff``: the whole program in one call."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from dromic.errors import NoPlanError
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Riff
from dromic.planner.conflicts import played_against
from dromic.planner.kbest import PlanRanking
from dromic.planner.plan import Ceilings, Objective, Plan, State
from dromic.planner.prices import best_of_forms, price_all
from dromic.planner.problem import Watch
from dromic.planner.request import Request
from dromic.planner.solution import Solution, solve
from dromic.planner.summary import limits_of, planned_events
from dromic.planner.totals import Tally, totals_of
from dromic.planner.transitions import Transition, TransitionReport, reports


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


def transitions_of(solution: Solution, chosen: Sequence[State]) -> list[Transition]:
    """Return the chosen moves over all links, the seam last where there is one."""
    problem, task = solution.problem, solution.problem.task
    ends = [(index, index + 1, link) for index, link in enumerate(problem.links)]
    if task.seam is not None:
        ends.append((len(chosen) - 1, 0, task.seam))
    found = []
    for one, two, link in ends:
        before, after = chosen[one], chosen[two]
        played = link.as_played(before.sounded, after.sounded) or link
        found.append(Transition(before, after, played, problem.model.school_of(problem.steps[two])))
    return found


def known_reports(
    solution: Solution, chosen: Sequence[State], known: Mapping[Transition, TransitionReport]
) -> tuple[list[TransitionReport], dict[Transition, TransitionReport]]:
    """Reports of a plan's transitions, in order and by transition; those that are known are not made again.

    Parameters
    ----------
    solution : Solution
    chosen : sequence of State
    known : mapping of Transition to TransitionReport
        Made with the same model.
    """
    transitions = transitions_of(solution, chosen)
    new = [one for one in dict.fromkeys(transitions) if one not in known]
    made = dict(zip(new, reports(solution.problem.model, new), strict=True))
    by_transition = {one: made[one] if one in made else known[one] for one in transitions}
    return [by_transition[one] for one in transitions], by_transition


def planned(
    solution: Solution, request: Request, known: Mapping[Transition, TransitionReport] | None = None
) -> Planned:
    """Make a plan of a solution, without prices."""
    chosen = solution.chosen
    in_order, _ = known_reports(solution, chosen, known or {})
    problem, riff = solution.problem, solution.riff
    model, task = problem.model, problem.task
    seam = in_order[-1] if task.seam is not None else None
    ways = in_order[:-1] if task.seam is not None else in_order
    events = planned_events(model, task, chosen, ways, seam)
    against = played_against(task, chosen, ways, model.school_of)
    if against:
        task = replace(task, warnings=(*task.warnings, against))
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
        ceilings=Ceilings.at(riff.tempo, (one.loads for one in in_order)),
        limits=limits_of(task, ways, seam),
        totals=totals_of(Tally(model, chosen, events, in_order)),
        events=events,
    )
    return Planned(plan, solution)


def with_prices(planned: Planned, request: Request) -> Plan:
    """Return a plan with the prices of other choices, as many as the request wants."""
    plan, solution = planned.plan, planned.solution
    if not request.alternatives:
        return plan
    by_form = [
        price_all(
            one.problem,
            one.bound,
            plan.states,
            solution.path.total,
            request.alternatives,
            plan.tempo,
            one.folded,
            one.path.path if one is solution else None,
        )
        for one in (solution, *solution.other_forms)
    ]
    priced = best_of_forms(by_form, request.alternatives, for_tempo=request.objective is Objective.TEMPO)
    events = [
        event if event.step is None else replace(event, alternatives=priced[event.step]) for event in plan.events
    ]
    return replace(plan, events=tuple(events))
