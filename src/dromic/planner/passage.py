"""One passage of a plan taken apart: the terms of its times and efforts, by name.

The same tables that the search used are read for the two states that were chosen, so what is shown is what
was weighed.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dromic.hands.fretting import FretMoves, FretStates, reach_mm
from dromic.hands.together import extra_parts, load_effort
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Mark, Stroke
from dromic.planner.model import Model
from dromic.planner.plan import Loads, State
from dromic.planner.steps import Link
from dromic.schools.school import Change

_STRINGS = ("", "one string", "two strings", "three strings", "four strings", "five strings", "six strings")


@dataclass(frozen=True)
class PickWay:
    """The pick's way between two strokes."""

    words: str
    travel: int
    travel_mm: float
    cleared: int
    inside: bool
    outside: bool
    sweep: bool
    parts: dict[str, float]

    @property
    def skips(self) -> bool:
        """Whether strings are passed by."""
        return abs(self.travel) > 1


@dataclass(frozen=True)
class FretWay:
    """The fretting hand's way between two notes."""

    shift_mm: float
    shift_frets: int
    rolled: bool
    jumped: bool
    parts: dict[str, float]


@dataclass(frozen=True)
class Passage:
    """A passage with its times (ms), loads and efforts.

    `together` names the synchronisation spots and their extra time; empty when there is none. `school` is
    the school's reason in words.
    """

    before: State
    after: State
    gap_ms: float
    pick_gap_ms: float
    pick: PickWay | None
    fret: FretWay
    together: dict[str, float]
    loads: Loads
    efforts: dict[str, float]
    school: str

    @property
    def cost(self) -> float:
        """Total effort of the passage."""
        return sum(self.efforts.values())


def strings_words(count: int) -> str:
    """A number of strings in words.

    Examples
    --------
    >>> strings_words(2)
    'two strings'
    """
    return _STRINGS[count] if 0 < count < len(_STRINGS) else f"{count} strings"


def frets_of(state: State, instrument: Instrument) -> FretStates:
    """Return a state's fretting part as arrays of length 1."""
    row = (instrument.index(state.string), state.fret, state.finger, state.position)
    return FretStates(*(np.array([value], dtype=np.int64) for value in row))


def reach_of(state: State, model: Model) -> float:
    """How far the finger is opened beyond its ease, in mm; negative when closed."""
    return float(reach_mm(frets_of(state, model.instrument), model.instrument, model.hands.fretting)[0])


def pick_index(state: State, model: Model) -> int:
    """Return the number of a state's pick state."""
    signs = {Stroke.DOWN: 1, Stroke.UP: -1}
    matches = (model.states.direction == signs[state.stroke]) & (model.states.escape == signs[state.escape])
    return int(np.flatnonzero(matches)[0])


def passage(model: Model, before: State, after: State, link: Link) -> Passage:
    """Take one passage apart.

    Parameters
    ----------
    model : Model
    before, after : State
    link : Link

    Returns
    -------
    Passage
        Its `cost` equals the entry of `Model.link_costs` for the two states.
    """
    overload = model.hands.comfort.overload
    one, two = frets_of(before, model.instrument), frets_of(after, model.instrument)
    moves = model.fret_moves_once(one, two, link)
    gap, pick_gap = model.ms(link.quarters), model.ms(link.pick_quarters)
    fret = _fret_way(moves, before, after, link)
    fret_load = float(moves.time_ms[0, 0]) / gap
    pick: PickWay | None = None
    pick_load = 0.0
    school = ""
    efforts = {
        "fretting": _effort(fret_load, overload),
        "weak pair": float(moves.weak_pair[0, 0]),
        "fingers apart": float(moves.apart[0, 0]),
        "two fingers on one fret": float(moves.squeezed[0, 0]),
    }
    together: dict[str, float] = {}
    sync_load = 0.0
    if link.picked:
        pick = _pick_way(model, before, after, link)
        pick_load = sum(pick.parts.values()) / pick_gap
        efforts["picking"] = _effort(pick_load, overload)
        verdict = model.school.on_change(Change(before.stroke, after.stroke, pick.travel))
        school = verdict.reason
        efforts["school"] = verdict.effort
        changes = np.array([[pick.travel != 0]])
        parts = extra_parts(moves, changes, model.hands.together, picked=True, resumes=link.resumes)
        together = {name: float(extra[0, 0]) for name, extra in parts.items() if extra[0, 0] > 0}
        if together:
            sync_load = max(pick_load, fret_load) + sum(together.values()) / gap
            efforts["both hands"] = _effort(sync_load, overload)
    loads = Loads(pick_load, fret_load, sync_load)
    return Passage(before, after, gap, pick_gap, pick, fret, together, loads, efforts, school)


def _effort(load: float, overload: float) -> float:
    return float(load_effort(np.array(load), overload))


def _pick_way(model: Model, before: State, after: State, link: Link) -> PickWay:
    at = (
        model.instrument.index(before.string),
        pick_index(before, model),
        model.instrument.index(after.string),
        pick_index(after, model),
    )
    table, hand = model.moves, model.hands.picking
    travel = before.string - after.string
    reversals, paid = int(table.reversals[at]), int(table.paid[at])
    travel_mm = float(table.travel_mm[at])
    turns = "one reversal" if reversals == 1 else f"{reversals} reversals"
    bits = float(np.log2(1.0 + travel_mm / hand.target_mm))
    parts = {
        "a stroke": hand.base_ms,
        turns: hand.reversal_ms * reversals,
        f"{strings_words(paid)} to lift over": hand.clear_ms * paid,
        f"{travel_mm:.0f} mm of travel": hand.fitts_ms * bits,
        "inside picking": hand.inside_ms * (bool(table.inside[at]) and paid > 0),
        "dropping into a sweep": hand.drop_ms * bool(table.drop[at]),
        "turning the lean": hand.turn_ms * bool(table.turned[at]),
        "palm": hand.palm_ms * link.palm_changes,
        "accent": hand.accent_ms * link.accent,
    }
    return PickWay(
        _pick_words(before.stroke, after.stroke, travel),
        travel,
        travel_mm,
        int(table.cleared[at]),
        bool(table.inside[at]),
        bool(table.outside[at]),
        bool(table.sweep[at]),
        {name: value for name, value in parts.items() if value > 0},
    )


def _pick_words(before: Stroke, after: Stroke, travel: int) -> str:
    distance = abs(travel)
    onward = Stroke.DOWN if travel > 0 else Stroke.UP
    skip = "" if distance < 2 else f" with a skip of {strings_words(distance - 1)}"
    if travel == 0:
        return "alternate strokes on one string" if before is not after else f"{after} again on one string"
    if before is after is onward:
        return f"sweep {after} to the next string" if distance == 1 else f"{after} stroke carried on{skip}"
    if before is after:
        return f"{after} again on a string against its travel{skip}"
    return f"outside change{skip}" if before is onward else f"inside change{skip}"


def _fret_way(moves: FretMoves, before: State, after: State, link: Link) -> FretWay:
    def ms(part: np.ndarray) -> float:
        return float(part[0, 0])

    shift_mm = ms(moves.shift_mm)
    frets = after.position - before.position
    fret_words = "one fret" if abs(frets) == 1 else f"{abs(frets)} frets"
    put = {Mark.HAMMER: "hammered on", Mark.PULL: "pulled off to"}.get(link.legato or Mark.TIE, "put down")
    parts = {
        f"finger {after.finger} {put}": ms(moves.place),
        "pulled off to the open string" if link.legato is Mark.PULL else "lifted off": ms(moves.lift),
        "the little finger": ms(moves.fourth),
        f"fingers {before.finger} and {after.finger}, a weak pair": ms(moves.weak),
        f"finger {after.finger} rolled over": ms(moves.roll),
        f"finger {after.finger} jumps": ms(moves.jump),
        "fingers crossing": ms(moves.cross),
        f"hand moves {'up' if frets > 0 else 'down'} {fret_words}, {shift_mm:.0f} mm": ms(moves.shift),
        "the note before it must sound first": ms(moves.hold),
        "slide": ms(moves.slide),
    }
    return FretWay(
        shift_mm,
        frets,
        bool(moves.rolled[0, 0]),
        bool(moves.jumped[0, 0]),
        {name: value for name, value in parts.items() if value > 0},
    )
