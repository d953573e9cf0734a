"""The search kernels on small random chains, against trying every path."""

from __future__ import annotations

from itertools import pairwise, product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic.planner.search.chains import Chain, DeadEndError, backward_sums, both_passes, forward_sums, least_sum
from dromic.planner.search.loops import closed_path
from dromic.planner.search.moves import TableMoves
from dromic.planner.search.solver import Solver

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


def chain_of(arrays: Arrays) -> Chain:
    efforts, links, loads = arrays
    return Chain(efforts, [TableMoves(*pair) for pair in zip(links, loads, strict=True)].__getitem__)


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
    everything = totals(arrays, loop=False)
    best = min(total for total, _ in everything.values())
    chain = chain_of(arrays)
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
    _, links, _ = arrays
    everything = totals(arrays, loop=True)
    best = min(total for total, _ in everything.values())
    chain = chain_of(arrays)
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
    seam = TableMoves(links[-1], loads[-1]) if loop else None
    return Solver(chain_of(arrays), seam, range(len(efforts)), range(len(efforts) - 1))


@given(chains())
def test_forward_and_backward_price_every_state(arrays: Arrays) -> None:
    chain = chain_of(arrays)
    passes = both_passes(chain)
    assert all(np.array_equal(*pair) for pair in zip(passes.ahead, forward_sums(chain), strict=True))
    assert all(np.array_equal(*pair) for pair in zip(passes.behind, backward_sums(chain), strict=True))
    largest, everything = passes.largest_loads(chain), totals(arrays, loop=False)
    for step, effort in enumerate(arrays[0]):
        for state in range(len(effort)):
            some = {path: told for path, told in everything.items() if path[step] == state}
            best = min(total for total, _ in some.values())
            assert passes.through[step][state] == best
            if np.isfinite(best):
                # Of one of the best paths: the others may have another largest load.
                assert largest[step][state] in {worst for total, worst in some.values() if total == best}
