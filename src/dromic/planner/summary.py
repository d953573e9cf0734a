"""From chosen states to what players read: events, limits and totals."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from typing import cast

import numpy as np

from dromic.arrays import Floats
from dromic.hands.constants import RestStrokes
from dromic.hands.grips import Grip
from dromic.hands.picking import PICK
from dromic.hands.terms import LoadKind, spot_keys
from dromic.music.remembering import last_of
from dromic.music.riff import Mark, Place, Stroke
from dromic.music.timeline import TimedEvent
from dromic.planner.model import Model
from dromic.planner.muting import Attack, mutes_at
from dromic.planner.plan import Ceilings, Limit, Loads, Mute, PlannedEvent, PlannedNote, State, StrokeKind
from dromic.planner.step import Step
from dromic.planner.steps import Task
from dromic.planner.transitions import TransitionReport, pick_index
from dromic.planner.workings import Workings
from dromic.schools.school import School

NEAR_THE_LIMIT = 0.99
LONG_NOTE_QUARTERS = 1
LONG_SHIFT_MM = 80.0
SKIP, SHIFT_FAR = "skip", "shift_far"


def _loads(reports: Sequence[TransitionReport], workings: Workings) -> Floats:
    """Loads of the pick, of the fretting hand and of both meeting, and the largest; shape (moves, 4)."""

    def loads(at: int) -> tuple[float, float, float, float]:
        one = reports[at].loads
        return one.pick, one.fret, one.sync, one.largest

    return np.array(workings.each("loads", (reports,), loads), dtype=np.float64).reshape(-1, 4)


def ceilings_of(tempo: float, reports: Sequence[TransitionReport], workings: Workings) -> Ceilings:
    """Tempi at which a hand has no time left."""
    pick, fret, _, both = _loads(reports, workings).max(axis=0, initial=0.0).tolist()
    return Ceilings(*(tempo / one if one > 0 else None for one in (pick, fret, both)))


def limits_of(task: Task, reports: Sequence[TransitionReport], workings: Workings) -> tuple[Limit, ...]:
    """Return the transitions whose load is within a hundredth of the largest, in order of time."""
    loads = _loads(reports, workings)[:, 3]
    largest = loads.max(initial=0.0)
    if not largest:
        return ()
    found = []
    for start in np.flatnonzero(loads >= NEAR_THE_LIMIT * largest).tolist():
        one, seam = reports[start], start == len(task.steps) - 1
        end = 0 if seam else start + 1
        where = "the seam, back to the start" if seam else task.steps[end].moment.place_words
        first, last = (task.steps[at].moment.index for at in (start, end))
        found.append(Limit(first, last, one.loads.kind, one.loads.largest, f"{where}: {limit_words(one)}"))
    return tuple(found)


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
    workings: Workings,
) -> tuple[PlannedEvent, ...]:
    """Return an event for every moment, rests and ties included; the report of the seam is the last."""
    steps, count = task.steps, len(task.steps)
    seam = reports[-1] if task.seam is not None else None
    ways = [seam, *reports] if seam is None else [seam, *reports[:-1], seam]
    ways += [None] * (count + 1 - len(ways))
    silent = [True, *(link.kind.silent_between for link in task.links)]

    def made(index: int) -> PlannedEvent:
        state, step = chosen[index], steps[index]
        hammered = index > 0 and steps[index - 1].legato is Mark.HAMMER
        way = _Way(index, state, chosen[index - 1], ways[index], ways[index + 1], silent[index], hammered)
        # Each of these is one object, and kept with the event: nothing large is compared.
        parts = (state, chosen[index - 1], ways[index], ways[index + 1], model)
        kept = (index, silent[index], hammered, *map(id, parts))
        event, _, _ = last_of(step, "_event", kept, partial(_event_kept, model, step, way))
        return event

    before = [chosen[-1], *chosen[:-1]]
    columns = steps, chosen, before, ways[:-1], ways[1:], silent
    notes = workings.each("events", columns, made, near=(1, 0), made_from=(model,))
    return tuple(notes) if count == len(task.moments) else _with_silence(task.moments, notes)


def _with_silence(moments: Sequence[TimedEvent], notes: Sequence[PlannedEvent]) -> tuple[PlannedEvent, ...]:
    """Events of all moments, where some are rests or ties."""
    found: list[PlannedEvent] = []
    coming = iter(notes)
    following = next(coming, None)
    for moment in moments:
        if following is not None and following.moment.index == moment.index:
            found.append(following)
            following = next(coming, None)
            continue
        before = found[-1] if found else None
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
        found.append(silent)
    return tuple(found)


@dataclass(frozen=True, eq=False)
class _Way:
    """How a step is played, and what lies before it and behind."""

    index: int
    state: State
    before: State
    report: TransitionReport | None
    following: TransitionReport | None
    after_silence: bool
    hammered_before: bool


def _event_kept(model: Model, step: Step, way: _Way) -> tuple[PlannedEvent, _Way, Model]:
    """An event with all that it was made from, so that their numbers stay theirs."""
    return _event(model, step, way), way, model


def _event(model: Model, step: Step, way: _Way) -> PlannedEvent:
    state = way.state
    return PlannedEvent(
        moment=step.moment,
        step=way.index,
        rest=False,
        notes=_notes(model, state),
        position=state.position,
        stroke=state.stroke if state.sounded else Stroke.NONE,
        stroke_kind=_stroke_kind(model, state, way.following, step.moment) if state.sounded else None,
        legato=_legato(step, state, way.before),
        loads=way.report.loads if way.report is not None else Loads(),
        mutes=_mutes(model, step, way),
        strokes=_strokes(model.school_of(step), state),
        held=_planned(model, state.held),
        spots=_spots(model, step, state, way.report),
    )


def _mutes(model: Model, step: Step, way: _Way) -> tuple[Mute, ...]:
    """What silences the other strings; the same for the same grips and attack, at any tempo."""
    known = cast("dict[object, tuple[tuple[Mute, ...], Grip, Grip]]", model.fretting.mutes)
    state, before, silent = way.state, way.before, way.after_silence
    accented, hammered = Mark.ACCENT in step.note.marks, not silent and way.hammered_before
    key = (id(state.grip), id(before.grip), silent, accented, hammered, model.with_pick)
    found = known.get(key)
    if found is None:
        attack = Attack(accented, hammered, model.with_pick)
        mutes = mutes_at(state, model.instrument.strings, None if silent else before, attack)
        # With its grips, so that nothing else takes their numbers.
        found = known[key] = mutes, state.grip, before.grip
    return found[0]


def _spots(model: Model, step: Step, state: State, report: TransitionReport | None) -> tuple[str, ...]:
    """Keys of the terms of a note and of the way to it that may trip the hands up under its school."""
    found = () if report is None else last_of(report, "_spots", (), partial(_spots_of_way, report))
    if not state.sounded:
        return found
    return found + model.picking.trips(step, model.school_of(step), pick_index(state, model), state.string)


def _spots_of_way(report: TransitionReport) -> tuple[str, ...]:
    found = report.times | {key: amount for key, amount in report.efforts.items() if key == SKIP}
    if report.fret.shift_mm >= LONG_SHIFT_MM:
        found |= {key: amount for key, amount in report.efforts.items() if key == SHIFT_FAR}
    return spot_keys(found)


def _notes(model: Model, state: State) -> tuple[PlannedNote, ...]:
    return last_of(state, "_planned", (model.instrument,), partial(_planned, model, state.notes))


def _planned(model: Model, notes: tuple[tuple[int, int, int], ...]) -> tuple[PlannedNote, ...]:
    return tuple(
        PlannedNote(model.instrument.pitch(Place(string, fret)), string, fret, finger)
        for string, fret, finger in notes
    )


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
