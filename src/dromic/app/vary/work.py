"""What is done in a thread for the Vary view: one way of varying after the other, shown as they come. No Qt."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from dromic.planner.plan import Plan
from dromic.practice.vary.variants import Varied, once, vary

# The quick ones first; easier versions, of which many are tried, last.
ORDER = ("degrees", "order", "chord", "strings", "rhythm", "keys", "easier")
Watch = Callable[[float], None]


def in_turn(plan: Plan, watch: Watch) -> Iterator[Varied]:
    """Everything that has been made so far, again and again.

    Parameters
    ----------
    plan : Plan
        Of the lick.
    watch : callable
        Called with the share of the work that is done; what it raises ends it.
    """
    lick = once(plan, lambda _share: watch(0.0))
    so_far = Varied(lick, (), ())
    for number, way in enumerate(ORDER):

        def inner(share: float, done: int = number) -> None:
            watch((done + share) / len(ORDER))

        made = vary(lick, [way], inner)
        so_far = Varied(
            lick,
            (*so_far.variants, *made.variants),
            (*so_far.refusals, *made.refusals),
            (*so_far.tried, *made.tried),
        )
        yield so_far
