"""How a chart lies on the page, whatever notes are on it: its bands, and where strings and frets are in them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import IntEnum
from functools import cached_property

from dromic.instrument.instrument import Instrument
from dromic.listening.take import TakeNote
from dromic.music.riff import Stroke

MARGIN = 18.0
STROKE_MOST = 15.0
MUTE_ROW = 9.0
# Room for the words at the edges of the string field.
EDGE_LABEL = 18.0


@dataclass(frozen=True)
class Band:
    """A horizontal band of the chart."""

    top: float
    bottom: float

    @property
    def height(self) -> float:
        """From top to bottom."""
        return self.bottom - self.top


@dataclass(frozen=True)
class View:
    """How the player wants to see it.

    Parameters
    ----------
    thick_on_top : bool
        As the strings hang; else as tablature has them.
    nut_below : bool
        Low frets at the bottom of the hand band; else on top, as a left-handed neck may be read.
    mutes, harmony : bool
        Whether the muting lane shows, and the harmony lane.
    tempo_ratio : float
        Tempo of the slider over the tempo of the plan.
    compact : bool
        A row of finger numbers instead of the hand band, as on paper.
    padlocks : bool
        Whether decisions of the player's are marked.
    take : tuple of tuple of TakeNote
        What was heard of each step, round after round; empty where no take is shown.
    """

    thick_on_top: bool = True
    nut_below: bool = True
    mutes: bool = False
    harmony: bool = False
    tempo_ratio: float = 1.0
    compact: bool = False
    padlocks: bool = True
    take: tuple[tuple[TakeNote, ...], ...] = ()


class Detail(IntEnum):
    """How much of the notes can be read at a zoom."""

    OVERVIEW = 0
    SIGNS = 1
    FULL = 2


@dataclass(frozen=True)
class Frame:
    """What the drawing of every place of a chart depends on.

    Parameters
    ----------
    zoom : float
        Pixels a quarter note.
    view : View
    bands : mapping of str to Band
        By the names of the lanes, from top to bottom.
    instrument : Instrument
    hand_mm : float
        From the first finger to the fourth at ease.
    neck : (float, float)
        What shows of the neck, in mm from the nut.
    width : float
    detail : Detail
    loop, swapped : bool
        Whether the plan goes back to its start, and whether every second time has the other strokes.
    """

    zoom: float
    view: View
    bands: Mapping[str, Band]
    instrument: Instrument
    hand_mm: float
    neck: tuple[float, float]
    width: float
    detail: Detail
    loop: bool
    swapped: bool

    @property
    def thick_on_top(self) -> bool:
        """Whether strings lie as they hang."""
        return self.view.thick_on_top

    @property
    def ruler(self) -> Band:
        """The ruler's band."""
        return self.bands["ruler"]

    @property
    def strokes(self) -> Band:
        """The band of the stroke row."""
        return self.bands["strokes"]

    @property
    def field(self) -> Band:
        """The band of the strings."""
        return self.bands["strings"]

    @property
    def mutes(self) -> Band:
        """The band of the muting lane."""
        return self.bands["mutes"]

    @property
    def hand(self) -> Band:
        """The band of the hand along the neck."""
        return self.bands["hand"]

    @property
    def load(self) -> Band:
        """The band of the load strip."""
        return self.bands["load"]

    @property
    def bottom(self) -> float:
        """Where the lowest lane ends."""
        return max(band.bottom for band in self.bands.values())

    @property
    def seam_x(self) -> float:
        """Where a loop goes back to its start."""
        return self.width - MARGIN

    def x(self, quarters: float) -> float:
        """Place of a time."""
        return MARGIN + quarters * self.zoom

    def neck_y(self, mm: float) -> float:
        """Place on the neck, from the nut, in the hand band."""
        low, high = self.neck
        share = (mm - low) / (high - low)
        if not self.view.nut_below:
            share = 1.0 - share
        return self.hand.bottom - share * self.hand.height

    def mute_y(self, string: int) -> float:
        """Row of a string in the muting lane, in the order of the string field."""
        place = self.instrument.index(string)
        rows = self.instrument.strings
        place = place if self.thick_on_top else rows - 1 - place
        return self.mutes.top + (place + 0.5) * MUTE_ROW

    def string_y(self, string: int) -> float:
        """Place of a string in the field."""
        return self.string_places[string - 1]

    @cached_property
    def string_places(self) -> tuple[float, ...]:
        """Places of all strings, from the first."""
        return tuple(self._place_of(string) for string in range(1, self.instrument.strings + 1))

    def _place_of(self, string: int) -> float:
        across = self.instrument.pick_y
        share = float(across[self.instrument.index(string)] / across[-1]) if len(across) > 1 else 0.5
        if not self.thick_on_top:
            share = 1.0 - share
        edge = max(self.half_stroke + 6.0, EDGE_LABEL)
        return self.field.top + edge + share * (self.field.height - 2 * edge)

    @cached_property
    def string_gap(self) -> float:
        """Between neighbouring strings."""
        strings = self.instrument.strings
        edge = STROKE_MOST + 6.0
        return (self.field.height - 2 * edge) / max(strings - 1, 1)

    @cached_property
    def half_stroke(self) -> float:
        """From the string to the end of a stroke, short of the middle between two strings."""
        return min(STROKE_MOST, self.string_gap * 0.42)

    def down(self, stroke: Stroke) -> float:
        """Direction of a stroke on the page: 1 for down the page, -1 for up."""
        toward_floor = 1.0 if stroke is Stroke.DOWN else -1.0
        return toward_floor if self.thick_on_top else -toward_floor
