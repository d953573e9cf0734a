"""A chain solved, and solved again after a change from what is known of it.

What a change leaves as it was is not worked out again. Sums up to a state are those of before until the first
difference; behind the last difference they need only be followed until they differ from those of before by one and
the same amount for every state, because from there on they always will. Sums on to the end are renewed in the same
way from the other side, and so are the largest loads, which end up equal.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from dromic.arrays import Floats, Ints
from dromic.planner.kernel import first_least
from dromic.planner.kernel.inputs import Least
from dromic.planner.search.chains import (
    MOST_KEPT_STEPS,
    NOWHERE,
    Chain,
    LargestLoads,
    Passes,
    Path,
    check_reached,
    source_of,
)
from dromic.planner.search.loops import least_largest_value_loop, least_sum_loop
from dromic.planner.search.moves import Moves

LOAD_TOLERANCE = 1e-9
SAME_SHIFT = 1e-12
MOST_STARTS = 8


@dataclass
class Sums:
    """Sums of one pass, by step; by link the states that they come from, and the loads of the ways from there."""

    values: list[Floats] = field(default_factory=list)
    sources: list[Ints] = field(default_factory=list)
    loads: list[Floats | None] = field(default_factory=list)

    def turned(self) -> Sums:
        """The same from the last step to the first."""
        return Sums(self.values[::-1], self.sources[::-1], self.loads[::-1])


@dataclass
class _Known:
    """What has been worked out for a chain; sums are those within `bound`."""

    bound: float = np.inf
    ahead: Sums = field(default_factory=Sums)
    behind: Sums = field(default_factory=Sums)
    worst: Sums = field(default_factory=Sums)
    worst_onward: Sums = field(default_factory=Sums)
    worst_from: dict[int, Sums] = field(default_factory=dict)
    ahead_from: dict[int, Sums] = field(default_factory=dict)
    path: tuple[int, ...] = ()
    largest: LargestLoads | None = None


class Solver:
    """Finds the best path through a chain, round a loop or not.

    Parameters
    ----------
    chain : Chain
    seam : Moves or None
        The moves from the last step back to the first.
    node_keys, edge_keys : sequence of hashable
        Equal for steps with the same states, and for links with the same costs between the same states.
    previous : Solver or None
        One that was used before; what the two have in common is taken over.
    widened : callable or None
        Makes of a chain the one whose sums are asked for; its states are those of the chain several times over, its
        loads the chain's, and so are its first and last step in a loop.
    """

    def __init__(
        self,
        chain: Chain,
        seam: Moves | None,
        node_keys: Sequence[object],
        edge_keys: Sequence[object],
        previous: Solver | None = None,
        widened: Callable[[Chain], Chain] | None = None,
    ) -> None:
        self.chain, self.seam = chain, seam
        self._widened = widened
        self._node_keys, self._edge_keys = tuple(node_keys), tuple(edge_keys)
        self._node_costs = list(chain.node_costs)
        self._old: _Known = _Known() if previous is None else previous._known
        self._known: _Known = _Known()
        self._same_ahead = self._same_behind = 0
        self._agrees: int | None = None
        self._within: tuple[float, Chain] | None = None
        if previous is not None:
            self._compare(previous)

    def _compare(self, other: Solver) -> None:
        """Count the steps at both ends that are the same, the links between them included."""
        most = min(len(self._node_keys), len(other._node_keys))

        def same(mine: int, its: int) -> bool:
            one, two = self._node_costs[mine], other._node_costs[its]
            return self._node_keys[mine] == other._node_keys[its] and (one is two or np.array_equal(one, two))

        at = 0
        while at < most and same(at, at) and (not at or self._edge_keys[at - 1] == other._edge_keys[at - 1]):
            at += 1
        self._same_ahead = at
        at = 0
        mine, its = len(self._node_keys), len(other._node_keys)
        while (
            at < most
            and same(mine - 1 - at, its - 1 - at)
            and (not at or self._edge_keys[mine - 1 - at] == other._edge_keys[its - 1 - at])
        ):
            at += 1
        self._same_behind = at

    # -- bounds and paths -----------------------------------------------------------------------------------

    def load_bound(self) -> float:
        """Smallest largest load of any path, with a little tolerance.

        Raises
        ------
        DeadEndError
        """
        if self.seam is None:
            value = float(self.worst[-1].min())
        else:
            seam = self.seam.costs(), self.seam.loads()
            value = least_largest_value_loop(seam, self.worst_onward[0], self._worst_from)
        return value * (1 + LOAD_TOLERANCE)

    def solve(self, bound: float) -> Path:
        """Find the best path whose loads stay within a bound; of equally good ones always the same.

        Raises
        ------
        DeadEndError
        """
        self._known.bound = bound
        if bound != self._old.bound:
            self._old = _Known(self._old.bound, worst=self._old.worst, worst_onward=self._old.worst_onward)
        chain = self.within(bound)
        if self.seam is None:
            return self._traced(chain)
        return least_sum_loop(chain, self.seam.costs(bound), self.behind[0], self._ahead_from)

    def within(self, bound: float) -> Chain:
        """The chain of the sums, in which no move is taken whose load is above a bound."""
        if self._within is None or self._within[0] != bound:
            chain = self.chain if self._widened is None else self._widened(self.chain)
            self._within = bound, replace(chain, bound=bound)
        return self._within[1]

    @property
    def ahead(self) -> list[Floats]:
        """Least sums up to every state within the bound that was solved for.

        Raises
        ------
        DeadEndError
        """
        if not self._known.ahead.values:
            chain = self.within(self._known.bound)
            first: Floats = np.asarray(chain.node_costs[0], dtype=np.float64)
            self._known.ahead, self._agrees = self._renewed(first, self._old.ahead, chain.onward)
            old = self._old.ahead.values
            for step, sums in enumerate(self._known.ahead.values):
                if step >= len(old) or sums is not old[step]:
                    check_reached(sums, step)
        return self._known.ahead.values

    @property
    def behind(self) -> list[Floats]:
        """Least sums on from every state, its own cost not included, within the bound that was solved for."""
        if not self._known.behind.values:
            chain = self.within(self._known.bound)
            last = np.zeros(len(chain.node_costs[-1]))
            self._known.behind, _ = self._renewed(last, self._old.behind, chain.back, back=True)
        return self._known.behind.values

    @property
    def largest_loads(self) -> LargestLoads:
        """Largest load of the best path through each state of each step, within the bound that was solved for."""
        known = self._known
        largest_loads = known.largest
        if largest_loads is None:
            largest_loads = known.largest = self.passes.largest_loads(self.within(known.bound), self._old.largest)
            self._old.largest = None
        return largest_loads

    @property
    def passes(self) -> Passes:
        """Both passes, within the bound that was solved for."""
        ahead, behind = self.ahead, self.behind
        known = self._known
        return Passes(
            ahead, behind, known.ahead.sources, known.behind.sources, known.ahead.loads, known.behind.loads
        )

    @property
    def worst(self) -> list[Floats]:
        """Smallest largest load on the way to every state, over paths that can be made.

        Raises
        ------
        DeadEndError
        """
        if not self._known.worst.values:
            first = np.where(np.isfinite(self._node_costs[0]), 0.0, np.inf)
            self._known.worst, _ = self._renewed(first, self._old.worst, self._larger, shifts=False)
            for step, worst in enumerate(self._known.worst.values):
                check_reached(worst, step)
        return self._known.worst.values

    @property
    def worst_onward(self) -> list[Floats]:
        """Smallest largest load on from every state to the end, infinite where there is no way."""
        if not self._known.worst_onward.values:
            last = np.where(np.isfinite(self._node_costs[-1]), 0.0, np.inf)
            old = self._old.worst_onward
            self._known.worst_onward, _ = self._renewed(last, old, self._larger_onward, shifts=False, back=True)
        return self._known.worst_onward.values

    def _traced(self, chain: Chain) -> Path:
        """Follow the sums back from the end; where they are those of before, so is the path."""
        ahead, old = self.ahead, self._old.path
        moved = len(ahead) - len(old)
        state, total = first_least(ahead[-1]), float(ahead[-1].min())
        path = [state]
        if old and self._agrees is not None and old[-1] == state:
            path = list(reversed(old[self._agrees - moved :]))
        for step in range(len(ahead) - len(path) - 1, -1, -1):
            state = source_of(chain, ahead, step, path[-1])
            path.append(state)
            if step < self._same_ahead and old[step : step + 1] == (state,):
                path += reversed(old[:step])
                break
        self._known.path = tuple(reversed(path))
        return Path(self._known.path, total)

    # -- renewing -------------------------------------------------------------------------------------------

    def _larger(self, link: int, worst: Floats) -> Least:
        reached = self.chain.moves(link).smallest_largest(worst)
        return Least(np.where(np.isfinite(self._node_costs[link + 1]), reached, np.inf), NOWHERE, _NO_LOADS)

    def _larger_onward(self, link: int, worst: Floats) -> Least:
        left = self.chain.moves(link).smallest_largest(worst, back=True)
        return Least(np.where(np.isfinite(self._node_costs[link]), left, np.inf), NOWHERE, _NO_LOADS)

    def _worst_from(self, state: int) -> Floats:
        """Smallest largest loads on the way from one state of the first step to each of the last."""
        first = np.full(len(self._node_costs[0]), np.inf)
        first[state] = 0.0
        old = self._old.worst_from.get(state, Sums()) if self._same_ahead else Sums()
        found, _ = self._renewed(first, old, self._larger, shifts=False)
        if len(self._known.worst_from) < MOST_STARTS:
            self._known.worst_from[state] = found
        return found.values[-1]

    def _ahead_from(self, state: int) -> list[Floats]:
        """Forward sums of paths that begin in one state."""
        first = np.full(len(self._node_costs[0]), np.inf)
        first[state] = self._node_costs[0][state]
        old = self._old.ahead_from.get(state, Sums()) if self._same_ahead else Sums()
        found, _ = self._renewed(first, old, self.within(self._known.bound).onward)
        if len(self._known.ahead_from) < MOST_STARTS:
            self._known.ahead_from[state] = found
        return found.values

    def _renewed(
        self,
        first: Floats,
        old: Sums,
        over: Callable[[int, Floats], Least],
        *,
        shifts: bool = True,
        back: bool = False,
    ) -> tuple[Sums, int | None]:
        """Values of all steps, and the step from which on they are those of before but for one amount.

        They are taken over as far as the chain is the same, and once they agree again.

        Parameters
        ----------
        first : ndarray, shape (states of the first step,)
            Values to begin with; going back, those of the last step.
        old : Sums
            Those of the chain before.
        over : callable
            Values behind a link from those before it; going back, those before it from those behind.
        shifts : bool
            Whether one amount for all states makes no difference to what follows.
        back : bool
            Whether it goes from the last step to the first.
        """
        count = len(self._node_costs)
        keep = count <= MOST_KEPT_STEPS
        begin, end = (self._same_behind, self._same_ahead) if back else (self._same_ahead, self._same_behind)
        known = old.turned() if back else old
        moved = count - len(known.values)
        links = max(begin - 1, 0)
        found = Sums(known.values[:begin] or [first], known.sources[:links], known.loads[:links])
        meets = max(count - end, 1) if known.values else count
        agrees: int | None = None
        for step in range(len(found.values), count):
            values, sources, loads = over(count - 1 - step if back else step - 1, found.values[-1])
            found.values.append(values)
            found.sources.append(sources)
            found.loads.append(loads if keep else None)
            shift = _shift(values, known.values[step - moved]) if step >= meets else None
            if shift is not None and (shifts or shift == 0.0):
                rest = known.values[step - moved + 1 :]
                found.values += [one + shift for one in rest] if shift else rest
                found.sources += known.sources[step - moved :]
                found.loads += known.loads[step - moved :]
                agrees = step
                break
        return (found.turned() if back else found), agrees


_NO_LOADS: Floats = np.empty(0)


def _shift(new: Floats, old: Floats) -> float | None:
    """By how much new values differ from old ones, where that is one amount for all of them; else None."""
    finite = np.isfinite(new)
    if new.shape != old.shape or not np.array_equal(finite, np.isfinite(old)) or not finite.any():
        return None
    difference = new[finite] - old[finite]
    low, high = float(difference.min()), float(difference.max())
    return low if high - low <= SAME_SHIFT * max(1.0, abs(float(new[finite].max()))) else None
