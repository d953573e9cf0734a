"""One passage of a take between two soundings of the plan, all three slowly: plan, you, plan."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from dromic.arrays import Floats, Samples
from dromic.errors import RiffError
from dromic.listening.hearing.recording import HEARING_RATE
from dromic.listening.sound.extent import Extent
from dromic.listening.sound.rendering import render
from dromic.listening.sound.stretching import stretched
from dromic.listening.sound.voice import RATE
from dromic.listening.take import State
from dromic.practice.tempo.ladder import Range

if TYPE_CHECKING:
    from dromic.listening.hearing.review import Review

SLOWER = 0.5


@dataclass(frozen=True)
class Passage:
    """A passage of a take.

    Parameters
    ----------
    extent : Extent
        Three rounds of the passage, at half the tempo that it was played at.
    start_s, end_s : float
        Where it lies in the take.
    """

    extent: Extent
    start_s: float
    end_s: float


def passage_of(review: Review, chosen: Range, number: int) -> Passage:
    """Where a range of the plan lies in a take.

    Parameters
    ----------
    review : Review
    chosen : Range
    number : int
        Which round.

    Raises
    ------
    RiffError
        Where nothing of it was heard in that round.
    """
    plan = review.plan
    first, last = (plan.task.steps[step].moment for step in (chosen.first, chosen.last))
    known = [
        (float(plan.events[note.index].moment.played), note.onset_s - note.deviation_ms / 1000)
        for note in review.report.notes
        if note.round == number and first.index <= note.index <= last.index and note.state is not State.MISSED
    ]
    if not known:
        raise RiffError("nothing of this passage was heard in that round")
    quarter = 60.0 / review.report.tempo
    if len(known) > 1 and known[-1][0] > known[0][0]:
        quarter = (known[-1][1] - known[0][1]) / (known[-1][0] - known[0][0])
    beat, time = known[0]
    start, end = float(first.played), float(last.ends)
    extent = Extent(start, end, SLOWER * 60.0 / quarter, rounds=3)
    return Passage(extent, time + (start - beat) * quarter, time + (end - beat) * quarter)


def plan_you_plan(review: Review, samples: Samples, passage: Passage) -> Floats:
    """The plan, the take and the plan again, as one sound.

    Parameters
    ----------
    review : Review
    samples : ndarray of float32, shape (samples,)
        The take, at `HEARING_RATE`.
    passage : Passage

    Returns
    -------
    ndarray, shape (samples,)
        At `RATE` samples a second.
    """
    extent = passage.extent
    one = Extent(extent.start, extent.end, extent.tempo)
    planned = render(review.plan, one)
    count = round(one.seconds * RATE)
    first = max(round(passage.start_s * HEARING_RATE), 0)
    piece = samples[first : max(round(passage.end_s * HEARING_RATE), first)]
    slow = stretched(piece, round(one.seconds * HEARING_RATE))
    if len(slow) < 2:
        slow = np.zeros(2)
    mine = np.interp(np.arange(count) * HEARING_RATE / RATE, np.arange(len(slow)), slow)
    loud = float(np.abs(mine).max())
    if loud > 0:
        # As loud as the plan, so that it is the playing that is compared.
        mine *= max(float(np.abs(planned).max()), 0.05) / loud
    return np.concatenate([planned[:count], mine, planned[:count]])
