"""Tunes written as MIDI by music21, and read by us: every note at its place, for its length.

Source: the tune collections in the music21 package (see `abc_tunes`), whose notes music21 plays, repeats and all.
"""

from __future__ import annotations

import tempfile
import warnings
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

from dromic.formats.midi.reader import midi_source
from dromic.music.pitch import Pitch
from dromic.music.riff import Mark, Riff
from tests.checks.abc_tunes import prepared

Row = tuple[tuple[int, ...], Fraction, Fraction]


@dataclass(frozen=True)
class Played:
    """A tune's notes: pitches, place and length in quarter notes, from the first note on."""

    written: tuple[Row, ...]
    read: tuple[Row, ...]

    @property
    def places(self) -> bool:
        """Whether all pitches are there, each at its place; octaves off where our instruments do not reach them."""
        moved = self.read[0][0][0] - self.written[0][0][0]
        return moved % 12 == 0 and [row[:2] for row in self.read] == [
            (tuple(pitch + moved for pitch in pitches), at) for pitches, at, _ in self.written
        ]

    @property
    def lengths(self) -> int:
        """How many notes have their length, too."""
        return sum(one[1:] == other[1:] for one, other in zip(self.written, self.read, strict=False))


def played(text: str) -> Played | None:
    """Write a tune as MIDI and read it; None where music21 cannot write it."""
    import music21

    with warnings.catch_warnings(), tempfile.TemporaryDirectory() as folder:
        warnings.simplefilter("ignore")
        file = Path(folder) / "tune.mid"
        try:
            score = music21.converter.parseData("%abc-2.1\n" + prepared(text), format="abc").expandRepeats()
            score.write("midi", file)
        except Exception:  # noqa: BLE001 - whatever the other program trips over
            return None
        source = midi_source(file.read_bytes())
        part = score.parts[0] if score.parts else score
        notes = [
            (tuple(sorted({pitch.midi for pitch in one.pitches})), _exact(one.offset), _exact(one.quarterLength))
            for one in part.stripTies().flatten().notes
            if hasattr(one, "pitches")
        ]
    return Played(_from_the_first(notes), _from_the_first(_rows(source.read(source.likely).riff)))


def _exact(number: Any) -> Fraction:
    return Fraction(number).limit_denominator(960)


def _rows(riff: Riff) -> list[Row]:
    rows: list[Row] = []
    at = Fraction(0)
    for event in riff.written_events():
        pitches = tuple(sorted(note.target.midi for note in event.notes if isinstance(note.target, Pitch)))
        if Mark.TIE in event.marks:
            rows[-1] = (rows[-1][0], rows[-1][1], rows[-1][2] + event.quarters)
        elif pitches:
            rows.append((pitches, at, event.quarters))
        at += event.quarters
    return rows


def _from_the_first(rows: list[Row]) -> tuple[Row, ...]:
    return tuple((pitches, at - rows[0][1], length) for pitches, at, length in rows)
