"""The notes of a take in order: the onsets of those that were played, and where those that were missed were due.

What is played between two stops is a run. In a run time is one smooth curve of the place in the riff; the deviation
of a note is its distance from that curve.
"""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass, replace

import numpy as np

from dromic.arrays import Floats, Samples
from dromic.listening.hearing.alignment import Alignment, Match
from dromic.listening.hearing.expected import Expected, ExpectedNote
from dromic.listening.hearing.onset_times import DEFAULT_PERIOD_S, Attacks, slur_time
from dromic.listening.hearing.tempo_curve import TempoCurve, tempo_curve
from dromic.music.pitch import frequency

HESITATES_S, STAYS_LATE = 0.12, 0.6
SLUR_CLEAR, SLUR_NEAR = 0.55, 0.4
FEW_LEFT = 4
SURE_MS, SLUR_SURE_MS, LOW_SURE_MS = 1.5, 3.0, 4.0
LOW_BELOW_HZ = 60.0


@dataclass(frozen=True)
class FoundNote:
    """A note of the riff in the take.

    Parameters
    ----------
    round : int
    place : int
        In the riff's notes.
    onset_s : float
        Where it begins; of a missed note, where it was due.
    due_s : float
    missed : bool
    run : int
        Notes of one run were played without a stop between them.
    rise_db : float
        How much the sound rises at its attack; 0 where it has none.
    sure_ms : float
        Standard error of the onset.
    """

    round: int
    place: int
    onset_s: float
    due_s: float
    missed: bool
    run: int
    rise_db: float = 0.0
    sure_ms: float = SURE_MS


@dataclass(frozen=True)
class FoundNotes:
    """All notes of a take.

    Parameters
    ----------
    notes : tuple of FoundNote
        In the order in which they were played or due.
    restarts : tuple of (float, int)
        Where the player began again: seconds, and the place in the riff's notes.
    quarter_s : float
        How long a quarter note lasts at the start.
    start_s : float
        Where the riff begins.
    rounds : int
    left : int
        Notes of the last round that were not played because the take is over.
    used : frozenset of int
        Moments that are notes.
    """

    notes: tuple[FoundNote, ...]
    restarts: tuple[tuple[float, int], ...]
    quarter_s: float
    start_s: float
    rounds: int
    left: int
    used: frozenset[int]


def found_notes(
    samples: Samples, attacks: Attacks, times: Floats, expected: Expected, found: Alignment
) -> FoundNotes:
    """Turn an alignment into notes with exact onsets.

    Parameters
    ----------
    samples : ndarray of float32, shape (samples,)
    attacks : Attacks
        Of the same samples.
    times : ndarray, shape (moments,)
    expected : Expected
    found : Alignment
        With at least one match.
    """
    onsets = _onsets(samples, attacks, times, expected, found.matches)
    runs = _runs(found.matches, onsets, expected)
    rows: list[FoundNote] = []
    restarts: list[tuple[float, int]] = []
    first_curve: TempoCurve | None = None
    curve: TempoCurve | None = None
    for number, run in enumerate(runs):
        own = [found.matches[at] for at in run]
        before = found.matches[run[0] - 1] if number else None
        if before is not None and own[0].round > before.round:
            assert curve is not None
            rows += _missed_to_the_end(before, number - 1, curve, expected)
        beats = np.array([_beat(one.round, one.note, expected) for one in own])
        curve = tempo_curve(beats, np.array([onsets[at][0] for at in run]), own[0].quarter_s)
        first_curve = first_curve or curve
        entry = own[0].note
        if number and own[0].again:
            entry = expected.bar_starts[bisect_left(expected.bar_starts, entry + 1) - 1]
        elif not number or own[0].pauses:
            entry = _entry(expected, entry)
        elif before is not None:
            entry = before.note + 1 if before.round == own[0].round else 0
        place = _beat(own[0].round, entry, expected)
        if number and own[0].again:
            restarts.append((float(curve.when(np.array([place]))[0]), entry))
        cursor = (own[0].round, entry)
        for at, one in zip(run, own, strict=True):
            while cursor != (one.round, one.note):
                rows.append(_missed(*cursor, number, curve, expected))
                cursor = _next(cursor, expected)
            due = float(curve.when(np.array([_beat(one.round, one.note, expected)]))[0])
            onset, rise = onsets[at]
            rows.append(FoundNote(one.round, one.note, onset, due, False, number, rise, _sure(expected, one.note)))
            cursor = _next(cursor, expected)
    last = found.matches[-1]
    left = len(expected.notes) - 1 - last.note
    assert first_curve is not None
    assert curve is not None
    if 0 < left <= FEW_LEFT:
        rows += _missed_to_the_end(last, len(runs) - 1, curve, expected)
        left = 0
    rows = _second_look(samples, rows, expected)
    start = float(first_curve.when(np.array([0.0]))[0])
    quarter = first_curve.quarter_s(_beat(0, found.matches[0].note, expected))
    used = frozenset(match.moment for match in found.matches)
    return FoundNotes(tuple(rows), tuple(restarts), quarter, start, last.round + 1, left, used)


def _beat(number: int, place: int, expected: Expected) -> float:
    return number * expected.length + float(expected.beats[place])


def _next(cursor: tuple[int, int], expected: Expected) -> tuple[int, int]:
    number, place = cursor
    return (number, place + 1) if place + 1 < len(expected.notes) else (number + 1, 0)


def _entry(expected: Expected, place: int) -> int:
    """Where a player who is first heard at a note came in: at the bar's start, where that is near."""
    start = expected.bar_starts[bisect_left(expected.bar_starts, place + 1) - 1]
    return start if place - start <= FEW_LEFT else place


def _missed(number: int, place: int, run: int, curve: TempoCurve, expected: Expected) -> FoundNote:
    due = float(curve.when(np.array([_beat(number, place, expected)]))[0])
    return FoundNote(number, place, due, due, True, run)


def _missed_to_the_end(last: Match, run: int, curve: TempoCurve, expected: Expected) -> list[FoundNote]:
    """What is left of a round after its last note."""
    places = range(last.note + 1, len(expected.notes))
    return [_missed(last.round, place, run, curve, expected) for place in places]


def _sure(expected: Expected, place: int) -> float:
    note = expected.notes[place]
    if not note.picked:
        return SLUR_SURE_MS
    low = bool(note.pitches) and frequency(min(note.pitches)) < LOW_BELOW_HZ
    return LOW_SURE_MS if low else SURE_MS


def _onsets(
    samples: Samples, attacks: Attacks, times: Floats, expected: Expected, matches: tuple[Match, ...]
) -> list[tuple[float, float]]:
    """Exact onset of every match, and how much the sound rises there."""
    onsets: list[tuple[float, float]] = []
    before: ExpectedNote | None = None
    for match in matches:
        note = expected.notes[match.note]
        about = float(times[match.moment])
        steps = before is not None and before.pitches and note.pitches and before.strings == note.strings
        if note.picked or before is None or not steps:
            lows = (before.pitches if before else ()) + note.pitches
            period = 1 / frequency(min(lows)) if lows else DEFAULT_PERIOD_S
            onsets.append(attacks.time_near(about, period))
        else:
            step = slur_time(samples, about, before.pitches[-1], note.pitches[-1], glides=note.glides)
            onsets.append((step[0], 0.0))
        if onsets[1:] and onsets[-1][0] <= onsets[-2][0]:
            onsets[-1] = (max(about, onsets[-2][0] + 0.001), onsets[-1][1])
        before = note
    return onsets


def _runs(matches: tuple[Match, ...], onsets: list[tuple[float, float]], expected: Expected) -> list[list[int]]:
    """Matches without a stop between them."""
    runs: list[list[int]] = [[0]]
    for at in range(1, len(matches)):
        before, here = matches[at - 1], matches[at]
        if here.pauses or _hesitates(before, here, matches, onsets, at, expected):
            runs.append([])
        runs[-1].append(at)
    return runs


def _hesitates(
    before: Match,
    here: Match,
    matches: tuple[Match, ...],
    onsets: list[tuple[float, float]],
    at: int,
    expected: Expected,
) -> bool:
    """Whether the player waited before a note and did not catch up with the beat after it."""
    start = _beat(before.round, before.note, expected)

    def late(other: int) -> float:
        one = matches[other]
        due = (_beat(one.round, one.note, expected) - start) * before.quarter_s
        return onsets[other][0] - onsets[at - 1][0] - due

    waited = late(at)
    apart = (_beat(here.round, here.note, expected) - start) * before.quarter_s
    if waited < max(HESITATES_S, 0.25 * apart):
        return False
    return at + 1 >= len(matches) or matches[at + 1].pauses or late(at + 1) > STAYS_LATE * waited


def _second_look(samples: Samples, rows: list[FoundNote], expected: Expected) -> list[FoundNote]:
    """Slurred notes without a moment of their own may still be there as a step of the pitch."""
    second_look = list(rows)
    for at, row in enumerate(rows):
        note = expected.notes[row.place]
        if not row.missed or note.picked or not note.pitches or not 0 < at < len(rows) - 1:
            continue
        before, after = second_look[at - 1], rows[at + 1]
        old = expected.notes[before.place]
        if before.missed or after.missed or len({before.run, row.run, after.run}) > 1 or not old.pitches:
            continue
        time, clear = slur_time(samples, row.due_s, old.pitches[-1], note.pitches[-1])
        room = min(row.due_s - before.onset_s, after.onset_s - row.due_s)
        if clear > SLUR_CLEAR and abs(time - row.due_s) < SLUR_NEAR * room:
            second_look[at] = replace(row, onset_s=time, missed=False, sure_ms=SLUR_SURE_MS)
    return second_look
