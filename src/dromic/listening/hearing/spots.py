"""The spots of a take to work on, the worst first: where notes are missed, off the beat, smeared or badly ended."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from dromic.listening.take import End, State, TakeNote, TakeReport
from dromic.planner.plan import Plan

MOST_SPOTS = 12
MISSED, DOUBLE, SMEARED, RINGS, GAP = 3.0, 1.2, 1.2, 0.8, 0.6
AT_ONCE_MS, LOUD_DB = 12.0, 5.0
LEAST_BADNESS = 0.6
LEAST_GAP_MS = 25.0


@dataclass(frozen=True)
class Spot:
    """A note at which something goes wrong.

    Parameters
    ----------
    index : int
        Of the plan's event.
    badness : float
        How bad it is, averaged over the rounds.
    text : str
    """

    index: int
    badness: float
    text: str


def spots_of(plan: Plan, report: TakeReport) -> tuple[Spot, ...]:
    """Where to work, the worst first; spots next to each other are one.

    Parameters
    ----------
    plan : Plan
    report : TakeReport
    """
    by_index: dict[int, list[TakeNote]] = {}
    for note in report.notes:
        by_index.setdefault(note.index, []).append(note)
    joined = _should_join(plan)
    scored = []
    for index, notes in by_index.items():
        badness = sum(_badness(note, joined.get(index, False)) for note in notes) / len(notes)
        if badness >= LEAST_BADNESS:
            scored.append((badness, index))
    scored.sort(key=lambda row: (-row[0], row[1]))
    taken: list[int] = []
    spots = []
    for badness, index in scored:
        if any(abs(index - other) <= 1 for other in taken):
            continue
        taken.append(index)
        text = f"{plan.events[index].moment.place_words}: {_words(by_index[index], joined.get(index, False))}"
        spots.append(Spot(index, round(badness, 2), text))
        if len(spots) == MOST_SPOTS:
            break
    return tuple(spots)


def _should_join(plan: Plan) -> dict[int, bool]:
    """Whether each event's notes last, as written, until the next one begins."""
    played = [event for event in plan.events if event.step is not None]
    should_join = {}
    for before, after in pairwise(played):
        # Ties are events of their own: what lies between two played events is either rest or tie.
        between = plan.events[before.moment.index + 1 : after.moment.index]
        should_join[before.moment.index] = not any(event.rest for event in between)
    return should_join


def _badness(note: TakeNote, joins: bool) -> float:
    if note.state is State.MISSED:
        return MISSED
    worth = {State.DOUBLE: DOUBLE, State.SMEARED: SMEARED}.get(note.state, 0.0)
    worth += max(abs(note.deviation_ms) - 4.0, 0.0) / AT_ONCE_MS
    if note.loudness_db is not None:
        worth += max(abs(note.loudness_db) - 3.0, 0.0) / LOUD_DB
    if note.end is End.RINGS:
        worth += RINGS
    elif note.end is End.GAP and joins and (note.gap_ms or 0.0) > LEAST_GAP_MS:
        worth += GAP
    return worth


def _words(notes: list[TakeNote], joins: bool) -> str:
    """What goes wrong at one note, the worst first, in at most two parts."""
    count = len(notes)
    parts: list[tuple[float, str]] = []

    def times(number: int) -> str:
        if count == 1:
            return ""
        return f" {number} of {count} times" if number < count else " every time"

    missed = sum(note.state is State.MISSED for note in notes)
    if missed:
        parts.append((MISSED * missed, f"missed{times(missed)}"))
    played = [note for note in notes if note.state is not State.MISSED]
    off = float(np.median([note.deviation_ms for note in played])) if played else 0.0
    if abs(off) >= 6.0:
        parts.append((count * abs(off) / AT_ONCE_MS, f"{abs(off):.0f} ms {'late' if off > 0 else 'early'}"))
    elif len(played) > 2:
        spread = float(np.std([note.deviation_ms for note in played]))
        if spread > 10.0:
            parts.append((count * spread / AT_ONCE_MS, f"uneven by {spread:.0f} ms"))
    for state, words in ((State.SMEARED, "smeared"), (State.DOUBLE, "a double attack")):
        number = sum(note.state is state for note in notes)
        if number:
            parts.append((number * SMEARED, f"{words}{times(number)}"))
    loud = [note.loudness_db for note in played if note.loudness_db is not None]
    if loud and abs(float(np.median(loud))) > 3.0:
        middle = float(np.median(loud))
        parts.append(
            (count * abs(middle) / LOUD_DB, f"{abs(middle):.0f} dB too {'loud' if middle > 0 else 'soft'}")
        )
    rings = sum(note.end is End.RINGS for note in notes)
    if rings:
        parts.append((rings * RINGS, f"rings on under the next{times(rings)}"))
    gaps = [note.gap_ms for note in notes if note.end is End.GAP and (note.gap_ms or 0.0) > LEAST_GAP_MS]
    if joins and gaps:
        middle = float(np.median([gap or 0.0 for gap in gaps]))
        parts.append((len(gaps) * GAP, f"cut {middle:.0f} ms short{times(len(gaps))}"))
    parts.sort(key=lambda part: -part[0])
    return ", ".join(words for _, words in parts[:2]) or "uneven"
