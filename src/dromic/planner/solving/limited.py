"""The search within a player's limits, and what to say where they leave no plan."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from dromic.errors import NoPlanError
from dromic.planner.limits import Limits
from dromic.planner.search.chains import Chain, DeadEndError, Path, least_sum
from dromic.planner.search.loops import closed_path
from dromic.planner.solving.problem import Problem


def best_within(problem: Problem, bound: float, limits: Limits) -> Path | None:
    """Find the best path whose grips keep within limits; None where there is none.

    Parameters
    ----------
    problem : Problem
    bound : float
        Load that no link may pass.
    limits : Limits
    """
    chain = problem.solver.within(bound)
    costs = []
    for step, own in enumerate(chain.node_costs):
        allowed = problem.allowed(step, limits)
        if not allowed.any():
            return None
        costs.append(np.where(allowed[problem.layers.plain_of(step)], own, np.inf))
    only = replace(chain, node_costs=costs)
    try:
        return least_sum(only) if problem.seam is None else closed_path(only, problem.seam.costs(bound))
    except DeadEndError:
        return None


def refused_by(limits: Limits, problem: Problem) -> NoPlanError:
    """Say which note the limits leave no way to play, and which limits nearest to them would.

    Parameters
    ----------
    limits : Limits
    problem : Problem
        The riff without limits, which can be solved.
    """
    step = problem.steps[_first_without(problem, limits)]
    near = next(
        (
            wider
            for wider in limits.wider(problem.model.instrument.strings)
            if best_within(problem, np.inf, wider) is not None
        ),
        None,
    )
    helps = f"{near.words or 'without limits'} it can be" if near is not None else "without limits it can be"
    return NoPlanError(
        f"{step.words}: the riff cannot be played {limits.words}, because of this note; {helps}",
        event_index=step.moment.event_index,
    )


def _first_without(problem: Problem, limits: Limits) -> int:
    """The first step that no plan within the limits gets to."""
    costs: Sequence[object] = problem.chain.node_costs
    for step in range(len(costs)):
        if not problem.allowed(step, limits).any():
            return step
    masked = [
        np.where(problem.allowed(step, limits), own, np.inf) for step, own in enumerate(problem.chain.node_costs)
    ]
    try:
        least_sum(Chain(masked, problem.moves))
    except DeadEndError as dead_end:
        return dead_end.step
    return len(costs) - 1
