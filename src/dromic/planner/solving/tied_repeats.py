"""Identical repeats: the passes of a phrase are folded into one, and planned as one.

A state then costs what it costs in all passes together, and so does a move; starting over leads from the end of a
pass to the start of the next. A repeated phrase becomes one edge, from each state of its first note to each of its
last: the least sum in between, with starting over. So the riff is a chain like any other, and the best plan is
exact; the time for an edge grows with the number of states that the phrase can begin with.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cache, cached_property, partial

import numpy as np

from dromic.arrays import Floats
from dromic.errors import NoPlanError
from dromic.planner.kernel import max_min, min_plus
from dromic.planner.kernel.inputs import Least
from dromic.planner.search.chains import NOWHERE, Chain, DeadEndError, Path, backward_sums, forward_sums, path_to
from dromic.planner.search.many_starts import many_sums
from dromic.planner.search.moves import Moves, TableMoves
from dromic.planner.search.solver import Solver
from dromic.planner.solving.problem import Problem
from dromic.planner.task.phrase_takes import RepeatedPhrase, repeated_phrases


@dataclass(frozen=True)
class RepeatClosure:
    """A folded phrase that is played again and again.

    Parameters
    ----------
    steps : chain
        Its folded steps.
    again : ndarray, shape (states of the last step, states of the first)
        Cost of starting over.
    again_load : ndarray
        Load of starting over.
    """

    steps: Chain
    again: Floats
    again_load: Floats

    def from_state(self, state: int, first: float = 0.0) -> list[Floats]:
        """Forward sums begun in one state, with the sum that leads there."""
        only = np.full(len(self.steps.node_costs[0]), np.inf)
        only[state] = first
        costs = [only, *self.steps.node_costs[1:]]
        return forward_sums(replace(self.steps, node_costs=costs))

    @cached_property
    def starts(self) -> list[int]:
        """States the phrase can begin with and still come to an end that leads back to some beginning."""
        onward = backward_sums(self.steps, self.again.min(axis=1))[0]
        return [int(state) for state in np.flatnonzero(np.isfinite(self.steps.node_costs[0] + onward))]

    def ahead_of(self, starts: Sequence[int], first: Floats | None = None) -> list[Floats]:
        """Forward sums begun in each of some states, shape (starts, states) a step; `first` leads to each start."""
        here = np.full((len(starts), len(self.steps.node_costs[0])), np.inf)
        here[np.arange(len(starts)), starts] = 0.0 if first is None else first
        links = range(len(self.steps.node_costs) - 1)
        return [sums.of_all for sums, _ in many_sums(here, links, self._onward)]

    def _onward(self, link: int, sums: Floats) -> Least:
        return _only(min_plus(sums, self.steps.moves(link).costs()) + self.steps.node_costs[link + 1])

    def _back(self, link: int, sums: Floats) -> Least:
        table = np.ascontiguousarray(self.steps.moves(link).costs().T)
        return _only(min_plus(sums + self.steps.node_costs[link + 1], table))

    def behind_of(self, ends: Floats) -> list[Floats]:
        """Sums on to the end, shape (ends, states) a step, each row with its own sums at the last step."""
        links = range(len(self.steps.node_costs) - 2, -1, -1)
        return [sums.of_all for sums, _ in many_sums(ends, links, self._back)][::-1]

    def edge(self) -> Floats:
        """Least sums between the first and the last step, starting over included, their own costs not.

        Shape (before, after).
        """
        first, last = (len(self.steps.node_costs[at]) for at in (0, -1))
        whole = np.full((first, last), np.inf)
        last_costs = self.steps.node_costs[-1]
        if len(self.steps.node_costs) == 1:
            np.fill_diagonal(whole, np.where(np.isfinite(last_costs), np.diagonal(self.again), np.inf))
            return whole
        starts = self.starts
        sums = self.ahead_of(starts)[-1] + self.again[:, starts].T
        whole[starts] = np.where(
            np.isfinite(last_costs), sums - np.where(np.isfinite(last_costs), last_costs, 0.0), np.inf
        )
        return whole

    def path(self, first: int, last: int) -> tuple[int, ...]:
        """The best way from a state of the first step to one of the last, both included."""
        sums = self.from_state(first)
        return (*path_to(self.steps, sums, len(sums) - 1, last), last)

    def largest(self, loads: Sequence[Floats]) -> Floats:
        """Smallest largest load from each state of the first step to each of the last, starting over included.

        Shape (joint states,).
        """
        first, last = (len(self.steps.node_costs[at]) for at in (0, -1))
        whole = np.full((first, last), np.inf)
        closing = np.where(np.isfinite(self.again), self.again_load, np.inf)
        possible = [
            np.where(np.isfinite(self.steps.moves(at).costs()), load, np.inf) for at, load in enumerate(loads)
        ]
        starts = self.starts
        here = np.full((len(starts), first), np.inf)
        here[np.arange(len(starts)), starts] = 0.0
        for at, load in enumerate(possible):
            here = np.where(np.isfinite(self.steps.node_costs[at + 1]), max_min(here, load), np.inf)
        whole[starts] = np.maximum(here, closing[:, starts].T)
        return whole


def _only(sums: Floats) -> Least:
    """Sums of which nobody asks where they come from."""
    return Least(sums, NOWHERE, _NO_LOADS)


_NO_LOADS: Floats = np.empty(0)


class FoldedProblem:
    """A problem whose passes of a phrase are folded.

    Parameters
    ----------
    problem : Problem
    bound : float
        Load that no link may pass.
    previous : FoldedProblem or None
        One that was solved before; what the two have in common is taken over.

    Raises
    ------
    NoPlanError
        When the passes of a phrase cannot be the same.
    """

    def __init__(self, problem: Problem, bound: float = np.inf, previous: FoldedProblem | None = None) -> None:
        self.problem, self.bound = problem, bound
        self._edges: dict[object, Floats] = {}
        self._old_edges: dict[object, Floats] = {} if previous is None else previous._edges
        self._phrases = {phrase.first: phrase for phrase in repeated_phrases(problem.steps)}
        self._check()
        # Of each outer step: the steps that are folded into it. A phrase is its first and its last.
        self.places: list[tuple[int, ...]] = []
        self._closures: dict[int, RepeatedPhrase] = {}
        index = 0
        while index < len(problem.steps):
            phrase = self._phrases.get(index)
            if phrase is None:
                self.places.append((index,))
                index += 1
                continue
            self._closures[len(self.places)] = phrase
            self.places += [phrase.places(0), phrase.places(phrase.length - 1)]
            index += phrase.length * phrase.takes
        costs = [self._node_costs(some) for some in self.places]
        for outer, phrase in self._closures.items():
            if phrase.length == 1:
                # Its first step is its last, and costs what it costs but once.
                costs[outer + 1] = np.where(np.isfinite(costs[outer]), 0.0, np.inf)
        self._known: dict[int, Moves] = {}
        self._known_closures: dict[int, RepeatClosure] = {}
        self.chain = Chain(costs, self._moves, bound)
        nodes = [problem.nodes[some[0]] for some in self.places]
        keys = [self._edge_key(link) for link in range(len(self.places) - 1)]
        self.solver: Solver = Solver(
            self.chain, problem.seam, nodes, keys, None if previous is None else previous.solver
        )

    def _check(self) -> None:
        nodes, steps = self.problem.nodes, self.problem.steps
        for phrase in self._phrases.values():
            for some in (phrase.places(offset) for offset in range(phrase.length)):
                if any(nodes[one] != nodes[some[0]] for one in some):
                    raise NoPlanError(
                        f"the repeats of this phrase cannot be identical, because at {steps[some[0]].words} "
                        "other notes are held in one pass than in another; end what is held with the phrase, or "
                        "let the repeats differ",
                        event_index=steps[some[0]].moment.event_index,
                    )

    def _node_costs(self, some: Sequence[int]) -> Floats:
        node_costs = self.problem.chain.node_costs
        return sum((node_costs[one] for one in some[1:]), node_costs[some[0]])

    def _costs(self, links: Sequence[int]) -> Floats:
        """Costs of several links together, infinite where one of them passes the bound."""
        # Most passes have their moves in common.
        counted = Counter(self.problem.moves(link) for link in links)
        tables = [count * moves.costs(self.bound) for moves, count in counted.items()]
        return sum(tables[1:], tables[0])

    def _largest(self, links: Sequence[int]) -> Floats:
        """Largest loads of several links."""
        tables = [moves.loads() for moves in dict.fromkeys(self.problem.moves(link) for link in links)]
        largest: Floats = np.max(tables, axis=0)
        return largest

    def closure(self, outer: int) -> RepeatClosure:
        """The phrase that begins with an outer step."""
        if outer not in self._known_closures:
            phrase = self._closures[outer]
            places = [phrase.places(offset) for offset in range(phrase.length)]
            again = [one + phrase.length - 1 for one in places[0][:-1]]
            # Asked for anew for every state that the phrase can begin with.
            tables = cache(lambda link: TableMoves(self._costs(places[link])))
            inner = Chain([self._node_costs(some) for some in places], tables)
            self._known_closures[outer] = RepeatClosure(inner, self._costs(again), self._largest(again))
        return self._known_closures[outer]

    def _phrase_edge(self, link: int) -> bool:
        """Whether a link of the outer chain is a whole phrase."""
        return link in self._closures

    def _edge_key(self, link: int) -> object:
        problem = self.problem
        if not self._phrase_edge(link):
            return problem.edge_keys[self._single_link(link)], self.bound
        phrase = self._closures[link]
        first, count = phrase.first, phrase.length * phrase.takes
        inside = tuple(
            (problem.nodes[at], problem.edge_keys[at] if at + 1 < first + count else None)
            for at in range(first, first + count)
        )
        costs = tuple(problem.chain.node_costs[at].tobytes() for at in range(first, first + count))
        return inside, costs, self.bound

    def _single_link(self, link: int) -> int:
        """The riff's link behind an outer step that stands alone or ends a phrase: only the last pass leads on."""
        return self.places[link][-1]

    def _moves(self, link: int) -> Moves:
        moves = self._known.get(link)
        if moves is None:
            if self._phrase_edge(link):
                key = self._edge_key(link)
                if key not in self._edges:
                    old = self._old_edges.get(key)
                    self._edges[key] = self.closure(link).edge() if old is None else old
                moves = TableMoves(self._edges[key], partial(self._largest_inside, link))
            else:
                moves = self.problem.moves(self._single_link(link))
            self._known[link] = moves
        return moves

    def _largest_inside(self, link: int) -> Floats:
        """Smallest largest loads over a whole phrase."""
        phrase = self._closures[link]
        inner = [self._largest(phrase.places(offset)) for offset in range(phrase.length - 1)]
        return self.closure(link).largest(inner)

    def solve(self) -> Path:
        """Find the best plan whose repeats are identical and whose loads stay within the bound.

        Raises
        ------
        DeadEndError
        """
        try:
            outer = self.solver.solve(self.bound)
        except DeadEndError as dead_end:
            raise DeadEndError(self.places[dead_end.step][0]) from None
        path = [0] * len(self.problem.steps)
        for at, (some, state) in enumerate(zip(self.places, outer.path, strict=True)):
            for one in some:
                path[one] = state
            if self._phrase_edge(at):
                phrase = self._closures[at]
                for offset, inner in enumerate(self.closure(at).path(state, outer.path[at + 1])):
                    for one in phrase.places(offset):
                        path[one] = inner
        return Path(tuple(path), outer.total)

    @cached_property
    def through(self) -> list[Floats]:
        """Cost of the best plan, once through, that goes through each joint state of each step."""
        solver = self.solver
        solver.solve(self.bound)
        sums: list[Floats] = [np.zeros(0)] * len(self.problem.steps)
        for at, some in enumerate(self.places):
            for one in some:
                sums[one] = solver.ahead[at] + solver.behind[at]
            if not self._phrase_edge(at):
                continue
            closure, phrase = self.closure(at), self._closures[at]
            starts = np.flatnonzero(np.isfinite(solver.ahead[at])).tolist()
            forward = closure.ahead_of(starts, solver.ahead[at][starts])
            backward = closure.behind_of((closure.again[:, starts] + solver.behind[at + 1][:, None]).T)
            best = [(up + on).min(axis=0) for up, on in zip(forward, backward, strict=True)]
            for offset, costs in enumerate(best):
                for one in phrase.places(offset):
                    sums[one] = costs
        return sums
