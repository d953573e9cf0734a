"""From a priced alternative to a decision of the player's, written into the riff."""

from __future__ import annotations

from dataclasses import replace

from dromic.errors import NoPlanError
from dromic.music import editing
from dromic.music.riff import NO_LOCKS, Bar, Event, Locks, Mark, Note, Place, Riff, Stroke
from dromic.planner.plan import Alternative, Plan


def with_alternative(plan: Plan, step: int, other: Alternative) -> Riff:
    """Return the plan's riff with another way of playing one note decided.

    In a phrase that is played several times the decision holds for every time.

    Parameters
    ----------
    plan : Plan
    step : int
    other : Alternative
        One of the step's.

    Raises
    ------
    NoPlanError
        When the choice cannot be written down.
    """
    written = plan.task.steps[step].moment.written
    riff = plan.riff
    event = riff.written_events()[written]
    locks = event.locks
    if other.kind == "stroke":
        if other.value == Stroke.NONE:
            return _slurred(plan, step, written)
        return editing.set_locks(riff, written, replace(locks, stroke=Stroke(other.value)))
    if other.kind == "finger":
        return editing.set_locks(riff, written, replace(locks, finger=int(other.value) or None))
    if other.kind == "position":
        return editing.set_locks(riff, written, replace(locks, position=int(other.value)))
    if other.kind == "place":
        string = int(other.value)
        pitch = plan.event_of_step(step).notes[0].pitch
        fret = pitch - plan.instrument.pitch(Place(string, 0))
        placed = editing.set_places(riff, written, [Place(string, fret)])
        # A finger or position that was decided for the old place does not hold for the new one.
        return editing.set_locks(placed, written, Locks(locks.stroke))
    return _shaped(plan, written, event, other)


def differing(one: Plan, other: Plan) -> tuple[int, ...]:
    """Steps where two plans of one riff differ in place, finger or stroke."""
    found = []
    for step, (here, there) in enumerate(zip(one.states, other.states, strict=True)):
        strokes = [state.stroke if state.sounded else None for state in (here, there)]
        if here.notes != there.notes or strokes[0] != strokes[1]:
            found.append(step)
    return tuple(found)


def with_plan(current: Plan, wanted: Plan) -> Riff:
    """Return the current plan's riff with decisions that lead to another plan of it.

    Only notes where the two differ are decided; a phrase that is played several times is decided as in its first.

    Parameters
    ----------
    current, wanted : Plan
    """
    riff = current.riff
    seen: set[int] = set()
    for step in differing(current, wanted):
        written, state = wanted.task.steps[step].moment.written, wanted.states[step]
        if written in seen:
            continue
        seen.add(written)
        event = riff.written_events()[written]
        if len(state.notes) == 1:
            string, fret, finger = state.notes[0]
            riff = editing.set_places(riff, written, [Place(string, fret)])
            locks = Locks(state.stroke if state.sounded else None, finger or None)
        else:
            value = " ".join(f"{string}:{fret}@{finger}" for string, fret, finger in (*state.notes, *state.held))
            riff = _shaped(replace(current, riff=riff), written, event, Alternative("shape", "", 0.0, None, value))
            locks = Locks(state.stroke if state.sounded else None)
        riff = editing.set_locks(riff, written, locks)
    return riff


def _shaped(plan: Plan, written: int, event: Event, other: Alternative) -> Riff:
    """A chord held in another shape: each note's place and finger."""
    shape = []
    for word in other.value.split():
        place, _, finger = word.partition("@")
        string, _, fret = place.partition(":")
        shape.append((Place(int(string), int(fret)), int(finger)))
    places, fingers = [], []
    for note in event.notes:
        pitch = plan.instrument.pitch(note.what) if isinstance(note.what, Place) else note.what.midi
        found = next((one for one in shape if plan.instrument.pitch(one[0]) == pitch), None)
        if found is None:
            raise NoPlanError(
                f"{note.what} has no place in the shape {other.value}; choose another", written=written
            )
        shape.remove(found)
        places.append(found[0])
        fingers.append(found[1] or None)
    return editing.set_places(plan.riff, written, places, fingers)


def _slurred(plan: Plan, step: int, written: int) -> Riff:
    """A note hammered on or pulled off instead of picked."""
    before, here = plan.states[step - 1], plan.states[step]
    if before.string != here.string or before.fret == here.fret:
        raise NoPlanError(
            "a hammer-on from nowhere cannot be written down; ask for sparse picking, which finds it, or put the "
            "two notes on one string first",
            written=written,
        )
    mark = Mark.HAMMER if here.fret > before.fret else Mark.PULL
    events = plan.riff.written_events()
    freed = editing.set_locks(plan.riff, written, replace(events[written].locks, stroke=None))
    return freed if mark in events[written].marks else editing.toggle_mark(freed, written, mark)


def decided(plan: Plan, step: int) -> Event:
    """Return the event of a step with everything locked that was planned for it: places, fingers, hand, stroke."""
    event, state = plan.task.steps[step].moment.event, plan.states[step]
    stroke = state.stroke if state.sounded else None
    if len(event.notes) == 1 and len(state.notes) == 1:
        string, fret, finger = state.notes[0]
        note = Note(Place(string, fret), event.notes[0].marks)
        return replace(event, notes=(note,), locks=Locks(stroke, finger or None, state.position))
    shape = {
        plan.instrument.pitch(Place(string, fret)): (string, fret, finger) for string, fret, finger in state.notes
    }
    notes = []
    for note in event.notes:
        what = note.what
        pitch = plan.instrument.pitch(what) if isinstance(what, Place) else what.midi
        if pitch not in shape:
            # Two notes of one pitch: their places are written, and stay as they are.
            notes.append(replace(note, locks=NO_LOCKS))
            continue
        string, fret, finger = shape[pitch]
        notes.append(Note(Place(string, fret), note.marks, Locks(finger=finger or None)))
    return replace(event, notes=tuple(notes), locks=Locks(stroke))


def decided_riff(plan: Plan) -> Riff:
    """Return the plan's riff with everything locked as it is planned; a repeated phrase as in its first round.

    Parameters
    ----------
    plan : Plan
    """
    events: dict[int, Event] = {}
    for step, one in enumerate(plan.task.steps):
        events.setdefault(one.moment.written, decided(plan, step))
    written = -1

    def bar_of(bar: Bar) -> Bar:
        nonlocal written
        own = []
        for event in bar.events:
            written += 1
            found = events.get(written, event)
            if Mark.TIE in event.marks and own_before:
                # What is tied goes on at the place of the note it is tied to.
                found = replace(event, notes=tuple(replace(note, locks=NO_LOCKS) for note in own_before[-1].notes))
            own_before.append(found)
            own.append(found)
        return replace(bar, events=tuple(own))

    own_before: list[Event] = []
    phrases = tuple(replace(phrase, bars=tuple(bar_of(bar) for bar in phrase.bars)) for phrase in plan.riff.phrases)
    return replace(plan.riff, phrases=phrases)
