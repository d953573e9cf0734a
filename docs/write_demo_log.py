"""Writes the made-up practice log of the demo anew: ``.venv/bin/python docs/write_demo_log.py``.

A simulated player practises two demo riffs for six weeks, five days a week, by the sessions and tempi that the
program itself proposes. Picking comes easier to this player than to the usual hands, and grows with practice.
"""

from __future__ import annotations

import gzip
import json
from collections import defaultdict
from datetime import UTC, datetime, timedelta
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from dromic.demo.library import demo_riffs
from dromic.hands.profile import hands_named
from dromic.hands.terms import LoadKind
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.practice.log.exchange import export_log
from dromic.practice.log.history import History
from dromic.practice.log.logbook import Clean, Logbook, Rep
from dromic.practice.movement import plan_hash, riff_hash
from dromic.practice.passages.drill_climb import DrillClimb
from dromic.practice.passages.take_apart import hardest_step
from dromic.practice.session.candidates import climb_of
from dromic.practice.session.session import Block, session_for
from dromic.practice.tempo.ladder import Range, range_ceiling
from dromic.schools.registry import school_named

OUT = Path(__file__).parent.parent / "src" / "dromic" / "demo" / "practice-log.json.gz"
RIFFS = ("kiln-stairs", "lamplighter")
WEEKS, DAYS_A_WEEK, MINUTES = 6, 5, 20
BEGINS_AT, EDGE, GROWTH, TAU, FORGETTING = 0.5, 0.08, 0.038, 5.0, 0.003
PICKING_EASIER, UNMARKED, PAUSE_S = 1.1, 0.08, 9.0
FIRST_DAY = datetime(2026, 1, 5, 17, 40, tzinfo=UTC)
NOTES = {
    4: "new pick, thinner",
    11: "tired, stopped at the break",
    19: "the skip feels smaller now",
    26: "with gain",
}


class Player:
    """Hands that are made up: what they play clean grows with minutes, and shrinks a little with days."""

    def __init__(self) -> None:
        self.chance = np.random.default_rng(7)
        self.grown: dict[tuple[str, Range], float] = defaultdict(float)

    def clean(self, plan: Plan, block: Block, tempo: float) -> bool:
        """Whether a repetition comes off."""
        assert block.drill is not None
        theta = self._theta(plan, block.drill.chosen)
        if len(plan.states) - 1 == block.drill.chosen.last - block.drill.chosen.first:
            # The whole is a little worse than its worst part.
            whole = block.drill.chosen
            parts = [one for title, one in self.grown if title == plan.riff.title and one != whole]
            theta = 0.96 * min((self._theta(plan, one) for one in parts), default=theta)
        theta *= 1.12 if block.kind in ("picking", "fretting") else 1.0
        theta *= block.density**0.15
        return bool(self.chance.random() < 1 / (1 + np.exp(-(np.log(theta) - np.log(tempo)) / EDGE)))

    def _theta(self, plan: Plan, chosen: Range) -> float:
        picks = plan.event_of_step(hardest_step(plan, chosen)).loads.kind is LoadKind.PICK
        begins = BEGINS_AT * (range_ceiling(plan, chosen) or plan.tempo) * (PICKING_EASIER if picks else 0.96)
        return begins * float(np.exp(self.grown[plan.riff.title, chosen]))

    def practised(self, plan: Plan, block: Block) -> None:
        """What a block leaves behind."""
        assert block.drill is not None
        self.grown[plan.riff.title, block.drill.chosen] += GROWTH * (1 - np.exp(-block.minutes / TAU))

    def slept(self, days: int) -> None:
        """What days take."""
        for name in self.grown:
            self.grown[name] = max(self.grown[name] - FORGETTING * days, 0.0)


def practised(plans: list[Plan], player: Player) -> list[Rep]:
    """Six weeks of repetitions."""
    reps: list[Rep] = []
    for day in range(WEEKS * DAYS_A_WEEK):
        now = FIRST_DAY + timedelta(
            days=day // DAYS_A_WEEK * 7 + day % DAYS_A_WEEK, minutes=int(player.chance.integers(0, 90))
        )
        player.slept(3 if day % DAYS_A_WEEK == 0 else 1)
        history = History(reps, now)
        # One riff a day, both at the end of the week.
        own = plans if day % DAYS_A_WEEK == DAYS_A_WEEK - 1 else [plans[day % 2]]
        felt = int(player.chance.choice([1, 2, 2, 3]))
        for block in session_for(own, MINUTES, history).blocks:
            end = now + timedelta(minutes=block.minutes)
            if block.drill is not None and block.kind not in ("warm-up", "ramp"):
                plan = own[block.riff_number]
                reps += played(plan, block, player, history, now, end, felt, NOTES.get(day, ""))
                player.practised(plan, block)
            now = end
    return reps


def played(
    plan: Plan, block: Block, player: Player, history: History, now: datetime, end: datetime, felt: int, note: str
) -> list[Rep]:
    """One block: repetition after repetition by the climb, until its minutes are over."""
    drill = block.drill
    assert drill is not None
    climb = climb_of(plan, drill, hardest_step(plan, drill.chosen), history)
    state = DrillClimb(plan.tempo, {drill.density: climb}, drill.density, bursts=False)
    reps: list[Rep] = []
    bars = sum(len(phrase.bars) for phrase in drill.riff.phrases)
    while now < end:
        rung = state.next_rung()
        clean = player.clean(plan, block, rung.tempo)
        seconds = round(bars * float(plan.riff.meter.bar) * 60 / rung.tempo, 1)
        marked = player.chance.random() > UNMARKED
        reps.append(
            Rep(
                now,
                round(rung.tempo, 1),
                drill.keys,
                riff_hash(plan.riff),
                plan_hash(plan),
                f"{plan.riff.title}: {drill.where}",
                block.kind,
                drill.density,
                seconds,
                (Clean.CLEAN if clean else Clean.NOT) if marked else Clean.UNMARKED,
                felt=felt if not reps else None,
                note=note if not reps else "",
                uid=f"demo-{riff_hash(plan.riff)}-{now.isoformat()}",
            )
        )
        if marked:
            state = state.after(rung, clean=clean)
        now += timedelta(seconds=seconds + PAUSE_S)
    return reps


def main() -> None:
    """Write the log."""
    demos = {demo.name: demo for demo in demo_riffs()}
    plans = [
        plan_riff(demos[name].riff, Request(hands_named("medium"), school_named(demos[name].school)))
        for name in RIFFS
    ]
    reps = practised(plans, Player())
    with TemporaryDirectory() as folder:
        log = Logbook(Path(folder) / "log.sqlite")
        log.add(reps)
        export_log(log, Path(folder) / "log.json")
        log.close()
        rows = json.loads((Path(folder) / "log.json").read_text(encoding="utf-8"))
    # No time of writing in it, so that the same log is the same file.
    OUT.write_bytes(gzip.compress(json.dumps(rows, separators=(",", ":")).encode(), mtime=0))
    print(f"{len(reps)} repetitions, {OUT.stat().st_size} bytes")


if __name__ == "__main__":
    main()
