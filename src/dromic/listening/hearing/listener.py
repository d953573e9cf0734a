"""Listen to a take of a plan: find its notes, and measure each of them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from dromic.arrays import Floats
from dromic.errors import RiffError
from dromic.listening.hearing.alignment import Alignment, Moments, align
from dromic.listening.hearing.expected import Expected, expected_of
from dromic.listening.hearing.found_notes import FoundNotes, found_notes
from dromic.listening.hearing.measuring import Measured, measure
from dromic.listening.hearing.onset_strength import candidates
from dromic.listening.hearing.onset_times import Attacks
from dromic.listening.hearing.pitch_evidence import evidence_of, pitch_evidence
from dromic.listening.hearing.recording import Recording
from dromic.listening.hearing.tempo_search import starting_quarter
from dromic.listening.take import Restart, TakeReport
from dromic.planner.plan import Plan

DEAD_FIT = 0.75
LEAST_SHARE, LEAST_FIT, LEAST_OWN = 0.5, 0.4, 0.5
FEW_NOTES, STRONG = 6, 0.3
MOSTLY, LEAST_OF_ALL = 0.85, 0.4
EXTRA_STRENGTH, EXTRA_RISE_DB, CLEARLY_EXTRA = 0.08, 3.5, 0.2
EXTRA_AFTER_S, EXTRA_BEFORE_S = 0.038, 0.03
NEARLY = 0.06
LOW_HZ = 60.0


def moments_of(recording: Recording, expected: Expected) -> Moments:
    """Moments of a take at which a note may begin, and which notes they could be.

    Parameters
    ----------
    recording : Recording
    expected : Expected
    """
    lowest = expected.lowest_hertz
    found = candidates(recording.samples, lowest)
    evidence = pitch_evidence(recording.samples, found.times, lowest)
    known: dict[tuple[float, ...], Floats] = {}
    for note in expected.notes:
        for pitches in (note.pitches, note.first_pitches):
            if pitches not in known:
                known[pitches] = evidence_of(evidence, pitches) if pitches else np.full(len(found.times), DEAD_FIT)
    fits = np.stack([np.maximum(known[n.pitches], known[n.first_pitches]) for n in expected.notes], axis=1)
    return Moments(found.times, found.strengths, fits)


@dataclass(frozen=True)
class Heard:
    """What was heard of a take.

    Parameters
    ----------
    plan : Plan
    report : TakeReport
        Without findings.
    measured : Measured
        The notes again, with what cannot be told of them.
    remarks : tuple of str
        What the player should know of the recording, and of how it was played.
    seconds : float
        Length of the take.
    """

    plan: Plan
    report: TakeReport
    measured: Measured
    remarks: tuple[str, ...]
    seconds: float


def listen(plan: Plan, recording: Recording, watch: Callable[[float], None] | None = None) -> Heard:
    """Listen to a take of a plan.

    Parameters
    ----------
    plan : Plan
    recording : Recording
    watch : callable or None
        Told the share of the work that is done; what it raises cancels.

    Raises
    ------
    RiffError
        Where nothing begins to sound in the take, or where what sounds is not this riff.
    """
    tell = watch or (lambda _: None)
    expected = expected_of(plan)
    tell(0.02)
    moments = moments_of(recording, expected)
    if not len(moments.times):
        raise RiffError("no note begins in this take; check what was recorded")
    tell(0.3)
    found = align(moments, expected, starting_quarter(moments, expected), lambda share: tell(0.4 + 0.2 * share))
    _check_riff(found, moments, expected, plan)
    attacks = Attacks(recording.samples)
    notes = found_notes(recording.samples, attacks, moments.times, expected, found)
    measured = measure(recording.samples, attacks, expected, notes.notes, lambda share: tell(0.62 + 0.35 * share))
    report = TakeReport(
        round(60.0 / notes.quarter_s, 3),
        round(notes.start_s, 5),
        notes.rounds,
        measured.notes,
        extra_notes(moments, attacks, expected, notes),
        tuple(Restart(round(at, 5), expected.notes[place].index) for at, place in notes.restarts),
        measured.unasked,
    )
    remarks = (*recording.remarks, *_remarks(plan, notes, expected, report))
    return Heard(plan, report, measured, remarks, recording.seconds)


def _check_riff(found: Alignment, moments: Moments, expected: Expected, plan: Plan) -> None:
    """Whether what sounds is the riff at all.

    Raises
    ------
    RiffError
    """
    matches = found.matches
    span = 0
    for number in {match.round for match in matches}:
        places = [match.note for match in matches if match.round == number]
        span += max(places) - min(places) + 1
    share = len(matches) / max(span, min(len(expected.notes), FEW_NOTES))
    pitched = [
        float(moments.fits[match.moment, match.note]) for match in matches if expected.notes[match.note].pitches
    ]
    fit = float(np.mean(pitched)) if pitched else 1.0
    # Strong moments from the first to the last note that are none of the riff's.
    first, last = matches[0].moment, matches[-1].moment
    strong = int((moments.strengths[first : last + 1] > STRONG).sum())
    mine = sum(float(moments.strengths[match.moment]) > STRONG for match in matches)
    heard = int((moments.strengths > STRONG).sum())
    # A player may try other things first, but a few notes that happen to fit are no take of the riff.
    some = max(match.note for match in matches) - min(match.note for match in matches) + 1 < MOSTLY * len(
        expected.notes
    )
    chance = some and mine < LEAST_OF_ALL * heard
    if share < LEAST_SHARE or fit < LEAST_FIT or (strong > 8 and mine < LEAST_OWN * strong) or chance:
        title = f"'{plan.riff.title}'" if plan.riff.title else "this riff"
        raise RiffError(
            f"the take does not sound like {title}: of {heard} notes heard only "
            f"{mine} fit it; check that it is a take of this riff, in this tuning"
        )


def extra_notes(moments: Moments, attacks: Attacks, expected: Expected, notes: FoundNotes) -> tuple[float, ...]:
    """Onsets of notes that are not in the riff.

    A moment between the first and the last note that no note accounts for, and that is strong or at which the sound
    rises as at an attack. Close behind a note it is that note's own second attack.

    Parameters
    ----------
    moments : Moments
    attacks : Attacks
    expected : Expected
    notes : FoundNotes
    """
    played = np.array([note.onset_s for note in notes.notes if not note.missed])
    runs = [note.run for note in notes.notes if not note.missed]
    period = 1 / expected.lowest_hertz
    extra_notes = []
    for at, (time, strength) in enumerate(zip(moments.times, moments.strengths, strict=True)):
        if at in notes.used or strength < EXTRA_STRENGTH or not played[0] < time < played[-1]:
            continue
        exact, rise = attacks.time_near(float(time), period)
        after = int(np.searchsorted(played, exact))
        if rise < EXTRA_RISE_DB and strength < CLEARLY_EXTRA:
            continue
        if not 0 < after < len(played) or runs[after - 1] != runs[after]:
            continue
        if exact - played[after - 1] > EXTRA_AFTER_S and played[after] - exact > EXTRA_BEFORE_S:
            extra_notes.append(round(float(exact), 4))
    return tuple(extra_notes)


def _remarks(plan: Plan, notes: FoundNotes, expected: Expected, report: TakeReport) -> list[str]:
    remarks = []
    ratio = report.tempo / plan.tempo
    for words, value in (("half", 0.5), ("double", 2.0)):
        if abs(np.log2(ratio / value)) < NEARLY:
            remarks.append(f"it is played at {words} the plan's tempo: {report.tempo:.0f} against {plan.tempo:.0f}")
    if notes.left:
        remarks.append(
            f"the take ends {notes.left} notes before the end of the riff; they are not counted as missed"
        )
    if expected.lowest_hertz < LOW_HZ:
        remarks.append(
            "the lowest notes last so long from one swing to the next that their onsets are only sure to about 8 ms"
        )
    return remarks
