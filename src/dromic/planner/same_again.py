"""What comes again in a riff and is not played as before, and why: what it would cost to play it the same."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from dromic.errors import NoPlanError
from dromic.hands.terms import TERMS
from dromic.music.riff import Mark
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
    words : str
        What differs, in a sentence.
    price : float or None
        What the plan would cost more in which it is played as before; None where there is none.
    why : str
        What that is made of, in a sentence.
    """

    step: int
    words: str
    price: float | None
    why: str


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
    for number, (words, steps) in enumerate(pairs):
        if watch is not None:
            watch(number / len(pairs))
        yield _explained(plan, request, words, steps)


def _bars(plan: Plan) -> list[tuple[str, dict[int, int]]]:
    """Bars that are not played as the first one like them: in words, and for each step that differs its model."""
    found = []
    for first, *others in same_bars(plan.task.steps, plan.instrument):
        for bar in others:
            steps = {two: one for one, two in zip(first, bar, strict=True) if _differ(plan, one, two)}
            if steps:
                one, two = (plan.task.steps[some.start].moment for some in (first, bar))
                round_two = f" (round {two.pass_number + 1})" if two.pass_number else ""
                here, there = next(iter(steps.items()))
                words = (
                    f"Bar {two.bar}{round_two} is bar {one.bar} again; "
                    f"{plan.task.steps[here].words} is played {_way(plan.states[here])}, "
                    f"before {_way(plan.states[there])}."
                )
                found.append((words, steps))
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
            words = (
                f"{two.words} is struck again, and played {_way(plan.states[at])}, "
                f"before {_way(plan.states[at - 1])}."
            )
            found.append((words, {at: at - 1}))
    return found


def _differ(plan: Plan, one: int, two: int) -> bool:
    here, there = plan.states[one], plan.states[two]
    strokes = [state.stroke if state.sounded else None for state in (here, there)]
    return here.notes != there.notes or strokes[0] != strokes[1]


def _way(state: State) -> str:
    notes = " ".join(
        f"{string}:{fret}" + (f" by finger {finger}" if finger else "") for string, fret, finger in state.notes
    )
    return f"at {notes}" + (f", {state.stroke}" if state.sounded else "")


def _explained(plan: Plan, request: Request, words: str, steps: Mapping[int, int]) -> Otherwise:
    first = min(steps)
    # What came before stays as it is, or it would rather change itself.
    decided = {**{there: there for there in steps.values()}, **steps}
    plain = replace(request, alternatives=0, explained=False)
    try:
        other = plan_riff(with_notes_as(plan, decided), plain, plan.instrument)
    except NoPlanError:
        return Otherwise(first, words, None, "Played as before, no plan leads there and on.")
    price = other.cost - plan.cost
    if price < 0:
        # Only what the player has decided is dearer than what it replaces.
        return Otherwise(first, words, price, f"It is locked so; played as before it would cost {-price:.2f} less.")
    here, there = (_efforts(one) for one in (plan, other))
    more = {
        words: there[words] - here.get(words, 0.0)
        for words in sorted(there, key=lambda one: here.get(one, 0.0) - there[one])
    }
    because = largest_words({words: amount for words, amount in more.items() if amount > 0})
    return Otherwise(first, words, price, f"Played as before it would cost {price:.2f} more: {because}.")


def _efforts(plan: Plan) -> Mapping[str, float]:
    """What a plan costs, by words."""
    efforts: dict[str, float] = defaultdict(float)
    last = len(plan.states) - 1
    for key, amount in efforts_between(plan.task, plan.states, 0, last, model_of(plan)).items():
        efforts[TERMS[TERMS[key].part_of].told({})] += amount
    return efforts
