"""What the kernel works with: tables of both hands, checked once, before anything reads them.

A link is a sum of *parts*, one for each way to sound its two notes. Each has the fretting hand's tables in
milliseconds, which know neither tempo nor school, and the picking hand's, in loads and costs. The kernel joins the
hands, and takes sums, while it goes along; the joint table is never written down.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dromic.arrays import Bools, Floats, Ints

Table = Floats


def _table(name: str, table: Floats, shape: tuple[int, ...], *, infinite: bool = False) -> Floats:
    """A table as the kernel reads it: doubles without gaps."""
    found: Floats = np.ascontiguousarray(table, dtype=np.float64)
    if found.shape != shape:
        raise ValueError(f"{name} has the shape {found.shape} and needs {shape}")
    wrong = np.isnan(found) if infinite else ~np.isfinite(found)
    if wrong.any():
        raise ValueError(f"{name} has numbers that are none")
    return found


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
        """Effort of loads."""
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

    def __post_init__(self) -> None:
        shape = np.shape(self.time_ms)
        if len(shape) != 2:
            raise ValueError(f"a table of moves has two sides, and not the shape {shape}")
        for name in ("time_ms", "effort", "hurried", "meeting_ms"):
            object.__setattr__(self, name, _table(name, getattr(self, name), shape, infinite=name == "effort"))

    @property
    def shape(self) -> tuple[int, int]:
        """Grips before and after."""
        before, after = self.time_ms.shape
        return before, after

    @property
    def nbytes(self) -> int:
        """Size of the tables."""
        return 4 * self.time_ms.nbytes


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

    def __post_init__(self) -> None:
        shape = np.shape(self.load)
        if len(shape) != 4 or shape[0] != shape[2]:
            raise ValueError(f"a table of strokes goes from pick and string to pick and string: {shape}")
        for name in ("load", "cost"):
            object.__setattr__(self, name, _table(name, getattr(self, name), shape, infinite=name == "cost"))


@dataclass(frozen=True, eq=False)
class Side:
    """The joint states of one end of a link: ``(block * picks + pick) * grips + grip``.

    Parameters
    ----------
    blocks, picks : int
    classes : ndarray of int, shape (grips,)
        What the picking hand tells grips apart by.
    """

    blocks: int
    picks: int
    classes: Ints

    def __post_init__(self) -> None:
        found = np.ascontiguousarray(self.classes, dtype=np.int64)
        if found.ndim != 1 or not len(found) or found.min() < 0:
            raise ValueError("a step needs at least one grip, and a class for each")
        if self.blocks < 1 or self.picks < 1:
            raise ValueError("a step needs a block and a pick state")
        object.__setattr__(self, "classes", found)

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
        """Where runs of grips of one class begin, and the end of the last."""
        own = self.classes
        found: Ints = np.append(np.flatnonzero(np.r_[True, own[1:] != own[:-1]]), len(own)).astype(np.int64)
        return found


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
    hand_gaps_ms, hurry : ndarray, shape (grips before,)
        The time that the hand has had, and how much of the hurried effort counts.
    gap_ms : float
        From note to note, in which the hands meet.
    """

    before: int
    after: int
    hand: HandTable
    pick: PickTable | None
    hand_gaps_ms: Floats
    hurry: Floats
    gap_ms: float

    def __post_init__(self) -> None:
        shape = (self.hand.shape[0],)
        object.__setattr__(self, "hand_gaps_ms", _table("hand_gaps_ms", self.hand_gaps_ms, shape))
        object.__setattr__(self, "hurry", _table("hurry", self.hurry, shape))
        if not (self.gap_ms > 0 and (self.hand_gaps_ms > 0).all()):
            raise ValueError("the time between two notes is more than none")


def check_parts(parts: Sequence[Part], before: Side, after: Side) -> None:
    """Refuse parts that do not fit their sides, so that no kernel reads beyond a table."""
    if before.picks != after.picks or not parts:
        raise ValueError("a link joins steps of the same picking hand, in one way at least")
    for part in parts:
        if not (0 <= part.before < before.blocks and 0 <= part.after < after.blocks):
            raise ValueError("a part of a link begins or ends in a block that is not there")
        if part.hand.shape != (before.grips, after.grips):
            raise ValueError(f"a part has the shape {part.hand.shape}, its steps {before.grips, after.grips}")
        if part.pick is None:
            continue
        picks, one, _, two = part.pick.load.shape
        if picks != before.picks or one <= before.classes.max() or two <= after.classes.max():
            raise ValueError("the picking hand's table is too small for the grips")


@dataclass(frozen=True, eq=False)
class Entry:
    """How the layers of one step lead to those of the next, in one direction; see `dromic.planner.figure_layers`.

    Parameters
    ----------
    changing : ndarray, shape (layers, layers entered)
        What it costs to go from layer to layer, infinite where that cannot be.
    only : ndarray of bool, shape (layers entered, grips entered)
        The grips of each layer.
    """

    changing: Floats
    only: Bools

    def __post_init__(self) -> None:
        shape = np.shape(self.changing)
        if len(shape) != 2 or np.shape(self.only)[:1] != shape[1:] or np.ndim(self.only) != 2:
            raise ValueError("layers do not fit what leads to them")
        object.__setattr__(self, "changing", _table("changing", self.changing, shape, infinite=True))
        object.__setattr__(self, "only", np.ascontiguousarray(self.only, dtype=np.bool_))

    @cached_property
    def same(self) -> Ints:
        """For each layer the first that is entered from the same sums."""
        seen: dict[bytes, int] = {}
        found = [seen.setdefault(column.tobytes(), layer) for layer, column in enumerate(self.changing.T.copy())]
        return np.array(found, dtype=np.int64)
