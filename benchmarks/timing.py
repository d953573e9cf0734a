"""What several benchmarks use: plans of the demo riffs, and the median time of some work."""

from __future__ import annotations

import time
from collections.abc import Callable
from statistics import median

from dromic.demo.library import demo_riffs
from dromic.hands.profile import hands_named
from dromic.planner.plan import Plan
from dromic.planner.planning import plan_riff
from dromic.planner.request import Request
from dromic.schools.registry import school_named


def planned(number: int) -> Plan:
    """The plan of a demo riff."""
    demo = demo_riffs()[number]
    return plan_riff(demo.riff, Request(hands_named("medium"), school_named(demo.school)))


def seconds(work: Callable[[], object], rounds: int = 7) -> float:
    """Median time of some rounds."""
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return median(times)
