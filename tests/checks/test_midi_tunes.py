"""Tunes that another program has written as MIDI (a few; more by `run_midi`)."""

from __future__ import annotations

from tests.checks.abc_tunes import COLLECTIONS, tunes
from tests.checks.midi_tunes import played


def test_every_note_is_where_it_was_written() -> None:
    some = [text for collection in COLLECTIONS for text in tunes(collection)[11::480]]
    found = [one for one in map(played, some) if one is not None]
    assert len(found) > 5
    for one in found:
        assert one.places, next(pair for pair in zip(one.written, one.read, strict=False) if pair[0] != pair[1])
    notes = sum(len(one.written) for one in found)
    assert sum(one.lengths for one in found) >= 0.99 * notes
