"""Learning from how a player plays: what of the model they would have otherwise, told by what they have decided.

The player's way through a riff is the plan with their locks; against it stand the plans without them. The weights
that `dromic.hands.learning` finds are gathered into habits, in words. A habit is proposed only where it would have
had the plan decide as the player did, often enough, in more than one place, and hardly spoil anything else.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from dromic.arrays import Floats
from dromic.hands.learning import Example, changed, fitted, weights
from dromic.hands.profile import OWN, Hands
from dromic.hands.terms import TERMS
from dromic.memory import Memo
from dromic.music.riff import NO_LOCKS, Place, Riff
from dromic.planner.costs.efforts import efforts_between
from dromic.planner.plan import Objective, Plan
from dromic.planner.planning import plan_riff
from dromic.planner.request import Freedom, Request
from dromic.planner.task.state import State
from dromic.planner.told.reasons import model_of

ROUNDS = 4
RELUCTANCE = 0.004
LEAST_GAIN = 3
LEAST_SHARE = 0.4
MOST_PROPOSALS = 3
MOST_TRIED = 8
MARKED = 4.0
MOST_HANDS = 100
VARIANTS = 3

Watch = Callable[[float], None]


@dataclass(frozen=True)
class Habit:
    """Weights that belong together, and what it means when they are dearer or cheaper to a player."""

    weights: tuple[str, ...]
    dearer: str
    cheaper: str


HABITS = (
    Habit(
        ("shift", "shift_far", "shift_guided", "shift_take", "shift_unguided"),
        "you stay in position where the plan would shift",
        "you move along the neck where the plan would stay in position",
    ),
    Habit(
        ("fourth", "fourth_too", "weak_34", "weak_24"),
        "you spare the little finger where the plan would use it",
        "you use the little finger where the plan would spare it",
    ),
    Habit(
        ("reach", "apart", "stretched_pair", "frame", "frame_too", "first_away", "opened"),
        "you keep the fingers over their own frets where the plan would stretch",
        "you stretch where the plan would keep the fingers over their own frets",
    ),
    Habit(
        ("roll", "roll_gain"),
        "you take another finger where the plan would roll one over",
        "you roll a finger over where the plan would take another",
    ),
    Habit(
        ("open_far", "open_closed", "open_gain", "open_in_chord"),
        "you fret notes that the plan would play on open strings",
        "you play open strings where the plan would fret",
    ),
    Habit(
        ("up_the_neck", "up_long_neck", "up_closed", "off_nut", "off_nut_long", "high"),
        "you play nearer the nut than the plan would",
        "you play farther up the neck than the plan would",
    ),
    Habit(
        ("down_closed", "past_open"),
        "you keep off the wide frets by the nut",
        "you play by the nut where the plan would not",
    ),
    Habit(
        ("again",),
        "you alternate where the plan would repeat a stroke",
        "you repeat a stroke where the plan would alternate",
    ),
    Habit(
        ("up_on_beat", "down_between"),
        "you keep downs on the beat and ups between where the plan would not",
        "you let ups fall on the beat and downs between",
    ),
    Habit(
        ("skip",), "you avoid string skips that the plan would make", "you skip strings where the plan would not"
    ),
    Habit(
        ("inside", "outside"),
        "you avoid changing strings where the plan would",
        "you change strings where the plan would not",
    ),
    Habit(
        (
            "figure",
            "figure_strings",
            "run",
            "tune",
            "octave",
            "regrip",
            "other_strings",
            "respaced",
        ),
        "you keep shapes and figures as they are where the plan would not",
        "you finger shapes and figures anew where the plan would keep them",
    ),
    Habit(
        ("cross", "jump_along", "jump_across", "weak_23"),
        "you let the fingers follow in order where the plan would not",
        "you let fingers jump and cross where the plan would not",
    ),
    Habit(
        ("laid", "laid_over", "laid_by_open", "barre", "barre_other", "barre_alone", "bunched"),
        "you set single fingers where the plan would lay one across",
        "you lay a finger across where the plan would set single ones",
    ),
)
_HABIT_OF = {name: habit for habit in HABITS for name in habit.weights}


@dataclass(frozen=True)
class Proposal:
    """A habit that a player seems to have.

    Parameters
    ----------
    words : str
        What they do.
    hands : Hands
        Theirs, with this habit and those proposed before it.
    weights : mapping of str to float
        By what factor each weight changes.
    decided, agreed : int
        How many of their notes the plan had otherwise before, and how many fewer these are with the habit.
    """

    words: str
    hands: Hands
    weights: Mapping[str, float]
    decided: int
    agreed: int


@dataclass(frozen=True)
class _Played:
    """A riff as the player plays it, and its plan without locks under the hands of before."""

    riff: Riff
    states: tuple[State, ...]
    decided: frozenset[int]
    free: Plan


def proposals(riffs: Sequence[Riff], request: Request, watch: Watch | None = None) -> Iterator[Proposal]:
    """Yield habits that would have the plan decide as a player did.

    Parameters
    ----------
    riffs : sequence of Riff
        With the player's locks. Where they have decided nothing, or as the plan would, there is nothing to learn.
    request : Request
        How the riffs are planned; its hands are those that are to learn.
    watch : callable or None
        Called with the share of the work that is done; what it raises ends it.

    Raises
    ------
    NoPlanError, RiffError
        For a riff that cannot be planned as it is locked.
    """
    request = replace(request, objective=Objective.EFFORT, alternatives=0, loop=False)
    learner = _Learner(riffs, request, watch)
    if learner.wrong(request.hands) == learner.nothing_wrong:
        return
    hands = request.hands
    given = 0
    for habit, factors in learner.habits():
        if given == MOST_PROPOSALS:
            return
        judged = [learner.judged(habit, hands, variant) for variant in _variants(habit, factors)]
        convincing = [one for one in judged if one is not None]
        if convincing:
            best = max(convincing, key=lambda one: one.agreed)
            hands = best.hands
            given += 1
            yield best


def _variants(habit: Habit, factors: Mapping[str, float]) -> Iterator[Mapping[str, float]]:
    """A habit as the fit has it, twice as marked, and with all its weights alike."""
    yield factors
    yield {name: factor**2 for name, factor in factors.items()}
    alike = MARKED if _dearer(factors) else 1 / MARKED
    yield dict.fromkeys(habit.weights, alike)


def _dearer(factors: Mapping[str, float]) -> bool:
    return float(np.mean([np.log(factor) for factor in factors.values()])) > 0


def with_weights(hands: Hands, factors: Mapping[str, float]) -> Hands:
    """Hands with some weights times their factors."""
    comfort = hands.comfort
    return replace(
        hands,
        comfort=replace(comfort, **{name: getattr(comfort, name) * factor for name, factor in factors.items()}),
    )


class _Learner:
    """What is known of a player's riffs."""

    def __init__(self, riffs: Sequence[Riff], request: Request, watch: Watch | None) -> None:
        self._request, self._watch = request, watch
        self._asked, self._to_ask = 0, len(riffs) * (2 + ROUNDS + VARIANTS * MOST_TRIED)
        self._names = weights()
        self._free = replace(request, free=request.free | frozenset(Freedom))
        self._played = [self._as_played(riff) for riff in riffs]
        self.wrong = Memo(self._wrong, MOST_HANDS)
        self.nothing_wrong = (frozenset[int](),) * len(riffs)

    def _plan(self, riff: Riff, request: Request) -> Plan:
        self._asked += 1
        if self._watch is not None:
            self._watch(min(self._asked / self._to_ask, 1.0))
        return plan_riff(riff, request)

    def _as_played(self, riff: Riff) -> _Played:
        plan = self._plan(riff, self._request)
        decided = frozenset(
            number
            for number, step in enumerate(plan.task.steps)
            if step.locks != NO_LOCKS
            or any(isinstance(note.target, Place) or note.locks != NO_LOCKS for note in step.notes)
        )
        return _Played(riff, plan.states, decided, self._plan(riff, self._free))

    def _values(self, hands: Hands) -> Floats:
        return np.array([getattr(hands.comfort, name) for name in self._names])

    def _wrong(self, hands: Hands) -> tuple[frozenset[int], ...]:
        """Steps of each riff that the plan without locks plays otherwise than the player."""
        free = replace(self._free, hands=hands)
        return tuple(_differing(one.states, self._plan(one.riff, free).states) for one in self._played)

    def judged(self, habit: Habit, hands: Hands, factors: Mapping[str, float]) -> Proposal | None:
        """A habit on top of those proposed before, None where it does not explain enough of what was decided.

        Parameters
        ----------
        habit : Habit
        hands : Hands
        factors : mapping of str to float
        """
        tried = with_weights(hands, factors)
        before, after = self.wrong(hands), self.wrong(tried)
        own_before, own_after = self.of_decided(before), self.of_decided(after)
        decided = sum(len(one) for one in own_before)
        gain = decided - sum(len(one) for one in own_after)
        helped = sum(len(a) < len(b) for a, b in zip(own_after, own_before, strict=True))
        spoilt = sum(len(a - b) for a, b in zip(after, before, strict=True))
        enough = gain >= LEAST_GAIN and gain >= LEAST_SHARE * decided and spoilt <= gain / 3
        if not enough or (helped < 2 and (len(self._played) > 1 or gain == LEAST_GAIN)):
            return None
        words = habit.dearer if _dearer(factors) else habit.cheaper
        return Proposal(words, replace(tried, name=OWN), factors, decided, gain)

    def of_decided(self, wrong: Sequence[frozenset[int]]) -> list[frozenset[int]]:
        """Those of some steps of each riff that the player has decided; the others follow from them."""
        return [steps & one.decided for steps, one in zip(wrong, self._played, strict=True)]

    def habits(self) -> list[tuple[Habit, Mapping[str, float]]]:
        """Habits whose weights have moved in the fit, those that moved farthest first."""
        factors = changed(self._values(self._request.hands), self._fitted(), self._names)
        by_habit: dict[Habit, dict[str, float]] = {}
        for name, factor in factors.items():
            habit = _HABIT_OF.get(name) or Habit(
                (name,), f"you avoid {TERMS[name].words}", f"you do not mind {TERMS[name].words}"
            )
            by_habit.setdefault(habit, {})[name] = factor

        def moved(some: Mapping[str, float]) -> float:
            return sum(abs(float(np.log(factor))) for factor in some.values())

        in_order = sorted(by_habit.items(), key=lambda one: -moved(one[1]))
        return [(habit, some) for habit, some in in_order[:MOST_TRIED]]

    def _fitted(self) -> Floats:
        start = self._values(self._request.hands)
        now, hands = start, self._request.hands
        own = [self._features(one, one.states) for one in self._played]
        others: list[list[tuple[Floats, float, int]]] = [[] for _ in self._played]
        for _ in range(ROUNDS):
            differs = False
            for number, one in enumerate(self._played):
                states = self._plan(one.riff, replace(self._free, hands=hands)).states
                wrong = len(_differing(one.states, states))
                if wrong:
                    others[number].append((*self._features(one, states), wrong))
                    differs = True
            if not differs:
                break
            examples = [
                Example(
                    features,
                    rest,
                    np.array([other[0] for other in some]),
                    np.array([other[1] for other in some]),
                    np.array([min(other[2], 4) for other in some], dtype=np.float64),
                )
                for (features, rest), some in zip(own, others, strict=True)
                if some
            ]
            now = fitted(examples, start, RELUCTANCE)
            hands = with_weights(self._request.hands, dict(zip(self._names, (now / start).tolist(), strict=True)))
        return now

    def _features(self, one: _Played, states: Sequence[State]) -> tuple[Floats, float]:
        """Each weighed term over its weight, and the rest of the effort."""
        plan = one.free
        efforts = efforts_between(plan.task, states, 0, len(states) - 1, model_of(plan))
        start = self._values(self._request.hands)
        weighed = np.array([efforts.pop(name, 0.0) for name in self._names])
        return weighed / start, sum(amount for amount in efforts.values() if np.isfinite(amount))


def _differing(one: Sequence[State], two: Sequence[State]) -> frozenset[int]:
    """Steps that are played otherwise: place, finger or stroke."""

    def seen(state: State) -> object:
        return state.notes, state.stroke if state.sounded else None

    return frozenset(at for at, (a, b) in enumerate(zip(one, two, strict=True)) if seen(a) != seen(b))
