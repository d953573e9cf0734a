"""Which material covers what a riff needs: the fewest pieces, or the most in the minutes there are."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from dromic.errors import DromicError, RiffError
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.practice.coverage.cells import Cell
from dromic.practice.coverage.coverage import Coverage, coverage_of
from dromic.practice.coverage.covers import BestInMinutes, Cover, best_in_minutes, smallest_cover
from dromic.practice.material.catalogue import material
from dromic.practice.material.pieces import Asked, Family, Material

MINUTES_EACH = 5.0
OF_EACH = {
    Family.FINGERS: 24,
    Family.STROKES: 12,
    Family.SCALES: 8,
    Family.SEQUENCES: 8,
    Family.ARPEGGIOS: 6,
    Family.STRING_PAIRS: 10,
}
"""How many pieces of a family are weighed: all that differ much in movement."""
Watch = Callable[[float], None]


@dataclass(frozen=True)
class Candidate:
    """A piece that is weighed, and what it covers when it is planned."""

    material: Material
    covers: Coverage


@dataclass(frozen=True)
class DrillsFor:
    """Pieces chosen for what a riff needs.

    Parameters
    ----------
    candidates : tuple of Candidate
    needed : mapping of Cell to float
    cover : Cover
        The fewest that have every kind of movement that is needed and that any of them has.
    in_minutes : BestInMinutes
        Those that have most of what is needed in the minutes there are.
    minutes : float
    """

    candidates: tuple[Candidate, ...]
    needed: Mapping[Cell, float]
    cover: Cover
    in_minutes: BestInMinutes
    minutes: float

    @property
    def fewest(self) -> tuple[Candidate, ...]:
        """The pieces of the smallest cover."""
        return tuple(self.candidates[number] for number in self.cover.drills)

    @property
    def best(self) -> tuple[Candidate, ...]:
        """The pieces for the minutes."""
        return tuple(self.candidates[number] for number in self.in_minutes.drills)


def candidates_for(asked: Asked, request: Request, watch: Watch | None = None) -> tuple[Candidate, ...]:
    """Pieces of every family that differ in movement, planned.

    Parameters
    ----------
    asked : Asked
    request : Request
    watch : callable or None
        Called with the share of the work that is done; what it raises ends it.
    """
    pieces: list[Material] = []
    for family, most in OF_EACH.items():
        try:
            made = material(family, asked)
        except RiffError:
            continue
        step = max(len(made) / most, 1.0)
        pieces += [made[int(at * step)] for at in range(min(most, len(made)))]
    candidates = []
    for number, one in enumerate(pieces):
        if watch is not None:
            watch(number / len(pieces))
        try:
            candidates.append(Candidate(one, coverage_of(plan_riff(one.riff, request))))
        except DromicError:
            continue
    return tuple(candidates)


def drills_for(needed: Mapping[Cell, float], candidates: tuple[Candidate, ...], minutes: float) -> DrillsFor:
    """Choose pieces for what is needed.

    Parameters
    ----------
    needed : mapping of Cell to float
        As `dromic.practice.coverage.coverage.needs_of` gives it.
    candidates : tuple of Candidate
    minutes : float
        How long there is; a piece takes five.

    Raises
    ------
    RiffError
        Where nothing is needed.
    """
    wanted = {cell: weight for cell, weight in needed.items() if weight > 0}
    if not wanted:
        raise RiffError(
            "nothing is needed: this riff has one note, or the log has all its movements clean at its tempo"
        )
    covers = [candidate.covers.cells for candidate in candidates]
    cover = smallest_cover(set(wanted), covers)
    best = best_in_minutes(wanted, covers, [MINUTES_EACH] * len(candidates), minutes)
    return DrillsFor(candidates, wanted, cover, best, minutes)
