"""From chosen states to what players read: events, limits and totals."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from typing import cast

from dromic.hands.constants import RestStrokes
from dromic.hands.grips import Grip
from dromic.hands.picking import PICK
from dromic.hands.terms import LoadKind, spot_keys
from dromic.music.remembering import last_of
from dromic.music.riff import Mark, Place, Stroke
from dromic.music.timeline import TimedEvent
from dromic.planner.model import Model
from dromic.planner.muting import Attack, mutes_at
from dromic.planner.plan import Limit, Loads, Mute, PlannedEvent, PlannedNote, State, StrokeKind
from dromic.planner.step import Step
from dromic.planner.steps import Task
from dromic.planner.transitions import TransitionReport, pick_index
from dromic.schools.school import School

NEAR_THE_LIMIT = 0.99
LONG_NOTE_QUARTERS = 1
LONG_SHIFT_MM = 80.0
SKIP, SHIFT_FAR = "skip", "shift_far"


def limits_of(task: Task, reports: Sequence[TransitionReport], seam: TransitionReport | None) -> tuple[Limit, ...]:
    """Return the transitions whose load is within a hundredth of the largest, in order of time."""
    ends = [(index, index + 1, one) for index, one in enumerate(reports)]
    if seam is not None:
        ends.append((len(task.steps) - 1, 0, seam))
    largest = max((one.loads.largest for _, _, one in ends), default=0.0)
    if not largest:
        return ()
    return tuple(
        Limit(
            task.steps[start].moment.index,
            task.steps[end].moment.index,
            one.loads.kind,
            one.loads.largest,
            f"{_where(task, end, one, seam)}: {limit_words(one)}",
        )
        for start, end, one in ends
        if one.loads.largest >= NEAR_THE_LIMIT * largest
    )


def _where(task: Task, step: int, one: TransitionReport, seam: TransitionReport | None) -> str:
    if one is seam:
        return "the seam, back to the start"
    return task.steps[step].moment.place_words


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
    seam: TransitionReport | None,
) -> tuple[PlannedEvent, ...]:
    """Return an event for every moment, rests and ties included."""
    step_at = {step.moment.index: index for index, step in enumerate(task.steps)}
    found: list[PlannedEvent] = []
    for moment in task.moments:
        index = step_at.get(moment.index)
        before = found[-1] if found else None
        held = before.notes if before is not None and moment.tied else ()
        if index is None:
            silent = PlannedEvent(
                moment=moment,
                step=None,
                rest=moment.event.rest,
                notes=held,
                position=before.position if before is not None else None,
                stroke=Stroke.NONE,
                stroke_kind=None,
                legato=None,
                loads=Loads(),
                mutes=before.mutes if before is not None and moment.tied else (),
            )
            found.append(silent)
            continue
        state, step = chosen[index], task.steps[index]
        report = reports[index - 1] if index else seam
        following = reports[index] if index < len(reports) else seam
        after_silence = not index or task.links[index - 1].kind.silent_between
        hammered = index > 0 and task.steps[index - 1].legato is Mark.HAMMER
        way = _Way(index, state, chosen[index - 1], report, following, after_silence, hammered)
        # Each of these is one object, and kept with the event: nothing large is compared.
        parts = (state, chosen[index - 1], report, following, model)
        kept = (index, after_silence, hammered, *map(id, parts))
        event, _, _ = last_of(step, "_event", kept, partial(_event_kept, model, step, way))
        found.append(event)
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
