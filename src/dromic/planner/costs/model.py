"""The movement model applied to one task: costs of steps and links as arrays, both hands joined.

A joint state is a way to sound a note together with a grip. Ways to sound are one table: every stroke of the pick
in each lean, every plucking finger, a chord plucked together (`dromic.hands.picking.pick_states`), each once where
it sounds the note and once where it is only carried on, because the note is reached by legato. A step has the
*blocks* it can use: sounded, carried, or, where it may be slurred, both; its joint states are numbered ``(block *
picks + pick state) * grips + grip``.

cost of a link = effort(pick load) + effort(fret load) + effort(sync load) + finger comfort + the school's rule
load of a link = the largest of the three loads, each time needed over time there is
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from functools import cached_property
from typing import Any

import numpy as np

from dromic.arrays import Floats
from dromic.hands.grips import Grips
from dromic.hands.picking import PICK
from dromic.hands.possible_moves import MOST_FLIGHT
from dromic.hands.profile import Hands
from dromic.hands.style import PLAIN, Sound
from dromic.instrument.instrument import Instrument
from dromic.memory import Memo
from dromic.music.riff import Stroke
from dromic.planner.costs.fret_costs import CACHE_BYTES, Hold, fret_costs_of
from dromic.planner.costs.layers import LayeredMoves, StepLayers, layering_of, step_layers
from dromic.planner.costs.nodes import Node
from dromic.planner.costs.pick_costs import Strike, pick_costs_of
from dromic.planner.kernel import JoinedMoves
from dromic.planner.kernel.inputs import EffortCurve, Part, Side, Timing
from dromic.planner.task.state import State
from dromic.planner.task.step import Step
from dromic.planner.task.task import Link, flight_ms
from dromic.schools.school import NotShownError, School

LAYERED_BYTES = 16 * 2**20
OWN_BYTES = 8_000
MOST_SMALL, MOST_LARGE = 30_000, 5_000


def means_of(steps: Iterable[Step], school_of: Callable[[Step], School]) -> tuple[Stroke, ...]:
    """What sounds the notes of steps: strokes of the pick, plucking fingers, chords plucked together."""
    means: dict[Stroke, None] = {}
    plucked = False
    steps = tuple(steps)
    exempt = {step.locks.stroke for step in steps if step.exempt and step.locks.stroke is not None}
    # A pick that is in the hand at all moves both ways.
    means |= dict.fromkeys((*(PICK if exempt & set(PICK) else ()), *sorted(exempt)))
    for school, chord in dict.fromkeys((school_of(step), bool(step.more)) for step in steps):
        means |= dict.fromkeys(school.means)
        plucked = plucked or (chord and bool(school.chord_pluckers))
    return (*means, Stroke.CHORD_PLUCK) if plucked else tuple(means)


class Model:
    """The model for one player, instrument and school.

    Parameters
    ----------
    instrument : Instrument
    hands : Hands
    school : School
    sound : Sound
    by_phrase : mapping of int to School
        Schools of single phrases, by the phrase's index.
    means : tuple of Stroke
        What is in the player's hand; empty for all that the school sounds notes with.
    """

    def __init__(
        self,
        instrument: Instrument,
        hands: Hands,
        school: School,
        *,
        sound: Sound = PLAIN,
        by_phrase: Mapping[int, School] | None = None,
        means: tuple[Stroke, ...] = (),
    ) -> None:
        self.instrument = instrument
        self.hands = hands
        self.school = school
        self._by_phrase = dict(by_phrase or {})
        self.picking = pick_costs_of(instrument, hands, means or school.means)
        self.fretting = fret_costs_of(instrument, hands, sound)
        # All are shared by the problems of this model, so that equal ones are one object.
        self._moves = Memo(self._joined_moves, CACHE_BYTES, lambda moves: moves.nbytes)
        self._side = Memo(self._new_side, MOST_SMALL)
        self._timing = Memo(self._new_timing, MOST_SMALL)
        self._node = Memo(Node, MOST_SMALL)
        self._node_costs = Memo(self._costs_of, MOST_LARGE)
        self._state = Memo(self._new_state, MOST_SMALL)
        self.shared_link = Memo(_same_link, MOST_SMALL)
        # Of transitions; they are made many at once, and put (`dromic.planner.planning`).
        self.reports: Memo[Any] = Memo(_never, MOST_LARGE)
        self._layers = Memo(step_layers, MOST_SMALL)
        self.layering = Memo(layering_of, LAYERED_BYTES // OWN_BYTES)
        self.layered_moves = Memo(LayeredMoves, LAYERED_BYTES // OWN_BYTES)
        comfort = hands.comfort
        self._curve = EffortCurve(comfort.at_ease, comfort.calm, comfort.strain, comfort.overload)

    def state(self, node: Node, joint: int) -> State:
        """A joint state in words of the trade."""
        return self._state(node, joint)

    def _new_state(self, node: Node, joint: int) -> State:
        states = self.picking.states
        row, grip = divmod(joint, len(node.grips))
        block, pick = divmod(row, self.picks)
        escape = {1: Stroke.DOWN, -1: Stroke.UP}.get(int(states.escape[pick]), Stroke.NONE)
        return State(node.grips.rows[grip], states.strokes[pick], escape, node.blocks[block])

    def layers(self, node: Node, strings: tuple[tuple[int, ...], ...] | None) -> StepLayers:
        """Layers of a step; see `dromic.planner.costs.layers.step_layers`."""
        return self._layers(node, strings, self.picks)

    @cached_property
    def with_pick(self) -> bool:
        """Whether the player holds a pick."""
        return any(stroke in PICK for stroke in self.picking.strokes)

    @property
    def picks(self) -> int:
        """Number of pick states."""
        return len(self.picking.states)

    def school_of(self, step: Step) -> School:
        """School that rules a step."""
        return self._by_phrase.get(step.moment.phrase, self.school)

    def hold(self, step: Step) -> Hold:
        """How the notes of a step are held."""
        return self.fretting.hold(step, plucked=self.school_of(step).plucks(len(step.more), raked=step.raked))

    def node(self, step: Step, grips: Grips) -> Node:
        """The joint states of a step."""
        slurs = step.picked and step.may_slur and self.school_of(step).slurs
        blocks = (False,) if step.slurred else (True, False) if slurs else (step.picked,)
        return self._node(grips, blocks)

    def node_costs(self, step: Step, node: Node) -> Floats:
        """Efforts that depend on one step only.

        Returns
        -------
        ndarray, shape (joint states,)
            Infinite where a lock or the school forbids the stroke.
        """
        school, hold = self.school_of(step), self.hold(step)
        if not step.picked:
            return self._node_costs(node, hold, None, school)
        try:
            return self._node_costs(node, hold, self.picking.strike(step, school), school)
        except NotShownError:
            self.picking.reads_count(school)
            return self._node_costs(node, hold, self.picking.strike(step, school), school)

    def _costs_of(self, node: Node, hold: Hold, strike: Strike | None, school: School) -> Floats:
        held = self.fretting.posture_effort(hold, node.grips)[None, :]
        parts = []
        for sounded in node.blocks:
            if sounded:
                assert strike is not None, "a step that is not picked takes no stroke"
                strokes = self.picking.stroke_efforts(strike, school)
                parts.append((strokes[:, node.grips.arrays.thickest] + held).ravel())
            else:
                parts.append(np.repeat(held, self.picks, axis=0).ravel())
        return parts[0] if len(parts) == 1 else np.concatenate(parts)

    def _new_side(self, node: Node) -> Side:
        classes = self.picking.classes(node.grips).of_grip
        return Side(len(node.blocks), self.picks, classes, node.grips.arrays.flight)

    def prepare(self, wanted: Iterable[tuple[Node, Node, Link]]) -> None:
        """Work out the fretting hand's part of many links at once."""
        pairs = [
            (before.grips, after.grips, played)
            for before, after, link in wanted
            for _, _, played in _played(before, after, link)
        ]
        self.fretting.prepare(pairs)

    def moves(self, before: Node, after: Node, link: Link, school: School) -> JoinedMoves:
        """All joint moves over a link, remembered while there is room.

        Parameters
        ----------
        before, after : Node
        link : Link
        school : School
        """
        return self._moves(before, after, link, school)

    def _joined_moves(self, before: Node, after: Node, link: Link, school: School) -> JoinedMoves:
        parts = [self._part(before, after, *played, school) for played in _played(before, after, link)]
        return JoinedMoves(parts, self._side(before), self._side(after), self._curve)

    def _part(self, before: Node, after: Node, one: int, two: int, link: Link, school: School) -> Part:
        return Part(
            one,
            two,
            self.fretting.link(before.grips, after.grips, link),
            self.picking.table(before.grips, after.grips, link, school) if link.picked else None,
            self._timing(link.flights_ms, link.gap_ms),
        )

    def _new_timing(self, flights_ms: tuple[float, ...], gap_ms: float) -> Timing:
        gaps_ms = np.array([flight_ms(flights_ms, gap_ms, flight) for flight in range(MOST_FLIGHT + 1)])
        return Timing(1.0 / gaps_ms, self.fretting.tables.hurry(gaps_ms), 1.0 / gap_ms)


def _same_link(link: Link) -> Link:
    return link


def _never(*_arguments: object) -> object:
    raise AssertionError("reports are made many at once, and put")


def _played(before: Node, after: Node, link: Link) -> list[tuple[int, int, Link]]:
    """The link as it is played from each block to each block where that can be."""
    found = (
        (one, two, link.as_played(sounded_before, sounded_after))
        for one, sounded_before in enumerate(before.blocks)
        for two, sounded_after in enumerate(after.blocks)
    )
    return [(one, two, played) for one, two, played in found if played is not None]
