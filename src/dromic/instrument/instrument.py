"""The instrument a riff is planned on."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from dromic.instrument.geometry import PICKING_SPOT, finger_spots, string_offsets
from dromic.music.pitch import Pitch
from dromic.music.riff import Place


@dataclass(frozen=True)
class Instrument:
    """Strings, frets and their sizes.

    Strings are numbered as players do, 1 for the thinnest; arrays run from the thickest (index 0).

    Parameters
    ----------
    name : str
    tuning : tuple of int
        MIDI numbers of the open strings without capo, thickest string first.
    scale_mm : float
        Scale length.
    frets : int
        Highest fret, counted from the nut.
    nut_mm, bridge_mm : float
        Width from outer string to outer string.
    capo : int
        Fret of the capo, 0 for none. All frets elsewhere are counted from it.

    Examples
    --------
    >>> guitar = Instrument("g", (40, 45, 50, 55, 59, 64), 648.0, 24, 35.0, 52.0)
    >>> guitar.pitch(Place(5, 3)), [str(place) for place in guitar.places(64)][:2]
    (48, ['1:0', '2:5'])
    """

    name: str
    tuning: tuple[int, ...]
    scale_mm: float
    frets: int
    nut_mm: float
    bridge_mm: float
    capo: int = 0

    @property
    def strings(self) -> int:
        """Number of strings."""
        return len(self.tuning)

    @property
    def top_fret(self) -> int:
        """Highest fret as counted from the capo."""
        return self.frets - self.capo

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash((self.name, self.tuning, self.scale_mm, self.frets, self.nut_mm, self.bridge_mm, self.capo))

    def index(self, string: int) -> int:
        """Array index of a string number."""
        return self.strings - string

    def pitch(self, place: Place) -> int:
        """MIDI number that sounds at a place."""
        return self.tuning[self.index(place.string)] + self.capo + place.fret

    def pitch_of(self, target: Place | Pitch) -> int:
        """MIDI number that a note sounds, wherever it is played."""
        return self.pitch(target) if isinstance(target, Place) else target.midi

    def places(self, midi: int) -> tuple[Place, ...]:
        """Return every place where a pitch can be played, thinnest string first."""
        places = []
        for string in range(1, self.strings + 1):
            fret = midi - self.tuning[self.index(string)] - self.capo
            if 0 <= fret <= self.top_fret:
                places.append(Place(string, fret))
        return tuple(places)

    @property
    def lowest(self) -> int:
        """Lowest pitch."""
        return min(self.tuning) + self.capo

    @property
    def highest(self) -> int:
        """Highest pitch."""
        return max(self.tuning) + self.frets

    @cached_property
    def spots(self) -> NDArray[np.float64]:
        """Finger spots in mm from the nut, shape (top_fret + 1,), by fret from the capo."""
        return finger_spots(self.scale_mm, self.frets)[self.capo :]

    @cached_property
    def pick_y(self) -> NDArray[np.float64]:
        """Strings across the picking spot, shape (strings,), mm from the thickest."""
        return string_offsets(self.strings, self.nut_mm, self.bridge_mm, PICKING_SPOT)

    @cached_property
    def neck_y(self) -> NDArray[np.float64]:
        """Strings across the middle of the neck, shape (strings,), mm from the thickest."""
        return string_offsets(self.strings, self.nut_mm, self.bridge_mm, 0.3)
