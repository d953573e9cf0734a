"""What the kernel works with: tables of both hands, checked once, before anything reads them.

A link is a sum of *parts*, one for each way to sound its two notes. Each has the fretting hand's tables in
milliseconds, which know neither tempo nor school, and the picking hand's, in loads and costs. The kernel joins the
hands, and takes sums, while it goes along; the joint table is never written down.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from dromic.arrays import Bools, Floats, Ints

Table = Floats
# Load that no move may have more of: for all rows of sums, or for each its own.
Bound = float | Floats


def _table(name: str, table: Floats, shape: tuple[int, ...], *, infinite: bool = False) -> Floats:
    """A table as the kernel reads it: doubles without gaps."""
    found: Floats = np.ascontiguousarray(table, dtype=np.float64)
    if found.shape != shape:
        raise ValueError(f"{name} has the shape {found.shape} and needs {shape}")
    wrong = np.isnan(found) if infinite else ~np.isfinite(found)
    if wrong.any():
        raise ValueError(f"{name} has numbers that are none")
    return found


class Least(NamedTuple):
    """Least sums after some moves.

    Parameters
    ----------
    values : ndarray
        Infinite where nothing leads to a state.
    sources : ndarray of int
        The state that each comes from; -1 where nothing does.
    loads : ndarray
        Load of the move from there; 0 where there is none.
    """

    values: Floats
    sources: Ints
    loads: Floats


@dataclass(frozen=True, eq=False)
class EffortCurve:
    """Weights of the effort of a load, as in `dromic.hands.synchronisation.load_effort`; none is negative."""

    at_ease: float
    calm: float
    strain: float
    overload: float

    def __post_init__(self) -> None:
        weights = (self.at_ease, self.calm, self.strain, self.overload)
        if not all(np.isfinite(weight) and weight >= 0 for weight in weights):
            raise ValueError(f"efforts must grow with the load: {weights}")

    def of(self, load: Floats) -> Floats:
        """Effort of loads; of the shape of the loads."""
        above, beyond = np.maximum(load - self.calm, 0.0), np.maximum(load - 1.0, 0.0)
        found: Floats = (
            self.at_ease * (load * load) + self.strain * (above * above) + self.overload * (beyond * beyond)
        )
        return found


@dataclass(frozen=True, eq=False)
class HandTable:
    """The fretting hand's moves, each of shape (grips before, grips after); at any tempo, under any school.

    Parameters
    ----------
    time_ms : ndarray
    effort : ndarray
        Apart from time; infinite where a move cannot be made.
    hurried : ndarray
        Effort that grows with the hurry.
    meeting_ms : ndarray
        Extra time where both hands have to meet; 0 where they do not.
    """

    time_ms: Floats
    effort: Floats
    hurried: Floats
    meeting_ms: Floats
    tables: Floats = field(init=False, repr=False)

    def __post_init__(self) -> None:
        shape = np.shape(self.time_ms)
        if len(shape) != 2:
            raise ValueError(f"a table of moves has two sides, and not the shape {shape}")
        names = ("time_ms", "effort", "hurried", "meeting_ms")
        parts = [_table(name, getattr(self, name), shape, infinite=name == "effort") for name in names]
        object.__setattr__(self, "tables", np.stack(parts))
        for name, table in zip(names, self.tables, strict=True):
            object.__setattr__(self, name, table)

    @property
    def shape(self) -> tuple[int, int]:
        """Grips before and after."""
        before, after = self.time_ms.shape
        return before, after

    @property
    def nbytes(self) -> int:
        """Size of the tables."""
        return self.tables.nbytes


@dataclass(frozen=True, eq=False)
class PickTable:
    """The picking hand's moves, each of shape (picks, classes before, picks, classes after).

    Parameters
    ----------
    load : ndarray
    cost : ndarray
        Infinite where the school forbids a stroke.
    """

    load: Floats
    cost: Floats
    tables: Floats = field(init=False, repr=False)

    def __post_init__(self) -> None:
        shape = np.shape(self.load)
        if len(shape) != 4 or shape[0] != shape[2]:
            raise ValueError(f"a table of strokes goes from pick and string to pick and string: {shape}")
        load, cost = _table("load", self.load, shape), _table("cost", self.cost, shape, infinite=True)
        object.__setattr__(self, "tables", np.stack((load, cost)))
        object.__setattr__(self, "load", self.tables[0])
        object.__setattr__(self, "cost", self.tables[1])


@dataclass(frozen=True, eq=False)
class Side:
    """The joint states of one end of a link: ``(block * picks + pick) * grips + grip``.

    Parameters
    ----------
    blocks, picks : int
    classes : ndarray of int, shape (grips,)
        What the picking hand tells grips apart by.
    flights : ndarray of int, shape (grips,)
        What the time that the fretting hand has had is looked up by.
    """

    blocks: int
    picks: int
    classes: Ints
    flights: Ints

    def __post_init__(self) -> None:
        for name in ("classes", "flights"):
            found = np.ascontiguousarray(getattr(self, name), dtype=np.int64)
            if found.ndim != 1 or not len(found) or found.min() < 0:
                raise ValueError(f"a step needs at least one grip, and {name} of each")
            object.__setattr__(self, name, found)
        if len(self.classes) != len(self.flights):
            raise ValueError("a step has as many classes as flights")
        if self.blocks < 1 or self.picks < 1:
            raise ValueError("a step needs a block and a pick state")

    @cached_property
    def most_class(self) -> int:
        """The largest class."""
        return int(self.classes.max())

    @cached_property
    def most_flight(self) -> int:
        """The largest flight."""
        return int(self.flights.max())

    @property
    def grips(self) -> int:
        """How many grips there are."""
        return len(self.classes)

    @property
    def states(self) -> int:
        """How many joint states there are."""
        return self.blocks * self.picks * self.grips

    @cached_property
    def runs(self) -> Ints:
        """Where runs of grips of one class begin, and the end of the last; shape (runs,)."""
        own = self.classes
        runs: Ints = np.append(np.flatnonzero(np.r_[True, own[1:] != own[:-1]]), len(own)).astype(np.int64)
        return runs


@dataclass(frozen=True, eq=False)
class Timing:
    """The time that there is over a link.

    Parameters
    ----------
    per_hand_gap, hurry : ndarray, shape (flights,)
        One over the time that the fretting hand has had in ms, and how much of the hurried effort counts.
    per_gap : float
        One over the time from note to note in ms, in which the hands meet.
    """

    per_hand_gap: Floats
    hurry: Floats
    per_gap: float
    tables: Floats = field(init=False, repr=False)

    def __post_init__(self) -> None:
        shape = np.shape(self.per_hand_gap)[:1]
        parts = _table("per_hand_gap", self.per_hand_gap, shape), _table("hurry", self.hurry, shape)
        object.__setattr__(self, "tables", np.stack(parts))
        object.__setattr__(self, "per_hand_gap", self.tables[0])
        object.__setattr__(self, "hurry", self.tables[1])
        if not (0 < self.per_gap < np.inf and (self.per_hand_gap > 0).all()):
            raise ValueError("the time between two notes is more than none")


@dataclass(frozen=True, eq=False)
class Part:
    """One way to play a link.

    Parameters
    ----------
    before, after : int
        Blocks of the two steps.
    hand : HandTable
    pick : PickTable or None
        None where the second note is not picked: the pick stays as it is.
    timing : Timing
    """

    before: int
    after: int
    hand: HandTable
    pick: PickTable | None
    timing: Timing


def check_parts(parts: Sequence[Part], before: Side, after: Side) -> None:
    """Refuse parts that do not fit their sides, so that no kernel reads beyond a table.

    Parameters
    ----------
    parts : sequence of Part
    before, after : Side
    """
    if before.picks != after.picks or not parts:
        raise ValueError("a link joins steps of the same picking hand, in one way at least")
    for part in parts:
        if not (0 <= part.before < before.blocks and 0 <= part.after < after.blocks):
            raise ValueError("a part of a link begins or ends in a block that is not there")
        if part.hand.shape != (before.grips, after.grips):
            raise ValueError(f"a part has the shape {part.hand.shape}, its steps {before.grips, after.grips}")
        if len(part.timing.hurry) <= before.most_flight:
            raise ValueError("the time that the fretting hand has had is not told of every grip")
        if part.pick is None:
            continue
        picks, one, _, two = part.pick.load.shape
        if picks != before.picks or one <= before.most_class or two <= after.most_class:
            raise ValueError("the picking hand's table is too small for the grips")


@dataclass(frozen=True, eq=False)
class Layers:
    """The layers of a step's joint states; the first holds all grips, each other some of them.

    States are numbered layer by layer, in each ``(block * picks + pick) * grips of the layer + place among them``.

    Parameters
    ----------
    of : int
        How many grips the step has.
    starts : ndarray of int, shape (layers + 1,)
        Where the grips of each layer begin in `grips`.
    grips : ndarray of int
        The grips of all layers, one layer behind the other.
    """

    of: int
    starts: Ints
    grips: Ints

    def __post_init__(self) -> None:
        for name in ("starts", "grips"):
            object.__setattr__(self, name, np.ascontiguousarray(getattr(self, name), dtype=np.int64))
        starts, grips = self.starts, self.grips
        first = starts[:2].tolist() == [0, self.of] and np.array_equal(grips[: self.of], np.arange(self.of))
        if not first or starts[-1] != len(grips) or (np.diff(starts) < 0).any():
            raise ValueError("the first layer holds all grips, and each layer begins where the one before ends")
        if grips.min() < 0 or grips.max() >= self.of:
            raise ValueError("a layer holds a grip that the step has not")

    @staticmethod
    def of_masks(masks: Bools) -> Layers:
        """Layers by which grips each holds, shape (layers, grips)."""
        return Layers(masks.shape[1], np.append(0, np.cumsum(masks.sum(axis=1))), np.nonzero(masks)[1])

    @property
    def count(self) -> int:
        """How many layers there are."""
        return len(self.starts) - 1

    def states(self, copies: int) -> Ints:
        """Of each state in layers the state without, where each grip stands in so many blocks and pick states.

        Shape (joint states,).
        """
        rows = np.arange(copies)[:, None] * self.of
        parts = [(rows + self.grips[a:b]).ravel() for a, b in pairwise(self.starts.tolist())]
        return np.concatenate(parts)


@dataclass(frozen=True, eq=False)
class Entry:
    """How layers lead to layers in one direction.

    Parameters
    ----------
    sources, targets : Layers
    changing : ndarray, shape (layers, layers entered)
        What it costs to go from layer to layer, infinite where that cannot be.
    margin : float
        A state is of no use in a layer where it costs so much more than in the first.
    """

    sources: Layers
    targets: Layers
    changing: Floats
    margin: float = np.inf

    def __post_init__(self) -> None:
        shape = self.sources.count, self.targets.count
        object.__setattr__(self, "changing", _table("changing", self.changing, shape, infinite=True))
        if not self.margin >= 0:
            raise ValueError("a margin is not less than nothing")

    @cached_property
    def shares(self) -> Bools:
        """Which layers are entered from nowhere at more cost than the first is, so that its sums are theirs too.

        Shape (rows,).
        """
        return np.asarray((self.changing <= self.changing[:, :1]).all(axis=0))

    @cached_property
    def exceptions(self) -> tuple[Ints, Ints, Floats]:
        """From which layers, and at which cost, each layer is entered otherwise than the first.

        Where they begin for each layer, and then layers and costs.
        """
        dearer, possible = self.changing < self.changing[:, :1], np.isfinite(self.changing)
        own = (self.shares & dearer) | (~self.shares & possible)
        own[:, 0] = False
        entered, layers = np.nonzero(own.T)
        starts = np.append(0, np.cumsum(own.sum(axis=0)))
        return starts.astype(np.int64), layers.astype(np.int64), self.changing[layers, entered]


class Layering:
    """How the layers of a step lead to those of the next.

    Parameters
    ----------
    before, after : Layers
    changing : ndarray, shape (layers before, layers after)
        What it costs to go from layer to layer, infinite where that cannot be.
    margins : (float, float)
        What being in another layer than the first can save at most: behind the link on the way on, and before it on
        the way there.
    """

    def __init__(
        self, before: Layers, after: Layers, changing: Floats, margins: tuple[float, float] = (np.inf, np.inf)
    ) -> None:
        self.into = Entry(before, after, changing, margins[0])
        self.onto = Entry(after, before, np.ascontiguousarray(changing.T), margins[1])
