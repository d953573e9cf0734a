"""A riff seen whole, as the strip over the chart shows it: worked out once for each plan, without Qt."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dromic.app.chart.measures import measures_of
from dromic.arrays import Floats
from dromic.memory import memo
from dromic.planner.plan import Plan


@dataclass(frozen=True)
class RiffSeenWhole:
    """What of a plan the strip shows, by time in quarter notes.

    Parameters
    ----------
    start, end : float
        Of the whole riff.
    onsets, loads, strings : ndarray, shape (notes,)
        When each note begins, the largest load on the way to it, and its string from the thickest, 0.
    most_strings : int
    phrases : sequence of (float, str)
        Where phrases begin, and their names.
    locks, spots : sequence of float
        Notes with a decision of the player's, and those that hold the plan back.
    """

    start: float
    end: float
    onsets: Floats
    loads: Floats
    strings: Floats
    most_strings: int
    phrases: Sequence[tuple[float, str]]
    locks: Sequence[float]
    spots: Sequence[float]


def seen_whole(plan: Plan) -> RiffSeenWhole:
    """What the strip shows of a plan; the same with prices and without."""
    return memo(_seen_whole, plan)


def _seen_whole(plan: Plan) -> RiffSeenWhole:
    steps, instrument, measures = plan.task.steps, plan.instrument, measures_of(plan)
    onsets = measures.onsets
    places = [(step.moment.phrase, step.moment.pass_number) for step in steps]
    begins = [at for at, place in enumerate(places) if not at or place != places[at - 1]]
    phrases = [(float(onsets[at]), plan.riff.phrases[places[at][0]].name or "") for at in begins]
    hold = {bottleneck.end for bottleneck in plan.bottlenecks}
    return RiffSeenWhole(
        0.0,
        measures.ends,
        onsets,
        measures.loads,
        np.array([instrument.index(state.string) for state in plan.states], dtype=np.float64),
        instrument.strings,
        phrases,
        [step.moment.played_at for step in steps if step.locks.stroke or step.locks.finger or step.locks.position],
        [step.moment.played_at for step in steps if step.moment.index in hold],
    )
