"""``plan_riff``: the whole program in one call."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import product

import numpy as np

from dromic.errors import NoPlanError, RiffError
from dromic.hands.profile import Hands
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for
from dromic.music.riff import Riff, Stroke
from dromic.planner.conflicts import check_strokes, explain
from dromic.planner.kbest import PlanRanking
from dromic.planner.passage import Transition, TransitionReport, passages
from dromic.planner.phrase_takes import repeated_phrases
from dromic.planner.plan import Plan, State
from dromic.planner.prices import price_all
from dromic.planner.problem import Problem, Setting, Watch
from dromic.planner.ringing import CannotRingError, release_ring, with_held_notes
from dromic.planner.search import DeadEndError, Path
from dromic.planner.steps import Task, as_pitches, task_of
from dromic.planner.summary import limits_of, planned_events, totals_of
from dromic.planner.tied_repeats import bound_tied, solve_tied
from dromic.planner.ways import Alternative
from dromic.schools.school import School

FREEDOMS = ("strings", "fingers", "strokes", "positions")


@dataclass(frozen=True)
class Request:
    """How a riff is to be planned.

    Parameters
    ----------
    hands : Hands
    school : School
    objective : str
        ``effort``: least sum. ``tempo``: smallest largest load, then least sum.
    tempo : float or None
        Quarter notes a minute; None for the riff's own.
    loop : bool
        Whether the riff goes round, seam included.
    free : frozenset of str
        What to take from the player's decisions, any of `FREEDOMS`.
    alternatives : int
        How many other choices to price for every note.
    by_phrase : mapping of str to School
        Other schools for single phrases, by the phrase's name.
    first_stroke : Stroke or None
        What the first picked note takes; None where the planner may choose.
    alike : bool
        Whether every take of a phrase has to be played like the first.
    """

    hands: Hands
    school: School
    objective: str = "effort"
    tempo: float | None = None
    loop: bool = False
    free: frozenset[str] = frozenset()
    alternatives: int = 0
    by_phrase: Mapping[str, School] = field(default_factory=dict)
    first_stroke: Stroke | None = None
    alike: bool = False


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
    """
    answer = answer_for(riff, request, instrument, watch)
    return _whole(answer, request)


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
        When nothing playable exists, or where repeats have to be played alike, for which plans are not ranked.
    """
    if request.alike:
        raise NoPlanError(
            "plans are not ranked with all repeats played alike; let the repeats differ, or ask for one"
        )
    answer = answer_for(riff, request, instrument)
    plain = replace(request, alternatives=0)
    ranking = PlanRanking(answer.problem, answer.bound)
    return tuple(_whole(replace(answer, found=found), plain) for found in ranking.best(most))


def answer_for(
    riff: Riff,
    request: Request,
    instrument: Instrument | None = None,
    watch: Watch | None = None,
    like: Answer | None = None,
    *,
    joined: bool = False,
) -> Answer:
    """Solve a riff without assembling the plan.

    Parameters as in `plan_riff`; `like` is an answer to begin from, `joined` as in `Problem.solve`.
    """
    before = None if like is None else like.problem
    return _best_answer(*_made_ready(riff, request, instrument), request, watch, before, joined)


def _made_ready(riff: Riff, request: Request, instrument: Instrument | None) -> tuple[Riff, Instrument, Task]:
    """Return the riff at its tempo, its instrument, and what the hands have to do."""
    riff = riff if request.tempo is None else riff.at_tempo(request.tempo)
    instrument = instrument or instrument_for(riff)
    music = as_pitches(riff, instrument_for(riff)) if "strings" in request.free else riff
    task = task_of(music, loop=request.loop, free=request.free, first_stroke=request.first_stroke)
    task = replace(task, steps=with_held_notes(task.steps, task.links), alike=request.alike)
    return riff, instrument, task


def _best_answer(
    riff: Riff,
    instrument: Instrument,
    task: Task,
    request: Request,
    watch: Watch | None,
    like: Problem | None,
    joined: bool,
) -> Answer:
    """Solve the task under every form of the school, and return the best."""
    answers: list[Answer] = []
    refusal: NoPlanError | None = None
    by_phrase = _phrase_schools(riff, request.by_phrase)
    for form in _forms((request.school, *(school for _, school in by_phrase))):
        phrases = tuple((index, form[school]) for index, school in by_phrase)
        rules = form[request.school]
        setting = Setting(instrument, request.hands, rules, phrases, riff.tempo, riff.gain == "high")
        try:
            answers.append(_answer(riff, setting, task, request, watch, like, joined))
        except NoPlanError as error:
            refusal = error
    if refusal is not None and not answers:
        raise refusal
    return min(answers, key=lambda one: (one.bound, one.found.total))


def _forms(schools: Sequence[School]) -> Iterator[dict[School, School]]:
    """Every way to take each school in one of its forms, the same for the whole riff."""
    distinct = list(dict.fromkeys(schools))
    for chosen in product(*(school.variants or (school,) for school in distinct)):
        yield dict(zip(distinct, chosen, strict=True))


@dataclass(frozen=True)
class Answer:
    """A problem with its solution; `bound` is the load that no link may pass, infinite for least effort."""

    riff: Riff
    problem: Problem
    found: Path
    bound: float

    @property
    def chosen(self) -> tuple[State, ...]:
        """The best states in words of the trade."""
        return tuple(self.problem.state(step, joint) for step, joint in enumerate(self.found.path))


def _phrase_schools(riff: Riff, schools: Mapping[str, School]) -> tuple[tuple[int, School], ...]:
    names = [phrase.name for phrase in riff.phrases]
    if unknown := sorted(set(schools) - {name for name in names if name is not None}):
        known = ", ".join(f"'{name}'" for name in names if name) or "no named phrases"
        raise RiffError(f"there is no phrase '{unknown[0]}' in this riff; it has {known}")
    return tuple((index, schools[name]) for index, name in enumerate(names) if name is not None and name in schools)


def _answer(
    riff: Riff,
    setting: Setting,
    task: Task,
    request: Request,
    watch: Watch | None,
    like: Problem | None,
    joined: bool,
) -> Answer:
    try:
        problem = Problem(setting, task, like=like)
    except CannotRingError as cannot:
        shorter = release_ring(task, cannot.step)
        if shorter is None:
            raise
        return _answer(riff, setting, shorter, request, watch, like, joined)
    check_strokes(problem.steps, problem.model.school_of, setting.instrument.strings)
    if watch is not None:
        problem.watched(watch, passes=1 + 2 * bool(request.alternatives))
    try:
        if request.alike and repeated_phrases(problem.steps):
            bound = bound_tied(problem) if request.objective == "tempo" else np.inf
            return Answer(riff, problem, solve_tied(problem, bound), bound)
        bound = problem.load_bound(request.objective)
        return Answer(riff, problem, problem.solve(bound, joined=joined), bound)
    except DeadEndError as dead_end:
        shorter = release_ring(task, dead_end.step)
        if shorter is not None:
            return _answer(riff, setting, shorter, request, watch, like, joined)
        raise _no_plan(problem, dead_end.step) from None


def _no_plan(problem: Problem, failed: int) -> NoPlanError:
    if problem.works(problem.steps):
        title = problem.model.school.title.lower()
        if problem.task.alike and repeated_phrases(problem.steps):
            return NoPlanError(
                f"the riff can be planned under {title}, but not with every repeat played alike: the end of a "
                "phrase cannot lead back to its start; free a lock, or let the repeats differ"
            )
        return NoPlanError(
            f"the riff can be planned once through, but not as a loop under {title}: its end "
            "cannot lead back to its start; free a lock, or plan it without the loop"
        )
    step = problem.steps[failed]
    return explain(problem.steps, failed, problem.model.school_of(step), problem.works)


def _priced(answer: Answer, chosen: Sequence[State], request: Request) -> list[tuple[Alternative, ...]]:
    problem = answer.problem
    if not request.alternatives:
        return [()] * len(problem.steps)
    return price_all(problem, answer.bound, chosen, answer.found.total, request.alternatives)


def transitions_of(
    problem: Problem, chosen: Sequence[State], links: Sequence[int] | None = None
) -> list[Transition]:
    """Return the chosen moves over some links, or over all of them and the seam."""
    model, task = problem.model, problem.task
    found = []
    for index in range(len(task.links)) if links is None else links:
        one, two = chosen[index], chosen[index + 1]
        link = model.link_between(problem.links[index], one.sounded, two.sounded)
        found.append(Transition(one, two, link, model.school_of(task.steps[index + 1])))
    if task.seam is not None and links is None:
        link = model.link_between(task.seam, chosen[-1].sounded, chosen[0].sounded)
        found.append(Transition(chosen[-1], chosen[0], link, model.school_of(task.steps[0])))
    return found


def known_ways(answer: Answer, known: Mapping[Transition, TransitionReport]) -> dict[Transition, TransitionReport]:
    """Return the passages of the best plan, working out those that are not known.

    Parameters
    ----------
    answer : Answer
    known : mapping of Transition to TransitionReport
        Worked out with the same model.
    """
    transitions = dict.fromkeys(transitions_of(answer.problem, answer.chosen))
    new = [one for one in transitions if one not in known]
    found = dict(zip(new, passages(answer.problem.model, new), strict=True))
    return {one: found[one] if one in found else known[one] for one in transitions}


def with_prices(plan: Plan, answer: Answer, request: Request) -> Plan:
    """Return a plan with the prices of other choices."""
    priced = _priced(answer, plan.states, request)
    events = [
        event if event.step is None else replace(event, alternatives=priced[event.step]) for event in plan.events
    ]
    return replace(plan, events=tuple(events))


def _whole(answer: Answer, request: Request) -> Plan:
    chosen = answer.chosen
    ways = passages(answer.problem.model, transitions_of(answer.problem, chosen))
    return with_prices(assembled(answer, chosen, request, ways), answer, request)


def assembled(
    answer: Answer, chosen: tuple[State, ...], request: Request, ways: Sequence[TransitionReport]
) -> Plan:
    """Make a plan of chosen states and the passages between them, the seam last where there is one; no prices."""
    problem, riff = answer.problem, answer.riff
    model, task = problem.model, problem.task
    seam = ways[-1] if task.seam is not None else None
    ways = ways[:-1] if task.seam is not None else ways
    events = planned_events(model, task, chosen, ways, seam)
    largest = max((one.loads.largest for one in (*ways, *([seam] if seam else []))), default=0.0)
    return Plan(
        riff=riff,
        instrument=model.instrument,
        hands=request.hands,
        school=request.school,
        rules=problem.setting.rules,
        by_phrase=problem.setting.by_phrase,
        objective=request.objective,
        tempo=riff.tempo,
        task=task,
        states=chosen,
        cost=answer.found.total,
        ceiling=riff.tempo / largest if largest > 0 else None,
        limits=limits_of(task, ways, seam),
        totals=totals_of(model, chosen, events, ways, seam),
        events=events,
    )
