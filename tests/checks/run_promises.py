"""What the planner promises, tried on random riffs.

``python -m tests.checks.run_promises --write`` tries many and writes docs/exactness.md; `test_promises.py` tries
a few.
"""

from __future__ import annotations

import argparse
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from math import isclose
from pathlib import Path
from random import Random

from dromic.errors import NoPlanError, RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.formats.rifftext.writer import write_riff_text
from dromic.memory import switched_off
from dromic.planner.locking import decided_in_full, with_alternative
from dromic.planner.plan import Objective, Plan
from dromic.planner.planning import plan_riff
from dromic.planner.replanner import Replanner
from dromic.planner.request import Request
from dromic.planner.told.reasons import model_of, reason_for
from tests.checks.promise_riffs import CHORDS_FROM, Promised, edited, promised

SAME = 1e-9
LOOP = "a loop has a plan whenever the line has one"
PAGE = Path(__file__).parents[2] / "docs" / "exactness.md"
MOST_TRIED, MOST_IN_ROUNDS = 24, 2


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
    steps = list(range(len(plan.states)))
    if any(phrase.times > 1 for phrase in plan.riff.phrases):
        # What holds in several rounds is priced by planning.
        steps = chance.sample(steps, min(len(steps), MOST_IN_ROUNDS))
    offers = [(step, one) for step in steps for one in plan.event_of_step(step).alternatives]
    taken = "what is offered can be taken"
    for step, one in chance.sample(offers, min(len(offers), MOST_TRIED)):
        where = f"step {step}: {one.words}, priced {one.price:.6f}"
        try:
            locked = with_alternative(plan, step, one)
            tried = plan_riff(locked, plain(case.request))
        except NoPlanError as refusal:
            tally.check(taken, False, f"{where}: {refusal}")
            continue
        tally.check(taken, True, "")
        rise = tried.cost - plan.cost
        lines = write_riff_text(locked).splitlines()
        text = f"{where}, costs {rise:.6f}: {' '.join(line for line in lines if '|' in line)}"
        tally.check("a price is what the plan locked to it costs more", abs(rise - one.price) <= SAME, text)
        if one.ceiling is not None and tried.ceiling is not None and case.request.objective is Objective.TEMPO:
            same = abs(tried.ceiling - one.ceiling) <= 10 * SAME * one.ceiling
            tally.check("the ceiling that a choice leaves", same, f"{text}, {one.ceiling} {tried.ceiling}")
        if case.request.objective is Objective.EFFORT:
            tally.check("no lock lowers the cost", rise >= -SAME, text)


def try_reasons(case: Promised, plan: Plan, chance: Random, tally: Tally) -> None:
    """The reasons of all notes add up to the cost."""
    model = model_of(plan)
    total = sum(reason_for(plan, step, model).cost for step in range(len(plan.states)))
    tally.check("reasons add up to the cost", abs(total - plan.cost) <= SAME, f"{total:.6f} for {plan.cost:.6f}")


def try_decided(case: Promised, plan: Plan, chance: Random, tally: Tally) -> None:
    """All choices of a plan locked give the same plan at the same cost."""
    decided = decided_in_full(plan)
    try:
        again = plan_riff(decided, plain(case.request))
    except NoPlanError as refusal:
        tally.check("the plan as it is can be decided", False, str(refusal))
        return
    same = again.states == plan.states and abs(again.cost - plan.cost) <= SAME
    tally.check("the plan as it is can be decided", same, f"{plan.cost:.6f} becomes {again.cost:.6f}")


def replanned(case: Promised, chance: Random, tally: Tally, edits: int = 4) -> None:
    """A riff planned again after each of several edits is the riff planned anew, with nothing taken from before."""
    replanner, text = Replanner(), case.text
    for _ in range(edits):
        try:
            riff = read_riff_text(text).riff
        except RiffError:
            text = edited(text, chance)
            continue
        # What holds in several rounds is priced by planning, note by note, which would take its time here.
        rounds = any(phrase.times > 1 for phrase in riff.phrases)
        request = replace(case.request, alternatives=0 if rounds else 6)
        mine = _told(lambda riff=riff, request=request: list(replanner.plans(riff, request))[-1])  # type: ignore[misc]
        with switched_off():
            theirs = _told(lambda text=text, request=request: plan_riff(read_riff_text(text).riff, request))  # type: ignore[misc]
        tally.check("a riff planned again is the riff planned anew", same_told(mine, theirs), text)
        text = edited(text, chance)


@dataclass(frozen=True)
class Told:
    """All that a plan says: what has to be equal, and amounts, which may differ by rounding."""

    said: object
    amounts: tuple[float, ...] = ()


def same_told(one: Told, other: Told) -> bool:
    """Whether two plans say the same."""
    alike = one.said == other.said and len(one.amounts) == len(other.amounts)
    return alike and all(
        isclose(a, b, rel_tol=1e-7, abs_tol=1e-7) for a, b in zip(one.amounts, other.amounts, strict=True)
    )


def _told(plan: Callable[[], Plan]) -> Told:
    """All that a plan says, or why there is none."""
    try:
        made = plan()
    except (NoPlanError, RiffError) as refusal:
        return Told(str(refusal))
    others = [one for event in made.events for one in event.alternatives]
    limits = [(one.start, one.end, one.kind, one.text) for one in made.bottlenecks]
    ways = [(one.way, one.ceiling is None) for one in others]
    said = list(made.totals), made.states, made.events, made.warnings, limits, ways
    ceilings = (one.ceiling or 0.0 for one in others)
    return Told(said, (made.cost, *made.totals.values(), *(one.price for one in others), *ceilings))


def tried(seed: int) -> Tally:
    """Try every promise on one riff."""
    tally = Tally()
    case = promised(seed)
    if case is None:
        return tally
    chance = Random(seed)
    try:
        # What holds in several rounds is priced by planning, choice by choice.
        rounds = any(phrase.times > 1 for phrase in case.riff.phrases)
        plan = plan_riff(case.riff, replace(case.request, alternatives=6 if rounds else 40))
    except NoPlanError as refusal:
        if case.request.loop:
            try:
                plan_riff(case.riff, replace(case.request, loop=False))
            except NoPlanError:
                return tally
            tally.check(LOOP, False, str(refusal))
    else:
        if case.request.loop:
            tally.check(LOOP, True, "")
        for promise in (try_prices, try_reasons, try_decided):
            promise(case, plan, chance, tally)
    replanned(case, chance, tally)
    head = " / ".join(case.text.split("\n"))
    tally.broken = [
        (promise, f"seed {seed} ({case.words})\n  {head}\n  {words}") for promise, words in tally.broken
    ]
    return tally


def all_tallies(seeds: Sequence[int], workers: int) -> Iterator[Tally]:
    """Tallies of riffs, worked out in several processes."""
    with ProcessPoolExecutor(workers) as pool:
        yield from pool.map(tried, seeds, chunksize=4)


def page(whole: Tally, riffs: int) -> str:
    """The page of figures."""
    broken = Counter(promise for promise, _ in whole.broken)
    rows = "\n".join(
        f"| {promise} | {count} | {broken[promise]} |" for promise, count in sorted(whole.tried.items())
    )
    return f"""{INTRODUCTION}
Measured on {riffs} riffs with `python -m tests.checks.run_promises --write`:

| promise | tried | broken |
|---|---|---|
{rows}
"""


INTRODUCTION = """# Exactness

What the planner promises, each a property that is tried on random riffs: all schools, hands, objectives, locks,
loops, repeats, limits, swing, odd metres, chords, marks; a fifth of them are chords that are held. The suite tries
a few of them (`tests/checks/test_promises.py`).

- A **price** is what the plan locked to the choice costs more; what is offered can be taken; no lock lowers the
  cost. Where that would need a school to be left, the lock is the exception where it stands, and the plan says
  so.
- The **reasons** of all notes add up to the plan's cost.
- **The plan as it is can be decided**: with everything locked it is the same plan at the same cost. Rounds of a
  phrase that are not played alike are written out.
- **A loop has a plan whenever the line has one**: where one round does not lead back to its start, two do, the
  second with the other strokes; where that cannot be either, the school is left at the seam, and the plan says
  so.
- **A riff planned again is the riff planned anew**, after any edit, with every memory switched off
  (`dromic.memory.switched_off`): states, costs, totals, prices, reports, warnings, refusals.

A phrase that is played in several rounds is decided for all of them at once: what a choice costs there is found by
planning the riff with it, when the note is looked at (up to 400 notes; beyond, its price is that of one round).
"""


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--seeds", type=int, nargs=2, default=(0, 1500))
    parser.add_argument("--workers", type=int, default=2)
    parser.add_argument("--write", action="store_true")
    asked = parser.parse_args()
    whole = Tally()
    first, stop = asked.seeds
    seeds = [*range(first, stop), *range(CHORDS_FROM + first, CHORDS_FROM + first + (stop - first) // 4)]
    for tally in all_tallies(seeds, asked.workers):
        whole.add(tally)
    for promise, words in whole.broken:
        print(f"{promise}: {words}")
    text = page(whole, len(seeds))
    print(text[len(INTRODUCTION) :])
    if asked.write:
        PAGE.write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main()
