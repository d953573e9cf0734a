"""The fretting hand's part of links: times and efforts of every move between two steps' grips.

They know neither tempo nor school: the same riff at another tempo or under another school, and other riffs for the
same player, find them made. Those of many links between single notes are worked out together, as one long row of
pairs, which is much faster than one by one.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from functools import lru_cache
from typing import Any

import numpy as np

from dromic.arrays import Bools, Floats, Terms
from dromic.hands.fretting import FretMoves, FrettingTables, sum_of
from dromic.hands.grips import GripArrays, Grips, joined
from dromic.hands.possible_moves import TransitionKind
from dromic.hands.posture import PLAINLY, Inflections, posture
from dromic.hands.profile import Hands
from dromic.hands.style import Sound
from dromic.hands.synchronisation import SyncContext, sync_times
from dromic.instrument.instrument import Instrument
from dromic.music.riff import Mark, Note
from dromic.planner.caching import TableCache
from dromic.planner.kernel.inputs import HandTable
from dromic.planner.step import Step
from dromic.planner.steps import Link

CACHE_BYTES = 96 * 2**20
PAIRS_AT_ONCE = 16_384
MOST_POSTURES = 5_000
MOST_TOLD = 20_000

FretKey = tuple[Grips, Grips, tuple[TransitionKind, SyncContext]]
Wanted = tuple[Grips, Grips, Link]


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
        self._links: TableCache[HandTable] = TableCache(CACHE_BYTES)
        self._postures: dict[tuple[object, ...], tuple[Terms, Floats]] = {}
        # What was told of single moves and of what silences strings, at any tempo and under any school.
        self.ways: dict[object, object] = {}
        self.mutes: dict[object, object] = {}

    def posture(self, step: Step, grips: Grips) -> Terms:
        """Terms of holding each grip of a step."""
        return self._posture(step, grips)[0]

    def posture_effort(self, step: Step, grips: Grips) -> Floats:
        """Effort of holding each grip of a step."""
        return self._posture(step, grips)[1]

    def posture_key(self, step: Step) -> tuple[Inflections, bool]:
        """What the effort of holding a step's grips depends on, apart from these."""
        return self._inflections(step), step.pedal

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

    def forget(self) -> None:
        """Let go of what was remembered, where it has grown large."""
        known: tuple[tuple[dict[Any, Any], int], ...] = (
            (self._postures, MOST_POSTURES),
            (self.ways, MOST_TOLD),
            (self.mutes, MOST_TOLD),
        )
        for some, most in known:
            if len(some) > most:
                some.clear()

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
                groups[key[2]].append((before, after, link))
            else:
                arrays = before.arrays[:, None], after.arrays[None, :]
                self._remember(key, HandTable(*self._tables_of(*arrays, link)))
        for members in groups.values():
            for chunk in _chunks(members):
                self._prepare_chunk(chunk)

    def _prepare_chunk(self, members: Sequence[Wanted]) -> None:
        """Work out links that differ in their grips only."""
        shapes = [(len(before), len(after)) for before, after, _ in members]
        rows = [np.repeat(np.arange(a), b) for a, b in shapes]
        columns = [np.tile(np.arange(b), a) for a, b in shapes]
        one = joined([before.arrays[row] for (before, _, _), row in zip(members, rows, strict=True)])
        two = joined([after.arrays[column] for (_, after, _), column in zip(members, columns, strict=True)])
        whole = self._tables_of(one, two, members[0][2])
        end = 0
        for (before, after, link), shape in zip(members, shapes, strict=True):
            begin, end = end, end + shape[0] * shape[1]
            tables = (table[begin:end].reshape(shape).copy() for table in whole)
            self._remember(_key(before, after, link), HandTable(*tables))

    def _tables_of(self, before: GripArrays, after: GripArrays, link: Link) -> tuple[Floats, ...]:
        """Times, efforts, hurried efforts and the extra time of meeting the pick."""
        moves = self.tables.moves(before, after, link.kind)
        shape = moves.shifted.shape
        effort = moves.effort
        effort[~moves.allowed] = np.inf
        meeting_ms = sum_of(self.sync_times(moves, before, after, link), shape)
        return moves.time_ms, effort, moves.hurried_effort, meeting_ms

    def link(self, before: Grips, after: Grips, link: Link) -> HandTable:
        """The fretting hand's part of a link."""
        key = _key(before, after, link)
        found = self._links.get(key)
        while found is None:
            self.prepare([(before, after, link)])
            found = self._links.get(key)
        return found

    def _remember(self, key: FretKey, table: HandTable) -> None:
        self._links.put(key, table, table.nbytes)


@lru_cache(maxsize=8)
def fret_costs_of(instrument: Instrument, hands: Hands, sound: Sound) -> FretCosts:
    """The fretting hand of a player on an instrument, with all that was worked out for it so far."""
    return FretCosts(instrument, hands, sound=sound)


def _key(before: Grips, after: Grips, link: Link) -> FretKey:
    return before, after, link.fret_key


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
