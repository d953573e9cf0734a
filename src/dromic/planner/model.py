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

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dromic.arrays import Floats, Ints
from dromic.hands.grips import Grips
from dromic.hands.profile import Hands
from dromic.hands.style import PLAIN, Sound
from dromic.hands.synchronisation import load_effort
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Stroke
from dromic.planner.caching import TableCache
from dromic.planner.fret_costs import CACHE_BYTES, FretCosts, FretLink
from dromic.planner.moves import Dense, Factored, Moves, PickHeld, StringRuns, SyncPairs
from dromic.planner.pick_costs import PickCosts, rule_travel
from dromic.planner.step import Step
from dromic.planner.steps import Link
from dromic.schools.school import PICK, School

LEAST_BYTES = 20_000


def means_of(steps: Iterable[Step], school_of: Callable[[Step], School]) -> tuple[Stroke, ...]:
    """What sounds the notes of steps: strokes of the pick, plucking fingers, chords plucked together."""
    means: dict[Stroke, None] = {}
    plucked = False
    steps = tuple(steps)
    asked = {step.locks.stroke for step in steps if step.asked and step.locks.stroke is not None}
    # A pick that is in the hand at all moves both ways.
    means |= dict.fromkeys((*(PICK if asked & set(PICK) else ()), *sorted(asked)))
    for school, chord in dict.fromkeys((school_of(step), bool(step.more)) for step in steps):
        means |= dict.fromkeys(school.means)
        plucked = plucked or (chord and bool(school.chord_pluckers))
    return (*means, Stroke.CHORD_PLUCK) if plucked else tuple(means)


@dataclass(frozen=True)
class Node:
    """The joint states of a step: its grips, and whether the note is sounded in each of its blocks."""

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
    steps : sequence of Step
        What is to be played: only what their schools sound notes with is in the player's hand.
    """

    def __init__(
        self,
        instrument: Instrument,
        hands: Hands,
        school: School,
        *,
        sound: Sound = PLAIN,
        by_phrase: Mapping[int, School] | None = None,
        steps: Sequence[Step] = (),
    ) -> None:
        self.instrument = instrument
        self.hands = hands
        self.school = school
        self._by_phrase = dict(by_phrase or {})
        self.picking = PickCosts(instrument, hands, means_of(steps, self.school_of) or school.means)
        self.fretting = FretCosts(instrument, hands, sound=sound)
        self._edges: TableCache[Moves] = TableCache(CACHE_BYTES)
        self._known_runs: dict[Grips, StringRuns] = {}

    @property
    def picks(self) -> int:
        """Number of pick states."""
        return len(self.picking.states)

    def school_of(self, step: Step) -> School:
        """School that rules a step."""
        return self._by_phrase.get(step.moment.phrase, self.school)

    def node(self, step: Step, grips: Grips) -> Node:
        """The joint states of a step."""
        if not step.picked:
            return Node(grips, (False,))
        return Node(grips, (True, False) if step.may_slur and self.school_of(step).slurs else (True,))

    def node_costs(self, step: Step, node: Node) -> Floats:
        """Efforts that depend on one step only.

        Returns
        -------
        ndarray, shape (joint states,)
            Infinite where a lock or the school forbids the stroke.
        """
        held = self.fretting.posture_effort(step, node.grips)[None, :]
        parts = []
        for sounded in node.blocks:
            if sounded:
                strokes = self.picking.stroke_efforts(step, self.school_of(step))
                parts.append((strokes[:, node.grips.arrays.thickest] + held).ravel())
            else:
                parts.append(np.repeat(held, self.picks, axis=0).ravel())
        return parts[0] if len(parts) == 1 else np.concatenate(parts)

    def prepare(self, wanted: Iterable[tuple[Node, Node, Link]]) -> None:
        """Work out the fretting hand's part of many links at once."""
        pairs = [
            (before.grips, after.grips, played)
            for before, after, link in wanted
            for played in self._played(before, after, link)
        ]
        self.fretting.prepare(pairs)

    @staticmethod
    def _played(before: Node, after: Node, link: Link) -> list[Link]:
        found = (link.as_played(one, two) for one in before.blocks for two in after.blocks)
        return [played for played in dict.fromkeys(found) if played is not None]

    # -- costs ----------------------------------------------------------------------------------------------

    def edges(self, before: Node, after: Node, link: Link, school: School) -> Moves:
        """Costs of all joint moves over a link, remembered while there is room."""
        key = (before, after, link, school)
        found = self._edges.get(key)
        if found is None:
            if len(before.blocks) == len(after.blocks) == 1:
                played = link.as_played(before.blocks[0], after.blocks[0])
                assert played is not None
                found = self._block(before.grips, after.grips, played, school)
            else:
                found = Dense(self._blocks(before, after, link, school, self._block_costs))
            self._edges.put(key, found, found.nbytes + LEAST_BYTES)
        return found

    def _blocks(
        self,
        before: Node,
        after: Node,
        link: Link,
        school: School,
        table: Callable[[Grips, Grips, Link, School], Floats],
    ) -> Floats:
        """A table of joint moves, put together from those of each pair of blocks."""
        rows, columns = self.picks * len(before.grips), self.picks * len(after.grips)
        whole = np.full((len(before.blocks) * rows, len(after.blocks) * columns), np.inf)
        for one, before_sounded in enumerate(before.blocks):
            for two, after_sounded in enumerate(after.blocks):
                played = link.as_played(before_sounded, after_sounded)
                if played is not None:
                    block = table(before.grips, after.grips, played, school)
                    whole[one * rows : (one + 1) * rows, two * columns : (two + 1) * columns] = block
        return whole

    def _block(self, before: Grips, after: Grips, link: Link, school: School) -> Moves:
        fret = self.fretting.link(before, after, link)
        if not link.picked:
            return PickHeld(fret.cost, self.picks)
        if _on_one_string(before, after, link):
            return self._factored(before, after, link, school, fret)
        return Dense(self._chord_costs(before, after, link, school, fret))

    def _block_costs(self, before: Grips, after: Grips, link: Link, school: School) -> Floats:
        return self._block(before, after, link, school).dense()

    def _factored(self, before: Grips, after: Grips, link: Link, school: School, fret: FretLink) -> Factored:
        """A link between single notes, in the parts of the two hands.

        Where the pick is the slower hand of a meeting, the meeting weighs more than the fretting hand's part says;
        these pairs are worked out for every pick state.
        """
        by_pick = self.picking.link(link, school)
        strings = before.arrays.thickest, after.arrays.thickest
        meets = (fret.extra > 0) & (fret.load < by_pick.most[strings[0]][:, strings[1]])
        two, one = np.nonzero((meets & np.isfinite(fret.cost)).T)
        slow, extra = fret.load[one, two][:, None], fret.extra[one, two][:, None]
        pairs = strings[0][one] * self.instrument.strings + strings[1][two]
        loads, costs = by_pick.by_pair
        more = self._more(loads[pairs], slow, extra)
        more += costs[pairs] + fret.cost[one, two][:, None]
        more = np.ascontiguousarray(more.T).reshape(self.picks, self.picks, -1)
        plain = fret.cost
        if len(one):
            plain = plain.copy()
            plain[one, two] = np.inf
        runs = self._runs_of(before), self._runs_of(after)
        return Factored(plain, by_pick.cost, *runs, SyncPairs(one, two, more))

    def _more(self, pick_load: Floats, fret_load: Floats, extra: Floats) -> Floats:
        """What a meeting weighs more where the pick is the slower hand, against the fretting hand's part."""
        comfort = self.hands.comfort
        slower = load_effort(np.maximum(pick_load, fret_load) + extra, comfort)
        return slower - load_effort(fret_load + extra, comfort)

    def _runs_of(self, grips: Grips) -> StringRuns:
        found = self._known_runs.get(grips)
        if found is None:
            found = self._known_runs[grips] = StringRuns.of(grips.arrays.thickest)
        return found

    def _through(self, before: Grips, after: Grips, link: Link, school: School) -> Floats:
        """Pick loads where strokes may begin and end on different strings, (picks, before, picks, after)."""
        span = self.picking.span(after, raked=link.raked)
        at = self._at(before, after, link)
        loads: Floats = self.picking.link(link, school).load[at] + span.time_ms / link.pick_gap_ms
        return loads

    def _at(self, before: Grips, after: Grips, link: Link) -> tuple[Ints, ...]:
        """Where the strokes' ends stand in the tables of the picking hand."""
        picks = np.arange(self.picks)
        ends, begins = self.picking.span(before).ends, self.picking.span(after, raked=link.raked).begins
        return picks[:, None, None, None], ends[:, :, None, None], picks[None, None, :, None], begins[None, None]

    def _chord_costs(self, before: Grips, after: Grips, link: Link, school: School, fret: FretLink) -> Floats:
        load = self._through(before, after, link, school)
        travels = rule_travel(before, after) + self.instrument.strings - 1
        rule = self.picking.rule(link, school)[travels].transpose(2, 0, 3, 1)
        rule = rule + self.picking.moves.effort[self._at(before, after, link)]
        cost = load_effort(load, self.hands.comfort) + rule + fret.cost[None, :, None, :]
        extra = fret.extra[None, :, None, :]
        cost += np.where(extra > 0, self._more(load, fret.load[None, :, None, :], extra), 0.0)
        flat: Floats = cost.reshape(self.picks * len(before), self.picks * len(after))
        return flat

    # -- loads ----------------------------------------------------------------------------------------------

    def loads(self, before: Node, after: Node, link: Link, school: School) -> Floats:
        """Largest loads of all joint moves over a link, shape (joint before, joint after)."""
        return self._blocks(before, after, link, school, self._block_loads)

    def _block_loads(self, before: Grips, after: Grips, link: Link, school: School) -> Floats:
        picks, rows, columns = self.picks, len(before), len(after)
        fret = self.fretting.link(before, after, link)
        load = np.broadcast_to(fret.load[None, :, None, :], (picks, rows, picks, columns))
        if link.picked:
            if _on_one_string(before, after, link):
                table = self.picking.link(link, school).load
                by_pick = table[:, before.arrays.thickest][..., after.arrays.thickest]
            else:
                by_pick = self._through(before, after, link, school)
            load = np.maximum(by_pick, load)
            load += fret.extra[None, :, None, :]
        return load.reshape(picks * rows, picks * columns)

    def pair_loads(self, before: Node, after: Node, link: Link, school: School, one: Ints, two: Ints) -> Floats:
        """Largest loads from joint states `one` to joint states `two`, arrays of one length."""
        rows, columns = self.picks * len(before.grips), self.picks * len(after.grips)
        found = np.zeros(len(one))
        for block_a, before_sounded in enumerate(before.blocks):
            for block_b, after_sounded in enumerate(after.blocks):
                at = np.flatnonzero((one // rows == block_a) & (two // columns == block_b))
                played = link.as_played(before_sounded, after_sounded)
                if len(at) and played is not None:
                    pairs = one[at] % rows, two[at] % columns
                    found[at] = self._block_pair_loads(before.grips, after.grips, played, school, *pairs)
        return found

    def _block_pair_loads(
        self, before: Grips, after: Grips, link: Link, school: School, one: Ints, two: Ints
    ) -> Floats:
        pick_one, grip_one = np.divmod(one, len(before))
        pick_two, grip_two = np.divmod(two, len(after))
        fret = self.fretting.link(before, after, link)
        load: Floats = fret.load[grip_one, grip_two]
        if link.picked:
            ends, span = self.picking.span(before).ends, self.picking.span(after, raked=link.raked)
            strings = ends[pick_one, grip_one], span.begins[pick_two, grip_two]
            picked = self.picking.link(link, school).load[pick_one, strings[0], pick_two, strings[1]]
            picked = picked + span.time_ms[pick_two, grip_two] / link.pick_gap_ms
            load = np.maximum(load, picked) + fret.extra[grip_one, grip_two]
        return load


def _on_one_string(before: Grips, after: Grips, link: Link) -> bool:
    """Whether every stroke begins and ends on one string."""
    return before.single and after.single and not link.raked
