"""Other hands that suit the practice log better than those a plan was made with: an offer with its evidence."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dromic.hands.factors import Factor, with_factors
from dromic.hands.profile import Hands
from dromic.planner.locking import differing
from dromic.planner.plan import Plan
from dromic.practice.log.history import History
from dromic.practice.log.six_factors import SixFactors, Told, six_factors


@dataclass(frozen=True)
class Evidence:
    """What the log says of one kind of movement.

    Parameters
    ----------
    told : Told
    drills, reps : int
        What all of it rests on.
    """

    told: Told
    drills: int
    reps: int

    @property
    def factor(self) -> Factor:
        """Which kind."""
        return self.told.factor

    @property
    def words(self) -> str:
        """The evidence in one sentence."""
        one = self.told
        by = 100 * abs(1 - one.value)
        how = "less" if one.value < 1 else "more"
        kind = str(one.factor)
        return (
            f"{kind[:1].upper()}{kind[1:]} takes {by:.0f} % {how} time than planned with ({one.low:.2f} to "
            f"{one.high:.2f} times as long, nine times in ten)."
        )


@dataclass(frozen=True)
class HandsOffer:
    """Other hands, and why.

    Parameters
    ----------
    hands : Hands
    evidence : tuple of Evidence
        Of those kinds of movement that differ by more than their uncertainty.
    next_drill : str
        Which drill would tell most next; empty for none.
    """

    hands: Hands
    evidence: tuple[Evidence, ...]
    next_drill: str = ""

    @property
    def words(self) -> str:
        """The whole offer."""
        first = self.evidence[0]
        rests = f"From {first.reps} repetitions of {first.drills} drills."
        return " ".join((*(one.words for one in self.evidence), rests, self.next_drill)).strip()


def hands_offer(plan: Plan, history: History, others: Sequence[Plan] = ()) -> HandsOffer | None:
    """Hands that suit the log better than those a plan was made with; None where it does not say enough.

    Parameters
    ----------
    plan : Plan
        The time that its movements take is the measure.
    history : History
    others : sequence of Plan
        Of further riffs, made with the same hands.
    """
    found = six_factors((plan, *others), history)
    if found is None:
        return None
    evidence = tuple(Evidence(one, found.drills, found.reps) for one in found.told if one.differs)
    if not evidence:
        return None
    hands = with_factors(plan.hands, {one.factor: one.value for one in found.told if one.known})
    return HandsOffer(hands, evidence, next_drill_words(found, plan))


def changes_words(old: Plan, new: Plan) -> str:
    """What other hands change in a plan, in one sentence.

    Parameters
    ----------
    old, new : Plan
        Of one riff.
    """
    count = len(differing(old, new))
    notes = "no note is played otherwise" if not count else f"{count} notes are played otherwise"
    notes = "1 note is played otherwise" if count == 1 else notes
    before, after = old.ceiling, new.ceiling
    ceiling = f", the ceiling goes from {before:.0f} to {after:.0f}" if before and after else ""
    return f"With the hands from your log {notes}{ceiling}; Ctrl+Z goes back"


def next_drill_words(found: SixFactors, plan: Plan) -> str:
    """Which drill would tell most next, in a sentence."""
    best = found.tells_most(plan)
    if best is None:
        return ""
    step, factor = best
    where = plan.event_of_step(step).moment.place_words
    return f"A drill at {where} would tell most next: of {factor}."
