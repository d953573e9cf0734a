"""What a way of playing costs, term by term."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from itertools import pairwise

from dromic.planner.costs.model import Model
from dromic.planner.costs.pick_costs import Strike
from dromic.planner.costs.pick_moves import pick_index
from dromic.planner.costs.transitions import Transition, grips_of, reports
from dromic.planner.task.figures import changes
from dromic.planner.task.state import State
from dromic.planner.task.task import Task


def efforts_between(task: Task, states: Sequence[State], first: int, last: int, model: Model) -> dict[str, float]:
    """Efforts by key of some steps and of the links to, between and behind them, and those of all figures.

    Parameters
    ----------
    task : Task
    states : sequence of State
        Of all its steps.
    first, last : int
        Steps.
    model : Model
        The seam of a loop is left out.
    """
    efforts: dict[str, float] = defaultdict(float)
    for step in range(first, last + 1):
        state, here = states[step], task.steps[step]
        for key, term in model.fretting.posture(model.hold(here), grips_of([state], model)).items():
            efforts[key] += float(term[0])
        if state.sounded:
            school = model.school_of(here)
            for key, amount in model.picking.stroke_terms(
                Strike.of(here), school, pick_index(state, model), state.string
            ).items():
                efforts[key] += amount
    near = range(max(first - 1, 0), min(last + 1, len(states) - 1) + 1)
    transitions = []
    for one, two in pairwise(near):
        link = task.links[one].as_played(states[one].sounded, states[two].sounded) or task.links[one]
        transitions.append(Transition(states[one], states[two], link, model.school_of(task.steps[two])))
    for report in reports(model, transitions):
        for key, amount in report.efforts.items():
            efforts[key] += amount
    for key in changes(task.figures, states).values():
        efforts[key] += getattr(model.hands.comfort, key)
    return efforts
