"""How well six factors are fitted: ``.venv/bin/python -m tests.checks.run_six_factors [--players N] [--write]``.

Simulated players with planted factors practise drills of six riffs as the program climbs them; the limits of five
riffs that they never played are foretold. ``--write`` writes the figures to docs/practice.md.
"""

from __future__ import annotations

import argparse
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from dromic.practice.log.history import History
from dromic.practice.log.movement_times import movement_times
from dromic.practice.log.six_factors import COMMON_SD, OWN_SD, six_factors
from tests.helpers import not_none
from tests.listening.material import material
from tests.practice.test_progress import START, climbed

PRACTISED = ("sixteenths", "skips", "shifts", "legato", "rolls", "fast")
HELD_OUT = ("triplets", "repeats", "kiln-stairs", "glass-ladder", "lamplighter")
PAGE = Path(__file__).parents[2] / "docs" / "practice.md"
FIRST = 5_000


def one_player(seed: int) -> tuple[list[bool], list[bool], list[float], list[float]]:
    """Whether intervals hold factors and limits, and how far limits are off, fitted and as they were."""
    chance = np.random.default_rng(seed)
    true = np.exp(OWN_SD * chance.standard_normal(6) + COMMON_SD * chance.standard_normal())
    practised = [material()[name] for name in PRACTISED]
    found = not_none(six_factors(practised, History(climbed(practised, true, seed), START)))
    factors = [bool(one.low < real < one.high) for one, real in zip(found.told, true, strict=True)]
    limits, fitted, before = [], [], []
    for name in HELD_OUT:
        plan = material()[name]
        real = float(movement_times(plan).ceilings(true).min())
        low, middle, high = found.ceiling(plan)
        limits.append(low < real < high)
        fitted.append(abs(float(np.log(middle / real))))
        before.append(abs(float(np.log(not_none(plan.ceiling) / real))))
    return factors, limits, fitted, before


def main() -> None:
    """Run the players and say what came of it."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--players", type=int, default=60)
    parser.add_argument("--write", action="store_true")
    options = parser.parse_args()
    with ProcessPoolExecutor() as pool:
        rows = list(pool.map(one_player, range(FIRST, FIRST + options.players)))
    factors, limits, fitted, before = (np.array([row[at] for row in rows]) for at in range(4))
    lines = [
        "| what | figure | goal |",
        "|---|---|---|",
        f"| players | {options.players} | |",
        f"| limits of riffs not practised, off by, median | {100 * np.median(fitted):.1f} % | 5 % |",
        f"| the same, 90th percentile | {100 * np.quantile(fitted, 0.9):.1f} % | |",
        f"| with the hands as they were, median | {100 * np.median(before):.1f} % | |",
        f"| 90 % intervals that hold the factor | {100 * factors.mean():.0f} % | 86 to 94 % |",
        f"| 90 % intervals that hold the limit | {100 * limits.mean():.0f} % | 86 to 94 % |",
    ]
    print("\n".join(lines))
    if options.write:
        text = PAGE.read_text(encoding="utf-8")
        start, end = text.index("<!-- factors -->"), text.index("<!-- end factors -->")
        PAGE.write_text(
            text[:start] + "<!-- factors -->\n" + "\n".join(lines) + "\n" + text[end:], encoding="utf-8"
        )


if __name__ == "__main__":
    main()
