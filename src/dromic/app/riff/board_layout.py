"""The riff board laid out: which event stands where. Arithmetic without a window."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from dataclasses import dataclass
from functools import cached_property

from dromic.instrument.presets import instrument_for
from dromic.memory import memo
from dromic.music.riff import Bar, Event, Place, Riff

GUTTER, TOP = 46.0, 8.0
STRING_GAP = 17.0
HEAD, FOOT = 38.0, 38.0
LEAST_WIDTH, QUARTER_WIDTH = 28.0, 66.0
BAR_GAP = 12.0
PLATE = 20.0


@dataclass(frozen=True)
class Cell:
    """Where an event is drawn, in pixels from the top left corner of the first line.

    The last event of a bar carries the bar's comment, and knows where its bar begins.
    """

    event_index: int
    event: Event
    x: float
    y: float
    width: float
    ends_bar: bool
    shows_length: bool
    comment: str = ""
    bar_x: float = 0.0


@dataclass(frozen=True, eq=False)
class BarPlace:
    """Where a bar is drawn: its left edge, and the top of its line.

    Parameters
    ----------
    bar : Bar
    first : int
        Its first event's place in reading order.
    x, y : float
    """

    bar: Bar
    first: int
    x: float
    y: float

    @property
    def width(self) -> float:
        """Width, in pixels."""
        return sum(widths_of(self.bar))

    @cached_property
    def cells(self) -> tuple[Cell, ...]:
        """Where its events are drawn."""
        cells, x, events = [], self.x, self.bar.events
        for place, (event, own) in enumerate(zip(events, widths_of(self.bar), strict=True)):
            shows = not place or event.value != events[place - 1].value or event.grace
            last = place == len(events) - 1
            comment = self.bar.comment if last else ""
            cells.append(Cell(self.first + place, event, x, self.y, own, last, shows, comment, self.x))
            x += own
        return tuple(cells)


@dataclass(frozen=True)
class BoardLayout:
    """A riff on lines of strings.

    Parameters
    ----------
    riff : Riff or None
        None while there is nothing that could be read.
    bars : tuple of BarPlace
        Every bar as written, in reading order.
    strings : int
    """

    riff: Riff | None = None
    bars: tuple[BarPlace, ...] = ()
    strings: int = 6

    @property
    def cells(self) -> tuple[Cell, ...]:
        """Every event as written, in reading order."""
        return tuple(cell for place in self.bars for cell in place.cells)

    @property
    def row_height(self) -> float:
        """Height of a line, in pixels."""
        return HEAD + STRING_GAP * (self.strings - 1) + FOOT

    @property
    def height(self) -> float:
        """Height of all lines, in pixels."""
        return (self.bars[-1].y if self.bars else 0.0) + self.row_height + TOP

    def string_y(self, top: float, string: int) -> float:
        """Where a string of the line that begins at `top` hangs; the thickest hangs on top."""
        return top + HEAD + (self.strings - string) * STRING_GAP

    def between(self, low: float, high: float) -> tuple[BarPlace, ...]:
        """The bars whose lines begin between two heights."""
        start = bisect_left(self.bars, low, key=lambda place: place.y)
        return self.bars[start : bisect_right(self.bars, high, key=lambda place: place.y)]

    def box(self, event_index: int) -> tuple[float, float, float, float]:
        """Left, top, width and height of an event, or of the place after the last one."""
        height = self.row_height - 8
        if not self.bars:
            return GUTTER, TOP, LEAST_WIDTH, height
        at = bisect_right(self.bars, event_index, key=lambda place: place.first) - 1
        cells = self.bars[max(at, 0)].cells
        inside = event_index - cells[0].event_index
        if 0 <= inside < len(cells):
            return cells[inside].x - 2, cells[inside].y, cells[inside].width, height
        return cells[-1].x + cells[-1].width + 10, cells[-1].y, LEAST_WIDTH, height


def lay_out(riff: Riff | None, width: float) -> BoardLayout:
    """Lay bars into lines of `width` pixels; a bar that does not fit begins a new one."""
    if riff is None:
        return BoardLayout()
    sheet = BoardLayout(riff, strings=instrument_for(riff).strings)
    found: list[BarPlace] = []
    x, y, first = GUTTER, TOP, 0
    for phrase in riff.phrases:
        for number, bar in enumerate(phrase.bars):
            own = sum(widths_of(bar))
            fresh = number == 0 and phrase is not riff.phrases[0] and phrase.name is not None
            if x > GUTTER and (x + own + BAR_GAP > width - 30 or fresh):
                x, y = GUTTER, y + sheet.row_height
            found.append(BarPlace(bar, first, x, y))
            x += own + BAR_GAP
            first += len(bar.events)
    return BoardLayout(riff, tuple(found), sheet.strings)


def widths_of(bar: Bar) -> list[float]:
    """Widths of a bar's events."""
    return memo(_widths, bar)


def _widths(bar: Bar) -> list[float]:
    return [_width(event) for event in bar.events]


def _width(event: Event) -> float:
    if event.grace:
        return LEAST_WIDTH
    text = max((len(str(note.target)) for note in event.notes if not isinstance(note.target, Place)), default=0)
    return max(LEAST_WIDTH, min(float(event.value.quarters), 2.5) * QUARTER_WIDTH, 9.0 * text + 16)
