"""What other answers to the questions on which players disagree would make of a plan."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

from dromic.app.jobs import Watch
from dromic.errors import DromicError
from dromic.hands.profile import Hands
from dromic.hands.style_options import StyleOption, option_value, style_options, with_option
from dromic.music.riff import Riff
from dromic.planner.locking import differing
from dromic.planner.plan import Plan
from dromic.planner.plan_settings import PlanSettings
from dromic.planner.planning import plan_riff


@dataclass(frozen=True)
class Effect:
    """What another answer would make of the plan."""

    option: StyleOption
    value: Any
    words: str


def effects(riff: Riff, plan_settings: PlanSettings, watch: Watch) -> Iterator[Effect]:
    """The riff planned once with every other answer to every question.

    Parameters
    ----------
    riff : Riff
    plan_settings : PlanSettings
    watch : callable
        Called with the share of the work that is done; what it raises ends it.
    """
    request = replace(plan_settings.request(), alternatives=0)
    now = plan_riff(riff, request, watch=watch)
    for option, value in other_answers(plan_settings.player):
        other = replace(request, hands=with_option(request.hands, option, value))
        try:
            words = effect_words(now, plan_riff(riff, other, watch=watch))
        except DromicError as error:
            words = f"no plan: {error}"
        yield Effect(option, value, words)


def other_answers(hands: Hands) -> tuple[tuple[StyleOption, Any], ...]:
    """Every style option with every answer that is not in force."""
    return tuple(
        (option, value)
        for option in style_options()
        for value in option.answers
        if value != option_value(hands, option)
    )


def effect_words(now: Plan, other: Plan) -> str:
    """What another plan changes, in a few words."""
    changed = len(differing(now, other))
    ceiling = (other.ceiling or 0.0) - (now.ceiling or 0.0)
    effort = other.cost - now.cost
    if not changed and abs(ceiling) < 0.5 and abs(effort) < 0.005:
        return "changes nothing here"
    notes = "same notes" if not changed else f"{changed} {'note changes' if changed == 1 else 'notes change'}"
    # A zero has no sign of its own.
    return f"{notes}, ceiling {round(ceiling) + 0:+d}, effort {round(effort, 2) + 0.0:+.2f}"
