"""Memory: values are those of working them out anew, and no key can be forgotten."""

from __future__ import annotations

import pickle
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromic.memory import Memo, Stages, cache, memo, switched_off
from dromic.music.timeline import timeline
from tests.helpers import plan, riff

ASKED: list[object] = []


@dataclass(frozen=True, eq=False)
class Owner:
    number: int


def times(owner: Owner, factor: int) -> int:
    ASKED.append((owner.number, factor))
    return owner.number * factor


def window(own: int, near: tuple[int, ...], factor: int) -> int:
    ASKED.append(own)
    return (own + sum(near)) * factor


def windows(numbers: list[int]) -> list[tuple[int, ...]]:
    return [tuple(numbers[max(at - 1, 0) : at]) for at in range(len(numbers))]


LISTS = st.lists(st.integers(0, 3), min_size=1, max_size=8)


@given(st.lists(st.tuples(LISTS, st.integers(1, 2)), min_size=1, max_size=6))
def test_stages_give_what_would_be_made_anew(asked: list[tuple[list[int], int]]) -> None:
    stages = Stages()
    for numbers, factor in asked:
        wanted = [window(own, near, factor) for own, near in zip(numbers, windows(numbers), strict=True)]
        assert stages.map(window, numbers, windows(numbers), common=(factor,)) == wanted


def test_only_what_has_changed_is_made_anew_whether_items_come_or_go() -> None:
    stages, numbers = Stages(), [1, 2, 3, 4]
    stages.map(window, numbers, windows(numbers), common=(1,))
    ASKED.clear()
    longer = [1, 2, 9, 3, 4]
    stages.map(window, longer, windows(longer), common=(1,))
    # The new item, and the one that it has come before.
    assert ASKED == [9, 3]


def test_all_changed_items_can_be_made_at_once() -> None:
    stages = Stages()
    assert stages.map_many(doubled, [1, 2, 3]) == [2, 4, 6]
    assert stages.map_many(doubled, [1, 5, 3]) == [2, 10, 6]
    assert ASKED[-1] == [(5,)]


def doubled(rows: list[tuple[int]]) -> list[int]:
    ASKED.append(rows)
    return [2 * number for (number,) in rows]


def test_the_last_value_is_kept_with_its_owner() -> None:
    owner = Owner(3)
    ASKED.clear()
    assert [memo(times, owner, factor) for factor in (2, 2, 3, 2)] == [6, 6, 9, 6]
    assert ASKED == [(3, 2), (3, 3), (3, 2)]
    assert memo(times, Owner(4), 2) == 8


@pytest.mark.parametrize("method", [Owner(1).__repr__, lambda owner: owner])
def test_a_function_that_may_depend_on_more_than_its_arguments_is_refused(method: object) -> None:
    with pytest.raises(TypeError, match="only functions of a module are remembered"):
        memo(method, Owner(1))  # type: ignore[arg-type]
    with pytest.raises(TypeError, match="only functions of a module are remembered"):
        Stages().map(method, [Owner(1)])  # type: ignore[arg-type]


def test_a_memo_forgets_what_was_used_least_lately() -> None:
    sizes: Memo[str] = Memo(lambda letter: letter * 3, most=7, size=len)
    assert sizes("a") + sizes("b") + sizes("a") + sizes("c") == "aaabbbaaaccc"
    assert ("b",) not in sizes
    assert ("a",) in sizes
    assert sizes.get(("b",)) is None


def test_what_remembers_can_go_to_another_process() -> None:
    known: Memo[int] = Memo(sum_of, most=10)
    known(3)
    other = pickle.loads(pickle.dumps(known))
    assert (len(other), other(3)) == (0, 4)
    made = riff("| 5:5/8 5:7 r/4 |", meter="2/4")
    plan(made)
    assert timeline(pickle.loads(pickle.dumps(made))) == timeline(made)


def test_what_was_put_first_is_kept() -> None:
    known: Memo[Owner] = Memo(Owner, 5)
    first = known(1)
    assert known.put((1,), Owner(1)) is first


def test_nothing_is_taken_from_before_while_memory_is_switched_off() -> None:
    owner = Owner(3)
    memo(times, owner, 2)
    twice = cache(4)(fresh)
    assert twice(1) is twice(1)
    ASKED.clear()
    with switched_off():
        assert memo(times, owner, 2) == 6
        assert twice(1) is not twice(1)
    assert ASKED == [(3, 2)]


def fresh(number: int) -> list[int]:
    return [number]


def test_several_threads_share_a_memory() -> None:
    owner, stages = Owner(2), Stages()
    numbers = list(range(200))
    sums: Memo[int] = Memo(sum_of, most=10)

    def work(number: int) -> tuple[int, list[int], int]:
        own = numbers[number % 7 :]
        return memo(times, owner, number), stages.map(window, own, windows(own), common=(number,)), sums(number)

    def wanted(number: int) -> tuple[int, list[int], int]:
        own = numbers[number % 7 :]
        return 2 * number, [window(*one, number) for one in zip(own, windows(own), strict=True)], number + 1

    with ThreadPoolExecutor(4) as threads:
        assert list(threads.map(work, range(60))) == [wanted(number) for number in range(60)]


def sum_of(number: int) -> int:
    return number + 1
