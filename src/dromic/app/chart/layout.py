"""Where everything on the chart goes: pure arithmetic from a plan, without Qt.

Lengths are logical pixels; x runs with time from the first moment, y down the page. The string field shows
strings at their true relative spacing, the hand ribbon shows the neck in true millimetres, higher frets higher
up.
"""

from __future__ import annotations

import math
from bisect import bisect_left, bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import IntEnum
from fractions import Fraction
from functools import cached_property

import numpy as np

from dromic.arrays import Floats
from dromic.listening.take import TakeNote
from dromic.music.riff import Stroke
from dromic.music.timeline import BarInTime, bars_in_time
from dromic.planner.plan import Loads, Plan, PlannedEvent
from dromic.planner.plan_harmony import Harmony, harmony_of
from dromic.schools.registry import school_named

MARGIN = 18.0
SPARE, LEAST_ROOM, LEAST_FIELD = 6.0, 150.0, 70.0
GAP = 24.0
COLUMN = 36.0
STROKES_BEFORE = 2
# Pixels from note to note from which on plates, or signs, can be read; narrower, the chart is an overview.
FULL_FROM, SIGNS_FROM = 23.0, 11.0
# What is written or drawn at a note needs so much room: plates, frets without one, signs, fingers, bars of three.
PLATE_ROOM, FRET_ROOM, TINY_ROOM, SIGN_ROOM, FINGER_ROOM, BARS_ROOM = 22.0, 16.0, 11.0, 15.0, 19.0, 22.0
GIVE_WAY = (("load", 250.0), ("hand", 210.0))
BAR_LABEL, LEAST_TICKS = 24.0, 7.0
BAR_STEPS = (1, 2, 5, 10, 20, 50, 100, 200, 500)
PLATE_OFFSET, PLATE_WIDTH, PLATE_HEIGHT = 5.0, 21.0, 18.0
STROKE_MOST = 15.0
HAND_MARGIN_MM = 9.0
LEAST_NECK_MM = 130.0
MUTE_ROW, FINGER_ROW = 9.0, 18.0
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
class Column:
    """One planned note at its place in time.

    `x` is the stroke's; the plate stands just right of it, so that strokes are not hidden. `loads` are those at the
    tempo of the slider.
    """

    step: int
    event: PlannedEvent
    x: float
    loads: Loads

    @property
    def plate_x(self) -> float:
        """Middle of its plate."""
        return self.x + PLATE_OFFSET + PLATE_WIDTH / 2


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


PLAIN_VIEW = View()


@dataclass(frozen=True)
class LaneSpace:
    """The room that a lane takes.

    Parameters
    ----------
    name : str
    share : float
        Of what lanes of fixed height leave; the one lane with neither has all the rest.
    fixed : callable or None
        Its height for a plan and a view, 0 where it does not show, None where its share holds.
    gap : float
        Between it and the lane above; a third of that on paper.
    """

    name: str
    share: float = 0.0
    fixed: Callable[[Plan, View], float | None] | None = None
    gap: float = 0.0

    def height(self, plan: Plan, view: View) -> float | None:
        """Its height where that does not depend on the others."""
        return None if self.fixed is None else self.fixed(plan, view)


def _scaled(loads: Loads, tempo_ratio: float) -> Loads:
    """Loads at another tempo: the gaps shrink as the tempo grows."""
    return (
        loads
        if tempo_ratio == 1.0
        else Loads(loads.pick * tempo_ratio, loads.fret * tempo_ratio, loads.sync * tempo_ratio)
    )


@dataclass(frozen=True)
class Tick:
    """A line of the ruler; `label` is empty where there is no room for one."""

    x: float
    label: str
    bar: bool


def _least_gaps(xs: Floats) -> Floats:
    """The smaller of the gaps to both neighbours."""
    gaps = np.r_[math.inf, np.diff(xs), math.inf]
    found: Floats = np.minimum(gaps[:-1], gaps[1:])
    return found


class Detail(IntEnum):
    """How much of the notes can be read at a zoom."""

    OVERVIEW = 0
    SIGNS = 1
    FULL = 2


def short_gap(plan: Plan) -> float:
    """Quarter notes from note to note where they lie close: a tenth of the gaps are shorter."""
    gaps = np.diff([float(step.moment.played) for step in plan.task.steps])
    gaps = gaps[gaps > 0]
    return float(np.quantile(gaps, 0.1)) if len(gaps) else COLUMN / 120.0


def default_zoom(plan: Plan) -> float:
    """Pixels a quarter note, so that nine tenths of the notes have a column of their own."""
    return float(np.clip(COLUMN / short_gap(plan), 30.0, 600.0))


def _bands(plan: Plan, height: float, spaces: Sequence[LaneSpace], view: View) -> dict[str, Band]:
    """Give every lane its band, from top to bottom."""
    fixed = {space.name: space.height(plan, view) for space in spaces}
    # In a low window the lanes that others tell of too give way: the strip shows the loads, the neck the hand.
    for name, least in GIVE_WAY if not view.compact else ():
        if height < least and fixed.get(name, 0.0) is None:
            fixed[name] = 0.0
    gaps = {space.name: space.gap if fixed[space.name] != 0.0 else 0.0 for space in spaces}
    taken = sum(own for own in fixed.values() if own is not None) + sum(gaps.values())
    least = LEAST_ROOM if fixed.get("hand") is None else LEAST_FIELD
    room = max(height - taken - SPARE, least)
    shares = sum(space.share for space in spaces if fixed[space.name] is None)
    found: dict[str, Band] = {}
    top = 0.0
    for space in spaces:
        own = fixed[space.name]
        if own is None:
            own = room * (space.share or 1.0 - shares)
        top += gaps[space.name] / (3 if view.compact else 1)
        found[space.name] = Band(top, top + own)
        top += own
    return found


class ChartLayout:
    """Geometry of one plan at one zoom and height.

    Parameters
    ----------
    plan : Plan
    zoom : float
        Pixels a quarter note.
    height : float
    spaces : sequence of LaneSpace
        Of all lanes, from top to bottom.
    view : View
    """

    def __init__(
        self, plan: Plan, zoom: float, height: float, spaces: Sequence[LaneSpace], view: View = PLAIN_VIEW
    ) -> None:
        self.plan = plan
        self.zoom = zoom
        self.view = view
        self.thick_on_top = view.thick_on_top
        self.bands = _bands(plan, height, spaces, view)
        self.ruler, self.strokes, self.field = (self.bands[name] for name in ("ruler", "strokes", "strings"))
        self.mutes, self.hand, self.load = (self.bands[name] for name in ("mutes", "hand", "load"))
        self.columns = tuple(
            Column(event.step, event, self.x(float(event.moment.played)), _scaled(event.loads, view.tempo_ratio))
            for event in plan.events
            if event.step is not None
        )
        self._bars = tuple({bar.number: bar for bar in reversed(tuple(bars_in_time(plan.riff)))}.values())[::-1]
        self._xs = [column.x for column in self.columns]
        last = plan.events[-1].moment
        self.width = self.x(float(last.ends)) + MARGIN
        self.largest_load = max((column.loads.largest for column in self.columns), default=0.0)
        self._neck()

    @cached_property
    def harmony(self) -> Harmony:
        """Keys, chords and degrees of the plan."""
        return harmony_of(self.plan)

    @property
    def bottom(self) -> float:
        """Where the lowest lane ends."""
        return max(band.bottom for band in self.bands.values())

    @property
    def seam_x(self) -> float:
        """Where a loop goes back to its start."""
        return self.width - MARGIN

    @cached_property
    def detail(self) -> Detail:
        """How much can be read; on paper always all."""
        room = self.zoom * short_gap(self.plan)
        if self.view.compact or room >= FULL_FROM:
            return Detail.FULL
        return Detail.SIGNS if room >= SIGNS_FROM else Detail.OVERVIEW

    @cached_property
    def rooms(self) -> list[float]:
        """How much room each column has to itself; grace notes have what is left beside their neighbours."""
        if self.view.compact:
            return [math.inf] * len(self.columns)
        xs = np.array(self._xs)
        grace = np.array([column.event.moment.event.grace for column in self.columns], dtype=bool)
        rooms = np.full(len(xs), math.inf)
        rooms[~grace] = _least_gaps(xs[~grace])
        gaps = np.r_[math.inf, np.diff(xs), math.inf]
        beside = np.r_[0.0, np.minimum(rooms, PLATE_ROOM), 0.0]
        before, after = 2 * gaps[:-1] - beside[:-2], 2 * gaps[1:] - beside[2:]
        rooms[grace] = np.minimum(before, after)[grace]
        found: list[float] = rooms.tolist()
        return found

    def middle_x(self, column: Column) -> float:
        """Middle of what stands for a note: its plate, or where there is none its stroke."""
        return column.plate_x if self.fits(column, TINY_ROOM) else column.x + 4

    def fits(self, column: Column, width: float) -> bool:
        """Whether there is room for something so wide at a column."""
        return self.rooms[column.step] >= width

    def x(self, quarters: float) -> float:
        """Place of a time."""
        return MARGIN + quarters * self.zoom

    def _neck(self) -> None:
        spots = self.plan.instrument.spots
        spread = self.plan.hand_mm
        homes = [column.event.position or 1 for column in self.columns]
        fretted = [note.fret for column in self.columns for note in column.event.notes if note.fret]
        low = min(float(spots[min(homes)]), *(float(spots[fret]) for fret in fretted), float(spots[max(homes)]))
        high = max(float(spots[max(homes)]) + spread, *(float(spots[fret]) for fret in fretted), 0.0)
        spare = max(LEAST_NECK_MM - (high - low), 0.0) / 2
        self.neck_low = max(low - HAND_MARGIN_MM - spare, -HAND_MARGIN_MM)
        self.neck_high = high + HAND_MARGIN_MM + spare

    def neck_y(self, mm: float) -> float:
        """Place on the neck, from the nut, in the hand band."""
        share = (mm - self.neck_low) / (self.neck_high - self.neck_low)
        if not self.view.nut_below:
            share = 1.0 - share
        return self.hand.bottom - share * self.hand.height

    def mute_y(self, string: int) -> float:
        """Row of a string in the muting lane, in the order of the string field."""
        place = self.plan.instrument.index(string)
        rows = self.plan.instrument.strings
        place = place if self.thick_on_top else rows - 1 - place
        return self.mutes.top + (place + 0.5) * MUTE_ROW

    def string_y(self, string: int) -> float:
        """Place of a string in the field."""
        return self._string_places[string]

    @cached_property
    def _string_places(self) -> dict[int, float]:
        return {string: self._place_of(string) for string in range(1, self.plan.instrument.strings + 1)}

    def _place_of(self, string: int) -> float:
        across = self.plan.instrument.pick_y
        share = float(across[self.plan.instrument.index(string)] / across[-1]) if len(across) > 1 else 0.5
        if not self.thick_on_top:
            share = 1.0 - share
        edge = max(self.half_stroke + 6.0, EDGE_LABEL)
        return self.field.top + edge + share * (self.field.height - 2 * edge)

    @cached_property
    def string_gap(self) -> float:
        """Between neighbouring strings."""
        strings = self.plan.instrument.strings
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

    def load_y(self, load: float) -> float:
        """Top of a load's bar, cut off where the strip ends."""
        return self.load.bottom - min(load / self.load_scale, 1.0) * self.load.height

    @cached_property
    def load_scale(self) -> float:
        """Load at the top of the strip."""
        return min(max(self.largest_load * 1.08, 1.25), 2.5)

    def columns_between(self, left: float, right: float) -> tuple[Column, ...]:
        """Columns that may show between two places, with one more on either side."""
        start = max(bisect_left(self._xs, left - COLUMN) - 1, 0)
        end = min(bisect_right(self._xs, right + COLUMN) + 1, len(self.columns))
        return self.columns[start:end]

    @cached_property
    def frame(self) -> tuple[object, ...]:
        """What the drawing of every place depends on."""
        neck, plan = (self.neck_low, self.neck_high), self.plan
        ends = self.width, self.columns[0].x, self.columns[0].loads if plan.loop else None
        bands = tuple((name, band.top, band.bottom) for name, band in self.bands.items())
        return self.zoom, self.view, neck, self.load_scale, plan.instrument, plan.hand_mm, *ends, *bands

    def drawn_between(self, left: float, right: float) -> tuple[object, ...]:
        """What the drawing between two places depends on beside the frame: what is equal is drawn the same."""
        near = self.columns_between(left, right)
        if not near:
            return (self.ticks(left, right),)
        first, last = bisect_left(self._xs, near[0].x), bisect_right(self._xs, near[-1].x)
        # The pick's way comes from the strokes before, wherever they are, and leads on to the next one.
        first = self._strokes_away(first, -1, STROKES_BEFORE)
        last = self._strokes_away(last, 1, 1)
        steps, states = self.plan.task.steps, self.plan.states
        parts = [
            (steps[one.step], states[one.step], one.loads, one.event.stroke_kind, one.event.mutes, one.event.legato)
            for one in self.columns[first : last + 1]
        ]
        room = [min(one, PLATE_ROOM) for one in self.rooms[first : last + 1]]
        # Chords and degrees are told from the whole riff.
        harmony = object() if self.view.harmony else None
        return first, self.ticks(left, right), parts, harmony, room

    def _strokes_away(self, at: int, way: int, strokes: int) -> int:
        """The column so many strokes from another."""
        while 0 <= at < len(self.columns) and strokes:
            at += way
            inside = 0 <= at < len(self.columns)
            strokes -= not inside or self.columns[at].event.stroke is not Stroke.NONE
        return min(max(at, 0), len(self.columns) - 1)

    def nearest(self, x: float) -> int:
        """Index of the column nearest to a place."""
        wanted = x - PLATE_OFFSET - PLATE_WIDTH / 2
        after = bisect_left(self._xs, wanted)
        around = [index for index in (after - 1, after) if 0 <= index < len(self._xs)]
        return min(around, key=lambda index: abs(self._xs[index] - wanted))

    def sounding(self, quarters: float) -> int:
        """Index of the column that sounds at a time: the last one that has begun."""
        return max(bisect_right(self._xs, self.x(quarters) + 1e-6) - 1, 0)

    def ticks(self, left: float, right: float) -> tuple[Tick, ...]:
        """Bar lines and beats between two places."""
        last = self.width - MARGIN + 0.5
        found = []
        # From the bar before the first that shows; bars may lie a little before their first note.
        first = max(bisect_left(self._bar_starts, left) - 2, 0)
        for bar in self._bars[first:]:
            start, beat_quarters = self._bar_x(bar), float(bar.meter.beat * bar.pace)
            if start > min(right, last):
                break
            if start + float(bar.meter.bar * bar.pace) * self.zoom < left:
                continue
            wide = float(bar.meter.bar * bar.pace) * self.zoom
            # Bars are numbered as often as there is room: every one, every second, every fifth, tenth and so on.
            every = next((step for step in BAR_STEPS if step * wide >= BAR_LABEL), BAR_STEPS[-1])
            labelled = every == 1 or bar.number % every == 0 or bar is self._bars[0]
            if not labelled and wide < LEAST_TICKS:
                continue
            roomy = beat_quarters * self.zoom >= 46
            beats = max(round(bar.meter.bar / bar.meter.beat), 1) if beat_quarters * self.zoom >= LEAST_TICKS else 1
            for beat in range(beats):
                x = start + beat * beat_quarters * self.zoom
                if MARGIN - 0.5 <= x <= last:
                    label = (str(bar.number) if labelled else "") if beat == 0 else str(beat + 1) if roomy else ""
                    found.append(Tick(x, label if x < last - 1 else "", beat == 0))
        end = self.width - MARGIN
        if left <= end <= right and (not found or found[-1].x < end - 1):
            found.append(Tick(end, "", bar=True))
        return tuple(found)

    @cached_property
    def _bar_starts(self) -> list[float]:
        return [self._bar_x(bar) for bar in self._bars]

    def _bar_x(self, bar: BarInTime) -> float:
        return self.x(float(bar.played(Fraction(0))))

    @cached_property
    def phrases(self) -> tuple[tuple[float, str], ...]:
        """Where phrases begin, with their names and which time round it is."""
        found = []
        seen: set[tuple[int, int]] = set()
        for event in self.plan.events:
            moment = event.moment
            key = (moment.phrase, moment.pass_number)
            if key in seen:
                continue
            seen.add(key)
            phrase = self.plan.riff.phrases[moment.phrase]
            times = f" {moment.pass_number + 1} of {phrase.times}" if phrase.times > 1 else ""
            name = phrase.name or ("repeat" if times else "")
            if name:
                school = f", {school_named(phrase.school).title.lower()}" if phrase.school else ""
                found.append((self.x(float(moment.played)), f"{name}{times}{school}"))
        labels = dict(found)
        for x, words in self._tempi:
            labels[x] = ", ".join(filter(None, [labels.get(x, ""), words]))
        return tuple(sorted(labels.items()))

    @cached_property
    def _tempi(self) -> list[tuple[float, str]]:
        """Where the tempo changes."""
        found, tempo = [], self.plan.riff.tempo
        for bar in bars_in_time(self.plan.riff):
            if bar.tempo != tempo:
                tempo = bar.tempo
                found.append((self.x(float(bar.since)), f"tempo {tempo:.4g}"))
        return found
