"""``plan_riff``: the whole program in one call."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from itertools import product

import numpy as np

from dromic.errors import NoPlanError, RiffError
from dromic.hands.fretting import FrettingTables
from dromic.hands.profile import Hands
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for
from dromic.music.riff import Event, Riff, Stroke, Style
from dromic.planner.candidates import GripFinder
from dromic.planner.conflicts import check_strokes, explain, played_against
from dromic.planner.figures import figures_of
from dromic.planner.kbest import PlanRanking
from dromic.planner.pedals import with_pedals
from dromic.planner.phrase_takes import repeated_phrases, slurred_alike
from dromic.planner.plan import Ceilings, Objective, Plan, State
from dromic.planner.prices import best_of_forms, price_all
from dromic.planner.problem import Problem, Setting, Watch
from dromic.planner.releasing import holdable
from dromic.planner.ringing import CannotRingError, release_ring, with_held_notes
from dromic.planner.search import DeadEndError, Path
from dromic.planner.sounding import sound_of
from dromic.planner.steps import Task, as_pitches, task_of
from dromic.planner.summary import limits_of, planned_events
from dromic.planner.tied_repeats import FoldedProblem
from dromic.planner.totals import Tally, totals_of
from dromic.planner.transitions import Transition, TransitionReport, reports
from dromic.schools.registry import school_named
from dromic.schools.school import School


class Freedom(StrEnum):
    """What the planner may take from the player's decisions."""

    STRINGS = "strings"
    FINGERS = "fingers"
    STROKES = "strokes"
    POSITIONS = "positions"


@dataclass(frozen=True)
class Request:
    """How a riff is to be planned.

    Parameters
    ----------
    hands : Hands
    school : School
    objective : Objective
    tempo : float or None
        Quarter notes a minute; None for the riff's own.
    loop : bool
        Whether the riff goes round, seam included.
    free : frozenset of Freedom
        What to take from the player's decisions.
    alternatives : int
        How many other choices to price for every note.
    by_phrase : mapping of str to School
        Other schools for single phrases, by the phrase's name; those that the riff itself names hold elsewhere.
    first_stroke : Stroke or None
        What the first picked note takes; None where the planner may choose.
    identical_repeats : bool
        Whether every pass of a phrase has to be played like the first.
    style : Style or None
        None where riff or hands say it, or it is told from riff, school and instrument.
    """

    hands: Hands
    school: School
    objective: Objective = Objective.EFFORT
    tempo: float | None = None
    loop: bool = False
    free: frozenset[Freedom] = frozenset()
    alternatives: int = 0
    by_phrase: Mapping[str, School] = field(default_factory=dict)
    first_stroke: Stroke | None = None
    identical_repeats: bool = False
    style: Style | None = None

    def style_said(self, riff: Riff) -> Style | None:
        """The style that is wanted, or else the riff's, or the hands'; None where nobody says it."""
        return self.style or riff.style or self.hands.style


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
    >>> riff = read_riff_text("| 5:5/8 5:7 4:5 4:7 r/2 |").riff
    >>> from dromic.hands.profile import hands_named
    >>> from dromic.schools.registry import school_named
    >>> request = Request(hands_named("medium"), school_named("economy"))
    >>> plan = plan_riff(riff, request)
    >>> " ".join(event.stroke for event in plan.events if event.step is not None)
    'up down down up'
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
    >>> riff = read_riff_text("| 5:5/8 5:7 4:5 4:7 r/2 |").riff
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
class Solution:
    """A riff's problem with its best path.

    Parameters
    ----------
    riff : Riff
    problem : Problem
    path : Path
    bound : float
        The load that no link may pass, infinite for least effort.
    folded : FoldedProblem or None
        The problem with its repeats folded, where they are identical.
    unbounded : FoldedProblem or None
        The same without the bound, which was found by it.
    other_forms : tuple of Solution
        Under the other forms of the school, which another choice may be better played in.
    """

    riff: Riff
    problem: Problem
    path: Path
    bound: float
    folded: FoldedProblem | None = None
    unbounded: FoldedProblem | None = None
    other_forms: tuple[Solution, ...] = ()

    @property
    def chosen(self) -> tuple[State, ...]:
        """The best states in words of the trade."""
        return tuple(self.problem.state(step, joint) for step, joint in enumerate(self.path.path))


@dataclass(frozen=True)
class Planned:
    """A plan with the solution it was made of."""

    plan: Plan
    solution: Solution


def solve(
    riff: Riff,
    request: Request,
    instrument: Instrument | None = None,
    watch: Watch | None = None,
    previous: Solution | None = None,
) -> Solution:
    """Solve a riff without assembling the plan; under every form of the school, and the best is returned.

    Where the school grants no plan with the player's strokes, these are played against it.

    Parameters as in `plan_riff`; what a `previous` solution has in common is taken over.
    """
    try:
        return _solved_in_any_form(riff, request, instrument, watch, previous)
    except NoPlanError:
        if not any(_stroke_locked(event) for event in riff.written_events()):
            raise
    return _solved_in_any_form(riff, request, instrument, watch, previous, lenient=True)


def _stroke_locked(event: Event) -> bool:
    return event.locks.stroke is not None or any(note.locks.stroke is not None for note in event.notes)


def _solved_in_any_form(
    riff: Riff,
    request: Request,
    instrument: Instrument | None,
    watch: Watch | None,
    previous: Solution | None,
    *,
    lenient: bool = False,
) -> Solution:
    riff, instrument, task = _made_ready(riff, request, instrument, lenient=lenient)
    found: list[Solution] = []
    refusal: NoPlanError | None = None
    by_phrase = _phrase_schools(riff, request.by_phrase)
    for form in _forms((request.school, *(school for _, school in by_phrase))):
        phrases = tuple((index, form[school]) for index, school in by_phrase)
        setting = Setting(
            instrument,
            request.hands,
            form[request.school],
            phrases,
            sound_of(riff, request.school, instrument, request.style_said(riff)),
        )
        try:
            found.append(_solved(riff, setting, task, request, watch, previous))
        except NoPlanError as error:
            refusal = error
    if refusal is not None and not found:
        raise refusal
    best = min(found, key=lambda one: (one.bound, one.path.total))
    return replace(best, other_forms=tuple(one for one in found if one is not best))


def _made_ready(
    riff: Riff, request: Request, instrument: Instrument | None, *, lenient: bool = False
) -> tuple[Riff, Instrument, Task]:
    """Return the riff at its tempo, its instrument, and what the hands have to do."""
    riff = riff if request.tempo is None else riff.at_tempo(request.tempo)
    instrument = instrument or instrument_for(riff)
    music = as_pitches(riff, instrument_for(riff)) if Freedom.STRINGS in request.free else riff
    task = task_of(music, loop=request.loop, free=request.free, first_stroke=request.first_stroke, lenient=lenient)
    steps = with_held_notes(task.steps, task.links)
    if request.identical_repeats:
        steps = slurred_alike(steps)
    steps = with_pedals(steps, instrument)
    figures = () if request.identical_repeats else figures_of(steps, instrument, loop=request.loop)
    task = replace(task, steps=steps, figures=figures, identical_repeats=request.identical_repeats)
    return riff, instrument, task


def _forms(schools: Sequence[School]) -> Iterator[dict[School, School]]:
    """Every way to take each school in one of its forms, the same for the whole riff."""
    distinct = list(dict.fromkeys(schools))
    for chosen in product(*(school.variants or (school,) for school in distinct)):
        yield dict(zip(distinct, chosen, strict=True))


def _phrase_schools(riff: Riff, schools: Mapping[str, School]) -> tuple[tuple[int, School], ...]:
    names = [phrase.name for phrase in riff.phrases]
    if unknown := sorted(set(schools) - {name for name in names if name is not None}):
        known = ", ".join(f"'{name}'" for name in names if name) or "no named phrases"
        raise RiffError(f"there is no phrase '{unknown[0]}' in this riff; it has {known}")
    found = []
    for index, phrase in enumerate(riff.phrases):
        if phrase.name is not None and phrase.name in schools:
            found.append((index, schools[phrase.name]))
        elif phrase.school:
            found.append((index, school_named(phrase.school)))
    return tuple(found)


def _solved(
    riff: Riff,
    setting: Setting,
    task: Task,
    request: Request,
    watch: Watch | None,
    previous: Solution | None,
) -> Solution:
    before = None if previous is None else previous.problem
    if any(step.held for step in task.steps):
        task = holdable(task, *_finder_and_tables(setting, before))
    while True:
        try:
            problem = Problem(
                setting, task, previous=before, watch=watch, passes=1 + 2 * bool(request.alternatives)
            )
        except CannotRingError as cannot:
            stuck = cannot.step
        else:
            check_strokes(problem.steps, problem.model.school_of, setting.instrument.strings)
            try:
                return _best(riff, problem, request, previous)
            except DeadEndError as dead_end:
                stuck = dead_end.step
                if release_ring(task, stuck) is None:
                    raise _no_plan(problem, stuck) from None
                before = problem
        shorter = release_ring(task, stuck)
        assert shorter is not None, "a step that cannot ring has something to let go"
        task = shorter


def _finder_and_tables(setting: Setting, previous: Problem | None) -> tuple[GripFinder, FrettingTables]:
    """What finds grips and moves, of the problem before where they are the same."""
    if previous is not None and previous.setting == setting:
        return previous.finder, previous.model.fretting.tables
    hands = setting.hands
    tables = FrettingTables(setting.instrument, hands.fretting, hands.comfort, sound=setting.sound)
    return GripFinder(setting.instrument, hands.fretting), tables


def _best(riff: Riff, problem: Problem, request: Request, previous: Solution | None) -> Solution:
    """The best path of a problem, its repeats identical where that is wanted."""
    for_tempo = request.objective is Objective.TEMPO
    if not (request.identical_repeats and repeated_phrases(problem.steps)):
        bound = problem.solver.load_bound() if for_tempo else np.inf
        return Solution(riff, problem, problem.solver.solve(bound), bound)
    if previous is not None and previous.problem.model is not problem.model:
        previous = None
    folded = FoldedProblem(problem, previous=None if previous is None else previous.unbounded)
    if not for_tempo:
        return Solution(riff, problem, folded.solve(), np.inf, folded, folded)
    bound = folded.solver.load_bound()
    bounded = FoldedProblem(problem, bound, previous=None if previous is None else previous.folded)
    return Solution(riff, problem, bounded.solve(), bound, bounded, folded)


def _no_plan(problem: Problem, failed: int) -> NoPlanError:
    if problem.works(problem.steps):
        title = problem.model.school.title.lower()
        if problem.task.identical_repeats and repeated_phrases(problem.steps):
            return NoPlanError(
                f"the riff can be planned under {title}, but not with identical repeats: the end of a "
                "phrase cannot lead back to its start; unlock a note, or let the repeats differ"
            )
        return NoPlanError(
            f"the riff can be planned once through, but not as a loop under {title}: its end "
            "cannot lead back to its start; unlock a note, or plan it without the loop"
        )
    step = problem.steps[failed]
    return explain(problem.steps, failed, problem.model.school_of(step), problem.works)


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
        )
        for one in (solution, *solution.other_forms)
    ]
    priced = best_of_forms(by_form, request.alternatives, for_tempo=request.objective is Objective.TEMPO)
    events = [
        event if event.step is None else replace(event, alternatives=priced[event.step]) for event in plan.events
    ]
    return replace(plan, events=tuple(events))
