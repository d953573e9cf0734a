"""From chosen states to what players read: events, limits and totals."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

from dromic.hands.picking import PICK
from dromic.hands.profile import RestStrokes
from dromic.hands.synchronisation import CHANGE_SHIFT
from dromic.music.riff import Mark, Place, Stroke
from dromic.planner.model import Model
from dromic.planner.muting import Attack, mutes_at
from dromic.planner.passage import TransitionReport, pick_index, reaches_of
from dromic.planner.plan import Limit, Loads, PlannedEvent, PlannedNote, State, Totals
from dromic.planner.spots import spots_at
from dromic.planner.steps import Step, Task
from dromic.schools.school import School

NEAR_THE_LIMIT = 0.99
LONG_NOTE_QUARTERS = 1


def limits_of(task: Task, passages: Sequence[TransitionReport], seam: TransitionReport | None) -> tuple[Limit, ...]:
    """Return the passages whose load is within a hundredth of the largest, in order of time."""
    ends = [(index, index + 1, one) for index, one in enumerate(passages)]
    if seam is not None:
        ends.append((len(task.steps) - 1, 0, seam))
    largest = max((one.loads.largest for _, _, one in ends), default=0.0)
    if not largest:
        return ()
    return tuple(
        Limit(
            task.steps[start].moment.index,
            task.steps[end].moment.index,
            limiting_kind(one.loads),
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


def limiting_kind(loads: Loads) -> str:
    """Which of the three loads is the largest."""
    if loads.sync >= loads.largest:
        return "sync"
    return "pick" if loads.pick >= loads.fret else "fret"


def limit_words(one: TransitionReport) -> str:
    """What makes a passage hard, in words."""
    kind = limiting_kind(one.loads)
    pick = one.pick.words if one.pick is not None else "legato"
    if kind == "pick":
        return pick
    biggest = max(one.fret.parts, key=lambda name: one.fret.parts[name], default="the fretting hand")
    if kind == "fret":
        return biggest
    if CHANGE_SHIFT in one.together:
        return f"shift of {one.fret.shift_mm:.0f} mm with {_article(pick)}"
    return f"{max(one.together, key=lambda name: one.together[name])} ({pick})"


def _article(words: str) -> str:
    return f"an {words}" if words[0] in "aio" else f"a {words}"


def totals_of(
    model: Model,
    chosen: Sequence[State],
    events: Sequence[PlannedEvent],
    passages: Sequence[TransitionReport],
    seam: TransitionReport | None,
) -> Totals:
    """Count everything over the plan, the seam included when there is one."""
    everything = [*passages, *([seam] if seam is not None else [])]
    picks = [one.pick for one in everything if one.pick is not None]
    strokes = sum(state.sounded and state.stroke in PICK for state in chosen)
    return Totals(
        pick_travel_mm=sum(one.travel_mm for one in picks) + 2 * model.hands.picking.half_stroke_mm * strokes,
        strings_cleared=sum(one.cleared for one in picks),
        inside=sum(one.inside for one in picks),
        outside=sum(one.outside for one in picks),
        skips=sum(one.skips for one in picks),
        sweeps=sum(one.sweep for one in picks),
        shifts=sum(one.fret.shift_mm > 0 for one in everything),
        shift_mm=sum(one.fret.shift_mm for one in everything),
        max_stretch_mm=max((0.0, *reaches_of(chosen, model))),
        sync_spots=sum(bool(event.spots) for event in events),
        finger_travel_mm=sum(one.fret.finger_mm for one in everything),
        doubtful_mutes=sum(
            any(mute.doubtful for mute in event.mutes) for event in events if event.step is not None
        ),
    )


def planned_events(
    model: Model,
    task: Task,
    chosen: Sequence[State],
    passages: Sequence[TransitionReport],
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
        way = passages[index - 1] if index else seam
        following = passages[index] if index < len(passages) else seam
        notes, held = _planned(model, state.notes), _planned(model, state.held)
        found.append(
            PlannedEvent(
                moment=moment,
                step=index,
                rest=False,
                notes=notes,
                position=state.position,
                stroke=state.stroke if state.sounded else Stroke.NONE,
                stroke_kind=_stroke_kind(model, state, following, moment.duration) if state.sounded else None,
                legato=_legato(step, state, chosen[index - 1]),
                loads=way.loads if way is not None else Loads(),
                mutes=mutes_at(state, model.instrument.strings, *_sounded_before(task, chosen, index, model)),
                strokes=_strokes(model.school_of(step), state),
                held=held,
                spots=spots_at(way, model.stroke_parts(step, pick_index(state, model)) if state.sounded else {}),
            )
        )
    return tuple(found)


def _planned(model: Model, notes: tuple[tuple[int, int, int], ...]) -> tuple[PlannedNote, ...]:
    return tuple(
        PlannedNote(model.instrument.pitch(Place(string, fret)), string, fret, finger)
        for string, fret, finger in notes
    )


def _sounded_before(task: Task, chosen: Sequence[State], index: int, model: Model) -> tuple[State | None, Attack]:
    """What sounded until a note, and how that note begins."""
    step = task.steps[index]
    with_pick = any(one in PICK for one in model.strokes)
    attack = Attack(Mark.ACCENT in step.note.marks, with_pick=with_pick)
    if not index or task.links[index - 1].manner.silent_between:
        return None, attack
    return chosen[index - 1], replace(attack, hammered_before=task.steps[index - 1].legato is Mark.HAMMER)


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


def _stroke_kind(model: Model, state: State, following: TransitionReport | None, duration: Fraction) -> str:
    """Rest strokes as the player's camp has them, where the pick meets a next string; free strokes elsewhere."""
    if state.stroke not in PICK:
        return "free"
    step = -1 if state.stroke is Stroke.DOWN else 1
    meets = 1 <= state.ends + step <= model.instrument.strings and state.stroke is not state.escape
    camp = model.hands.picking.rest_strokes
    if not meets or camp is RestStrokes.NEVER:
        return "free"
    if camp is RestStrokes.WHENEVER:
        return "rest"
    if following is not None and following.pick is not None and following.pick.sweep:
        return "rest"
    return "rest" if duration >= LONG_NOTE_QUARTERS else "free"
