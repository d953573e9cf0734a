"""Variations of a lick, each planned and compared with it; of the flood the five that are worth a week."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from dromic.errors import NoPlanError, RiffError
from dromic.hands.fingers import finger_sign
from dromic.music.riff import Riff, stroke_words
from dromic.planner.plan import Ceilings, Plan
from dromic.planner.planning import plan_riff
from dromic.planner.task.state import State
from dromic.practice.movement import movement_and_gap, movements
from dromic.practice.passages.excerpt import request_like
from dromic.practice.vary import by_chord, by_degrees, by_keys, by_order, by_rhythm, by_strings, easier
from dromic.practice.vary.lick import WAYS, Draft, Drafts, Lick, Refusal, check_length, lick_of

SHOWN = 5
LEAST_EASIER = 0.02
"""How much less effort, or higher a ceiling, a version must have to be called easier."""
OPEN = "open"
MOST_DEARER = 0.1
MOST_OF_A_WAY = 2
Watch = Callable[[float], None]

_DRAFTS: dict[str, Callable[[Lick], Drafts]] = {
    "keys": by_keys.drafts,
    "degrees": by_degrees.drafts,
    "strings": by_strings.drafts,
    "rhythm": by_rhythm.drafts,
    "order": by_order.drafts,
    "chord": by_chord.drafts,
    "easier": easier.drafts,
}


@dataclass(frozen=True)
class NoteChange:
    """A note of a variation that is played otherwise than the note of the lick that it comes from.

    Parameters
    ----------
    step : int
        Of the variation's plan.
    fingers : tuple of (str, str) or None
        Before and after; None where they stay.
    strokes : tuple of (str, str) or None
    """

    step: int
    fingers: tuple[str, str] | None
    strokes: tuple[str, str] | None

    @property
    def words(self) -> str:
        """What changes.

        Examples
        --------
        >>> NoteChange(3, ("1", "3"), ("down", "up")).words
        'finger 3 for 1, up for down'
        >>> NoteChange(3, ("2", "open"), None).words
        'open string for finger 2'
        """
        told = []
        if self.fingers is not None:
            before, after = self.fingers
            if after == OPEN:
                told.append(f"open string for finger {before}")
            elif before == OPEN:
                told.append(f"finger {after} for the open string")
            else:
                told.append(f"finger {after} for {before}")
        if self.strokes is not None:
            told.append(f"{self.strokes[1]} for {self.strokes[0]}")
        return ", ".join(told)


@dataclass(frozen=True)
class Variant:
    """A variation that is planned.

    Parameters
    ----------
    words, by : str
    riff : Riff
        As it would be written.
    plan : Plan
    changes : tuple of NoteChange
        Notes that another finger takes, or another stroke sounds, than in the lick; new notes are not among them.
    new_movements : tuple of str
        What the hands do in it and not in the lick, by name, whatever the time they have.
    """

    words: str
    by: str
    riff: Riff
    plan: Plan
    changes: tuple[NoteChange, ...]
    new_movements: tuple[str, ...]

    @property
    def changed_fingers(self) -> int:
        """How many notes another finger takes."""
        return sum(change.fingers is not None for change in self.changes)

    @property
    def changed_strokes(self) -> int:
        """How many notes another stroke sounds."""
        return sum(change.strokes is not None for change in self.changes)

    @property
    def effort(self) -> float:
        """What the plan adds up to."""
        return self.plan.cost

    @property
    def ceilings(self) -> Ceilings:
        """Of each hand and both."""
        return self.plan.ceilings

    @property
    def notes(self) -> int:
        """How many notes are struck."""
        return len(self.plan.states)


@dataclass(frozen=True)
class Varied:
    """What was made of a lick.

    Parameters
    ----------
    lick : Plan
        Each phrase once.
    variants : tuple of Variant
        In the order in which they were made.
    refusals : tuple of Refusal
    tried : tuple of Variant
        Keys, places of a capo, tunings and the like that were tried for an easier version, whatever came of it.
    """

    lick: Plan
    variants: tuple[Variant, ...]
    refusals: tuple[Refusal, ...]
    tried: tuple[Variant, ...] = ()

    def of(self, by: str) -> tuple[Variant, ...]:
        """Those of one way."""
        return tuple(variant for variant in self.variants if variant.by == by)

    @property
    def every(self) -> tuple[Variant, ...]:
        """All of them, and whatever else was tried, each once."""
        others = (one for one in self.tried if not any(one is variant for variant in self.variants))
        return (*self.variants, *others)

    @cached_property
    def worth_a_week(self) -> tuple[Variant, ...]:
        """The five that together add most new movement for their effort."""
        return worth_most(self.lick, [variant for variant in self.variants if variant.by != "easier"])

    def chosen(self, by: str | None = None, *, everything: bool = False) -> tuple[Variant, ...]:
        """What is shown first: of one way or of all, the five worth most or everything.

        Parameters
        ----------
        by : str or None
        everything : bool
        """
        if everything:
            return tuple(one for one in self.every if by in (None, one.by))
        if by == "easier":
            return self.easiest[:SHOWN]
        return self.worth_a_week if by is None else worth_most(self.lick, self.of(by))

    @cached_property
    def easiest(self) -> tuple[Variant, ...]:
        """The easier versions, those with the highest ceiling first."""
        return tuple(sorted(self.of("easier"), key=lambda one: (-(one.ceilings.both or 0.0), one.effort)))


def once(plan: Plan, watch: Watch | None = None) -> Plan:
    """The plan of a riff with every phrase played once, at the plan's tempo, nothing going round.

    Parameters
    ----------
    plan : Plan
    watch : callable or None

    Raises
    ------
    RiffError
        For a riff that is too long to be varied, before it is planned.
    """
    check_length(plan)
    riff = plan.riff
    phrases = tuple(replace(phrase, times=1) for phrase in riff.phrases)
    if phrases == riff.phrases and not plan.loop and plan.sound.style is riff.style:
        return plan
    return plan_riff(replace(riff, phrases=phrases, style=plan.sound.style), request_like(plan), watch=watch)


def vary(plan: Plan, ways: Sequence[str] = WAYS, watch: Watch | None = None) -> Varied:
    """Vary a lick: every phrase is played once, by the same hands, school and style.

    Parameters
    ----------
    plan : Plan
        Of the lick.
    ways : sequence of str
        Some of `WAYS`.
    watch : callable or None
        Called with the share of the work that is done; what it raises ends it.

    Raises
    ------
    RiffError
        For a lick that is too long, or a way that is not known.

    Examples
    --------
    >>> from tests.helpers import plan, riff
    >>> found = vary(plan(riff("| 5:3/8 4:2 4:5 3:2 3:4 r/4. |", key="C")), ["degrees"])
    >>> [one.words for one in found.variants][:2]
    ['from the second degree of C major, above', 'from the third degree of C major, above']
    """
    for way in ways:
        if way not in WAYS:
            raise RiffError(f"there is no variation by '{way}'; expected one of {', '.join(WAYS)}")
    lick = lick_of(once(plan, _inner(watch, 0, 1_000)))
    drafts, refusals = _gathered(lick, ways)
    plan = lick.plan
    asked = request_like(plan)
    known = _movements(plan)
    found: list[Variant] = []
    rivals: dict[str, list[Variant]] = {}
    for number, draft in enumerate(drafts):
        if watch is not None:
            watch(number / len(drafts))
        riff = replace(draft.riff, style=plan.sound.style)
        try:
            one = replace(asked, explained=not draft.rivals)
            planned = plan_riff(riff, one, watch=_inner(watch, number, len(drafts)))
        except (NoPlanError, RiffError) as error:
            if not draft.rivals:
                refusals.append(Refusal(draft.by, f"It cannot be played {draft.words}: {error.message}"))
            continue
        variant = _compared(lick, draft, riff, planned, known)
        if draft.rivals:
            rivals.setdefault(draft.rivals, []).append(variant)
        else:
            found.append(variant)
    for name, group in rivals.items():
        best = _easiest(plan, group)
        if best is None:
            refusals.append(Refusal("easier", f"It gets no easier by {name}."))
        else:
            found.append(best)
    tried = tuple(one for group in rivals.values() for one in group)
    return Varied(plan, tuple(found), tuple(refusals), tried)


def _gathered(lick: Lick, ways: Sequence[str]) -> tuple[list[Draft], list[Refusal]]:
    drafts: list[Draft] = []
    refusals: list[Refusal] = []
    for way in ways:
        try:
            made = list(_DRAFTS[way](lick))
        except RiffError as error:
            refusals.append(Refusal(way, error.message))
            continue
        drafts += [one for one in made if isinstance(one, Draft)]
        refusals += [one for one in made if isinstance(one, Refusal)]
    return drafts, refusals


def _inner(watch: Watch | None, number: int, count: int) -> Watch | None:
    if watch is None:
        return None
    return lambda share: watch((number + share) / count)


def _movements(plan: Plan) -> frozenset[str]:
    """What the hands do in a plan, whatever the time they have."""
    return frozenset(movement_and_gap(key)[0] for key in movements(plan).keys)


def _compared(lick: Lick, draft: Draft, riff: Riff, plan: Plan, known: frozenset[str]) -> Variant:
    firsts: dict[int, int] = {}
    for number, step in enumerate(plan.task.steps):
        firsts.setdefault(step.moment.event_index, number)
    own = [firsts[written] for written in sorted(firsts)]
    changes = []
    for number, origin in zip(own, draft.origins, strict=True):
        if origin is not None:
            change = _change(number, lick.states[origin], plan.states[number])
            changes += [change] if change.words else []
    new = tuple(dict.fromkeys(key for key in _in_order(plan) if key not in known))
    return Variant(draft.words, draft.by, riff, plan, tuple(changes), new)


def _change(step: int, before: State, after: State) -> NoteChange:
    fingers = _fingers(before), _fingers(after)
    strokes = _stroke(before), _stroke(after)
    return NoteChange(
        step, fingers if fingers[0] != fingers[1] else None, strokes if strokes[0] != strokes[1] else None
    )


def _fingers(state: State) -> str:
    return " ".join(OPEN if not finger else finger_sign(finger) for _, _, finger in state.notes)


def _stroke(state: State) -> str:
    return stroke_words(state.stroke) if state.sounded else "slurred"


def _in_order(plan: Plan) -> Iterator[str]:
    return (movement_and_gap(key)[0] for key in movements(plan).keys)


def _easiest(lick: Plan, group: Sequence[Variant]) -> Variant | None:
    """Of some versions the one with the highest ceiling, then of least effort; None where none is easier."""
    best = min(group, key=lambda one: (-round(one.ceilings.both or 0.0, 1), one.effort))
    least = min(group, key=lambda one: one.effort)
    for one in (best, least):
        higher = (one.ceilings.both or 0.0) > (1 + LEAST_EASIER) * (lick.ceiling or 0.0)
        higher = higher and one.effort < (1 + MOST_DEARER) * lick.cost
        lighter = one.effort < (1 - LEAST_EASIER) * lick.cost
        as_fast = (one.ceilings.both or 0.0) > (1 - LEAST_EASIER) * (lick.ceiling or 0.0)
        if higher or (lighter and as_fast):
            return one
    return None


def worth_most(lick: Plan, variants: Sequence[Variant], most: int = SHOWN) -> tuple[Variant, ...]:
    """Those that together add most new movement for their effort, one after the other.

    Each is chosen for the movements that neither the lick nor those chosen before have, over its effort as a
    multiple of the lick's, but no less than half of it. No more than two are varied the same way, where there are
    several ways.

    Parameters
    ----------
    lick : Plan
    variants : sequence of Variant
    most : int
    """
    left, known, chosen = list(variants), set[str](), list[Variant]()
    several = len({variant.by for variant in variants}) > 1
    while left and len(chosen) < most:
        worth = [len(set(one.new_movements) - known) / max(one.effort / max(lick.cost, 1e-9), 0.5) for one in left]
        best = max(range(len(left)), key=lambda at: (worth[at], -left[at].effort, -at))
        if worth[best] <= 0:
            break
        known |= set(left[best].new_movements)
        chosen.append(left.pop(best))
        if several:
            full = {one.by for one in chosen if sum(other.by == one.by for other in chosen) >= MOST_OF_A_WAY}
            left = [one for one in left if one.by not in full]
    return tuple(chosen)
