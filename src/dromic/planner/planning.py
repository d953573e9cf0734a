"""``plan_riff``: the whole program in one call."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from dromic.errors import NoPlanError
from dromic.instrument.instrument import Instrument
from dromic.memory import copy_with
from dromic.music.riff import Riff
from dromic.planner.costs.model import Model
from dromic.planner.costs.swapped_rounds import swapped_state
from dromic.planner.costs.transitions import Transition, TransitionReport, reports
from dromic.planner.locking import with_alternative
from dromic.planner.plan import Objective, Offers, Plan
from dromic.planner.prices.prices import NO_PRICE, Prices, PricesOfForms, ranked
from dromic.planner.request import Request
from dromic.planner.solving.conflicts import played_against
from dromic.planner.solving.kbest import PlanRanking
from dromic.planner.solving.problem import Watch
from dromic.planner.solving.solution import Solution, solve
from dromic.planner.task.state import State
from dromic.planner.task.task import Link
from dromic.planner.told.summary import bottlenecks_of, ceilings_of, planned_events
from dromic.planner.told.totals import totals_of
from dromic.planner.ways import Alternative, Detour
from dromic.schools.school import School

# Beyond so many notes a choice is priced in one round alone, and what it costs in all of them is more.
MOST_IN_ROUNDS = 400
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
    >>> from dromic.formats.rifftext.reader import read_riff_text
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
    >>> from dromic.formats.rifftext.reader import read_riff_text
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
    reports_by_row = {row: known.get(row) for row in rows}
    for row, report in reports_by_row.items():
        if report is None:
            before, after, link, school = row
            new[row] = Transition(before, after, link.as_played(before.sounded, after.sounded) or link, school)
    new_reports = {
        row: known.put(row, one) for row, one in zip(new, reports(model, list(new.values())), strict=True)
    }
    return [new_reports.get(row) or reports_by_row[row] for row in rows]  # type: ignore[misc]


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
        bottlenecks=bottlenecks_of(task, harder, stages),
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
    solutions = (solution, *solution.other_forms)
    if plan.loop:
        # Round a loop only what keeps the ceiling is priced.
        solutions = tuple(one for one in solutions if one.bound <= solution.bound)
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
        for one in solutions
    ]
    offers: Offers = forms[0]
    if len(forms) > 1:
        offers = PricesOfForms(forms, request.alternatives, for_tempo=request.objective is Objective.TEMPO)
    if not request.identical_repeats and len(plan.states) <= MOST_IN_ROUNDS:
        offers = PricesInRounds(offers, planned, request)
    return replace(plan, events=tuple(copy_with(event, offers=offers) for event in plan.events))


class PricesInRounds:
    """Prices of choices that hold in several rounds of a phrase: what the plan with each in all of them costs more.

    Of notes that are played once they are those of `offers`. The others are planned when the note is looked at; one
    that some round cannot take, or in which a lock would have to be exempt from the school, is not offered.

    Parameters
    ----------
    offers : Offers
        With the prices in one round.
    planned : Planned
    request : Request
    """

    def __init__(self, offers: Offers, planned: Planned, request: Request) -> None:
        self._offers, self._plan, self._solution = offers, planned.plan, planned.solution
        self._request = replace(request, alternatives=0, explained=False)
        written = Counter(step.moment.event_index for step in planned.plan.task.steps)
        self._again = frozenset(one for one, rounds in written.items() if rounds > 1)
        self._stages = planned.solution.stages
        self._known: dict[int, tuple[Alternative, ...]] = {}

    def at(self, step: int) -> tuple[Alternative, ...]:
        """Return the choices of a step; none while it has not been priced."""
        offered = self._offers.at(step)
        if not self._in_rounds(step):
            return offered
        if step not in self._known:
            priced = [one for one in (self._priced(step, one) for one in offered) if one is not None]
            self._known[step] = tuple(ranked(priced, for_tempo=self._request.objective is Objective.TEMPO))
        return self._known[step]

    def at_once(self, step: int) -> bool:
        """Whether the choices of a step are known, or cost the same in every round."""
        return step in self._known or not self._in_rounds(step)

    def _in_rounds(self, step: int) -> bool:
        return self._plan.task.steps[step].moment.event_index in self._again and self.complete

    def _priced(self, step: int, one: Alternative) -> Alternative | None:
        """A choice with the price that it has in all rounds; None where it cannot be taken."""
        plan, before = self._plan, self._solution
        try:
            riff = with_alternative(plan, step, one)
            # What the replanner knows of the riff stays with it.
            kept = None if self._stages is None else self._stages.copy()
            solution = solve(riff, self._request, plan.instrument, previous=before, stages=kept)
        except NoPlanError:
            return None
        other = planned(solution, self._request).plan
        ways = ((task.swapped, task.seam is not None and task.seam.pick.exempt) for task in (plan.task, other.task))
        if solution.exempt != before.exempt or len(set(ways)) > 1:
            return None
        detour = None
        if one.detour is not None and len(other.states) == len(plan.states):
            apart = [
                at for at, pair in enumerate(zip(plan.states, other.states, strict=True)) if pair[0] != pair[1]
            ]
            detour = Detour(apart[0], other.states[apart[0] : apart[-1] + 1]) if apart else None
        price = other.cost - plan.cost
        return Alternative(one.way, 0.0 if abs(price) < NO_PRICE else price, other.ceiling, detour)

    @property
    def complete(self) -> bool:
        """Whether every step has been priced, or can be when it is asked for."""
        return self._offers.complete

    def finish(self) -> None:
        """Price what has not been priced."""
        self._offers.finish()
