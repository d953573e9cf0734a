"""The fretting hand's part of links: times and efforts of every move between two steps' grips.

They know neither tempo nor school: the same riff at another tempo or under another school, and other riffs for the
same player, find them made. Those of many links between single notes are worked out together, as one long row of
pairs, which is much faster than one by one.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from dromic.arrays import Bools, Floats, Terms
from dromic.hands.fingers import THUMB
from dromic.hands.fretting import fret_moves
from dromic.hands.fretting_tables import FretMoves, FrettingTables, sum_of
from dromic.hands.grips import Fretted, Grip, GripArrays, Grips, joined
from dromic.hands.known_shapes import is_known
from dromic.hands.possible_moves import TransitionKind
from dromic.hands.posture import LONG_NECK_MM, PLAINLY, Inflections, posture, struck_alone
from dromic.hands.profile import Hands
from dromic.hands.span_shapes import SpanShape, span_shapes
from dromic.hands.style import Sound
from dromic.hands.synchronisation import SyncContext, sync_times
from dromic.instrument.instrument import Instrument
from dromic.memory import Memo, cache
from dromic.music.riff import Mark, Note
from dromic.planner.kernel.inputs import HandTable
from dromic.planner.task.step import SpanPart, Step
from dromic.planner.task.task import Link

CACHE_BYTES = 96 * 2**20
PAIRS_AT_ONCE = 16_384
MOST_POSTURES = 5_000
MOST_PLACINGS, MOST_FINGERINGS = 16, 6
"""Of a harmony span: how many placings of its tones are weighed, the cheapest, and how many fingerings of each."""
BARRED_NOTES = 4
"""Notes of a known shape in which a weaker finger is laid across as a matter of course."""
OF_THE_SHAPE = frozenset(
    (
        "reach", "frame_too", "first_away", "fourth_too", "opened", "laid", "laid_over", "laid_by_open", "barre",
        "apart", "bunched", "not_first",
    )
)  # fmt: skip
"""What a shape costs less that has been practised."""
DAMPED = frozenset(("damped", "damped_gain"))
"""What a stroke through all strings of a chord asks of the fretting hand, and fingers that pluck it do not."""

Wanted = tuple[Grips, Grips, Link]


def changes_string(before: GripArrays, after: GripArrays) -> Bools:
    """Whether the pick has to go to another string; a chord counts as its outer strings; shape (before, after)."""
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


@dataclass(frozen=True)
class Hold:
    """How a step's notes are held: all of a step that the effort of holding its grips depends on.

    Parameters
    ----------
    how : Inflections
        What the fingers do with the notes beside holding them.
    pedal : bool
        As of the step.
    span : SpanPart or None
        Whether it is in a harmony span, and whether it is its first.
    rings : bool
        Whether it is marked to ring.
    plucked : bool
        Whether fingers can pluck its notes at once, so that no stroke goes through the strings between.
    again : bool
        As of the step.
    usual : tuple of Fretted or None
        Where and by which fingers they are played elsewhere, as of the step.
    """

    how: Inflections
    pedal: bool
    span: SpanPart | None = None
    rings: bool = False
    plucked: bool = False
    again: bool = False
    usual: tuple[Fretted, ...] | None = None


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
        self._links = Memo(self._new_link, CACHE_BYTES, lambda table: table.nbytes)
        self._postures = Memo(self._new_posture, MOST_POSTURES)
        self._shapes = Memo(self._new_shapes, MOST_POSTURES)

    def hold(self, step: Step, *, plucked: bool) -> Hold:
        """How a step's notes are held, and whether fingers can pluck them at once."""
        part = None if step.span is None else step.span.part
        usual = None if step.usual is None else step.usual.notes
        return Hold(self._inflections(step), step.pedal, part, step.rings, plucked, step.again, usual)

    def span_shapes(self, tones: tuple[int, ...]) -> tuple[SpanShape, ...]:
        """The chord shapes that are weighed for the tones of a span: of the cheapest placings the cheapest."""
        return self._shapes(tones)

    def _new_shapes(self, tones: tuple[int, ...]) -> tuple[SpanShape, ...]:
        placings = span_shapes(tones, self.instrument, self.hands.fretting)
        every = [shape for shapes in placings for shape in shapes]
        if not every:
            return ()
        rows = tuple(Grip(shape.notes, max(shape.position, 1)) for shape in every)
        efforts = sum_of(self._whole_shapes(Grips(rows, self.instrument.strings)), (len(rows),))
        added = np.array([len(shape.added) for shape in every]) * self.hands.comfort.added
        ranks = {
            shape: (effort, shape.notes, shape.added, shape.position)
            for shape, effort in zip(every, (efforts + added).round(9).tolist(), strict=True)
        }
        best = [_best_of(shapes, ranks)[:MOST_FINGERINGS] for shapes in placings]
        best.sort(key=lambda shapes: ranks[shapes[0]])
        return tuple(shape for shapes in best[:MOST_PLACINGS] for shape in shapes)

    def posture(self, hold: Hold, grips: Grips) -> Terms:
        """Terms of holding each of some grips; each of shape (grips,)."""
        return self._postures(hold, grips)[0]

    def posture_effort(self, hold: Hold, grips: Grips) -> Floats:
        """Effort of holding each of some grips, shape (grips,)."""
        return self._postures(hold, grips)[1]

    def _new_posture(self, hold: Hold, grips: Grips) -> tuple[Terms, Floats]:
        count = len(grips)
        terms: Terms = {}
        for at, part in grips.parts:
            of_shape = not part.single and bool(part.arrays.shape.any())
            held = self._of_shapes(hold, part) if of_shape else self._of_notes(hold, part)
            # A shape is paid for once anyway, where its span begins.
            share = self.hands.comfort.held_again if hold.again and not of_shape else 1.0
            for key, term in held.items():
                if hold.plucked and key in DAMPED:
                    continue
                whole = terms.setdefault(key, np.zeros(count))
                whole[at] += share * term
        if hold.usual is not None:
            terms["otherwise"] = self.hands.comfort.otherwise * np.array(
                [row.notes != hold.usual for row in grips.rows]
            )
        return terms, sum_of(terms, (count,))

    def _of_notes(self, hold: Hold, grips: Grips) -> Terms:
        """Grips that are held for what is struck alone."""
        terms = self._held_so(grips, hold.how, pedal=hold.pedal)
        if hold.rings:
            terms["open_far"] = self.hands.comfort.open_rings * terms["open_far"]
        if hold.span is not None:
            terms["out_of_shape"] = np.full(len(grips), self.hands.comfort.out_of_shape)
        return terms

    def _of_shapes(self, hold: Hold, grips: Grips) -> Terms:
        """Chord shapes, which cost what they cost once, where their span begins."""
        comfort, fretting = self.hands.comfort, self.hands.fretting
        terms = struck_alone(grips.arrays, self.instrument, fretting, comfort, how=hold.how, sound=self.sound)
        if hold.span is SpanPart.FIRST:
            terms |= self._whole_shapes(grips.as_chords)
        return terms

    def _whole_shapes(self, grips: Grips) -> Terms:
        """What the shape of a span costs once."""
        comfort = self.hands.comfort
        terms = self._held_so(grips, PLAINLY, pedal=False)
        terms["open_far"] = comfort.open_rings * terms["open_far"]
        if not self.sound.closed:
            by_the_nut = grips.arrays.position <= comfort.open_near
            terms["shut"] = comfort.shut * ~(_opened(grips) & by_the_nut)
        return {key: term for key, term in terms.items() if key not in DAMPED}

    def _held_so(self, grips: Grips, how: Inflections, *, pedal: bool) -> Terms:
        hand, comfort = self.hands.fretting, self.hands.comfort
        terms = posture(grips.arrays, self.instrument, hand, comfort, how=how, pedal=pedal, sound=self.sound)
        if not grips.single and self.instrument.scale_mm < LONG_NECK_MM:
            known = [self._known(row.sounding) for row in grips.rows]
            terms["unknown_shape"] = comfort.unknown_shape * np.array([one is False for one in known])
            share = np.where(_opened(grips), comfort.practised_open, comfort.practised)
            practised = np.where([one is True for one in known], share, 1.0)
            terms |= {key: practised * term for key, term in terms.items() if key in OF_THE_SHAPE}
            # Of three notes each has a finger, where there is one for it.
            wide = [len(row.sounding) >= BARRED_NOTES for row in grips.rows]
            for key in ("barre_other", "barre_alone"):
                terms[key] = np.where(wide, practised, 1.0) * terms[key]
        return terms

    def _known(self, notes: tuple[Fretted, ...]) -> bool | None:
        """Whether notes are part of a shape that players know; None of two, and where nobody can say."""
        held = [note for note in notes if note[2] != THUMB]
        return is_known(held, self.instrument) if len(held) > 2 else None

    def _inflections(self, step: Step) -> Inflections:
        """What the fingers do with the notes of a step beside holding them."""
        if not any(note.marks for note in step.notes):
            return PLAINLY
        return Inflections(**{name: self._pitches(step.marked(*marks)) for name, marks in _INFLECTED.items()})

    def _pitches(self, notes: Iterable[Note]) -> frozenset[int]:
        return frozenset(self.instrument.pitch_of(note.target) for note in notes)

    def sync_times(self, moves: FretMoves, before: GripArrays, after: GripArrays, sync: SyncContext) -> Terms:
        """Extra time of the hands' meeting by kind; each of shape (before, after), in ms.

        Parameters
        ----------
        moves : FretMoves
        before, after : GripArrays
            The grips between which they are.
        sync : SyncContext
        """
        return sync_times(moves, changes_string(before, after), self.hands.sync, sync)

    def prepare(self, wanted: Iterable[Wanted]) -> None:
        """Work out many links at once."""
        groups: dict[tuple[TransitionKind, SyncContext], dict[tuple[Grips, Grips], None]] = defaultdict(dict)
        for before, after, link in wanted:
            # Those of chords are worked out one by one, when they are asked for.
            if before.single and after.single and (before, after, link.kind, link.sync) not in self._links:
                groups[link.kind, link.sync][before, after] = None
        for (kind, sync), pairs in groups.items():
            for chunk in _chunks(list(pairs)):
                self._prepare_chunk(chunk, kind, sync)

    def _prepare_chunk(self, pairs: Sequence[tuple[Grips, Grips]], kind: TransitionKind, sync: SyncContext) -> None:
        """Work out links that differ in their grips only."""
        shapes = [(len(before), len(after)) for before, after in pairs]
        rows = [np.repeat(np.arange(a), b) for a, b in shapes]
        columns = [np.tile(np.arange(b), a) for a, b in shapes]
        one = joined([before.arrays[row] for (before, _), row in zip(pairs, rows, strict=True)])
        two = joined([after.arrays[column] for (_, after), column in zip(pairs, columns, strict=True)])
        whole = self._tables_of(one, two, kind, sync)
        end = 0
        for (before, after), shape in zip(pairs, shapes, strict=True):
            begin, end = end, end + shape[0] * shape[1]
            tables = (table[begin:end].reshape(shape).copy() for table in whole)
            self._links.put((before, after, kind, sync), HandTable(*tables))

    def _tables_of(
        self, before: GripArrays, after: GripArrays, kind: TransitionKind, sync: SyncContext
    ) -> tuple[Floats, ...]:
        """Times, efforts, hurried efforts and the extra time of meeting the pick."""
        moves = fret_moves(self.tables, before, after, kind)
        shape = moves.shifted.shape
        effort = moves.effort
        effort[~moves.allowed] = np.inf
        meeting_ms = sum_of(self.sync_times(moves, before, after, sync), shape)
        return moves.time_ms, effort, moves.hurried_effort, meeting_ms

    def link(self, before: Grips, after: Grips, link: Link) -> HandTable:
        """The fretting hand's part of a link.

        Parameters
        ----------
        before, after : Grips
        link : Link
        """
        return self._links(before, after, link.kind, link.sync)

    def _new_link(self, before: Grips, after: Grips, kind: TransitionKind, sync: SyncContext) -> HandTable:
        if len(before.parts) == len(after.parts) == 1 and not kind.within_span:
            return HandTable(*self._tables_of(before.arrays[:, None], after.arrays[None, :], kind, sync))
        shape = len(before), len(after)
        whole = np.zeros(shape), np.full(shape, np.inf), np.zeros(shape), np.zeros(shape)
        for rows, one in before.parts:
            for columns, two in after.parts:
                a, b = np.indices((len(one), len(two))).reshape(2, -1)
                if kind.within_span:
                    keeps = one.arrays.shape[a] == two.arrays.shape[b]
                    a, b = a[keeps], b[keeps]
                parts = self._tables_of(one.arrays[a], two.arrays[b], kind, sync)
                for table, part in zip(whole, parts, strict=True):
                    table[rows[a], columns[b]] = part
        return HandTable(*whole)


def _opened(grips: Grips) -> Bools:
    """Whether some string is open, shape (grips,)."""
    return np.array([any(not fret for _, fret, _ in row.sounding) for row in grips.rows])


def _best_of(shapes: Sequence[SpanShape], ranks: Mapping[SpanShape, tuple[Any, ...]]) -> list[SpanShape]:
    """Fingerings of one placing, the cheapest first, each in the position where it is."""
    best: dict[tuple[Fretted, ...], SpanShape] = {}
    for shape in sorted(shapes, key=ranks.__getitem__):
        best.setdefault((*shape.notes, *shape.added), shape)
    return list(best.values())


@cache(8)
def fret_costs_of(instrument: Instrument, hands: Hands, sound: Sound) -> FretCosts:
    """The fretting hand of a player on an instrument, with all that was worked out for it so far.

    Parameters
    ----------
    instrument : Instrument
    hands : Hands
    sound : Sound
    """
    return FretCosts(instrument, hands, sound=sound)


def _chunks(pairs: Sequence[tuple[Grips, Grips]]) -> Iterator[list[tuple[Grips, Grips]]]:
    """Split pairs into groups that hold about as many pairs of grips as the processor's cache does."""
    chunk: list[tuple[Grips, Grips]] = []
    count = 0
    for pair in pairs:
        chunk.append(pair)
        count += len(pair[0]) * len(pair[1])
        if count >= PAIRS_AT_ONCE:
            yield chunk
            chunk, count = [], 0
    if chunk:
        yield chunk
