"""What comes again in a riff and is not played as before, and why: what it would cost to play it the same."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from dromic.errors import NoPlanError
from dromic.hands.fingers import finger_words
from dromic.hands.terms import TERMS
from dromic.music.riff import Mark, Stroke, stroke_words
from dromic.planner.costs.efforts import efforts_between
from dromic.planner.locking import with_notes_as
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.planner.solving.problem import Watch
from dromic.planner.task.same_bars import same_bars
from dromic.planner.task.state import State
from dromic.planner.told.reasons import model_of
from dromic.planner.told.why import largest_words

SLURRED = frozenset({Mark.HAMMER, Mark.PULL, Mark.SLIDE, Mark.TAP, Mark.TIE})


@dataclass(frozen=True)
class Otherwise:
    """A bar, or a note struck again, that is not played as before.

    Parameters
    ----------
    step : int
        Its first step that differs.
    again : str
        What comes again.
    where : str
        Where it first differs.
    now, before : str
        How it is played there, and how it was before.
    price : float or None
        What the plan would cost more in which it is played as before; None where there is none.
    why : str
        What that is made of.
    """

    step: int
    again: str
    where: str
    now: str
    before: str
    price: float | None
    why: str

    @property
    def words(self) -> str:
        """What differs, in a sentence."""
        return f"{self.again}; {self.where} is played {self.now}, before {self.before}."

    @property
    def cost_words(self) -> str:
        """What it would cost as before, and why, in a sentence."""
        if self.price is None:
            return f"Played as before there is no plan: {self.why}."
        if self.price < 0:
            return f"Played as before it would cost {-self.price:.2f} less: {self.why}."
        return f"Played as before it would cost {self.price:.2f} more: {self.why}."


def played_otherwise(plan: Plan, request: Request, watch: Watch | None = None) -> Iterator[Otherwise]:
    """Yield what comes again and is not played as before, and why: bars against the first like each, then notes.

    Parameters
    ----------
    plan : Plan
    request : Request
        What it was planned for.
    watch : callable or None
        Called with the share of the work that is done; what it raises ends it.
    """
    pairs = [*_bars(plan), *_notes(plan)]
    for number, (again, steps) in enumerate(pairs):
        if watch is not None:
            watch(number / len(pairs))
        first = min(steps)
        now, before = _ways(plan.states[first], plan.states[steps[first]])
        price, why = _price(plan, request, steps)
        yield Otherwise(first, again, plan.task.steps[first].words, now, before, price, why)


def _bars(plan: Plan) -> list[tuple[str, dict[int, int]]]:
    """Bars that are not played as the first one like them: and for each step that differs its model."""
    found = []
    for first, *others in same_bars(plan.task.steps, plan.instrument):
        for bar in others:
            steps = {two: one for one, two in zip(first, bar, strict=True) if _differ(plan, one, two)}
            if steps:
                one, two = (plan.task.steps[some.start].moment for some in (first, bar))
                round_two = f" (round {two.pass_number + 1})" if two.pass_number else ""
                found.append((f"Bar {two.bar}{round_two} is bar {one.bar} again", steps))
    return found


def _notes(plan: Plan) -> list[tuple[str, dict[int, int]]]:
    """Single notes struck twice in a row, at another place or by another finger the second time."""
    found = []
    steps = plan.task.steps
    for at in range(1, len(steps)):
        one, two = steps[at - 1], steps[at]
        if not two.again or one.more or two.more or two.note.marks & SLURRED:
            continue
        if plan.states[at - 1].notes != plan.states[at].notes:
            found.append(("A note is struck again", {at: at - 1}))
    return found


def _differ(plan: Plan, one: int, two: int) -> bool:
    here, there = plan.states[one], plan.states[two]
    return here.notes != there.notes or _stroke(here) != _stroke(there)


def _stroke(state: State) -> str:
    return stroke_words(state.stroke if state.sounded else Stroke.NONE)


def _ways(now: State, before: State) -> tuple[str, str]:
    """How two notes are played, as far as they are not played alike."""
    if now.notes == before.notes:
        return _stroke(now), _stroke(before)
    return _held(now), _held(before)


def _held(state: State) -> str:
    notes = (
        f"{string}:{fret}" + (f" with {finger_words(finger)}" if finger else "")
        for string, fret, finger in state.notes
    )
    return ", ".join(notes)


def _price(plan: Plan, request: Request, steps: Mapping[int, int]) -> tuple[float | None, str]:
    """What it would cost to play steps as others are played, and what that is made of."""
    # What came before stays as it is, or it would rather change itself.
    decided = {**{there: there for there in steps.values()}, **steps}
    plain = replace(request, alternatives=0, explained=False)
    try:
        other = plan_riff(with_notes_as(plan, decided), plain, plan.instrument)
    except NoPlanError:
        return None, "nothing leads there and on"
    price = other.cost - plan.cost
    if price < 0:
        return price, "it is locked as it is"
    here, there = (_efforts(one) for one in (plan, other))
    more = {words: amount - here.get(words, 0.0) for words, amount in there.items()}
    in_order = sorted(more.items(), key=lambda one: -one[1])
    return price, largest_words({words: amount for words, amount in in_order if amount > 0})


def _efforts(plan: Plan) -> Mapping[str, float]:
    """What a plan costs, by words; but for what is asked of bars that come back."""
    efforts: dict[str, float] = defaultdict(float)
    last = len(plan.states) - 1
    for key, amount in efforts_between(plan.task, plan.states, 0, last, model_of(plan)).items():
        if TERMS[key].part_of != "otherwise":
            efforts[TERMS[TERMS[key].part_of].told({})] += amount
    return efforts
