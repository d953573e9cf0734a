"""All families of material, and what of them serves an aim."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from dromic.errors import DromicError, RiffError
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.practice.coverage.cells import INSIDE, OUTSIDE, SKIP, SWEEP, Cell, Table
from dromic.practice.coverage.coverage import Coverage, coverage_of
from dromic.practice.material.arpeggios import arpeggios, chords_of_key
from dromic.practice.material.pieces import Asked, Family, Material
from dromic.practice.material.scale_runs import scales, sequences
from dromic.practice.material.strings import finger_patterns, rolls, string_pairs, stroke_patterns
from dromic.practice.material.walking import walking_lines

Watch = Callable[[float], None]
SHOWN, OF_A_FAMILY, MOST_OF_A_FAMILY = 6, 2, 14

_MAKERS: dict[Family, Callable[[Asked], tuple[Material, ...]]] = {
    Family.SCALES: scales,
    Family.SEQUENCES: sequences,
    Family.ARPEGGIOS: arpeggios,
    Family.CHORDS_OF_KEY: chords_of_key,
    Family.FINGERS: finger_patterns,
    Family.STRING_PAIRS: string_pairs,
    Family.STROKES: stroke_patterns,
    Family.ROLLS: rolls,
    Family.WALKING: walking_lines,
}


def material(family: Family, asked: Asked) -> tuple[Material, ...]:
    """Everything of a family.

    Parameters
    ----------
    family : Family
    asked : Asked

    Raises
    ------
    RiffError
        Where it cannot be made of what is asked.
    """
    return _MAKERS[family](asked)


_ACROSS = (Table.HAND_OVER_THINNER, Table.HAND_OVER_THICKER)


@dataclass(frozen=True)
class Aim:
    """Something to train.

    Parameters
    ----------
    words : str
    wants : callable
        Whether a kind of movement serves it.
    families : tuple of Family
        Where it is looked for.
    """

    words: str
    wants: Callable[[Cell], bool]
    families: tuple[Family, ...]


def _of_fingers(cell: Cell, *fingers: str) -> bool:
    if cell.table in _ACROSS:
        return {cell.row, cell.column} <= set(fingers) and cell.row != cell.column
    return cell.table is Table.ONE_STRING and set(cell.row.split("-")) <= set(fingers)


_EVERYWHERE = (Family.SCALES, Family.SEQUENCES, Family.ARPEGGIOS, Family.STROKES, Family.STRING_PAIRS)
AIMS: dict[str, Aim] = {
    "weak fingers": Aim(
        "work the weak fingers",
        lambda cell: _of_fingers(cell, "3", "4") or _of_fingers(cell, "2", "4"),
        (Family.FINGERS, Family.STRING_PAIRS, Family.SEQUENCES),
    ),
    "inside": Aim("inside changes", lambda cell: cell.row == INSIDE, _EVERYWHERE),
    "outside": Aim("outside changes", lambda cell: cell.row == OUTSIDE, _EVERYWHERE),
    "sweeps": Aim("sweeps", lambda cell: cell.row == SWEEP, _EVERYWHERE),
    "skips": Aim("string skips", lambda cell: cell.row == SKIP, _EVERYWHERE),
    "shifts": Aim("shifts", lambda cell: cell.table is Table.SHIFTS, (Family.SCALES, Family.SEQUENCES)),
    "rolls with finger 4": Aim(
        "rolls with finger 4",
        lambda cell: cell.table in _ACROSS and "4" in (cell.row, cell.column),
        (Family.ROLLS,),
    ),
}


@dataclass(frozen=True)
class Serving:
    """A piece that serves an aim: the share of its movements that do, and all that it covers."""

    material: Material
    share: float
    covers: Coverage


def serving(aim: str, asked: Asked, request: Request, watch: Watch | None = None) -> tuple[Serving, ...]:
    """The pieces that serve an aim best, no more than two of a family.

    Parameters
    ----------
    aim : str
        One of `AIMS`.
    asked : Asked
    request : Request
        How they are planned.
    watch : callable or None
        Called with the share of the work that is done; what it raises ends it.

    Raises
    ------
    RiffError
        For an aim that is not known, or that nothing serves.
    """
    if aim not in AIMS:
        raise RiffError(f"there is no aim '{aim}'; expected one of {', '.join(AIMS)}")
    wanted = AIMS[aim]
    pieces: list[Material] = []
    for family in wanted.families:
        try:
            made = material(family, asked)
        except RiffError:
            continue
        pieces += _spread(made, MOST_OF_A_FAMILY)
    found: list[Serving] = []
    for number, one in enumerate(pieces):
        if watch is not None:
            watch(number / len(pieces))
        try:
            covers = coverage_of(plan_riff(one.riff, request))
        except DromicError:
            continue
        total = sum(covers.counts.values())
        own = sum(count for cell, count in covers.counts.items() if wanted.wants(cell))
        if own:
            found.append(Serving(one, own / total, covers))
    found.sort(key=lambda one: -one.share)
    chosen: list[Serving] = []
    for best in found:
        if sum(other.material.family is best.material.family for other in chosen) < _most(wanted):
            chosen.append(best)
    if not chosen:
        raise RiffError(f"nothing here serves {wanted.words}; choose another key, position or instrument")
    return tuple(chosen[:SHOWN])


def _most(aim: Aim) -> int:
    """How many of a family: two, or as many as are shown where it is the only one."""
    return OF_A_FAMILY if len(aim.families) > 1 else SHOWN


def _spread(pieces: Sequence[Material], most: int) -> list[Material]:
    """Some of many, spread evenly, for planning all takes too long."""
    if len(pieces) <= most:
        return list(pieces)
    return [pieces[round(at * (len(pieces) - 1) / (most - 1))] for at in range(most)]
