"""A session for the minutes there are: warm-up, blocks that raise the riff's tempo most, breaks, the whole riff.

Each block has its reason. What was clean and what was not, where a log says so, moves every tempo; without one the
model's ceilings stand in for it. Common practice, no source: the hands are warmed up first, a rest comes after
every ten minutes, and no more than two hard blocks for the fretting hand follow each other.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import count

from dromic.errors import RiffError
from dromic.hands.terms import LoadKind
from dromic.music.riff import Riff
from dromic.planner.plan import Plan
from dromic.practice.advice import spots_to_practise
from dromic.practice.climb import Answer, Climb
from dromic.practice.excerpt import excerpt
from dromic.practice.ladder import Range, around, place_words, range_ceiling
from dromic.practice.movement import movement_key
from dromic.practice.schedule import (
    BREAK_AFTER,
    BREAK_MINUTES,
    MOST_BLOCK,
    WARM_UP_SHARE,
    Candidate,
    frame_of,
    riff_tempo,
    shared_out,
)
from dromic.practice.splits import Split, fretting_alone, joins, picking_alone

MOST_SPOTS, MOST_JOINS = 6, 3
WHOLE_FROM, WHOLE_MINUTES = 10, 3
ALONE_FROM = 4
MOST_FRETTING_IN_A_ROW = 2
SLOWEST = 20.0

AnswersOf = Callable[[str], Sequence[Answer]]
"""From a movement's key to what was answered wherever it was practised, in order."""


@dataclass(frozen=True)
class Block:
    """Some minutes of a session.

    Parameters
    ----------
    minutes : int
    kind : str
        ``warm-up``, ``picking``, ``fretting``, ``spot``, ``join``, ``chain``, ``whole`` or ``break``.
    reason : str
        One sentence.
    tempo_from, tempo_to : float
        Quarter notes a minute; 0 in a break.
    riff : Riff or None
        None in a break.
    begins, ends : str
        Where it is in the riff, in words.
    density : int
        How often each string's cell is played before the next.
    """

    minutes: int
    kind: str
    reason: str
    tempo_from: float = 0.0
    tempo_to: float = 0.0
    riff: Riff | None = None
    begins: str = ""
    ends: str = ""
    density: int = 1


@dataclass(frozen=True)
class Session:
    """Blocks in order.

    Parameters
    ----------
    minutes : int
    blocks : tuple of Block
    now, after : float
        The tempo at which the whole riff is thought to be clean, before and after.
    """

    minutes: int
    blocks: tuple[Block, ...]
    now: float
    after: float


@dataclass(frozen=True)
class _Drill:
    kind: str
    chosen: Range
    load: LoadKind
    why: str
    climb: Climb

    @property
    def candidate(self) -> Candidate:
        return Candidate(self.why, self.climb.clean_tempo)


def _no_answers(_key: str) -> Sequence[Answer]:
    return ()


def session_for(plan: Plan, minutes: int, answers_of: AnswersOf = _no_answers) -> Session:
    """Lay out a session.

    Parameters
    ----------
    plan : Plan
    minutes : int
    answers_of : callable
        What a log says of a movement.

    Raises
    ------
    RiffError
        For too few minutes or too many, or a riff in which nothing has to move.
    """
    frame = frame_of(minutes)
    drills = _drills(plan, answers_of)
    whole = WHOLE_MINUTES if frame.drilling >= WHOLE_FROM else 0
    shares = shared_out([one.candidate for one in drills], frame.drilling - whole)
    # What no block takes goes to the whole riff.
    whole = frame.drilling - sum(shares)
    worked: list[Block] = []
    for drill, own in _in_order([pair for pair in zip(drills, shares, strict=True) if pair[1]]):
        worked += _blocks(plan, drill, own)
    slowest = min(one.climb.clean_tempo for one in drills)
    every = Range(0, len(plan.task.steps) - 1)
    words = "The whole riff, so that what was mended finds its place."
    worked += [_block(plan, every, own, "whole", words, slowest) for own in _pieces(whole)]
    calm = WARM_UP_SHARE * slowest
    warm_up = _block(
        plan, every, frame.warm_up, "warm-up", "Slowly and loosely, until the hands are warm; stop at pain.", calm
    )
    warm_up = replace(warm_up, tempo_from=_tempo(0.8 * calm), tempo_to=_tempo(calm))
    after = riff_tempo([one.candidate.after(own) for one, own in zip(drills, shares, strict=True)])
    now = riff_tempo([one.candidate.theta for one in drills])
    return Session(minutes, _with_breaks([warm_up, *worked], frame.breaks), now, after)


def _pieces(minutes: int) -> list[int]:
    """Minutes in blocks that are not too long."""
    pieces = -(-minutes // MOST_BLOCK)
    return [minutes // pieces + (number < minutes % pieces) for number in range(pieces)]


def _drills(plan: Plan, answers_of: AnswersOf) -> list[_Drill]:
    """What may be practised: spots, and joins."""
    found: list[_Drill] = []
    taken: set[Range] = set()
    by_load = sorted(spots_to_practise(plan, MOST_SPOTS), key=lambda spot: -spot.load)
    for spot in by_load:
        chosen = around(plan, spot.step)
        if chosen in taken:
            # Two spots in one passage are practised together, and called by the harder.
            continue
        taken.add(chosen)
        kind, climb = plan.event_of_step(spot.step).loads.kind, _climb(plan, chosen, spot.step, answers_of)
        found.append(_Drill("spot", chosen, kind, f"{spot.where}: {spot.what}", climb))
    for join in joins(plan)[:MOST_JOINS]:
        if join not in taken and range_ceiling(plan, join) is not None:
            inside = range(join.first + 1, join.last + 1)
            hardest = max(inside, key=lambda step: plan.event_of_step(step).loads.largest)
            why = f"{place_words(plan, join)}: one phrase goes over into the next"
            found.append(_Drill("join", join, LoadKind.SYNC, why, _climb(plan, join, hardest, answers_of)))
    return found


def _climb(plan: Plan, chosen: Range, step: int, answers_of: AnswersOf) -> Climb:
    ceiling = range_ceiling(plan, chosen) or plan.tempo
    key = movement_key(plan.event_of_step(step - 1), plan.event_of_step(step)) if step else ""
    return Climb(ceiling, tuple(answers_of(key)) if key else ())


def _in_order(work: Iterable[tuple[_Drill, int]]) -> list[tuple[_Drill, int]]:
    """The slowest first, while the hands are fresh; never too many hard ones for the fretting hand in a row."""
    left = sorted(work, key=lambda pair: (pair[0].climb.clean_tempo, pair[0].chosen.first))
    found: list[tuple[_Drill, int]] = []
    while left:
        last = found[-MOST_FRETTING_IN_A_ROW:]
        tired = len(last) == MOST_FRETTING_IN_A_ROW and all(one.load is LoadKind.FRET for one, _ in last)
        next_one = next((pair for pair in left if not (tired and pair[0].load is LoadKind.FRET)), left[0])
        left.remove(next_one)
        found.append(next_one)
    return found


def _blocks(plan: Plan, drill: _Drill, minutes: int) -> list[Block]:
    """A drill's minutes: the hand that is the trouble by itself first, where there is time for it."""
    climb = drill.climb
    goal = climb.clean_tempo
    if climb.stuck:
        # A smaller piece, not only a slower click.
        last = Range(max(drill.chosen.last - 1, drill.chosen.first), drill.chosen.last)
        words = f"{drill.why}; three times not clean in a row, so only the last notes, and one more each time."
        return [_block(plan, last, minutes, "chain", words, goal, climb)]
    alone = _alone(plan, drill) if drill.kind == "spot" and minutes >= ALONE_FROM else None
    words = f"{drill.why}."
    if alone is None:
        return [_block(plan, drill.chosen, minutes, drill.kind, words, goal, climb)]
    first = minutes // 2
    words_alone = f"{drill.why}; the {alone.kind} hand alone first."
    made = _block(plan, drill.chosen, first, alone.kind, words_alone, goal, climb)
    words = f"{drill.why}; both hands together again."
    together = _block(plan, drill.chosen, minutes - first, "spot", words, goal, climb)
    return [replace(made, riff=alone.riff), together]


def _alone(plan: Plan, drill: _Drill) -> Split | None:
    split = {LoadKind.PICK: picking_alone, LoadKind.FRET: fretting_alone}.get(drill.load)
    if split is None:
        return None
    try:
        return split(plan, drill.chosen)
    except RiffError:
        return None


def _block(
    plan: Plan, chosen: Range, minutes: int, kind: str, reason: str, goal: float, climb: Climb | None = None
) -> Block:
    begin = climb.next_tempo() if climb is not None else WARM_UP_SHARE * goal
    first, last = (plan.task.steps[step].moment.place_words for step in (chosen.first, chosen.last))
    riff = excerpt(plan, chosen)
    return Block(minutes, kind, reason, _tempo(begin), _tempo(max(goal, begin)), riff, first, last)


def _tempo(tempo: float) -> float:
    return float(round(max(tempo, SLOWEST)))


def _with_breaks(blocks: Sequence[Block], breaks: int) -> tuple[Block, ...]:
    """Put breaks between blocks, each as soon as ten minutes have been played."""
    found: list[Block] = []
    played, numbers = 0, count(1)
    given = 0
    for at, block in enumerate(blocks):
        found.append(block)
        played += block.minutes
        last = at == len(blocks) - 1
        if given < breaks and (played >= BREAK_AFTER or last):
            take = breaks - given if last else BREAK_MINUTES
            pause = Block(take, "break", f"Break {next(numbers)}: hands down, shake them out, look away.")
            found.insert(len(found) - last, pause)
            given += take
            played = 0
    return tuple(found)
