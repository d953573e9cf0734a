"""Which note of a plan stands for a place in the riff as written."""

from __future__ import annotations

from dromic.planner.plan import Plan


def step_at(plan: Plan, event_index: int, chosen: int | None) -> int:
    """Return the step of an event, the chosen one where it is one of several, or the last before a rest.

    Where nothing is selected, at the place to append, it is the hardest one.

    Parameters
    ----------
    plan : Plan
    event_index : int
    chosen : int or None
    """
    if event_index > plan.task.moments[-1].event_index:
        return hardest_step(plan)
    steps = [at for at, step in enumerate(plan.task.steps) if step.moment.event_index == event_index]
    if chosen is not None and chosen in steps:
        return chosen
    if steps:
        return steps[0]
    before = [at for at, step in enumerate(plan.task.steps) if step.moment.event_index < event_index]
    return before[-1] if before else 0


def hardest_step(plan: Plan) -> int:
    """Return the step where the plan is held back most, which is what a player asks about first."""
    if not plan.bottlenecks:
        return 0
    event = plan.events[plan.bottlenecks[0].end]
    return event.step if event.step is not None else 0
