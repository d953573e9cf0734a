"""``plan_riff``: the whole program in one call."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from dromic.errors import NoPlanError
from dromic.hands.fretting import FretStates
from dromic.hands.profile import Hands
from dromic.instrument.instrument import Instrument
from dromic.instrument.presets import instrument_for
from dromic.music.riff import Riff, Stroke
from dromic.planner.candidates import candidate_states
from dromic.planner.conflicts import check_strokes, explain
from dromic.planner.model import Floats, Model
from dromic.planner.passage import passage
from dromic.planner.plan import Alternative, Plan, State
from dromic.planner.prices import alternatives, through_costs
from dromic.planner.search import (
    Chain,
    DeadEndError,
    Found,
    LinkArray,
    least_largest_value,
    least_largest_value_loop,
    least_sum,
    least_sum_loop,
)
from dromic.planner.steps import Link, Step, Task, as_pitches, task_of
from dromic.planner.summary import limits_of, planned_events, totals_of
from dromic.schools.school import School

LOAD_TOLERANCE = 1e-9
FREEDOMS = ("strings", "fingers", "strokes", "positions")
Watch = Callable[[float], None]


@dataclass(frozen=True)
class Request:
    """How a riff is to be planned.

    Parameters
    ----------
    hands : Hands
    school : School
    objective : str
        ``effort``: least sum. ``tempo``: smallest largest load, then least sum.
    tempo : float or None
        Quarter notes a minute; None for the riff's own.
    loop : bool
        Whether the riff goes round, seam included.
    free : frozenset of str
        What to take from the player's decisions, any of `FREEDOMS`.
    alternatives : int
        How many other choices to price for every note.
    """

    hands: Hands
    school: School
    objective: str = "effort"
    tempo: float | None = None
    loop: bool = False
    free: frozenset[str] = frozenset()
    alternatives: int = 0


def plan_riff(
    riff: Riff, request: Request, instrument: Instrument | None = None, watch: Watch | None = None
) -> Plan:
    """Plan a riff: where every note goes, which finger takes it and which stroke sounds it.

    Parameters
    ----------
    riff : Riff
    request : Request
    instrument : Instrument or None
        None for the one in the riff's header.
    watch : callable or None
        Called again and again with the share of the work that is done, 0 to 1. What it raises ends the
        planning, which is how long work is cancelled.

    Returns
    -------
    Plan
        The optimum of the movement model; ties break the same way every time.

    Raises
    ------
    NoPlanError
        When nothing playable exists; the message names the note and what clashes.
    RiffError
        When the header's instrument, tuning and capo do not fit together.

    Notes
    -----
    Time grows linearly with the notes, and with the square of the ways to play each one.
    """
    riff = riff if request.tempo is None else riff.at_tempo(request.tempo)
    instrument = instrument or instrument_for(riff)
    music = as_pitches(riff, instrument_for(riff)) if "strings" in request.free else riff
    task = task_of(music, loop=request.loop, free=request.free)
    check_strokes(task.steps, request.school)
    model = Model(instrument, request.hands, request.school, riff.tempo, high_gain=riff.gain == "high")
    states = candidate_states(task.steps, instrument, request.hands.fretting)
    chain = _chain(model, task.steps, task.links, states)
    if watch is not None:
        chain = _watched(chain, watch, passes=1 + 2 * bool(request.alternatives))
    try:
        found, bound = _search(model, chain, task, states, request.objective)
    except DeadEndError as dead_end:
        raise _no_plan(model, task, dead_end.step, request) from None
    chosen = tuple(_state(model, states[step], joint) for step, joint in enumerate(found.path))
    priced = _priced(model, chain, task, states, chosen, bound, request)
    return _assembled(riff, model, request, task, chosen, found.total, priced)


def _chain(model: Model, steps: Sequence[Step], links: Sequence[Link], states: Sequence[FretStates]) -> Chain:
    efforts = [model.step_efforts(step, some) for step, some in zip(steps, states, strict=True)]
    return Chain(efforts, lambda index: model.link_costs(states[index], states[index + 1], links[index]).cost)


def _watched(chain: Chain, watch: Watch, passes: int) -> Chain:
    everything = max(passes * (len(chain.efforts) - 1), 1)
    asked = 0

    def link(index: int) -> Floats:
        nonlocal asked
        asked += 1
        watch(min(asked / everything, 1.0))
        return chain.link(index)

    return Chain(chain.efforts, link)


def _search(
    model: Model, chain: Chain, task: Task, states: Sequence[FretStates], objective: str
) -> tuple[Found, float]:
    """Return the best path, and the load it may not pass (infinite for least effort)."""
    seam = model.link_costs(states[-1], states[0], task.seam) if task.seam is not None else None

    def loads(index: int) -> Floats:
        return model.link_costs(states[index], states[index + 1], task.links[index]).load

    if objective != "tempo":
        return (least_sum(chain) if seam is None else least_sum_loop(chain, seam.cost)), np.inf
    if seam is None:
        bound = least_largest_value(chain, loads) * (1 + LOAD_TOLERANCE)
        return least_sum(_bounded(chain, loads, bound)), bound
    bound = least_largest_value_loop(chain, loads, seam.cost, seam.load) * (1 + LOAD_TOLERANCE)
    closing = np.where(seam.load <= bound, seam.cost, np.inf)
    return least_sum_loop(_bounded(chain, loads, bound), closing), bound


def _bounded(chain: Chain, loads: LinkArray, bound: float) -> Chain:
    return Chain(chain.efforts, lambda index: np.where(loads(index) <= bound, chain.link(index), np.inf))


def _state(model: Model, states: FretStates, joint: int) -> State:
    fret, pick = divmod(joint, model.pick_count)
    return State(
        model.instrument.strings - int(states.string[fret]),
        int(states.fret[fret]),
        int(states.finger[fret]),
        int(states.position[fret]),
        model.strokes[pick],
        Stroke.DOWN if model.states.escape[pick] > 0 else Stroke.UP,
    )


def _no_plan(model: Model, task: Task, failed: int, request: Request) -> NoPlanError:
    def works(steps: Sequence[Step]) -> bool:
        try:
            states = candidate_states(steps, model.instrument, model.hands.fretting)
            least_sum(_chain(model, steps, task.links, states))
        except (DeadEndError, NoPlanError):
            return False
        return True

    if works(task.steps):
        return NoPlanError(
            f"the riff can be planned once through, but not as a loop under {model.school.title.lower()}: its end "
            "cannot lead back to its start; free a lock, or plan it without the loop"
        )
    return explain(task.steps, failed, model.school, works)


def _priced(
    model: Model,
    chain: Chain,
    task: Task,
    states: Sequence[FretStates],
    chosen: Sequence[State],
    bound: float,
    request: Request,
) -> list[tuple[Alternative, ...]]:
    if not request.alternatives:
        return [()] * len(task.steps)
    if task.seam is not None:
        raise NoPlanError("alternatives are not priced for loops yet; ask for one or the other")
    if np.isfinite(bound):
        links = task.links
        chain = _bounded(
            chain, lambda index: model.link_costs(states[index], states[index + 1], links[index]).load, bound
        )
    through = through_costs(chain)
    return [
        alternatives(model, step, states[index], chosen[index], through[index], request.alternatives)
        for index, step in enumerate(task.steps)
    ]


def _assembled(
    riff: Riff,
    model: Model,
    request: Request,
    task: Task,
    chosen: tuple[State, ...],
    cost: float,
    priced: Sequence[tuple[Alternative, ...]],
) -> Plan:
    passages = [passage(model, chosen[index], chosen[index + 1], link) for index, link in enumerate(task.links)]
    seam = passage(model, chosen[-1], chosen[0], task.seam) if task.seam is not None else None
    events = planned_events(model, task, chosen, passages, seam, priced)
    largest = max((one.loads.largest for one in (*passages, *([seam] if seam else []))), default=0.0)
    return Plan(
        riff=riff,
        instrument=model.instrument,
        hands=request.hands,
        school=request.school,
        objective=request.objective,
        tempo=riff.tempo,
        task=task,
        states=chosen,
        cost=cost,
        ceiling=riff.tempo / largest if largest > 0 else None,
        limits=limits_of(task, passages, seam),
        totals=totals_of(model, chosen, task, passages, seam),
        events=events,
    )
