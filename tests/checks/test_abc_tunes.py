"""ABC tunes of open collections, read by us and by an independent reader (every 90th; all by `run_abc`)."""

from __future__ import annotations

import pytest

from tests.checks.abc_tunes import COLLECTIONS, compared, tunes
from tests.checks.run_abc import reason


@pytest.mark.parametrize("collection", COLLECTIONS)
def test_tunes_are_read_as_the_other_reader_does(collection: str) -> None:
    for text in tunes(collection)[7::90]:
        found = compared(text)
        assert not found.riff_refused, found.title
        if not found.agree and not found.refused:
            # Where the two differ for a reason that is known to be the other's (see docs/abc.md).
            known = reason(found, text)
            assert known not in ("other", "chords"), (found.title, found.where)
