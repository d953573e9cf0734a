"""Where a hiccup sits in a take whose tempo grows: the tempo at which playing suddenly becomes uneven.

The take is cut into windows. In each, unevenness is the spread of the deviations, with a missed note counted as a
large one. The most uneven window is compared with what comes up when notes change places: only what is rarer
than one in twenty is called a hiccup. A tempo that drops by more than six percent is one as well.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dromic.arrays import Floats
from dromic.listening.take import State, TakeReport
from dromic.planner.plan import Plan

WINDOW = 12
LEAST_NOTES, LEAST_GROWTH = 36, 1.08
CHANCE, SHUFFLES = 0.05, 999
MISSED_MS, MOST_MS = 60.0, 80.0
DROP = 0.06
LEAST_TIMES = 1.8


@dataclass(frozen=True)
class Hiccup:
    """Where a player stumbles while the tempo grows.

    Parameters
    ----------
    tempo : float
        Quarter notes a minute.
    index : int
        Of the plan's event in the middle of it.
    text : str
    """

    tempo: float
    index: int
    text: str


def hiccup_of(plan: Plan, report: TakeReport, seed: int = 0) -> Hiccup | None:
    """The hiccup of a take whose tempo grows; None where there is none, or the tempo does not grow.

    Parameters
    ----------
    plan : Plan
    report : TakeReport
    seed : int
        Of the shuffles.
    """
    notes = report.notes
    if len(notes) < LEAST_NOTES:
        return None
    due = np.array([note.onset_s - note.deviation_ms / 1000 for note in notes])
    length = float(plan.events[-1].moment.ends)
    places = np.array([note.round * length + float(plan.events[note.index].moment.played) for note in notes])
    tempi = _tempi(places, due)
    if tempi.max() / tempi[0] < LEAST_GROWTH:
        return None
    off = np.array(
        [MISSED_MS if one.state is State.MISSED else np.clip(one.deviation_ms, -MOST_MS, MOST_MS) for one in notes]
    )
    off = _new_in(off)
    spreads = _spreads(off)
    worst = int(spreads.argmax())
    usual = float(np.median(spreads))
    chance = np.random.default_rng(seed)
    largest = [float(_spreads(chance.permutation(off)).max()) for _ in range(SHUFFLES)]
    middle = min(worst + WINDOW // 2, len(notes) - 1)
    if spreads[worst] > np.quantile(largest, 1 - CHANCE) and spreads[worst] > LEAST_TIMES * usual:
        tempo, index = float(tempi[middle]), notes[middle].index
        where = plan.events[index].moment.place_words
        return Hiccup(
            round(tempo, 1),
            index,
            f"about {tempo:.0f} it becomes uneven ({spreads[worst]:.0f} ms against {usual:.0f}), near {where}",
        )
    top = np.maximum.accumulate(tempi)
    drop = 1 - tempi / top
    if drop.max() > DROP:
        at = int(drop.argmax())
        tempo = float(top[at])
        where = plan.events[notes[at].index].moment.place_words
        return Hiccup(
            round(tempo, 1),
            notes[at].index,
            f"at {tempo:.0f} the tempo falls by {100 * drop[at]:.0f} %, near {where}",
        )
    return None


def _new_in(off: Floats) -> Floats:
    """The sizes of what every deviation adds to the one before it: a clock that runs on late is no unevenness."""
    calm = np.clip(off, -2 * np.median(np.abs(off)) - 1.0, 2 * np.median(np.abs(off)) + 1.0)
    likeness = float(np.clip((calm[1:] * calm[:-1]).mean() / max(float((calm**2).mean()), 1e-9), 0.0, 0.8))
    return np.asarray(np.abs(np.concatenate([off[:1], off[1:] - likeness * off[:-1]])))


def _spreads(off: Floats) -> Floats:
    """Mean of the sizes of deviations in every window."""
    total = np.concatenate([[0.0], np.cumsum(off)])
    return np.asarray((total[WINDOW:] - total[:-WINDOW]) / WINDOW)


def _tempi(places: Floats, due: Floats) -> Floats:
    """Tempo at every note, over a window round it."""
    found = np.empty(len(due))
    for at in range(len(due)):
        first, last = max(at - WINDOW // 2, 0), min(at + WINDOW // 2, len(due) - 1)
        apart = places[last] - places[first]
        seconds = due[last] - due[first]
        found[at] = 60.0 * apart / seconds if seconds > 0 and apart > 0 else np.nan
    known = np.isfinite(found)
    return np.asarray(np.interp(np.arange(len(found)), np.flatnonzero(known), found[known]))
