"""The fretting hand's part of links: loads and costs of every move between two steps' grips.

Equal links between equal grips are one table, worked out once; those of many links between single notes are worked
out together, as one long row of pairs, which is much faster than one by one.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from dromic.arrays import Bools, Floats, Terms
from dromic.hands.fretting import FretMoves, FrettingTables, sum_of
from dromic.hands.grips import GripArrays, Grips, joined
from dromic.hands.possible_moves import MOST_FLIGHT
from dromic.hands.posture import PLAINLY, Inflections, posture
from dromic.hands.profile import Hands
from dromic.hands.style import Sound
from dromic.hands.synchronisation import load_effort, sync_times
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Mark, Note
from dromic.planner.caching import TableCache
from dromic.planner.step import Step
from dromic.planner.steps import Link

CACHE_BYTES = 96 * 2**20
PAIRS_AT_ONCE = 16_384

FretKey = tuple[Grips, Grips, tuple[object, ...]]
Wanted = tuple[Grips, Grips, Link]


@dataclass(frozen=True)
class FretLink:
    """The fretting hand's part of a link, each of shape (grips before, grips after).

    `cost` is its effort with the comforts, infinite where a move cannot be made, and with the effort of meeting the
    pick in the same gap as far as the fretting hand is the slower of the two. `extra` is the load that the meeting
    adds.
    """

    load: Floats
    cost: Floats
    extra: Floats


def changes_string(before: GripArrays, after: GripArrays) -> Bools:
    """Whether the pick has to go to another string; a chord counts as its outer strings."""
    changes: Bools = (before.thickest != after.thickest) | (before.thinnest != after.thinnest)
    return changes


_INFLECTED = {
    "bend": (Mark.BEND_HALF, Mark.BEND_WHOLE),
    "slight": (Mark.BEND_QUARTER,),
    "vibrato": (Mark.VIBRATO,),
    "trill": (Mark.TRILL_HALF,),
    "wide_trill": (Mark.TRILL_WHOLE,),
    "touched": (Mark.HARMONIC,),
    "slid_in": (Mark.SLIDE_IN,),
}


class FretCosts:
    """Costs of one fretting hand on one instrument.

    Parameters
    ----------
    instrument : Instrument
    hands : Hands
    sound : Sound
    """

    def __init__(self, instrument: Instrument, hands: Hands, *, sound: Sound) -> None:
        self.instrument, self.hands, self.sound = instrument, hands, sound
        self.tables = FrettingTables(instrument, hands.fretting, hands.comfort, sound=sound)
        self._links: TableCache[FretLink] = TableCache(CACHE_BYTES)
        self._postures: dict[tuple[object, ...], tuple[Terms, Floats]] = {}

    def posture(self, step: Step, grips: Grips) -> Terms:
        """Terms of holding each grip of a step."""
        return self._posture(step, grips)[0]

    def posture_effort(self, step: Step, grips: Grips) -> Floats:
        """Effort of holding each grip of a step."""
        return self._posture(step, grips)[1]

    def _posture(self, step: Step, grips: Grips) -> tuple[Terms, Floats]:
        how = self._inflections(step)
        key = (grips, how, step.pedal)
        found = self._postures.get(key)
        if found is None:
            hand, comfort = self.hands.fretting, self.hands.comfort
            terms = posture(
                grips.arrays,
                self.instrument,
                hand,
                comfort,
                how=how,
                pedal=step.pedal,
                sound=self.sound,
            )
            found = self._postures[key] = terms, sum_of(terms, (len(grips),))
        return found

    def _inflections(self, step: Step) -> Inflections:
        """What the fingers do with the notes of a step beside holding them."""
        if not any(note.marks for note in step.notes):
            return PLAINLY
        return Inflections(**{name: self._pitches(step.marked(*marks)) for name, marks in _INFLECTED.items()})

    def _pitches(self, notes: Iterable[Note]) -> frozenset[int]:
        return frozenset(self.instrument.pitch_of(note.target) for note in notes)

    def sync_times(self, moves: FretMoves, before: GripArrays, after: GripArrays, link: Link) -> Terms:
        """Extra time of the hands' meeting by kind."""
        return sync_times(moves, changes_string(before, after), self.hands.sync, link.sync)

    def prepare(self, wanted: Iterable[Wanted]) -> None:
        """Work out many links at once."""
        groups: dict[tuple[object, ...], list[Wanted]] = defaultdict(list)
        seen: set[FretKey] = set()
        for before, after, link in wanted:
            key = _key(before, after, link)
            if key in self._links or key in seen:
                continue
            seen.add(key)
            if before.single and after.single:
                groups[(link.kind, link.sync)].append((before, after, link))
            else:
                flights_ms = np.array([link.flight_ms(flight) for flight in range(MOST_FLIGHT + 1)])
                one = before.arrays[:, None]
                table = self._costs(one, after.arrays[None, :], link, flights_ms[one.flight], np.array(link.gap_ms))
                self._remember(key, table)
        for members in groups.values():
            for chunk in _chunks(members):
                self._prepare_chunk(chunk)

    def _prepare_chunk(self, members: Sequence[Wanted]) -> None:
        """Work out links that differ in their grips and gaps only."""
        shapes = [(len(before), len(after)) for before, after, _ in members]
        rows = [np.repeat(np.arange(a), b) for a, b in shapes]
        columns = [np.tile(np.arange(b), a) for a, b in shapes]
        one = joined([before.arrays[row] for (before, _, _), row in zip(members, rows, strict=True)])
        two = joined([after.arrays[column] for (_, after, _), column in zip(members, columns, strict=True)])
        sizes = [a * b for a, b in shapes]
        flights_ms = np.array(
            [
                [link.flight_ms(flight) for link in (member[2] for member in members)]
                for flight in range(MOST_FLIGHT + 1)
            ]
        )
        hand_gaps_ms = np.repeat(flights_ms, sizes, axis=1)[one.flight, np.arange(sum(sizes))]
        gaps_ms = np.repeat([link.gap_ms for _, _, link in members], sizes)
        whole = self._costs(one, two, members[0][2], hand_gaps_ms, gaps_ms)
        ends = np.cumsum(sizes)
        for (before, after, link), shape, end in zip(members, shapes, ends, strict=True):
            part = slice(end - shape[0] * shape[1], end)
            tables = (table[part].reshape(shape).copy() for table in (whole.load, whole.cost, whole.extra))
            self._remember(_key(before, after, link), FretLink(*tables))

    def _costs(
        self, before: GripArrays, after: GripArrays, link: Link, hand_gap_ms: Floats, gap_ms: Floats
    ) -> FretLink:
        """Costs in the time that the hand has, and of meeting the pick in the time from note to note."""
        comfort = self.hands.comfort
        moves = self.tables.moves(before, after, link.kind, hand_gap_ms)
        load = moves.time_ms / hand_gap_ms
        cost = load_effort(load, comfort) + moves.effort
        cost[~moves.allowed] = np.inf
        extra = sum_of(self.sync_times(moves, before, after, link), load.shape) / gap_ms
        spots = extra > 0
        cost[spots] += load_effort(load[spots] + extra[spots], comfort)
        return FretLink(load, cost, extra)

    def link(self, before: Grips, after: Grips, link: Link) -> FretLink:
        """The fretting hand's part of a link."""
        key = _key(before, after, link)
        found = self._links.get(key)
        if found is None:
            self.prepare([(before, after, link)])
            found = self._links.get(key)
        assert found is not None
        return found

    def _remember(self, key: FretKey, link: FretLink) -> None:
        self._links.put(key, link, 3 * link.cost.nbytes)


def _key(before: Grips, after: Grips, link: Link) -> FretKey:
    return before, after, (*link.fret_key, link.flights_ms if before.flies else ())


def _chunks(members: Sequence[Wanted]) -> Iterator[list[Wanted]]:
    """Split links into groups that hold about as many pairs of grips as the processor's cache does."""
    chunk: list[Wanted] = []
    pairs = 0
    for member in members:
        chunk.append(member)
        pairs += len(member[0]) * len(member[1])
        if pairs >= PAIRS_AT_ONCE:
            yield chunk
            chunk, pairs = [], 0
    if chunk:
        yield chunk
