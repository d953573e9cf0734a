"""ABC tunes of open collections, read by us and by an independent reader (every 90th; all by `run_abc`)."""

from __future__ import annotations

import pytest

from tests.checks.abc_reasons import reasons
from tests.checks.abc_tunes import COLLECTIONS, compared, tunes


@pytest.mark.parametrize("collection", COLLECTIONS)
def test_tunes_are_read_as_the_other_reader_does(collection: str) -> None:
    for text in tunes(collection)[7::90]:
        found = compared(text)
        assert not found.riff_refused, found.title
        if not found.agree and not found.refused:
            # Where the two differ, it is shown to be for a reason that docs/abc.md gives.
            assert reasons(found, text), (found.title, found.where)
