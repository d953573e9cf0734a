"""What a kind of movement does to the notes after it, told only where it is more than chance.

A note's deviation from the beat is taken as a smooth tempo curve (already gone), its place in the beat, the classes
of its movement, and noise whose neighbours are alike. Neighbours' likeness is estimated and filtered out of both
sides; the fit is robust, so that single slips do not count; and every effect is compared with the largest that
comes up when labels are shuffled among notes at the same place in the beat. The strongest class is taken first and
held in the fit while the others are looked at again, so that a class is not blamed for what another does. Effects
are pulled toward zero as their uncertainty demands.

References
----------
Benjamini and Hochberg 1995 for the idea of a bound on false discoveries; here the stricter bound of the largest of
all classes is used (Westfall and Young 1993), which keeps the chance of any false finding in a take below `CHANCE`.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dromic.arrays import Floats
from dromic.listening.movement_classes import WORDS, classes_of
from dromic.listening.take import Finding, State, TakeReport
from dromic.planner.plan import Plan

LEAST_NOTES, LEAST_MS = 8, 3.0
CHANCE, SHUFFLES = 0.05, 999
PRIOR_MS = 15.0
NINETY = 1.645
HUBER = 1.5
MOST_FINDINGS = 3
MOST_LIKENESS = 0.8
AT_ONCE = 200_000


@dataclass(frozen=True)
class Rows:
    """The played notes of a take, ready to be compared.

    Parameters
    ----------
    deviations : ndarray, shape (notes,), milliseconds
    places : ndarray of int, shape (notes,)
        Number of the place in the beat.
    classes : dict of str to ndarray of bool, shape (notes,)
    follows : ndarray of bool, shape (notes,)
        Whether the note before was played too, so that the two are neighbours.
    """

    deviations: Floats
    places: NDArray[np.int64]
    classes: dict[str, NDArray[np.bool_]]
    follows: NDArray[np.bool_]


def rows_of(plan: Plan, reports: tuple[TakeReport, ...]) -> Rows:
    """The played notes of one take, or of several takes of one plan."""
    steps = {event.moment.index: event.step for event in plan.events if event.step is not None}
    known = {index: frozenset(classes_of(plan, step)) for index, step in steps.items()}
    first = min(steps)
    deviations: list[float] = []
    places: list[float] = []
    labels: list[frozenset[str]] = []
    follows: list[bool] = []
    for report in reports:
        neighbour = False
        for note in report.notes:
            if note.state is State.MISSED or note.index not in known:
                neighbour = False
                continue
            moment = plan.events[note.index].moment
            deviations.append(note.deviation_ms)
            places.append(float(moment.beat % 1))
            seam = {"seam"} if note.index == first and note.round else set()
            labels.append(known[note.index] | seam)
            follows.append(neighbour)
            neighbour = True
    _, numbers = np.unique(np.array(places), return_inverse=True)
    classes = {key: np.array([key in label for label in labels]) for key in WORDS}
    return Rows(np.array(deviations), numbers, classes, np.array(follows, dtype=bool))


def findings(plan: Plan, *reports: TakeReport, seed: int = 0) -> tuple[Finding, ...]:
    """What stands out in takes of a plan, the strongest first; nothing where nothing does.

    Parameters
    ----------
    plan : Plan
    reports : TakeReport
    seed : int
        Of the shuffles.
    """
    rows = rows_of(plan, reports)
    return findings_in(rows, seed)


def findings_in(rows: Rows, seed: int = 0) -> tuple[Finding, ...]:
    """What stands out in some notes, the strongest first.

    Parameters
    ----------
    rows : Rows
    seed : int
    """
    count = len(rows.deviations)
    candidates = {key: one for key, one in rows.classes.items() if LEAST_NOTES <= one.sum() <= count - LEAST_NOTES}
    if not candidates:
        return ()
    chance = np.random.default_rng(seed)
    likeness = _likeness(rows)
    target = _centred(_filtered(_clipped(rows.deviations), rows.follows, likeness), rows.places)
    held: list[str] = []
    findings: list[Finding] = []
    while candidates and len(findings) < MOST_FINDINGS:
        base = np.array([_design(rows, key, likeness) for key in held]).reshape(len(held), count)
        rest = target - _projected(target, base)
        strengths = {key: _strength(_design(rows, key, likeness), rest, base) for key in candidates}
        best = max(strengths, key=lambda key: abs(strengths[key]))
        if abs(strengths[best]) < _bound(rows, candidates, rest, base, likeness, chance):
            break
        effect, error = _effect(rows, best, held, target, likeness)
        held.append(best)
        del candidates[best]
        shrunk = effect / (1 + (error / PRIOR_MS) ** 2)
        if abs(shrunk) >= LEAST_MS:
            findings.append(_finding(best, shrunk, error, int(rows.classes[best].sum())))
    return tuple(findings)


def _finding(key: str, effect: float, error: float, notes: int) -> Finding:
    low, high = effect - NINETY * error, effect + NINETY * error
    way = "late" if effect > 0 else "early"
    most, least = sorted((abs(low), abs(high)), reverse=True)
    least = 0.0 if low < 0 < high else least
    text = (
        f"notes after {WORDS[key]} come {abs(effect):.0f} ms {way} ({least:.0f} to {most:.0f}), in {notes} notes"
        if key not in ("legato", "seam", "re-entry")
        else f"{WORDS[key]} come {abs(effect):.0f} ms {way} ({least:.0f} to {most:.0f}), in {notes} notes"
    )
    return Finding(key, round(effect, 1), round(low, 1), round(high, 1), notes, text)


def _clipped(values: Floats) -> Floats:
    """Values with single slips brought in, so that they do not carry the fit."""
    middle = float(np.median(values))
    spread = max(1.4826 * float(np.median(np.abs(values - middle))), 0.5)
    return np.asarray(np.clip(values - middle, -3 * spread, 3 * spread))


def _likeness(rows: Rows) -> float:
    """How alike neighbours are: the robust correlation of a note's deviation with the one's before it."""
    values = _centred(_clipped(rows.deviations), rows.places)
    here = np.flatnonzero(rows.follows)
    if len(here) < 2 * LEAST_NOTES:
        return 0.0
    power = float((values[here] ** 2).mean()) + 1e-12
    return float(np.clip((values[here] * values[here - 1]).mean() / power, 0.0, MOST_LIKENESS))


def _filtered(values: Floats, follows: NDArray[np.bool_], likeness: float) -> Floats:
    """Values less what the note before foretells of them; the last axis is the notes."""
    before = np.concatenate([np.zeros((*values.shape[:-1], 1)), values[..., :-1]], axis=-1)
    return np.asarray(values - likeness * before * follows)


def _centred(values: Floats, places: NDArray[np.int64]) -> Floats:
    """Values less their mean at each place in the beat; the last axis is the notes."""
    member = np.zeros((len(places), int(places.max()) + 1))
    member[np.arange(len(places)), places] = 1.0
    means = values @ member / member.sum(0)
    return np.asarray(values - means @ member.T)


def _design(rows: Rows, key: str, likeness: float) -> Floats:
    label = rows.classes[key].astype(float)
    return _centred(_filtered(label, rows.follows, likeness), rows.places)


def _projected(values: Floats, base: Floats) -> Floats:
    """The part of values, shape (..., notes), that lies in the span of some designs."""
    if not len(base):
        return np.zeros_like(values)
    basis, _ = np.linalg.qr(base.T)
    return np.asarray((values @ basis) @ basis.T)


def _strength(design: Floats, rest: Floats, base: Floats) -> Floats:
    """How much of the rest designs of shape (..., notes) explain, as correlations of shape (...,)."""
    own = design - _projected(design, base)
    size = np.sqrt((own**2).sum(-1) * (rest**2).sum())
    return np.asarray((own * rest).sum(-1) / np.maximum(size, 1e-9))


def _bound(
    rows: Rows,
    candidates: dict[str, NDArray[np.bool_]],
    rest: Floats,
    base: Floats,
    likeness: float,
    chance: np.random.Generator,
) -> float:
    """What the strongest of all classes comes to in all but a few of the shuffles."""
    order = np.argsort(rows.places, kind="stable")
    largest = np.zeros(SHUFFLES)
    # In blocks, so that a long take takes no more memory than a short one.
    block = max(AT_ONCE // max(len(order), 1), 1)
    for first in range(0, SHUFFLES, block):
        count = min(block, SHUFFLES - first)
        drawn = np.argsort(chance.random((count, len(order))) + rows.places, axis=1, kind="stable")
        shuffled = np.empty_like(drawn)
        shuffled[:, order] = drawn
        for label in candidates.values():
            designs = _centred(_filtered(label.astype(float)[shuffled], rows.follows, likeness), rows.places)
            own = np.abs(_strength(designs, rest, base))
            largest[first : first + count] = np.maximum(largest[first : first + count], own)
    return float(np.quantile(largest, 1 - CHANCE))


def _effect(rows: Rows, key: str, held: list[str], target: Floats, likeness: float) -> tuple[float, float]:
    """A class's effect and its standard error, by a fit in which single slips weigh less."""
    design = np.array([_design(rows, one, likeness) for one in (*held, key)]).T
    weights = np.ones(len(target))
    for _ in range(12):
        root = np.sqrt(weights)[:, None]
        answer = np.linalg.lstsq(design * root, target * root[:, 0], rcond=None)[0]
        off = target - design @ answer
        spread = max(1.4826 * float(np.median(np.abs(off))), 0.3)
        weights = np.minimum(1.0, HUBER * spread / np.maximum(np.abs(off), 1e-9))
    matrix = design.T @ (design * weights[:, None])
    error = spread * float(np.sqrt(np.linalg.pinv(matrix)[-1, -1]))
    return float(answer[-1]), error
