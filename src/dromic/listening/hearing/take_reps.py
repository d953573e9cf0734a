"""A take as repetitions for the practice log: one a round, clean or not by what was heard."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from dromic.listening.take import State, TakeNote
from dromic.practice.log.logbook import Clean, Rep, Source
from dromic.practice.movement import movements, plan_hash, riff_hash

if TYPE_CHECKING:
    from dromic.listening.hearing.review import Review

LATE_SHARE, LEAST_LATE_MS = 0.25, 20.0
OFF_NOTES = 20
LEAST_PLAYED = 0.8


def reps_of(review: Review, when: datetime, name: str) -> tuple[Rep, ...]:
    """Repetitions of a take.

    A round is clean when nothing in it is missed, smeared, double or begun again, and at most one note in twenty is
    off by more than a quarter of the time to its neighbour.

    Parameters
    ----------
    review : Review
    when : datetime
        When it was played, with its zone.
    name : str
        Tells the take apart, so that it can be put into the log again without counting twice.
    """
    plan, report = review.plan, review.report
    steps = len(plan.states)
    reps = []
    length = float(plan.events[-1].moment.ends)
    for number in range(report.rounds):
        notes = [note for note in report.notes if note.round == number]
        if len(notes) < LEAST_PLAYED * steps:
            continue
        begun_again = any(notes[0].onset_s <= restart.onset_s <= notes[-1].onset_s for restart in report.restarts)
        tempo = _tempo(review, notes)
        reps.append(
            Rep(
                when,
                round(tempo, 1),
                movements(plan).each,
                riff_hash(plan.riff),
                plan_hash(plan),
                f"{plan.riff.title or 'Riff'}: take",
                "whole",
                1,
                round(length * 60.0 / tempo, 1),
                Clean.NOT if begun_again or not _is_clean(review, notes) else Clean.CLEAN,
                Source.TAKE,
                uid=f"take-{name}-{number}",
            )
        )
    return tuple(reps)


def _tempo(review: Review, notes: list[TakeNote]) -> float:
    """The tempo of one round, from where its first and last notes were due."""
    events = review.plan.events
    beats = float(events[notes[-1].index].moment.played - events[notes[0].index].moment.played)
    first, last = (note.onset_s - note.deviation_ms / 1000 for note in (notes[0], notes[-1]))
    return 60.0 * beats / (last - first) if beats > 0 and last > first else review.report.tempo


def _is_clean(review: Review, notes: list[TakeNote]) -> bool:
    if any(note.state is not State.PLAYED for note in notes):
        return False
    return sum(_is_off(review, note) for note in notes) <= len(notes) // OFF_NOTES


def _is_off(review: Review, note: TakeNote) -> bool:
    plan = review.plan
    step = plan.events[note.index].step
    steps = plan.task.steps
    if step is None:
        return False
    gaps = [
        abs(float(steps[other].moment.played - steps[step].moment.played)) * 60_000.0 / review.report.tempo
        for other in (step - 1, step + 1)
        if 0 <= other < len(steps)
    ]
    limit = max(LATE_SHARE * min(gaps, default=1e9), LEAST_LATE_MS) if gaps else LEAST_LATE_MS
    return abs(note.deviation_ms) > limit
