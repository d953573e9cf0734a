"""What the planner promises, tried on random riffs.

``python -m tests.checks.run_promises --write`` tries many and writes docs/exactness.md; `test_promises.py` tries
a few.
"""

from __future__ import annotations

import argparse
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from random import Random

from dromic.errors import NoPlanError
from dromic.formats.rifftext_writer import write_riff_text
from dromic.planner.locking import decided_in_full, with_alternative
from dromic.planner.plan import Objective, Plan
from dromic.planner.planning import plan_riff
from dromic.planner.reasons import model_of, reason_for
from dromic.planner.request import Request
from tests.checks.promise_riffs import Promised, promised

SAME = 1e-9
MOST_TRIED = 24


@dataclass
class Tally:
    """How often each promise was tried, and what broke it."""

    tried: Counter[str] = field(default_factory=Counter)
    broken: list[tuple[str, str]] = field(default_factory=list)

    def add(self, other: Tally) -> None:
        """Add another tally."""
        self.tried += other.tried
        self.broken += other.broken

    def check(self, promise: str, kept: bool, words: str) -> None:
        """Count one try."""
        self.tried[promise] += 1
        if not kept:
            self.broken.append((promise, words))


def plain(request: Request) -> Request:
    """The request without prices."""
    return replace(request, alternatives=0)


def try_prices(case: Promised, plan: Plan, chance: Random, tally: Tally) -> None:
    """A price is what the plan locked to it costs more; what is offered can be taken; no lock saves anything."""
    offers = [(step, one) for step in range(len(plan.states)) for one in plan.event_of_step(step).alternatives]
    for step, one in chance.sample(offers, min(len(offers), MOST_TRIED)):
        where = f"step {step}: {one.words}, priced {one.price:.6f}"
        try:
            locked = with_alternative(plan, step, one)
            tried = plan_riff(locked, plain(case.request))
        except NoPlanError as refusal:
            tally.check("what is offered can be taken", False, f"{where}: {refusal}")
            continue
        tally.check("what is offered can be taken", True, "")
        rise = tried.cost - plan.cost
        lines = write_riff_text(locked).splitlines()
        text = f"{where}, costs {rise:.6f}: {' '.join(line for line in lines if '|' in line)}"
        repeated = any(phrase.times > 1 for phrase in plan.riff.phrases) and not case.request.identical_repeats
        if repeated:
            # What is decided of a phrase holds in every pass, and so costs at least what it costs in one.
            if case.request.objective is Objective.EFFORT:
                tally.check("price in one pass", rise >= one.price - SAME, text)
        else:
            tally.check("price", abs(rise - one.price) <= SAME, text)
        if case.request.objective is Objective.EFFORT:
            tally.check("no lock lowers the cost", rise >= -SAME, text)


def try_reasons(case: Promised, plan: Plan, chance: Random, tally: Tally) -> None:
    """The reasons of all notes add up to the cost."""
    model = model_of(plan)
    total = sum(reason_for(plan, step, model).cost for step in range(len(plan.states)))
    tally.check("reasons add up", abs(total - plan.cost) <= SAME, f"{total:.6f} for {plan.cost:.6f}")


def try_decided(case: Promised, plan: Plan, chance: Random, tally: Tally) -> None:
    """All choices of a plan locked give the same plan at the same cost."""
    decided = decided_in_full(plan)
    try:
        again = plan_riff(decided, plain(case.request))
    except NoPlanError as refusal:
        tally.check("the plan can be decided", False, str(refusal))
        return
    same = again.states == plan.states and abs(again.cost - plan.cost) <= SAME
    tally.check("the plan can be decided", same, f"{plan.cost:.6f} becomes {again.cost:.6f}")


def tried(seed: int) -> Tally:
    """Try every promise on one riff."""
    tally = Tally()
    case = promised(seed)
    if case is None:
        return tally
    chance = Random(seed)
    try:
        plan = plan_riff(case.riff, replace(case.request, alternatives=40))
    except NoPlanError as refusal:
        if case.request.loop:
            try:
                plan_riff(case.riff, replace(case.request, loop=False))
            except NoPlanError:
                return tally
            tally.check("a loop has a plan", False, str(refusal))
    else:
        if case.request.loop:
            tally.check("a loop has a plan", True, "")
            if plan.task.swapped:
                tally.tried["loops in two rounds"] += 1
        for promise in (try_prices, try_reasons, try_decided):
            promise(case, plan, chance, tally)
    head = " / ".join(case.text.split("\n"))
    tally.broken = [
        (promise, f"seed {seed} ({case.words})\n  {head}\n  {words}") for promise, words in tally.broken
    ]
    return tally


def all_tallies(seeds: range, workers: int) -> Iterator[Tally]:
    """Tallies of riffs, worked out in several processes."""
    with ProcessPoolExecutor(workers) as pool:
        yield from pool.map(tried, seeds, chunksize=4)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--seeds", type=int, nargs=2, default=(0, 1000))
    parser.add_argument("--workers", type=int, default=2)
    asked = parser.parse_args()
    whole = Tally()
    for tally in all_tallies(range(*asked.seeds), asked.workers):
        whole.add(tally)
    for promise, words in whole.broken:
        print(f"{promise}: {words}")
    broken = Counter(promise for promise, _ in whole.broken)
    for promise, count in sorted(whole.tried.items()):
        print(f"{promise}: {broken[promise]} of {count} broken")


if __name__ == "__main__":
    main()
