"""The movement model applied to one task: efforts of steps and costs of links as arrays.

A joint state is a pick state (stroke and lean, or plucking finger) together with a fretting state. Joint states of
a step are numbered ``pick state * F + fretting state``, F being the number of fretting states. A step that is not
picked carries the pick state of the last stroke; legato stays on its string, so the pick's string is the same too.

cost of a link = effort(pick load) + effort(fret load) + effort(sync load) + finger comfort + the school's rule
load of a link = the largest of the three loads, each time needed over time there is
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from dromic.hands.fretting import FretStates, FrettingTables, Posture, TransitionKind, joined, posture
from dromic.hands.profile import Hands
from dromic.hands.shape_moves import shape_moves
from dromic.hands.shapes import ShapeStates, shape_posture
from dromic.hands.synchronisation import SyncContext, load_effort, sync_times
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Stroke
from dromic.planner.caching import TableCache
from dromic.planner.moves import Dense, Factored, Moves, PickHeld, StringRuns, SyncPairs
from dromic.planner.pick_tables import PickTables
from dromic.planner.steps import Link, Step
from dromic.planner.string_travel import changes_string, dragged_strings, expand_by_string, rule_travel
from dromic.planner.stroke_costs import StrokeCosts
from dromic.schools.school import School

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

CACHE_BYTES = 96 * 2**20
LEAST_BYTES = 20_000


@dataclass(frozen=True)
class FretLink:
    """The fretting hand's part of a link, each of shape (states before, states after).

    `cost` is its effort with the comforts, infinite where a move cannot be made, and with the effort of meeting the
    pick in the same gap as far as the fretting hand is the slower of the two. `extra` is the load that the meeting
    adds.
    """

    load: Floats
    cost: Floats
    extra: Floats


PAIRS_AT_ONCE = 16_384

FretKey = tuple[FretStates, FretStates, tuple[TransitionKind, SyncContext, Fraction]]


def _fret_key(before: FretStates, after: FretStates, link: Link) -> FretKey:
    """What the fretting hand's part of a link depends on."""
    return before, after, link.fret_key


def _chunks(
    members: Sequence[tuple[FretStates, FretStates, Link]],
) -> Iterator[list[tuple[FretStates, FretStates, Link]]]:
    """Split links into groups that hold about as many pairs of states as the processor's cache does."""
    chunk: list[tuple[FretStates, FretStates, Link]] = []
    pairs = 0
    for member in members:
        chunk.append(member)
        pairs += len(member[0]) * len(member[1])
        if pairs >= PAIRS_AT_ONCE:
            yield chunk
            chunk, pairs = [], 0
    if chunk:
        yield chunk


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
    by_phrase : mapping of int to School
        Schools of single phrases, by the phrase's index.
    chords : bool
        Whether notes are struck together anywhere.
    """

    def __init__(
        self,
        instrument: Instrument,
        hands: Hands,
        school: School,
        tempo: float,
        *,
        high_gain: bool = False,
        by_phrase: Mapping[int, School] | None = None,
        chords: bool = False,
    ) -> None:
        self.instrument = instrument
        self.hands = hands
        self.school = school
        self._by_phrase = dict(by_phrase or {})
        self.ms_per_quarter = 60_000.0 / tempo
        schools = (school, *self._by_phrase.values())
        means = dict.fromkeys(stroke for one in schools for stroke in one.means)
        if chords and any(one.chord_pluckers for one in schools):
            means[Stroke.CHORD_PLUCK] = None
        self.slurs = any(one.slurs for one in schools)
        self.picking = PickTables(instrument, hands, tuple(means), self.ms_per_quarter)
        self.states, self.strokes = self.picking.states, self.picking.strokes
        self.pick_moves = self.picking.moves
        self.striking = StrokeCosts(self.states, instrument.strings, hands.comfort)
        self.fretting = FrettingTables(instrument, hands.fretting, hands.comfort, high_gain=high_gain)
        self._fret_cache: TableCache[FretLink] = TableCache(CACHE_BYTES)
        self._moves_cache: TableCache[Moves] = TableCache(CACHE_BYTES)
        self._known_runs: dict[FretStates, StringRuns] = {}
        self._posture_cache: dict[tuple[FretStates, bool, bool], Posture] = {}

    @property
    def pick_count(self) -> int:
        """Number of pick states K."""
        return len(self.states)

    @property
    def rows(self) -> tuple[tuple[Stroke, bool], ...]:
        """Stroke, and whether it sounds the note, of each row of joint states of a fretting state."""
        sounded = [(stroke, True) for stroke in self.strokes]
        return tuple([*sounded, *((stroke, False) for stroke in self.strokes)] if self.slurs else sounded)

    def link_between(self, link: Link, before_sounded: bool, after_sounded: bool) -> Link:
        """The link as it is played; the written one unless the school may slur."""
        return (link.as_played(before_sounded, after_sounded) or link) if self.slurs else link

    def school_of(self, step: Step) -> School:
        """School that rules a step."""
        return self._by_phrase.get(step.moment.phrase, self.school)

    def ms(self, quarters: Fraction) -> float:
        """Time that a length has at the tempo."""
        return float(quarters) * self.ms_per_quarter

    # -- steps ----------------------------------------------------------------------------------------------

    def step_efforts(self, step: Step, states: FretStates) -> Floats:
        """Efforts that depend on one step only.

        Returns
        -------
        ndarray, shape (joint states,)
            Infinite where a lock or the school forbids the stroke.
        """
        held = self.posture(states, step).total[None, :]
        sounded = self.striking.efforts(step, self.school_of(step))[:, states.string] + held
        if not self.slurs:
            return sounded.ravel()
        school = self.school_of(step)
        slurred = np.repeat(held, self.pick_count, axis=0)
        if step.picked:
            sounded = sounded + school.picked_effort
            if not (school.slurs and step.may_slur):
                slurred = np.full_like(slurred, np.inf)
        else:
            sounded = np.full_like(sounded, np.inf)
        return np.concatenate((sounded.ravel(), slurred.ravel()))

    def posture(self, states: FretStates, step: Step) -> Posture:
        """How comfortable each way of fretting a step is to hold."""
        key = (states, step.bend, step.vibrato)
        found = self._posture_cache.get(key)
        if found is None:
            hand, comfort = self.hands.fretting, self.hands.comfort
            plan_settings = {"bend": step.bend, "vibrato": step.vibrato}
            if isinstance(states, ShapeStates):
                found = shape_posture(states, self.instrument, hand, comfort, **plan_settings)
            else:
                found = posture(states, self.instrument, hand, comfort, **plan_settings)
            self._posture_cache[key] = found
        return found

    def stroke_parts(self, step: Step, pick_state: int) -> dict[str, float]:
        """Named comfort efforts of a stroke at a step."""
        return self.striking.parts(step, pick_state)

    # -- the fretting hand ----------------------------------------------------------------------------------

    def prepare(self, wanted: Iterable[tuple[FretStates, FretStates, Link]]) -> None:
        """Work out the fretting hand's part of many links at once, which is much faster than one by one."""
        groups: dict[tuple[object, ...], list[tuple[FretStates, FretStates, Link]]] = defaultdict(list)
        seen: set[tuple[object, ...]] = set()
        for before, after, link in wanted:
            key = _fret_key(before, after, link)
            if key not in self._fret_cache and key not in seen:
                seen.add(key)
                if isinstance(before, ShapeStates) or isinstance(after, ShapeStates):
                    self._remember(key, self._shape_link(before, after, link))
                    continue
                groups[(link.manner, link.meeting)].append((before, after, link))
        for members in groups.values():
            for chunk in _chunks(members):
                self._prepare_chunk(chunk)

    def _prepare_chunk(self, members: Sequence[tuple[FretStates, FretStates, Link]]) -> None:
        """Work out links that differ in their states and gaps only, as one long row of pairs."""
        link = members[0][2]
        shapes = [(len(before), len(after)) for before, after, _ in members]
        rows = [np.repeat(np.arange(a), b) for a, b in shapes]
        columns = [np.tile(np.arange(b), a) for a, b in shapes]
        one = joined([before.take(row) for (before, _, _), row in zip(members, rows, strict=True)])
        two = joined([after.take(column) for (_, after, _), column in zip(members, columns, strict=True)])
        gaps = np.repeat([self.ms(link.quarters) for _, _, link in members], [a * b for a, b in shapes])
        overload = self.hands.comfort.overload
        moves = self.fretting.paired_moves(one, two, link.manner)
        load = moves.time_ms / gaps
        cost = load_effort(load, overload) + moves.discomfort
        cost[~moves.allowed] = np.inf
        changes = one.string != two.string
        parts = sync_times(moves, changes, self.hands.together, link.meeting)
        extra = sum(parts.values(), np.zeros(len(load))) / gaps
        spots = np.flatnonzero(extra)
        cost[spots] += load_effort(load[spots] + extra[spots], overload)
        ends = np.cumsum([a * b for a, b in shapes])
        for (before, after, own), shape, end in zip(members, shapes, ends, strict=True):
            part = slice(end - shape[0] * shape[1], end)
            tables = (one[part].reshape(shape).copy() for one in (load, cost, extra))
            self._remember(_fret_key(before, after, own), FretLink(*tables))

    def _shape_link(self, before: FretStates, after: FretStates, link: Link) -> FretLink:
        """The fretting hand's part of a link from or to a chord."""
        moves = shape_moves(before, after, self.fretting, link.manner)
        overload = self.hands.comfort.overload
        load = moves.time_ms / self.ms(link.quarters)
        cost = load_effort(load, overload) + moves.discomfort
        cost[~moves.allowed] = np.inf
        changes = changes_string(before, after)
        parts = sync_times(moves, changes, self.hands.together, link.meeting)
        extra = sum(parts.values(), np.zeros(load.shape)) / self.ms(link.quarters)
        cost += np.where(extra > 0, load_effort(load + extra, overload), 0.0)
        return FretLink(load, cost, extra)

    def fret_link(self, before: FretStates, after: FretStates, link: Link) -> FretLink:
        """The fretting hand's part of a link."""
        key = _fret_key(before, after, link)
        found = self._fret_cache.get(key)
        if found is None:
            self.prepare([(before, after, link)])
            found = self._fret_cache.get(key)
        assert found is not None
        return found

    def _remember(self, key: FretKey, link: FretLink) -> None:
        self._fret_cache.put(key, link, 3 * link.cost.nbytes)

    # -- both -----------------------------------------------------------------------------------------------

    def moves(self, before: FretStates, after: FretStates, link: Link, school: School) -> Moves:
        """Costs of all joint moves over a link, remembered while there is room."""
        key = (before, after, link, school)
        found = self._moves_cache.get(key)
        if found is None:
            factored = link.picked and not self._needs_shapes(before, after, link)
            if self.slurs or (link.picked and not factored):
                found = Dense(self._slurred(self._costs, before, after, link, school))
                size = found.table.nbytes
            elif not factored:
                found = PickHeld(self.fret_link(before, after, link).cost, self.pick_count)
                size = 0
            else:
                found = self._factored(before, after, link, school)
                size = 2 * found.fret.nbytes + found.special.cost.nbytes
            self._moves_cache.put(key, found, size + LEAST_BYTES)
        return found

    def _factored(self, before: FretStates, after: FretStates, link: Link, school: School) -> Factored:
        """A link between single notes, in the parts of the two hands.

        Where the pick is the slower hand of a meeting, the meeting weighs more than the fretting hand's part says;
        these pairs are worked out for every pick state.
        """
        fret, by_pick = self.fret_link(before, after, link), self.picking.link(link, school)
        meets = (fret.extra > 0) & (fret.load < by_pick.most[before.string][:, after.string])
        two, one = np.nonzero((meets & np.isfinite(fret.cost)).T)
        slow, extra = fret.load[one, two][:, None], fret.extra[one, two][:, None]
        pairs = before.string[one] * self.instrument.strings + after.string[two]
        loads, costs = by_pick.by_pair
        overload = self.hands.comfort.overload
        more = load_effort(np.maximum(loads[pairs], slow) + extra, overload) - load_effort(slow + extra, overload)
        more += costs[pairs] + fret.cost[one, two][:, None]
        more = np.ascontiguousarray(more.T).reshape(self.pick_count, self.pick_count, -1)
        plain = fret.cost
        if len(one):
            plain = plain.copy()
            plain[one, two] = np.inf
        runs = self._runs_of(before), self._runs_of(after)
        return Factored(plain, by_pick.cost, *runs, SyncPairs(one, two, more))

    def _runs_of(self, states: FretStates) -> StringRuns:
        found = self._known_runs.get(states)
        if found is None:
            found = self._known_runs[states] = StringRuns.of(states.string)
        return found

    def costs(self, before: FretStates, after: FretStates, link: Link, school: School) -> Floats:
        """Costs of all joint moves over a link.

        Returns
        -------
        ndarray, shape (joint before, joint after)
            Infinite where a move cannot be made.
        """
        return self.moves(before, after, link, school).dense()

    def _slurred(
        self,
        table: Callable[[FretStates, FretStates, Link, School], Floats],
        before: FretStates,
        after: FretStates,
        link: Link,
        school: School,
    ) -> Floats:
        """A table of joint moves; where notes may be slurred, one of four, for notes picked or slurred."""
        if not self.slurs:
            return table(before, after, link, school)
        rows, columns = self.pick_count * len(before), self.pick_count * len(after)
        whole = np.full((2 * rows, 2 * columns), np.inf)
        for one, before_sounded in enumerate((True, False)):
            for two, after_sounded in enumerate((True, False)):
                played = link.as_played(before_sounded, after_sounded)
                if played is not None:
                    block = table(before, after, played, school)
                    whole[one * rows : (one + 1) * rows, two * columns : (two + 1) * columns] = block
        return whole

    def _costs(self, before: FretStates, after: FretStates, link: Link, school: School) -> Floats:
        if not link.picked:
            return PickHeld(self.fret_link(before, after, link).cost, self.pick_count).dense()
        if self._needs_shapes(before, after, link):
            return self._shape_costs(before, after, link, school)
        return self._factored(before, after, link, school).dense()

    @staticmethod
    def _needs_shapes(before: FretStates, after: FretStates, link: Link) -> bool:
        """Whether strokes may begin and end on different strings."""
        return link.raked or isinstance(before, ShapeStates) or isinstance(after, ShapeStates)

    def _strokes_through(self, states: FretStates, raked: bool = False) -> tuple[Ints, Ints, Floats]:
        """Where each stroke begins and ends on each state and how long it is on its way, each (picks, states)."""
        low = states.string
        high = states.high if isinstance(states, ShapeStates) else low
        down, up = (self.states.direction[:, None] == sign for sign in (1, -1))
        begins, ends = np.where(up, high, low), np.where(down, high, low)
        hand = self.hands.picking
        each_ms = hand.drag_ms if raked else hand.through_ms
        if raked:
            begins = begins - down * dragged_strings(states, 1, self.instrument.strings) * (low == high)
            begins = begins + up * dragged_strings(states, -1, self.instrument.strings) * (low == high)
        return begins, ends, each_ms * np.abs(np.where(down | up, ends - begins, high - low))

    def _shape_loads(
        self, before: FretStates, after: FretStates, link: Link, school: School
    ) -> tuple[Floats, Floats]:
        """Pick loads and the school's efforts where chords are struck, each (picks, before, picks, after)."""
        picks = np.arange(self.pick_count)
        _, ends, _ = self._strokes_through(before)
        begins, _, through_ms = self._strokes_through(after, link.raked)
        at = (picks[:, None, None, None], ends[:, :, None, None], picks[None, None, :, None], begins[None, None])
        load = self.picking.link(link, school).load[at] + through_ms / self.ms(link.pick_quarters)
        travels = rule_travel(before, after) + self.instrument.strings - 1
        return load, self.picking.rule(link, school)[travels].transpose(2, 0, 3, 1)

    def _shape_costs(self, before: FretStates, after: FretStates, link: Link, school: School) -> Floats:
        overload = self.hands.comfort.overload
        fret = self.fret_link(before, after, link)
        load, rule = self._shape_loads(before, after, link, school)
        cost = load_effort(load, overload) + rule + fret.cost[None, :, None, :]
        slow, extra = fret.load[None, :, None, :], fret.extra[None, :, None, :]
        more = load_effort(np.maximum(load, slow) + extra, overload) - load_effort(slow + extra, overload)
        cost += np.where(extra > 0, more, 0.0)
        picks = self.pick_count
        flat: Floats = cost.reshape(picks * len(before), picks * len(after))
        return flat

    def loads(self, before: FretStates, after: FretStates, link: Link, school: School) -> Floats:
        """Largest loads of all joint moves over a link, shape (joint before, joint after)."""
        return self._slurred(self._loads, before, after, link, school)

    def _loads(self, before: FretStates, after: FretStates, link: Link, school: School) -> Floats:
        picks, rows, columns = self.pick_count, len(before), len(after)
        shape = (picks, rows, picks, columns)
        fret = self.fret_link(before, after, link)
        load = np.broadcast_to(fret.load[None, :, None, :], shape)
        if link.picked:
            if self._needs_shapes(before, after, link):
                by_pick, _ = self._shape_loads(before, after, link, school)
            else:
                by_pick = expand_by_string(self.picking.link(link, school).load[:, before.string], after)
            load = np.maximum(by_pick, load)
            load += fret.extra[None, :, None, :]
        return load.reshape(picks * rows, picks * columns)

    def pair_loads(
        self, before: FretStates, after: FretStates, link: Link, school: School, one: Ints, two: Ints
    ) -> Floats:
        """Largest loads from joint states `one` to joint states `two`, arrays of one length."""
        if not self.slurs:
            return self._pair_loads(before, after, link, school, one, two)
        rows, columns = self.pick_count * len(before), self.pick_count * len(after)
        found = np.zeros(len(one))
        for slurred_before in (False, True):
            for slurred_after in (False, True):
                at = np.flatnonzero(((one >= rows) == slurred_before) & ((two >= columns) == slurred_after))
                played = link.as_played(not slurred_before, not slurred_after)
                if len(at) and played is not None:
                    found[at] = self._pair_loads(before, after, played, school, one[at] % rows, two[at] % columns)
        return found

    def _pair_loads(
        self, before: FretStates, after: FretStates, link: Link, school: School, one: Ints, two: Ints
    ) -> Floats:
        pick_one, fret_one = np.divmod(one, len(before))
        pick_two, fret_two = np.divmod(two, len(after))
        fret = self.fret_link(before, after, link)
        load: Floats = fret.load[fret_one, fret_two]
        if link.picked and not self._needs_shapes(before, after, link):
            strings = before.string[fret_one], after.string[fret_two]
            picked = self.picking.link(link, school).load[pick_one, strings[0], pick_two, strings[1]]
            load = np.maximum(load, picked) + fret.extra[fret_one, fret_two]
        elif link.picked:
            ends, (begins, _, through_ms) = (
                self._strokes_through(before)[1],
                self._strokes_through(after, link.raked),
            )
            strings = ends[pick_one, fret_one], begins[pick_two, fret_two]
            picked = self.picking.link(link, school).load[pick_one, strings[0], pick_two, strings[1]]
            picked = picked + through_ms[pick_two, fret_two] / self.ms(link.pick_quarters)
            load = np.maximum(load, picked) + fret.extra[fret_one, fret_two]
        return load
