"""One passage of a plan taken apart: the terms of its times and efforts, by name.

The same tables that the search used are read for the two states that were chosen, so what is shown is what
was weighed.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, fields
from math import log2

import numpy as np
from numpy.typing import NDArray

from dromic.hands.fretting import Floats, FretMoves, FretStates
from dromic.hands.picking import PICK, wide_jump_ms
from dromic.hands.profile import PickingHand, RestStrokes
from dromic.hands.shape_moves import finger_travels, shape_moves
from dromic.hands.shapes import Shape, ShapeStates, shape_states
from dromic.hands.synchronisation import sync_times
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Mark, Stroke
from dromic.planner.model import Model
from dromic.planner.plan import Loads, State
from dromic.planner.steps import Link
from dromic.planner.string_travel import changes_string, dragged_strings
from dromic.schools.school import School

ODD_COUNT = "a string begun against the beat"
TURN = "turning round after legato"
LANDS = "further fingers that land with it"
PLANTS = "a lower finger planted for the pull-off"

_STRINGS = ("", "one string", "two strings", "three strings", "four strings", "five strings", "six strings")


@dataclass(frozen=True)
class PickMove:
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
class FretMove:
    """The fretting hand's way between two notes; `finger_mm` is what its fingers travel together."""

    shift_mm: float
    shift_frets: int
    rolled: bool
    jumped: bool
    parts: dict[str, float]
    finger_mm: float = 0.0


@dataclass(frozen=True)
class TransitionReport:
    """A passage with its times (ms), loads and efforts.

    `together` names the synchronisation spots and their extra time; empty when there is none. `school` is
    the school's reason in words.
    """

    before: State
    after: State
    gap_ms: float
    pick_gap_ms: float
    pick: PickMove | None
    fret: FretMove
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


def frets_of(states: Sequence[State], instrument: Instrument) -> FretStates:
    """Return the fretting parts of states as arrays; of chords as shapes."""
    if any(one.is_shape for one in states):
        return shape_states([_shape(one, instrument) for one in states])
    rows = [(instrument.index(one.string), one.fret, one.finger, one.position) for one in states]
    return FretStates(*np.array(rows, dtype=np.int64).reshape(-1, 4).T)


def _shape(state: State, instrument: Instrument) -> Shape:
    notes = sorted((*state.notes, *state.held), reverse=True)
    return Shape(
        tuple((instrument.index(string), fret, finger) for string, fret, finger in notes),
        state.position,
        tuple(sorted(instrument.index(string) for string, _, _ in state.held)),
    )


def reaches_of(states: Sequence[State], model: Model) -> list[float]:
    """How far each state's farthest finger is opened beyond its ease, in mm; negative when closed."""
    spots, expand_by_string = model.instrument.spots, (0.0, *model.hands.fretting.spread_mm)
    return [
        max(
            (
                float(spots[fret] - spots[one.position]) - expand_by_string[finger]
                for _, fret, finger in (*one.notes, *one.held)
                if finger
            ),
            default=0.0,
        )
        for one in states
    ]


def pick_index(state: State, model: Model) -> int:
    """Return the number of a state's pick state."""
    sign = {Stroke.DOWN: 1, Stroke.UP: -1}.get(state.escape, 0)
    for index, stroke in enumerate(model.strokes):
        if stroke is state.stroke and model.states.escape[index] == sign:
            return index
    raise KeyError(state)


@dataclass(frozen=True)
class Transition:
    """Two chosen states, the link between them, and the school that rules the second."""

    before: State
    after: State
    link: Link
    school: School


def passages(model: Model, transitions: Sequence[Transition]) -> list[TransitionReport]:
    """Take passages apart.

    Parameters
    ----------
    model : Model
    transitions : sequence of Transition

    Returns
    -------
    list of TransitionReport
        The `cost` of each equals the entry of `Model.costs` for the two states.
    """
    groups: dict[tuple[object, ...], list[int]] = defaultdict(list)
    for index, one in enumerate(transitions):
        link = one.link
        chord = index if one.before.is_shape or one.after.is_shape else None
        groups[(chord, link.manner, link.meeting)].append(index)
    found: dict[int, TransitionReport] = {}
    for members in groups.values():
        link = transitions[members[0]].link
        moves, changes = _moves_of(model, [transitions[index] for index in members])
        parts = sync_times(moves, changes, model.hands.together, link.meeting)
        time_ms = moves.time_ms
        for at, index in enumerate(members):
            extra = {name: float(value[at]) for name, value in parts.items() if value[at] > 0}
            found[index] = _passage(model, transitions[index], moves, at, float(time_ms[at]), extra)
    return [found[index] for index in range(len(transitions))]


def _moves_of(model: Model, some: Sequence[Transition]) -> tuple[FretMoves, NDArray[np.bool_]]:
    """Moves of the fretting hand, one a transition, and whether the pick changes string."""
    link = some[0].link
    before = frets_of([one.before for one in some], model.instrument)
    after = frets_of([one.after for one in some], model.instrument)
    if not isinstance(before, ShapeStates) and not isinstance(after, ShapeStates):
        return model.fretting.paired_moves(before, after, link.manner), before.string != after.string
    moves = shape_moves(before, after, model.fretting, link.manner)
    flat = {entry.name: getattr(moves, entry.name).reshape(-1) for entry in fields(moves)}
    return FretMoves(**flat), changes_string(before, after).reshape(-1)


def _passage(
    model: Model, one: Transition, moves: FretMoves, at: int, fret_ms: float, together: dict[str, float]
) -> TransitionReport:
    overload = model.hands.comfort.overload
    before, after, link = one.before, one.after, one.link
    gap, pick_gap = model.ms(link.quarters), model.ms(link.pick_quarters)
    fret_load = fret_ms / gap
    pick: PickMove | None = None
    pick_load = sync_load = 0.0
    school = ""
    efforts = {
        "fretting": _effort(fret_load, overload),
        "weak pair": float(moves.weak_pair[at]),
        "fingers apart": float(moves.apart[at]),
        "two fingers on one fret": float(moves.squeezed[at]),
        "against the camp for one fret on two strings": float(moves.against[at]),
    }
    if link.picked:
        pick = _pick_way(model, before, after, link)
        pick_load = sum(pick.parts.values()) / pick_gap
        efforts["picking"] = _effort(pick_load, overload)
        verdict = one.school.verdict(
            model.picking.change(before.stroke, after.stroke, _rule_travel(before, after), link, one.school)
        )
        school = verdict.reason
        efforts["school"] = verdict.effort
        if together:
            sync_load = max(pick_load, fret_load) + sum(together.values()) / gap
            efforts["both hands"] = _effort(sync_load, overload)
    loads = Loads(pick_load, fret_load, sync_load)
    shapes = _shape(before, model.instrument), _shape(after, model.instrument)
    travels = finger_travels(shapes[0], shapes[1], model.fretting)
    fret = _fret_way(moves, at, before, after, link, travels)
    return TransitionReport(before, after, gap, pick_gap, pick, fret, together, loads, efforts, school)


def _effort(load: float, overload: float) -> float:
    return load**2 + overload * max(load - 1.0, 0.0) ** 2


def _pick_way(model: Model, before: State, after: State, link: Link) -> PickMove:
    begins = _begins(model, after, link)
    at = (
        model.instrument.index(before.ends),
        pick_index(before, model),
        model.instrument.index(begins),
        pick_index(after, model),
    )
    table, hand = model.pick_moves, model.hands.picking
    travel = before.ends - begins
    further = after.string - after.thinnest if after.stroke not in PICK else abs(after.ends - begins)
    travel_mm = float(table.travel_mm[at])
    with_pick = before.stroke in PICK and after.stroke in PICK
    parts = _stroke_parts(model, at, travel_mm) if with_pick else _pluck_parts(model, before, after, at, travel_mm)
    parts |= {
        "through the chord": 0.0 if link.raked else hand.through_ms * further,
        f"raked across {strings_words(further)}": hand.drag_ms * further * link.raked,
        TURN: hand.sweep_turn_ms
        * (link.resumes and with_pick and travel != 0 and before.stroke is not after.stroke),
        ODD_COUNT: hand.odd_ms * (with_pick and travel != 0 and _against_the_grid(after.stroke, link)),
        "palm": hand.palm_ms * link.palm_changes,
        "accent": hand.accent_ms * link.accent,
    }
    return PickMove(
        _pick_words(before.stroke, after.stroke, travel) if with_pick else _pluck_words(before, after, travel),
        travel,
        travel_mm,
        int(table.cleared[at]),
        bool(table.inside[at]),
        bool(table.outside[at]),
        bool(table.sweep[at]),
        {name: value for name, value in parts.items() if value > 0},
    )


def _begins(model: Model, after: State, link: Link) -> int:
    """String that the stroke meets first; a rake of a single note begins on strings before it."""
    if not link.raked or len(after.notes) > 1 or after.stroke not in PICK:
        return after.begins
    direction = 1 if after.stroke is Stroke.DOWN else -1
    dragged = dragged_strings(frets_of([after], model.instrument), direction, model.instrument.strings)
    return after.string + direction * int(dragged[0])


def _against_the_grid(stroke: Stroke, link: Link) -> bool:
    return stroke is (Stroke.DOWN if link.off_beat else Stroke.UP)


def _rule_travel(before: State, after: State) -> int:
    """Strings moved as a school sees it; see `dromic.planner.string_travel.rule_travel`."""
    onward, backward = before.thinnest - after.string, before.string - after.thinnest
    return onward if onward > 0 else backward if backward < 0 else 0


def _stroke_parts(model: Model, at: tuple[int, int, int, int], travel_mm: float) -> dict[str, float]:
    table, hand = model.pick_moves, model.hands.picking
    reversals, paid = int(table.reversals[at]), int(table.paid[at])
    turns = "one reversal" if reversals == 1 else f"{reversals} reversals"
    return {
        "a stroke": hand.base_ms,
        turns: hand.reversal_ms * reversals,
        f"{strings_words(paid)} to lift over": hand.clear_ms * paid,
        f"{travel_mm:.0f} mm of travel": hand.fitts_ms * log2(1.0 + travel_mm / hand.target_mm),
        "inside picking": hand.inside_ms * (bool(table.inside[at]) and paid > 0),
        "dropping into a sweep": hand.drop_ms * bool(table.drop[at]),
        "turning the lean": hand.turn_ms * bool(table.turned[at]),
        "a sweep without resting": hand.attack_ms * _never_rests(model, at),
        "the hand moves for a wide jump": _wide_jump_ms(travel_mm, hand),
    }


def _never_rests(model: Model, at: tuple[int, int, int, int]) -> bool:
    swept = bool(model.pick_moves.sweep[at]) and not bool(model.pick_moves.drop[at])
    return swept and model.hands.picking.rest_strokes is RestStrokes.NEVER


def _wide_jump_ms(travel_mm: float, hand: PickingHand) -> float:
    return float(wide_jump_ms(np.array(travel_mm), hand))


def _pluck_parts(
    model: Model, before: State, after: State, at: tuple[int, int, int, int], travel_mm: float
) -> dict[str, float]:
    table, hand = model.pick_moves, model.hands.picking
    travel = {
        f"{travel_mm:.0f} mm of travel": hand.fitts_ms * log2(1.0 + travel_mm / hand.target_mm),
        "the hand moves for a wide jump": _wide_jump_ms(travel_mm, hand),
    }
    if after.stroke in PICK:
        return {"a stroke": hand.base_ms} | travel
    if table.sweep[at]:
        return {"the finger raked on": hand.rake_ms} | travel
    return {
        "a pluck": hand.pluck_ms,
        "the same finger again": hand.pluck_again_ms * (before.stroke is after.stroke),
        "the little finger plucks": hand.pluck_little_ms * (after.stroke is Stroke.LITTLE),
    } | travel


_PLUCKING = {
    Stroke.CHORD_PLUCK: "the fingers together",
    Stroke.INDEX: "the index finger",
    Stroke.MIDDLE: "the middle finger",
    Stroke.RING: "the ring finger",
    Stroke.LITTLE: "the little finger",
    Stroke.DOWN: "the pick",
    Stroke.UP: "the pick",
}


def _pluck_words(before: State, after: State, travel: int) -> str:
    if before.stroke is after.stroke:
        return f"{_PLUCKING[after.stroke]} {'rakes on' if travel == -1 else 'plucks again'}"
    return f"{_PLUCKING[after.stroke]} after {_PLUCKING[before.stroke]}"


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


def _fret_way(
    moves: FretMoves, at: int, before: State, after: State, link: Link, travels: dict[int, float]
) -> FretMove:
    def ms(part: Floats) -> float:
        return float(part[at])

    shifted = bool(moves.shifted[at])
    mover = f"finger {after.finger}" if len(after.notes) == 1 else "the slowest finger"
    shift_mm = ms(moves.shift_mm)
    frets = after.position - before.position
    fret_words = "one fret" if abs(frets) == 1 else f"{abs(frets)} frets"
    legato = link.manner.legato
    if link.manner.slur:
        legato = Mark.PULL if before.string == after.string and after.fret < before.fret else Mark.HAMMER
    put = {Mark.HAMMER: "hammered on", Mark.PULL: "pulled off to"}.get(legato or Mark.TIE, "put down")
    parts = {
        f"{mover} {put}": ms(moves.place),
        "pulled off to the open string" if legato is Mark.PULL else "lifted off": ms(moves.lift),
        "the little finger": ms(moves.fourth),
        f"fingers {before.finger} and {after.finger}, a weak pair": ms(moves.weak),
        f"{mover} rolled over": ms(moves.roll),
        f"{mover} jumps": ms(moves.jump),
        "fingers crossing": ms(moves.cross),
        LANDS: ms(moves.also),
        PLANTS: ms(moves.plant),
        f"hand moves {'up' if frets > 0 else 'down'} {fret_words}, {shift_mm:.0f} mm": ms(moves.shift),
        "the note before it must sound first": ms(moves.hold),
        "slide": ms(moves.slide),
        "the first finger coming back": ms(moves.late),
        "lifting exactly then": ms(moves.release),
    }
    return FretMove(
        shift_mm if shifted else 0.0,
        frets,
        bool(moves.rolled[at]),
        bool(moves.jumped[at]),
        {name: value for name, value in parts.items() if value > 0},
        sum(travels.values()),
    )
