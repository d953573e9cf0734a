"""The movement model applied to one task: efforts of steps and costs of links as arrays.

A joint state is a fretting state together with a pick state (stroke and lean). Joint states of a step are
numbered ``fretting state * K + pick state``, K being the number of pick states. A step that is not picked
carries the pick state of the last stroke; legato stays on its string, so the pick's string is the same too.

cost of a link = effort(pick load) + effort(fret load) + effort(sync load) + weak pairs + the school's rule
load of a link = the largest of the three loads, each time needed over time there is
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from dromic.hands.fretting import FretMoves, FretStates, Posture, fret_moves, posture
from dromic.hands.picking import PickMoves, PickStates, pick_moves, pick_states
from dromic.hands.profile import Hands
from dromic.hands.together import extra_parts, load_effort
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Mark, Stroke
from dromic.planner.steps import Link, Step
from dromic.schools.school import Change, School

Floats = NDArray[np.float64]

_STROKE_OF = {1: Stroke.DOWN, -1: Stroke.UP}
CACHE_BYTES = 256 * 2**20


@dataclass(frozen=True)
class LinkCosts:
    """Costs and loads of all moves over one link, each of shape (joint before, joint after).

    Moves that cannot be made cost infinity.
    """

    cost: Floats
    load: Floats


class Model:
    """The model for one player, instrument, school and tempo.

    Parameters
    ----------
    instrument : Instrument
    hands : Hands
    school : School
    tempo : float
        Quarter notes a minute.
    high_gain : bool
    """

    def __init__(
        self, instrument: Instrument, hands: Hands, school: School, tempo: float, *, high_gain: bool = False
    ) -> None:
        self.instrument = instrument
        self.hands = hands
        self.school = school
        self.high_gain = high_gain
        self.ms_per_quarter = 60_000.0 / tempo
        self.states: PickStates = pick_states(hands.picking)
        self.strokes = tuple(_STROKE_OF[int(direction)] for direction in self.states.direction)
        self.moves: PickMoves = pick_moves(instrument.pick_y, self.states, hands.picking)
        self._school_efforts = self._change_efforts()
        self._fret_cache: dict[tuple[object, ...], FretMoves] = {}
        self._pick_cache: dict[tuple[object, ...], tuple[Floats, Floats]] = {}
        self._link_cache: dict[tuple[object, ...], LinkCosts] = {}
        self._link_bytes = 0

    @property
    def pick_count(self) -> int:
        """Number of pick states K."""
        return len(self.states)

    def ms(self, quarters: Fraction) -> float:
        """Time that a length has at the tempo."""
        return float(quarters) * self.ms_per_quarter

    def step_efforts(self, step: Step, states: FretStates) -> Floats:
        """Efforts that depend on one step only.

        Returns
        -------
        ndarray, shape (joint states,)
            Infinite where a lock or the school forbids the stroke.
        """
        return (self.posture(states, step).total[:, None] + self.stroke_efforts(step)[None, :]).ravel()

    def posture(self, states: FretStates, step: Step) -> Posture:
        """How comfortable each way of fretting a step is to hold."""
        return posture(states, self.instrument, self.hands.fretting, self.hands.comfort, bend=step.bent)

    def stroke_efforts(self, step: Step) -> Floats:
        """Efforts of each pick state at a step, shape (K,); infinite where forbidden."""
        efforts = np.zeros(self.pick_count)
        if not step.picked:
            return efforts
        for index, stroke in enumerate(self.strokes):
            verdict = self.school.on_stroke(stroke, step.place)
            if not verdict.allowed or step.locks.stroke not in (None, stroke):
                efforts[index] = np.inf
                continue
            efforts[index] = verdict.effort + sum(self.stroke_parts(step, index).values())
        return efforts

    def stroke_parts(self, step: Step, pick_state: int) -> dict[str, float]:
        """Named comfort efforts of a stroke at a step."""
        comfort = self.hands.comfort
        up = self.strokes[pick_state] is Stroke.UP
        habitual = self.states.escape[pick_state] == self.states.escape[0]
        return {
            "an up on a beat": comfort.up_on_beat if up and step.place.on_beat else 0.0,
            "an up on an accent": comfort.up_on_accent if up and Mark.ACCENT in step.what.marks else 0.0,
            "a lean that is not the habitual one": 0.0 if habitual else comfort.other_lean,
        }

    def fret_moves(self, before: FretStates, after: FretStates, link: Link) -> FretMoves:
        """Moves of the fretting hand over a link."""
        key = (before, after, link.legato, link.silent_between)
        if key not in self._fret_cache:
            self._fret_cache[key] = self.fret_moves_once(before, after, link)
        return self._fret_cache[key]

    def fret_moves_once(self, before: FretStates, after: FretStates, link: Link) -> FretMoves:
        """Do as `fret_moves`, for states that nobody keeps."""
        return fret_moves(
            before,
            after,
            self.instrument,
            self.hands.fretting,
            self.hands.comfort,
            legato=link.legato,
            silent_between=link.silent_between,
            high_gain=self.high_gain,
        )

    def pick_extra_ms(self, link: Link) -> float:
        """Time that palm and accent add to the pick's way."""
        picking = self.hands.picking
        return picking.palm_ms * link.palm_changes + picking.accent_ms * link.accent

    def _pick_loads(self, link: Link) -> tuple[Floats, Floats]:
        """Loads and efforts of the pick, each (S, K, S, K)."""
        key = (link.pick_quarters, link.palm_changes, link.accent)
        if key not in self._pick_cache:
            load = (self.moves.time_ms + self.pick_extra_ms(link)) / self.ms(link.pick_quarters)
            effort = load_effort(load, self.hands.comfort.overload) + self._school_efforts
            self._pick_cache[key] = (load, effort)
        return self._pick_cache[key]

    def _change_efforts(self) -> Floats:
        """Efforts of the school's rule on changes, (S, K, S, K), infinite where forbidden."""
        strings, picks = self.instrument.strings, self.pick_count
        by_travel = np.empty((2 * strings - 1, picks, picks))
        for travel in range(1 - strings, strings):
            for one, before in enumerate(self.strokes):
                for two, after in enumerate(self.strokes):
                    verdict = self.school.on_change(Change(before, after, travel))
                    by_travel[travel + strings - 1, one, two] = verdict.effort if verdict.allowed else np.inf
        steps = np.arange(strings)
        travels = steps[None, :] - steps[:, None] + strings - 1
        efforts: Floats = by_travel[travels].transpose(0, 2, 1, 3)
        return efforts

    def link_costs(self, before: FretStates, after: FretStates, link: Link) -> LinkCosts:
        """Costs and loads of a link, remembered while there is room."""
        key = (before, after, link)
        found = self._link_cache.get(key)
        if found is None:
            found = self._link_costs(before, after, link)
            size = found.cost.nbytes + found.load.nbytes
            if self._link_bytes + size <= CACHE_BYTES:
                self._link_cache[key] = found
                self._link_bytes += size
        return found

    def _link_costs(self, before: FretStates, after: FretStates, link: Link) -> LinkCosts:
        picks = self.pick_count
        shape = (len(before), picks, len(after), picks)
        moves = self.fret_moves(before, after, link)
        gap = self.ms(link.quarters)
        overload = self.hands.comfort.overload
        fret_load = moves.time_ms / gap
        fret_cost = load_effort(fret_load, overload) + moves.discomfort
        fret_cost[~moves.allowed] = np.inf
        if not link.picked:
            carried = np.where(np.eye(picks, dtype=bool), 0.0, np.inf)
            cost = fret_cost[:, None, :, None] + carried[None, :, None, :]
            load = np.broadcast_to(fret_load[:, None, :, None], shape)
            return LinkCosts(_flat(cost), _flat(load))

        all_loads, all_efforts = self._pick_loads(link)
        pick_load = all_loads[before.string][:, :, after.string]
        cost = all_efforts[before.string][:, :, after.string] + fret_cost[:, None, :, None]
        load = np.maximum(pick_load, fret_load[:, None, :, None])
        changes = before.string[:, None] != after.string[None, :]
        parts = extra_parts(moves, changes, self.hands.together, picked=True, resumes=link.resumes)
        extra = sum(parts.values(), np.zeros(changes.shape))
        spots = extra > 0
        if spots.any():
            extra_load = np.where(spots, extra / gap, 0.0)
            sync = load + extra_load[:, None, :, None]
            cost += np.where(spots[:, None, :, None], load_effort(sync, overload), 0.0)
            load = sync
        return LinkCosts(_flat(cost), _flat(load))


def _flat(joint: Floats) -> Floats:
    """Reshape (A, K, B, K) to (A K, B K)."""
    a, k, b, m = joint.shape
    return np.ascontiguousarray(joint).reshape(a * k, b * m)
