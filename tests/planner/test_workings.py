"""Workings give what would be made anew, whatever has changed."""

from __future__ import annotations

from hypothesis import given, settings
from hypothesis import strategies as st

from dromic.planner.workings import Workings

NUMBERS = st.lists(st.integers(0, 2), max_size=8)


@given(st.lists(NUMBERS, min_size=2, max_size=5), st.tuples(st.integers(0, 2), st.integers(0, 2)))
@settings(max_examples=150)
def test_what_is_taken_over_is_what_would_be_made(rows: list[list[int]], near: tuple[int, int]) -> None:
    workings = Workings()
    for numbers in rows:
        seconds = [number % 2 for number in numbers]

        def made(at: int, numbers: list[int] = numbers) -> tuple[int, list[int]]:
            return at, numbers[max(at - near[0], 0) : at + near[1] + 1]

        found = workings.each("sums", (numbers, seconds), made, near=near)
        assert found == [made(at) for at in range(len(numbers))]


def test_something_else_to_make_it_from_makes_it_anew() -> None:
    workings = Workings()
    assert workings.each("twice", ([1, 2],), lambda at: at * 2, made_from=(2,)) == [0, 2]
    assert workings.each("twice", ([1, 2],), lambda at: at * 3, made_from=(3,)) == [0, 3]
    assert workings.part("other").each("twice", ([1, 2],), lambda at: at * 5, made_from=(3,)) == [0, 5]
