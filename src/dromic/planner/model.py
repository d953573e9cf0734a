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
from dataclasses import dataclass
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
from dromic.music.riff import Stroke
from dromic.planner.caching import TableCache
from dromic.planner.fret_costs import CACHE_BYTES, fret_costs_of
from dromic.planner.kernel import JoinedMoves
from dromic.planner.kernel.inputs import EffortCurve, Part, Side, Timing
from dromic.planner.pick_costs import pick_costs_of
from dromic.planner.plan import State
from dromic.planner.step import Step
from dromic.planner.steps import Link
from dromic.schools.school import School

LAYERED_BYTES = 16 * 2**20
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


@dataclass(frozen=True, eq=False)
class Node:
    """The joint states of a step: its grips, and whether the note is sounded in each of its blocks.

    Equal ones are one object, for each model.
    """

    grips: Grips
    blocks: tuple[bool, ...]


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
        self._moves: TableCache[JoinedMoves] = TableCache(CACHE_BYTES)
        self._sides: dict[Node, Side] = {}
        self._timings: dict[object, Timing] = {}
        self._nodes: dict[tuple[Grips, tuple[bool, ...]], Node] = {}
        self._node_costs: dict[tuple[object, ...], Floats] = {}
        # Equal links are one object, and states of a node too, in all problems with this model.
        self.links: dict[Link, Link] = {}
        self.states: dict[tuple[Node, int], State] = {}
        self.reports: dict[object, object] = {}
        # Of steps in layers, see `dromic.planner.figure_layers`.
        self.layers: dict[object, object] = {}
        self.layered: TableCache[object] = TableCache(LAYERED_BYTES)
        comfort = hands.comfort
        self._curve = EffortCurve(comfort.at_ease, comfort.calm, comfort.strain, comfort.overload)

    def state(self, node: Node, joint: int) -> State:
        """A joint state in words of the trade."""
        found = self.states.get((node, joint))
        if found is None:
            states = self.picking.states
            row, grip = divmod(joint, len(node.grips))
            block, pick = divmod(row, self.picks)
            escape = {1: Stroke.DOWN, -1: Stroke.UP}.get(int(states.escape[pick]), Stroke.NONE)
            found = State(node.grips.rows[grip], states.strokes[pick], escape, node.blocks[block])
            self.states[node, joint] = found
        return found

    def forget(self) -> None:
        """Let go of what was remembered of single moves, where it has grown large."""
        known: tuple[tuple[dict[Any, Any], int], ...] = (
            (self.links, MOST_SMALL),
            (self.states, MOST_SMALL),
            (self.layers, MOST_SMALL),
            (self._nodes, MOST_SMALL),
            (self._sides, MOST_SMALL),
            (self._timings, MOST_SMALL),
            (self._node_costs, MOST_LARGE),
            (self.reports, MOST_LARGE),
        )
        for some, most in known:
            if len(some) > most:
                some.clear()
        self.picking.forget()
        self.fretting.forget()

    @cached_property
    def with_pick(self) -> bool:
        """Whether the player holds a pick."""
        return any(one in PICK for one in self.picking.strokes)

    @property
    def picks(self) -> int:
        """Number of pick states."""
        return len(self.picking.states)

    def school_of(self, step: Step) -> School:
        """School that rules a step."""
        return self._by_phrase.get(step.moment.phrase, self.school)

    def node(self, step: Step, grips: Grips) -> Node:
        """The joint states of a step."""
        slurs = step.picked and step.may_slur and self.school_of(step).slurs
        blocks = (False,) if step.slurred else (True, False) if slurs else (step.picked,)
        found = self._nodes.get((grips, blocks))
        if found is None:
            found = self._nodes[grips, blocks] = Node(grips, blocks)
        return found

    def node_costs(self, step: Step, node: Node) -> Floats:
        """Efforts that depend on one step only.

        Returns
        -------
        ndarray, shape (joint states,)
            Infinite where a lock or the school forbids the stroke.
        """
        key = (node, self.fretting.posture_key(step), self.picking.stroke_key(step, self.school_of(step)))
        found = self._node_costs.get(key)
        if found is None:
            found = self._node_costs[key] = self._costs_of(step, node)
        return found

    def _costs_of(self, step: Step, node: Node) -> Floats:
        held = self.fretting.posture_effort(step, node.grips)[None, :]
        parts = []
        for sounded in node.blocks:
            if sounded:
                strokes = self.picking.stroke_efforts(step, self.school_of(step))
                parts.append((strokes[:, node.grips.arrays.thickest] + held).ravel())
            else:
                parts.append(np.repeat(held, self.picks, axis=0).ravel())
        return parts[0] if len(parts) == 1 else np.concatenate(parts)

    def _side(self, node: Node) -> Side:
        found = self._sides.get(node)
        if found is None:
            classes = self.picking.classes(node.grips).of_grip
            found = self._sides[node] = Side(len(node.blocks), self.picks, classes, node.grips.arrays.flight)
        return found

    def prepare(self, wanted: Iterable[tuple[Node, Node, Link]]) -> None:
        """Work out the fretting hand's part of many links at once."""
        pairs = [
            (before.grips, after.grips, played)
            for before, after, link in wanted
            for _, _, played in _played(before, after, link)
        ]
        self.fretting.prepare(pairs)

    def moves(self, before: Node, after: Node, link: Link, school: School) -> JoinedMoves:
        """All joint moves over a link, remembered while there is room."""
        key = (before, after, link, school)
        found = self._moves.get(key)
        if found is None:
            parts = [self._part(before, after, *played, school) for played in _played(before, after, link)]
            found = JoinedMoves(parts, self._side(before), self._side(after), self._curve)
            self._moves.put(key, found, found.nbytes)
        return found

    def _part(self, before: Node, after: Node, one: int, two: int, link: Link, school: School) -> Part:
        return Part(
            one,
            two,
            self.fretting.link(before.grips, after.grips, link),
            self.picking.table(before.grips, after.grips, link, school) if link.picked else None,
            self._timing(link),
        )

    def _timing(self, link: Link) -> Timing:
        found = self._timings.get(link.flights_ms or link.gap_ms)
        if found is None:
            gaps_ms = np.array([link.flight_ms(flight) for flight in range(MOST_FLIGHT + 1)])
            found = Timing(1.0 / gaps_ms, self.fretting.tables.hurry(gaps_ms), 1.0 / link.gap_ms)
            self._timings[link.flights_ms or link.gap_ms] = found
        return found


def _played(before: Node, after: Node, link: Link) -> list[tuple[int, int, Link]]:
    """The link as it is played from each block to each block where that can be."""
    found = (
        (one, two, link.as_played(sounded_before, sounded_after))
        for one, sounded_before in enumerate(before.blocks)
        for two, sounded_after in enumerate(after.blocks)
    )
    return [(one, two, played) for one, two, played in found if played is not None]
