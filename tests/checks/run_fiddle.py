"""Plan every monophonic tune of the fiddle collection, and write the figures to docs/fiddle.md.

    .venv/bin/python -m tests.checks.run_fiddle [--every N]

Takes some minutes on two cores. What is checked of each tune is in `checked`; a broken rule is named and the
command ends with status 1.
"""

from __future__ import annotations

import argparse
import os
import sys
import time
from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from multiprocessing import Pool
from pathlib import Path

from rich.progress import track

from dromic.errors import DromicError
from dromic.hands.profile import hands_named
from dromic.music.riff import Riff, Style
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import school_named
from tests.checks.fiddle import at_the_places_of, paths, tune

PAGE = Path(__file__).parents[2] / "docs" / "fiddle.md"


@dataclass(frozen=True)
class Outcome:
    """What came of one tune."""

    title: str
    meter: str = ""
    notes: int = 0
    why_not: str = ""
    broken: tuple[str, ...] = ()
    ceilings: dict[str, float] = field(default_factory=dict)
    cleared: dict[str, float] = field(default_factory=dict)
    seconds: float = 0.0
    reaches: bool = False
    highest_position: int = 0
    bars_up: float = 0.0


FIRST_POSITIONS = 2
HIGHEST_BY_THE_NUT = 69


def _up_the_neck(plan: Plan) -> tuple[int, float]:
    """The highest position over fretted notes, and the share of bars that leave the first two."""
    rows = [
        (event.moment.bar, event.position or 0)
        for event in plan.events
        if event.step is not None and any(note.fret for note in event.notes)
    ]
    bars = {bar for bar, _ in rows}
    up = {bar for bar, position in rows if position > FIRST_POSITIONS}
    return max(position for _, position in rows), len(up) / len(bars)


def _plan(riff: Riff, school: str) -> Plan:
    return plan_riff(riff, Request(hands_named("medium"), school_named(school), style=Style.BLUEGRASS))


def checked(path: str) -> Outcome:
    """Plan a tune under the schools that play such tunes, and check what they promise."""
    read = tune(path)
    if read.riff is None:
        return Outcome(read.title, why_not=read.why_not)
    riff, started = read.riff, time.perf_counter()
    pulse = "jig" if riff.meter.compound else "pulse-alternate"
    try:
        plans = {school: _plan(riff, school) for school in (pulse, "economy", "least-motion")}
        plans["strict-alternate"] = _plan(at_the_places_of(plans["economy"]), "strict-alternate")
    except DromicError as error:
        return Outcome(read.title, str(riff.meter), broken=(f"no plan: {error}",))
    seconds = time.perf_counter() - started
    broken = []
    for event in plans[pulse].events:
        on_beat = (event.moment.beat - 1) % event.moment.meter.beat == 0
        if event.step is not None and on_beat and str(event.stroke) != "down":
            broken.append(f"{event.moment.place_words} is no down under {pulse}")
    cleared = {school: plan.totals["strings_cleared"] for school, plan in plans.items()}
    if cleared["economy"] > cleared["strict-alternate"]:
        broken.append("economy clears more strings than strict alternate at the same places")
    least = plans["least-motion"].cost
    broken += [f"{name} costs less than least motion" for name, plan in plans.items() if plan.cost < least - 1e-9]
    ceilings = {("pulse" if school == pulse else school): plan.ceiling or 0.0 for school, plan in plans.items()}
    cleared["pulse"] = cleared.pop(pulse)
    kept = _up_the_neck(plans[pulse])
    pitches = [note.pitch for event in plans["economy"].events for note in event.notes]
    reaches = max(pitches) <= HIGHEST_BY_THE_NUT
    return Outcome(
        read.title,
        str(riff.meter),
        len(plans["economy"].states),
        "",
        tuple(broken),
        ceilings,
        cleared,
        seconds,
        reaches,
        *kept,
    )


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--every", type=int, default=1, metavar="N", help="only every Nth tune, and no page")
    every = parser.parse_args(arguments).every
    wanted = paths()[::every]
    with Pool(os.cpu_count()) as pool:
        outcomes = list(track(pool.imap(checked, wanted, chunksize=4), "planning", total=len(wanted)))
    page = written(outcomes)
    print(page)
    for one in outcomes:
        for rule in one.broken:
            print(f"{one.title}: {rule}", file=sys.stderr)
    if every == 1:
        PAGE.write_text(page)
    return int(any(one.broken for one in outcomes))


def written(outcomes: Sequence[Outcome]) -> str:
    """The page of figures."""
    planned = [one for one in outcomes if not one.why_not]
    left_out = Counter(one.why_not for one in outcomes if one.why_not)
    rows: dict[str, list[Outcome]] = defaultdict(list)
    for one in planned:
        rows[one.meter].append(one)
    failed = sum(any(rule.startswith("no plan") for rule in one.broken) for one in planned)
    lines = [
        "# A collection of fiddle tunes, planned",
        "",
        "Every monophonic tune of Ryan's Mammoth Collection (1883, public domain), as the music21 package carries",
        "it, read as guitar music (an octave down), in standard tuning, at 160 quarter notes a minute, by medium",
        "hands. Written by",
        "`.venv/bin/python -m tests.checks.run_fiddle`.",
        "",
        f"- {len(outcomes)} tunes; {len(planned)} planned; left out: "
        + (", ".join(f"{number} ({why})" for why, number in left_out.items()) or "none"),
        f"- without a plan: {failed}",
        f"- rules broken: {sum(len(one.broken) for one in planned) - failed}. The rules: every beat starts with a",
        "  down under pulse alternate (in compound metres under jig); economy clears no more strings than strict",
        "  alternate at the same places; least effort costs no more than any school.",
        f"- notes: {sum(one.notes for one in planned)}, the longest tune {max(one.notes for one in planned)}",
        *_first_position(planned),
        "",
        "Medians by metre; *pulse* is pulse alternate, or jig in compound metres; strict alternate is planned at",
        "economy's places. Plans are those of least effort, not of the highest ceiling.",
        "",
        "| metre | tunes | notes | ceiling: pulse | economy | strict | least motion "
        "| cleared a note: pulse | economy | strict |",
        "|---|---|---|---|---|---|---|---|---|---|",
    ]
    for meter, some in sorted(rows.items(), key=lambda row: -len(row[1])):
        good = [one for one in some if one.ceilings]
        ceilings = [_median([one.ceilings[name] for one in good]) for name in _NAMES]
        each = [_median([one.cleared[name] / one.notes for one in good]) for name in _NAMES[:3]]
        lines.append(
            f"| {meter} | {len(some)} | {_median([one.notes for one in good]):.0f} | "
            + " | ".join(f"{one:.0f}" for one in ceilings)
            + " | "
            + " | ".join(f"{one:.2f}" for one in each)
            + " |"
        )
    return "\n".join(lines) + "\n"


def _first_position(planned: Sequence[Outcome]) -> list[str]:
    """Lines on how many tunes stay by the nut."""
    good = [one for one in planned if one.ceilings]
    within = [one for one in good if one.reaches]
    stay = sum(one.highest_position <= FIRST_POSITIONS for one in within)
    beyond = [one for one in good if not one.reaches]
    bars = _median([one.bars_up for one in beyond])
    share = stay / max(len(within), 1)
    return [
        f"- first position: {len(within)} tunes go no higher than A on the first string, fifth fret; of these",
        f"  {stay} ({share:.0%}) stay in first and second position throughout. Of the {len(beyond)} higher ones",
        f"  half leave them in {bars:.0%} of their bars or fewer. Under pulse alternate or jig.",
    ]


_NAMES = ("pulse", "economy", "strict-alternate", "least-motion")


def _median(values: Sequence[float]) -> float:
    ordered = sorted(values)
    return ordered[len(ordered) // 2] if ordered else 0.0


if __name__ == "__main__":
    sys.exit(main())
