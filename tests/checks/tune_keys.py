"""Keys told from the notes of tunes in the open collections, against their K: fields.

Source: the tune collections in the music21 package (see `tests.checks.abc_tunes`). The K: field is the editor's
word, which may call a modal tune major or minor; it is taken as it is.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from dromic.errors import RiffError
from dromic.formats.abc.reader import abc_source
from dromic.instrument.presets import instrument_for
from dromic.music.key_finding import key_of_notes
from dromic.music.keys import parse_key
from tests.checks.abc_tunes import paths


@dataclass(frozen=True)
class Told:
    """One tune: what its K: field says and what the notes say."""

    collection: str
    same_key: bool
    same_tonic: bool
    same_signature: bool
    sure: bool


def keys_told(collection: str, every: int = 1) -> Iterator[Told]:
    """Every so many tunes of a collection that can be read and say a key."""
    number = 0
    for path in paths(collection):
        try:
            source = abc_source(Path(path).read_text(encoding="utf-8", errors="replace"))
        except RiffError:
            continue
        for part in range(len(source.parts)):
            number += 1
            if number % every:
                continue
            try:
                riff = source.read(part).riff
            except RiffError:
                continue
            written = parse_key(riff.key)
            instrument = instrument_for(riff)
            notes = [event for event in riff.written_events() if event.notes and not event.grace]
            midis = [instrument.pitch_of(event.notes[0].target) for event in notes]
            guess = key_of_notes(midis, [float(event.quarters) for event in notes])
            if written is None or guess is None:
                continue
            tonic = guess.key.tonic.pitch_class == written.tonic.pitch_class
            yield Told(
                collection,
                tonic and guess.key.mode == written.mode,
                tonic,
                (guess.key.fifths - written.fifths) % 12 == 0,
                guess.sure,
            )
