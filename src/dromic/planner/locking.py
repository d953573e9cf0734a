"""From a priced alternative to a decision of the player's, written into the riff."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from dromic.errors import NoPlanError
from dromic.music import editing
from dromic.music.rhythm import Meter
from dromic.music.riff import NO_LOCKS, Bar, Event, Locks, Mark, Note, Place, Riff, Stroke
from dromic.music.timeline import bars_in_time
from dromic.planner.plan import Plan
from dromic.planner.ways import Alternative, OtherFinger, OtherPlace, OtherPosition, OtherStroke


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

    Examples
    --------
    >>> from dromic.formats.rifftext.reader import read_riff_text
    >>> riff = read_riff_text("| 5:5/8 5:7 4:5 4:7 r/2 |").riff
    >>> from dromic.hands.profile import hands_named
    >>> from dromic.schools.registry import school_named
    >>> from dromic.planner.planning import plan_riff
    >>> from dromic.planner.request import Request
    >>> plan = plan_riff(riff, Request(hands_named("medium"), school_named("economy"), alternatives=9))
    >>> other = next(one for one in plan.event_of_step(1).alternatives if one.words == "finger 4")
    >>> with_alternative(plan, 1, other).written_events()[1].locks.finger
    4
    """
    written = plan.task.steps[step].moment.event_index
    riff = plan.riff
    event = riff.written_events()[written]
    locks = event.locks
    way = other.way
    if isinstance(way, OtherStroke):
        return editing.set_locks(riff, written, replace(locks, stroke=way.stroke))
    if isinstance(way, OtherPlace):
        # A finger or position that is decided stays so: the place was priced with it.
        return editing.set_locks(editing.set_places(riff, written, [way.place]), written, locks)
    if isinstance(way, OtherFinger):
        placed = editing.set_places(riff, written, [way.place])
        return editing.set_locks(placed, written, replace(locks, finger=way.finger or None))
    if isinstance(way, OtherPosition):
        held = _held_so(plan, written, event, way.notes)
        locks = held.written_events()[written].locks
        return editing.set_locks(held, written, replace(locks, position=way.position))
    return _held_so(plan, written, event, way.notes)


def differing(one: Plan, other: Plan) -> tuple[int, ...]:
    """Steps where two plans of one riff differ in place, finger or stroke."""
    differing = []
    for step, (here, there) in enumerate(zip(one.states, other.states, strict=True)):
        strokes = [state.stroke if state.sounded else None for state in (here, there)]
        if here.notes != there.notes or strokes[0] != strokes[1]:
            differing.append(step)
    return tuple(differing)


def with_plan(current: Plan, wanted: Plan) -> Riff:
    """Return the current plan's riff with decisions that lead to another plan of it.

    Only notes where the two differ are decided; a phrase that is played several times is decided as in its first.

    Parameters
    ----------
    current, wanted : Plan
    """
    return _decided_as(current, {step: (wanted, step) for step in differing(current, wanted)})


def with_notes_as(plan: Plan, steps: Mapping[int, int]) -> Riff:
    """Return the plan's riff with some notes decided as others of the same pitches are played.

    Parameters
    ----------
    plan : Plan
    steps : mapping of int to int
        For each step to be decided the one to play it like.
    """
    return _decided_as(plan, {step: (plan, other) for step, other in steps.items()})


def _decided_as(current: Plan, wanted: Mapping[int, tuple[Plan, int]]) -> Riff:
    """The riff with some steps decided as steps of a plan are played; one that comes several times, once."""
    riff = current.riff
    seen: set[int] = set()
    for step, (plan, like) in wanted.items():
        written, state = current.task.steps[step].moment.event_index, plan.states[like]
        if written in seen:
            continue
        seen.add(written)
        event = riff.written_events()[written]
        if len(state.notes) == 1:
            string, fret, finger = state.notes[0]
            riff = editing.set_places(riff, written, [Place(string, fret)])
            locks = Locks(_stroke_of(plan, like), finger or None)
        else:
            shape = [(Place(string, fret), finger) for string, fret, finger in (*state.notes, *state.held)]
            riff = _held_so(replace(current, riff=riff), written, event, shape)
            locks = Locks(_stroke_of(plan, like))
        riff = editing.set_locks(riff, written, locks)
    return riff


def _held_so(plan: Plan, written: int, event: Event, notes: Sequence[tuple[Place, int]]) -> Riff:
    """Each note of an event at its place, by its finger; what is held on from before is left alone."""
    left = list(notes)
    places, fingers = [], []
    for note in event.notes:
        target = note.target
        pitch = plan.instrument.pitch(target) if isinstance(target, Place) else target.midi
        taken = next((one for one in left if plan.instrument.pitch(one[0]) == pitch), None)
        if taken is None:
            raise NoPlanError(f"{target} has no place in that shape; choose another", event_index=written)
        left.remove(taken)
        places.append(taken[0])
        fingers.append(taken[1] or None)
    if len(event.notes) > 1:
        return editing.set_places(plan.riff, written, places, fingers)
    placed = editing.set_places(plan.riff, written, places)
    return editing.set_locks(placed, written, replace(event.locks, finger=fingers[0]))


def decided(plan: Plan, step: int) -> Event:
    """Return the event of a step with everything locked that was planned for it: places, fingers, hand, stroke."""
    event, state = plan.task.steps[step].moment.event, plan.states[step]
    stroke = _stroke_of(plan, step)
    if len(event.notes) == 1 and len(state.notes) == 1:
        string, fret, finger = state.notes[0]
        note = Note(Place(string, fret), event.notes[0].marks)
        return replace(event, notes=(note,), locks=Locks(stroke, finger or None, state.position))
    left = list(state.notes)
    notes = []
    for note in event.notes:
        # Two notes of one pitch are two of the shape's notes.
        fitting = [one for one in left if _may_be(plan, note, Place(one[0], one[1]))]
        if not fitting:
            notes.append(replace(note, locks=NO_LOCKS))
            continue
        string, fret, finger = fitting[0]
        left.remove(fitting[0])
        notes.append(Note(Place(string, fret), note.marks, Locks(finger=finger or None)))
    return replace(event, notes=tuple(notes), locks=Locks(stroke, position=state.position))


def _stroke_of(plan: Plan, step: int) -> Stroke | None:
    """What a step is locked to that is sounded as planned; None where its mark says it."""
    state = plan.states[step]
    if state.sounded:
        return state.stroke
    return Stroke.NONE if plan.task.steps[step].picked else None


def _may_be(plan: Plan, note: Note, place: Place) -> bool:
    """Whether a note is played at a place: its own, or one of its pitch."""
    what = note.target
    return what == place if isinstance(what, Place) else plan.instrument.pitch(place) == what.midi


def decided_riff(plan: Plan) -> Riff:
    """Return the plan's riff with everything locked as it is planned; a repeated phrase as in its first round.

    Parameters
    ----------
    plan : Plan
    """
    return _written_out(plan, frozenset())


def decided_in_full(plan: Plan) -> Riff:
    """As `decided_riff`, with each phrase written out whose rounds are not all played alike.

    Planned again it is the same plan at the same cost.

    Parameters
    ----------
    plan : Plan
    """
    first: dict[int, Event] = {}
    differing: set[int] = set()
    for step, one in enumerate(plan.task.steps):
        moment = one.moment
        event = decided(plan, step)
        if first.setdefault(moment.event_index, event) != event:
            differing.add(moment.phrase)
    return _written_out(plan, frozenset(differing))


def _written_out(plan: Plan, in_full: frozenset[int]) -> Riff:
    """The plan's riff decided, with the rounds of some phrases as phrases of their own."""
    events: dict[tuple[int, int], Event] = {}
    for step, one in enumerate(plan.task.steps):
        events[one.moment.event_index, one.moment.pass_number] = decided(plan, step)
    before: Event | None = None
    bars: dict[tuple[int, int], list[Bar]] = {}
    in_force: tuple[Meter, float] | None = None
    for where in bars_in_time(plan.riff):
        if where.pass_number and where.phrase not in in_full:
            in_force = where.meter, where.tempo
            continue
        own = []
        for written, event in enumerate(where.bar.events, start=where.event_index):
            found = events.get((written, where.pass_number), event)
            if Mark.TIE in event.marks and before is not None:
                # What is tied goes on at the place of the note it is tied to.
                found = replace(event, notes=tuple(replace(note, locks=NO_LOCKS) for note in before.notes))
            own.append(found)
            before = found
        bar = replace(where.bar, events=tuple(own))
        if where.pass_number and in_force != (where.meter, where.tempo):
            bar = replace(bar, meter=where.meter, tempo=where.tempo)
        in_force = where.meter, where.tempo
        bars.setdefault((where.phrase, where.pass_number), []).append(bar)
    phrases = (
        replace(
            plan.riff.phrases[phrase],
            bars=tuple(own),
            times=1 if phrase in in_full else plan.riff.phrases[phrase].times,
        )
        for (phrase, _), own in bars.items()
    )
    return replace(plan.riff, phrases=tuple(phrases))
