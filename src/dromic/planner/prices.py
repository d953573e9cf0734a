"""What every other choice would cost: exact, from one forward and one backward pass.

The sum of the best way up to a state and the best way on from it is the cost of the best plan through that
state. The least of these over all states that share a choice (an up, the fourth string, the third finger) is
the cost of the best plan with that choice forced; less the optimum, it is the price.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from dromic.hands.fretting import FretStates
from dromic.planner.model import Model
from dromic.planner.plan import Alternative, State
from dromic.planner.search import Chain, backward_sums, forward_sums
from dromic.planner.steps import Step

Floats = NDArray[np.float64]


def through_costs(chain: Chain) -> list[Floats]:
    """Cost of the best plan through each state, an array a step."""
    return [ahead + behind for ahead, behind in zip(forward_sums(chain), backward_sums(chain), strict=True)]


def alternatives(
    model: Model, step: Step, states: FretStates, chosen: State, through: Floats, most: int
) -> tuple[Alternative, ...]:
    """Return the cheapest other choices for one note.

    Parameters
    ----------
    model : Model
    step : Step
    states : FretStates
        Fretting states of the step.
    chosen : State
        What the plan does.
    through : ndarray, shape (joint states,)
        Cost of the best plan through each.
    most : int
        How many to return at most.

    Returns
    -------
    tuple of Alternative
        Cheapest first. Each changes one thing and leaves the rest of the plan free.
    """
    joint = through.reshape(len(states), model.pick_count)
    optimum = float(joint.min())
    found: list[Alternative] = []

    def offer(kind: str, words: str, costs: Floats) -> None:
        price = float(costs.min()) - optimum if costs.size else np.inf
        if np.isfinite(price):
            found.append(Alternative(kind, words, max(price, 0.0)))

    if step.picked:
        for stroke in dict.fromkeys(model.strokes):
            if stroke is not chosen.stroke:
                columns = [index for index, one in enumerate(model.strokes) if one is stroke]
                offer("stroke", f"{stroke} stroke", joint[:, columns])
    strings = model.instrument.strings - states.string
    for string in np.unique(strings):
        if string != chosen.string:
            at = strings == string
            offer("place", f"string {string}, fret {states.fret[at][0]}", joint[at])
    here = strings == chosen.string
    for finger in np.unique(states.finger[here]):
        if finger != chosen.finger:
            offer("finger", f"finger {finger}", joint[here & (states.finger == finger)])
    by_finger = here & (states.finger == chosen.finger)
    for position in np.unique(states.position[by_finger]):
        if position != chosen.position:
            offer("position", f"hand at fret {position}", joint[by_finger & (states.position == position)])
    return tuple(sorted(found, key=lambda one: one.price)[:most])
