"""A riff planned again and again while the player changes it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

from dromic.instrument.instrument import Instrument
from dromic.music.riff import Riff
from dromic.planner.passage import Transition, TransitionReport
from dromic.planner.plan import Plan
from dromic.planner.planning import (
    Answer,
    Request,
    answer_for,
    assembled,
    known_ways,
    transitions_of,
    with_prices,
)
from dromic.planner.problem import Watch


class Workbench:
    """Plans what it is given like `plan_riff`, from what it knows of the riff before.

    Whatever changes between two calls, the plans are those of `plan_riff`, the choice among equally good ones
    included. How much is taken over depends on what changed: an edited or locked note leaves nearly everything as
    it was, another tempo or school nothing. One thread at a time.

    Parameters
    ----------
    instrument : Instrument or None
        None for the one in the riff's header.
    """

    def __init__(self, instrument: Instrument | None = None) -> None:
        self._instrument = instrument
        self._answer: Answer | None = None
        self._ways: Mapping[Transition, TransitionReport] = {}

    def plans(self, riff: Riff, request: Request, watch: Watch | None = None) -> Iterator[Plan]:
        """Yield the plan without prices, then, where prices are wanted, the plan with them.

        Parameters
        ----------
        riff : Riff
        request : Request
        watch : callable or None
            As for `plan_riff`; what it raises leaves the workbench as it was.

        Raises
        ------
        NoPlanError, RiffError
            As `plan_riff`; the workbench then still knows the riff before.
        """
        before = self._answer
        answer = answer_for(riff, request, self._instrument, watch, like=before)
        same = before is not None and before.problem.model is answer.problem.model
        self._ways = known_ways(answer, self._ways if same else {})
        self._answer = answer
        ways = [self._ways[one] for one in transitions_of(answer.problem, answer.chosen)]
        plan = assembled(answer, answer.chosen, replace(request, alternatives=0), ways)
        yield plan
        if request.alternatives:
            yield with_prices(plan, answer, request)
