"""The figures of docs/speed.md: ``python -m benchmarks.speed`` measures them in one run and writes the page.

Every figure is a median. What is measured is what the window calls: `Replanner.plans` for plans, locks and edits,
`compare_schools` for the comparison, the real window (offscreen) for keys and frames. *Cold* is a process that has
planned nothing; *known* is a riff that has been planned before, as one is that is planned again with other prices.
Bytecode is compiled before anything is timed.
"""

from __future__ import annotations

import compileall
import gc
import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial
from itertools import pairwise
from pathlib import Path
from statistics import median

import numpy as np

from benchmarks.riffs import refrain, varied_riff, wandering_lick
from dromic.hands.profile import hands_named
from dromic.music.pitch import parse_pitch
from dromic.music.riff import Note, Riff
from dromic.planner.compare import SchoolPlans, compare_schools
from dromic.planner.kernel import COMPILED
from dromic.planner.locking import with_alternative
from dromic.planner.plan import Objective, Plan
from dromic.planner.planning import best_plans_of, plan_riff
from dromic.planner.replanner import Replanner
from dromic.planner.request import Request
from dromic.planner.solving.solution import solve
from dromic.schools.registry import SCHOOLS, school_named
from dromic.schools.school import School

REQUEST = Request(hands_named("medium"), school_named("least-motion"))
PAGE = Path(__file__).resolve().parent.parent / "docs" / "speed.md"
PRICES = 12


@dataclass(frozen=True)
class Row:
    """One figure: what it is, what it was before the kernel, what is to be reached, and what it is."""

    what: str
    before: str
    wanted: str
    now: str


def ms(work: Callable[[], object], rounds: int = 7) -> float:
    """Median time of some work in ms; garbage is collected before, and not meanwhile."""
    times = []
    for _ in range(rounds):
        gc.collect()
        gc.disable()
        start = time.perf_counter()
        work()
        times.append(1000 * (time.perf_counter() - start))
        gc.enable()
    return median(times)


def told(value: float) -> str:
    """A time in words."""
    return f"{value / 1000:.2f} s" if value >= 1000 else f"{value:.0f} ms" if value >= 10 else f"{value:.1f} ms"


def plan(riff: Riff, **asked: object) -> Plan:
    """Plan a riff."""
    return plan_riff(riff, replace(REQUEST, **asked))


def bare_ms(riff: Riff) -> float:
    """The bare NumPy min-plus product over the joint states of a riff, tables given."""
    problem = solve(riff, REQUEST).problem
    sizes = [len(costs) for costs in problem.chain.node_costs]
    chance = np.random.default_rng(1)
    tables = [chance.random((one, two)) for one, two in pairwise(sizes[:201])]

    def product() -> None:
        sums = np.zeros(len(tables[0]))
        for table in tables:
            sums = (sums[:, None] + table).min(axis=0)

    return ms(product) / len(tables) * (len(sizes) - 1)


def in_own_process(code: str) -> str:
    """What a fresh process prints."""
    env = os.environ | {"QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, env=env)
    return done.stdout.strip()


def planning_rows() -> Iterator[Row]:
    """Whole plans."""
    for count, before, wanted in ((64, "22x", "2x"), (1000, "11.5x", "1x")):
        riff = wandering_lick(count)
        plan(riff)
        bare, whole = bare_ms(riff), ms(partial(plan, riff), 5)
        yield Row(
            f"whole plan of {count} notes over the bare dense NumPy min-plus ({told(bare)}); known",
            before,
            wanted,
            f"{whole / bare:.1f}x",
        )
    for count, before, wanted in ((64, "77 ms", "6 ms"), (1000, "0.8 s", "50 ms"), (10_000, "6 s", "0.5 s")):
        riff = wandering_lick(count)
        plan(riff)
        known = ms(partial(plan, riff), 5 if count < 5000 else 3)
        priced = ms(partial(plan, riff, alternatives=PRICES), 3)

        def every(riff: Riff = riff) -> None:
            for event in plan(riff, alternatives=PRICES).events:
                assert event.alternatives or event.step is None

        all_of_them = ms(every, 3)
        code = (
            "import time; from benchmarks.speed import plan, wandering_lick; "
            f"riff = wandering_lick({count}); start = time.perf_counter(); plan(riff); "
            "print(1000 * (time.perf_counter() - start))"
        )
        cold = float(in_own_process(code))
        yield Row(f"plan of {count} notes, known", before, wanted, told(known))
        if count < 5000:
            others = iter([wandering_lick(count, seed=seed) for seed in range(20, 27)])
            another = ms(lambda others=others: plan(next(others)), 7)  # type: ignore[misc]
            yield Row("another riff of as many notes, the player known", "", "", told(another))
        yield Row("the same in a fresh process, cold", "", "", told(cold))
        yield Row(
            f"with every alternative and its ceiling at hand, {count} notes, over the plan",
            "1.5 to 2.2x",
            "2x",
            f"{priced / known:.1f}x; all of them listed {all_of_them / known:.1f}x",
        )
    for chords, before in ((False, "1.5x"), (True, "4.2x")):
        plain, varied = wandering_lick(256), varied_riff(256, chords=chords)
        plan(plain)
        plan(varied)
        ratio = ms(partial(plan, varied), 5) / ms(partial(plan, plain), 5)
        what = "mixed lengths, chromatic, marks" + (", chords" if chords else "")
        yield Row(f"varied riff of 256 notes ({what}) over the plain lick", before, "1.5x", f"{ratio:.1f}x")


def outlier_rows() -> Iterator[Row]:
    """What used to cost many plans."""
    riff = wandering_lick(64)
    thrice = replace(riff, phrases=tuple(replace(one, times=3) for one in riff.phrases))
    plan(riff)
    known = ms(lambda: plan(riff))
    once = ms(lambda: plan(thrice), 5)
    asked: list[tuple[str, Riff, dict[str, object], float]] = [
        ("loop", riff, {"loop": True}, known),
        ("loop, priced", riff, {"loop": True, "alternatives": PRICES}, known),
        ("highest tempo", riff, {"objective": Objective.TEMPO}, known),
        ("highest tempo, priced", riff, {"objective": Objective.TEMPO, "alternatives": PRICES}, known),
        ("highest tempo, loop", riff, {"objective": Objective.TEMPO, "loop": True}, known),
        ("identical repeats, thrice", thrice, {"identical_repeats": True}, once),
        ("identical repeats, priced", thrice, {"identical_repeats": True, "alternatives": PRICES}, once),
        (
            "identical repeats, highest tempo",
            thrice,
            {"identical_repeats": True, "objective": Objective.TEMPO},
            once,
        ),
        ("sparse picking", riff, {"school": school_named("sparse")}, known),
        (
            "sparse picking, loop, priced",
            riff,
            {"school": school_named("sparse"), "loop": True, "alternatives": PRICES},
            known,
        ),
    ]
    for what, own, settings, base in asked:
        plan(own, **settings)
        taken = ms(partial(plan, own, **settings), 3)
        yield Row(f"{what}, 64 notes, over the plan of the same notes", "up to 140x", "5x", f"{taken / base:.1f}x")


def many_plans_rows() -> Iterator[Row]:
    """Comparisons and ranks."""
    for count, before, wanted in ((64, "1.3 s", "40 ms"), (256, "4.4 s", "150 ms")):
        riff = wandering_lick(count)
        compare_schools(riff, REQUEST)
        taken = ms(partial(compare_schools, riff, REQUEST), 3)
        yield Row(f"twelve schools, {count} notes", before, wanted, told(taken))
    for count in (64, 256):
        riff = wandering_lick(count)
        plans, schools = SchoolPlans(), list(SCHOOLS.values())

        def all_schools(riff: Riff, plans: SchoolPlans = plans, schools: Sequence[School] = schools) -> None:
            for school in schools:
                plans.plan(riff, replace(REQUEST, school=school))

        all_schools(riff)
        changed = iter([edited(riff, 1, 3, name) for name in ("C5", "G#4", "A4", "B4")])
        again = ms(lambda all_schools=all_schools, changed=changed: all_schools(next(changed)), 4)  # type: ignore[misc]
        yield Row(f"the same after an edited note, as Compare plans them, {count} notes", "", "", told(again))
    riff = wandering_lick(64)
    yield Row("six best plans, 64 notes", "450 ms", "15 ms", told(ms(lambda: best_plans_of(riff, REQUEST, 6), 3)))


def edited(riff: Riff, bar: int, place: int, name: str) -> Riff:
    """A riff with one note changed."""
    phrase = riff.phrases[0]
    old = phrase.bars[bar]
    event = replace(old.events[place], notes=(Note(parse_pitch(name)),))  # type: ignore[arg-type]
    new = replace(old, events=(*old.events[:place], event, *old.events[place + 1 :]))
    return replace(riff, phrases=(replace(phrase, bars=(*phrase.bars[:bar], new, *phrase.bars[bar + 1 :])),))


def again_rows() -> Iterator[Row]:
    """Plans of a riff that has changed a little."""
    riff, request = wandering_lick(1000), replace(REQUEST, alternatives=8)
    replanner = Replanner()

    def again(riff: Riff, request: Request) -> tuple[float, float, Plan]:
        start = time.perf_counter()
        plans = replanner.plans(riff, request)
        next(plans)
        shown = time.perf_counter() - start
        priced = next(plans)
        return 1000 * shown, 1000 * (time.perf_counter() - start), priced

    _, _, first = again(riff, request)
    changes = {
        "lock": [with_alternative(first, 500, one) for one in first.event_of_step(500).alternatives[:4]],
        "edited note": [edited(riff, 31, 5, name) for name in ("C5", "G#4", "A4", "B4")],
        "other tempo": [riff.at_tempo(tempo) for tempo in (120.0, 125.0, 130.0)],
    }
    for what, riffs in changes.items():
        shown, priced = [], []
        for one in riffs:
            plan_ms, prices_ms, _ = again(one, request)
            shown.append(plan_ms)
            priced.append(prices_ms)
            again(riff, request)
        yield Row(
            f"{what}, 1,000 notes: plan; with prices",
            "1.2 s" if what != "other tempo" else "1.6 s",
            "16 ms; 30 to 120 ms" if what != "other tempo" else "40 ms",
            f"{told(median(shown))}; {told(median(priced))}",
        )
    asked = replace(request, objective=Objective.TEMPO)
    again(riff, asked)
    start, coming = time.perf_counter(), Replanner().plans(riff, asked, first=range(480, 510))
    times = []
    for _ in range(3):
        next(coming)
        times.append(1000 * (time.perf_counter() - start))
    yield Row(
        "highest tempo, 1,000 notes: plan; prices of what shows; all prices", "", "", "; ".join(map(told, times))
    )
    schools = [school_named(name) for name in ("economy", "strict-alternate", "economy", "strict-alternate")]
    times = [again(riff, replace(request, school=school))[0] for school in schools]
    yield Row("other school, 1,000 notes: plan", "1.6 s", "40 ms", told(median(times[2:])))
    riff = refrain(1000)
    anew, _, first = again(riff, request)
    locked = [with_alternative(first, 500, one) for one in first.event_of_step(500).alternatives[:4]]
    figures = [again(one, request)[:2] for one in locked]
    shown, priced = zip(*figures, strict=True)
    yield Row(
        "bars that come back, 1,000 notes: plan of the new riff; after a lock: plan; with prices",
        "",
        "",
        f"{told(anew)}; {told(median(shown))}; {told(median(priced))}",
    )


def memory_rows() -> Iterator[Row]:
    """Memory of a large riff."""
    code = (
        "from pathlib import Path; from benchmarks.speed import plan, wandering_lick; "
        "peak = lambda: int(Path('/proc/self/status').read_text().split('VmHWM:')[1].split()[0]) // 1024; "
        "before = peak(); plan(wandering_lick(10_000), alternatives=12); print(before, peak())"
    )
    before, after = in_own_process(code).split()
    yield Row(
        "peak memory, 10,000 notes priced", "321 MB", "120 MB", f"{after} MB, {before} of them before planning"
    )


def window_rows() -> Iterator[Row]:
    """Keys and frames of the real window."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_DATA_HOME"] = tempfile.mkdtemp()
    code = (
        "import json; from benchmarks.window_speed import window_figures; print(json.dumps(list(window_figures())))"
    )
    for what, before, wanted, value in json.loads(in_own_process(code)):
        yield Row(what, before, wanted, value)
    code = (
        "import time, os; start = time.perf_counter(); from benchmarks.window_speed import first_picture; "
        "first_picture(); print(1000 * (time.perf_counter() - start))"
    )
    times = [float(in_own_process(code)) for _ in range(3)]
    yield Row("window planned and painted, warm start with bytecode", "1.2 s", "0.6 s", told(median(times)))


def yardstick() -> str:
    """How fast this machine is, by something that is not ours."""
    table, sums = np.random.default_rng(1).random((146, 146)), np.zeros(146)
    return told(ms(lambda: [(sums[:, None] + table).min(axis=0) for _ in range(1000)], 5))


def main() -> None:
    """Measure, print and write the page."""
    compileall.compile_dir(str(PAGE.parent.parent / "src"), quiet=1)
    rows: list[Row] = []
    for some in (planning_rows, outlier_rows, many_plans_rows, again_rows, memory_rows, window_rows):
        for row in some():
            rows.append(row)
            print(f"{row.what:90s} {row.before:>12s} {row.wanted:>16s}   {row.now}", flush=True)
    kernel = "compiled" if COMPILED else "in NumPy"
    lines = [
        "# Speed",
        "",
        "Written by `.venv/bin/python -m benchmarks.speed` in one run; every figure is a median. The kernel was "
        f"{kernel}; a thousand bare NumPy min-plus products of 146 by 146 took {yardstick()} on this machine, "
        "which says how fast it was meanwhile. *Before* stands for the program without the kernel, on another "
        "run or machine: compare ratios, not times.",
        "",
        "| what | before | to reach | now |",
        "|---|---|---|---|",
        *(f"| {row.what} | {row.before} | {row.wanted} | {row.now} |" for row in rows),
        "",
    ]
    own = PAGE.read_text(encoding="utf-8") if PAGE.exists() else ""
    kept = own[own.index("\n## ") :] if "\n## " in own else ""
    PAGE.write_text("\n".join(lines) + kept, encoding="utf-8")
    print(f"written to {PAGE}")


if __name__ == "__main__":
    main()
