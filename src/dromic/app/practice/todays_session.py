"""Today's session while it is looked at, changed and played; it announces every change. Plain Python without Qt."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from enum import Enum, auto

from dromic.app.jobs import Watch
from dromic.app.practice.run import GuidedRun
from dromic.app.practice.today import Today
from dromic.demo.library import DemoRiff
from dromic.errors import RiffError
from dromic.hands.profile import hands_named
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.practice.movement import riff_hash
from dromic.practice.passages.elsewhere import Elsewhere, same_figure
from dromic.practice.session.session import Block, other_ways, with_block, without_block
from dromic.practice.session.smaller import smaller_block
from dromic.schools.registry import school_named

EASY_SHARE = 0.6
Found = tuple[int, Block, tuple[Elsewhere, ...]]


class SessionChange(Enum):
    """What has changed."""

    SESSION = auto()
    PLAYED_BLOCK = auto()


class TodaysSession:
    """The session of the day: its blocks, which of them is looked at, and what is played of it.

    Attributes
    ----------
    today : Today or None
        None while there is nothing to practise.
    at : int
        The block that is looked at.
    run : GuidedRun or None
        The session that is played.
    """

    def __init__(self) -> None:
        self.today: Today | None = None
        self.at = 0
        self.run: GuidedRun | None = None
        self._ways: tuple[int, list[Block]] | None = None
        self._listeners: list[Callable[[SessionChange], None]] = []

    def listen(self, heard: Callable[[SessionChange], None]) -> None:
        """Have a function called after every change."""
        self._listeners.append(heard)

    def _announce(self, change: SessionChange) -> None:
        for heard in self._listeners:
            heard(change)

    @property
    def block(self) -> Block | None:
        """The block that is played, or else looked at."""
        if self.run is not None:
            return self.run.block
        return None if self.today is None else self.today.session.blocks[self.at]

    @property
    def source(self) -> Plan | None:
        """The plan of the riff that the block is of."""
        if self.run is not None:
            return self.run.source
        block = self.block
        return None if self.today is None or block is None else self.today.plans[block.riff_number]

    def take(self, today: Today | None) -> None:
        """Take a session that has been laid out; its first block that is played is looked at."""
        self.today, self._ways, self.at = today, None, 0
        if today is not None:
            played = (at for at, one in enumerate(today.session.blocks) if one.kind not in ("warm-up", "break"))
            self.at = next(played, 0)
            self._announce(SessionChange.SESSION)

    def choose(self, at: int) -> None:
        """Look at a block."""
        if self.today is None or not 0 <= at < len(self.today.session.blocks):
            return
        if at != self.at:
            self._ways = None
        self.at = at
        self._announce(SessionChange.SESSION)

    def start(self, felt: int | None) -> GuidedRun | None:
        """Begin to play it.

        Parameters
        ----------
        felt : int or None
            How tight the hands feel.
        """
        if self.today is None:
            return None
        self._ways = None
        self.run = GuidedRun(self.today.session, self.today.plans)
        if felt is not None:
            self.run.feels(felt)
        return self.run

    def drop(self) -> None:
        """Leave the block that is looked at out, unless it is the last one."""
        today = self.today
        if today is not None and len(today.session.blocks) > 1:
            self.today = replace(today, session=without_block(today.session, self.at))
            self._ways = None
            self.choose(min(self.at, len(self.today.session.blocks) - 1))

    def other_way(self) -> None:
        """Practise the block's passage in the next other way that suits it.

        Raises
        ------
        RiffError
            When there is none.
        """
        today, block, source = self.today, self.block, self.source
        if today is None or block is None or source is None or block.drill is None:
            return
        at = self.run.at if self.run is not None else self.at
        if self._ways is None or self._ways[0] != at:
            other = today.other if not block.riff_number else None
            self._ways = at, [*other_ways(source, block, today.history, other), block]
        ways = self._ways[1]
        if len(ways) < 2:
            raise RiffError("There is no other way to practise this passage")
        ways.append(ways.pop(0))
        self._put(at, ways[-1])

    def smaller(self) -> None:
        """Go on with a smaller piece of the block that is played."""
        if self.run is not None:
            self._put(self.run.at, smaller_block(self.run.source, self.run.block))

    def _put(self, at: int, block: Block) -> None:
        """Another block in a place, in the session that is looked at or played."""
        if self.run is not None:
            self.run.replace_block(block)
            self._announce(SessionChange.PLAYED_BLOCK)
        elif self.today is not None:
            self.today = replace(self.today, session=with_block(self.today.session, at, block))
            self.choose(at)

    def search(self, riffs: Sequence[DemoRiff]) -> Callable[[Watch], Iterator[Found]] | None:
        """What looks for the same figure in other riffs, to be done in a thread; None where there is no drill.

        Parameters
        ----------
        riffs : sequence of DemoRiff
            Where to look beside the riffs in work.
        """
        today, block, source, at = self.today, self.block, self.source, self.at
        if today is None or block is None or source is None or block.drill is None:
            return None
        drill = block.drill
        known = {riff_hash(plan.riff): plan for plan in today.plans}

        def searched(watch: Watch) -> Iterator[Found]:
            library = list(known.values())
            for number, demo in enumerate(riffs):
                watch(number / len(riffs))
                if riff_hash(demo.riff) not in known:
                    request = Request(hands_named("medium"), school_named(demo.school))
                    library.append(plan_riff(demo.riff, request, watch=watch))
            yield at, block, same_figure(drill, source, library)

        return searched

    def take_found(self, found: Found) -> str:
        """Practise the figure where it was found to be easiest, and return what is to be said of it."""
        (at, block, elsewhere), today = found, self.today
        if today is None or at >= len(today.session.blocks) or today.session.blocks[at] is not block:
            # The session is another by now.
            return ""
        if not elsewhere:
            return "No riff here has this figure with less to do"
        best = elsewhere[0]
        plans = (*today.plans, best.plan)
        self.today = replace(today, plans=plans)
        goal = min(best.drill.ceiling, best.plan.tempo)
        made = replace(
            block,
            kind="spot",
            drill=best.drill,
            reason=best.drill.why,
            riff_number=len(plans) - 1,
            climb=None,
            tempo_from=round(EASY_SHARE * goal),
            tempo_to=round(goal),
        )
        back = other_ways(today.plans[block.riff_number], block, today.history)
        self._put(at, made)
        self._ways = at, [block, *back, made]
        return f"In {best.plan.riff.title or 'another riff'}, {best.drill.where}; W goes back"
