"""The transitions of a plan taken apart: what each hand does on the way to a note, term by term.

The same arrays that the search summed are looked up by key for the states that were chosen, so what is shown is
what was weighed.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dromic.arrays import Terms
from dromic.hands.finger_moves import finger_travels
from dromic.hands.fingers import finger_words
from dromic.hands.fretting import fret_moves
from dromic.hands.fretting_tables import FretMoves
from dromic.hands.grips import Grip, Grips
from dromic.hands.possible_moves import TransitionKind
from dromic.hands.synchronisation import SyncContext, load_effort
from dromic.hands.terms import FRET_EFFORT, PICK_EFFORT, SCHOOL_PAIR, SYNC_EFFORT, Facts, told_together
from dromic.memory import Memo, memo
from dromic.planner.costs.fret_costs import FretCosts
from dromic.planner.costs.model import Model
from dromic.planner.costs.pick_costs import pair_effort
from dromic.planner.costs.pick_moves import PickMove, pick_move, rule_travel_of, strings_words
from dromic.planner.task.state import Loads, State
from dromic.planner.task.task import Link
from dromic.schools.school import NOTHING_TO_SAY, School, Verdict

MOST_TOLD = 20_000
FretKey = tuple[Grip, Grip, TransitionKind, SyncContext]


@dataclass(frozen=True)
class FretMove:
    """The fretting hand's way between two notes.

    Parameters
    ----------
    shift_mm : float
    shift_frets : int
    rolled, jumped : bool
    times : dict of str to float, milliseconds
        Terms by key.
    finger_mm : float
        What its fingers travel together.
    """

    shift_mm: float
    shift_frets: int
    rolled: bool
    jumped: bool
    times: dict[str, float]
    finger_mm: float = 0.0


@dataclass(frozen=True)
class TransitionReport:
    """A transition with its times (milliseconds), loads and efforts, each by key.

    Parameters
    ----------
    before, after : State
    gap_ms, pick_gap_ms, fret_gap_ms : float
        The time from note to note, and the time that each hand has.
    pick : PickMove or None
        None where the second note is not picked.
    fret : FretMove
    sync_times : dict of str to float
        Extra time of both hands' meeting; empty where they do not meet.
    loads : Loads
    efforts : dict of str to float
    verdict : Verdict
        What the school says to the pair of strokes.
    """

    before: State
    after: State
    gap_ms: float
    pick_gap_ms: float
    fret_gap_ms: float
    pick: PickMove | None
    fret: FretMove
    sync_times: dict[str, float]
    loads: Loads
    efforts: dict[str, float]
    verdict: Verdict

    @property
    def cost(self) -> float:
        """Total effort of the transition."""
        return sum(self.efforts.values())

    @property
    def times(self) -> dict[str, float]:
        """Times of both hands and of their meeting by key."""
        picked = {} if self.pick is None else self.pick.times
        return self.sync_times | picked | self.fret.times

    @cached_property
    def facts(self) -> Facts:
        """What the words of terms are filled in with."""
        pick, fret, after = self.pick, self.fret, self.after
        frets = abs(fret.shift_frets)
        way = "up" if fret.shift_frets > 0 else "down"
        reversals = 0 if pick is None else pick.reversals
        return {
            "reversals": "one reversal" if reversals == 1 else f"{reversals} reversals",
            "cleared": strings_words(0 if pick is None else pick.paid),
            "dragged": strings_words(0 if pick is None else pick.further),
            "travel_mm": 0.0 if pick is None else pick.travel_mm,
            "mover": finger_words(after.finger) if len(after.notes) == 1 else "the slowest finger",
            "goal": finger_words(after.finger) if after.finger else "the open string",
            "shift_words": f"{way} {'one fret' if frets == 1 else f'{frets} frets'}",
            "shift_mm": fret.shift_mm,
        }

    def told(self, times: dict[str, float]) -> dict[str, float]:
        """Terms in words."""
        return told_together(times, self.facts)


@dataclass(frozen=True)
class Transition:
    """Two chosen states, the link between them as it is played, and the school that rules the second."""

    before: State
    after: State
    link: Link
    school: School


def grips_of(states: Sequence[State], model: Model) -> Grips:
    """Return the grips of states as one batch."""
    return Grips(tuple(state.grip for state in states), model.instrument.strings)


def reaches_of(states: Sequence[State], model: Model) -> list[float]:
    """How far each state's farthest finger is opened beyond its ease, in mm; negative when closed."""
    spots, spread = model.instrument.spots, model.fretting.tables.spread
    return [
        max(
            (
                float(spots[fret] - spots[state.position] - spread[finger])
                for _, fret, finger in state.grip.sounding
                if finger
            ),
            default=0.0,
        )
        for state in states
    ]


def reports(model: Model, transitions: Sequence[Transition]) -> list[TransitionReport]:
    """Take transitions apart.

    Parameters
    ----------
    model : Model
    transitions : sequence of Transition

    Returns
    -------
    list of TransitionReport
        The `cost` of each is what the search weighed for the two states.
    """
    ways = _fret_ways(model, transitions)
    return [_report(model, one, way) for one, way in zip(transitions, ways, strict=True)]


@dataclass(frozen=True, eq=False)
class FretWay:
    """A way of the fretting hand at any tempo: its move, comforts, those that grow with the hurry, extra times."""

    move: FretMove
    efforts: dict[str, float]
    hurried: dict[str, float]
    sync_ms: dict[str, float]


def _known_fret_ways(_fretting: FretCosts) -> Memo[FretWay]:
    """Ways by both grips, kind and meeting, kept with the fretting hand; they are made many at once, and put."""
    return Memo(_never, MOST_TOLD)


def _never(*_arguments: object) -> FretWay:
    raise AssertionError("ways of the fretting hand are made many at once")


def _fret_ways(model: Model, transitions: Sequence[Transition]) -> list[FretWay]:
    """Ways of the fretting hand; those that are not known yet are worked out many at once."""
    known = memo(_known_fret_ways, model.fretting)
    keys = [
        (transition.before.grip, transition.after.grip, transition.link.kind, transition.link.sync)
        for transition in transitions
    ]
    ways: dict[FretKey, FretWay] = {}
    groups: dict[object, dict[FretKey, Transition]] = defaultdict(dict)
    for key, one in zip(keys, transitions, strict=True):
        way = known.get(key)
        if way is not None:
            ways[key] = way
        else:
            alone = None if one.before.grip.single and one.after.grip.single else key
            groups[alone, one.link.kind, one.link.sync][key] = one
    for members in groups.values():
        some = list(members.values())
        before = grips_of([one.before for one in some], model).arrays
        after = grips_of([one.after for one in some], model).arrays
        link = some[0].link
        moves = fret_moves(model.fretting.tables, before, after, link.kind)
        sync = model.fretting.sync_times(moves, before, after, link.sync)
        for at, (key, one) in enumerate(members.items()):
            move = _fret_move(model, one.before, one.after, moves, at)
            amounts = (_amounts(terms, moves.shifted.shape, at) for terms in (moves.efforts, moves.hurried, sync))
            ways[key] = known.put(key, FretWay(move, *amounts))
    return [ways[key] for key in keys]


def _fret_move(model: Model, before: State, after: State, moves: FretMoves, at: int) -> FretMove:
    frets = after.position - before.position
    return FretMove(
        float(moves.shift_mm[at]) if frets else 0.0,
        frets,
        bool(moves.rolled[at]),
        bool(moves.jumped[at]),
        _amounts(moves.times, moves.shifted.shape, at),
        sum(finger_travels(before.grip, after.grip, model.fretting.tables).values()),
    )


def _amounts(terms: Terms, shape: tuple[int, ...], at: int) -> dict[str, float]:
    """What counts of terms in one place."""
    amounts = {}
    for key, term in terms.items():
        amount = float(term[at]) if term.shape == shape else float(np.broadcast_to(term, shape)[at])
        if amount:
            amounts[key] = amount
    return amounts


def _report(model: Model, one: Transition, way: FretWay) -> TransitionReport:
    comfort = model.hands.comfort
    before, after, link = one.before, one.after, one.link
    fret_gap_ms = link.flight_ms(before.grip.flight)
    fret_load = sum(way.move.times.values()) / fret_gap_ms
    pick: PickMove | None = None
    pick_load = sync_load = 0.0
    verdict = NOTHING_TO_SAY
    efforts = {FRET_EFFORT: load_effort(fret_load, comfort)} | way.efforts
    if way.hurried:
        hurry = min(comfort.shift_time_ms / fret_gap_ms, 1.0)
        efforts |= {key: hurry * amount for key, amount in way.hurried.items() if hurry * amount}
    sync_ms: dict[str, float] = {}
    if link.picked:
        pick = pick_move(model, before, after, link)
        pick_load = sum(pick.times.values()) / link.pick_gap_ms
        efforts[PICK_EFFORT] = load_effort(pick_load, comfort)
        efforts |= pick.efforts
        verdict = one.school.verdict(
            model.picking.pair(
                before.stroke, after.stroke, rule_travel_of(before, after), link.pick_gap_ms, link.pick
            )
        )
        efforts[SCHOOL_PAIR] = pair_effort(verdict, link.pick.exempt, comfort)
        sync_ms = way.sync_ms
        if sync_ms:
            sync_load = max(pick_load, fret_load) + sum(sync_ms.values()) / link.gap_ms
            efforts[SYNC_EFFORT] = load_effort(sync_load, comfort)
    loads = Loads(pick_load, fret_load, sync_load)
    return TransitionReport(
        before,
        after,
        link.gap_ms,
        link.pick_gap_ms,
        fret_gap_ms,
        pick,
        way.move,
        sync_ms,
        loads,
        efforts,
        verdict,
    )
