"""A session for the minutes there are: warm-up, blocks that raise the riffs' tempi most, breaks, the whole riff.

Each block has its reason. What was clean and what was not, where a log says so, moves every tempo; without one the
model's ceilings stand in for it. Common practice, no source: the hands are warmed up first, a rest comes after
every ten minutes, no more than two hard blocks for the fretting hand follow each other, a riff ends with a ramp
from slow to fast and once through, and hands that feel tight have a shorter day.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

from dromic.errors import RiffError
from dromic.hands.terms import LoadKind
from dromic.music.riff import Riff
from dromic.planner.plan import Plan
from dromic.practice.log.history import History
from dromic.practice.log.rates import ASSUMED, Rates
from dromic.practice.passages.drill import Drill, drill_of, range_words
from dromic.practice.passages.excerpt import excerpt
from dromic.practice.passages.take_apart import (
    chain_drill,
    fretting_drill,
    hardest_step,
    pair_drill,
    picking_drill,
    sparse_drill,
    take_apart,
)
from dromic.practice.session.candidates import Work, climb_of, works
from dromic.practice.tempo.climb import Climb
from dromic.practice.tempo.ladder import Range
from dromic.practice.tempo.schedule import (
    BREAK_AFTER,
    BREAK_MINUTES,
    MOST_BLOCK,
    SHORTEST,
    WARM_UP_SHARE,
    frame_of,
    riff_tempo,
    shared_among,
)

WHOLE_FROM, WHOLE_MINUTES = 10, 3
RAMP_FROM, RAMP_MINUTES = 18, 2
RAMP_SHARE = 0.5
APART_FROM = 4
MOST_FRETTING_IN_A_ROW = 2
SLOWEST = 20.0
SPARE = 1.1
BELOW_A_STUMBLE = 0.88
MOST_RIFFS = 4
TIGHT = {4: 0.6, 5: 0.4}
"""What is left of the minutes when the hands feel tight, by how tight they feel from 1 to 5."""


@dataclass(frozen=True)
class Block:
    """Some minutes of a session.

    Parameters
    ----------
    minutes : int
    kind : str
        ``warm-up``, ``picking``, ``fretting``, ``pair``, ``spot``, ``join``, ``chain``, ``ramp``, ``whole`` or
        ``break``.
    reason : str
        One sentence.
    tempo_from, tempo_to : float
        Quarter notes a minute; 0 in a break.
    drill : Drill or None
        None in a break.
    riff_number : int
        Which of the session's riffs it belongs to, from 0.
    climb : Climb or None
        What is known of the player on it.
    """

    minutes: int
    kind: str
    reason: str
    tempo_from: float = 0.0
    tempo_to: float = 0.0
    drill: Drill | None = None
    riff_number: int = 0
    climb: Climb | None = None

    @property
    def riff(self) -> Riff | None:
        """What is played; None in a break."""
        return self.drill.riff if self.drill is not None else None

    @property
    def begins(self) -> str:
        """Where it begins in the riff, in words."""
        return self.drill.begins if self.drill is not None else ""

    @property
    def ends(self) -> str:
        """Where it ends in the riff, in words."""
        return self.drill.ends if self.drill is not None else ""

    @property
    def density(self) -> int:
        """How often each string's cell is played before the next."""
        return self.drill.density if self.drill is not None else 1


@dataclass(frozen=True)
class Prospect:
    """A riff's clean tempo as it is thought to be.

    Parameters
    ----------
    title : str
    now, after : float
        Before and after the session, quarter notes a minute.
    """

    title: str
    now: float
    after: float


@dataclass(frozen=True)
class Session:
    """Blocks in order.

    Parameters
    ----------
    minutes : int
    blocks : tuple of Block
    prospects : tuple of Prospect
        One a riff.
    rates : Rates
        What growth was reckoned with.
    remarks : tuple of str
        What a player has to know about the whole.
    """

    minutes: int
    blocks: tuple[Block, ...]
    prospects: tuple[Prospect, ...]
    rates: Rates = ASSUMED
    remarks: tuple[str, ...] = ()

    @property
    def now(self) -> float:
        """The first riff's clean tempo as it is thought to be before."""
        return self.prospects[0].now

    @property
    def after(self) -> float:
        """The first riff's clean tempo as it is thought to be afterwards."""
        return self.prospects[0].after


def session_for(
    plans: Plan | Sequence[Plan],
    minutes: int,
    history: History | None = None,
    *,
    rates: Rates = ASSUMED,
    felt: int | None = None,
) -> Session:
    """Lay out a session.

    Parameters
    ----------
    plans : Plan or sequence of Plan
        The riffs in work, at most `MOST_RIFFS`; the first is warmed up with.
    minutes : int
    history : History or None
        What a log says.
    rates : Rates
    felt : int or None
        How tight the hands feel, from 1 to 5.

    Raises
    ------
    RiffError
        For too few minutes or too many, too many riffs, or one in which nothing has to move.
    """
    in_work = (plans,) if isinstance(plans, Plan) else tuple(plans)
    if not 1 <= len(in_work) <= MOST_RIFFS:
        raise RiffError(f"found {len(in_work)} riffs to practise at once, expected 1 to {MOST_RIFFS}")
    frame_of(minutes)
    asked, minutes = minutes, _shortened(minutes, felt)
    frame = frame_of(minutes)
    known = history or History()
    drills = [_worth_it(works(plan, known, rates)) for plan in in_work]
    whole = WHOLE_MINUTES * len(in_work)
    whole = whole if frame.drilling >= WHOLE_FROM * len(in_work) else WHOLE_MINUTES
    whole = whole if frame.drilling >= WHOLE_FROM else 0
    shares = shared_among([[one.candidate for one in own] for own in drills], frame.drilling - whole)
    # What no block takes goes to the whole riff.
    whole = frame.drilling - sum(map(sum, shares))
    rooms = [whole // len(in_work) + (number < whole % len(in_work)) for number in range(len(in_work))]
    if whole < WHOLE_MINUTES * len(in_work):
        rooms = [whole, *[0] * (len(in_work) - 1)]
    worked: list[Block] = []
    for number, (plan, own, each, room) in enumerate(zip(in_work, drills, shares, rooms, strict=True)):
        for work, some in _in_order([pair for pair in zip(own, each, strict=True) if pair[1]]):
            worked += _blocks(work, some, known, number)
        worked += _whole(plan, room, min(one.theta for one in own), number)
    slowest = min(min(one.theta, one.plan.tempo) for own in drills for one in own)
    calm = WARM_UP_SHARE * slowest
    words = "Slowly and loosely, until the hands are warm; stop at pain."
    warm_up = _block(_all_of(in_work[0], "warm-up", words), frame.warm_up, 0.8 * calm, calm, 0)
    prospects = tuple(
        Prospect(
            plan.riff.title,
            riff_tempo([one.theta for one in own]),
            riff_tempo([one.candidate.after(some) for one, some in zip(own, each, strict=True)]),
        )
        for plan, own, each in zip(in_work, drills, shares, strict=True)
    )
    remarks = (*_shorter(asked, minutes, felt), *(words for own in drills if (words := _done(own))))
    return Session(minutes, _with_breaks([warm_up, *worked], frame.breaks), prospects, rates, remarks)


def _shortened(minutes: int, felt: int | None) -> int:
    return minutes if felt not in TIGHT else max(round(minutes * TIGHT[felt]), SHORTEST)


def _worth_it(drills: Sequence[Work]) -> tuple[Work, ...]:
    """The drills that are not clean above the riff's tempo already; all of them where that would be none."""
    left = tuple(drill for drill in drills if drill.theta < SPARE * drill.plan.tempo)
    return left or tuple(drills)


def _done(drills: Sequence[Work]) -> str:
    """What there is to say of a riff that is clean above its tempo already."""
    plan, slowest = drills[0].plan, min(drill.theta for drill in drills)
    if slowest < SPARE * plan.tempo or not any(drill.climb.answers for drill in drills):
        return ""
    title = plan.riff.title or "This riff"
    return f"{title} is clean above its tempo of {plan.tempo:.0f} already: set a faster one, or take another riff."


def _shorter(asked: int, minutes: int, felt: int | None) -> tuple[str, ...]:
    if minutes == asked:
        return ()
    return (f"The hands feel tight ({felt} of 5), so {minutes} minutes in place of {asked} today.",)


def _all_of(plan: Plan, kind: str, why: str) -> Drill:
    every = Range(0, len(plan.task.steps) - 1)
    return drill_of(plan, every, excerpt(plan, every), why, kind=kind, name="The whole riff")


def _whole(plan: Plan, minutes: int, theta: float, number: int) -> Iterator[Block]:
    """The whole riff at the end: from slow to fast where there is time for it, then as it is to be."""
    if minutes >= WHOLE_MINUTES and len(plan.task.steps) > 1 and minutes - RAMP_MINUTES >= 1:
        words = "From slow to fast without a stop; where it trips is what to practise next."
        drill = _all_of(plan, "ramp", words)
        yield _block(drill, RAMP_MINUTES, RAMP_SHARE * min(theta, plan.tempo), plan.tempo, number)
        minutes -= RAMP_MINUTES
    words, usual = "The whole riff, so that what was corrected finds its place.", min(theta, plan.tempo)
    for own in _pieces(minutes):
        yield _block(_all_of(plan, "whole", words), own, WARM_UP_SHARE * usual, usual, number)


def _pieces(minutes: int) -> list[int]:
    """Minutes in blocks that are not too long."""
    pieces = -(-minutes // MOST_BLOCK)
    return [minutes // pieces + (number < minutes % pieces) for number in range(pieces)]


def _in_order(work: Iterable[tuple[Work, int]]) -> list[tuple[Work, int]]:
    """The slowest first, while the hands are fresh; never too many hard ones for the fretting hand in a row."""
    left = sorted(work, key=lambda pair: (pair[0].theta, pair[0].drill.chosen.first))
    found: list[tuple[Work, int]] = []
    while left:
        last = found[-MOST_FRETTING_IN_A_ROW:]
        tired = len(last) == MOST_FRETTING_IN_A_ROW and all(one.load is LoadKind.FRET for one, _ in last)
        next_one = next((pair for pair in left if not (tired and pair[0].load is LoadKind.FRET)), left[0])
        left.remove(next_one)
        found.append(next_one)
    return found


def _blocks(work: Work, minutes: int, history: History, number: int) -> list[Block]:
    """A drill's minutes: what makes it easier first, where there is time for it, then as it is."""
    drill, why = work.drill, work.drill.why
    eased = _eased(work) if minutes >= APART_FROM else None
    if eased is not None:
        first = minutes // 2
        parts = [(eased, first), (_after_easing(work), minutes - first)]
    else:
        parts = [(_chained(work) if work.climb.stuck else replace(drill, why=f"{why}."), minutes)]
    blocks = []
    for part, own in parts:
        climb = work.climb if part.density == 1 else climb_of(work.plan, part, work.hardest, history)
        blocks.append(_climbed(work.plan, part, own, number, climb))
    return blocks


def _eased(work: Work) -> Drill | None:
    """The easier thing that comes first: the hand that is the trouble alone, fewer changes, a pair of strings.

    None where nothing is easier.
    """
    plan, chosen, why = work.plan, work.drill.chosen, work.drill.why
    ways: list[Callable[[], Drill]] = []
    if work.climb.stuck and work.changes_strings:
        ways.append(
            lambda: sparse_drill(plan, chosen, 2, f"{why}; three times not clean, so half as many string changes.")
        )
    if work.drill.kind == "spot" and not work.climb.stuck:
        if work.load is LoadKind.PICK:
            ways.append(lambda: picking_drill(plan, chosen, why=f"{why}; the picking hand alone first."))
        if work.load is LoadKind.FRET:
            ways.append(lambda: fretting_drill(plan, chosen, f"{why}; the fretting hand alone first."))
        if work.load is LoadKind.SYNC and work.changes_strings:
            ways.append(lambda: pair_drill(plan, work.hardest, f"{why}; its two strings by themselves first."))
    for way in ways:
        try:
            return way()
        except RiffError:
            continue
    return None


def _after_easing(work: Work) -> Drill:
    why = work.drill.why
    if work.climb.stuck:
        return _chained(work)
    return replace(work.drill, why=f"{why}; both hands together again.")


def _chained(work: Work) -> Drill:
    """A smaller piece, not only a slower click: from the spot backward, a note more each time."""
    chosen = work.drill.chosen
    last = max(min(work.hardest, chosen.last), chosen.first + 1)
    words = f"{work.drill.why}; three times not clean in a row, so only its last notes, and one more each time."
    return chain_drill(work.plan, Range(chosen.first, last), words)


def _climbed(plan: Plan, drill: Drill, minutes: int, number: int, climb: Climb) -> Block:
    """A drill from where its player stands up to what is wanted today: the riff's tempo with a little to spare."""
    goal = min(climb.clean_tempo, SPARE * plan.tempo)
    return _block(drill, minutes, min(climb.next_tempo(), goal), goal, number, climb)


def _block(drill: Drill, minutes: int, begin: float, goal: float, number: int, climb: Climb | None = None) -> Block:
    low = _tempo(begin)
    own = replace(drill, minutes=minutes)
    return Block(minutes, drill.kind, drill.why, low, max(_tempo(goal), low), own, number, climb)


def _tempo(tempo: float) -> float:
    return float(round(max(tempo, SLOWEST)))


def _with_breaks(blocks: Sequence[Block], breaks: int) -> tuple[Block, ...]:
    """Put breaks between blocks, each as soon as ten minutes have been played."""
    found: list[Block] = []
    played = 0
    given = 0
    for at, block in enumerate(blocks):
        found.append(block)
        played += block.minutes
        last = at == len(blocks) - 1
        if given < breaks and (played >= BREAK_AFTER or last):
            take = breaks - given if last else BREAK_MINUTES
            pause = Block(take, "break", "Hands down, shake them out, look away.")
            found.insert(len(found) - last, pause)
            given += take
            played = 0
    return tuple(found)


def other_ways(
    plan: Plan, block: Block, history: History | None = None, other: Plan | None = None
) -> tuple[Block, ...]:
    """What could be practised in a block's place: the same passage in every other way that suits it.

    Parameters
    ----------
    plan : Plan
        Of the block's riff.
    block : Block
    history : History or None
    other : Plan or None
        Another plan of the riff, to be played in turn with this one.

    Returns
    -------
    tuple of Block
        Of the same minutes; none for a break.
    """
    if block.drill is None:
        return ()
    known = history or History()
    chosen = block.drill.chosen
    hardest = hardest_step(plan, chosen)
    other_ways = []
    for drill in take_apart(plan, chosen, other).drills:
        if (drill.name, drill.kind) == (block.drill.name, block.kind):
            continue
        climb = climb_of(plan, drill, hardest, known)
        other_ways.append(_climbed(plan, drill, block.minutes, block.riff_number, climb))
    return tuple(other_ways)


def with_block(session: Session, at: int, block: Block) -> Session:
    """The session with another block in a place.

    Parameters
    ----------
    session : Session
    at : int
    block : Block
    """
    return replace(session, blocks=(*session.blocks[:at], block, *session.blocks[at + 1 :]))


def without_block(session: Session, at: int) -> Session:
    """The session with a block left out; the others stay as long as they were."""
    blocks = (*session.blocks[:at], *session.blocks[at + 1 :])
    return replace(session, blocks=blocks, minutes=sum(block.minutes for block in blocks))


def session_of(
    plan: Plan, chosen: Range, history: History | None = None, stumbles_at: float | None = None
) -> Session:
    """A session of one drill: a range that the player wants to practise now.

    Parameters
    ----------
    plan : Plan
    chosen : Range
    history : History or None
    stumbles_at : float or None
        A tempo at which the player has just been heard to stumble there: the ladder is laid round it.
    """
    where = range_words(plan, chosen)
    why = "chosen by you" if stumbles_at is None else f"you stumble at about {stumbles_at:.0f}"
    drill = drill_of(plan, chosen, excerpt(plan, chosen), f"{where}: {why}.")
    hardest = hardest_step(plan, chosen)
    climb = climb_of(plan, drill, hardest, history or History())
    if stumbles_at is not None:
        climb = climb.after(BELOW_A_STUMBLE * stumbles_at, clean=True).after(stumbles_at, clean=False)
    block = _climbed(plan, drill, drill.minutes, 0, climb)
    prospect = Prospect(plan.riff.title, climb.clean_tempo, climb.clean_tempo)
    return Session(block.minutes, (block,), (prospect,))
