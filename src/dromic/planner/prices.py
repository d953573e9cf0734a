"""What every other choice would cost: exact, from one forward and one backward pass.

The sum of the best way up to a state and the best way on from it is the cost of the best plan through that
state. The least of these over all states that share a choice (an up, the fourth string, the third finger) is
the cost of the best plan with that choice forced; less the optimum, it is the price. The largest load on that
plan, carried along in both passes, gives the ceiling it would leave.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dromic.hands.shapes import ShapeStates
from dromic.music.riff import Stroke
from dromic.planner.plan import Alternative, State
from dromic.planner.problem import Problem
from dromic.planner.search import Chain, through_loop

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]


@dataclass(frozen=True)
class Through:
    """Cost of the best plan through each joint state of a step, and that plan's largest load."""

    cost: Floats
    load: Floats


def through_all(problem: Problem, chain: Chain) -> list[Through]:
    """Price every joint state of every step.

    Parameters
    ----------
    problem : Problem
    chain : Chain
        The problem's own, or one with moves taken out.
    """
    if problem.seam is not None:
        return _through_loop(problem, chain)
    ahead, worst_ahead = _forward(problem, chain)
    behind, worst_behind = _backward(problem, chain)
    return [
        Through(up + on, np.maximum(one, two))
        for up, on, one, two in zip(ahead, behind, worst_ahead, worst_behind, strict=True)
    ]


def _forward(problem: Problem, chain: Chain) -> tuple[list[Floats], list[Floats]]:
    sums, worst = [np.asarray(chain.efforts[0])], [np.zeros(len(chain.efforts[0]))]
    for step in range(len(chain.efforts) - 1):
        reached = np.flatnonzero(np.isfinite(sums[-1]))
        total = chain.link(step)[reached] + sums[-1][reached, None]
        best = total.argmin(axis=0)
        columns = np.arange(total.shape[1])
        before = reached[best]
        sums.append(total[best, columns] + chain.efforts[step + 1])
        worst.append(np.maximum(worst[-1][before], problem.pair_loads(step, before, columns)))
    return sums, worst


def _backward(problem: Problem, chain: Chain) -> tuple[list[Floats], list[Floats]]:
    last = len(chain.efforts) - 1
    sums, worst = [np.zeros(len(chain.efforts[last]))], [np.zeros(len(chain.efforts[last]))]
    for step in range(last - 1, -1, -1):
        after = sums[-1] + chain.efforts[step + 1]
        reached = np.flatnonzero(np.isfinite(after))
        total = chain.link(step)[:, reached] + after[reached]
        best = total.argmin(axis=1)
        rows = np.arange(total.shape[0])
        following = reached[best]
        sums.append(total[rows, best])
        worst.append(np.maximum(worst[-1][following], problem.pair_loads(step, rows, following)))
    return sums[::-1], worst[::-1]


def _through_loop(problem: Problem, chain: Chain) -> list[Through]:
    assert problem.seam is not None
    costs = through_loop(chain, problem.seam[0])
    return [Through(cost, np.full(len(cost), np.nan)) for cost in costs]


def alternatives(
    problem: Problem, step: int, chosen: State, through: Through, tempo: float, most: int
) -> tuple[Alternative, ...]:
    """Return the cheapest other choices for one note.

    Parameters
    ----------
    problem : Problem
    step : int
    chosen : State
        What the plan does.
    through : Through
        Of this step.
    tempo : float
    most : int
        How many to return at most.

    Returns
    -------
    tuple of Alternative
        Cheapest first. Each changes one thing and leaves the rest of the plan free.
    """
    count = len(problem.states[step])
    cost = through.cost.reshape(-1, count)
    load = through.load.reshape(-1, count)
    optimum = float(cost.min())
    found = []
    for choice in choices_at(problem, step, chosen):
        costs = np.where(choice.keep, cost, np.inf)
        best = int(costs.argmin())
        price = float(costs.flat[best]) - optimum
        if np.isfinite(price):
            largest = float(load.flat[best])
            ceiling = tempo / largest if largest > 0 else None
            found.append(Alternative(choice.kind, choice.words, max(price, 0.0), ceiling, choice.value))
    return tuple(sorted(found, key=lambda one: one.price)[:most])


@dataclass(frozen=True)
class Choice:
    """Another choice: `keep` tells the joint states that make it, shape (rows, fretting states)."""

    kind: str
    words: str
    value: str
    keep: Bools


def choices_at(problem: Problem, step: int, chosen: State) -> Iterator[Choice]:
    """Every other choice for a step."""
    states, model = problem.states[step], problem.model
    everywhere = np.ones((len(model.rows), len(states)), dtype=bool)
    if problem.steps[step].picked:
        if model.slurs and chosen.sounded:
            slurred = np.array([not sounded for _, sounded in model.rows])
            yield Choice("stroke", "hammered on or pulled off", str(Stroke.NONE), everywhere & slurred[:, None])
        for stroke in dict.fromkeys(model.strokes):
            if stroke is not chosen.stroke or not chosen.sounded:
                rows = np.array([one is stroke and sounded for one, sounded in model.rows])
                words = f"{stroke} stroke" if stroke in ("down", "up") else f"plucked with {stroke}"
                yield Choice("stroke", words, str(stroke), everywhere & rows[:, None])
    if isinstance(states, ShapeStates):
        if problem.steps[step].more:
            yield from _shape_choices(states, model.instrument.strings, everywhere, chosen)
            return
        states = states.sounded
    strings = model.instrument.strings - states.string
    for string in np.unique(strings):
        at = strings == string
        if string != chosen.string:
            yield Choice("place", f"string {string}, fret {states.fret[at][0]}", str(string), everywhere & at)
    here = strings == chosen.string
    for finger in np.unique(states.finger[here]):
        if finger != chosen.finger:
            yield Choice("finger", f"finger {finger}", str(finger), everywhere & (here & (states.finger == finger)))
    by_finger = here & (states.finger == chosen.finger)
    for position in np.unique(states.position[by_finger]):
        if position != chosen.position:
            keep = by_finger & (states.position == position)
            yield Choice("position", f"hand at fret {position}", str(position), everywhere & keep)


def _shape_choices(states: ShapeStates, strings: int, everywhere: Bools, chosen: State) -> Iterator[Choice]:
    """Every other way to hold a chord."""
    held = [tuple((strings - one, fret, finger) for one, fret, finger in shape.notes) for shape in states.shapes]
    for notes in dict.fromkeys(held):
        if notes != chosen.notes:
            keep = np.array([one == notes for one in held])
            words = f"fingers {' '.join(str(finger) for _, _, finger in notes)}"
            if [note[:2] for note in notes] != [note[:2] for note in chosen.notes]:
                words = f"{' '.join(f'{string}:{fret}' for string, fret, _ in notes)}, {words}"
            yield Choice("shape", words, words, everywhere & keep)
    positions = np.array([one == chosen.notes for one in held])
    for position in np.unique(states.position[positions]):
        if position != chosen.position:
            keep = positions & (states.position == position)
            yield Choice("position", f"hand at fret {position}", str(position), everywhere & keep)
