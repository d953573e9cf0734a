"""What was worked out of a riff item by item, kept for the next time: only what is near a change is done anew.

A riff is planned again after every key, and nearly all of it is as it was. Each stage on the way from its events to
a plan makes something of every item and what lies near it; where an item and its neighbours are those of last time,
so is what was made of them.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, TypeVar, cast

T = TypeVar("T")
Column = Sequence[object]
AT_ONCE = 64


@dataclass(frozen=True, eq=False)
class _Stage:
    """What a stage was given last time, and what it made of it."""

    made_from: tuple[object, ...]
    columns: tuple[Column, ...]
    made: list[Any]


class Workings:
    """What the stages of planning made of each item the last time; one thread at a time.

    Examples
    --------
    >>> workings, asked = Workings(), []
    >>> def sums(numbers):
    ...     def make(at):
    ...         asked.append(at)
    ...         return sum(numbers[max(at - 1, 0) : at + 1])
    ...     return workings.each("sums", (numbers,), make, near=(1, 0))
    >>> sums([1, 2, 3, 4]), sums([1, 2, 9, 4]), asked
    ([1, 3, 5, 7], [1, 3, 11, 13], [0, 1, 2, 3, 2, 3])
    """

    def __init__(self) -> None:
        self._stages: dict[str, _Stage] = {}
        self._parts: dict[str, Workings] = {}

    def part(self, name: str) -> Workings:
        """Return the workings of one of several ways to plan the same riff."""
        return self._parts.setdefault(name, Workings())

    def each(
        self,
        name: str,
        columns: Sequence[Column],
        make: Callable[[int], T],
        *,
        near: tuple[int, int] = (0, 0),
        made_from: tuple[object, ...] = (),
        prepare: Callable[[range], object] | None = None,
    ) -> list[T]:
        """Make something of every item.

        Parameters
        ----------
        name : str
            The stage.
        columns : sequence of sequence, all of one length
            What there is of each item. Things that are not the same object are compared.
        make : callable
            Of an item's number.
        near : (int, int)
            How many items before and behind an item it depends on too.
        made_from : tuple
            What it depends on beside.
        prepare : callable or None
            Told the numbers of the items that are about to be made.

        Returns
        -------
        list
            A new one; never changed later.
        """
        count = len(columns[0])
        old = self._stages.get(name)
        first, last = 0, count
        if old is not None and old.made_from == made_from:
            most = min(count, len(old.made))
            ahead = min(_same(one, two, most) for one, two in zip(columns, old.columns, strict=True))
            if ahead == count == len(old.made):
                return list(old.made)
            first = max(ahead - near[1], 0)
            if count == len(old.made):
                behind = min(
                    _same_at_end(one, two, most - ahead) for one, two in zip(columns, old.columns, strict=True)
                )
                last = max(count - behind + near[0], first)
        wanted = range(first, min(last, count))
        if prepare is not None:
            prepare(wanted)
        made = [make(number) for number in wanted]
        if old is not None and first:
            made = cast("list[T]", old.made[:first]) + made
        if old is not None and last < count:
            made += cast("list[T]", old.made[last:])
        self._stages[name] = _Stage(made_from, tuple(columns), made)
        return list(made)


def _same(one: Column, two: Column, most: int) -> int:
    """How many of at most so many things at the start are the same."""
    for start in range(0, most, AT_ONCE):
        stop = min(start + AT_ONCE, most)
        if list(one[start:stop]) == list(two[start:stop]):
            continue
        for at in range(start, stop):
            if one[at] is not two[at] and one[at] != two[at]:
                return at
    return most


def _same_at_end(one: Column, two: Column, most: int) -> int:
    """How many of at most so many things at the end are the same; the two are as long as each other."""
    count = len(one)
    for done in range(0, most, AT_ONCE):
        start, stop = count - min(done + AT_ONCE, most), count - done
        if list(one[start:stop]) == list(two[start:stop]):
            continue
        for at in range(stop - 1, start - 1, -1):
            if one[at] is not two[at] and one[at] != two[at]:
                return count - 1 - at
    return most
