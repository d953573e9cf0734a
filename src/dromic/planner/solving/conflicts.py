"""Why there is no plan: finds the locks or marks that clash, and says so in one sentence."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace

from dromic.errors import NoPlanError
from dromic.hands.fingers import finger_words
from dromic.music.riff import MARK_WORDS, NO_LOCKS, Mark, Place, Stroke, stroke_words
from dromic.planner.costs.pick_costs import Strike, sounding_means
from dromic.planner.costs.transitions import TransitionReport
from dromic.planner.task.state import State
from dromic.planner.task.step import Step
from dromic.planner.task.task import Task
from dromic.schools.school import PICK, PICK_AND_FINGERS, School

MOST_TOLD = 4
MOST_PLUCKED = len(PICK_AND_FINGERS)
Works = Callable[[Sequence[Step]], bool]


def refused_strokes(
    steps: Sequence[Step], school_of: Callable[[Step], School], strings: int
) -> Iterator[tuple[int, NoPlanError]]:
    """Stroke locks that the school can never grant: their steps and the refusals, in order.

    Parameters
    ----------
    steps : sequence of Step
    school_of : callable
    strings : int

    Raises
    ------
    NoPlanError
        For one that cannot be played under any school.
    """
    for number, step in enumerate(steps):
        lock = step.locks.stroke
        if step.slurred and not step.may_slur:
            raise NoPlanError(
                f"{step.words} is locked to be {stroke_words(Stroke.NONE)}, which one note is after another, with "
                "nothing held; take out the lock, or write the mark h or p",
                event_index=step.moment.event_index,
            )
        if lock in (None, Stroke.NONE):
            continue
        school = school_of(step)
        if step.exempt:
            _check_exempt(step, lock, school)
            if step.raked and not step.more and isinstance(step.note.target, Place):
                _check_rake(step, lock, strings)
            continue
        try:
            _check_stroke(step, lock, school, strings)
        except NoPlanError as refusal:
            yield number, refusal


def _check_stroke(step: Step, lock: Stroke, school: School, strings: int) -> None:
    """Refuse a stroke lock that the school can never grant."""
    possible = (*school.means, Stroke.CHORD_PLUCK) if school.chord_pluckers else school.means
    if lock not in possible:
        fingers = ", ".join(one for one in school.means if one not in PICK)
        uses = f"has the fingers {fingers}" if fingers else "uses the pick only"
        raise NoPlanError(
            f"{step.words} is locked to be {_lock_words(lock)}, but {school.title.lower()} {uses}; "
            "take out the lock or choose another school",
            event_index=step.moment.event_index,
        )
    if lock not in sounding_means(Strike.of(step), school):
        raise NoPlanError(
            f"{step.words} is locked to be {_lock_words(lock)}, but {_cannot_sound(step, lock, school)}; "
            "take out the lock",
            event_index=step.moment.event_index,
        )
    if step.raked and not step.more and isinstance(step.note.target, Place):
        _check_rake(step, lock, strings)
    verdicts = [school.stroke_verdict(Strike.of(step).by(lock, string)) for string in range(1, strings + 1)]
    if not any(verdict.allowed for verdict in verdicts):
        raise NoPlanError(
            f"{step.words} is locked to {stroke_words(lock)}, but {school.title.lower()} wants "
            f"the other stroke there ({verdicts[0].reason}); take out the lock or choose another school",
            event_index=step.moment.event_index,
        )


def _check_exempt(step: Step, lock: Stroke, school: School) -> None:
    """Refuse a stroke that cannot sound a step under any school."""
    together = lock is Stroke.CHORD_PLUCK
    cannot = not step.more or step.raked or len(step.notes) > MOST_PLUCKED if together else bool(step.more)
    if cannot and lock not in PICK:
        raise NoPlanError(
            f"{step.words} is locked to be {_lock_words(lock)}, but {_cannot_sound(step, lock, school)}; "
            "take out the lock",
            event_index=step.moment.event_index,
        )


def _cannot_sound(step: Step, lock: Stroke, school: School) -> str:
    """Why a stroke cannot sound a step."""
    if lock is not Stroke.CHORD_PLUCK:
        return "one finger does not pluck several strings, which the pick strikes or fingers pluck together"
    if not step.more:
        return "a single note is plucked by one finger"
    if step.raked:
        return "a rake is dragged by one stroke"
    most = len(school.chord_pluckers) or MOST_PLUCKED
    return f"{most} strings are all that can be plucked together under {school.title.lower()}"


def _check_rake(step: Step, lock: Stroke, strings: int) -> None:
    """Refuse a rake that has no string to be dragged across."""
    string = step.note.target.string if isinstance(step.note.target, Place) else 0
    if lock not in PICK or string == (strings if lock is Stroke.DOWN else 1):
        raise NoPlanError(
            f"{step.words} is raked, but {stroke_words(lock)} there is no string to drag the pick across before "
            "it; take out the lock or the rake",
            event_index=step.moment.event_index,
        )


def _lock_words(lock: Stroke) -> str:
    return f"a {lock} stroke" if lock in PICK else stroke_words(lock)


def played_against(
    task: Task,
    chosen: Sequence[State],
    reports: Sequence[TransitionReport],
    school_of: Callable[[Step], School],
) -> str:
    """Say where the player's strokes are played against the school; empty where they are not.

    Parameters
    ----------
    task : Task
    chosen : sequence of State
    reports : sequence of TransitionReport
        One a link.
    school_of : callable
    """
    found = []
    for number, (step, state) in enumerate(zip(task.steps, chosen, strict=True)):
        if not step.exempt or not state.sounded or state.stroke is Stroke.CHORD_PLUCK:
            continue
        school = school_of(step)
        strange = state.stroke not in school.means
        strange |= not school.stroke_verdict(Strike.of(step).by(state.stroke, state.string)).allowed
        if strange or (number and not reports[number - 1].verdict.allowed):
            found.append((school.title.lower(), step.moment.place_words))
    as_locked = "as locked, " if found else ""
    if task.seam is not None and not task.steps[0].exempt and not reports[-1].verdict.allowed:
        # Nothing need be locked there: no stroke leads back.
        found.append((school_of(task.steps[0]).title.lower(), "the seam, back to the start"))
    if not found:
        return ""
    places = ", ".join(place for _, place in found[:MOST_TOLD]) + (" and more" if len(found) > MOST_TOLD else "")
    return f"{as_locked}against {found[0][0]}: {places}"


def explain(steps: Sequence[Step], failed: int, school: School, works: Works) -> NoPlanError:
    """Find out what clashes at the first step that cannot be reached.

    Parameters
    ----------
    steps : sequence of Step
    failed : int
        First step without a way to it.
    school : School
    works : callable
        Whether a sequence of steps has a plan.

    Returns
    -------
    NoPlanError
        To be raised.
    """
    prefix = list(steps[: failed + 1])
    step = steps[failed]
    freed = _without_locks(prefix, failed)
    for earlier in range(failed - 1, -1, -1):
        if steps[earlier].locks != NO_LOCKS and works(_without_locks(prefix, earlier)):
            if step.locks != NO_LOCKS and works(freed):
                return NoPlanError(
                    f"two locks contradict each other under {school.title.lower()}: {_locked(steps[earlier])} and "
                    f"{_locked(step)}; take out one of them",
                    event_index=step.moment.event_index,
                )
            return NoPlanError(
                f"{_locked(steps[earlier])}, and then {step.words} cannot be played"
                f"{_legato_words(step)}; take out that lock",
                event_index=step.moment.event_index,
            )
    if step.locks != NO_LOCKS and works(freed):
        return NoPlanError(
            f"{_locked(step)}, and nothing that comes before it under {school.title.lower()} leads there; "
            "take out the lock",
            event_index=step.moment.event_index,
        )
    if step.legato is not None:
        return NoPlanError(
            f"{step.words} cannot be reached from {steps[failed - 1].words}{_legato_words(step)}; change the "
            "mark or one of the two notes",
            event_index=step.moment.event_index,
        )
    return NoPlanError(
        f"no way was found to {step.words} from {steps[failed - 1].words} with these hands; free a lock, or "
        "move one of the two notes",
        event_index=step.moment.event_index,
    )


def _without_locks(steps: Sequence[Step], index: int) -> list[Step]:
    changed = list(steps)
    changed[index] = replace(changed[index], locks=NO_LOCKS)
    return changed


_LEGATO_RULES = {
    Mark.HAMMER: "goes to a higher fret on the same string, by a higher finger, or to a fret of another string",
    Mark.PULL: "goes to a lower fret on the same string, by a lower finger or to the open string",
    Mark.SLIDE: "goes along the same string on the same finger, and not to or from the open string",
    Mark.RELEASE: "stays on the string, fret and finger of the bend",
    Mark.TAP: "is made by the picking hand on a fretted note",
}


def _legato_words(step: Step) -> str:
    if step.legato is None:
        return ""
    return f" (a {MARK_WORDS[step.legato]} {_LEGATO_RULES[step.legato]})"


def _locked(step: Step) -> str:
    locks = []
    if step.locks.stroke is not None:
        locks.append(stroke_words(step.locks.stroke))
    if step.locks.finger is not None:
        locks.append(finger_words(step.locks.finger))
    if step.locks.position is not None:
        locks.append(f"position {step.locks.position}")
    return f"{step.words} is locked to {' and '.join(locks)}"
