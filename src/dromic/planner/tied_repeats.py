"""Repeats of a phrase played alike: the takes of a phrase are folded into one, and planned as one.

Where takes are played alike, a state costs what it costs in all of them together, and so does a move; the way from
the end of a take to the start of the next is a closure between the last and the first state. The search carries
every state that the phrase can begin with through it on its own, so the best plan is exact; time grows with the
number of these states.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dromic.errors import NoPlanError
from dromic.planner.loops import least_sum_loop
from dromic.planner.moves import Dense, Moves
from dromic.planner.phrase_takes import RepeatedPhrase, repeated_phrases
from dromic.planner.problem import LOAD_TOLERANCE, Problem
from dromic.planner.search import Chain, DeadEndError, Path, backward_sums, forward_sums, path_to

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class RepeatClosure:
    """FoldedProblem steps from `first` to `last` that are played again and again, and the cost of starting over.

    `again` has the shape (states of the last step, states of the first), `load` is the load of starting over.
    """

    first: int
    last: int
    again: Floats
    load: Floats


class FoldedProblem:
    """A problem whose takes are folded.

    Parameters
    ----------
    problem : Problem
    bound : float
        Load that no link may pass.

    Raises
    ------
    NoPlanError
        When the takes of a phrase cannot be the same.
    """

    def __init__(self, problem: Problem, bound: float = np.inf) -> None:
        self._problem, self._bound = problem, bound
        runs = {run.first: run for run in repeated_phrases(problem.steps)}
        self.places: list[tuple[int, ...]] = []
        closed: list[tuple[int, int, RepeatedPhrase]] = []
        index = 0
        while index < len(problem.steps):
            run = runs.get(index)
            if run is None:
                self.places.append((index,))
                index += 1
                continue
            begin = len(self.places)
            self.places += [run.places(offset) for offset in range(run.length)]
            closed.append((begin, len(self.places) - 1, run))
            index += run.length * run.takes
        self._check()
        own = problem.chain.efforts
        efforts = [sum((own[one] for one in some[1:]), own[some[0]]) for some in self.places]
        self._known: dict[int, Moves] = {}
        self.chain = Chain(efforts, lambda link: self._moves(link).dense(), self._moves)
        self.closed = []
        for begin, end, run in closed:
            again = [one + run.length - 1 for one in run.places(0)[:-1]]
            self.closed.append(RepeatClosure(begin, end, self._costs(again), self.loads(again)))

    def _check(self) -> None:
        states, steps = self._problem.states, self._problem.steps
        for some in self.places:
            if any(states[one] is not states[some[0]] for one in some):
                raise NoPlanError(
                    f"the takes of this phrase cannot be played alike, because at {steps[some[0]].words} "
                    "other notes ring on in one take than in another; end the ringing with the phrase, or let the "
                    "takes differ",
                    event_index=steps[some[0]].moment.event_index,
                )

    def _costs(self, links: Sequence[int]) -> Floats:
        """Costs of several links together, infinite where one of them passes the bound."""
        problem = self._problem
        total = sum((problem.costs(link) for link in links[1:]), problem.costs(links[0]))
        if not np.isfinite(self._bound):
            return total
        return np.where(self.loads(links) <= self._bound, total, np.inf)

    def loads(self, links: Sequence[int]) -> Floats:
        """Largest loads of several links."""
        largest = self._problem.loads(links[0])
        for link in links[1:]:
            largest = np.maximum(largest, self._problem.loads(link))
        return largest

    def links(self, index: int) -> tuple[int, ...]:
        """Links of the riff behind a link of the folded chain."""
        # From the last note of a phrase, only its last take leads on.
        some, following = self.places[index], self.places[index + 1]
        return some if len(some) == len(following) and following[0] == some[0] + 1 else some[-1:]

    def _moves(self, index: int) -> Moves:
        found = self._known.get(index)
        if found is None:
            links = self.links(index)
            plain = len(links) == 1 and not np.isfinite(self._bound)
            found = self._problem.moves(links[0]) if plain else Dense(self._costs(links))
            self._known[index] = found
        return found

    def unfolded(self, found: Path) -> Path:
        """Return a best path with every take written out."""
        path = [0] * len(self._problem.steps)
        for some, state in zip(self.places, found.path, strict=True):
            for one in some:
                path[one] = state
        return Path(tuple(path), found.total)


def inner(chain: Chain, one: RepeatClosure) -> Chain:
    """The part of a chain that is played again and again."""
    return Chain(
        chain.efforts[one.first : one.last + 1],
        lambda link: chain.link(one.first + link),
        lambda link: chain.moves(one.first + link),
    )


def _from_state(part: Chain, sums: Floats, state: int) -> list[Floats]:
    """Forward sums through a part, begun in one state with the sum that leads there."""
    only = np.full(len(sums), np.inf)
    only[state] = sums[state]
    efforts = [only, *part.efforts[1:]]
    return forward_sums(Chain(efforts, part.link, part.parts))


@dataclass(frozen=True)
class _Sums:
    """Forward sums; inside a part only those on entering and on leaving it are known.

    `entered` holds the sums on entering each part, by its first step; `begun` the state each part began in, by its
    last step.
    """

    ahead: list[Floats]
    entered: dict[int, Floats]
    begun: dict[int, Ints]


def _sums_tied(chain: Chain, closed: Sequence[RepeatClosure], start: Floats | None = None) -> _Sums:
    first: Floats = np.asarray(chain.efforts[0], dtype=np.float64)
    sums = first if start is None else first + start
    found = _Sums([np.zeros(0)] * len(chain.efforts), {}, {})
    by_first = {one.first: one for one in closed}
    step = 0
    while True:
        found.ahead[step] = sums
        if one := by_first.get(step):
            part = inner(chain, one)
            best = np.full(len(chain.efforts[one.last]), np.inf)
            origin = np.zeros(len(best), dtype=np.int64)
            for state in np.flatnonzero(np.isfinite(sums)):
                last = _from_state(part, sums, int(state))[-1] + one.again[:, state]
                better = last < best
                best, origin = np.where(better, last, best), np.where(better, state, origin)
            found.entered[step], found.begun[one.last] = sums, origin
            sums, step = best, one.last
            found.ahead[step] = sums
        if step == len(chain.efforts) - 1:
            return found
        sums = chain.moves(step).into(sums) + chain.efforts[step + 1]
        step += 1


def least_sum_tied(
    chain: Chain, closed: Sequence[RepeatClosure], start: Floats | None = None, end: Floats | None = None
) -> Path:
    """Find the path with the least sum, closures included.

    Parameters
    ----------
    chain : Chain
    closed : sequence of RepeatClosure
        In order, not overlapping.
    start, end : ndarray or None
        Added to the efforts of the first and last step.

    Raises
    ------
    DeadEndError
    """
    sums = _sums_tied(chain, closed, start)
    ahead = sums.ahead
    for step, some in enumerate(ahead):
        if len(some) and not np.isfinite(some).any():
            raise DeadEndError(step)
    last = ahead[-1] if end is None else ahead[-1] + end
    state = int(last.argmin())
    total = float(last[state])
    if not np.isfinite(total):
        raise DeadEndError(len(ahead) - 1)
    path = [state]
    by_last = {one.last: one for one in closed}
    step = len(chain.efforts) - 1
    while True:
        if one := by_last.get(step):
            part = inner(chain, one)
            forward = _from_state(part, sums.entered[one.first], int(sums.begun[one.last][path[-1]]))
            path.extend(reversed(path_to(part, forward, one.last - one.first, path[-1])))
            step = one.first
        if not step:
            return Path(tuple(reversed(path)), total)
        entry = ahead[step - 1] + chain.moves(step - 1).columns(np.array([path[-1]]))[:, 0]
        path.append(int(entry.argmin()))
        step -= 1


def through_tied(chain: Chain, closed: Sequence[RepeatClosure]) -> list[Floats]:
    """Cost of the best path through each state of each step, closures included."""
    sums = _sums_tied(chain, closed)
    by_last = {one.last: one for one in closed}
    through = [np.zeros(0)] * len(chain.efforts)
    behind = np.zeros(len(chain.efforts[-1]))
    step = len(through) - 1
    while step >= 0:
        if one := by_last.get(step):
            part, entry = inner(chain, one), sums.entered[one.first]
            best = [np.full(len(effort), np.inf) for effort in part.efforts]
            before = np.full(len(entry), np.inf)
            for state in np.flatnonzero(np.isfinite(entry)):
                forward = _from_state(part, entry, int(state))
                backward = backward_sums(part, one.again[:, state] + behind)
                before[state] = backward[0][state]
                best = [np.minimum(old, up + on) for old, up, on in zip(best, forward, backward, strict=True)]
            through[one.first : one.last + 1] = best
            behind, step = before, one.first
        else:
            through[step] = sums.ahead[step] + behind
        if step:
            behind = chain.moves(step - 1).onto(behind + chain.efforts[step])
        step -= 1
    return through


def least_largest_tied(folded: FoldedProblem, start: Floats | None = None) -> Floats:
    """Smallest largest load of the paths to each state of the last step, closures included.

    Parameters
    ----------
    folded : FoldedProblem
        Without a bound.
    start : ndarray or None
        Zero for the states to start from, infinity for the others.
    """
    chain = folded.chain
    worst = np.where(np.isfinite(chain.efforts[0]), 0.0, np.inf)
    worst = worst if start is None else worst + start
    by_first = {one.first: one for one in folded.closed}

    def onward(worst: Floats, step: int) -> Floats:
        load = np.where(np.isfinite(chain.link(step)), folded.loads(folded.links(step)), np.inf)
        reached = np.maximum(worst[:, None], load).min(axis=0)
        return np.where(np.isfinite(chain.efforts[step + 1]), reached, np.inf)

    step = 0
    while True:
        if one := by_first.get(step):
            best = np.full(len(chain.efforts[one.last]), np.inf)
            closing = np.where(np.isfinite(one.again), one.load, np.inf)
            for state in np.flatnonzero(np.isfinite(worst)):
                here = np.where(np.arange(len(worst)) == state, worst, np.inf)
                for link in range(one.first, one.last):
                    here = onward(here, link)
                best = np.minimum(best, np.maximum(here, closing[:, state]))
            worst, step = best, one.last
        if step == len(chain.efforts) - 1:
            return worst
        worst = onward(worst, step)
        step += 1


def bound_tied(problem: Problem) -> float:
    """Smallest largest load of any plan with its repeats alike, the seam of a loop included.

    Raises
    ------
    DeadEndError
    NoPlanError
    """
    folded = FoldedProblem(problem)
    if problem.seam is None:
        best = float(least_largest_tied(folded).min())
    else:
        best = np.inf
        closing = np.where(np.isfinite(problem.seam[0]), problem.seam[1], np.inf)
        for state in np.argsort(closing.min(axis=0), kind="stable"):
            if closing[:, state].min() < best:
                start = np.full(closing.shape[1], np.inf)
                start[state] = 0.0
                last = least_largest_tied(folded, start)
                best = min(best, float(np.maximum(last, closing[:, state]).min()))
    if not np.isfinite(best):
        raise DeadEndError(0)
    return best * (1 + LOAD_TOLERANCE)


def solve_tied(problem: Problem, bound: float) -> Path:
    """Find the best plan whose repeats are alike and whose loads stay within a bound.

    Raises
    ------
    DeadEndError
    NoPlanError
    """
    folded = FoldedProblem(problem, bound)
    try:
        return folded.unfolded(_solved(problem, folded, bound))
    except DeadEndError as dead_end:
        raise DeadEndError(folded.places[dead_end.step][0]) from None


def _solved(problem: Problem, folded: FoldedProblem, bound: float) -> Path:
    chain, closed = folded.chain, folded.closed
    if problem.seam is None:
        return least_sum_tied(chain, closed)
    cost, load = problem.seam
    seam = np.where(load <= bound, cost, np.inf)
    if len(chain.efforts) == 1:
        around = chain.efforts[0] + np.diagonal(seam) + sum(np.diagonal(one.again) for one in closed)
        if not np.isfinite(around).any():
            raise DeadEndError(0)
        return Path((int(around.argmin()),), float(around.min()))

    def solve(chain: Chain, start: Floats, end: Floats) -> Path:
        return least_sum_tied(chain, closed, start, end)

    return least_sum_loop(chain, seam, solve)


def prices_tied(problem: Problem) -> list[Floats]:
    """Cost of the best plan with its repeats alike through each joint state of each step."""
    folded = FoldedProblem(problem)
    found: list[Floats] = [np.zeros(0)] * len(problem.steps)
    for some, cost in zip(folded.places, through_tied(folded.chain, folded.closed), strict=True):
        for one in some:
            found[one] = cost
    return found
