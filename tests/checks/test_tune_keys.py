"""Keys of tunes in the open collections, some of each (see `tests.checks.tune_keys` for the source)."""

from __future__ import annotations

import pytest

from tests.checks.abc_tunes import COLLECTIONS
from tests.checks.tune_keys import keys_told


@pytest.mark.parametrize("collection", COLLECTIONS)
def test_most_keys_are_told_as_the_editor_wrote_them(collection: str) -> None:
    told = list(keys_told(collection, every=29 if collection != "miscFolk" else 5))
    assert len(told) > 10
    right = sum(one.same_tonic for one in told) / len(told)
    signature = sum(one.same_signature for one in told) / len(told)
    # 83 to 93 % of all tunes (docs/music.md); some tell less, of a few more may be wrong.
    assert right > 0.7
    assert signature > 0.75
