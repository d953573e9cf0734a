"""From moments to steps: the notes that hands have to act on, and the time between them.

A step is a moment that is neither a rest nor the rest of a tie. A link goes from one step to the next and
says how long there is and what kind of passage it is. `quarters` are exact; milliseconds come with a tempo.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property
from itertools import accumulate, pairwise

from dromic.errors import NoPlanError
from dromic.hands.picking import PickContext
from dromic.hands.possible_moves import MOST_FLIGHT, TransitionKind
from dromic.hands.synchronisation import SyncContext
from dromic.instrument.instrument import Instrument
from dromic.memory import Stages
from dromic.music.grid import GridPlace, grid_places
from dromic.music.riff import (
    MARK_WORDS,
    STRUCK_MARKS,
    UNPICKED_MARKS,
    Event,
    Locks,
    Mark,
    Note,
    Place,
    Riff,
    Stroke,
    stroke_words,
)
from dromic.music.timeline import TimedEvent, timeline, total_played
from dromic.planner.task.figures import Figure
from dromic.planner.task.step import Step

Moments = tuple[TimedEvent, ...]


@dataclass(frozen=True)
class Link:
    """The passage from one step to the next at the target tempo.

    Parameters
    ----------
    gap_ms : float
        From onset to onset, swing included.
    pick_gap_ms : float
        From the last picked onset; equal to `gap_ms` unless legato lies between.
    kind : TransitionKind
        What the fretting hand has to do.
    pick : PickContext
        What changes the time of a stroke to the second step.
    sync : SyncContext
        Whether the second step is picked, and what makes the hands' meeting there hard.
    raked : bool
        Whether the second step is raked.
    flights_ms : tuple of float
        Its length, its length with that of the link before it, and so on: the time that the fretting hand has had
        when no finger was down for so many notes. Empty: `gap_ms` alone.
    """

    gap_ms: float
    pick_gap_ms: float
    kind: TransitionKind
    pick: PickContext
    sync: SyncContext
    raked: bool = False
    flights_ms: tuple[float, ...] = ()

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash((self.gap_ms, self.pick_gap_ms, self.kind, self.pick, self.sync, self.raked, self.flights_ms))

    @property
    def earlier_ms(self) -> float:
        """Length of the link before this one."""
        return self.flights_ms[1] - self.flights_ms[0] if len(self.flights_ms) > 1 else 0.0

    def flight_ms(self, flight: int) -> float:
        """Time that the fretting hand has had after so many notes without a finger down."""
        return flight_ms(self.flights_ms, self.gap_ms, flight)

    def as_played(self, before_sounded: bool, after_sounded: bool) -> Link | None:
        """The link when its notes are picked or slurred as said; None when that cannot be.

        Where notes before it may have been slurred, the pick has had the time since the note before them at least.
        """
        if after_sounded:
            if not self.picked:
                return None
            if before_sounded or self.sync.resumes:
                return self
            gap_ms = max(self.pick_gap_ms, self.gap_ms + self.earlier_ms)
            pick, sync = replace(self.pick, resumes=True), replace(self.sync, resumes=True)
            return replace(self, pick_gap_ms=gap_ms, pick=pick, sync=sync)
        if not self.picked:
            return self
        if self.kind.silent_between or self.sync.seam:
            return None
        kind = TransitionKind(self.kind.legato, slur=True, next_take=self.kind.next_take)
        return replace(self, kind=kind, sync=SyncContext(False))

    @property
    def picked(self) -> bool:
        """Whether the second step is picked."""
        return self.sync.picked


def flight_ms(flights_ms: tuple[float, ...], gap_ms: float, flight: int) -> float:
    """Time that the fretting hand has had after so many notes without a finger down; see `Link`.

    Parameters
    ----------
    flights_ms : tuple of float
    gap_ms : float
    flight : int
    """
    return flights_ms[min(flight, len(flights_ms) - 1)] if flights_ms else gap_ms


@dataclass(frozen=True)
class Task:
    """All steps and links of a riff; with `seam`, the link from the last step back to the first.

    `warnings` say what of the riff cannot be kept; with `identical_repeats`, every pass of a phrase is played like
    the first. `figures` are what comes back in the music, moved or not, `spans` the notes that one chord shape is
    held for. With `swapped`, every second round of a loop has the other strokes.
    """

    moments: tuple[TimedEvent, ...]
    steps: tuple[Step, ...]
    links: tuple[Link, ...]
    seam: Link | None
    warnings: tuple[str, ...] = ()
    identical_repeats: bool = False
    figures: tuple[Figure, ...] = ()
    spans: tuple[range, ...] = ()
    swapped: bool = False


def task_of(
    riff: Riff,
    instrument: Instrument,
    *,
    loop: bool = False,
    free: Collection[str] = (),
    first_stroke: Stroke | None = None,
    exempt: Collection[int] = (),
    stages: Stages | None = None,
) -> Task:
    """Work out what the hands have to do.

    Parameters
    ----------
    riff : Riff
    instrument : Instrument
        What it is played on.
    loop : bool
        Whether the riff goes round, which adds the seam.
    free : collection of str
        Which locks to take out: ``fingers``, ``strokes`` or ``positions``.
    first_stroke : Stroke or None
        What the first picked note takes, unless it is locked.
    exempt : collection of int
        Steps whose locked strokes are played although the school grants none that is.
    stages : Stages or None
        What was made of this riff before.

    Raises
    ------
    NoPlanError
        For notes struck together, legato with nothing before it, or a riff of rests.
    """
    stages = stages or Stages()
    moments = timeline(riff)
    steps = _written(moments, frozenset(free), stages)
    if not steps:
        raise NoPlanError("there are only rests here, so there is nothing to plan; write at least one note")
    rested = [_rested(moments[one.moment.index + 1 : two.moment.index]) for one, two in pairwise(steps)]
    silent = [_silent(step, rested=rest) for step, rest in zip(steps, rested, strict=False)]
    steps = stages.map(_from_somewhere, steps, [None, *steps[:-1]], [True, *silent])
    _check_legato(steps)
    steps = _counted(steps, silent, stages)
    if exempt:
        steps = [step.told(exempt=number in exempt) for number, step in enumerate(steps)]
    if first_stroke is not None:
        steps = [_begun(step, first_stroke) if step.opening else step for step in steps]
    ms_per_quarter = 60_000.0 / riff.tempo
    links = _links(steps, rested, ms_per_quarter, instrument, stages)
    seam = _seam(riff, steps, moments, ms_per_quarter, instrument) if loop else None
    return Task(moments, tuple(steps), tuple(links), seam)


def _written(moments: tuple[TimedEvent, ...], free: frozenset[str], stages: Stages) -> list[Step]:
    """A step for each note, as it is written."""
    places = grid_places(moments)
    struck = [number for number, moment in enumerate(moments) if not moment.event.rest and not moment.tied]
    return stages.map(
        _step, [moments[number] for number in struck], [places[number] for number in struck], common=(free,)
    )


def _links(
    steps: Sequence[Step],
    rested: Sequence[bool],
    ms_per_quarter: float,
    instrument: Instrument,
    stages: Stages,
) -> list[Link]:
    """A link from each step to the next."""
    onsets: list[Fraction] = []
    picked_onset = steps[0].moment.played
    for before in steps[:-1]:
        if before.picked or before.tapped:
            # A hand that has tapped comes back from the neck to pick.
            picked_onset = before.moment.played
        onsets.append(picked_onset)
    ends = steps[1:], steps[:-1], [*steps[2:], None][: len(onsets)]
    passages = stages.map(_passage, *ends, rested, onsets, common=(instrument,))
    quarters = [passage.quarters for passage in passages]
    earlier = [tuple(quarters[max(at - MOST_FLIGHT, 0) : at][::-1]) for at in range(len(quarters))]
    return stages.map(_link, passages, earlier, common=(ms_per_quarter,))


def _step(moment: TimedEvent, place: GridPlace, free: Collection[str]) -> Step:
    event = moment.event
    note = event.notes[0]
    marks = note.marks | event.marks
    locks = Locks(
        None if "strokes" in free else event.locks.stroke or note.locks.stroke,
        None if "fingers" in free else event.locks.finger or note.locks.finger,
        None if "positions" in free else event.locks.position or note.locks.position,
    )
    legato = next((mark for mark in UNPICKED_MARKS if mark in marks), None)
    struck = legato in (Mark.SLIDE, Mark.RELEASE) and locks.stroke not in (None, Stroke.NONE)
    more = tuple(_merged(other, event, free) for other in event.notes[1:])
    first = _merged(note, event, free) if more else Note(note.target, marks)
    return Step(moment, first, place, locks, legato, legato is None or struck, 0, more=more)


def _from_somewhere(step: Step, before: Step | None, silent: bool) -> Step:
    """A step; a slide that does not come from the note before is struck, and slid into from a fret or two away."""
    if step.legato is not Mark.SLIDE:
        return step
    comes = before is not None and not silent and _slides(before, step)
    return step if comes else replace(step, legato=None, picked=True)


def _slides(before: Step, step: Step) -> bool:
    """Whether a finger can slide from step to step, as far as that is known before planning."""
    one, two = before.note.target, step.note.target
    if step.more or before.more or not (isinstance(one, Place) and isinstance(two, Place)):
        return True
    return one.string == two.string and one.fret > 0 and one != two


def _merged(note: Note, event: Event, free: Collection[str]) -> Note:
    """A note of a chord with the event's marks, and its finger lock as far as it is kept."""
    finger = None if "fingers" in free else note.locks.finger or event.locks.finger
    return Note(note.target, note.marks | event.marks, Locks(finger=finger))


def _may_slur(step: Step) -> bool:
    return (
        step.picked
        and not step.more
        and not step.held
        and step.locks.stroke in (None, Stroke.NONE)
        and not step.note.marks & STRUCK_MARKS
    )


def _slurs(step: Step, before: Step | None, silent: bool) -> bool:
    """Whether a step could be hammered on or pulled off after the one before."""
    return before is not None and not before.more and not silent and _may_slur(step)


def _counted(steps: Sequence[Step], silent: Sequence[bool], stages: Stages) -> list[Step]:
    """Number the picked notes of every bar."""
    may_slur = stages.map(_slurs, steps, [None, *steps[:-1]], [True, *silent])
    counts: list[int] = []
    bar, count = None, 0
    for step in steps:
        if step.moment.bar != bar:
            bar, count = step.moment.bar, 0
        counts.append(count)
        count += step.picked
    opening = next((number for number, step in enumerate(steps) if step.picked), None)
    opens = [number == opening for number in range(len(steps))]
    return stages.map(_with_count, steps, counts, opens, may_slur)


def _with_count(step: Step, count: int, opening: bool, may_slur: bool) -> Step:
    return step.told(count=count, opening=opening, may_slur=may_slur)


def _begun(step: Step, stroke: Stroke) -> Step:
    if step.locks.stroke not in (None, stroke):
        raise NoPlanError(
            f"{step.words} is locked to {stroke_words(step.locks.stroke)}, but the first stroke is wanted to be "
            f"{stroke_words(stroke)}; take out the lock, or ask for the other stroke",
            event_index=step.moment.event_index,
        )
    return replace(step, locks=replace(step.locks, stroke=stroke))


def _check_legato(steps: Sequence[Step]) -> None:
    for before, step in zip([None, *steps], steps, strict=False):
        if step.legato is None:
            continue
        name = MARK_WORDS[step.legato]
        if before is None and step.legato not in (Mark.HAMMER, Mark.TAP):
            raise NoPlanError(
                f"{step.words}: a {name} has no note before it; pick this note, or write the one it comes from",
                event_index=step.moment.event_index,
            )
        if step.tapped and step.more:
            raise NoPlanError(
                f"{step.words}: notes are tapped one at a time here; write the others before or after it, or pick "
                "them",
                event_index=step.moment.event_index,
            )
        if step.locks.stroke not in (None, Stroke.NONE) and not step.picked:
            raise NoPlanError(
                f"{step.words}: a {name} is not picked, but its stroke is locked to {step.locks.stroke}; "
                "take out the lock or the mark",
                event_index=step.moment.event_index,
            )


def _rested(between: Sequence[TimedEvent]) -> bool:
    """Whether there is a rest among what lies between two notes."""
    return any(moment.event.rest for moment in between)


def _silent(before: Step, *, rested: bool) -> bool:
    """Whether a note is left before what comes next."""
    return rested or bool(before.note.marks & {Mark.STACCATO, Mark.SLIDE_OFF})


def _plants_on(step: Step, following: Step | None, instrument: Instrument) -> tuple[int, ...]:
    """Strings, as rows from the thickest, on which the pull-off after a step leads to a fretted note."""
    if following is None or following.legato is not Mark.PULL or step.legato is Mark.PULL:
        return ()
    reached = {instrument.pitch_of(note.target) for note in following.notes}
    opens = (pitch + instrument.capo for pitch in instrument.tuning)
    return tuple(row for row, pitch in enumerate(opens) if pitch not in reached)


def _subdivides(before: Step, after: Step) -> bool:
    """Whether another subdivision begins: tuplets after plain notes, plain ones after tuplets, other tuplets."""
    one, two = before.moment.event, after.moment.event
    return not (one.grace or two.grace) and one.value.tuplet != two.value.tuplet


@dataclass(frozen=True)
class _Passage:
    """A link but for the tempo: quarter notes from onset to onset, and from the last picked onset."""

    quarters: float
    pick_quarters: float
    kind: TransitionKind
    pick: PickContext
    sync: SyncContext
    raked: bool


def _passage(
    after: Step,
    before: Step,
    following: Step | None,
    rested: bool,
    picked_onset: Fraction,
    instrument: Instrument,
) -> _Passage:
    return _Passage(
        float(after.moment.played - before.moment.played),
        float(after.moment.played - picked_onset),
        TransitionKind(
            after.legato,
            _silent(before, rested=rested),
            _plants_on(after, following, instrument),
            to_neck=after.tapped and before.picked,
        ),
        _pick_context(before, after, rested=rested),
        SyncContext(after.picked, after.picked and not before.picked, _subdivides(before, after)),
        after.raked,
    )


def _link(passage: _Passage, earlier: tuple[float, ...], ms_per_quarter: float) -> Link:
    gap_ms = passage.quarters * ms_per_quarter
    earlier_ms = (quarters * ms_per_quarter for quarters in earlier)
    return Link(
        gap_ms,
        passage.pick_quarters * ms_per_quarter,
        passage.kind,
        passage.pick,
        passage.sync,
        passage.raked,
        tuple(accumulate((gap_ms, *earlier_ms))),
    )


def _pick_context(before: Step, after: Step, *, rested: bool) -> PickContext:
    # An accent bounces the palm off the strings.
    palm_stays = Mark.PALM_MUTE in before.note.marks and Mark.ACCENT not in before.note.marks
    return PickContext(
        palm_changes=palm_stays != (Mark.PALM_MUTE in after.note.marks),
        accent=Mark.ACCENT in after.note.marks,
        off_beat=after.place.part % 2 == 1,
        resumes=after.picked and not before.picked,
        rested=rested,
        exempt=after.exempt,
        pinched=Mark.PINCH in after.note.marks,
        from_neck=before.tapped,
    )


def _seam(
    riff: Riff,
    steps: list[Step],
    moments: tuple[TimedEvent, ...],
    ms_per_quarter: float,
    instrument: Instrument,
) -> Link:
    first, last = steps[0], steps[-1]
    round_trip = total_played(riff) + first.moment.played
    # Where no note is picked at all, the pick has nowhere to come from.
    last_used = next((step for step in reversed(steps) if step.picked or step.tapped), last)
    rested = _rested((*moments[last.moment.index + 1 :], *moments[: first.moment.index]))
    return Link(
        float(round_trip - last.moment.played) * ms_per_quarter,
        float(round_trip - last_used.moment.played) * ms_per_quarter,
        TransitionKind(
            Mark.TAP if first.tapped else None,
            _silent(last, rested=rested),
            _plants_on(first, steps[1] if len(steps) > 1 else None, instrument),
            to_neck=first.tapped and last.picked,
        ),
        _pick_context(last, first, rested=rested),
        SyncContext(first.picked, first.picked and not last.picked, _subdivides(last, first), seam=True),
        first.raked,
    )
