"""Geometry of the neck strip: the fretboard lengthwise with the fingers on it, and the pick's place beside it.

Pure arithmetic, without Qt. The nut is on the left, or on the right for a left-handed player; frets are as far
apart as they are on the instrument.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from dromic.instrument.geometry import fret_mm
from dromic.planner.plan import Plan

PICK_ZONE = 150.0
EDGE = 14.0
LEAST_FRETS = 9
NUT_ROOM = 26.0


@dataclass(frozen=True)
class NeckLayout:
    """Where frets and strings of a plan lie on the strip.

    Parameters
    ----------
    plan : Plan
    width, height : float
        Of the strip, in logical pixels.
    thick_on_top, left_handed : bool
    """

    plan: Plan
    width: float
    height: float
    thick_on_top: bool = True
    left_handed: bool = False

    @cached_property
    def frets(self) -> tuple[int, int]:
        """Lowest and highest fret wire that show; 0 is the nut."""
        played = [note.fret for event in self.plan.events for note in event.notes if note.fret]
        homes = [event.position for event in self.plan.events if event.position]
        low = min([*played, *homes], default=1) - 2
        high = max([*played, *(home + 3 for home in homes)], default=5) + 1
        low = 0 if low < 2 else low
        high = min(max(high, low + LEAST_FRETS), self.plan.instrument.top_fret)
        return max(min(low, high - LEAST_FRETS), 0), high

    def mm(self, fret: float) -> float:
        """Distance of a fret wire from the nut; 0 is the capo's, where there is one."""
        return fret_mm(self.plan.instrument.scale_mm, fret + self.plan.instrument.capo)

    def x(self, mm: float) -> float:
        """Place of a distance from the nut."""
        low, high = (self.mm(fret) for fret in self.frets)
        start, end = EDGE + NUT_ROOM, self.width - PICK_ZONE
        return self.turned(start + (mm - low) / (high - low) * (end - start))

    def turned(self, x: float) -> float:
        """A place seen from the other side when the player is left-handed."""
        return self.width - x if self.left_handed else x

    def wire_x(self, fret: int) -> float:
        """Place of a fret wire."""
        return self.x(self.mm(fret))

    def finger_x(self, fret: int) -> float:
        """Where a finger lies behind its fret; an open string's sign lies beyond the first wire that shows."""
        if fret <= self.frets[0]:
            return self.turned(EDGE + NUT_ROOM / 2)
        return self.x(float(self.plan.instrument.spots[fret]))

    @property
    def pick_x(self) -> float:
        """Where the pick meets the strings."""
        return self.turned(self.width - PICK_ZONE / 2)

    def string_y(self, string: int) -> float:
        """Place of a string."""
        count = self.plan.instrument.strings
        place = self.plan.instrument.index(string)
        place = place if self.thick_on_top else count - 1 - place
        top, bottom = EDGE, self.height - EDGE - 12.0
        return top + (bottom - top) * (place / max(count - 1, 1))
