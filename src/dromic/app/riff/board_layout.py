"""The riff board laid out: which event stands where. Arithmetic without a window."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from dromic.instrument.presets import instrument_for
from dromic.music.remembering import last_of
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


@dataclass(frozen=True)
class BoardLayout:
    """A riff on lines of strings.

    Parameters
    ----------
    riff : Riff or None
        None while there is nothing that could be read.
    cells : tuple of Cell
        Every event as written, in reading order.
    strings : int
    """

    riff: Riff | None = None
    cells: tuple[Cell, ...] = ()
    strings: int = 6

    @property
    def row_height(self) -> float:
        """Height of a line, in pixels."""
        return HEAD + STRING_GAP * (self.strings - 1) + FOOT

    @property
    def height(self) -> float:
        """Height of all lines, in pixels."""
        return max((cell.y for cell in self.cells), default=0.0) + self.row_height + TOP

    def string_y(self, top: float, string: int) -> float:
        """Where a string of the line that begins at `top` hangs; the thickest hangs on top."""
        return top + HEAD + (self.strings - string) * STRING_GAP

    def box(self, event_index: int) -> tuple[float, float, float, float]:
        """Left, top, width and height of an event, or of the place after the last one."""
        height = self.row_height - 8
        for cell in self.cells:
            if cell.event_index == event_index:
                return cell.x - 2, cell.y, cell.width, height
        if not self.cells:
            return GUTTER, TOP, LEAST_WIDTH, height
        last = self.cells[-1]
        return last.x + last.width + 10, last.y, LEAST_WIDTH, height


def lay_out(riff: Riff | None, width: float) -> BoardLayout:
    """Lay bars into lines of `width` pixels; a bar that does not fit begins a new one."""
    if riff is None:
        return BoardLayout()
    sheet = BoardLayout(riff, strings=instrument_for(riff).strings)
    found: list[Cell] = []
    x, y = GUTTER, TOP
    for phrase in riff.phrases:
        for number, bar in enumerate(phrase.bars):
            widths = last_of(bar, "_widths", (), partial(_widths, bar))
            fresh = number == 0 and phrase is not riff.phrases[0] and phrase.name is not None
            if x > GUTTER and (x + sum(widths) + BAR_GAP > width - 30 or fresh):
                x, y = GUTTER, y + sheet.row_height
            bar_x = x
            for place, (event, own) in enumerate(zip(bar.events, widths, strict=True)):
                shows = not place or event.value != bar.events[place - 1].value or event.grace
                last = place == len(bar.events) - 1
                found.append(Cell(len(found), event, x, y, own, last, shows, bar.comment if last else "", bar_x))
                x += own
            x += BAR_GAP
    return BoardLayout(riff, tuple(found), sheet.strings)


def _widths(bar: Bar) -> list[float]:
    return [_width(event) for event in bar.events]


def _width(event: Event) -> float:
    if event.grace:
        return LEAST_WIDTH
    text = max((len(str(note.target)) for note in event.notes if not isinstance(note.target, Place)), default=0)
    return max(LEAST_WIDTH, min(float(event.value.quarters), 2.5) * QUARTER_WIDTH, 9.0 * text + 16)
