"""A riff solved: its task made ready, every form of the school tried, what cannot ring let go."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, replace
from functools import partial
from itertools import islice, product

import numpy as np

from dromic.errors import NoPlanError, RiffError
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for
from dromic.memory import Stages, memo
from dromic.music.riff import Event, Gain, Riff
from dromic.planner.costs.model import Model
from dromic.planner.costs.nodes import Node
from dromic.planner.limits import ANY
from dromic.planner.plan import Objective
from dromic.planner.request import Freedom, Request
from dromic.planner.search.chains import DeadEndError, Path
from dromic.planner.solving.conflicts import explain, refused_strokes
from dromic.planner.solving.limited import refused_by
from dromic.planner.solving.problem import Problem, Setting, Watch
from dromic.planner.solving.tied_repeats import FoldedProblem
from dromic.planner.solving.usual_ways import usual_ways
from dromic.planner.task.drone_lines import drone_lines
from dromic.planner.task.figures import figures_of
from dromic.planner.task.freed_places import as_pitches, music_of
from dromic.planner.task.held_bends import with_held_bends
from dromic.planner.task.link_kinds import with_kinds
from dromic.planner.task.pedals import with_pedals
from dromic.planner.task.phrase_takes import repeated_phrases, slurred_alike
from dromic.planner.task.same_bars import same_bars, with_usual_ways
from dromic.planner.task.sounding import sound_of
from dromic.planner.task.spans import with_spans
from dromic.planner.task.state import State
from dromic.planner.task.step import UsualWay
from dromic.planner.task.task import Task, task_of
from dromic.schools.registry import school_named
from dromic.schools.school import School


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
    of_music : Solution or None
        The solution of its music alone, which says how bars that come back are played usually; None where it was
        not asked for, or is this one.
    asked : Request or None
        What was asked of the music alone, where it is that.
    usual : mapping of int to UsualWay
        How steps are played usually.
    stages : Stages or None
        What was made of the riff item by item, in all forms.
    """

    riff: Riff
    problem: Problem
    path: Path
    bound: float
    folded: FoldedProblem | None = None
    unbounded: FoldedProblem | None = None
    other_forms: tuple[Solution, ...] = ()
    of_music: Solution | None = field(default=None, compare=False, repr=False)
    asked: Request | None = field(default=None, compare=False, repr=False)
    usual: Mapping[int, UsualWay] = field(default_factory=dict, compare=False, repr=False)
    stages: Stages | None = field(default=None, compare=False, repr=False)

    @property
    def exempt(self) -> int:
        """How many locked strokes are played against the school."""
        return sum(step.exempt for step in self.problem.steps)

    @property
    def chosen(self) -> tuple[State, ...]:
        """The best states in words of the trade."""
        problem, path = self.problem, self.path.path
        joints = [int(problem.layers.plain(step, joint)) for step, joint in enumerate(path)]
        return tuple(problem.stages.map(state_of, problem.nodes, joints, common=(problem.model,)))


def state_of(node: Node, joint: int, model: Model) -> State:
    """See `Model.state`."""
    return model.state(node, joint)


def _stages_of(_riff: Riff) -> Stages:
    """What is made of a riff item by item, kept with it."""
    return Stages()


def solve(
    riff: Riff,
    request: Request,
    instrument: Instrument | None = None,
    watch: Watch | None = None,
    previous: Solution | None = None,
    stages: Stages | None = None,
    task_stages: Stages | None = None,
) -> Solution:
    """Solve a riff without assembling the plan; under every form of the school, and the best is returned.

    Where the school grants no plan with the player's strokes, those that it does not grant are played against it.

    Parameters as in `plan_riff`; what a `previous` solution has in common is taken over, and so is what `stages`
    know of this riff, and `task_stages` of what does not depend on the school.
    """
    stages = stages or memo(_stages_of, riff)
    kept = stages, task_stages or stages
    try:
        return _solved_in_any_form(riff, request, instrument, watch, previous, kept)
    except NoPlanError as error:
        refusal = error
    if any(_stroke_locked(event) for event in riff.written_events()):
        try:
            return _solved_in_any_form(riff, request, instrument, watch, previous, kept, lenient=True)
        except NoPlanError as error:
            refusal = error
    if request.limits:
        free = solve(riff, replace(request, limits=ANY), instrument, watch)
        raise refused_by(request.limits, free.problem) from None
    raise refusal


def _stroke_locked(event: Event) -> bool:
    return event.locks.stroke is not None or any(note.locks.stroke is not None for note in event.notes)


def _solved_in_any_form(
    riff: Riff,
    request: Request,
    instrument: Instrument | None,
    watch: Watch | None,
    previous: Solution | None,
    kept: tuple[Stages, Stages],
    *,
    lenient: bool = False,
) -> Solution:
    stages, task_stages = kept
    riff = riff if request.tempo is None else riff.at_tempo(request.tempo)
    instrument = instrument or instrument_for(riff)
    found: list[Solution] = []
    refusal: NoPlanError | None = None
    by_phrase = _phrase_schools(riff, request.by_phrase)
    for number, form in enumerate(_forms((request.school, *(school for _, school in by_phrase)))):
        phrases = tuple((index, form[school]) for index, school in by_phrase)
        setting = Setting(
            instrument,
            request.hands,
            form[request.school],
            phrases,
            sound_of(riff, request.school, instrument, request.style_said(riff), request.hands.fretting),
            request.limits,
        )
        try:
            before, own = _in_form(previous, setting), (stages.part(f"form {number}"), task_stages)
            found.append(_played_alike(riff, setting, request, watch, before, own, lenient=lenient))
        except NoPlanError as error:
            refusal = error
    if refusal is not None and not found:
        raise refusal
    fewest = min(one.exempt for one in found)
    found = [one for one in found if one.exempt == fewest]
    best = min(found, key=lambda one: (one.bound, one.path.total))
    return replace(best, other_forms=tuple(one for one in found if one is not best), stages=stages)


def _in_form(previous: Solution | None, setting: Setting) -> Solution | None:
    """The solution before that is in the same form of the school; else any."""
    if previous is None:
        return None
    forms = (previous, *previous.other_forms)
    rules = setting.rules, setting.by_phrase
    alike = (form for form in forms if (form.problem.setting.rules, form.problem.setting.by_phrase) == rules)
    return next(alike, previous)


def _task_with(
    riff: Riff,
    request: Request,
    instrument: Instrument,
    stages: Stages,
    exempt: frozenset[int],
) -> Task:
    """What the hands have to do; the locked strokes of some steps are played whatever the school says."""
    music = as_pitches(riff, instrument_for(riff)) if Freedom.STRINGS in request.free else riff
    task = task_of(
        music,
        instrument,
        loop=request.loop,
        free=request.free,
        first_stroke=request.first_stroke,
        exempt=exempt,
        stages=stages,
    )
    steps = with_held_bends(task.steps, instrument)
    if request.identical_repeats:
        steps = slurred_alike(steps)
    steps = with_pedals(steps, instrument, stages)
    drones = drone_lines(steps, instrument, stages)
    steps, links, spans = with_spans(
        steps,
        task.links,
        instrument,
        request.hands.fretting,
        [line.steps for line in drones],
        high_gain=riff.high_gain,
    )
    figures = (
        ()
        if request.identical_repeats
        else figures_of(
            steps, instrument, drones, loop=request.loop, high_gain=riff.gain is Gain.HIGH, stages=stages
        )
    )
    links = with_kinds(links, steps, figures, instrument, stages)
    return replace(
        task,
        steps=steps,
        links=links,
        figures=figures,
        spans=spans,
        identical_repeats=request.identical_repeats,
    )


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
    phrase_schools = []
    for index, phrase in enumerate(riff.phrases):
        if phrase.name is not None and phrase.name in schools:
            phrase_schools.append((index, schools[phrase.name]))
        elif phrase.school:
            phrase_schools.append((index, school_named(phrase.school)))
    return tuple(phrase_schools)


def _played_alike(
    riff: Riff,
    setting: Setting,
    request: Request,
    watch: Watch | None,
    previous: Solution | None,
    kept: tuple[Stages, Stages],
    *,
    lenient: bool,
) -> Solution:
    """Solve a riff in one form; bars that come back are rather played alike, as in the plan of the music alone."""
    own, of_task = kept
    task_with = partial(_task_with, riff, request, setting.instrument, of_task)
    task = task_with(frozenset())
    bars = same_bars(task.steps, setting.instrument, of_task)
    of_music = None
    if bars:
        before = None if previous is None else previous.of_music or previous
        with suppress(NoPlanError):
            of_music = _music_solved(riff, setting, request, watch, before, kept, bars)
            if of_music.riff == riff and not request.limits:
                return of_music
    usual = {} if of_music is None else of_music.usual
    solution = _solved(riff, setting, task, task_with, usual, request, watch, previous, own, lenient=lenient)
    return replace(solution, of_music=of_music)


def _music_solved(
    riff: Riff,
    setting: Setting,
    request: Request,
    watch: Watch | None,
    previous: Solution | None,
    kept: tuple[Stages, Stages],
    bars: Sequence[Sequence[range]],
) -> Solution:
    """Solve a riff's music, with nothing decided, bars that come back rather alike; not again where it is known."""
    own, of_task = (stages.part("music") for stages in kept)
    music = music_of(riff, instrument_for(riff), of_task)
    setting = replace(setting, limits=ANY)
    asked = replace(request, tempo=None, free=frozenset(), limits=ANY, alternatives=0, explained=False)
    if previous is not None and (previous.riff, previous.problem.setting, previous.asked) == (
        music,
        setting,
        asked,
    ):
        return previous
    task_with = partial(_task_with, music, asked, setting.instrument, of_task)
    task = task_with(frozenset())
    first = _solved(music, setting, task, task_with, {}, asked, watch, previous, own, lenient=False)
    usual = usual_ways(first.problem, first.bound, first.chosen, bars)
    found = first
    if usual:
        found = _solved(music, setting, task, task_with, usual, asked, watch, first, own, lenient=False)
    return replace(found, asked=asked, usual=usual)


def _solved(
    riff: Riff,
    setting: Setting,
    task: Task,
    task_with: Callable[[frozenset[int]], Task],
    usual: Mapping[int, UsualWay],
    request: Request,
    watch: Watch | None,
    previous: Solution | None,
    stages: Stages,
    *,
    lenient: bool,
) -> Solution:
    """Solve a task; `task_with` makes it anew with the strokes of some steps exempt from the school."""
    before = None if previous is None else previous.problem
    passes = 1 + 2 * bool(request.alternatives)
    exempt: frozenset[int] = frozenset()
    while True:
        more: set[int] = set()
        if usual:
            task = replace(task, steps=with_usual_ways(task.steps, usual, stages))
        problem = Problem(setting, task, previous=before, watch=watch, passes=passes, stages=stages)
        refused = list(refused_strokes(problem.steps, problem.model.school_of, setting.instrument.strings))
        if refused and not lenient:
            raise refused[0][1]
        more = {step for step, _ in refused}
        try:
            if not more:
                return _best_of_loop(riff, problem, request, previous)
        except DeadEndError as dead_end:
            stuck = dead_end.step
            if lenient and stuck not in exempt and task.steps[stuck].locks.stroke is not None:
                more = {stuck}
            if lenient and not more:
                more = _nearest_lock(task, exempt, stuck)
            if not more:
                raise _no_plan(problem, stuck, explained=request.explained) from None
        exempt |= more
        task = task_with(exempt)


def _nearest_lock(task: Task, exempt: frozenset[int], stuck: int) -> set[int]:
    """The last locked stroke before a step that cannot be reached; of a loop whose end does not meet, the last."""
    behind = range(stuck, -1, -1) if stuck or task.seam is None else range(len(task.steps) - 1, -1, -1)
    locked = (step for step in behind if task.steps[step].locks.stroke is not None and step not in exempt)
    return set(islice(locked, 1))


def _best_of_loop(riff: Riff, problem: Problem, request: Request, previous: Solution | None) -> Solution:
    """The best path; of a loop whose end does not lead to its start, in two rounds, or against the school there."""
    try:
        return _best(riff, problem, request, previous)
    except DeadEndError:
        task, seam = problem.task, problem.task.seam
        if seam is None or not problem.works(problem.steps):
            raise
        exempt = replace(seam, pick=replace(seam.pick, exempt=True))
        for other in (replace(task, swapped=True), replace(task, seam=exempt)):
            with suppress(DeadEndError):
                return _best(riff, Problem(problem.setting, other), request, None)
        raise


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


def _no_plan(problem: Problem, failed: int, *, explained: bool) -> NoPlanError:
    if not explained:
        return NoPlanError(f"{problem.steps[failed].words} cannot be reached")
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
