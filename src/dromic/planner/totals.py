"""What is counted over a whole plan. Adding a total is one entry here: window, paper, text, CSV and JSON follow."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from dromic.hands.picking import PICK
from dromic.planner.model import Model
from dromic.planner.plan import PlannedEvent, State
from dromic.planner.transitions import PickMove, TransitionReport, reaches_of


@dataclass(frozen=True)
class Tally:
    """What totals are counted from; the seam of a loop is one of the reports."""

    model: Model
    states: Sequence[State]
    events: Sequence[PlannedEvent]
    reports: Sequence[TransitionReport]

    @property
    def picks(self) -> list[PickMove]:
        """Moves of the pick."""
        return [one.pick for one in self.reports if one.pick is not None]


@dataclass(frozen=True)
class Total:
    """One figure of a plan.

    Parameters
    ----------
    key : str
        As in JSON.
    column : str
        Heading of its column; empty where it has none.
    words : str
        What it counts.
    one, many : str
        The figure in a sentence, ``{n}`` standing for the number.
    count : callable
        Takes a `Tally`.
    """

    key: str
    column: str
    words: str
    one: str
    many: str
    count: Callable[[Tally], float]

    def told(self, amount: float) -> str:
        """The figure in a sentence.

        Examples
        --------
        >>> TOTALS["shifts"].told(1), TOTALS["shifts"].told(2)
        ('1 shift', '2 shifts')
        """
        return (self.one if round(amount) == 1 else self.many).format(n=f"{amount:.0f}")


def _travel_mm(tally: Tally) -> float:
    strokes = sum(state.sounded and state.stroke in PICK for state in tally.states)
    half_mm = tally.model.hands.picking.half_stroke_mm
    return sum(one.travel_mm for one in tally.picks) + 2 * half_mm * strokes


def _doubtful_mutes(tally: Tally) -> int:
    notes = [event for event in tally.events if event.step is not None]
    return sum(any(mute.doubtful for mute in event.mutes) for event in notes)


_ALL = (
    Total(
        "pick_travel_mm",
        "pick mm",
        "what the picking hand travels",
        "picking hand {n} mm",
        "picking hand {n} mm",
        _travel_mm,
    ),
    Total(
        "strings_cleared",
        "",
        "strings the pick has to get over",
        "{n} string cleared",
        "{n} strings cleared",
        lambda tally: sum(one.cleared for one in tally.picks),
    ),
    Total(
        "inside",
        "inside",
        "changes between the two strings",
        "{n} inside change",
        "{n} inside changes",
        lambda tally: sum(one.inside for one in tally.picks),
    ),
    Total(
        "outside",
        "outside",
        "changes from the outer sides",
        "{n} outside change",
        "{n} outside changes",
        lambda tally: sum(one.outside for one in tally.picks),
    ),
    Total(
        "skips",
        "skips",
        "strings passed by",
        "{n} skip",
        "{n} skips",
        lambda tally: sum(one.skips for one in tally.picks),
    ),
    Total(
        "sweeps",
        "sweeps",
        "strokes carried on to the next string",
        "{n} sweep stroke",
        "{n} sweep strokes",
        lambda tally: sum(one.sweep for one in tally.picks),
    ),
    Total(
        "shifts",
        "shifts",
        "moves of the fretting hand along the neck",
        "{n} shift",
        "{n} shifts",
        lambda tally: sum(one.fret.shift_mm > 0 for one in tally.reports),
    ),
    Total(
        "shift_mm",
        "",
        "way of the fretting hand along the neck",
        "shifts over {n} mm",
        "shifts over {n} mm",
        lambda tally: sum(one.fret.shift_mm for one in tally.reports),
    ),
    Total(
        "max_stretch_mm",
        "stretch mm",
        "widest reach beyond the hand's ease",
        "widest stretch {n} mm",
        "widest stretch {n} mm",
        lambda tally: max((0.0, *reaches_of(tally.states, tally.model))),
    ),
    Total(
        "sync_spots",
        "hand sync",
        "hand-sync spots: where both hands have to meet exactly",
        "{n} hand-sync spot",
        "{n} hand-sync spots",
        lambda tally: sum(bool(event.spots) for event in tally.events),
    ),
    Total(
        "finger_travel_mm",
        "",
        "what the fretting fingers travel",
        "fingers {n} mm",
        "fingers {n} mm",
        lambda tally: sum(one.fret.finger_mm for one in tally.reports),
    ),
    Total(
        "doubtful_mutes",
        "mutes",
        "notes where a string has to be muted with care",
        "{n} note to mute with care",
        "{n} notes to mute with care",
        _doubtful_mutes,
    ),
)
TOTALS: Mapping[str, Total] = {total.key: total for total in _ALL}


def totals_of(tally: Tally) -> Mapping[str, float]:
    """Every total of a plan, by key."""
    return {total.key: total.count(tally) for total in _ALL}
