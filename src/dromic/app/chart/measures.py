"""What a chart needs of a plan at any zoom, height and tempo: worked out once for each plan, without Qt."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from dromic.arrays import Bools, Floats
from dromic.memory import memo
from dromic.music.timeline import bars_in_time
from dromic.planner.plan import Plan
from dromic.schools.registry import school_named

# Quarter notes from note to note where there is only one.
LONE_GAP = 0.3


@dataclass(frozen=True)
class BarMeasure:
    """A bar of the metre, in quarter notes from the start of the riff.

    Parameters
    ----------
    number : int
    start, length : float
    beat : float
        Length of a beat.
    beats : int
    """

    number: int
    start: float
    length: float
    beat: float
    beats: int


@dataclass(frozen=True, eq=False)
class Measures:
    """Times, loads and places of a whole plan.

    Parameters
    ----------
    onsets : ndarray, shape (notes,)
        In quarter notes.
    grace : ndarray of bool, shape (notes,)
    ends : float
        When the riff is over.
    short_gap : float
        From note to note where they lie close: a tenth of the gaps are shorter.
    loads : ndarray, shape (notes,)
        The largest load on the way to each note.
    low_mm, high_mm : float
        How far from the nut the hand and its fingers go.
    bars : tuple of BarMeasure
        Every bar of the metre as often as it is played, in order of time.
    phrases : tuple of (float, str)
        Where phrases and tempi begin, with what is written there.
    """

    onsets: Floats
    grace: Bools
    ends: float
    short_gap: float
    loads: Floats
    low_mm: float
    high_mm: float
    bars: tuple[BarMeasure, ...]
    phrases: tuple[tuple[float, str], ...]


def measures_of(plan: Plan) -> Measures:
    """Measures of a plan; those with prices and without are the same."""
    return memo(_measured, plan)


def _measured(plan: Plan) -> Measures:
    moments = [step.moment for step in plan.task.steps]
    events = [plan.events[moment.index] for moment in moments]
    onsets = np.array([moment.played_at for moment in moments])
    gaps = np.diff(onsets)
    gaps = gaps[gaps > 0]
    spots = plan.instrument.spots
    homes = [event.position or 1 for event in events]
    fretted = [note.fret for event in events for note in event.notes if note.fret]
    return Measures(
        onsets,
        np.array([moment.event.grace for moment in moments], dtype=bool),
        float(plan.events[-1].moment.ends),
        float(np.quantile(gaps, 0.1)) if len(gaps) else LONE_GAP,
        np.array([event.loads.largest for event in events]),
        float(spots[min((*homes, *fretted))]),
        max(float(spots[max(homes)]) + plan.hand_mm, float(spots[max((0, *fretted))])),
        _bars(plan),
        _phrases(plan),
    )


def _bars(plan: Plan) -> tuple[BarMeasure, ...]:
    found = {}
    for bar in bars_in_time(plan.riff):
        if bar.number not in found:
            pace, meter = bar.pace, bar.meter
            found[bar.number] = BarMeasure(
                bar.number,
                float(bar.played(Fraction(0))),
                float(meter.bar * pace),
                float(meter.beat * pace),
                max(round(meter.bar / meter.beat), 1),
            )
    return tuple(found.values())


def _phrases(plan: Plan) -> tuple[tuple[float, str], ...]:
    labels: dict[float, str] = {}
    seen: set[tuple[int, int]] = set()
    for event in plan.events:
        moment = event.moment
        key = moment.phrase, moment.pass_number
        if key in seen:
            continue
        seen.add(key)
        phrase = plan.riff.phrases[moment.phrase]
        times = f" {moment.pass_number + 1} of {phrase.times}" if phrase.times > 1 else ""
        name = phrase.name or ("repeat" if times else "")
        if name:
            school = f", {school_named(phrase.school).title.lower()}" if phrase.school else ""
            labels[moment.played_at] = f"{name}{times}{school}"
    tempo = plan.riff.tempo
    for bar in bars_in_time(plan.riff):
        if bar.tempo != tempo:
            tempo = bar.tempo
            at = float(bar.since)
            labels[at] = ", ".join(filter(None, [labels.get(at, ""), f"tempo {tempo:.4g}"]))
    return tuple(sorted(labels.items()))
