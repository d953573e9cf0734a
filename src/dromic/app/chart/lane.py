"""A lane of the chart: one object that takes its room, paints and prints itself and says what it shows."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from dromic.app.chart.columns import PLATE_WIDTH, Column
from dromic.app.chart.layout import ChartLayout, LaneSpace
from dromic.app.chart.painting import LaneScene, Scene
from dromic.hands.terms import LoadKind
from dromic.planner.costs.model import Model
from dromic.planner.told.reasons import HandReason, Reason, reason_for

Hint = Callable[[ChartLayout, Model, Column], str]


@dataclass(frozen=True)
class Lane:
    """A lane of the chart.

    Parameters
    ----------
    space : LaneSpace
        Its name, and the room it takes.
    words : str
        What it shows.
    paint : callable
        Draws it from the part of the chart that it is given, and from nothing else, so that its picture can be kept
        for as long as that part stays as it is; the part's view tells screen and paper apart.
    hint : callable
        What it says of a note.
    paint_labels : callable or None
        Draws the labels that stay on the left while the chart scrolls.
    on_the_way : callable or None
        What it says between two notes, of the way to the second.
    printed : bool
        Whether it is on paper too.
    exact_loads : bool
        Whether it shows how large loads are, and so looks otherwise at every tempo.
    """

    space: LaneSpace
    words: str
    paint: Callable[[LaneScene], None]
    hint: Hint
    paint_labels: Callable[[Scene], None] | None = None
    on_the_way: Hint | None = None
    printed: bool = True
    exact_loads: bool = False

    @property
    def name(self) -> str:
        """Name of its band."""
        return self.space.name


def place_hint(lane: Lane, layout: ChartLayout, model: Model, x: float) -> str:
    """Say what a lane shows at a place.

    Parameters
    ----------
    lane : Lane
    layout : ChartLayout
    model : Model
    x : float
    """
    column = layout.columns[layout.nearest(x)]
    if lane.on_the_way is not None and abs(x - column.plate_x) > PLATE_WIDTH / 2 + 2:
        # Beside a plate the pick is on its way, and the way belongs to the note that it leads to.
        after = column if x < column.plate_x else next(iter(layout.columns[column.step + 1 :]), column)
        if after.step and after.plate_x > x:
            return lane.on_the_way(layout, model, after)
    return f"{column.event.moment.place_words}\n{lane.hint(layout, model, column)}"


def reason_of(layout: ChartLayout, model: Model, column: Column) -> Reason:
    """Why a column is played as it is.

    Parameters
    ----------
    layout : ChartLayout
    model : Model
    column : Column
    """
    return reason_for(layout.plan, column.step, model)


def hand_of(reason: Reason, kind: LoadKind) -> HandReason | None:
    """What one hand does."""
    return next((hand for hand in reason.hands if hand.kind is kind), None)


def time_words(hand: HandReason) -> str:
    """Time needed, and time there is."""
    return f"{hand.needed_ms:.0f} of {hand.gap_ms:.0f} ms"
