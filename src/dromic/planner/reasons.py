"""Why a note is played as it is: the terms of its cost, in words and numbers.

Every number comes from the tables that the search used. Times are what each hand needs on the way to the
note; efforts are what the plan adds up. The note's total is the sum of its efforts, and the plan's cost is the
sum of all notes' totals.
"""

from __future__ import annotations

from dataclasses import dataclass

from dromic.hands.picking import PICK
from dromic.music.riff import MARK_WORDS, Stroke, stroke_words
from dromic.planner.model import Model
from dromic.planner.passage import Transition, TransitionReport, frets_of, passages, pick_index, reaches_of
from dromic.planner.plan import Loads, Plan, State
from dromic.planner.steps import Step

_FINGERS = ("open string", "first finger", "second finger", "third finger", "fourth finger")
_POSTURE_WORDS = {
    "reach": "the finger reaches beyond its ease",
    "frame": "the finger is not over its own fret",
    "fourth": "the little finger is used",
    "bend": "a bend with little help behind it",
    "high": "far up a thick string",
    "open_far": "an open string far from the hand",
    "barre": "a barre",
    "damped": "strings inside the chord to damp",
    "vibrato": "vibrato by a weaker finger",
    "against": "a finger that the player's camp does not use there",
}


@dataclass(frozen=True)
class Term:
    """One part of a time (ms) or of an effort."""

    words: str
    amount: float


@dataclass(frozen=True)
class HandReason:
    """What one hand, or both together, does on the way to a note.

    Parameters
    ----------
    name : str
        ``pick``, ``fret`` or ``sync``.
    words : str
        The movement in a few words.
    terms : tuple of Term
        Milliseconds, largest first.
    gap_ms : float
        The time there is.
    load : float
        Their sum over the time there is.
    """

    name: str
    words: str
    terms: tuple[Term, ...]
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
    efforts : tuple of Term
        What the note adds to the plan's cost, largest first.
    loads : Loads
    """

    where: str
    what: str
    hands: tuple[HandReason, ...]
    school: tuple[str, ...]
    efforts: tuple[Term, ...]
    loads: Loads

    @property
    def cost(self) -> float:
        """Effort that the note adds to the plan."""
        return sum(term.amount for term in self.efforts)


def model_of(plan: Plan) -> Model:
    """Return the model a plan was made with."""
    high_gain = plan.riff.gain == "high"
    return Model(
        plan.instrument,
        plan.hands,
        plan.rules,
        plan.tempo,
        high_gain=high_gain,
        by_phrase=dict(plan.by_phrase),
        chords=any(step.more for step in plan.task.steps),
    )


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
    """
    model = model or model_of(plan)
    here, state = plan.task.steps[step], plan.states[step]
    way = _way_to(plan, step, model)
    efforts = _step_efforts(model, here, state) | (_named(way) if way is not None else {})
    strike = here.strike(state.stroke, state.string)
    school = [model.school_of(here).stroke_verdict(strike).reason if state.sounded else ""]
    if way is not None:
        school.append(way.school)
    return Reason(
        here.moment.place_words,
        what_words(here, state),
        _hands(way, state) if way is not None else (),
        tuple(reason for reason in school if reason),
        _ordered(efforts),
        way.loads if way is not None else Loads(),
    )


def what_words(step: Step, state: State) -> str:
    """What is played, in words."""
    place = f"string {state.string}, fret {state.fret}, {_FINGERS[state.finger]}" if state.fret else ""
    place = place or f"string {state.string}, open"
    if len(state.notes) > 1:
        place = "; ".join(_note_words(*note) for note in state.notes)
    if state.sounded:
        how = _how_words(state.stroke)
    else:
        how = MARK_WORDS[step.legato] if step.legato is not None else "slurred, not picked"
    return f"{place}, {how}"


def _note_words(string: int, fret: int, finger: int) -> str:
    return f"string {string} fret {fret} finger {finger}" if finger else f"string {string} open"


def _how_words(stroke: Stroke) -> str:
    return f"{stroke} stroke" if stroke in PICK else stroke_words(stroke)


def _way_to(plan: Plan, step: int, model: Model) -> TransitionReport | None:
    school = model.school_of(plan.task.steps[step])
    link = plan.task.links[step - 1] if step else plan.task.seam
    if link is None:
        return None
    before, after = plan.states[step - 1], plan.states[step]
    played = model.link_between(link, before.sounded, after.sounded)
    return passages(model, [Transition(before, after, played, school)])[0]


def _step_efforts(model: Model, step: Step, state: State) -> dict[str, float]:
    held = model.posture(frets_of([state], model.instrument), step)
    efforts = {words: float(getattr(held, name)[0]) for name, words in _POSTURE_WORDS.items()}
    if state.sounded:
        efforts["every picked note, to the school"] = model.school_of(step).picked_effort
        efforts |= model.stroke_parts(step, pick_index(state, model))
        verdict = model.school_of(step).stroke_verdict(step.strike(state.stroke, state.string))
        efforts["the school's wish"] = verdict.effort
    return efforts


_EFFORT_WORDS = {
    "picking": "time for the picking hand",
    "fretting": "time for the fretting hand",
    "both hands": "both hands at once",
    "school": "the school's rule",
}


def _named(way: TransitionReport) -> dict[str, float]:
    return {_EFFORT_WORDS.get(name, name): amount for name, amount in way.efforts.items()}


def _ordered(parts: dict[str, float]) -> tuple[Term, ...]:
    terms = [Term(words, amount) for words, amount in parts.items() if amount > 0]
    return tuple(sorted(terms, key=lambda term: -term.amount))


def _hands(way: TransitionReport, state: State) -> tuple[HandReason, ...]:
    found = []
    if way.pick is not None:
        escaped = way.before.stroke is way.before.escape
        words = way.pick.words
        if way.pick.cleared:
            words += ": the pick is above the strings already" if escaped else ": the pick has to be lifted over"
        found.append(HandReason("pick", words, _ordered(way.pick.parts), way.pick_gap_ms, way.loads.pick))
    found.append(HandReason("fret", _fret_words(way, state), _ordered(way.fret.parts), way.gap_ms, way.loads.fret))
    if way.together:
        longer = max(way.loads.pick, way.loads.fret) * way.gap_ms
        hand = "the pick's own time" if way.loads.pick >= way.loads.fret else "the fretting hand's own time"
        terms = _ordered(way.together | {hand: longer})
        found.append(HandReason("sync", " and ".join(way.together), terms, way.gap_ms, way.loads.sync))
    return tuple(found)


def _fret_words(way: TransitionReport, state: State) -> str:
    if way.fret.shift_frets:
        direction = "up" if way.fret.shift_frets > 0 else "down"
        return f"the hand moves {direction} to position {state.position}"
    if way.fret.rolled:
        return "the same finger rolls over to the next string"
    if way.fret.jumped:
        return "the same finger jumps"
    if len(state.notes) > 1 and way.fret.parts:
        return f"the fingers form the chord in position {state.position}"
    if not state.finger:
        return "the string is left open"
    if not way.fret.parts:
        return "the finger stays down"
    return f"the hand stays in position {state.position}"


def stretch_words(plan: Plan, step: int, model: Model) -> str:
    """Return a caution when a finger is opened far, else nothing."""
    reach = reaches_of([plan.states[step]], model)[0]
    if reach < plan.hands.fretting.stretch_mm / 2:
        return ""
    return (
        f"A stretch of {reach:.0f} mm beyond the hand's ease. Move elbow, arm and thumb rather than bend the "
        "wrist, and stop if it hurts."
    )
