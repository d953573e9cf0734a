"""Plans of the corpus are as they were, every second of them; `python -m tests.planner.corpus` looks at all."""

from __future__ import annotations

from collections import Counter

import pytest

from tests.planner import corpus

CASES = corpus.cases()
PARTS, EVERY = 10, 2


def test_the_corpus_is_whole_and_varied() -> None:
    schools = Counter(case.wishes["school"] for case in CASES)
    assert len(CASES) == corpus.SIZE
    assert len(schools) == 12
    assert min(schools.values()) >= 15
    assert sum(case.cost is None for case in CASES) <= corpus.SIZE // 20


@pytest.mark.parametrize("part", range(PARTS))
def test_costs_and_ceilings_stay(part: int) -> None:
    for number in range(part, len(CASES), EVERY * PARTS):
        case = CASES[number]
        now = corpus.planned(case)
        where = f"case {number}: {case.riff}{case.wishes}\n{case.movements}\n{now.movements}"
        assert corpus.same(case.cost, now.cost), where
        assert corpus.same(case.ceiling, now.ceiling), where
