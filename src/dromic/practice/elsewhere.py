"""The same figure in another riff, where it is easier: by what the hands do, whatever its notes are."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from dromic.planner.plan import Plan
from dromic.practice.drill import Drill, drill_of, keys_of
from dromic.practice.excerpt import excerpt
from dromic.practice.ladder import Range, around
from dromic.practice.movement import movement_and_gap, movement_key

LEAST_SHARED = 0.25


@dataclass(frozen=True)
class Elsewhere:
    """A passage of another riff with movements of a drill.

    Parameters
    ----------
    plan : Plan
    drill : Drill
    shared : float
        The share of the drill's movements that are in it.
    load : float
        The largest load of a movement in it, at its own tempo.
    """

    plan: Plan
    drill: Drill
    shared: float
    load: float


def same_figure(drill: Drill, plan: Plan, library: Iterable[Plan]) -> tuple[Elsewhere, ...]:
    """Where other riffs ask for the movements of a drill with less load, the passage that shares most first.

    Parameters
    ----------
    drill : Drill
    plan : Plan
        Of the drill's riff.
    library : iterable of Plan
        The riffs to search; the drill's own counts like any other, but not the passage itself.

    Returns
    -------
    tuple of Elsewhere
        One a riff at most.
    """
    wanted = _movements(keys_of(plan, drill.chosen))
    limit = _load(plan, drill.chosen)
    found = []
    for other in library:
        best = _best_in(other, wanted, limit, drill.chosen if other is plan else None)
        if best is not None:
            found.append(best)
    return tuple(sorted(found, key=lambda one: (-one.shared, one.load)))


def _movements(keys: Iterable[str]) -> frozenset[str]:
    return frozenset(movement_and_gap(key)[0] for key in keys)


def _load(plan: Plan, chosen: Range) -> float:
    inside = range(chosen.first + 1, chosen.last + 1)
    return max((plan.event_of_step(step).loads.largest for step in inside), default=0.0)


def _best_in(plan: Plan, wanted: frozenset[str], limit: float, but: Range | None) -> Elsewhere | None:
    best: tuple[float, float, Range] | None = None
    for step in range(1, len(plan.states)):
        key = movement_key(plan.event_of_step(step - 1), plan.event_of_step(step))
        if movement_and_gap(key)[0] not in wanted:
            continue
        around_it = around(plan, step)
        chosen = Range(min(around_it.first, step - 1), around_it.last)
        if but is not None and chosen.first <= but.last and chosen.last >= but.first:
            continue
        shared = len(wanted & _movements(keys_of(plan, chosen))) / len(wanted)
        load = _load(plan, chosen)
        if shared >= LEAST_SHARED and load < limit and (best is None or (-shared, load) < (-best[0], best[1])):
            best = shared, load, chosen
    if best is None:
        return None
    shared, load, chosen = best
    why = f"{100 * shared:.0f} % of the movements of the hard passage, with less to do: load {load:.2f}."
    title = plan.riff.title or "another riff"
    made = drill_of(plan, chosen, excerpt(plan, chosen), why, name=f"The same figure in {title}")
    return Elsewhere(plan, made, shared, load)
