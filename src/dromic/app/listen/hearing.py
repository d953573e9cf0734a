"""What the Listen stage works out in threads: a take read and reviewed, a passage sounded. Without Qt."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from dromic.app.jobs import Watch
from dromic.listening.hearing.recording import Recording
from dromic.listening.sound.extent import Extent, Mix, whole
from dromic.listening.take import State, TakeNote
from dromic.planner.plan import Plan
from dromic.practice.tempo.ramp import FASTEST, SLOWEST

if TYPE_CHECKING:
    from dromic.listening.hearing.review import Review

RAMP_FROM, RAMP_TO, RAMP_S = 0.65, 1.15, 60.0


@dataclass(frozen=True)
class HeardTake:
    """A take that has been listened to.

    Parameters
    ----------
    path : Path
    recording : Recording
    review : Review
    when : datetime
        When its file was written.
    name : str
        Tells the take apart from others, whatever its file is called.
    """

    path: Path
    recording: Recording
    review: Review
    when: datetime
    name: str


def hear(path: Path, plan: Plan, watch: Watch) -> Iterator[HeardTake]:
    """Read a take and review it.

    Parameters
    ----------
    path : Path
    plan : Plan
    watch : callable
        Called with the share of the work that is done; what it raises ends it.

    Raises
    ------
    RiffError
        When it cannot be read, or is no take of the plan's riff.
    """
    # They load SciPy, which the window starts without.
    from dromic.formats.take_audio import read_take
    from dromic.listening.hearing.review import review_of

    watch(0.0)
    recording = read_take(path)
    watch(0.05)
    review = review_of(plan, recording, watch)
    name = hashlib.sha256(recording.samples.tobytes()).hexdigest()[:16]
    when = datetime.fromtimestamp(path.stat().st_mtime, UTC)
    yield HeardTake(path, recording, review, when, name)


def ramp_for(plan: Plan, target: float) -> Extent:
    """The clicks of a ramp test: round after round for about a minute, from well below the target to above it.

    Parameters
    ----------
    plan : Plan
    target : float
        Quarter notes a minute.
    """
    length = whole(plan).end
    start, end = max(RAMP_FROM * target, SLOWEST), min(RAMP_TO * target, FASTEST)
    rounds = max(round(RAMP_S * (start + end) / 120 / length), 2)
    silent = Mix(voice=0.0)
    return Extent(0.0, length, start, True, True, end_tempo=end, rounds=rounds, mix=silent)


def by_step(review: Review) -> tuple[tuple[TakeNote, ...], ...]:
    """What was heard of every step, round after round."""
    found: list[list[TakeNote]] = [[] for _ in review.plan.states]
    for note in review.report.notes:
        step = review.plan.events[note.index].step
        if step is not None:
            found[step].append(note)
    return tuple(tuple(notes) for notes in found)


def worst_round(review: Review, index: int) -> int:
    """In which round a note went wrong most, among those in which it sounds; the first where it never does."""
    notes = [note for note in review.report.notes if note.index == index]
    played = [note for note in notes if note.state is not State.MISSED]
    if not played:
        return notes[0].round if notes else 0
    return max(played, key=lambda note: abs(note.deviation_ms)).round
