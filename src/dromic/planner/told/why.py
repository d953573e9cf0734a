"""Why a note is played as it is: what the choice spares, compared with the next best, in one sentence."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass

from dromic.hands.terms import TERMS
from dromic.planner.costs.efforts import efforts_between
from dromic.planner.costs.model import Model
from dromic.planner.plan import Plan
from dromic.planner.ways import Alternative

AS_GOOD = 0.005
NOTHING = 1e-9
WORTH_TELLING = 0.3
MOST_TOLD = 2


@dataclass(frozen=True)
class Why:
    """A choice against the next best.

    Parameters
    ----------
    other : Alternative
    spared, paid : mapping of str to float
        Efforts that the other choice would add, and those that only this one has, by words, largest first.
    """

    other: Alternative
    spared: Mapping[str, float]
    paid: Mapping[str, float]

    @property
    def words(self) -> str:
        """One sentence.

        Examples
        --------
        >>> from dromic.planner.ways import OtherStroke
        >>> from dromic.music.riff import Stroke
        >>> Why(Alternative(OtherStroke(Stroke.UP), 0.04, None), {"a shift": 0.05}, {"a roll": 0.01}).words
        'It spares a shift; up stroke would add 0.04.'
        """
        spared, paid = largest_words(self.spared), largest_words(self.paid)
        if self.other.price < AS_GOOD:
            return f"{self.other.words[:1].upper()}{self.other.words[1:]} would do as well."
        sentence = f"It spares {spared}" if spared else "It is the easier way"
        if paid and sum(self.paid.values()) > WORTH_TELLING * sum(self.spared.values()):
            sentence += f", at the price of {paid}"
        return f"{sentence}; {self.other.words} would add {self.other.price:.2f}."


def largest_words(amounts: Mapping[str, float]) -> str:
    """The largest of some efforts by words, largest first, in words."""
    least = WORTH_TELLING * max(amounts.values(), default=0.0)
    return " and ".join([words for words, amount in amounts.items() if amount >= least][:MOST_TOLD])


def why(plan: Plan, step: int, model: Model) -> Why | None:
    """Compare a step's choice with the next best.

    Parameters
    ----------
    plan : Plan
        With prices.
    step : int
    model : Model
        The plan's own.

    Returns
    -------
    Why or None
        None where the next best is not known.
    """
    other = next(
        (alternative for alternative in plan.event_of_step(step).alternatives if alternative.detour is not None),
        None,
    )
    if other is None or other.detour is None:
        return None
    first, there = other.detour.first, other.detour.states
    last = first + len(there) - 1
    then = (*plan.states[:first], *there, *plan.states[last + 1 :])
    here = efforts_between(plan.task, plan.states, first, last, model)
    difference: dict[str, float] = defaultdict(float)
    for key, amount in efforts_between(plan.task, then, first, last, model).items():
        difference[TERMS[key].part_of] += amount
    for key, amount in here.items():
        difference[TERMS[key].part_of] -= amount
    by_words: dict[str, float] = defaultdict(float)
    for key, amount in difference.items():
        by_words[TERMS[key].told({})] += amount
    in_order = sorted(by_words.items(), key=lambda one: -abs(one[1]))
    return Why(
        other,
        {words: amount for words, amount in in_order if amount > NOTHING},
        {words: -amount for words, amount in in_order if amount < -NOTHING},
    )
