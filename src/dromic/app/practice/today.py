"""What today's session is made of: the plans of the riffs in work, the log, and the session laid out from them.

Plain Python without Qt; done in a thread.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from dromic.app.jobs import Watch
from dromic.app.log.keeper import LogKeeper
from dromic.errors import DromicError, RiffError
from dromic.formats.project import KeptPlan, Project
from dromic.formats.rifftext.reader import read_riff_text
from dromic.music.riff import Riff
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.practice.log.history import History
from dromic.practice.log.rates import fitted_rates
from dromic.practice.passages.density import DENSITIES, with_density
from dromic.practice.passages.drill import Drill
from dromic.practice.passages.drill_climb import DrillClimb, Rule
from dromic.practice.passages.excerpt import excerpt, request_like
from dromic.practice.passages.take_apart import hardest_step
from dromic.practice.session.candidates import climb_of
from dromic.practice.session.care import cautions
from dromic.practice.session.session import Block, Session, session_for, session_of
from dromic.practice.tempo.climb import Climb
from dromic.practice.tempo.ladder import Range

_DENSER = frozenset({"spot", "join", "pair"})


@dataclass(frozen=True)
class Today:
    """A session with what it was made from.

    Parameters
    ----------
    session : Session
    plans : tuple of Plan
        One a riff, as the session numbers them.
    history : History
    cautions : tuple of str
    trouble : str
        Why the log could not be read, if it could not.
    other : Plan or None
        The plan of the first riff that the player saved last, to be played in turn with the present one.
    """

    session: Session
    plans: tuple[Plan, ...]
    history: History
    cautions: tuple[str, ...]
    trouble: str = ""
    other: Plan | None = None


@dataclass(frozen=True)
class Asked:
    """What a session is wanted for.

    Parameters
    ----------
    plan : Plan
        Of the riff that is open.
    others : tuple of Project
        Further riffs in work.
    minutes : int
    felt : int or None
    saved : KeptPlan or None
        The plan of the riff that is open that the player saved last.
    """

    plan: Plan
    others: tuple[Project, ...] = ()
    minutes: int = 30
    felt: int | None = None
    saved: KeptPlan | None = None


def lay_out(asked: Asked, log: LogKeeper, watch: Watch) -> Iterator[Today]:
    """Work out a session.

    Parameters
    ----------
    asked : Asked
    log : LogKeeper
    watch : callable
        Called with the share of the work that is done; what it raises ends it.
    """
    plans = [asked.plan]
    for number, project in enumerate(asked.others):
        watch(number / (len(asked.others) + 1))
        plans.append(_planned(project, watch))
    history, trouble = _history(log)
    session = session_for(plans, asked.minutes, history, rates=fitted_rates(history.reps), felt=asked.felt)
    told = dict.fromkeys(words for plan in plans for words in cautions(plan, asked.minutes))
    other = _planned(asked.saved, watch) if asked.saved is not None else None
    yield Today(session, tuple(plans), history, tuple(told), trouble, other)


def _planned(one: Project | KeptPlan, watch: Watch) -> Plan:
    """The plan of a riff that lies somewhere, as its player wanted it."""
    request = replace(one.plan_settings.request(), alternatives=0)
    return plan_riff(read_riff_text(one.text).riff, request, watch=watch)


def lay_out_drill(plan: Plan, chosen: Range, log: LogKeeper, stumbles_at: float | None = None) -> Today:
    """A session of one range of a plan, round a tempo at which the player stumbles where that is known.

    Parameters
    ----------
    plan : Plan
    chosen : Range
    log : LogKeeper
    stumbles_at : float or None
    """
    history, trouble = _history(log)
    return Today(session_of(plan, chosen, history, stumbles_at), (plan,), history, cautions(plan), trouble)


def _history(log: LogKeeper) -> tuple[History, str]:
    """What the log says, or why it cannot be read: practising goes on without what was before."""
    try:
        return log.history(), ""
    except DromicError as error:
        return History(), f"The log cannot be read, so the session goes by the plan alone: {error}"


@dataclass(frozen=True)
class Prepared:
    """A block ready to be played: its small riff planned at every density, and what is known of the player.

    Parameters
    ----------
    block : Block
    plans : dict of int to Plan
        By density.
    climb : DrillClimb
    """

    block: Block
    plans: dict[int, Plan]
    climb: DrillClimb


def prepare(
    block: Block, source: Plan, history: History, rule: Rule, bursts: bool, watch: Watch
) -> Iterator[Prepared]:
    """Plan a block's riff, and its versions with fewer string changes.

    Parameters
    ----------
    block : Block
    source : Plan
    history : History
    rule : Rule
    bursts : bool
    watch : callable
        Called with the share of the work that is done; what it raises ends it.

    Raises
    ------
    DromicError
        When the small riff has no plan.
    """
    drill = block.drill
    assert drill is not None
    plans: dict[int, Plan] = {}
    climbs: dict[int, Climb] = {}
    for density, riff in _riffs(drill, source):
        watch(len(plans) / len(DENSITIES))
        try:
            made = plan_riff(riff, request_like(source), watch=watch)
        except DromicError:
            if density == drill.density:
                raise
            continue
        plans[density] = made
        if density == drill.density and block.climb is not None:
            climbs[density] = block.climb
        else:
            like = replace(drill, density=density, ceiling=made.ceiling or drill.ceiling)
            climbs[density] = climb_of(source, like, hardest_step(source, drill.chosen), history)
    yield Prepared(block, plans, DrillClimb(source.tempo, climbs, drill.density, rule, bursts))


def _riffs(drill: Drill, source: Plan) -> Iterator[tuple[int, Riff]]:
    yield drill.density, drill.riff
    if drill.kind not in _DENSER:
        return
    whole = drill.riff if drill.density == 1 else excerpt(source, drill.chosen)
    for density in DENSITIES:
        if density == drill.density:
            continue
        try:
            yield density, with_density(whole, density)
        except RiffError:
            continue
