"""A riff being worked on: one more choice of the player's, and the plan follows at once.

The forward and the backward sums of the first search price every state, so the best plan with one choice more is
read off them: no search is run again, and what did not change is not worked out again.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from dromic.errors import NoPlanError
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Riff
from dromic.planner.choices import ChoiceFinder
from dromic.planner.model import Model
from dromic.planner.passage import Transition, TransitionReport, passages
from dromic.planner.plan import Plan, State
from dromic.planner.planning import Answer, Request, answer_for, assembled, known_ways, transitions_of
from dromic.planner.search import Path, path_from, path_to
from dromic.planner.ways import OtherWay


class Session:
    """Plans a riff once, and then with single choices of the player's.

    Parameters
    ----------
    riff : Riff
    request : Request
        For least effort, without a loop and without alternatives.
    instrument : Instrument or None
    before : Session or None
        One for nearly the same riff; what the two have in common is not worked out again.

    Raises
    ------
    NoPlanError
        When nothing playable exists, for a loop or the highest tempo, or where repeats have to be played alike.
    """

    def __init__(
        self,
        riff: Riff,
        request: Request,
        instrument: Instrument | None = None,
        before: Session | None = None,
    ) -> None:
        if request.loop or request.objective != "effort" or request.alike:
            raise NoPlanError(
                "choices are tried for least effort once through; take out the loop, the highest tempo, or "
                "the wish for repeats alike"
            )
        self._request, self._instrument = replace(request, alternatives=0), instrument
        like = None if before is None else before._answer
        self._answer: Answer = answer_for(riff, self._request, instrument, like=like, joined=True)
        self._chosen = self._answer.chosen
        known = before._known_ways if before is not None and before.model is self.model else {}
        self._known_ways: dict[Transition, TransitionReport] = known_ways(self._answer, known)
        self._ways: list[TransitionReport] = [
            self._known_ways[one] for one in transitions_of(self._answer.problem, self._chosen)
        ]
        self.plan: Plan = assembled(self._answer, self._chosen, self._request, self._ways)
        self._choices = ChoiceFinder(self._answer.problem)

    @property
    def model(self) -> Model:
        """The movement model it plans with."""
        return self._answer.problem.model

    def edited(self, riff: Riff) -> Session:
        """Return a session for a riff that differs a little, planned from where the two begin to differ.

        Raises
        ------
        NoPlanError
        """
        return Session(riff, self._request, self._instrument, before=self)

    def with_choice(self, step: int, way: OtherWay) -> Plan:
        """Return the best plan with one choice forced.

        Parameters
        ----------
        step : int
        way : OtherWay

        Raises
        ------
        NoPlanError
            When the note cannot be played like that.
        """
        problem = self._answer.problem
        cost = (problem.ahead[step] + self._answer.problem.behind[step]).reshape(-1, len(problem.states[step]))
        for choice in self._choices.at(step, self._chosen[step]).named:
            if choice.way == way:
                forced = np.where(choice.keep, cost, np.inf)
                joint = int(forced.argmin())
                if np.isfinite(forced.flat[joint]):
                    return self._through(step, joint, float(forced.flat[joint]))
        raise NoPlanError(
            f"{problem.steps[step].words} cannot be played with {way.words} here; choose one of "
            "the alternatives that are offered for it",
            event_index=problem.steps[step].moment.event_index,
        )

    def _through(self, step: int, joint: int, total: float) -> Plan:
        """Return the best plan through a joint state, made of the old one as far as it is the same."""
        problem, old = self._answer.problem, self._answer.found.path
        before = path_to(problem.chain, problem.ahead, step, joint, old)
        after = path_from(problem.chain, self._answer.problem.behind, step, joint, old)
        path = (*before, joint, *after)
        chosen: list[State] = list(self._chosen)
        changed = [at for at, (one, two) in enumerate(zip(old, path, strict=True)) if one != two]
        for at in changed:
            chosen[at] = problem.state(at, path[at])
        links = sorted({link for at in changed for link in (at - 1, at) if 0 <= link < len(self._ways)})
        transitions = transitions_of(problem, chosen, links)
        ways = list(self._ways)
        for link, way in zip(links, passages(problem.model, transitions), strict=True):
            ways[link] = way
        answer = replace(self._answer, found=Path(path, total))
        return assembled(answer, tuple(chosen), self._request, ways)
