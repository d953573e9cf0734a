"""The same figure in another riff, where it is easier: by what the hands do, whatever its notes are."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from dromic.hands.terms import LoadKind
from dromic.planner.plan import Plan
from dromic.practice.movement import movement_and_gap, movement_key, of_hand
from dromic.practice.passages.drill import Drill, drill_of, keys_of
from dromic.practice.passages.excerpt import excerpt
from dromic.practice.passages.take_apart import hardest_step
from dromic.practice.tempo.ladder import Range, around


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
    """Where other riffs ask for a drill's hardest movement with less load, the passage that shares most first.

    Where no riff has the movement of both hands, what the hand does that is the trouble is searched for.

    Parameters
    ----------
    drill : Drill
    plan : Plan
        Of the drill's riff.
    library : iterable of Plan
        The riffs to search, those of another instrument left out; the drill's own counts like any other, but not
        the passage itself.

    Returns
    -------
    tuple of Elsewhere
        One a riff at most.
    """
    riffs = [other for other in library if other.instrument.name == plan.instrument.name]
    hardest = max(hardest_step(plan, drill.chosen), 1)
    kind = plan.event_of_step(hardest).loads.kind
    ways: list[Reading] = [_both_hands]
    if kind is not LoadKind.SYNC:
        ways.append(_picking if kind is LoadKind.PICK else _fretting)
    for read in ways:
        search = _Search(read, _movement_to(plan, hardest, read), _movements(plan, drill.chosen, read))
        limit = _load(plan, drill.chosen)
        hits = [_best_in(other, search, limit, drill.chosen if other is plan else None) for other in riffs]
        found = [hit for hit in hits if hit is not None]
        if found:
            return tuple(sorted(found, key=lambda one: (-one.shared, one.load)))
    return ()


Reading = Callable[[str], str]


def _both_hands(key: str) -> str:
    return movement_and_gap(key)[0]


def _picking(key: str) -> str:
    return movement_and_gap(of_hand(key, picking=True))[0]


def _fretting(key: str) -> str:
    return movement_and_gap(of_hand(key, picking=False))[0]


@dataclass(frozen=True)
class _Search:
    """What is looked for: how movements are read, the one that counts, and the others round it."""

    read: Reading
    figure: str
    wanted: frozenset[str]


def _movements(plan: Plan, chosen: Range, read: Reading) -> frozenset[str]:
    return frozenset(map(read, keys_of(plan, chosen)))


def _movement_to(plan: Plan, step: int, read: Reading) -> str:
    return read(movement_key(plan.event_of_step(step - 1), plan.event_of_step(step)))


def _load(plan: Plan, chosen: Range) -> float:
    inside = range(chosen.first + 1, chosen.last + 1)
    return max((plan.event_of_step(step).loads.largest for step in inside), default=0.0)


def _best_in(plan: Plan, search: _Search, limit: float, but: Range | None) -> Elsewhere | None:
    """The passage round the hard movement that shares most with the drill."""
    best: tuple[float, float, Range] | None = None
    for step in range(1, len(plan.states)):
        if _movement_to(plan, step, search.read) != search.figure:
            continue
        around_it = around(plan, step)
        chosen = Range(min(around_it.first, step - 1), around_it.last)
        if but is not None and chosen.first <= but.last and chosen.last >= but.first:
            continue
        shared = len(search.wanted & _movements(plan, chosen, search.read)) / len(search.wanted)
        load = _load(plan, chosen)
        if load < limit and (best is None or (-shared, load) < (-best[0], best[1])):
            best = shared, load, chosen
    if best is None:
        return None
    shared, load, chosen = best
    what: dict[Reading, str] = {
        _both_hands: "movements",
        _picking: "strokes and string changes",
        _fretting: "finger movements",
    }
    why = (
        f"The hard movement and {100 * shared:.0f} % of the {what[search.read]} of the passage, with less to do: "
        f"load {load:.2f}."
    )
    title = plan.riff.title or "another riff"
    made = drill_of(plan, chosen, excerpt(plan, chosen), why, name=f"The same figure in {title}")
    return Elsewhere(plan, made, shared, load)
