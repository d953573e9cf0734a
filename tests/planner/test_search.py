"""The search kernels on small random chains, against trying every path."""

from __future__ import annotations

from itertools import pairwise, product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic.planner.loops import closed_path
from dromic.planner.search import Chain, DeadEndError, backward_sums, forward_sums, least_sum
from dromic.planner.solving import Solver

Arrays = tuple[list[np.ndarray], list[np.ndarray], list[np.ndarray]]
NUMBERS = st.one_of(st.integers(0, 6).map(float), st.just(np.inf))


@st.composite
def chains(draw: st.DrawFn) -> Arrays:
    """Efforts, costs of links (with the seam last) and their loads."""
    sizes = draw(st.lists(st.integers(1, 3), min_size=1, max_size=5))

    def array(*shape: int) -> np.ndarray:
        count = int(np.prod(shape))
        return np.array(draw(st.lists(NUMBERS, min_size=count, max_size=count))).reshape(shape)

    around = [*pairwise(sizes), (sizes[-1], sizes[0])]
    loads = [np.where(np.isinf(one), 0.0, one) for one in (array(*pair) for pair in around)]
    return [array(size) for size in sizes], [array(*pair) for pair in around], loads


def totals(arrays: Arrays, *, loop: bool) -> dict[tuple[int, ...], tuple[float, float]]:
    """Sum and largest load of every path."""
    efforts, links, loads = arrays
    found = {}
    for path in product(*(range(len(effort)) for effort in efforts)):
        pairs = [*pairwise(path), *([(path[-1], path[0])] if loop else [])]
        places = [*range(len(path) - 1), *([len(links) - 1] if loop else [])]
        total = sum(effort[state] for effort, state in zip(efforts, path, strict=True))
        total += sum(links[place][pair] for place, pair in zip(places, pairs, strict=True))
        worst = max((loads[place][pair] for place, pair in zip(places, pairs, strict=True)), default=0.0)
        found[path] = (float(total), float(worst) if np.isfinite(total) else np.inf)
    return found


@given(chains())
def test_least_sum_is_the_least_of_all_paths(arrays: Arrays) -> None:
    efforts, links, _ = arrays
    everything = totals(arrays, loop=False)
    best = min(total for total, _ in everything.values())
    chain = Chain(efforts, links.__getitem__)
    if np.isinf(best):
        with pytest.raises(DeadEndError, match="no way to step"):
            least_sum(chain)
        return
    found = least_sum(chain)
    assert found.total == best
    assert everything[found.path][0] == best
    assert least_sum(chain) == found


@given(chains())
def test_least_sum_round_a_loop(arrays: Arrays) -> None:
    efforts, links, _ = arrays
    everything = totals(arrays, loop=True)
    best = min(total for total, _ in everything.values())
    chain = Chain(efforts, links.__getitem__)
    if np.isinf(best):
        with pytest.raises(DeadEndError, match="no way to step"):
            closed_path(chain, links[-1])
        return
    found = closed_path(chain, links[-1])
    assert found.total == best
    assert everything[found.path][0] == best


@given(chains())
def test_smallest_largest_load(arrays: Arrays) -> None:
    for loop in (False, True):
        best = min(worst for _, worst in totals(arrays, loop=loop).values())
        if np.isinf(best):
            with pytest.raises(DeadEndError, match="no way to step"):
                solver_of(arrays, loop=loop).load_bound()
        else:
            assert solver_of(arrays, loop=loop).load_bound() == pytest.approx(best, rel=1e-8)


def solver_of(arrays: Arrays, *, loop: bool) -> Solver:
    efforts, links, loads = arrays
    chain, count = Chain(efforts, links.__getitem__), len(efforts)
    seam = (links[-1], loads[-1]) if loop else None
    return Solver(chain, loads.__getitem__, seam, range(count), range(count - 1))


@given(chains())
def test_forward_and_backward_price_every_state(arrays: Arrays) -> None:
    efforts, links, _ = arrays
    chain = Chain(efforts, links.__getitem__)
    through = [ahead + behind for ahead, behind in zip(forward_sums(chain), backward_sums(chain), strict=True)]
    everything = totals(arrays, loop=False)
    for step, effort in enumerate(efforts):
        for state in range(len(effort)):
            best = min(total for path, (total, _) in everything.items() if path[step] == state)
            assert through[step][state] == best
