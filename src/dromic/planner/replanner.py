"""A riff planned again and again while the player changes it."""

from __future__ import annotations

from collections.abc import Iterator

from dromic.instrument.instrument import Instrument
from dromic.memory import Stages
from dromic.music.riff import Riff
from dromic.planner.plan import Plan
from dromic.planner.planning import planned, with_prices
from dromic.planner.request import Request
from dromic.planner.solving.problem import Watch
from dromic.planner.solving.solution import Solution, solve


class Replanner:
    """Plans what it is given like `plan_riff`, from what it knows of the riff before.

    Whatever changes between two calls, the plans are those of `plan_riff`, the choice among equally good ones
    included. How much is taken over depends on what changed: after a lock or an edit only the steps from the first
    to the last difference are searched anew, and those behind as far as the difference is felt; another tempo,
    school or objective is planned from the start. One thread at a time.

    Parameters
    ----------
    instrument : Instrument or None
        None for the one in the riff's header.
    task_stages : Stages or None
        What several replanners of one riff know of it together, whatever the school.

    Examples
    --------
    >>> from dromic.formats.rifftext.reader import read_riff_text
    >>> riff = read_riff_text("| 5:5/8 5:7 4:5 4:7 r/2 |").riff
    >>> from dromic.hands.profile import hands_named
    >>> from dromic.schools.registry import school_named
    >>> request = Request(hands_named("medium"), school_named("economy"), alternatives=2)
    >>> replanner = Replanner()
    >>> plain, priced = replanner.plans(riff, request)
    >>> len(plain.event_of_step(1).alternatives), len(priced.event_of_step(1).alternatives)
    (0, 2)
    """

    def __init__(self, instrument: Instrument | None = None, task_stages: Stages | None = None) -> None:
        self._instrument = instrument
        self._solution: Solution | None = None
        self._stages, self._task_stages = Stages(), task_stages or Stages()

    def plans(
        self, riff: Riff, request: Request, watch: Watch | None = None, first: range | None = None
    ) -> Iterator[Plan]:
        """Yield the plan without prices, then, where prices are wanted, the plan with them.

        Parameters
        ----------
        riff : Riff
        request : Request
        watch : callable or None
            As for `plan_riff`; what it raises leaves the replanner as it was.
        first : range or None
            Steps to price first; where that takes its time the plan comes with their prices, and again with all.

        Raises
        ------
        NoPlanError, RiffError
            As `plan_riff`; the replanner then still knows the riff before.
        """
        before = self._solution
        solution = solve(riff, request, self._instrument, watch, before, self._stages, self._task_stages)
        self._solution = solution
        made = planned(solution, request)
        yield made.plan
        if request.alternatives:
            priced = with_prices(made, request, first)
            yield priced
            offers = priced.events[priced.task.steps[0].moment.index].offers
            if offers is not None and not offers.complete:
                offers.finish()
                yield priced
