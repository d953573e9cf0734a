"""Why a note is played as it is: the terms of its cost, in words and numbers.

Every number comes from the tables that the search used. Times are what each hand needs on the way to the
note; efforts are what the plan adds up. The note's total is the sum of its efforts, and the plan's cost is the
sum of all notes' totals.
"""

from __future__ import annotations

from dataclasses import dataclass

from dromic.hands.fingers import finger_words
from dromic.hands.picking import PICK
from dromic.hands.terms import LoadKind, told_together
from dromic.memory import memo
from dromic.music.riff import MARK_WORDS, Stroke, stroke_words
from dromic.planner.costs.model import Model, means_of
from dromic.planner.costs.pick_costs import Strike
from dromic.planner.costs.pick_moves import pick_index
from dromic.planner.costs.swapped_rounds import swapped_state, swapped_step
from dromic.planner.costs.transitions import Transition, TransitionReport, grips_of, reaches_of, reports
from dromic.planner.plan import Plan
from dromic.planner.solving.problem import Setting
from dromic.planner.task.figures import changes
from dromic.planner.task.state import Loads, State
from dromic.planner.task.step import Step
from dromic.planner.task.task import Task

_FINGERS = ("open string", "first finger", "second finger", "third finger", "fourth finger", "thumb")


@dataclass(frozen=True)
class ToldTerm:
    """A part of a time (milliseconds) or of an effort, in words."""

    words: str
    amount: float


@dataclass(frozen=True)
class HandReason:
    """What one hand, or both together, does on the way to a note.

    Parameters
    ----------
    kind : LoadKind
    words : str
        The movement in a few words.
    terms : tuple of ToldTerm
        Milliseconds, largest first.
    gap_ms : float
        The time there is.
    load : float
        Their sum over the time there is.
    """

    kind: LoadKind
    words: str
    terms: tuple[ToldTerm, ...]
    gap_ms: float
    load: float

    @property
    def needed_ms(self) -> float:
        """Time needed."""
        return sum(term.amount for term in self.terms)


@dataclass(frozen=True)
class Reason:
    """Why one note is played as it is.

    Parameters
    ----------
    where, what : str
        Place in the riff; string, fret, finger and stroke in words.
    hands : tuple of HandReason
        Empty for the first note of a riff that does not loop.
    school : tuple of str
        The school's reasons; empty when it has nothing to say.
    efforts : tuple of ToldTerm
        What the note adds to the plan's cost, largest first.
    loads : Loads
    """

    where: str
    what: str
    hands: tuple[HandReason, ...]
    school: tuple[str, ...]
    efforts: tuple[ToldTerm, ...]
    loads: Loads

    @property
    def cost(self) -> float:
        """Effort that the note adds to the plan."""
        return sum(term.amount for term in self.efforts)


def model_of(plan: Plan) -> Model:
    """Return the model a plan was made with."""
    setting = Setting(plan.instrument, plan.hands, plan.rules, plan.by_phrase, plan.sound)
    return setting.model_with(memo(_means, plan.task, setting))


def _means(task: Task, setting: Setting) -> tuple[Stroke, ...]:
    return means_of(task.steps, setting.school_of)


def reason_for(plan: Plan, step: int, model: Model | None = None) -> Reason:
    """Say why a step of a plan is played as it is.

    Parameters
    ----------
    plan : Plan
    step : int
        Index into `plan.task.steps`.
    model : Model or None
        The plan's own (see `model_of`), when it is at hand.

    Returns
    -------
    Reason

    Examples
    --------
    >>> from dromic.formats.rifftext.reader import read_riff_text
    >>> riff = read_riff_text("| 5:5/8 5:7 5:8 4:5 r/2 |").riff
    >>> from dromic.hands.profile import hands_named
    >>> from dromic.schools.registry import school_named
    >>> from dromic.planner.planning import plan_riff
    >>> from dromic.planner.request import Request
    >>> plan = plan_riff(riff, Request(hands_named("medium"), school_named("economy"), alternatives=1))
    >>> [hand.words for hand in reason_for(plan, 3).hands]
    ['sweep down to the next string', 'the hand stays in position 5']
    """
    model = model or model_of(plan)
    here, state = plan.task.steps[step], plan.states[step]
    report = report_to(plan, step, model)
    strike = Strike.of(here).by(state.stroke, state.string)
    school = [model.school_of(here).stroke_verdict(strike).reason if state.sounded else ""]
    if report is not None:
        school.append(report.verdict.reason)
    return Reason(
        here.moment.place_words,
        what_words(here, state),
        _hands(report, state) if report is not None else (),
        tuple(reason for reason in school if reason),
        _ordered(told_together(_efforts_in_all(plan, step, model, report) | _figure(plan, step, model), {})),
        report.loads if report is not None else Loads(),
    )


def what_words(step: Step, state: State) -> str:
    """What is played, in words."""
    finger = f", {_FINGERS[state.finger]}" if state.finger else ""
    place = f"string {state.string}, fret {state.fret}{finger}" if state.fret else ""
    place = place or f"string {state.string}, open"
    if len(state.notes) > 1:
        place = "; ".join(_note_words(*note) for note in state.notes)
    if state.sounded:
        how = _how_words(state.stroke)
    else:
        how = MARK_WORDS[step.legato] if step.legato is not None else "slurred, not picked"
    return f"{place}, {how}"


def _note_words(string: int, fret: int, finger: int) -> str:
    return f"string {string} fret {fret} {finger_words(finger)}" if finger else f"string {string} open"


def _how_words(stroke: Stroke) -> str:
    return f"{stroke} stroke" if stroke in PICK else stroke_words(stroke)


def report_to(plan: Plan, step: int, model: Model, *, second: bool = False) -> TransitionReport | None:
    """The way to a step of a plan taken apart; None for the first note of a plan that is no loop.

    Parameters
    ----------
    plan : Plan
    step : int
    model : Model
        The plan's own (see `model_of`).
    second : bool
        Whether it is the second round of a loop whose strokes are swapped there.
    """
    school = model.school_of(plan.task.steps[step])
    link = plan.task.links[step - 1] if step else plan.task.seam
    if link is None:
        return None
    before, after = plan.states[step - 1], plan.states[step]
    if plan.task.swapped and second == bool(step):
        before = swapped_state(before, model.picking.strokes)
    if second:
        after = swapped_state(after, model.picking.strokes)
    played = link.as_played(before.sounded, after.sounded) or link
    return reports(model, [Transition(before, after, played, school)])[0]


def _efforts_in_all(plan: Plan, step: int, model: Model, report: TransitionReport | None) -> dict[str, float]:
    """What a step costs; the mean of both rounds, where the strokes are swapped in the second."""
    here, state = plan.task.steps[step], plan.states[step]
    efforts = _efforts(model, here, state, report)
    if not plan.task.swapped:
        return efforts
    second, strokes = report_to(plan, step, model, second=True), model.picking.strokes
    others = _efforts(model, swapped_step(here, strokes), swapped_state(state, strokes), second)
    return {key: (efforts.get(key, 0.0) + others.get(key, 0.0)) / 2 for key in (*efforts, *others)}


def _efforts(model: Model, step: Step, state: State, report: TransitionReport | None) -> dict[str, float]:
    posture = model.fretting.posture(model.hold(step), grips_of([state], model))
    efforts = {key: float(term[0]) for key, term in posture.items()}
    found = dict(efforts)
    strokes: dict[str, float] = {}
    if state.sounded:
        pick = pick_index(state, model)
        strokes = model.picking.stroke_terms(Strike.of(step), model.school_of(step), pick, state.string)
    for more in (strokes, {} if report is None else report.efforts):
        for key, amount in more.items():
            found[key] = found.get(key, 0.0) + amount
    return {key: amount for key, amount in found.items() if amount > 0}


def _figure(plan: Plan, step: int, model: Model) -> dict[str, float]:
    """What a step costs that begins a take of a figure otherwise than the take before."""
    key = changes([figure for figure in plan.task.figures if step in figure.steps], plan.states).get(step)
    return {} if key is None else {key: float(getattr(model.hands.comfort, key))}


def _ordered(parts: dict[str, float]) -> tuple[ToldTerm, ...]:
    terms = [ToldTerm(words, amount) for words, amount in parts.items()]
    return tuple(sorted(terms, key=lambda term: -term.amount))


def _hands(report: TransitionReport, state: State) -> tuple[HandReason, ...]:
    hands = []
    loads = report.loads
    if report.pick is not None:
        words = report.pick.words
        if report.pick.cleared:
            escaped = report.before.stroke is report.before.escape
            words += ", above the strings already" if escaped else ", with strings to lift over"
        terms = _ordered(report.told(report.pick.times))
        hands.append(HandReason(LoadKind.PICK, words, terms, report.pick_gap_ms, loads.pick))
    terms = _ordered(report.told(report.fret.times))
    hands.append(HandReason(LoadKind.FRET, _fret_words(report, state), terms, report.fret_gap_ms, loads.fret))
    if report.sync_times:
        longer = max(loads.pick, loads.fret) * report.gap_ms
        hand = "the pick's own time" if loads.pick >= loads.fret else "the fretting hand's own time"
        told = report.told(report.sync_times)
        terms = _ordered(told | {hand: longer})
        hands.append(HandReason(LoadKind.SYNC, " and ".join(told), terms, report.gap_ms, loads.sync))
    return tuple(hands)


def _fret_words(report: TransitionReport, state: State) -> str:
    fret = report.fret
    if fret.shift_frets:
        direction = "up" if fret.shift_frets > 0 else "down"
        return f"the hand moves {direction} to position {state.position}"
    if fret.rolled:
        return "the same finger rolls over to the next string"
    if fret.jumped:
        return "the same finger jumps"
    if len(state.notes) > 1 and fret.times:
        return f"the fingers form the chord in position {state.position}"
    if not state.finger and state.fret:
        return "the picking hand taps"
    if not state.finger:
        return "the string is left open"
    if not fret.times:
        return "the finger stays down"
    return f"the hand stays in position {state.position}"


def stretch_words(plan: Plan, step: int, model: Model) -> str:
    """Return a caution when a finger is opened far, else nothing.

    Parameters
    ----------
    plan : Plan
    step : int
    model : Model
    """
    reach = reaches_of([plan.states[step]], model)[0]
    if reach < plan.hands.fretting.stretch_mm / 2:
        return ""
    return (
        f"A stretch of {reach:.0f} mm beyond the hand's ease. Move elbow, arm and thumb rather than bend the "
        "wrist, and stop if it hurts."
    )
