"""What the picking hand does from one note to the next, with its time and its words."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np

from dromic.hands.constants import PickingHand
from dromic.hands.picking import PICK, PickContext, stroke_spans
from dromic.instrument.instrument import Instrument
from dromic.memory import Memo, memo
from dromic.music.riff import Stroke
from dromic.planner.costs.model import Model
from dromic.planner.costs.pick_costs import PickCosts
from dromic.planner.task.state import State
from dromic.planner.task.task import Link

MOST_TOLD = 20_000
_STRINGS = ("", "one string", "two strings", "three strings", "four strings", "five strings", "six strings")


def strings_words(count: int) -> str:
    """A number of strings in words.

    Examples
    --------
    >>> strings_words(2)
    'two strings'
    """
    return _STRINGS[count] if 0 < count < len(_STRINGS) else f"{count} strings"


@dataclass(frozen=True)
class PickMove:
    """The pick's way between two strokes.

    Parameters
    ----------
    words : str
    travel : int
        Strings moved toward the thinnest; negative toward the thickest.
    travel_mm : float
    reversals, cleared, paid : int
        Changes of direction, strings on the way, and those that the lean does not clear for nothing.
    further : int
        Strings that the stroke goes on after the first.
    inside, outside, sweep : bool
    times : dict of str to float, milliseconds
        Terms by key.
    efforts : dict of str to float
        Comforts by key.
    """

    words: str
    travel: int
    travel_mm: float
    reversals: int
    cleared: int
    paid: int
    further: int
    inside: bool
    outside: bool
    sweep: bool
    times: dict[str, float]
    efforts: dict[str, float]

    @property
    def skips(self) -> bool:
        """Whether strings are passed by."""
        return abs(self.travel) > 1


def pick_index(state: State, model: Model) -> int:
    """Return the number of a state's pick state."""
    sign = {Stroke.DOWN: 1, Stroke.UP: -1}.get(state.escape, 0)
    return model.picking.states.index(state.stroke, sign)


@dataclass(frozen=True)
class PickStep:
    """From stroke to stroke: all that the pick's way depends on.

    Parameters
    ----------
    before, after : int
        Numbers of the pick states.
    leaves, thickest, thinnest : int
        The string that the first stroke leaves, and the outermost that the second meets.
    single : bool
        Whether the second meets one string only.
    raked : bool
    context : PickContext
    """

    before: int
    after: int
    leaves: int
    thickest: int
    thinnest: int
    single: bool
    raked: bool
    context: PickContext


def _known_pick_moves(model: Model) -> Memo[PickMove]:
    return Memo(partial(_pick_move, model.picking, model.instrument, model.hands.picking), MOST_TOLD)


def pick_move(model: Model, before: State, after: State, link: Link) -> PickMove:
    """Return the way of the picking hand to a note, as it was last told.

    Parameters
    ----------
    model : Model
    before, after : State
    link : Link
    """
    step = PickStep(
        pick_index(before, model),
        pick_index(after, model),
        before.ends,
        after.string,
        after.thinnest,
        after.grip.single,
        link.raked,
        link.pick,
    )
    return memo(_known_pick_moves, model)(step)


def _pick_move(picking: PickCosts, instrument: Instrument, hand: PickingHand, step: PickStep) -> PickMove:
    strings = instrument.strings
    begins, further, through = instrument.index(step.thickest), 0, {}
    if step.raked or not step.single:
        low, high = (np.array([instrument.index(string)]) for string in (step.thickest, step.thinnest))
        span = stroke_spans(low, high, picking.states, hand, strings, raked=step.raked)
        begins, further = int(span.begins[step.after, 0]), int(span.strings[step.after, 0])
        through = {key: float(term[step.after, 0]) for key, term in span.times.items()}
    at = step.before, instrument.index(step.leaves), step.after, begins
    table = picking.moves
    times = {key: float(term[at]) for key, term in picking.times(step.context).items()} | through
    travel = step.leaves - (strings - begins)
    one, two = picking.strokes[step.before], picking.strokes[step.after]
    with_pick = one in PICK and two in PICK
    return PickMove(
        _pick_words(one, two, travel) if with_pick else _pluck_words(one, two, travel),
        travel,
        float(table.travel_mm[at]),
        int(table.reversals[at]),
        int(table.cleared[at]),
        int(table.paid[at]),
        further,
        bool(table.inside[at]),
        bool(table.outside[at]),
        bool(table.sweep[at]),
        {key: amount for key, amount in times.items() if amount},
        {key: float(term[at]) for key, term in table.efforts.items() if term[at]},
    )


def rule_travel_of(before: State, after: State) -> int:
    """Strings moved as a school sees it; see `dromic.planner.costs.pick_costs.rule_travel`."""
    onward, backward = before.thinnest - after.string, before.string - after.thinnest
    return onward if onward > 0 else backward if backward < 0 else 0


_PLUCKING = {
    Stroke.CHORD_PLUCK: "the fingers together",
    Stroke.INDEX: "the index finger",
    Stroke.MIDDLE: "the middle finger",
    Stroke.RING: "the ring finger",
    Stroke.LITTLE: "the little finger",
    Stroke.DOWN: "the pick",
    Stroke.UP: "the pick",
}


def _pluck_words(before: Stroke, after: Stroke, travel: int) -> str:
    if before is after:
        rakes = travel == -1 and after is not Stroke.CHORD_PLUCK
        return f"{_PLUCKING[after]} {'rakes on' if rakes else 'plucks again'}"
    return f"{_PLUCKING[after]} after {_PLUCKING[before]}"


def _pick_words(before: Stroke, after: Stroke, travel: int) -> str:
    distance = abs(travel)
    onward = Stroke.DOWN if travel > 0 else Stroke.UP
    skip = "" if distance < 2 else f" with a skip of {strings_words(distance - 1)}"
    if travel == 0:
        return "alternate strokes on one string" if before is not after else f"{after} again on one string"
    if before is after is onward:
        return f"sweep {after} to the next string" if distance == 1 else f"{after} stroke carried on{skip}"
    if before is after:
        return f"repeated {after} stroke: the pick has to go back over the string{skip}"
    return f"outside change{skip}" if before is onward else f"inside change{skip}"
