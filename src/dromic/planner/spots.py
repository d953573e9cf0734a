"""Synchronisation spots: where fast playing comes apart, found and named.

Nine kinds (common practice, no source): a string change with a shift; with a roll or the same finger jumping; a
string begun against the beat after an odd count; the turn of a sweep after legato; picking resumed; a stroke
against the beat or the accent; fingers that land together or are planted ahead; another subdivision; and the seam
of a loop.
"""

from __future__ import annotations

from dromic.planner.passage import LANDS, ODD_COUNT, PLANTS, TURN, TransitionReport

AGAINST = ("an up on a beat", "a down between beats", "an up on an accent")


def spots_at(way: TransitionReport | None, strokes: dict[str, float]) -> tuple[str, ...]:
    """Name the spots on the way to a note.

    Parameters
    ----------
    way : TransitionReport or None
        None for the first note of a riff that does not loop.
    strokes : dict of str to float
        Comfort of the stroke by name (see `Model.stroke_parts`).

    Examples
    --------
    >>> spots_at(None, {"an up on a beat": 0.02, "an up on an accent": 0.0})
    ('an up on a beat',)
    """
    against = [name for name in AGAINST if strokes.get(name)]
    if way is None:
        return tuple(against)
    picked = [] if way.pick is None else [name for name in (ODD_COUNT, TURN) if name in way.pick.parts]
    fretted = [name for name in (LANDS, PLANTS) if name in way.fret.parts]
    return (*way.together, *picked, *fretted, *against)
