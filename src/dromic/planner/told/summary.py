"""From chosen states to what players read: events, limits and totals."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dromic.arrays import Floats
from dromic.hands.constants import RestStrokes
from dromic.hands.grips import Fretted
from dromic.hands.picking import PICK
from dromic.hands.terms import LoadKind, spot_keys
from dromic.instrument.instrument import Instrument
from dromic.memory import Memo, Stages, memo
from dromic.music.riff import Mark, Stroke
from dromic.music.timeline import TimedEvent
from dromic.planner.costs.fret_costs import FretCosts
from dromic.planner.costs.model import Model
from dromic.planner.costs.pick_costs import Strike
from dromic.planner.costs.pick_moves import pick_index
from dromic.planner.costs.transitions import TransitionReport
from dromic.planner.plan import Bottleneck, Ceilings, Mute, PlannedEvent, PlannedNote, PlannedSpan, StrokeKind
from dromic.planner.task.state import Loads, State
from dromic.planner.task.step import Step
from dromic.planner.task.task import Task
from dromic.planner.told.chord_spans import planned_note, planned_spans, sounding_on
from dromic.planner.told.muting import Attack, mutes_at
from dromic.schools.school import School

NEAR_THE_LIMIT = 0.99
LONG_NOTE_QUARTERS = 1
MOST_MUTES = 20_000
LONG_SHIFT_MM = 80.0
SKIP, SHIFT_FAR = "skip", "shift_far"


def _loads(reports: Sequence[TransitionReport], stages: Stages) -> Floats:
    """Loads of the pick, of the fretting hand and of both meeting, and the largest; shape (moves, 4)."""
    return np.array(stages.map(_loads_of, reports), dtype=np.float64).reshape(-1, 4)


def _loads_of(report: TransitionReport) -> tuple[float, float, float, float]:
    one = report.loads
    return one.pick, one.fret, one.sync, one.largest


def ceilings_of(tempo: float, reports: Sequence[TransitionReport], stages: Stages) -> Ceilings:
    """Tempi at which a hand has no time left.

    Parameters
    ----------
    tempo : float
        Quarter notes a minute.
    reports : sequence of TransitionReport
    stages : Stages
        What was made of this riff before.
    """
    pick, fret, _, both = _loads(reports, stages).max(axis=0, initial=0.0).tolist()
    return Ceilings(*(tempo / one if one > 0 else None for one in (pick, fret, both)))


def bottlenecks_of(task: Task, reports: Sequence[TransitionReport], stages: Stages) -> tuple[Bottleneck, ...]:
    """Return the transitions whose load is within a hundredth of the largest, in order of time.

    Parameters
    ----------
    task : Task
    reports : sequence of TransitionReport
    stages : Stages
        What was made of this riff before.
    """
    loads = _loads(reports, stages)[:, 3]
    largest = loads.max(initial=0.0)
    if not largest:
        return ()
    bottlenecks = []
    for start in np.flatnonzero(loads >= NEAR_THE_LIMIT * largest).tolist():
        one, seam = reports[start], start == len(task.steps) - 1
        end = 0 if seam else start + 1
        where = "the seam, back to the start" if seam else task.steps[end].moment.place_words
        first, last = (task.steps[at].moment.index for at in (start, end))
        bottlenecks.append(
            Bottleneck(first, last, one.loads.kind, one.loads.largest, f"{where}: {limit_words(one)}")
        )
    return tuple(bottlenecks)


def limit_words(one: TransitionReport) -> str:
    """What makes a transition hard, in words."""
    kind = one.loads.kind
    pick = one.pick.words if one.pick is not None else "legato"
    if kind is LoadKind.PICK:
        return pick
    if kind is LoadKind.FRET:
        told = one.told(one.fret.times)
        return max(told, key=lambda words: told[words], default="the fretting hand")
    if "change_shift_ms" in one.sync_times:
        return f"shift of {one.fret.shift_mm:.0f} mm with {_with_article(pick)}"
    told = one.told(one.sync_times)
    return f"{max(told, key=lambda words: told[words])} ({pick})"


def _with_article(words: str) -> str:
    """A movement of the pick with its article, where it has none of its own.

    Examples
    --------
    >>> _with_article("inside change"), _with_article("the pick after the ring finger")
    ('an inside change', 'the pick after the ring finger')
    """
    if words.startswith("the "):
        return words
    return f"an {words}" if words[0] in "aio" else f"a {words}"


def planned_events(
    model: Model,
    task: Task,
    chosen: Sequence[State],
    reports: Sequence[TransitionReport],
    stages: Stages,
) -> tuple[PlannedEvent, ...]:
    """Return an event for every moment, rests and ties included; the report of the seam is the last.

    Parameters
    ----------
    model : Model
    task : Task
    chosen : sequence of State
    reports : sequence of TransitionReport
    stages : Stages
        What was made of this riff before.
    """
    steps, count = task.steps, len(task.steps)
    seam = reports[-1] if task.seam is not None else None
    ways = [seam, *reports] if seam is None else [seam, *reports[:-1], seam]
    ways += [None] * (count + 1 - len(ways))
    silent = [True, *(link.kind.silent_between for link in task.links)]
    hammered = [False, *(step.legato is Mark.HAMMER for step in steps[:-1])]
    before = [chosen[-1], *chosen[:-1]]
    chords = planned_spans(task, chosen, model.instrument), sounding_on(task, chosen)
    columns = steps, range(count), chosen, before, ways[:-1], ways[1:], silent, hammered, *chords
    notes = stages.map(_event, *columns, common=(model,))
    return tuple(notes) if count == len(task.moments) else _with_silence(task.moments, notes)


def _with_silence(moments: Sequence[TimedEvent], notes: Sequence[PlannedEvent]) -> tuple[PlannedEvent, ...]:
    """Events of all moments, where some are rests or ties."""
    silence: list[PlannedEvent] = []
    coming = iter(notes)
    following = next(coming, None)
    for moment in moments:
        if following is not None and following.moment.index == moment.index:
            silence.append(following)
            following = next(coming, None)
            continue
        before = silence[-1] if silence else None
        silent = PlannedEvent(
            moment=moment,
            step=None,
            rest=moment.event.rest,
            notes=before.notes if before is not None and moment.tied else (),
            position=before.position if before is not None else None,
            stroke=Stroke.NONE,
            stroke_kind=None,
            legato=None,
            loads=Loads(),
            mutes=before.mutes if before is not None and moment.tied else (),
        )
        silence.append(silent)
    return tuple(silence)


def _event(
    step: Step,
    index: int,
    state: State,
    before: State,
    report: TransitionReport | None,
    following: TransitionReport | None,
    after_silence: bool,
    hammered_before: bool,
    span: PlannedSpan | None,
    sounds_on: frozenset[Fretted],
    model: Model,
) -> PlannedEvent:
    """The event of a step.

    Parameters
    ----------
    step : Step
    index : int
        Its number.
    state, before : State
        How it is played, and the step before it; of the first the last.
    report, following : TransitionReport or None
        Of the way to it, and of the way on.
    after_silence, hammered_before : bool
        Whether nothing sounds before it; whether the note before it is hammered on.
    span : PlannedSpan or None
        The chord that is held there.
    sounds_on : frozenset of (int, int, int)
        What of it was struck before.
    model : Model
    """
    ready = state.grip.ready
    attack = Attack(Mark.ACCENT in step.note.marks, not after_silence and hammered_before, model.with_pick)
    rang = None if after_silence else before.grip
    return PlannedEvent(
        moment=step.moment,
        step=index,
        rest=False,
        notes=_notes(model, state),
        position=state.position,
        stroke=state.stroke if state.sounded else Stroke.NONE,
        stroke_kind=_stroke_kind(model, state, following, step.moment) if state.sounded else None,
        legato=_legato(step, state, before),
        loads=report.loads if report is not None else Loads(),
        mutes=memo(_known_mutes, model.fretting)(state.grip, model.instrument.strings, rang, attack),
        strokes=_strokes(model.school_of(step), state),
        held=_planned(model.instrument, (*state.held, *(note for note in ready if note in sounds_on))),
        ready=_planned(model.instrument, tuple(note for note in ready if note not in sounds_on)),
        span=span,
        spots=_spots(model, step, state, report),
    )


def _known_mutes(_fretting: FretCosts) -> Memo[tuple[Mute, ...]]:
    """What silences the other strings; the same for the same grips and attack, at any tempo and in any school."""
    return Memo(mutes_at, MOST_MUTES)


def _spots(model: Model, step: Step, state: State, report: TransitionReport | None) -> tuple[str, ...]:
    """Keys of the terms of a note and of the way to it that may trip the hands up under its school."""
    spots = () if report is None else memo(_spots_of_way, report)
    if not state.sounded:
        return spots
    return spots + model.picking.trips(
        Strike.of(step), model.school_of(step), pick_index(state, model), state.string
    )


def _spots_of_way(report: TransitionReport) -> tuple[str, ...]:
    found = report.times | {key: amount for key, amount in report.efforts.items() if key == SKIP}
    if report.fret.shift_mm >= LONG_SHIFT_MM:
        found |= {key: amount for key, amount in report.efforts.items() if key == SHIFT_FAR}
    return spot_keys(found)


def _notes(model: Model, state: State) -> tuple[PlannedNote, ...]:
    return memo(_planned_notes, state, model.instrument)


def _planned_notes(state: State, instrument: Instrument) -> tuple[PlannedNote, ...]:
    return _planned(instrument, state.notes)


def _planned(instrument: Instrument, notes: tuple[tuple[int, int, int], ...]) -> tuple[PlannedNote, ...]:
    return tuple(planned_note(note, instrument) for note in notes)


def _strokes(school: School, state: State) -> tuple[Stroke, ...]:
    """What sounds each note."""
    if not state.sounded:
        return (Stroke.NONE,) * len(state.notes)
    if state.stroke is Stroke.CHORD_PLUCK:
        return school.strokes_of_chord(tuple(string for string, _, _ in state.notes))
    return (state.stroke,) * len(state.notes)


def _legato(step: Step, state: State, before: State) -> Mark | None:
    """How a note is reached without a stroke: as written, or as a slur has to be."""
    if step.legato is not None or state.sounded:
        return step.legato if step.legato is not Mark.RELEASE else None
    pulled = state.string == before.string and state.fret < before.fret
    return Mark.PULL if pulled else Mark.HAMMER


def _stroke_kind(model: Model, state: State, following: TransitionReport | None, moment: TimedEvent) -> StrokeKind:
    """Rest strokes as the player has them, where the pick meets a next string; free strokes elsewhere."""
    if state.stroke not in PICK:
        return StrokeKind.FREE
    step = -1 if state.stroke is Stroke.DOWN else 1
    meets = 1 <= state.ends + step <= model.instrument.strings and state.stroke is not state.escape
    option = model.hands.picking.rest_strokes
    if not meets or option is RestStrokes.NEVER:
        return StrokeKind.FREE
    if option is RestStrokes.WHENEVER:
        return StrokeKind.REST
    if following is not None and following.pick is not None and following.pick.sweep:
        return StrokeKind.REST
    return StrokeKind.REST if moment.duration * moment.pace >= LONG_NOTE_QUARTERS else StrokeKind.FREE
