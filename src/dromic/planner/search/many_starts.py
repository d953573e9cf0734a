"""Sums of one pass that begins in many ways at once.

After some links it does not matter any more how a path began: the best ways on from all beginnings run together,
and their sums differ by one amount for every state. From there on they are carried once, with an amount for each.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from dromic.arrays import Bools, Floats, Ints
from dromic.planner.kernel.inputs import Least

SAME_SHIFT = 1e-12
MOST_ROUNDS = 3


@dataclass(frozen=True, eq=False)
class ManySums:
    """Sums at one step.

    Parameters
    ----------
    values : ndarray, shape (rows, states)
        Those that are not the same but for one amount.
    row : ndarray of int, shape (starts,)
        Of each start its row.
    shift : ndarray, shape (starts,)
        What each start has more than its row; infinite where it leads nowhere.
    """

    values: Floats
    row: Ints
    shift: Floats

    @property
    def of_all(self) -> Floats:
        """Sums of all starts, shape (starts, states)."""
        found: Floats = self.values[self.row] + self.shift[:, None]
        return found

    def of_start(self, start: int) -> Floats:
        """Sums of one start; shape (links, joint states)."""
        found: Floats = self.values[self.row[start]] + self.shift[start]
        return found

    @staticmethod
    def begun(first: Floats) -> ManySums:
        """Sums of each start by itself, shape (starts, states)."""
        return ManySums(first, np.arange(len(first)), np.zeros(len(first))).together()

    def together(self) -> ManySums:
        """The same with rows that differ by one amount taken together."""
        values = self.values
        if len(values) < 2:
            return self
        finite = np.isfinite(values)
        onto, by = np.full(len(values), -1), np.zeros(len(values))
        nowhere = ~finite.any(axis=1)
        left = np.flatnonzero(~nowhere)
        kept: list[int] = []
        while len(left):
            one = int(left[0])
            onto[one] = len(kept)
            kept.append(one)
            others = left[1:]
            if len(kept) > MOST_ROUNDS:
                onto[others] = len(kept) + np.arange(len(others))
                kept += others.tolist()
                break
            alike, amounts = _shifts(values[others], values[one], finite[others], finite[one])
            onto[others[alike]], by[others[alike]] = len(kept) - 1, amounts[alike]
            left = others[~alike]
        if not kept:
            kept = [0]
        onto[nowhere], by[nowhere] = 0, np.inf
        return ManySums(values[kept], onto[self.row], self.shift + by[self.row])


def _shifts(rows: Floats, other: Floats, finite: Bools, reached: Bools) -> tuple[Bools, Floats]:
    """Which rows differ from another by one amount for every state, and by how much."""
    alike, amounts = np.zeros(len(rows), dtype=bool), np.zeros(len(rows))
    some = np.flatnonzero(reached)[[0, -1]]
    # Most that do not can be told by two states.
    with np.errstate(invalid="ignore"):
        first, last = (rows[:, at] - other[at] for at in some)
        maybe = np.flatnonzero(np.abs(first - last) <= SAME_SHIFT * np.maximum(1.0, np.abs(rows[:, some[0]])))
    if len(maybe):
        alike[maybe], amounts[maybe] = _all_shifted(rows[maybe], other, finite[maybe], reached)
    return alike, amounts


def _all_shifted(rows: Floats, other: Floats, finite: Bools, reached: Bools) -> tuple[Bools, Floats]:
    difference = np.where(reached, rows, 0.0) - np.where(reached, other, 0.0)
    low = difference.min(axis=1, initial=np.inf, where=reached & finite)
    high = difference.max(axis=1, initial=-np.inf, where=reached & finite)
    size = np.maximum(1.0, np.abs(np.where(finite, rows, 0.0)).max(axis=1, initial=0.0))
    same: Bools = (finite == reached).all(axis=1) & (high - low <= SAME_SHIFT * size)
    return same, low


def many_sums(
    first: Floats,
    links: Iterable[int],
    onward: Callable[[int, Floats], Least],
    known: Sequence[Floats] | None = None,
) -> Iterator[tuple[ManySums, Least | None]]:
    """Carry sums begun in many ways over links, one after another.

    Parameters
    ----------
    first : ndarray, shape (starts, states)
    links : iterable of int
    onward : callable
        Of a link and rows of sums, the least sums behind it.
    known : sequence of ndarray or None
        Sums of another start at every step, which are not worked out again; the first row of all.

    Yields
    ------
    (ManySums, Least or None)
        Of each step; and the moves over the link to it, one row for each row before that was worked out.
    """
    here = ManySums.begun(first)
    if known is not None:
        here = _beside(known[0], here.values, here.row, here.shift)
    yield here, None
    for step, link in enumerate(links, start=1):
        least = None
        if known is None:
            least = onward(link, here.values)
            here = ManySums(least.values, here.row, here.shift).together()
        elif len(here.values) == 1:
            here = ManySums(known[step][None], here.row, here.shift)
        else:
            least = onward(link, here.values[1:])
            here = _beside(known[step], least.values, here.row - 1, here.shift)
        yield here, least


def _beside(known: Floats, others: Floats, row: Ints, shift: Floats) -> ManySums:
    """Rows of sums behind one that is known; the row -1 stands for it."""
    return ManySums(np.vstack((known, others)), row + 1, shift).together()


def with_largest_loads(
    steps: Iterable[tuple[ManySums, Least | None]], worst: Floats
) -> Iterator[tuple[ManySums, Floats]]:
    """Sums of each step, none of them known before, with the largest loads on the ways: shape (starts, states)."""
    before = None
    for here, least in steps:
        if least is not None and before is not None:
            sources, loads = np.maximum(least.sources, 0), least.loads
            if len(sources) == 1:
                worst = np.maximum(worst[:, sources[0]], loads[0])
            else:
                worst = np.maximum(np.take_along_axis(worst, sources[before.row], axis=1), loads[before.row])
        before = here
        yield here, worst
