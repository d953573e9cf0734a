"""One drill made to cover chosen cells of the tables: the shortest round of notes that has them all.

A note is a string, a finger and a stroke, of which a hand that nothing is asked of is left out; every pair of notes
is an arc that belongs to cells. The shortest closed walk with an arc of every wanted cell is an integer programme:
arcs as often as they are played, as many into each note as out of it, and cuts that join parts that hang apart,
added as they are found to be wanted.
"""

from __future__ import annotations

import time
from collections import defaultdict
from collections.abc import Iterable, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass
from itertools import product

import numpy as np

from dromic.errors import RiffError
from dromic.instrument.instrument import Instrument
from dromic.music.laying import laid_in_bars
from dromic.music.phrases import on_same_instrument
from dromic.music.rhythm import Meter, NoteValue
from dromic.music.riff import Event, Locks, Note, Place, Riff, Stroke
from dromic.practice.coverage.cells import (
    AREAS,
    FINGERS,
    REPEATED,
    SKIP,
    Cell,
    Table,
    area_of,
    cells_of,
)

SECONDS, MOST_PASSES, LEAST_NOTES = 20.0, 8, 16
_LETTERS = {"d": Stroke.DOWN, "u": Stroke.UP}
FINGERED = (Table.HAND_OVER_THINNER, Table.HAND_OVER_THICKER, Table.ONE_STRING)


@dataclass(frozen=True, order=True)
class Touch:
    """A note of the drill: string (1 is the thinnest), finger (0 is open) and stroke letter (- for alternate)."""

    string: int
    finger: int
    stroke: str


@dataclass(frozen=True)
class Compound:
    """A drill made to cover cells.

    Parameters
    ----------
    touches : tuple of Touch
        Once round; the first follows the last.
    riff : Riff
        The round with its first note once more; a short one as often as fills a bar of sixteenths.
    missing : frozenset of Cell
        What no walk in one position has: shifts, and strings that the instrument lacks.
    shortest : bool
        Whether it is proven that no shorter one has it all.
    """

    touches: tuple[Touch, ...]
    riff: Riff
    missing: frozenset[Cell]
    shortest: bool


def compound_drill(wanted: AbstractSet[Cell], instrument: Instrument, head: Riff, position: int = 5) -> Compound:
    """Make the shortest drill that has every wanted kind of movement.

    Parameters
    ----------
    wanted : set of Cell
    instrument : Instrument
    head : Riff
        Instrument, tuning, capo and tempo are taken from it.
    position : int
        Where the hand stays; one finger a fret.

    Raises
    ------
    RiffError
        Where nothing of it can be done in one position.
    """
    if not 1 <= position <= instrument.top_fret - 3:
        raise RiffError(f"position {position} is beyond the neck; choose 1 to {instrument.top_fret - 3}")
    notes = _notes(wanted, instrument)
    arcs = [(note, two) for note in notes for two in notes if note != two or _wants_repeats(wanted)]
    belongs = [_cells(one, two, instrument.strings) & wanted for one, two in arcs]
    possible: frozenset[Cell] = frozenset().union(*belongs)
    if not possible:
        raise RiffError(
            "none of these movements can be drilled in one position; choose hand-overs, fingers on one string or "
            "strokes"
        )
    walk, shortest = _shortest_round(notes, arcs, belongs, possible)
    return Compound(walk, _riff(walk, instrument, head, position), frozenset(wanted) - possible, shortest)


def _wants_repeats(wanted: Iterable[Cell]) -> bool:
    return any(cell.row == REPEATED for cell in wanted)


def _notes(wanted: AbstractSet[Cell], instrument: Instrument) -> list[Touch]:
    """Strings that are needed: a pair in the middle, a third for skips, and an area each where areas are wanted."""
    middle = max(instrument.strings // 2, 1)
    strings = {middle, middle + 1}
    if any(cell.row == SKIP for cell in wanted):
        strings |= {middle + 2} if middle + 2 <= instrument.strings else {middle - 1}
    for area in AREAS:
        if any(cell.column == area for cell in wanted):
            own = [
                string for string in range(1, instrument.strings + 1) if area_of(string, instrument.strings) == area
            ]
            if own and not strings & set(own):
                # The nearest of the area, so that no more is skipped than has to be.
                strings.add(min(own, key=lambda string: abs(string - middle)))
    picks = any(cell.table is Table.STROKES for cell in wanted)
    frets = any(cell.table in FINGERED for cell in wanted)
    # Where nothing is asked of the fretting hand, strings are open; where nothing is of the pick, it alternates.
    return [
        Touch(*one)
        for one in product(sorted(strings), map(int, FINGERS) if frets else (0,), "du" if picks else "-")
    ]


def _cells(one: Touch, two: Touch, strings: int) -> frozenset[Cell]:
    key = f"{one.stroke}{two.stroke}{one.string - two.string:+d}.{one.finger}{two.finger}.0"
    return frozenset(cells_of(key, area_of(two.string, strings)))


def _awkward(one: Touch, two: Touch) -> float:
    """A little for what nobody asked for, so that of rounds as short the smoother one is taken."""
    jumps = one.finger == two.finger and one.string != two.string
    return 1e-4 * (2.0 * jumps + abs(one.string - two.string) + 3.0 * (one.stroke == two.stroke))


def _shortest_round(
    notes: Sequence[Touch],
    arcs: Sequence[tuple[Touch, Touch]],
    belongs: Sequence[frozenset[Cell]],
    wanted: frozenset[Cell],
) -> tuple[tuple[Touch, ...], bool]:
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import csr_array, vstack

    count = len(arcs)
    index = {note: number for number, note in enumerate(notes)}
    rows: list[csr_array] = []
    lows: list[float] = []
    highs: list[float] = []

    def add(entries: Iterable[tuple[int, float]], low: float, high: float) -> None:
        pairs = list(entries)
        row = csr_array(
            ([value for _, value in pairs], ([0] * len(pairs), [column for column, _ in pairs])),
            shape=(1, 2 * count),
        )
        rows.append(row)
        lows.append(low)
        highs.append(high)

    for cell in sorted(wanted):
        add([(at, 1.0) for at in range(count) if cell in belongs[at]], 1.0, np.inf)
    balance: dict[int, dict[int, float]] = defaultdict(lambda: defaultdict(float))
    for at, (one, two) in enumerate(arcs):
        balance[index[one]][at] += 1.0
        balance[index[two]][at] -= 1.0
        # The second half of the variables says whether an arc is played at all.
        add([(at, 1.0), (count + at, -float(MOST_PASSES))], -np.inf, 0.0)
    for flow in balance.values():
        add([(at, value) for at, value in flow.items() if value], 0.0, 0.0)
    price = np.concatenate([[1.0 + _awkward(one, two) for one, two in arcs], np.full(count, 1e-7)])
    upper = np.concatenate([np.full(count, float(MOST_PASSES)), np.ones(count)])
    started = time.monotonic()
    while (left := SECONDS - (time.monotonic() - started)) > 0:
        found = milp(
            price,
            constraints=LinearConstraint(vstack(rows, format="csr"), np.array(lows), np.array(highs)),
            integrality=np.ones(2 * count),
            bounds=Bounds(0.0, upper),
            options={"time_limit": left},
        )
        if found.x is None:
            break
        times = np.rint(found.x[:count]).astype(int)
        parts = _parts(arcs, times)
        if len(parts) == 1:
            return _walk(arcs, times), bool(found.status == 0)
        for part in parts:
            within = [at for at in range(count) if times[at] and arcs[at][0] in part]
            beyond = [at for at in range(count) if times[at] and arcs[at][0] not in part]
            leaving = [at for at in range(count) if arcs[at][0] in part and arcs[at][1] not in part]
            if _needed(arcs, belongs, part, wanted):
                add([(at, 1.0) for at in leaving], 1.0, np.inf)
                continue
            for here in within:
                for there in beyond[:12]:
                    # Whoever plays one arc in here and one out there has to leave once.
                    entries = [*((at, 1.0) for at in leaving), (count + here, -1.0), (count + there, -1.0)]
                    add(entries, -1.0, np.inf)
    raise RiffError("no round of notes was found in twenty seconds; ask for fewer kinds of movement")


def _needed(
    arcs: Sequence[tuple[Touch, Touch]],
    belongs: Sequence[frozenset[Cell]],
    part: AbstractSet[Touch],
    wanted: Iterable[Cell],
) -> bool:
    """Whether some cells can only be had inside a part and others only beyond it, so that it has to be left."""
    inside = outside = False
    for cell in wanted:
        own = [
            one in part and two in part for (one, two), cells in zip(arcs, belongs, strict=True) if cell in cells
        ]
        inside |= all(own)
        outside |= not any(own)
    return inside and outside


def _parts(arcs: Sequence[tuple[Touch, Touch]], times: Sequence[int]) -> list[set[Touch]]:
    """The notes of the arcs that are played, in parts that hang together."""
    parts: list[set[Touch]] = []
    for (one, two), played in zip(arcs, times, strict=True):
        if not played:
            continue
        touched = [part for part in parts if one in part or two in part]
        merged = {one, two}.union(*touched)
        parts = [part for part in parts if part not in touched] + [merged]
    return parts


def _walk(arcs: Sequence[tuple[Touch, Touch]], times: Sequence[int]) -> tuple[Touch, ...]:
    """A closed walk through all arcs (Hierholzer), from a down stroke where there is one."""
    onward: dict[Touch, list[Touch]] = defaultdict(list)
    for (one, two), played in zip(arcs, times, strict=True):
        if played:
            onward[one] += [two] * int(played)
    start = min(onward, key=lambda note: (note.stroke != "d", -note.string, note.finger))
    stack, found = [start], []
    while stack:
        here = stack[-1]
        if onward[here]:
            stack.append(onward[here].pop())
        else:
            found.append(stack.pop())
    return tuple(reversed(found))[:-1]


def _riff(walk: tuple[Touch, ...], instrument: Instrument, head: Riff, position: int) -> Riff:
    value = NoteValue(16)
    events = [
        Event(
            value,
            (Note(Place(touch.string, position + touch.finger - 1 if touch.finger else 0)),),
            locks=Locks(
                _LETTERS.get(touch.stroke, (Stroke.DOWN, Stroke.UP)[number % 2]),
                touch.finger or None,
                position if touch.finger else None,
            ),
        )
        for number, touch in enumerate((*(walk * max(LEAST_NOTES // len(walk), 1)), walk[0]))
    ]
    meter = Meter()
    bars = laid_in_bars(events, lambda _number: (meter.bar, None))
    return on_same_instrument(head, bars, title="One drill for all gaps", section="drill")
