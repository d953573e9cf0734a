"""What is counted over a whole plan. Adding a total is one entry here: window, paper, text, CSV and JSON follow."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dromic.arrays import Floats
from dromic.hands.picking import PICK
from dromic.memory import Stages
from dromic.planner.costs.model import Model
from dromic.planner.costs.pick_moves import PickMove
from dromic.planner.costs.transitions import TransitionReport, reaches_of
from dromic.planner.plan import PlannedEvent
from dromic.planner.task.state import State


@dataclass(frozen=True)
class NotePlayed:
    """What is counted of one note."""

    model: Model
    state: State
    event: PlannedEvent


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
    move : callable or None
        What a move to a note counts; the seam of a loop is one of the moves.
    note : callable or None
        What a note counts.
    widest : bool
        Whether the largest of all is meant, and not their sum.
    """

    key: str
    column: str
    words: str
    one: str
    many: str
    move: Callable[[TransitionReport], float] | None = None
    note: Callable[[NotePlayed], float] | None = None
    widest: bool = False

    def told(self, amount: float) -> str:
        """The figure in a sentence.

        Examples
        --------
        >>> TOTALS["shifts"].told(1), TOTALS["shifts"].told(2)
        ('1 shift', '2 shifts')
        """
        return (self.one if round(amount) == 1 else self.many).format(n=f"{amount:.0f}")


def _stroke_mm(one: NotePlayed) -> float:
    strokes = one.state.sounded and one.state.stroke in PICK
    return 2 * one.model.hands.picking.half_stroke_mm * strokes


def _of_pick(count: Callable[[PickMove], float]) -> Callable[[TransitionReport], float]:
    return lambda one: 0.0 if one.pick is None else count(one.pick)


_ALL = (
    Total(
        "pick_travel_mm",
        "pick mm",
        "what the picking hand travels",
        "picking hand {n} mm",
        "picking hand {n} mm",
        move=_of_pick(lambda pick: pick.travel_mm),
        note=_stroke_mm,
    ),
    Total(
        "strings_cleared",
        "",
        "strings the pick has to get over",
        "{n} string cleared",
        "{n} strings cleared",
        move=_of_pick(lambda pick: pick.cleared),
    ),
    Total(
        "inside",
        "inside",
        "changes between the two strings",
        "{n} inside change",
        "{n} inside changes",
        move=_of_pick(lambda pick: pick.inside),
    ),
    Total(
        "outside",
        "outside",
        "changes from the outer sides",
        "{n} outside change",
        "{n} outside changes",
        move=_of_pick(lambda pick: pick.outside),
    ),
    Total(
        "skips",
        "skips",
        "strings passed by",
        "{n} skip",
        "{n} skips",
        move=_of_pick(lambda pick: pick.skips),
    ),
    Total(
        "sweeps",
        "sweeps",
        "strokes carried on to the next string",
        "{n} sweep stroke",
        "{n} sweep strokes",
        move=_of_pick(lambda pick: pick.sweep),
    ),
    Total(
        "shifts",
        "shifts",
        "moves of the fretting hand along the neck",
        "{n} shift",
        "{n} shifts",
        move=lambda one: one.fret.shift_mm > 0,
    ),
    Total(
        "shift_mm",
        "",
        "way of the fretting hand along the neck",
        "shifts over {n} mm",
        "shifts over {n} mm",
        move=lambda one: one.fret.shift_mm,
    ),
    Total(
        "max_stretch_mm",
        "stretch mm",
        "widest reach beyond the hand's ease",
        "widest stretch {n} mm",
        "widest stretch {n} mm",
        note=lambda one: reaches_of((one.state,), one.model)[0],
        widest=True,
    ),
    Total(
        "sync_spots",
        "hand sync",
        "hand-sync spots: where both hands have to meet exactly",
        "{n} hand-sync spot",
        "{n} hand-sync spots",
        note=lambda one: bool(one.event.spots),
    ),
    Total(
        "finger_travel_mm",
        "",
        "what the fretting fingers travel",
        "fingers {n} mm",
        "fingers {n} mm",
        move=lambda one: one.fret.finger_mm,
    ),
    Total(
        "doubtful_mutes",
        "mutes",
        "notes where a string has to be muted with care",
        "{n} note to mute with care",
        "{n} notes to mute with care",
        note=lambda one: any(mute.doubtful for mute in one.event.mutes),
    ),
)
TOTALS: Mapping[str, Total] = {total.key: total for total in _ALL}


_OF_MOVES = {total.key: total.move for total in _ALL if total.move is not None}
_OF_NOTES = {total.key: total.note for total in _ALL if total.note is not None}


def totals_of(
    model: Model,
    states: Sequence[State],
    events: Sequence[PlannedEvent],
    reports: Sequence[TransitionReport],
    stages: Stages,
) -> Mapping[str, float]:
    """Every total of a plan, by key; the seam of a loop is one of the reports.

    Parameters
    ----------
    model : Model
    states : sequence of State
    events : sequence of PlannedEvent
    reports : sequence of TransitionReport
    stages : Stages
        What was made of this riff before.
    """
    notes = [event for event in events if event.step is not None]

    by_move = _columns(_OF_MOVES, stages.map(_of_move, reports))
    by_note = _columns(_OF_NOTES, stages.map(_of_note, states, notes, common=(model,)))

    def total(one: Total) -> float:
        own = [column[one.key] for column in (by_move, by_note) if one.key in column]
        if one.widest:
            return max(float(some.max(initial=0.0)) for some in own)
        return sum(float(some.sum()) for some in own)

    return {one.key: total(one) for one in _ALL}


def _of_move(report: TransitionReport) -> tuple[float, ...]:
    return tuple(count(report) for count in _OF_MOVES.values())


def _of_note(state: State, event: PlannedEvent, model: Model) -> tuple[float, ...]:
    one = NotePlayed(model, state, event)
    return tuple(count(one) for count in _OF_NOTES.values())


def _columns(counts: Mapping[str, object], rows: list[tuple[float, ...]]) -> dict[str, Floats]:
    table = np.array(rows, dtype=np.float64).reshape(-1, len(counts)).T
    return dict(zip(counts, table, strict=True))
